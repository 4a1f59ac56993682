// What is cut, and how each process is done in it.
#pragma once

#include "base/geometry.h"
#include "base/raster.h"
#include "machine/operation.h"

namespace yokai {

// What it gives off where it is burnt (hazard.h says why that matters).
enum class BurnHazard { None, Chlorine, Fluorine, Cyanide, Fire };
constexpr std::array<Named<BurnHazard>, 5> namesOf(BurnHazard)
{
    return {{{BurnHazard::None, "none"}, {BurnHazard::Chlorine, "chlorine"}, {BurnHazard::Fluorine, "fluorine"}, {BurnHazard::Cyanide, "cyanide"}, {BurnHazard::Fire, "fire"}}};
}

struct Material {
    std::string name;
    Length thickness = 100_um;
    Rgba colour = {255, 255, 255, 255};
    BurnHazard hazard = BurnHazard::None;
    std::array<ProcessSettings, processNames.size()> settings;
    ProcessSettings& of(Process p) { return settings[std::size_t(p)]; }
    const ProcessSettings& of(Process p) const { return settings[std::size_t(p)]; }
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("name", self.name, AtMost{200}, Label{});
        visit("thickness", self.thickness, Within{0_mm, 200_mm});
        visit("colour", self.colour, Label{});
        visit("burn_hazard", self.hazard);
        for (const Process p : processes)
            visit(processNames[std::size_t(p)], self.of(p));
    }
    bool operator==(const Material&) const = default;
};

} // namespace yokai
