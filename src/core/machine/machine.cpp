#include "machine/machine.h"

namespace yokai {

Affine BedSpec::toMachine() const
{
    const bool right = origin == BedCorner::NearRight || origin == BedCorner::FarRight, far = origin == BedCorner::FarLeft || origin == BedCorner::FarRight;
    const double sx = xLeft ? -1 : 1, sy = yNear ? -1 : 1;
    return {sx, 0, 0, sy, right ? -sx * width.mm() : 0, far ? -sy * depth.mm() : 0};
}

} // namespace yokai
