// Machines and materials to begin with. Their names are made up; the figures follow rules of thumb (common practice): slower is deeper,
// white stock reflects and needs more, air when cutting, little or none when engraving.
#pragma once

#include "machine/machine.h"
#include "machine/material.h"

#include <vector>

namespace yokai {

std::vector<Machine> sampleMachines();
std::vector<Material> sampleMaterials();

} // namespace yokai
