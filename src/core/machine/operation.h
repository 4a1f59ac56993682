// What a machine does with a line, in the order it is usually done in: lighter work before heavier, inner before
// outer, so that nothing moves before it is finished.
#pragma once

#include "base/fields.h"
#include "base/id.h"
#include "base/line_kind.h"
#include "base/speed.h"

#include <string>
#include <vector>

namespace yokai {

enum class Operation { Engrave, Crease, Kiss, Perforate, InnerThrough, OuterThrough };

// What of a material's settings an operation uses.
enum class Process { Engrave, Crease, Kiss, Perforate, Through };

struct OperationFacts {
    Operation operation;
    const char* name;  // in files
    const char* title; // shown, after translation
    Process process;
    const char* called; // in reports and programs, where inner and outer are one kind
};
inline constexpr std::array<OperationFacts, 6> operationTable = {{
    {Operation::Engrave, "engrave", "Engrave", Process::Engrave, "engrave"},
    {Operation::Crease, "crease", "Crease", Process::Crease, "crease"},
    {Operation::Kiss, "kiss", "Kiss", Process::Kiss, "kiss"},
    {Operation::Perforate, "perforate", "Perforate", Process::Perforate, "perforate"},
    {Operation::InnerThrough, "inner-through", "Inner through", Process::Through, "through"},
    {Operation::OuterThrough, "outer-through", "Outer through", Process::Through, "through"},
}};
constexpr const OperationFacts& facts(Operation o) { return operationTable[std::size_t(o)]; }
constexpr std::array<Named<Operation>, 6> namesOf(Operation)
{
    std::array<Named<Operation>, 6> out{};
    for (std::size_t i = 0; i < out.size(); ++i)
        out[i] = {operationTable[i].operation, operationTable[i].name};
    return out;
}
inline constexpr std::array<const char*, 5> processNames = {"engrave", "crease", "kiss", "perforate", "through"};
inline constexpr Process processes[] = {Process::Engrave, Process::Crease, Process::Kiss, Process::Perforate, Process::Through};

constexpr Operation operationOf(LineKind kind, bool inner)
{
    switch (kind) {
    case LineKind::Through:
        return inner ? Operation::InnerThrough : Operation::OuterThrough;
    case LineKind::Kiss:
        return Operation::Kiss;
    case LineKind::Perforate:
        return Operation::Perforate;
    case LineKind::Crease:
        return Operation::Crease;
    }
    return Operation::OuterThrough;
}

// How a process is done in one material.
struct ProcessSettings {
    Speed speed = Speed::mmPerSecond(20);
    double power = 50;  // percent, of a laser
    double force = 100; // gram, of a blade
    int passes = 1;
    Length bladeDepth = 100_um; // how far the blade stands out
    bool air = false;
    Length focus = Length(); // the beam's focus above the surface, for a wider line
    double linesPerMm = 10;  // of engraving
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("speed", self.speed);
        visit("power_percent", self.power, Within{0.0, 100.0});
        visit("force_gram", self.force, Within{0.0, 10'000.0});
        visit("passes", self.passes, Within{1, 100});
        visit("blade_depth", self.bladeDepth, Within{0_mm, 20_mm});
        visit("air", self.air);
        visit("focus_offset", self.focus, Within{-50_mm, 50_mm});
        visit("lines_per_mm", self.linesPerMm, Within{0.1, 100.0});
    }
    bool operator==(const ProcessSettings&) const = default;
};

// One operation of a job, in its place among the others.
struct OperationStep {
    Operation operation = Operation::OuterThrough;
    std::string name;          // of an operation of one's own; else as the table has it
    std::vector<LineId> lines; // those put on it by hand; empty: all of its kind that are on no other
    bool on = true;
    bool guide = false;                                     // shown, never cut
    std::optional<ProcessSettings> settings = std::nullopt; // over the material's
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("operation", self.operation);
        visit("name", self.name, AtMost{200}, Label{});
        visit("lines", self.lines, AtMost{10'000});
        visit("on", self.on);
        visit("guide", self.guide);
        visit("settings", self.settings);
    }
    bool operator==(const OperationStep&) const = default;
};
std::vector<OperationStep> usualOperations();

} // namespace yokai
