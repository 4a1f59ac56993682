// What must not be burnt, and why: what some materials give off under a beam. Common practice of laser workshops; the reasons from
// memory of the materials' chemistry.
#pragma once

#include "base/error.h"
#include "base/fields.h"
#include "machine/machine.h"
#include "machine/material.h"

#include <optional>

namespace yokai {

struct HazardFacts {
    BurnHazard hazard;
    const char* title;  // shown, after translation
    const char* reason; // with the material's name in {}; null: it may be burnt
};
inline constexpr std::array<HazardFacts, 5> hazardTable = {{
    {BurnHazard::None, "None known", nullptr},
    {BurnHazard::Chlorine, "Chlorine (PVC, vinyl)",
     "'{}' holds chlorine: burnt, it gives off hydrogen chloride, which is poisonous and eats the machine; cut it with a blade, or choose another material"},
    {BurnHazard::Fluorine, "Fluorine (PTFE)",
     "'{}' holds fluorine: burnt, it gives off hydrogen fluoride, which is poisonous; cut it with a blade, or choose another material"},
    {BurnHazard::Cyanide, "Cyanide (ABS, nylon, wool blends)",
     "'{}' gives off hydrogen cyanide where it is burnt, which is poisonous; cut it with a blade, or choose another material"},
    {BurnHazard::Fire, "Catches fire (foam, polycarbonate)",
     "'{}' catches fire under a beam and drips on; cut it with a blade, or choose another material"},
}};
constexpr const HazardFacts& facts(BurnHazard hazard) { return hazardTable[std::size_t(hazard)]; }

// Why a material must not be worked on by a machine; none: it may be.
inline std::optional<Error> hazardOf(const std::optional<Machine>& machine, const std::optional<Material>& material)
{
    if (!machine || machine->kind != MachineKind::Laser || !material || !facts(material->hazard).reason)
        return std::nullopt;
    return Error(ErrorKind::Usage, std::string(facts(material->hazard).reason), material->name);
}

} // namespace yokai
