#include "bleed/drift.h"

#include <algorithm>
#include <cmath>

namespace yokai {

Drift driftAt(Point at, double fromArtwork, double fromPrint, Border border)
{
    constexpr double onTheEdge = 0.01; // mm
    Drift out;
    if (fromPrint < onTheEdge) {
        out.paper = std::max(0.0, -fromPrint);
        out.paperAt = at;
    }
    if (border == Border::Wanted) {
        out.artwork = std::max(0.0, fromArtwork);
        out.artworkAt = at;
    }
    return out;
}

Drift driftOf(const Paths& paths, const KeptEdge& artwork, const KeptEdge& print, Border border, const std::function<bool(Point)>& skip, const Work& work)
{
    constexpr double apart = 0.25; // mm between the places looked at
    Drift out;
    for (const Path& path : paths)
        path.each([&](Point from, const Segment& s) {
            work.check();
            const int steps = std::max(1, int(std::ceil(distance(from, s.end) / apart)));
            for (int k = 0; k < steps; ++k) {
                const Point at = pointOn(from, s, double(k) / steps);
                if (!skip || !skip(at))
                    out.add(driftAt(at, artwork.distanceTo(at), print.distanceTo(at), border));
            }
        });
    return out;
}

} // namespace yokai
