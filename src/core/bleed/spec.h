// What is printed beyond the kept edge, as a job holds it.
#pragma once

#include "base/fields.h"
#include "base/raster.h"

#include <optional>

namespace yokai {

enum class BleedFrom { Edge, Mirror, Colour }; // the colour nearest within; the picture mirrored at its edge; one that was picked
constexpr std::array<Named<BleedFrom>, 3> namesOf(BleedFrom)
{
    return {{{BleedFrom::Edge, "edge"}, {BleedFrom::Mirror, "mirror"}, {BleedFrom::Colour, "colour"}}};
}

struct BleedSpec {
    Length distance;                 // 0: none
    BleedFrom from = BleedFrom::Edge;
    Rgba colour{255, 255, 255, 255}; // picked
    std::optional<Length> inside;    // how far within the edge its colour is taken; absent: past what blending and JPEG leave there
    Length border;                   // a rim of one colour between the picture and its bleed, which then goes on in that colour; 0: none
    Rgba borderColour{255, 255, 255, 255};

    // How far the print reaches beyond the kept edge.
    Length reach() const { return border + distance; }
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("distance", self.distance, Within{0_mm, 100_mm});
        visit("from", self.from);
        visit("colour", self.colour);
        visit("inside", self.inside, Within{0_mm, 5_mm});
        visit("border", self.border, Within{0_mm, 100_mm});
        visit("border_colour", self.borderColour);
    }
    bool operator==(const BleedSpec&) const = default;
};

// Where white lies beneath the print: all over, or only where that is light.
enum class UnderprintWhere { All, Light };
constexpr std::array<Named<UnderprintWhere>, 2> namesOf(UnderprintWhere) { return {{{UnderprintWhere::All, "all"}, {UnderprintWhere::Light, "light"}}}; }

struct UnderprintSpec {
    bool on = false;
    Length choke = 200_um; // smaller than the print by this, so that no white looks out
    UnderprintWhere where = UnderprintWhere::All;
    double lightFrom = 40, lightFull = 80; // lightness L* at which it begins, and from which it is full
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("on", self.on);
        visit("choke", self.choke, Within{-5_mm, 5_mm});
        visit("where", self.where);
        visit("light_from", self.lightFrom, Within{0.0, 100.0});
        visit("light_full", self.lightFull, Within{0.0, 100.0});
    }
    bool operator==(const UnderprintSpec&) const = default;
};

} // namespace yokai
