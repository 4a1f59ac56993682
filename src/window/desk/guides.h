// Guides of the current piece: straight lines to work along.
#pragma once

#include "desk/desk.h"
#include "touchup/snap.h"

namespace yokai::edits {

struct GuideOn {
    GuideId id;
    StraightGuide line; // mm as shown
};
std::vector<GuideOn> guides(const Desk& desk);
std::optional<GuideOn> guideNear(const Desk& desk, Point mm, double reach);
void addGuide(Desk& desk, const StraightGuide& guide);
void moveGuide(Desk& desk, GuideId id, const StraightGuide& to);
void removeGuide(Desk& desk, GuideId id);

} // namespace yokai::edits
