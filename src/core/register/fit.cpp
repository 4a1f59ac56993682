#include "register/fit.h"

#include "base/error.h"
#include "base/length.h"

#include <Eigen/Dense>

#include <numbers>

namespace yokai {

namespace {

struct ModelName {
    FitModel model;
    const char* name;
    int marks;
    int freedom;
};
constexpr ModelName models[] = {{FitModel::Auto, "auto", 2, 0},
                                {FitModel::Rigid, "rigid", 2, 3},
                                {FitModel::Scaled, "scaled", 2, 4},
                                {FitModel::Affine, "affine", 3, 6},
                                {FitModel::Projective, "projective", 4, 8}};

const ModelName& entry(FitModel model)
{
    for (const auto& m : models)
        if (m.model == model)
            return m;
    return models[0];
}

[[noreturn]] void refuse(const std::string& line) { throw Error(ErrorKind::Fit, line); }

void checkMarks(std::span<const MarkPair> marks, FitModel model)
{
    const int needed = marksNeeded(model);
    if (int(marks.size()) < needed)
        refuse("a " + std::string(name(model)) + " fit needs " + std::to_string(needed) + " marks and " + std::to_string(marks.size()) +
               " were measured; measure more marks or choose a simpler fit");
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
    const auto flat = [&](auto get) {
        Eigen::Matrix2Xd p(2, marks.size());
        for (std::size_t i = 0; i < marks.size(); ++i)
            p.col(Eigen::Index(i)) << get(marks[i]).x, get(marks[i]).y;
        p.colwise() -= p.rowwise().mean().eval();
        const Eigen::Vector2d s = Eigen::JacobiSVD<Eigen::MatrixXd>(p).singularValues();
        return s(1) < 1e-4 * s(0);
    };
    if (flat([](const MarkPair& m) { return m.design; }) || flat([](const MarkPair& m) { return m.measured; }))
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
    const Eigen::Matrix2Xd p = matrixOf(marks, &MarkPair::design), q = matrixOf(marks, &MarkPair::measured);
    const Eigen::Vector2d mp = p.rowwise().mean(), mq = q.rowwise().mean();
    const Eigen::MatrixXd a = (p.colwise() - mp).transpose(), b = (q.colwise() - mq).transpose();
    const Eigen::Matrix2d m = a.colPivHouseholderQr().solve(b).transpose();
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
    Eigen::MatrixXd a(2 * marks.size(), 9);
    for (std::size_t i = 0; i < marks.size(); ++i) {
        const Point p = np(marks[i].design), q = nq(marks[i].measured);
        a.row(Eigen::Index(2 * i)) << p.x, p.y, 1, 0, 0, 0, -q.x * p.x, -q.x * p.y, -q.x;
        a.row(Eigen::Index(2 * i + 1)) << 0, 0, 0, p.x, p.y, 1, -q.y * p.x, -q.y * p.y, -q.y;
    }
    const Eigen::VectorXd v = Eigen::JacobiSVD<Eigen::MatrixXd>(a, Eigen::ComputeFullV).matrixV().col(8);
    const auto matrix = [](const Affine& t) { return (Eigen::Matrix3d() << t.a, t.c, t.e, t.b, t.d, t.f, 0, 0, 1).finished(); };
    Eigen::Matrix3d h;
    h << v(0), v(1), v(2), v(3), v(4), v(5), v(6), v(7), v(8);
    h = matrix(nq).inverse() * h * matrix(np);
    if (std::abs(h(2, 2)) < 1e-12)
        refuse("the marks give no usable perspective; measure them again");
    h /= h(2, 2);
    return {{h(0, 0), h(1, 0), h(0, 1), h(1, 1), h(0, 2), h(1, 2)}, h(2, 0), h(2, 1)};
}

Fit solve(std::span<const MarkPair> marks, FitModel model)
{
    checkMarks(marks, model);
    Fit fit;
    fit.model = model;
    switch (model) {
    case FitModel::Rigid:
        fit.map.affine = similarity(marks, false);
        break;
    case FitModel::Scaled:
        fit.map.affine = similarity(marks, true);
        break;
    case FitModel::Affine:
        fit.map.affine = affineFit(marks);
        break;
    case FitModel::Projective:
        fit.map = projective(marks);
        break;
    case FitModel::Auto:
        break;
    }
    // Scale, turn and skew at the middle of the marks, where a projective map is most like an affine one.
    Point middle;
    for (const MarkPair& m : marks)
        middle = middle + m.design * (1.0 / double(marks.size()));
    const Point at = fit.map(middle);
    const double w = 1 + fit.map.g * middle.x + fit.map.h * middle.y;
    const Affine& t = fit.map.affine;
    const Point ux{(t.a - fit.map.g * at.x) / w, (t.b - fit.map.g * at.y) / w}, uy{(t.c - fit.map.h * at.x) / w, (t.d - fit.map.h * at.y) / w};
    constexpr double degrees = 180 / std::numbers::pi;
    if (!(cross(ux, uy) > 0))
        refuse("the measured marks are mirrored against the design; check their order, or turn the sheet over");
    fit.scaleX = norm(ux);
    fit.scaleY = norm(uy);
    fit.turn = std::atan2(ux.y, ux.x) * degrees;
    fit.skew = std::asin(std::clamp(dot(ux, uy) / (fit.scaleX * fit.scaleY), -1.0, 1.0)) * degrees;
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

// What a fit leaves unexplained for each measured number it did not use up.
double unexplained(const Fit& fit, std::size_t marks)
{
    const double spare = 2 * double(marks) - entry(fit.model).freedom;
    return spare > 0 ? fit.rms * std::sqrt(2 * double(marks) / spare) : std::numeric_limits<double>::infinity();
}

} // namespace

const char* name(FitModel model) { return entry(model).name; }
int marksNeeded(FitModel model) { return entry(model).marks; }

std::optional<FitModel> fitModelFrom(std::string_view text)
{
    for (const auto& m : models)
        if (text == m.name)
            return m.model;
    return std::nullopt;
}

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

Fit fitMarks(std::span<const MarkPair> marks, FitModel model)
{
    if (model != FitModel::Auto)
        return solve(marks, model);
    checkMarks(marks, FitModel::Rigid);
    Fit best = solve(marks, FitModel::Rigid);
    for (const FitModel richer : {FitModel::Scaled, FitModel::Affine, FitModel::Projective}) {
        const double left = unexplained(best, marks.size());
        if (int(marks.size()) < marksNeeded(richer) || left <= 0.02)
            break;
        try {
            const Fit fit = solve(marks, richer);
            const double spare = unexplained(fit, marks.size());
            // A model that uses up every number explains anything; it is taken only when there is no other way.
            if (spare < left / 2 || (!std::isfinite(spare) && best.worst > 0.1))
                best = fit;
        } catch (const Error&) {
            break;
        }
    }
    return best;
}

void requireResidual(const Fit& fit, double most)
{
    if (fit.worst <= most)
        return;
    const auto at = std::max_element(fit.residuals.begin(), fit.residuals.end()) - fit.residuals.begin();
    refuse("mark " + std::to_string(at + 1) + " is " + plainNumber(fit.worst, 3) + " mm off the " + name(fit.model) + " fit, over the limit of " +
           plainNumber(most, 3) + " mm; measure that mark again");
}

} // namespace yokai
