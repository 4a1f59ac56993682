// A plan in G-code: words of RS-274/NGC (NIST IR 6556), with M3 or M4 and S for a tool that has a power, as open-source motion
// firmware takes them. Feeds are in the program's units a minute, arcs have their middles in I and J.
#pragma once

#include "base/file.h"
#include "formats/drawing.h"
#include "machine/plan.h"

#include <string>
#include <vector>

namespace yokai {

struct Program {
    std::vector<std::string> lines;
    std::vector<std::size_t> done; // a run each: so many lines are sent when it is finished
};

Program gcodeOf(const Plan& plan);
Bytes gcodeText(const Plan& plan);

// The program of a drawing, by its own machine and material.
Bytes writeGcode(const Drawing& drawing, Content content, const Work& work);

} // namespace yokai
