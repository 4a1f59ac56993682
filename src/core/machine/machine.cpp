#include "machine/machine.h"

#include "base/error.h"
#include "base/length.h"

#include <algorithm>
#include <cmath>

namespace yokai {

namespace {

constexpr double hpglStep = 10; // mm/s: VS is told in whole centimetres a second

} // namespace

Speed nearestSpeed(const Machine& machine, Speed speed)
{
    const Speed held = std::min(speed, machine.motion.topSpeed);
    if (machine.dialect != Dialect::Hpgl)
        return held;
    return Speed::mmPerSecond(int(hpglStep) * int(std::max(1L, std::lround(held.mmPerSecond() / hpglStep))));
}

void requireSpeed(const Machine& machine, Speed speed, const std::string& what)
{
    const auto said = [](Speed s) { return plainNumber(s.mmPerSecond(), 3) + " mm/s"; };
    if (speed > machine.motion.topSpeed)
        throw Error(ErrorKind::Usage, "{}: {} is faster than '{}' goes; use at most {}", what, said(speed), machine.name, said(machine.motion.topSpeed));
    if (machine.dialect == Dialect::Hpgl && speed.mmPerSecond() < hpglStep / 2)
        throw Error(ErrorKind::Usage, "{}: {} is slower than a machine that reads HPGL can be told; use at least {}", what, said(speed), said(Speed::mmPerSecond(int(hpglStep))));
}

Affine BedSpec::toMachine() const
{
    const bool right = origin == BedCorner::NearRight || origin == BedCorner::FarRight, far = origin == BedCorner::FarLeft || origin == BedCorner::FarRight;
    const double sx = xLeft ? -1 : 1, sy = yNear ? -1 : 1;
    return {sx, 0, 0, sy, right ? -sx * width.mm() : 0, far ? -sy * depth.mm() : 0};
}

} // namespace yokai
