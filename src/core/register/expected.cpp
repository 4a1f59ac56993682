#include "register/least_squares.h"

#include <Eigen/Dense>

#include <algorithm>
#include <cmath>

namespace yokai {

namespace {

// How the place of a point answers to the numbers of the model: two rows.
Eigen::MatrixXd answersTo(const Fit& fit, Point p)
{
    const Point q = fit.map(p);
    switch (fit.model) {
    case FitModel::Auto:
    case FitModel::Rigid: {
        Eigen::MatrixXd j(2, 3);
        j << 1, 0, -q.y, 0, 1, q.x;
        return j;
    }
    case FitModel::Scaled: {
        Eigen::MatrixXd j(2, 4);
        j << 1, 0, -q.y, q.x, 0, 1, q.x, q.y;
        return j;
    }
    case FitModel::Affine: {
        Eigen::MatrixXd j = Eigen::MatrixXd::Zero(2, 6);
        j.row(0).head(3) << 1, p.x, p.y;
        j.row(1).tail(3) << 1, p.x, p.y;
        return j;
    }
    case FitModel::Projective: {
        const double w = 1 + fit.map.g * p.x + fit.map.h * p.y;
        Eigen::MatrixXd j(2, 8);
        j << p.x, p.y, 1, 0, 0, 0, -q.x * p.x, -q.x * p.y, 0, 0, 0, p.x, p.y, 1, -q.y * p.x, -q.y * p.y;
        return j / w;
    }
    }
    return {};
}

} // namespace

double expectedError(const Fit& fit, std::span<const MarkPair> marks, const Rect& over, double reading)
{
    const int k = needs(fit.model).freedom;
    Eigen::MatrixXd sum = Eigen::MatrixXd::Zero(k, k);
    double left = 0;
    int count = 0;
    for (std::size_t i = 0; i < marks.size(); ++i) {
        if (std::find(fit.leftOut.begin(), fit.leftOut.end(), int(i)) != fit.leftOut.end())
            continue;
        const Eigen::MatrixXd j = answersTo(fit, marks[i].design);
        sum += j.transpose() * j;
        left += fit.residuals[i] * fit.residuals[i];
        ++count;
    }
    // What is known of reading marks counts as four readings of its own: few marks say little about their own noise.
    constexpr double before = 4;
    const double freedom = before + std::max(0, 2 * count - k);
    const double variance = (before * reading * reading + left) / freedom;
    const Eigen::MatrixXd spread = sum.ldlt().solve(Eigen::MatrixXd::Identity(k, k));
    double worst = 0;
    for (const Point p : {Point{over.x0, over.y0}, Point{over.x1, over.y0}, Point{over.x0, over.y1}, Point{over.x1, over.y1}}) {
        const Eigen::MatrixXd j = answersTo(fit, p);
        const Eigen::Matrix2d c = j * spread * j.transpose();
        // The square of the error as one of F's (Satterthwaite 1946): of two freedoms where it strays alike both ways, of one where it
        // strays one way. F's 95 % of two freedoms in closed form; of one it is wider by about three tenths (tables of F).
        const double m = c.trace(), h = m * m / (c * c).trace();
        const double f = freedom / 2 * (std::pow(0.05, -2 / freedom) - 1) * (1 + 0.28 * (2 - std::clamp(h, 1.0, 2.0)));
        worst = std::max(worst, std::sqrt(variance * m * f));
    }
    return worst;
}

} // namespace yokai
