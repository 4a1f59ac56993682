#include "formats/format.h"

#include "formats/dxf/dxf.h"
#include "formats/eps/eps.h"
#include "formats/hpgl/hpgl.h"
#include "formats/pdf/pdf.h"
#include "formats/png/png.h"
#include "formats/program/program.h"
#include "formats/svg/svg.h"
#include "machine/cutting_order.h"

#include <algorithm>
#include <cctype>

namespace yokai {

std::span<const Format> formats()
{
    static constexpr Format all[] = {{".svg", true, writeSvg},  {".pdf", true, writePdf, writePdfOfAll},  {".eps", true, writeEps},
                                     {".dxf", false, writeDxf}, {".plt", false, writeHpgl}, {".png", true, writePng}, {".gcode", false, writeGcode}};
    return all;
}

const Format* formatOf(std::string_view fileName)
{
    const auto same = [](char a, char b) { return std::tolower(static_cast<unsigned char>(a)) == b; };
    for (const Format& f : formats()) {
        const std::string_view end = f.extension;
        if (fileName.size() > end.size() && std::equal(end.begin(), end.end(), fileName.end() - std::ptrdiff_t(end.size()), [&](char e, char c) { return same(c, e); }))
            return &f;
    }
    return nullptr;
}

namespace {

// As a file of this content has it: moved as the printer stretches, and its cuts in the order they are cut in.
Drawing forFile(const Drawing& drawing, Content content, const Work& work)
{
    Drawing out = forContent(drawing, content);
    if (content != Content::Print)
        out.cuts = orderedForCutting(std::move(out.cuts), out.plan.operations, out.plan.byOperation, work);
    return out;
}

} // namespace

Bytes written(const Format& format, const Drawing& drawing, Content content, const Work& work) { return format.write(forFile(drawing, content, work), content, work); }

Bytes writtenAsPages(const Format& format, std::span<const Drawing> sheets, Content content, const Work& work)
{
    std::vector<Drawing> drawings;
    for (const Drawing& sheet : sheets)
        drawings.push_back(forFile(sheet, content, work));
    return format.writeAll(drawings, content, work);
}

std::filesystem::path fileOfSheet(const std::filesystem::path& file, int sheet, int sheets)
{
    if (file.empty() || sheets < 2)
        return file;
    std::filesystem::path path = file;
    path.replace_filename(path.stem().string() + "-" + std::to_string(sheet + 1) + path.extension().string());
    return path;
}

} // namespace yokai
