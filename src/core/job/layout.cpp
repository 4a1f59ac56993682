#include "job/steps/layout.h"

#include "outline/kept_edge.h"
#include "path/united.h"

#include <algorithm>

namespace yokai {

namespace {

constexpr double shapeFlatness = 0.002; // mm: far under any gap

// Of the parts that are kept, where no line is cut round them.
std::vector<Polyline> keptRings(const std::vector<ShapeIn::Print>& prints, double pxPerMm)
{
    std::vector<Polyline> out;
    for (const ShapeIn::Print& print : prints)
        for (const Contour& c : print.parts->contours) {
            Polyline& ring = out.emplace_back();
            for (const Point p : c.points)
                ring.push_back(p * (1 / pxPerMm));
        }
    return out;
}

Contours asContours(const std::vector<Polyline>& rings)
{
    Contours out;
    for (const Polyline& ring : rings)
        out.emplace_back().points = ring;
    return out;
}

// No place of the print lies farther from what is cut than the kept edge there does, and how far the print goes beyond it.
double reachOf(const std::vector<Polyline>& rings, const std::vector<ShapeIn::Print>& prints, double pxPerMm, const Work& work)
{
    const KeptEdge cut(asContours(rings), 1);
    double most = 0;
    for (const ShapeIn::Print& print : prints)
        for (const Contour& c : print.parts->contours)
            for (std::size_t k = 0; k < c.points.size(); ++k) {
                constexpr std::size_t look = 1024;
                if (k % look == 0)
                    work.check();
                most = std::max(most, cut.distanceTo(c.points[k] * (1 / pxPerMm)) + print.reach);
            }
    return most;
}

} // namespace

std::shared_ptr<const PieceShape> ShapeIn::make(Run& run) const
{
    PieceShape out;
    bool fallsOut = false; // of an opening: only what is cut through
    for (const Line& line : lines) {
        std::vector<Polyline> rings;
        for (const Path& path : *line.paths)
            if (path.segments.size() > 1)
                rings.push_back(flatten(path, shapeFlatness));
        fallsOut = fallsOut || line.kind == LineKind::Through;
        out.rings = united(out.rings, rings, run.work());
    }
    if (out.rings.empty())
        out.rings = keptRings(prints, pxPerMm);
    else if (!fallsOut)
        std::erase_if(out.rings, [](const Polyline& ring) { return signedArea(ring) < 0; });
    for (const Polyline& ring : out.rings)
        out.area += signedArea(ring);
    out.reach = reachOf(out.rings, prints, pxPerMm, run.work());
    return std::make_shared<const PieceShape>(std::move(out));
}

std::shared_ptr<const Layout> LayoutIn::make(Run& run) const { return std::make_shared<const Layout>(layOut(sheet, pieces, byHand, run.work(), watch)); }

} // namespace yokai
