// From a job to what follows from it: the chain of steps from pixels to the sheet.
//
// Each step is a pure function of what it reads and is remembered under a digest
// of that; after a change only the steps that read it run again. derive() never
// touches the window, may run on any thread, and stops within 50 ms of being asked
// (throwing Cancelled). What fails within a piece, be it a library's exception, is the
// piece's problem and leaves the others alone.
#pragma once

#include "job/derived.h"
#include "job/step_cache.h"

#include <functional>

namespace yokai {

enum class Want { All, Lines }; // Lines: no pictures for print

// Who looks on. Nesting goes on looking for something better for as long as the job says.
struct Watch {
    bool nests = true;                          // false: copies wait for being nested
    std::function<void(const Derived&)> better; // there is a better sheet to see
    std::function<bool()> enough;               // nest no longer, take what there is
};

// To be saved with the job it was derived from; none where nothing was nested.
std::optional<Nested> nestedOf(const Derived& derived);

Derived derive(const Job& job, StepCache& cache, const Work& work = {}, Want want = Want::All, const Watch& watch = {});

} // namespace yokai
