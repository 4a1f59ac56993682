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
        const double u = (p.x - field_.x0) * perStep_, v = (p.y - field_.y0) * perStep_;
        if (!(u >= 0 && v >= 0 && u < columns_ - 1 && v < rows_ - 1))
            return false;
        const int x = int(u), y = int(v);
        const float* row = distances_.data() + std::size_t(y) * std::size_t(columns_) + std::size_t(x);
        const double fx = u - x, fy = v - y;
        const double a = row[0], b = row[1], c = row[columns_], d = row[columns_ + 1];
        const double top = a + (b - a) * fx, bottom = c + (d - c) * fx;
        out.away = top + (bottom - top) * fy;
        out.slope = {((b - a) * (1 - fy) + (d - c) * fy) * perStep_, (bottom - top) * perStep_};
        return true;
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
