// Marks found by the machine's own eye: a spot that tells dark from light, asked for with the probing words of RS-274/NGC (G38.3
// towards dark, G38.5 away from it, as open-source motion firmware has them). Blocking, off the window's thread.
//
// Unit: mm on the bed, y away from the user.
#pragma once

#include "device/serial_machine.h"
#include "machine/machine.h"
#include "register/fit.h"
#include "sheet/marks.h"

#include <span>

namespace yokai {

// The discs of a sheet of this height whose near left corner should lie at `corner`, each from where those before say it should be: bands across the place
// until one meets ink, then its edges across and along, twice. `told` hears of each. Throws Error(Device) naming the mark that is not seen, or Error(Fit) where
// the marks are no discs.
std::vector<MarkPair> findByEye(SerialMachine& machine, const Machine& profile, std::span<const Mark> marks, double sheetHeight, Point corner, const Work& work,
                                const std::function<void(const MarkPair&)>& told = {});

// Where the next mark should be, by those that were found.
Point expectedPlace(const std::vector<MarkPair>& found, Point design, Point corner);

} // namespace yokai
