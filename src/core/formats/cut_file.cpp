#include "formats/cut_file.h"

#include "base/error.h"
#include "base/text.h"
#include "formats/open_lines.h"

#include <algorithm>
#include <cctype>
#include <cmath>

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

std::vector<double> unitsBeside(double taken)
{
    constexpr double mm = 25.4;
    // A DXF in mm or inches; else points, what older programs took, and what the web takes (common practice).
    std::vector<double> out = taken == mm || taken == 1 ? std::vector{mm, 1.0} : std::vector{72.0, 90.0, cssUnitsAnInch};
    if (std::find(out.begin(), out.end(), taken) == out.end())
        out.push_back(taken);
    return out;
}

std::vector<double> unitsFor(const CutFile& file) { return file.sizeFromFile ? std::vector<double>() : unitsBeside(file.unitsAnInch); }

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

void keepWithinReason(CutFile& file, const std::string& name)
{
    constexpr double farthest = 100'000; // mm
    Drawing& d = file.drawing;
    if (!(d.width > 0 && d.height > 0 && d.width < farthest && d.height < farthest))
        throw Error(ErrorKind::Input, "'{}' is {} mm wide and {} mm high, larger than any sheet; save it at its true size, or say the units of an SVG with --upi", name, plainNumber(d.width, 0),
                    plainNumber(d.height, 0));
    const auto near = [](Point p) { return std::abs(p.x) < farthest && std::abs(p.y) < farthest; };
    const auto far = [&](const CutItem& item) {
        return !near(item.path.start) || std::any_of(item.path.segments.begin(), item.path.segments.end(), [&](const Segment& s) { return !near(s.end) || (!s.line && (!near(s.c1) || !near(s.c2))); });
    };
    const std::size_t left = std::erase_if(d.cuts, far) + std::erase_if(d.marks, [&](const Mark& m) { return !near(m.centre) || !(m.diameter < farthest); });
    if (left > 0)
        file.leftOut.push_back("what lies far off the page");
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
