#include "sheet/extra_cuts.h"

#include <algorithm>

namespace yokai {

namespace {

Path polygon(std::initializer_list<Point> points) { return polygonPath(std::vector<Point>(points)); }

Path rectangle(const Rect& r, const Affine& map = {})
{
    return polygon({map({r.x0, r.y0}), map({r.x1, r.y0}), map({r.x1, r.y1}), map({r.x0, r.y1})});
}

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

void part(const Rect& area, std::vector<Rect> boxes, bool across, int failed, std::vector<std::pair<Point, Point>>& out)
{
    if (boxes.size() < 2 || failed > 1)
        return;
    const Split split = across ? splitOf(std::move(boxes), &Rect::y0, &Rect::y1) : splitOf(std::move(boxes), &Rect::x0, &Rect::x1);
    for (const double at : split.at)
        out.push_back(across ? std::pair(Point{area.x0, at}, Point{area.x1, at}) : std::pair(Point{at, area.y0}, Point{at, area.y1}));
    for (std::size_t k = 0; k < split.boxes.size(); ++k) {
        Rect within = area;
        (across ? within.y0 : within.x0) = k == 0 ? (across ? area.y0 : area.x0) : split.at[k - 1];
        (across ? within.y1 : within.x1) = k == split.at.size() ? (across ? area.y1 : area.x1) : split.at[k];
        part(within, split.boxes[k], !across, split.at.empty() ? failed + 1 : 0, out);
    }
}

} // namespace

std::vector<std::pair<Point, Point>> partingCuts(const Rect& area, std::vector<Rect> boxes)
{
    std::vector<std::pair<Point, Point>> out;
    part(area, std::move(boxes), true, 0, out);
    return out;
}

std::vector<ExtraCut> extraCuts(const SheetSpec& spec, const Layout& layout, int sheet, std::span<const Rect> boxes)
{
    const ExtraCuts& cuts = spec.cuts;
    const double margin = spec.margin.mm(), gap = cuts.boxGap.mm();
    const Rect area{margin, margin, layout.width - margin, layout.height - margin};
    std::vector<ExtraCut> out;
    std::vector<Rect> copies;
    Rect all = Rect::nothing();
    for (const Placement& place : layout.on(sheet)) {
        const Rect& box = boxes[place.at];
        const std::size_t copy = copies.size();
        copies.push_back(mapped(place.toSheet, box));
        all.add(copies.back());
        if (cuts.slit)
            out.push_back({cuts.slitKind, line(place.toSheet({box.x0, box.centre().y}), place.toSheet({box.x1, box.centre().y})), copy});
        if (cuts.boxEach)
            out.push_back({cuts.boxKind, rectangle(box.grown(gap), place.toSheet), copy});
    }
    if (cuts.boxAll && !copies.empty())
        out.push_back({cuts.boxKind, rectangle(all.grown(gap)), {}});
    if (cuts.separate)
        for (const auto& [from, to] : partingCuts(area, copies))
            out.push_back({LineKind::Through, line(from, to), {}});
    if (cuts.notch) {
        const double size = cuts.notchSize.mm();
        out.push_back({LineKind::Through, line({0, size}, {size, 0}), {}});
    }
    if (cuts.trim)
        out.push_back({LineKind::Through, rectangle(area), {}});
    return out;
}

} // namespace yokai
