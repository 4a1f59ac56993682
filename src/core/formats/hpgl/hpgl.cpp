#include "formats/hpgl/hpgl.h"

#include <cmath>

namespace yokai {

namespace {

constexpr double unitsAMm = 40;
constexpr double tolerance = 0.004; // mm, well under a unit

struct Place {
    long x = 0, y = 0;
    bool operator==(const Place&) const = default;
};

std::string text(Place p) { return std::to_string(p.x) + "," + std::to_string(p.y); }

void append(std::string& out, const Path& path, double height)
{
    Polyline points = flatten(path, tolerance);
    if (points.size() < 2)
        return;
    if (path.closed)
        points.push_back(points.front());
    const auto placeOf = [&](Point p) { return Place{std::lround(p.x * unitsAMm), std::lround((height - p.y) * unitsAMm)}; };
    Place at = placeOf(points.front());
    out += "PU" + text(at) + ";PD";
    bool first = true;
    for (std::size_t k = 1; k < points.size(); ++k) {
        const Place next = placeOf(points[k]);
        if (next == at && !(first && k + 1 == points.size()))
            continue;
        out += (first ? "" : ",") + text(next);
        first = false;
        at = next;
    }
    out += ";\n";
}

} // namespace

Bytes writeHpgl(const Drawing& d, Content content, const Work& work)
{
    std::string out = "IN;\n";
    // A pen is taken once: a plotter that stops for each change stops no oftener than there are kinds.
    for (const LineKind kind : content == Content::Print ? std::vector<LineKind>() : kindsOf(d.cuts)) {
        out += "SP" + std::to_string(facts(kind).pen) + ";\n";
        for (const CutItem& item : d.cuts)
            if (item.kind == kind) {
                work.check();
                for (const Path& path : cutsOf(item))
                    append(out, path, d.height);
            }
    }
    out += "PU;SP0;\n";
    return {out.begin(), out.end()};
}

} // namespace yokai
