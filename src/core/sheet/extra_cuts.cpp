#include "sheet/extra_cuts.h"

#include <algorithm>
#include <cmath>

namespace yokai {

namespace {

Path line(Point from, Point to)
{
    Path path;
    path.closed = false;
    path.start = from;
    path.lineTo(to);
    return path;
}

// Along one axis: the middles of the strips that no box covers, and the boxes before and between them.
struct Split {
    std::vector<double> at;
    std::vector<std::vector<Rect>> boxes;
};
Split splitOf(std::vector<Rect> boxes, double Rect::*from, double Rect::*to)
{
    std::sort(boxes.begin(), boxes.end(), [&](const Rect& a, const Rect& b) { return a.*from < b.*from; });
    Split out;
    double reached = 0;
    for (const Rect& box : boxes) {
        constexpr double touching = 1e-6; // mm
        if (out.boxes.empty() || box.*from > reached + touching) {
            if (!out.boxes.empty())
                out.at.push_back((reached + box.*from) / 2);
            out.boxes.emplace_back();
        }
        reached = out.boxes.back().empty() ? box.*to : std::max(reached, box.*to);
        out.boxes.back().push_back(box);
    }
    return out;
}

void part(const Rect& area, std::vector<Rect> boxes, bool across, int failed, Parting& out)
{
    if (boxes.size() < 2)
        return;
    if (failed > 1) {
        out.together += boxes.size();
        return;
    }
    const Split split = across ? splitOf(std::move(boxes), &Rect::y0, &Rect::y1) : splitOf(std::move(boxes), &Rect::x0, &Rect::x1);
    for (const double at : split.at)
        out.cuts.push_back(across ? std::pair(Point{area.x0, at}, Point{area.x1, at}) : std::pair(Point{at, area.y0}, Point{at, area.y1}));
    for (std::size_t k = 0; k < split.boxes.size(); ++k) {
        Rect within = area;
        (across ? within.y0 : within.x0) = k == 0 ? (across ? area.y0 : area.x0) : split.at[k - 1];
        (across ? within.y1 : within.x1) = k == split.at.size() ? (across ? area.y1 : area.x1) : split.at[k];
        part(within, split.boxes[k], !across, split.at.empty() ? failed + 1 : 0, out);
    }
}

// What of a straight cut keeps clear of the marks, piece by piece.
std::vector<std::pair<Point, Point>> clearOfMarks(Point from, Point to, const std::vector<Mark>& marks)
{
    const double whole = distance(from, to);
    const Point along = unit(to - from);
    std::vector<std::pair<double, double>> taken; // of the way
    for (const Mark& mark : marks) {
        const double at = dot(mark.centre - from, along), off = std::abs(cross(along, mark.centre - from)), clear = clearOf(mark);
        if (off < clear)
            taken.emplace_back(at - std::sqrt(clear * clear - off * off), at + std::sqrt(clear * clear - off * off));
    }
    std::sort(taken.begin(), taken.end());
    std::vector<std::pair<Point, Point>> out;
    double at = 0;
    const auto add = [&](double end) {
        constexpr double shortest = 1; // mm: less is no cut
        if (end - at > shortest)
            out.emplace_back(from + along * at, from + along * end);
    };
    for (const auto& [begin, end] : taken) {
        add(std::min(begin, whole));
        at = std::max(at, end);
    }
    add(whole);
    return out;
}

// A rectangle's corners, held within an area.
Path heldWithin(const Rect& area, const Rect& r, const Affine& map = {})
{
    std::vector<Point> corners;
    for (const Point p : {Point{r.x0, r.y0}, {r.x1, r.y0}, {r.x1, r.y1}, {r.x0, r.y1}}) {
        const Point at = map(p);
        corners.push_back({std::clamp(at.x, area.x0, area.x1), std::clamp(at.y, area.y0, area.y1)});
    }
    return polygonPath(corners);
}

} // namespace

double clearOf(const Mark& mark)
{
    constexpr double beside = 1; // mm: what a cut may land off, and some paper about the mark
    return mark.diameter / 2 + beside;
}

Parting partingCuts(const Rect& area, std::vector<Rect> boxes)
{
    Parting out;
    part(area, std::move(boxes), true, 0, out);
    return out;
}

ExtraCutsMade extraCuts(const SheetSpec& spec, const Layout& layout, int sheet, std::span<const Rect> boxes)
{
    const ExtraCuts& cuts = spec.cuts;
    const double margin = spec.margin.mm(), gap = cuts.boxGap.mm();
    const Rect area{margin, margin, layout.width - margin, layout.height - margin};
    ExtraCutsMade out;
    std::vector<Rect> copies;
    Rect all = Rect::nothing();
    for (const Placement& place : layout.on(sheet)) {
        const Rect& box = boxes[place.at];
        const std::size_t copy = copies.size();
        copies.push_back(mapped(place.toSheet, box));
        all.add(copies.back());
        if (cuts.slit)
            out.cuts.push_back({cuts.slitKind, line(place.toSheet({box.x0, box.centre().y}), place.toSheet({box.x1, box.centre().y})), copy});
        if (cuts.boxEach)
            out.cuts.push_back({cuts.boxKind, heldWithin(area, box.grown(gap), place.toSheet), copy});
    }
    if (cuts.boxAll && !copies.empty())
        out.cuts.push_back({cuts.boxKind, heldWithin(area, all.grown(gap)), {}});
    if (cuts.separate) {
        const Parting parting = partingCuts(area, copies);
        out.together = parting.together;
        for (const auto& [from, to] : parting.cuts)
            for (const auto& [begin, end] : clearOfMarks(from, to, layout.marks))
                out.cuts.push_back({LineKind::Through, line(begin, end), {}});
    }
    if (cuts.notch) {
        const double size = cuts.notchSize.mm();
        out.cuts.push_back({LineKind::Through, line({0, size}, {size, 0}), {}});
    }
    if (cuts.trim)
        out.cuts.push_back({LineKind::Through, heldWithin(area, area), {}});
    return out;
}

} // namespace yokai
