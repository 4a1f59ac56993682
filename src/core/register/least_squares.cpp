#include "register/least_squares.h"

#include "base/length.h"

#include <Eigen/Dense>

#include <numbers>

namespace yokai {

namespace {

Eigen::Vector2d vectorOf(Point p) { return {p.x, p.y}; }

Eigen::Vector2d meanOf(std::span<const MarkPair> marks, Point MarkPair::*side)
{
    Eigen::Vector2d sum = Eigen::Vector2d::Zero();
    for (const MarkPair& m : marks)
        sum += vectorOf(m.*side);
    return sum / double(marks.size());
}

Eigen::Matrix2Xd matrixOf(std::span<const MarkPair> marks, Point MarkPair::*side)
{
    Eigen::Matrix2Xd m(2, marks.size());
    for (std::size_t i = 0; i < marks.size(); ++i)
        m.col(Eigen::Index(i)) << (marks[i].*side).x, (marks[i].*side).y;
    return m;
}

Affine similarity(std::span<const MarkPair> marks, bool scaled)
{
    const Eigen::Matrix3d t = Eigen::umeyama(matrixOf(marks, &MarkPair::design), matrixOf(marks, &MarkPair::measured), scaled);
    return {t(0, 0), t(1, 0), t(0, 1), t(1, 1), t(0, 2), t(1, 2)};
}

Affine affineFit(std::span<const MarkPair> marks)
{
    // Least squares about the means; marks on one line, which would leave it open, are refused before.
    const Eigen::Vector2d mp = meanOf(marks, &MarkPair::design), mq = meanOf(marks, &MarkPair::measured);
    Eigen::Matrix2d own = Eigen::Matrix2d::Zero(), across = own;
    for (const MarkPair& mark : marks) {
        const Eigen::Vector2d p = vectorOf(mark.design) - mp, q = vectorOf(mark.measured) - mq;
        own += p * p.transpose();
        across += q * p.transpose();
    }
    const Eigen::Matrix2d m = across * own.inverse();
    const Eigen::Vector2d t = mq - m * mp;
    return {m(0, 0), m(1, 0), m(0, 1), m(1, 1), t(0), t(1)};
}

Homography projective(std::span<const MarkPair> marks)
{
    const auto normaliser = [&](Point MarkPair::*side) {
        Point mean;
        for (const MarkPair& m : marks)
            mean = mean + (m.*side) * (1.0 / double(marks.size()));
        double spread = 0;
        for (const MarkPair& m : marks)
            spread += distance(m.*side, mean) / double(marks.size());
        const double k = std::numbers::sqrt2 / spread;
        return Affine{k, 0, 0, k, -k * mean.x, -k * mean.y};
    };
    const Affine np = normaliser(&MarkPair::design), nq = normaliser(&MarkPair::measured);
    using Square = Eigen::Matrix<double, 9, 9>;
    Square sum = Square::Zero();
    for (const MarkPair& mark : marks) {
        const Point p = np(mark.design), q = nq(mark.measured);
        Eigen::Matrix<double, 9, 1> across, down;
        across << p.x, p.y, 1, 0, 0, 0, -q.x * p.x, -q.x * p.y, -q.x;
        down << 0, 0, 0, p.x, p.y, 1, -q.y * p.x, -q.y * p.y, -q.y;
        sum += across * across.transpose() + down * down.transpose();
    }
    const Eigen::Matrix<double, 9, 1> v = Eigen::SelfAdjointEigenSolver<Square>(sum).eigenvectors().col(0); // of the least
    const auto matrix = [](const Affine& t) { return (Eigen::Matrix3d() << t.a, t.c, t.e, t.b, t.d, t.f, 0, 0, 1).finished(); };
    Eigen::Matrix3d h;
    h << v(0), v(1), v(2), v(3), v(4), v(5), v(6), v(7), v(8);
    h = matrix(nq).inverse() * h * matrix(np);
    if (std::abs(h(2, 2)) < 1e-12)
        refuse("the marks give no usable perspective; measure them again");
    h /= h(2, 2);
    Homography map{{h(0, 0), h(1, 0), h(0, 1), h(1, 1), h(0, 2), h(1, 2)}, h(2, 0), h(2, 1)};
    // That leaves least in the equations; from there Gauss and Newton's steps to what leaves least on the bed.
    constexpr int steps = 6;
    for (int step = 0; step < steps && marks.size() > 4; ++step) {
        Eigen::Matrix<double, 8, 8> own = Eigen::Matrix<double, 8, 8>::Zero();
        Eigen::Matrix<double, 8, 1> right = Eigen::Matrix<double, 8, 1>::Zero();
        for (const MarkPair& mark : marks) {
            const Point p = mark.design, q = map(p);
            const double w = 1 + map.g * p.x + map.h * p.y;
            Eigen::Matrix<double, 2, 8> j;
            j << p.x, p.y, 1, 0, 0, 0, -q.x * p.x, -q.x * p.y, 0, 0, 0, p.x, p.y, 1, -q.y * p.x, -q.y * p.y;
            j /= w;
            own += j.transpose() * j;
            right += j.transpose() * vectorOf(mark.measured - q);
        }
        const Eigen::Matrix<double, 8, 1> d = own.ldlt().solve(right);
        if (!d.allFinite())
            break;
        map = {{map.affine.a + d(0), map.affine.b + d(3), map.affine.c + d(1), map.affine.d + d(4), map.affine.e + d(2), map.affine.f + d(5)}, map.g + d(6), map.h + d(7)};
    }
    return map;
}

Homography mapOf(std::span<const MarkPair> marks, FitModel model)
{
    switch (model) {
    case FitModel::Auto:
    case FitModel::Rigid:
        return {similarity(marks, false), 0, 0};
    case FitModel::Scaled:
        return {similarity(marks, true), 0, 0};
    case FitModel::Affine:
        return {affineFit(marks), 0, 0};
    case FitModel::Projective:
        return projective(marks);
    }
    return {};
}

} // namespace

void checkMarks(std::span<const MarkPair> marks, FitModel model)
{
    const int needed = marksNeeded(model);
    if (int(marks.size()) < needed)
        throw Error(ErrorKind::Fit, "a {} fit needs {} marks and {} were measured; measure more marks or choose a simpler fit", name(model),
                    std::to_string(needed), std::to_string(marks.size()));
    Rect box = Rect::nothing(), seen = Rect::nothing();
    for (const MarkPair& m : marks) {
        for (const double v : {m.design.x, m.design.y, m.measured.x, m.measured.y})
            if (!std::isfinite(v) || std::abs(v) > 1e6)
                refuse("a mark's position is not a sensible number; measure the marks again");
        box.add(m.design);
        seen.add(m.measured);
    }
    if (std::hypot(box.width(), box.height()) < 1e-3 || std::hypot(seen.width(), seen.height()) < 1e-3)
        refuse("the marks lie on one spot; use marks far apart");
    if (needed < 3)
        return;
    // The smaller spread across the marks' own long axis.
    const auto flat = [&](Point MarkPair::*side) {
        const Eigen::Vector2d mean = meanOf(marks, side);
        Eigen::Matrix2d spread = Eigen::Matrix2d::Zero();
        for (const MarkPair& m : marks) {
            const Eigen::Vector2d from = vectorOf(m.*side) - mean;
            spread += from * from.transpose();
        }
        Eigen::SelfAdjointEigenSolver<Eigen::Matrix2d> axes;
        axes.computeDirect(spread, Eigen::EigenvaluesOnly); // squared, the smaller first
        return axes.eigenvalues()(0) < 1e-8 * axes.eigenvalues()(1);
    };
    if (flat(&MarkPair::design) || flat(&MarkPair::measured))
        refuse("the marks lie on one line, which leaves the fit open; use marks at the corners");
}

Homography leastSquares(std::span<const MarkPair> marks, FitModel model)
{
    checkMarks(marks, model);
    return mapOf(marks, model);
}

int marksNeeded(FitModel model) { return needs(model).marks; }

} // namespace yokai
