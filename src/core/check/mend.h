// What mends a finding by one press, where there is such a thing.
//
// One function a kind, in the table of mend.cpp: it changes the job, mostly by an edit of the line at the
// finding's place, so that it is listed, undone and kept like any other.
#pragma once

#include "job/derived.h"

#include <span>

namespace yokai {

// What the press is called, "Round"; null where nothing mends the finding by itself.
const char* pressFor(const Finding& finding);
// Mends them, all of one piece, in the job that they were found in. How many: not those whose line is gone.
int mend(Job& job, const Derived& derived, std::span<const Finding> findings, const Work& work = {});

} // namespace yokai
