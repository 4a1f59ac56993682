// What a maker decides about how a piece's picture is engraved.
#pragma once

#include "base/fields.h"
#include "base/length.h"

#include <optional>

namespace yokai {

enum class EngraveAs {
    Fill,      // what is kept, all of it alike
    Threshold, // of its greys what is darker than a level
    Dither,    // ordered dots, the denser the darker
    Diffuse,   // dots by error diffusion
    Grey       // the power follows the grey
};
constexpr std::array<Named<EngraveAs>, 5> namesOf(EngraveAs)
{
    return {{{EngraveAs::Fill, "fill"}, {EngraveAs::Threshold, "threshold"}, {EngraveAs::Dither, "dither"}, {EngraveAs::Diffuse, "diffuse"}, {EngraveAs::Grey, "grey"}}};
}

struct EngraveSpec {
    EngraveAs as = EngraveAs::Fill;
    std::optional<Length> interval = std::nullopt; // between lines; none: as the material says
    double angle = 0;                              // degrees, of the lines, counter-clockwise from the bed's x
    bool oneWay = false;                           // every line from the same end
    Length overscan = 2_mm;                        // past a line's ends without power, so that it burns at an even speed
    double level = 50;                             // percent of lightness: what is darker is burnt, as a threshold
    double curve = 1;                              // the grey's exponent: above 1 lighter
    double leastPower = 0;                         // percent of the material's: what the lightest grey that is burnt has, of grey
    bool reverse = false;                          // all inside the through line but the picture
    Length border = Length();                      // of greys: how wide the edge of what is kept is burnt wholly, inwards, which makes it clean
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("as", self.as);
        visit("interval", self.interval, Within{10_um, 10_mm});
        visit("angle_deg", self.angle, Within{-180.0, 180.0});
        visit("one_way", self.oneWay);
        visit("overscan", self.overscan, Within{0_mm, 50_mm});
        visit("level_percent", self.level, Within{0.0, 100.0});
        visit("curve", self.curve, Within{0.1, 10.0});
        visit("least_power_percent", self.leastPower, Within{0.0, 100.0});
        visit("reverse", self.reverse);
        visit("border", self.border, Within{0_mm, 20_mm});
    }
    bool operator==(const EngraveSpec&) const = default;
};

} // namespace yokai
