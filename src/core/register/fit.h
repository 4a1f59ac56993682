// From the design to the machine: where the printed marks really lie.
//
// A sheet is printed a little stretched and loaded a little crooked. From pairs of
// designed and measured mark centres the best map is found by least squares; the
// cut is then moved through it. Rigid and scaled: Umeyama, "Least-squares
// estimation of transformation parameters between two point patterns", IEEE PAMI
// 13 (1991). Affine: linear least squares. Projective: the normalised direct
// linear transform (Hartley and Zisserman, Multiple View Geometry, 4.1).
//
// Unit: mm on both sides, in any one orientation.
#pragma once

#include "base/fields.h"
#include "base/geometry.h"
#include "path/path.h"

#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace yokai {

enum class FitModel { Auto, Rigid, Scaled, Affine, Projective };
constexpr std::array<Named<FitModel>, 5> namesOf(FitModel)
{
    return {{{FitModel::Auto, "auto"}, {FitModel::Rigid, "rigid"}, {FitModel::Scaled, "scaled"}, {FitModel::Affine, "affine"}, {FitModel::Projective, "projective"}}};
}
int marksNeeded(FitModel model); // Auto: 2

struct MarkPair {
    Point design, measured;
};

// A projective map; affine ones have g = h = 0.
struct Homography {
    Affine affine;
    double g = 0, h = 0;
    Point operator()(Point p) const;
    Path operator()(const Path& path) const; // exact for affine maps; control points else, which suits the slight tilts of a bed
};

struct Fit {
    FitModel model = FitModel::Rigid; // never Auto
    Homography map;
    double scaleX = 1, scaleY = 1;
    double turn = 0;               // degrees; the design's x axis, from x towards y
    double skew = 0;               // degrees; how far the axes are from a right angle
    std::vector<double> residuals; // mm, a mark each, those left out too
    std::vector<int> leftOut;      // marks that do not belong, which the others prove
    double rms = 0, worst = 0;     // of the marks that count
};

// What a fit is held to.
constexpr double usualResidual = 0.3; // mm

// Auto takes the simplest model that explains the marks, of those that leave numbers to
// spare: a richer one only when it more than halves what is left unexplained (per degree
// of freedom) and that is over 0.02 mm; never projective. A mark that does not belong is
// left out when the others agree without it and with no other left out; two are not
// looked for. Throws Error(Fit) for too few marks, marks that coincide or lie on one
// line, values that are not finite, maps that mirror, and for scales, skews and
// stretches beyond what printers and sheets do.
Fit fitMarks(std::span<const MarkPair> marks, FitModel model = FitModel::Auto, double mostResidual = usualResidual);

// Throws Error(Fit) naming the worst mark when a residual that counts is over the limit.
void requireResidual(const Fit& fit, double most);

} // namespace yokai
