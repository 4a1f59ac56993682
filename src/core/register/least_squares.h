// The maps behind a fit, and what each needs. Private to the room.
#pragma once

#include "base/error.h"
#include "register/fit.h"

namespace yokai {

// How many numbers a model takes up, and how many marks it needs at least.
struct Needs {
    int marks, freedom;
};
constexpr Needs needs(FitModel model)
{
    switch (model) {
    case FitModel::Auto:
    case FitModel::Rigid:
        return {2, 3};
    case FitModel::Scaled:
        return {2, 4};
    case FitModel::Affine:
        return {3, 6};
    case FitModel::Projective:
        return {4, 8};
    }
    return {2, 3};
}

// Throws Error(Fit) for too few marks, marks on one spot or in a line that leaves the model open, values that are no sensible numbers.
void checkMarks(std::span<const MarkPair> marks, FitModel model);

[[noreturn]] inline void refuse(const std::string& line) { throw Error(ErrorKind::Fit, line); }

} // namespace yokai
