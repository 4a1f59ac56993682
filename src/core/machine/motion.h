// How long a machine takes: speeds that change no faster than it can accelerate, and corners taken as slowly as it must.
//
// Each move's speed follows a trapezoid; moves join at the speed at which a circle that strays from the corner by the
// machine's corner deviation would be gone round with its acceleration: v2 = a d sin(t/2) / (1 - sin(t/2)) for moves that meet at
// an angle t (180 degrees: straight on), a rule of open-source motion firmware. Arcs go no faster than v2 = a r.
// Unit: mm, seconds.
#pragma once

#include "machine/track.h"

namespace yokai {

struct Move {
    double length = 0;
    double speed = 0;      // asked for, mm/s
    Point heading, leaves; // unit vectors where it begins and ends
    double radius = std::numeric_limits<double>::infinity();
};

// Of moves that follow each other without a stop; it stands still before and after.
double secondsOf(std::span<const Move> moves, const MotionSpec& motion);

// As fast as a machine goes that knows no more than so many moves at a time and must be able to stop within them: short ones hold it back.
// 16, as small controllers with open-source motion firmware have (from memory).
constexpr std::size_t movesAhead = 16;
void holdBack(std::span<Move> moves, const MotionSpec& motion);

// A track's moves at a speed.
std::vector<Move> movesOf(const Track& track, double speed);

} // namespace yokai
