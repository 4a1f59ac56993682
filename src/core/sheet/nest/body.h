// A piece's shape as nesting handles it: how far any place lies from it, and places along its
// outline to ask that of in others.
//
// Unit: mm. A body's own coordinates have (0, 0) in the middle of its box.
#pragma once

#include "outline/kept_edge.h"

#include <memory>
#include <numbers>
#include <vector>

namespace yokai::nesting {

constexpr double tau = 2 * std::numbers::pi; // a whole turn

struct Pose {
    Point at;        // of the body's middle
    double turn = 0; // radians, clockwise on a sheet with y down
    bool mirror = false;
    Affine map() const
    {
        const double c = std::cos(turn), s = std::sin(turn), m = mirror ? -1 : 1;
        return {c * m, s * m, -s, c, at.x, at.y};
    }
    bool operator==(const Pose&) const = default;
};

// Of a map that does nothing else but mirror, turn and move: where it puts a body with this middle.
Pose poseOf(const Affine& map, Point middle);

class Body {
public:
    // Closed polygons, even-odd: what nothing else may lie on. `reach`: how far its print runs on
    // past them. Distances are known as far as `far` mm outside. No rings: never placed.
    Body(std::vector<Polyline> rings, double reach, double far);

    const std::vector<Polyline>& rings() const { return rings_; }
    std::size_t vertices() const { return vertices_; }
    Point middle() const { return middle_; } // in the coordinates the rings were given in
    const Rect& box() const { return box_; } // its own coordinates
    double area() const { return area_; }
    double radius() const { return radius_; } // of the circle about the middle that holds it
    double outline() const { return outline_; } // its length
    double reach() const { return reach_; }
    const KeptEdge& edge() const { return *edge_; } // exact, where the field below is not

    const std::vector<Point>& samples() const { return samples_; }
    double share() const { return share_; } // of the outline that each sample stands for, mm
    // Neighbours in a disc: where the disc is clear, they are.
    struct Group {
        Point at;
        double radius = 0;
        std::size_t first = 0, count = 0; // among the samples
    };
    const std::vector<Group>& groups() const { return groups_; }

    // The signed distance, outside positive, interpolated, and its slope; nothing beyond `far`.
    struct Reading {
        double away;
        Point slope;
    };
    bool read(Point p, Reading& out) const
    {
        Cell cell;
        if (!find(toCells()(p), cell))
            return false;
        out = {cell.away(), slope(cell)};
        return true;
    }
    // The same in two goes, for those who read many and want few slopes: places in cells of the field.
    Affine toCells() const { return {perStep_, 0, 0, perStep_, -field_.x0 * perStep_, -field_.y0 * perStep_}; }
    struct Cell {
        const float *top, *bottom;
        float fx, fy;
        float away() const
        {
            const float t = top[0] + (top[1] - top[0]) * fx, b = bottom[0] + (bottom[1] - bottom[0]) * fx;
            return t + (b - t) * fy;
        }
    };
    bool find(Point at, Cell& cell) const
    {
        if (!(at.x >= 0 && at.y >= 0 && at.x < lastColumn_ && at.y < lastRow_))
            return false;
        const int x = int(at.x), y = int(at.y);
        const float* row = distances_.data() + y * columns_ + x;
        cell = {row, row + columns_, float(at.x - x), float(at.y - y)};
        return true;
    }
    Point slope(const Cell& c) const
    {
        const float across = (c.top[1] - c.top[0]) * (1 - c.fy) + (c.bottom[1] - c.bottom[0]) * c.fy;
        const float down = (c.bottom[0] - c.top[0]) * (1 - c.fx) + (c.bottom[1] - c.top[1]) * c.fx;
        return {double(across) * perStep_, double(down) * perStep_};
    }

private:
    void sample();
    void group();
    void measure(double far);

    std::vector<Polyline> rings_;
    std::size_t vertices_ = 0;
    Point middle_;
    Rect box_ = Rect::nothing();
    double area_ = 0, radius_ = 0, outline_ = 0, reach_ = 0;
    std::unique_ptr<const KeptEdge> edge_;
    std::vector<Point> samples_;
    double share_ = 0;
    std::vector<Group> groups_;
    Rect field_;
    int columns_ = 0, rows_ = 0;
    double lastColumn_ = 0, lastRow_ = 0; // from which on there is no cell
    double perStep_ = 1;
    std::vector<float> distances_;
};

// The least distance between the outlines of two bodies that do not overlap, and where. A body
// within an opening of the other counts as beside it. Exact; `unless` it is farther than that: then nothing.
struct Apart {
    double distance = 0; // negative: how deep a point of one lies in the other
    Point way;           // the unit vector from the second towards the first, there
};
bool apart(const Body& a, const Pose& poseA, const Body& b, const Pose& poseB, double unless, Apart& out);

} // namespace yokai::nesting
