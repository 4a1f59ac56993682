// What mends a finding by one press, where there is such a thing.
//
// One function a kind, in the table of mend.cpp: it changes the job, mostly by an edit of the line at the
// finding's place, so that it is listed, undone and kept like any other.
#pragma once

#include "job/derived.h"

#include <span>

namespace yokai {

struct OfLine;
struct Mend {
    std::string_view code; // of the findings it mends
    const char* press;     // what it is called, "Round"
    void (*mend)(const OfLine&, std::span<const Finding>); // all of one line
};
// The ways to mend a finding; none where nothing does by itself.
std::span<const Mend> mendsFor(const Finding& finding);
// Mends them in one way, all of one piece and one kind, in the job that they were found in.
void mend(Job& job, const Derived& derived, std::span<const Finding> findings, const Mend& how, const Work& work = {});

} // namespace yokai
