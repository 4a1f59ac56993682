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
#include "path/homography.h"
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

// What a long sheet does between its bands of marks beside what the map says: at each band how its two sides lie off, and between
// bands smoothly over from one to the next.
struct Bend {
    bool alongX = false; // which way the bands follow each other
    struct Band {
        double at = 0;        // along
        Point low, high;      // what lies off at its two sides
        double lowAt = 0, highAt = 1; // across
    };
    std::vector<Band> bands; // rising; none: nothing bends
    Point operator()(Point design) const; // what is added to the map
};

struct Fit {
    FitModel model = FitModel::Rigid; // never Auto
    Homography map;
    Bend bend;
    double scaleX = 1, scaleY = 1;
    double turn = 0;               // degrees; the design's x axis, from x towards y
    double skew = 0;               // degrees; how far the axes are from a right angle
    std::vector<double> residuals; // mm, a mark each, those left out too; with a bend what the other bands would have foretold
    std::vector<int> leftOut;      // marks that do not belong, which the others prove
    std::vector<int> order;        // which of the measured is each mark, where they came in another order; else empty
    double rms = 0, worst = 0;     // of the marks that count
    double expected = 0;           // mm: 95 of 100 cuts lie nearer than this wherever in the marks' box
    Point operator()(Point design) const { return map(design) + bend(design); }
    Path operator()(const Path& path) const;
};

// The map of a model that brings the designed places nearest to the measured ones, whatever it comes to. Needs as many marks as the
// model does, not in a line. Throws Error(Fit) where there is none.
Homography leastSquares(std::span<const MarkPair> marks, FitModel model);

// What a fit is held to.
constexpr double usualResidual = 0.3; // mm
constexpr double usualReading = 0.03; // mm: the deviation of one reading of a mark, where it is not known better

// Auto takes the simplest model that explains the marks, of those that leave numbers to
// spare: a richer one only when it more than halves what is left unexplained (per degree
// of freedom) and that is over 0.02 mm; never projective. A mark that does not belong is
// left out when the others agree without it and with no other left out; two are not
// looked for. Marks measured in another order are put in theirs where one order alone explains
// them all, rather than that one is left out, or where the explanations are turns of one another: then the least turn is taken. Marks in
// three bands or more bend with the sheet where a plain map leaves too much. Throws Error(Fit) for
// too few marks, marks that coincide or lie on one line, values that are not finite, maps that
// mirror, and for scales, skews and stretches beyond what printers and sheets do.
Fit fitMarks(std::span<const MarkPair> marks, FitModel model = FitModel::Auto, double mostResidual = usualResidual, double reading = usualReading);

// As they belong together, where they had been measured in another order.
std::vector<MarkPair> inOrder(std::span<const MarkPair> marks, const Fit& fit);

// The error to expect at the worst place of a box, at 95 %: from what the marks leave unexplained and from how well a mark can be read.
double expectedError(const Fit& fit, std::span<const MarkPair> marks, const Rect& over, double reading = usualReading);

// Throws Error(Fit) naming the worst mark when a residual that counts is over the limit.
void requireResidual(const Fit& fit, double most);

} // namespace yokai
