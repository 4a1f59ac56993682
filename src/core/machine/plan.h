// From what is to be cut to what the tool does: operations in order, lines moved aside by the kerf, moved onto the print,
// begun where it hurts least, with the blade's own way, on a short route, with the time it takes.
//
// Unit: mm on the bed before its user, x to the right, y away; seconds.
#pragma once

#include "engrave/scan.h"
#include "machine/cut_item.h"
#include "machine/plan_spec.h"
#include "machine/track.h"

#include <functional>
#include <span>

namespace yokai {

// Once down, along, and up again.
struct ToolRun {
    int step = 0; // of Plan::steps
    static constexpr int noItem = -1;
    int item = 0; // of the items that were given; noItem: it is a line of an engraving
    int pass = 0;
    Track track; // of what is moved: the pivot, where the tool is a blade that trails; of an engraving with its overscan
    std::shared_ptr<const Scan> scan = nullptr; // whose line it is, where it engraves,
    std::size_t line = 0;                       // and which
    double doneBy = 0; // seconds from the beginning until it is finished
    Track drawnIn = {}; // before it: a blade that was never down is drawn into its heading in the waste; no arcs: it is not
};

struct PlannedStep {
    Operation operation = Operation::OuterThrough;
    std::string name; // of an operation of one's own
    ProcessSettings settings;
    int at = 0;       // its place among the operations that were asked for
    int paths = 0;
    double cut = 0, travel = 0, seconds = 0; // all passes
};

// What of a line a beam's width swallows: it is not cut.
struct LostPath {
    int item = 0;
    Point at;         // on the bed
    double width = 0; // of what is lost, mm
};

struct Plan {
    Machine machine;                // as it was planned for
    std::vector<PlannedStep> steps; // those that are done
    std::vector<ToolRun> runs;
    std::vector<LostPath> lost;
    double seconds = 0;         // with the way home
    Rect box = Rect::nothing(); // of all that the tool goes along while it is down
    double beyondBed = 0;       // how far it reaches past the bed
    Point beyondAt;
    bool bedIsSheet = false;    // no machine was given, so the sheet is taken for the bed
};

// How far a plan may reach past the bed: what rounding makes of figures.
constexpr double pastBedMost = 0.005; // mm
inline bool leavesBed(const Plan& plan) { return plan.beyondBed > pastBedMost; }
// Every writer of programs asks this first. Throws Error(Reach): how far it leaves the bed, and what to do.
void requireOnBed(const Plan& plan);

// A line as designed, to where the print has it on the bed; none: it lies where the sheet should.
using OntoPrint = std::function<Path(const Path&)>;

// `items` lie on a sheet of this height, y down (cut_item.h); `ontoPrint` moves them, y up, to where the print lies. Items of operations that are off or guides
// are left out.
//
// Engravings are scanned along the bed. Onto the print they are moved as the corners of what is burnt are, stretched and skewed alike all over. Throws
// Error(Usage) for a machine that cannot engrave.
Plan planOf(const CutItems& items, double sheetWidth, double sheetHeight, const PlanSpec& spec, const OntoPrint& ontoPrint = {}, const Work& work = {},
            std::span<const EngraveItem> engravings = {});

// Whether a machine can engrave: a beam whose power is told with each move.
bool canEngrave(const Machine& machine);

// Once round all that is cut, as a tight band would lie: where the head is sent to see that all of it lies on the material.
Polyline outsideOf(const Plan& plan);

// Where the tool truly goes in the material while it is down, a polyline a run: what is drawn and checked. Of a line of an engraving nothing.
std::vector<Polyline> cutsOf(const Plan& plan, double step = 0.05);

} // namespace yokai
