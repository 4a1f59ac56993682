// Places on paths, and paths cut at them.
#pragma once

#include "path/path.h"

#include <optional>

namespace yokai {

struct PathPlace {
    std::size_t segment = 0;
    double t = 0; // 0..1 along it
    Point at;
};

struct Halves {
    Segment before, after;
};
Halves split(Point from, const Segment& s, double t); // de Casteljau

// A closed path's stretch from one place to another in its order, which may run over its start; an open path.
Path stretchOf(const Path& path, const PathPlace& from, const PathPlace& to);
Path reversed(const Path& path); // drawn the other way; the sign of its area turns

Point startOf(const Path& path, std::size_t segment);
double wayTo(const Path& path, const PathPlace& at); // along the path from its start
// The path with another stretch, an open path, in the place of what runs from one place to another in
// its order. An open path takes it between the two, whichever comes first.
Path withStretch(const Path& path, const PathPlace& from, const PathPlace& to, const Path& stretch);
// The place that lies `way` along a closed path from another, back where it is negative.
PathPlace along(const Path& path, const PathPlace& from, double way);

struct NearestPlace : PathPlace {
    std::size_t path = 0;
    double away = 0;
};
// None of no paths.
std::optional<NearestPlace> nearestPlace(const Paths& paths, Point p);

} // namespace yokai
