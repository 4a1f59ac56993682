// A machine: where it counts from, how fast it goes, what its tool is, what it understands.
//
// The bed lies before its user: x to the right, y away, (0, 0) the near left corner. That is how paths are made;
// what the machine itself counts is told from this only when its program is written.
#pragma once

#include "base/geometry.h"
#include "base/speed.h"
#include "machine/operation.h"

#include <string>

namespace yokai {

enum class MachineKind { Cutter, Laser };
constexpr std::array<Named<MachineKind>, 2> namesOf(MachineKind) { return {{{MachineKind::Cutter, "cutter"}, {MachineKind::Laser, "laser"}}}; }

enum class BedCorner { NearLeft, NearRight, FarLeft, FarRight };
constexpr std::array<Named<BedCorner>, 4> namesOf(BedCorner)
{
    return {{{BedCorner::NearLeft, "near-left"}, {BedCorner::NearRight, "near-right"}, {BedCorner::FarLeft, "far-left"}, {BedCorner::FarRight, "far-right"}}};
}

enum class Dialect { Gcode, Hpgl };
constexpr std::array<Named<Dialect>, 2> namesOf(Dialect) { return {{{Dialect::Gcode, "gcode"}, {Dialect::Hpgl, "hpgl"}}}; }

// What lowers the tool.
enum class ToolBy { Spindle, Height }; // M3 or M4, and M5; or the height of Z
constexpr std::array<Named<ToolBy>, 2> namesOf(ToolBy) { return {{{ToolBy::Spindle, "m3"}, {ToolBy::Height, "z"}}}; }

// How the machine finds marks.
enum class Eye { None, Sensor, Camera };
constexpr std::array<Named<Eye>, 3> namesOf(Eye) { return {{{Eye::None, "none"}, {Eye::Sensor, "sensor"}, {Eye::Camera, "camera"}}}; }

struct BedSpec {
    Length width = 300_mm, depth = 300_mm;
    BedCorner origin = BedCorner::NearLeft;
    bool xLeft = false, yNear = false; // the axis counts towards the left, towards the user
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("width", self.width, Within{10_mm, 50'000_mm});
        visit("depth", self.depth, Within{10_mm, 50'000_mm});
        visit("origin", self.origin);
        visit("x_towards_left", self.xLeft);
        visit("y_towards_user", self.yNear);
    }
    // From the bed to what the machine counts.
    Affine toMachine() const;
    // Where the machine's own (0, 0) lies on the bed: the corner it is homed to, and where every program ends.
    Point home() const { return toMachine().inverse()({}); }
    bool operator==(const BedSpec&) const = default;
};

struct MotionSpec {
    Speed topSpeed = Speed::mmPerSecond(200); // with the tool up
    double acceleration = 1000;               // mm/s2
    // How far a corner may be thought rounded when the speed through it is chosen. It says how fast corners are taken.
    Length cornerDeviation = 10_um;
    double toolSeconds = 0; // to lower or raise the tool
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("top_speed", self.topSpeed);
        visit("acceleration_mm_s2", self.acceleration, Within{1.0, 100'000.0});
        visit("corner_deviation", self.cornerDeviation, Within{1_um, 5_mm});
        visit("tool_seconds", self.toolSeconds, Within{0.0, 10.0});
    }
    bool operator==(const MotionSpec&) const = default;
};

struct ToolSpec {
    Length bladeOffset = Length();                // from the pivot to the tip that trails it
    double swivelFrom = 20;                       // degrees: at sharper corners the blade is turned on its tip
    Length overcut = Length();                    // past the start of a closed line
    Length kerf = Length();                       // the width that is lost
    Length beam = 100_um;                         // across, of a laser
    Length leadIn = Length(), leadOut = Length(); // in the waste, where there is room
    ToolBy by = ToolBy::Spindle;
    Length up = 2_mm, down = Length();                           // heights of Z
    double powerMost = 1000;                                     // what S says for all of the power, or of the force
    double forceMost = 500;                                      // gram
    bool powerFollowsSpeed = false;                              // M4 instead of M3
    std::array<int, processNames.size()> pens = {5, 4, 2, 3, 1}; // of HPGL, a process each
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("blade_offset", self.bladeOffset, Within{0_mm, 10_mm});
        visit("swivel_from_deg", self.swivelFrom, Within{1.0, 180.0});
        visit("overcut", self.overcut, Within{0_mm, 50_mm});
        visit("kerf", self.kerf, Within{0_mm, 10_mm});
        visit("beam", self.beam, Within{1_um, 10_mm});
        visit("lead_in", self.leadIn, Within{0_mm, 50_mm});
        visit("lead_out", self.leadOut, Within{0_mm, 50_mm});
        visit("lowered_by", self.by);
        visit("z_up", self.up, Within{-200_mm, 200_mm});
        visit("z_down", self.down, Within{-200_mm, 200_mm});
        visit("power_most", self.powerMost, Within{1.0, 1'000'000.0});
        visit("force_most_gram", self.forceMost, Within{1.0, 10'000.0});
        visit("power_follows_speed", self.powerFollowsSpeed);
        for (const Process p : processes)
            visit((std::string("pen_") + processNames[std::size_t(p)]).c_str(), self.pens[std::size_t(p)], Within{0, 8});
    }
    bool operator==(const ToolSpec&) const = default;
};

struct LinkSpec {
    std::string port; // as the system calls it; empty: none chosen yet
    int baud = 115200;
    int buffer = 127; // characters the machine takes in before it answers
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("port", self.port, AtMost{1000});
        visit("baud", self.baud, Within{300, 4'000'000});
        visit("buffer", self.buffer, Within{16, 100'000});
    }
    bool operator==(const LinkSpec&) const = default;
};

struct EyeSpec {
    Eye kind = Eye::None;
    Length x, y;                  // where it looks, from the tool
    Length repeatability = 50_um; // of one reading of a mark, standard deviation
    Length reach = 8_mm;          // how far it looks round the place where a mark should be
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("kind", self.kind);
        visit("x", self.x, Within{-1000_mm, 1000_mm});
        visit("y", self.y, Within{-1000_mm, 1000_mm});
        visit("repeatability", self.repeatability, Within{0_mm, 5_mm});
        visit("reach", self.reach, Within{0_mm, 200_mm});
    }
    bool operator==(const EyeSpec&) const = default;
};

struct Machine {
    std::string name;
    MachineKind kind = MachineKind::Cutter;
    BedSpec bed;
    MotionSpec motion;
    ToolSpec tool;
    Dialect dialect = Dialect::Gcode;
    bool inches = false;     // what its program counts in
    bool arcs = true;        // whether it knows G2 and G3
    Length tolerance = 5_um; // of arcs or lines to the curves
    LinkSpec link;
    EyeSpec eye;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("name", self.name, AtMost{200}, Label{});
        visit("kind", self.kind);
        visit("bed", self.bed);
        visit("motion", self.motion);
        visit("tool", self.tool);
        visit("dialect", self.dialect);
        visit("inches", self.inches);
        visit("arcs", self.arcs);
        visit("tolerance", self.tolerance, Within{1_um, 1_mm});
        visit("link", self.link, Label{});
        visit("eye", self.eye, Label{});
    }
    bool operator==(const Machine&) const = default;
};

// The nearest speed the machine can do with its tool down: no faster than it goes, and HPGL knows whole centimetres a second.
Speed nearestSpeed(const Machine& machine, Speed speed);
// Throws Error(Usage) where it cannot do the speed or any near it; `what` is to go so fast.
void requireSpeed(const Machine& machine, Speed speed, const std::string& what);

} // namespace yokai
