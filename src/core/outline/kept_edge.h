// How far places lie from the edge of what is kept, and where it is nearest.
//
// Unit: mm in the picture; the edge itself is in pixels, as in contour.h.
#pragma once

#include "outline/contour.h"

#include <cstdint>

namespace yokai {

class KeptEdge {
public:
    KeptEdge(const Contours& contours, double pxPerMm);

    struct Nearest {
        double away = 0; // signed, positive outside; exact. Infinite where nothing is kept
        Point at;        // of the edge
        Point out;       // the unit vector out of what is kept, there
    };
    Nearest nearest(Point mm) const;
    double distanceTo(Point mm) const { return nearest(mm).away; }

private:
    struct Side {
        Point from, to;
    };
    struct Cell {
        int x, y;
    };
    Cell cellOf(Point px) const;
    Point middleOf(Cell) const;
    template <class F> void eachCellOf(const Side&, F&& f) const;
    template <class F> void eachSideIn(int column, int row, F&& f) const;
    void sort();
    void findMiddles();
    bool inside(Point px) const;

    double pxPerMm_;
    Rect box_;
    int columns_ = 0, rows_ = 0; // of square cells over the box, about as many as sides
    double cell_ = 1;            // px
    std::vector<Side> sides_;
    std::vector<std::uint32_t> starts_, ids_; // of the sides that touch each cell
    std::vector<char> middles_;               // whether that place of the cell is kept
};

} // namespace yokai
