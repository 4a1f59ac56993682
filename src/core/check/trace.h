// A set of paths as places close together with their normals, found by where they lie: what
// widths are measured on. Private to the check room.
//
// Unit: mm. Normals point out of what the paths enclose.
#pragma once

#include "check/faults.h"

#include <cmath>
#include <optional>
#include <span>

namespace yokai {

enum class Facing { Material, Waste }; // a side of a path

class Trace {
public:
    // The paths at places at most `spacing` apart; `reach`: how far is looked from one.
    Trace(const PathSet& paths, double spacing, double reach);

    struct Place {
        Point at, normal;
        double along = 0; // from the path's start
        int path = 0;
        int fan = 0; // at a corner: the side it stands out to, on which it is seen from all round; 0: not at a corner
    };
    std::span<const Place> places() const { return places_; }

    // The largest ball on a side that touches the path at a place and has no other place in it, of up to
    // `most` in radius; and what stops it. None where it would be larger.
    struct Ball {
        double radius = 0;
        Point centre;
        int other = -1; // an index into places()
    };
    std::optional<Ball> ballAt(int place, Facing side, double most) const;

    // The two places, near those given, between which the way across is shortest: each is the nearest
    // of its stretch to the other. None where the way goes on getting shorter, as in a wedge.
    struct Across {
        Point a, b;
        double width() const { return distance(a, b); }
        Point middle() const { return mix(a, b, 0.5); }
    };
    std::optional<Across> narrowest(int a, int b) const;

    // Visits the places within the reach given to the constructor of p, and perhaps more.
    template <class F> void eachNear(Point p, F visit) const
    {
        const int x = int(std::floor((p.x - box_.x0) / cell_)), y = int(std::floor((p.y - box_.y0) / cell_));
        for (int b = std::max(0, y - 1); b <= std::min(down_ - 1, y + 1); ++b)
            for (int a = std::max(0, x - 1); a <= std::min(across_ - 1, x + 1); ++a) {
                const std::size_t cell = std::size_t(b) * std::size_t(across_) + std::size_t(a);
                for (int i = begin_[cell]; i < begin_[cell + 1]; ++i)
                    visit(order_[std::size_t(i)]);
            }
    }

    // The nearest point to p of the path's two chords at a place.
    Point footAt(Point p, int place) const;

    // How far two places are apart along their path; infinite on different ones.
    double apart(int a, int b) const;
    int next(int place) const;
    int before(int place) const;

private:
    struct Range {
        int first, end;
        double length;
        bool closed;
    };
    struct Foot {
        Point at;
        int place;
    };
    void add(const Path& path, double spacing);
    void fan(Point at, Point in, Point out, double along, int path);
    Foot footNear(Point p, int place) const;
    bool widensFrom(const Foot& p, const Foot& q) const;
    Point onChord(Point p, int a, int b) const;
    std::size_t cellOf(Point p) const;

    std::vector<Place> places_;
    std::vector<Range> ranges_; // of each path
    std::vector<int> begin_, order_; // places by cell
    Rect box_ = Rect::nothing();
    double spacing_, cell_;
    int across_ = 1, down_ = 1;
};

} // namespace yokai
