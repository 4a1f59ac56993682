#include "formats/format.h"

#include "formats/dxf/dxf.h"
#include "formats/pdf/pdf.h"
#include "formats/svg/svg.h"

#include <algorithm>
#include <cctype>

namespace yokai {

std::span<const Format> formats()
{
    static constexpr Format all[] = {{".svg", true, writeSvg}, {".pdf", true, writePdf}, {".dxf", false, writeDxf}};
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

} // namespace yokai
