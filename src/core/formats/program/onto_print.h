// A sheet as it was designed, moved onto where its print was found to lie: by one way for plans, programs and cut files.
//
// Unit: mm, y down on the sheet; what is fitted counts y up, (0, 0) at the sheet's bottom-left corner, and ends on the bed.
#pragma once

#include "formats/drawing.h"
#include "machine/plan.h"
#include "register/fit.h"

namespace yokai {

// Cuts, engravings and marks where the print has them, as a drawing of the same size. Its place on the bed and the printer's stretch are in
// the fit already, so that neither is left to be done once more.
Drawing movedOntoPrint(const Drawing& sheet, const Fit& fit);

// What is done with a sheet: by the fit to its marks; without one, where the job says that it lies, and stretched as the printer
// does where the job says that the cut follows that.
Plan planOfSheet(const Drawing& sheet, const PlanSpec& spec, const std::optional<Fit>& fit = {}, const Work& work = {});

} // namespace yokai
