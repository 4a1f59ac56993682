// The formats a drawing can be written in. One folder a format, and its line in the table.
#pragma once

#include "base/file.h"
#include "formats/drawing.h"

#include <filesystem>
#include <span>
#include <string_view>

namespace yokai {

struct Format {
    const char* extension; // with its dot: ".pdf"
    bool images;           // whether it can hold pictures
    Bytes (*write)(const Drawing& drawing, Content content, const Work& work);
    Bytes (*writeAll)(std::span<const Drawing> sheets, Content content, const Work& work) = nullptr; // null: a file is one sheet
};

std::span<const Format> formats();
const Format* formatOf(std::string_view fileName); // by its extension, in any case; null: none

// A file of it, with the printer's stretch made good and the cuts in the order they are cut in (machine/cutting_order.h).
Bytes written(const Format& format, const Drawing& drawing, Content content, const Work& work = {});
// One file of all sheets; only of a format that has pages.
Bytes writtenAsPages(const Format& format, std::span<const Drawing> sheets, Content content, const Work& work = {});

// NAME-1.svg, NAME-2.svg, ... where there is more than one sheet.
std::filesystem::path fileOfSheet(const std::filesystem::path& file, int sheet, int sheets);

} // namespace yokai
