#include "register/doubt.h"

#include <cmath>

namespace yokai {

namespace {

// What the models are free in.
std::size_t numbersOf(FitModel model)
{
    switch (model) {
    case FitModel::Rigid:
        return 3;
    case FitModel::Scaled:
        return 4;
    case FitModel::Affine:
        return 6;
    case FitModel::Projective:
    case FitModel::Auto:
        break;
    }
    return 8;
}

} // namespace

std::vector<DoubtOfFit> doubtsOf(const Fit& fit, std::size_t marks, double allowed)
{
    constexpr double upright = 45; // degrees: a sheet laid in by hand lies within a few
    std::vector<DoubtOfFit> out;
    for (const int m : fit.leftOut)
        out.push_back({FitDoubt::LeftOut, m, fit.residuals[std::size_t(m)], 0});
    if (!fit.order.empty())
        out.push_back({FitDoubt::Reordered, -1, 0, 0});
    if (std::abs(fit.turn) > upright)
        out.push_back({FitDoubt::TurnedRound, -1, fit.turn, upright});
    if (2 * (marks - fit.leftOut.size()) <= numbersOf(fit.model))
        out.push_back({FitDoubt::NoneToSpare, -1, double(marks), 0});
    if (fit.expected > allowed)
        out.push_back({FitDoubt::Coarse, -1, fit.expected, allowed});
    return out;
}

} // namespace yokai
