// What a tool does, in order: strokes of straight moves with the tool down.
//
// Unit: mm on the machine, y up.
#pragma once

#include "machine/cut_item.h"
#include "register/fit.h"

#include <string>
#include <vector>

namespace yokai {

struct Stroke {
    LineKind kind = LineKind::Through;
    Polyline points;
    bool closed = true; // the tool returns to the first point
};

// The items' strokes in cutting order, within `tolerance` mm of the curves, y turned up on a
// sheet of this height.
std::vector<Stroke> strokesOf(CutItems items, double sheetHeight, const Work& work = {}, double tolerance = 0.01);

// The strokes moved onto the print.
std::vector<Stroke> moved(const std::vector<Stroke>& strokes, const Homography& map);

// The lines of a program for a motion controller in RS-274/NGC words (NIST IR
// 6556): G21 mm, G90 absolute, G0 with the tool up, G1 with it down, M3 down,
// M5 up. `feed` in mm a minute.
std::vector<std::string> gcodeOf(const std::vector<Stroke>& strokes, double feed = 1200);

} // namespace yokai
