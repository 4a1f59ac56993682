#include "register/least_squares.h"

#include <Eigen/Dense>

#include <algorithm>
#include <cmath>
#include <random>
#include <vector>

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

// As many draws of so many normal numbers each; the same every time.
constexpr int draws = 2000, mostNumbers = 9;
const Eigen::MatrixXd& normals()
{
    static const Eigen::MatrixXd all = [] {
        std::mt19937 random(95);
        std::normal_distribution<double> one;
        Eigen::MatrixXd out(mostNumbers, draws);
        for (double& v : out.reshaped())
            v = one(random);
        return out;
    }();
    return all;
}

// How far the worst of the four corners lies off in 95 of 100 fits, over the deviation of a reading. `corners`: how they answer to normal
// numbers, two rows a corner. The deviation itself is known with `freedom` readings: each draw has its own, chi-square by Wilson and Hilferty
// 1931.
double worstCornerOf(const Eigen::MatrixXd& corners, double freedom)
{
    const Eigen::MatrixXd errors = corners * normals().topRows(corners.cols());
    std::vector<double> worst;
    worst.reserve(draws);
    for (int n = 0; n < draws; ++n) {
        double most = 0;
        for (int c = 0; c < 8; c += 2)
            most = std::max(most, std::hypot(errors(c, n), errors(c + 1, n)));
        const double third = 1 - 2 / (9 * freedom) + normals()(mostNumbers - 1, n) * std::sqrt(2 / (9 * freedom));
        worst.push_back(most / std::pow(std::max(third, 0.1), 1.5));
    }
    const auto at = worst.begin() + draws * 95 / 100;
    std::nth_element(worst.begin(), at, worst.end());
    return *at;
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
    Eigen::MatrixXd corners(8, k);
    int row = 0;
    for (const Point p : {Point{over.x0, over.y0}, Point{over.x1, over.y0}, Point{over.x0, over.y1}, Point{over.x1, over.y1}}) {
        corners.middleRows(row, 2) = answersTo(fit, p);
        row += 2;
    }
    return std::sqrt(variance) * worstCornerOf(corners * spread.llt().matrixL().toDenseMatrix(), freedom);
}

} // namespace yokai
