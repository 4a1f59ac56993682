// What lies under a place of a piece's layer: its parts by their shapes, its lines by how near they
// run. Made once a result, off the window's thread; asked at every move of the pointer.
//
// Unit: mm in the picture, y down.
#pragma once

#include "job/derived.h"

#include <optional>

namespace yokai {

class HitIndex {
public:
    HitIndex(const PieceResult& piece, const LayerResult& layer, const Work& work = {});

    // The innermost part or opening round the place, as an index into Parts::all; failing that the
    // one whose box comes nearest, within `reach`; else -1.
    int partAt(Point at, double reach) const;

    struct OnLine {
        std::size_t line = 0; // of the layer's
        double distance = 0;
    };
    std::optional<OnLine> lineAt(Point at, double reach) const; // the nearest within reach
    double distanceTo(std::size_t line, Point at) const;        // signed, positive outside it; large where there is none
    bool covers(Point at) const;                                // whether it is on it: within a line or a kept part

private:
    struct Shape {
        Polyline points;
        Rect box;
    };
    bool within(const std::vector<Shape>& shapes, Point at) const;
    std::shared_ptr<const Parts> parts_;
    std::shared_ptr<const Contours> edge_;
    double pxPerMm_ = 1;
    std::vector<std::vector<Shape>> lines_; // flattened, a list a line
    std::vector<std::vector<int>> cells_;   // parts whose box touches a cell of a square grid
    int across_ = 0, down_ = 0;
    double cell_ = 1;
};

} // namespace yokai
