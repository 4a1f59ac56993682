#include "register/fit.h"

#include "base/length.h"
#include "register/bend.h"
#include "register/least_squares.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <tuple>

namespace yokai {

namespace {

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
    fit.map = leastSquares(marks, model);
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

// What printers do by themselves (common practice): three marks, none of which another proves, are taken to say no more.
bool isUsualStretch(const Fit& fit)
{
    constexpr double most = 0.01;
    return std::abs(fit.scaleX - 1) <= most && std::abs(fit.scaleY - 1) <= most;
}

Fit simplest(std::span<const MarkPair> marks, double mostResidual)
{
    checkMarks(marks, FitModel::Rigid);
    Fit best = solve(marks, FitModel::Rigid);
    for (const FitModel richer : {FitModel::Scaled, FitModel::Affine}) {
        const double left = unexplained(best, marks.size());
        // A model that uses up every number explains anything.
        if (spare(richer, marks.size()) < 2 || left <= readingNoise)
            break;
        try {
            Fit fit = solve(marks, richer);
            // It explains much more, or it alone explains enough.
            if (unexplained(fit, marks.size()) < left / 2 || (best.worst > mostResidual && fit.worst <= mostResidual && isUsualStretch(fit)))
                best = std::move(fit);
        } catch (const Error&) {
            break;
        }
    }
    return best;
}

Fit fitOf(std::span<const MarkPair> marks, FitModel model, double mostResidual) { return model == FitModel::Auto ? simplest(marks, mostResidual) : solve(marks, model); }

// The one mark without which all others agree, if leaving out no other does as well.
std::optional<Fit> withoutOne(std::span<const MarkPair> marks, FitModel model, double worst, double mostResidual)
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
            if (Fit fit = fitOf(rest, model, mostResidual); spare(fit.model, rest.size()) >= 2)
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

Fit fitAsGiven(std::span<const MarkPair> marks, FitModel model, double mostResidual)
{
    Fit fit = fitOf(marks, model, mostResidual);
    // A bad mark shows long before it is past the limit: it pulls the fit towards itself.
    if (fit.worst > mostResidual / 3)
        if (auto without = withoutOne(marks, model, fit.worst, mostResidual))
            fit = std::move(*without);
    requirePlausible(fit.map, marks);
    return fit;
}

// Whether they fit well as seen in a mirror: what a sheet that lies face down shows, and no order mends.
bool isMirrored(std::span<const MarkPair> marks, double mostResidual)
{
    std::vector<MarkPair> seen(marks.begin(), marks.end());
    for (MarkPair& m : seen)
        m.measured.x = -m.measured.x;
    try {
        return marks.size() > 2 && fitAsGiven(seen, FitModel::Affine, mostResidual).worst <= mostResidual;
    } catch (const Error&) {
        return false;
    }
}

// Four marks at the corners of an oblong look in a mirror as they do in another order: then it is a sheet that lies face down that is
// thought of. With more, one order at most explains them.
bool mayBeReordered(std::span<const MarkPair> marks, double mostResidual) { return marks.size() > 4 || !isMirrored(marks, mostResidual); }

// Which measured mark is which, if a sheet that lies otherwise, or an order mixed up, explains them all: from where two far ones may lie.
std::vector<std::vector<int>> possibleOrders(std::span<const MarkPair> marks)
{
    const int n = int(marks.size());
    int a = 0, b = 1;
    for (int i = 0; i < n; ++i)
        for (int j = i + 1; j < n; ++j)
            if (distance(marks[std::size_t(i)].design, marks[std::size_t(j)].design) > distance(marks[std::size_t(a)].design, marks[std::size_t(b)].design))
                std::tie(a, b) = std::pair(i, j);
    const Point from = marks[std::size_t(a)].design, way = marks[std::size_t(b)].design - from;
    const double slack = 2 + 0.02 * norm(way); // mm: what stretch and skew within reason move a mark by
    std::vector<std::vector<int>> out;
    for (int k = 0; k < n; ++k)
        for (int l = 0; l < n; ++l) {
            const Point to = marks[std::size_t(k)].measured, there = marks[std::size_t(l)].measured - to;
            if (k == l || std::abs(norm(there) / norm(way) - 1) > mostScale + 0.01)
                continue;
            const Affine turn{dot(way, there) / dot(way, way), cross(way, there) / dot(way, way), -cross(way, there) / dot(way, way), dot(way, there) / dot(way, way), 0, 0};
            std::vector<int> order;
            std::vector<bool> taken(std::size_t(n), false);
            for (int i = 0; i < n; ++i) {
                const Point wanted = to + turn(marks[std::size_t(i)].design - from);
                int best = -1;
                for (int m = 0; m < n; ++m)
                    if (!taken[std::size_t(m)] && (best < 0 || distance(marks[std::size_t(m)].measured, wanted) < distance(marks[std::size_t(best)].measured, wanted)))
                        best = m;
                if (distance(marks[std::size_t(best)].measured, wanted) > slack)
                    break;
                taken[std::size_t(best)] = true;
                order.push_back(best);
            }
            if (int(order.size()) == n && std::find(out.begin(), out.end(), order) == out.end())
                out.push_back(std::move(order));
        }
    return out;
}

std::optional<Fit> inAnotherOrder(std::span<const MarkPair> marks, FitModel model, double mostResidual)
{
    constexpr std::size_t most = 24; // marks: sheets have eight; bands are measured in theirs
    constexpr double alike = 0.06;   // mm: fits no farther apart are equally good
    if (marks.size() < 3 || marks.size() > most)
        return std::nullopt;
    std::vector<Fit> found;
    for (std::vector<int>& order : possibleOrders(marks)) {
        std::vector<MarkPair> put(marks.begin(), marks.end());
        for (std::size_t i = 0; i < put.size(); ++i)
            put[i].measured = marks[std::size_t(order[i])].measured;
        try {
            Fit fit = fitAsGiven(put, model, mostResidual);
            if (fit.worst <= mostResidual && fit.leftOut.empty()) {
                fit.order = std::move(order);
                found.push_back(std::move(fit));
            }
        } catch (const Error&) {
            continue;
        }
    }
    if (found.empty())
        return std::nullopt;
    double best = found.front().worst;
    for (const Fit& fit : found)
        best = std::min(best, fit.worst);
    std::erase_if(found, [&](const Fit& fit) { return fit.worst > 3 * best + alike; });
    return *std::min_element(found.begin(), found.end(), [](const Fit& x, const Fit& y) { return std::abs(x.turn) < std::abs(y.turn); });
}

} // namespace

Fit fitMarks(std::span<const MarkPair> marks, FitModel model, double mostResidual, double reading)
{
    Fit fit;
    try {
        fit = fitAsGiven(marks, model, mostResidual);
        if (fit.worst > mostResidual)
            if (Fit bent = fit; addBend(bent, marks, reading), bent.worst <= mostResidual)
                fit = std::move(bent);
        // An order that explains all marks is likelier than a mark that does not belong.
        if ((fit.worst > mostResidual || !fit.leftOut.empty()) && mayBeReordered(marks, mostResidual))
            if (auto other = inAnotherOrder(marks, model, mostResidual))
                fit = std::move(*other);
    } catch (const Error&) {
        auto other = mayBeReordered(marks, mostResidual) ? inAnotherOrder(marks, model, mostResidual) : std::nullopt;
        if (!other)
            throw;
        fit = std::move(*other);
    }
    if (fit.bend.bands.empty())
        addBend(fit, marks, reading);
    if (fit.worst > mostResidual && isMirrored(marks, mostResidual))
        refuse("the measured marks are mirrored against the design; check their order, or turn the sheet over");
    Rect box = Rect::nothing();
    for (const MarkPair& m : marks)
        box.add(m.design);
    fit.expected = expectedError(fit, inOrder(marks, fit), box, reading);
    return fit;
}

std::vector<MarkPair> inOrder(std::span<const MarkPair> marks, const Fit& fit)
{
    std::vector<MarkPair> out(marks.begin(), marks.end());
    for (std::size_t i = 0; i < fit.order.size(); ++i)
        out[i].measured = marks[std::size_t(fit.order[i])].measured;
    return out;
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
    throw Error(ErrorKind::Fit, "mark {} is {} mm off the fit, over the limit of {} mm; measure that mark again, or let the fit do more",
                std::to_string(worst + 1), plainNumber(fit.worst, 3), plainNumber(most, 3));
}

} // namespace yokai
