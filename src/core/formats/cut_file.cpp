#include "formats/cut_file.h"

#include "formats/open_lines.h"

#include <algorithm>
#include <cctype>

namespace yokai {

namespace {

// What an outermost outline holds is one copy; open lines that lie in none are one each.
void tellCopies(CutItems& items, const Work& work)
{
    std::vector<Polyline> outlines(items.size());
    std::vector<double> areas(items.size());
    for (std::size_t i = 0; i < items.size(); ++i) {
        outlines[i] = flatten(items[i].path, 0.05);
        areas[i] = items[i].path.closed ? std::abs(signedArea(items[i].path)) : 0;
    }
    nest(items, work);
    int copies = 0;
    std::vector<std::size_t> outermost;
    for (std::size_t i = 0; i < items.size(); ++i)
        if (items[i].depth == 0) {
            items[i].copy = copies++;
            outermost.push_back(i);
        }
    for (std::size_t i = 0; i < items.size(); ++i) {
        if (items[i].depth == 0)
            continue;
        for (const std::size_t o : outermost)
            if (areas[o] > areas[i] && contains(outlines[o], items[i].path.start)) {
                items[i].copy = items[o].copy;
                break;
            }
    }
    const std::vector<int> depths = depthsOf(
        items, [](const CutItem& round, const CutItem& inner) { return round.kind == inner.kind; }, work);
    for (std::size_t i = 0; i < items.size(); ++i)
        items[i].opening = items[i].path.closed && depths[i] % 2 == 1;
}

} // namespace

std::string endingOf(const std::filesystem::path& path)
{
    std::string end = path.extension().string();
    std::transform(end.begin(), end.end(), end.begin(), [](unsigned char c) { return char(std::tolower(c)); });
    return end;
}

void addMark(std::vector<Mark>& marks, const Path& path)
{
    const bool bracket = !path.closed && path.segments.size() == 2;
    const Rect box = bounds(path);
    const Point centre = bracket ? path.segments.front().end : box.centre();
    constexpr double same = 0.01; // mm
    for (const Mark& m : marks)
        if (distance(m.centre, centre) < same)
            return;
    marks.push_back({centre, std::max(box.width(), box.height()), false, bracket ? MarkStyle::Brackets : path.closed ? MarkStyle::Dots : MarkStyle::Crosses});
}

std::vector<double> unitsFor(const CutFile& file)
{
    if (file.sizeFromFile)
        return {};
    constexpr double mm = 25.4;
    // A DXF in mm or inches; else points, what older programs took, and what the web takes (common practice).
    return file.unitsAnInch == mm ? std::vector{mm, 1.0} : std::vector{72.0, 90.0, cssUnitsAnInch};
}

void takeUnits(CutFile& file, double unitsAnInch)
{
    const double k = file.unitsAnInch / unitsAnInch;
    for (CutItem& item : file.drawing.cuts)
        item.path = transformed(item.path, Affine::scale(k, k));
    for (Mark& mark : file.drawing.marks) {
        mark.centre = mark.centre * k;
        mark.diameter *= k;
    }
    file.drawing.width *= k;
    file.drawing.height *= k;
    file.unitsAnInch = unitsAnInch;
}

bool isCutFile(const std::filesystem::path& path)
{
    const std::string ending = endingOf(path);
    return ending == ".svg" || ending == ".dxf" || ending == ".pdf" || ending == ".eps";
}

CutFile openCutFile(const std::filesystem::path& path, double unitsAnInch, const Work& work, int page)
{
    if (!isCutFile(path))
        throw Error(ErrorKind::Usage, "'{}' is no cut file that is read; give an .svg, a .dxf, a .pdf, an .eps or a .yokai job", path.string());
    const Bytes bytes = readFile(path);
    const std::string ending = endingOf(path), name = path.string();
    CutFile file = ending == ".svg"   ? readSvg(bytes, name, unitsAnInch, work)
                   : ending == ".pdf" ? readPdf(bytes, name, page, work)
                   : ending == ".eps" ? readEps(bytes, name, work)
                                      : readDxf(bytes, name, work);
    joinOpenLines(file.drawing.cuts);
    if (file.drawing.cuts.empty())
        throw Error(ErrorKind::Input, "there is no line to cut in '{}'; draw its lines as paths", path.string());
    tellCopies(file.drawing.cuts, work);
    file.drawing.title = path.stem().string();
    return file;
}

} // namespace yokai
