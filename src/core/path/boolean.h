// Closed paths put together and taken from each other, curves kept as curves.
//
// The outlines are cut where they cross and the pieces that bound the result are joined up again;
// what neither crosses comes out unchanged, node for node. Whether a piece lies within the other
// shape is asked at its middle, by the even-odd rule.
//
// Unit: the caller's, in which a thousandth is nothing. Orientation as in path.h: parts positive, openings negative.
#pragma once

#include "path/cut.h"

#include <optional>

namespace yokai {

enum class Combine { Unite, TakeAway };

// Where two segments meet: how far along each, 0..1.
struct Meeting {
    double onFirst = 0, onSecond = 0;
};
// Crossings of two segments that do not lie on each other. By halving until both are straight
// enough, then Newton's method.
std::vector<Meeting> meetings(Point firstFrom, const Segment& first, Point secondFrom, const Segment& second);

// Open paths of the first stay as they are. None where the pieces do not join up, as of outlines that touch without crossing.
std::optional<Paths> combined(const Paths& a, const Paths& b, Combine how);

} // namespace yokai
