// Speeds that never drift: what is covered in a minute, as a Length. A mm and an inch a second and a
// minute are all whole counts of its ticks, so that changing the shown unit changes nothing.
#pragma once

#include "base/fields.h"

#include <string>
#include <string_view>

namespace yokai {

enum class SpeedUnit { MmPerSecond, MmPerMinute, InchPerSecond, InchPerMinute };
constexpr std::array<Named<SpeedUnit>, 4> namesOf(SpeedUnit)
{
    return {{{SpeedUnit::MmPerSecond, "mm/s"}, {SpeedUnit::MmPerMinute, "mm/min"}, {SpeedUnit::InchPerSecond, "in/s"}, {SpeedUnit::InchPerMinute, "in/min"}}};
}
inline constexpr SpeedUnit speedUnits[] = {SpeedUnit::MmPerSecond, SpeedUnit::MmPerMinute, SpeedUnit::InchPerSecond, SpeedUnit::InchPerMinute};

struct Speed {
    Length perMinute = 1200_mm;
    static constexpr Speed mmPerSecond(int n) { return {Length::ticks(Length::ticksPerMm * 60 * n)}; }
    static Speed of(double value, SpeedUnit unit);
    double in(SpeedUnit unit) const;
    double mmPerSecond() const { return perMinute.mm() / 60; }
    static constexpr Length slowest = 1_mm, fastest = 1'000'000_mm; // in a minute
    template <class Self, class V> static void fields(Self& self, V& visit) { visit("per_minute", self.perMinute, Within{slowest, fastest}); }
    auto operator<=>(const Speed&) const = default;
};

// "20mm/s", "1200 mm/min", "0.5in/s"; a bare number takes `bare`. Throws Error(Usage) naming the text, also for
// what lies outside the field's limits.
Speed parseSpeed(std::string_view text, SpeedUnit bare = SpeedUnit::MmPerMinute);

} // namespace yokai
