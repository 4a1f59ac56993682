#include "register/fit.h"

#include "base/error.h"
#include "base/length.h"

#include <Eigen/Dense>

#include <numbers>

namespace yokai {

namespace {

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

Eigen::Vector2d vectorOf(Point p) { return {p.x, p.y}; }

Eigen::Vector2d meanOf(std::span<const MarkPair> marks, Point MarkPair::*side)
{
    Eigen::Vector2d sum = Eigen::Vector2d::Zero();
    for (const MarkPair& m : marks)
        sum += vectorOf(m.*side);
    return sum / double(marks.size());
}

[[noreturn]] void refuse(const std::string& line) { throw Error(ErrorKind::Fit, line); }

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
    return {{h(0, 0), h(1, 0), h(0, 1), h(1, 1), h(0, 2), h(1, 2)}, h(2, 0), h(2, 1)};
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

// How a map scales, turns and skews about a place.
struct Local {
    double scaleX, scaleY, turn, skew; // degrees
    bool mirrors;
};

Local localAt(const Homography& map, Point p)
{
    const Point at = map(p);
    const double w = 1 + map.g * p.x + map.h * p.y;
    const Affine& t = map.affine;
    const Point ux{(t.a - map.g * at.x) / w, (t.b - map.g * at.y) / w}, uy{(t.c - map.h * at.x) / w, (t.d - map.h * at.y) / w};
    constexpr double degrees = 180 / std::numbers::pi;
    const double sx = norm(ux), sy = norm(uy);
    return {sx, sy, std::atan2(ux.y, ux.x) * degrees, std::asin(std::clamp(dot(ux, uy) / (sx * sy), -1.0, 1.0)) * degrees, !(cross(ux, uy) > 0)};
}

// Printers stretch by up to about 1 %, and sheets take up damp; beyond this a mark was misread,
// or the print was not made at its size. (Common practice.)
constexpr double mostScale = 0.03, mostSkew = 1; // degrees

void requirePlausible(const Homography& map, std::span<const MarkPair> marks)
{
    for (const MarkPair& m : marks) {
        const Local l = localAt(map, m.design);
        if (l.mirrors)
            refuse("the measured marks are mirrored against the design; check their order, or turn the sheet over");
        for (const double scale : {l.scaleX, l.scaleY})
            if (std::abs(scale - 1) > mostScale)
                throw Error(ErrorKind::Fit,
                            "the marks say that the print is {} % of its size, more than any printer strays; print it at 100 % or measure the marks again",
                            plainNumber(scale * 100, 2));
        if (std::abs(l.skew) > mostSkew)
            throw Error(ErrorKind::Fit, "the marks say that the print is {} degrees from square, more than any sheet is; measure the marks again",
                        plainNumber(l.skew, 2));
    }
}

Fit solve(std::span<const MarkPair> marks, FitModel model)
{
    checkMarks(marks, model);
    Fit fit;
    fit.model = model;
    fit.map = mapOf(marks, model);
    // Told at the middle of the marks, where a projective map is most like an affine one.
    Point middle;
    for (const MarkPair& m : marks)
        middle = middle + m.design * (1.0 / double(marks.size()));
    const Local local = localAt(fit.map, middle);
    if (local.mirrors)
        refuse("the measured marks are mirrored against the design; check their order, or turn the sheet over");
    fit.scaleX = local.scaleX;
    fit.scaleY = local.scaleY;
    fit.turn = local.turn;
    fit.skew = local.skew;
    double sum = 0;
    for (const MarkPair& m : marks) {
        const double r = distance(fit.map(m.design), m.measured);
        fit.residuals.push_back(r);
        fit.worst = std::max(fit.worst, r);
        sum += r * r;
    }
    fit.rms = std::sqrt(sum / double(marks.size()));
    return fit;
}

int spare(FitModel model, std::size_t marks) { return 2 * int(marks) - needs(model).freedom; }

// What a fit leaves unexplained for each measured number it did not use up.
double unexplained(const Fit& fit, std::size_t marks)
{
    const int free = spare(fit.model, marks);
    return free > 0 ? fit.rms * std::sqrt(2 * double(marks) / free) : std::numeric_limits<double>::infinity();
}

constexpr double readingNoise = 0.02; // mm: what is left below this is only how well marks can be read

Fit simplest(std::span<const MarkPair> marks)
{
    checkMarks(marks, FitModel::Rigid);
    Fit best = solve(marks, FitModel::Rigid);
    for (const FitModel richer : {FitModel::Scaled, FitModel::Affine}) {
        const double left = unexplained(best, marks.size());
        // A model that uses up every number explains anything.
        if (spare(richer, marks.size()) < 2 || left <= readingNoise)
            break;
        try {
            if (Fit fit = solve(marks, richer); unexplained(fit, marks.size()) < left / 2)
                best = std::move(fit);
        } catch (const Error&) {
            break;
        }
    }
    return best;
}

Fit fitOf(std::span<const MarkPair> marks, FitModel model) { return model == FitModel::Auto ? simplest(marks) : solve(marks, model); }

// The one mark without which all others agree, if leaving out no other does as well.
std::optional<Fit> withoutOne(std::span<const MarkPair> marks, FitModel model, double worst)
{
    constexpr double agreeing = 0.06; // mm: marks read well lie within this of a right fit
    constexpr double clearer = 3;     // times: how much worse it must be to leave out another instead
    struct Tried {
        Fit fit;
        int without;
    };
    std::vector<Tried> tried;
    for (std::size_t j = 0; j < marks.size(); ++j) {
        std::vector<MarkPair> rest(marks.begin(), marks.end());
        rest.erase(rest.begin() + std::ptrdiff_t(j));
        try {
            if (Fit fit = fitOf(rest, model); spare(fit.model, rest.size()) >= 2)
                tried.push_back({std::move(fit), int(j)});
        } catch (const Error&) {
            // these alone make no fit
        }
    }
    if (tried.size() < 2)
        return std::nullopt;
    std::sort(tried.begin(), tried.end(), [](const Tried& a, const Tried& b) { return a.fit.worst < b.fit.worst; });
    Tried& best = tried[0];
    if (best.fit.worst > std::max(agreeing, worst / 10) || tried[1].fit.worst < clearer * std::max(best.fit.worst, readingNoise))
        return std::nullopt;
    const MarkPair& out = marks[std::size_t(best.without)];
    best.fit.leftOut = {best.without};
    best.fit.residuals.insert(best.fit.residuals.begin() + best.without, distance(best.fit.map(out.design), out.measured));
    return std::move(best.fit);
}

} // namespace

int marksNeeded(FitModel model) { return needs(model).marks; }

Point Homography::operator()(Point p) const
{
    const double w = 1 + g * p.x + h * p.y;
    const Point q = affine(p);
    return {q.x / w, q.y / w};
}

Path Homography::operator()(const Path& path) const
{
    Path out = path;
    out.start = (*this)(path.start);
    for (Segment& s : out.segments)
        s = {(*this)(s.c1), (*this)(s.c2), (*this)(s.end), s.line};
    return out;
}

Fit fitMarks(std::span<const MarkPair> marks, FitModel model, double mostResidual)
{
    Fit fit = fitOf(marks, model);
    // A bad mark shows long before it is past the limit: it pulls the fit towards itself.
    if (fit.worst > mostResidual / 3)
        if (auto without = withoutOne(marks, model, fit.worst))
            fit = std::move(*without);
    requirePlausible(fit.map, marks);
    return fit;
}

void requireResidual(const Fit& fit, double most)
{
    if (fit.worst <= most)
        return;
    int worst = -1;
    for (int i = 0; i < int(fit.residuals.size()); ++i)
        if (std::find(fit.leftOut.begin(), fit.leftOut.end(), i) == fit.leftOut.end() &&
            (worst < 0 || fit.residuals[std::size_t(i)] > fit.residuals[std::size_t(worst)]))
            worst = i;
    throw Error(ErrorKind::Fit, "mark {} is {} mm off the {} fit, over the limit of {} mm; measure that mark again", std::to_string(worst + 1),
                plainNumber(fit.worst, 3), name(fit.model), plainNumber(most, 3));
}

} // namespace yokai
