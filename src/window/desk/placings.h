// Copies placed by hand: what is done to those selected. A copy that laying out proposed becomes the hand's
// with the first thing done to it, and stays put from then on.
#pragma once

#include "desk/desk.h"

namespace yokai::edits {

// In the order they were picked; none that is no longer there.
std::vector<Placement> selectedCopies(const Desk& desk);
CopiesSelected::Copy nameOf(const Placement& placement);
// With all that are grouped with it.
void selectCopies(Desk& desk, std::vector<CopiesSelected::Copy> copies);
void selectAllCopies(Desk& desk); // on the sheet that is looked at
Rect boxOf(const Desk& desk, const Placement& placement); // of what is cut or printed, mm on its sheet
const Placing* placingOf(const Desk& desk, const Placement& placement); // null: it was proposed

// Changes all selected that are not locked, as one step. Each is given as it lies, with the box's middle for its place.
void changeCopies(Desk& desk, const QString& what, const std::function<void(Placing&, const Placement&)>& change, const QString& key = {});
void moveCopies(Desk& desk, Point by, int sheets = 0, const QString& key = {}); // mm, and onto a later sheet
void turnCopies(Desk& desk, double degrees);                                    // about the middle of all, clockwise
void mirrorCopies(Desk& desk);                                                  // left for right, each in its place

enum class Side { Left, Middle, Right, Top, Centre, Bottom };
enum class AlignTo { Selection, LastPicked, Sheet, Margin };
void alignCopies(Desk& desk, Side side, AlignTo to);
void spreadCopies(Desk& desk, bool across); // with as much between each and the next

// So many more of each in a row, a gap between them; across, or down. The piece's count grows along.
void duplicateCopies(Desk& desk, int more, double gap, bool across);
// A mirrored one beside each.
void mirroredBeside(Desk& desk, double gap);
void removeCopies(Desk& desk);
void lockCopies(Desk& desk, bool locked);
void groupCopies(Desk& desk, bool together);
void layAgain(Desk& desk); // those selected are proposed again; with none selected, all that are not locked

} // namespace yokai::edits
