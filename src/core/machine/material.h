// What is cut, and how each process is done in it.
#pragma once

#include "base/geometry.h"
#include "base/raster.h"
#include "machine/operation.h"

namespace yokai {

struct Material {
    std::string name;
    Length thickness = 100_um;
    Rgba colour = {255, 255, 255, 255};
    std::array<ProcessSettings, processNames.size()> settings;
    ProcessSettings& of(Process p) { return settings[std::size_t(p)]; }
    const ProcessSettings& of(Process p) const { return settings[std::size_t(p)]; }
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("name", self.name, AtMost{200}, Label{});
        visit("thickness", self.thickness, Within{0_mm, 200_mm});
        visit("colour", self.colour, Label{});
        for (const Process p : processes)
            visit(processNames[std::size_t(p)], self.of(p));
    }
    bool operator==(const Material&) const = default;
};

} // namespace yokai
