// Whole files, read and written whole. A write goes to a new file beside the
// target, is flushed to the disk and then takes the target's place, so that a
// reader finds either the old file or the new one and never a part.
#pragma once

#include <filesystem>
#include <memory>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace yokai {

using Bytes = std::vector<unsigned char>;
using SharedBytes = std::shared_ptr<const Bytes>;

// Throws Error(Input) with what to do. Refuses folders, devices and files over `most` bytes.
Bytes readFile(const std::filesystem::path& path, std::size_t most = std::size_t(1) << 31);

// How large an ordinary file is that may be read. Throws Error(Input) like readFile.
std::size_t readableSize(const std::filesystem::path& path);

// Ours to write from here on, until the descriptor is closed. Throws Error(Output) where another program has it locked
// (flock(2), or a record lock of fcntl(2)).
void lockToWrite(int descriptor, const std::filesystem::path& path);

// Throws Error(Output). The target keeps its permissions if it exists.
void writeFile(const std::filesystem::path& path, std::span<const unsigned char> data);
void writeFile(const std::filesystem::path& path, std::string_view text);

} // namespace yokai
