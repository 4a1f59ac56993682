// A plan as the words of a machine's own dialect. One file a dialect.
#pragma once

#include "base/file.h"
#include "formats/drawing.h"
#include "machine/plan.h"

#include <string>
#include <vector>

namespace yokai {

struct Program {
    Dialect dialect = Dialect::Gcode;
    std::vector<std::string> lines;
    std::vector<std::size_t> done; // a run of the plan each: it is finished when so many lines are done,
    std::vector<double> doneBy;    // and so many seconds after the beginning
    double seconds = 0;            // all of it
    std::vector<std::string> raise = {}; // what brings the tool up and the burn out, whatever was said before
};

// As Program::raise, of a machine.
std::vector<std::string> raisingOf(const Machine& machine);

// How a program is run to see where it will cut: on a laser with next to no power, of all others with the tool up.
enum class Trial { No, Faint };
constexpr double faintPower = 0.5; // percent: common practice, shows on paper and card and cuts neither

// Words of RS-274/NGC (NIST IR 6556), with M3 or M4 and S for a tool that has a power, as open-source motion firmware takes
// them. Feeds are in the program's units a minute, arcs have their middles in I and J.
Program gcodeOf(const Plan& plan, Trial trial = Trial::No);

// For plotters with a knife: pens by operation, with them speed (VS, cm/s) and force (FS, gram); 40 units a mm. A faint pass is one with the
// tool up.
constexpr double hpglUnitsAMm = 40;
Program hpglOf(const Plan& plan, Trial trial = Trial::No);

// In the dialect of the machine it was planned for.
Program programOf(const Plan& plan, Trial trial = Trial::No);

// Along a line on the bed and back to where it begins, with the tool up; in the machine's dialect, and in each.
Program runRound(const Machine& machine, const Polyline& line, Speed speed);
Program runRoundGcode(const Machine& machine, const Polyline& line, Speed speed);
Program runRoundHpgl(const Machine& machine, const Polyline& line, Speed speed);
Bytes textOf(const Program& program);

// The G-code of a drawing, by its own machine and material.
Bytes writeGcode(const Drawing& drawing, Content content, const Work& work);

} // namespace yokai
