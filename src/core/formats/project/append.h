// A large job saved by what has changed: a new job.json and a new list of entries are written behind the old ones, the
// pictures stay where they are. Until the last byte is there the file ends in something that is no list, and what is found
// going back from the end is the list before: the job as it was. (ZIP's structure: APPNOTE 6.3, 4.3.)
// Private to the project format.
#pragma once

#include "base/file.h"

#include <cstdint>
#include <map>
#include <optional>
#include <string>

namespace yokai::project {

// Where the last whole list of entries ends: the length of the file as it was after the last save that came to its end.
// None: there is no such list.
std::optional<std::uint64_t> wholeLength(const std::filesystem::path& path);

// False, and nothing done: the file is small, is not such a file, lacks one of the pictures (name and bytes), or holds so much
// that is no longer used that it should be written anew. Throws Error(Output); the file is then as it was.
bool appendJob(const std::filesystem::path& path, const std::string& json, const std::map<std::string, std::uint64_t>& pictures);

} // namespace yokai::project
