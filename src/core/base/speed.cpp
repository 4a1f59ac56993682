#include "base/speed.h"

#include "base/error.h"

namespace yokai {

namespace {

// How long one of the unit is, and how many fit into a minute.
struct SpeedParts {
    double mm;
    int inMinute;
};
constexpr SpeedParts partsOf(SpeedUnit unit)
{
    switch (unit) {
    case SpeedUnit::MmPerSecond:
        return {1, 60};
    case SpeedUnit::MmPerMinute:
        return {1, 1};
    case SpeedUnit::InchPerSecond:
        return {25.4, 60};
    case SpeedUnit::InchPerMinute:
        return {25.4, 1};
    }
    return {1, 60};
}

} // namespace

Speed Speed::of(double value, SpeedUnit unit)
{
    const SpeedParts parts = partsOf(unit);
    return {parts.mm == 1 ? Length::mm(value * parts.inMinute) : Length::inches(value * parts.inMinute)};
}

double Speed::in(SpeedUnit unit) const
{
    const SpeedParts parts = partsOf(unit);
    return (parts.mm == 1 ? perMinute.mm() : perMinute.inches()) / parts.inMinute;
}

Speed parseSpeed(std::string_view text, SpeedUnit bare)
{
    SpeedUnit unit = bare;
    std::string_view figure = text;
    for (const SpeedUnit u : speedUnits)
        if (const std::string_view end = name(u); text.ends_with(end)) {
            unit = u;
            figure = text.substr(0, text.size() - end.size());
        }
    const auto wrong = [&] { return Error(ErrorKind::Usage, "'{}' is no speed; write one like 20mm/s, 1200mm/min, 0.5in/s or 30in/min", std::string(text)); };
    double value = 0;
    try {
        // Figures are read as lengths are; what they are of is known already.
        value = parseLength(figure, Unit::Mm).mm();
    } catch (const Error&) {
        throw wrong();
    }
    if (!(value > 0) || figure.find_first_of("abcdefghijklmnopqrstuvwxyz\"") != std::string_view::npos)
        throw wrong();
    const Speed speed = Speed::of(value, unit);
    if (speed.perMinute < Speed::slowest || speed.perMinute > Speed::fastest)
        throw Error(ErrorKind::Usage, "'{}' is out of range; use a speed from 1mm/min to 1000000mm/min", std::string(text));
    return speed;
}

} // namespace yokai
