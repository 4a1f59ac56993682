#include "machine/machine.h"

#include <algorithm>
#include <cmath>

namespace yokai {

Speed sayable(Dialect dialect, Speed speed)
{
    return dialect == Dialect::Hpgl ? Speed::mmPerSecond(10 * int(std::max(1L, std::lround(speed.mmPerSecond() / 10)))) : speed;
}

Affine BedSpec::toMachine() const
{
    const bool right = origin == BedCorner::NearRight || origin == BedCorner::FarRight, far = origin == BedCorner::FarLeft || origin == BedCorner::FarRight;
    const double sx = xLeft ? -1 : 1, sy = yNear ? -1 : 1;
    return {sx, 0, 0, sy, right ? -sx * width.mm() : 0, far ? -sy * depth.mm() : 0};
}

} // namespace yokai
