#include "path/fit.h"

#include "path/crossings.h"
#include "path/fit_run.h"

#include <array>

namespace yokai {

namespace {

struct Cubic {
    Point p0, p1, p2, p3;
};

// A cubic as a polynomial, for many points at once.
class Polynomial {
public:
    explicit Polynomial(const Cubic& c) : k0_(c.p0), k1_((c.p1 - c.p0) * 3), k2_((c.p2 - c.p1 * 2 + c.p0) * 3), k3_(c.p3 - c.p0 + (c.p1 - c.p2) * 3) {}
    Point at(double t) const { return k0_ + (k1_ + (k2_ + k3_ * t) * t) * t; }
    // One Gauss-Newton step towards the parameter nearest p: beside the curve's bend the
    // distance is small, so the second derivative adds nothing.
    double nearer(Point p, double t) const
    {
        const Point e = at(t) - p, v = k1_ + (k2_ * 2 + k3_ * (3 * t)) * t;
        const double slope = dot(v, v);
        return slope > 0 ? std::clamp(t - dot(e, v) / slope, 0.0, 1.0) : t;
    }

private:
    Point k0_, k1_, k2_, k3_;
};

struct Piece {
    Cubic curve;
    bool ok = false;
    double worst = 0; // how far off the points lie, roughly where it is not ok
};

// Up to twenty of the points between a and b, each with where on the curve it is thought to lie.
struct Sample {
    static constexpr int most = 20;
    int count = 0;
    std::array<double, most> t, arc;
    std::array<Point, most> q;

    Sample(const PointRun& run, int a, int b)
    {
        const int inner = b - a - 1;
        count = std::min(inner, most);
        const double start = run.arc(a), total = run.arc(b) - start;
        for (int k = 0; k < count; ++k) {
            const int i = a + 1 + (k * inner + inner / 2) / count;
            q[std::size_t(k)] = run.at(i);
            arc[std::size_t(k)] = run.arc(i);
            t[std::size_t(k)] = (arc[std::size_t(k)] - start) / total;
        }
    }
};

struct Handles {
    double first, second; // how long, along the end tangents
};

// The handles with the least squared distances at the sample's places; `usual` where they are free.
Handles leastSquares(const Sample& sample, Point p0, Point p3, Point t0, Point t1, double usual)
{
    double c00 = 0, c01 = 0, c11 = 0, x0 = 0, x1 = 0;
    for (int k = 0; k < sample.count; ++k) {
        const double u = sample.t[std::size_t(k)], v = 1 - u;
        const double b0 = v * v * v, b1 = 3 * v * v * u, b2 = 3 * v * u * u, b3 = u * u * u;
        const Point a0 = t0 * b1, a1 = t1 * -b2;
        const Point rest = sample.q[std::size_t(k)] - p0 * (b0 + b1) - p3 * (b2 + b3);
        c00 += dot(a0, a0);
        c01 += dot(a0, a1);
        c11 += dot(a1, a1);
        x0 += dot(a0, rest);
        x1 += dot(a1, rest);
    }
    const double det = c00 * c11 - c01 * c01;
    if (std::abs(det) > 1e-9 * c00 * c11)
        return {(x0 * c11 - x1 * c01) / det, (c00 * x1 - c01 * x0) / det};
    // Parallel end tangents leave one degree of freedom: equal handles.
    const double both = c00 + 2 * c01 + c11;
    return both > 1e-12 ? Handles{(x0 + x1) / both, (x0 + x1) / both} : Handles{usual, usual};
}

// How far any of the points between a and b lies from the curve, or the first that lies over
// `enough`; each one's parameter is guessed from the sampled ones beside it.
double deviation(const PointRun& run, int a, int b, const Sample& sample, const Polynomial& curve, double enough)
{
    const double start = run.arc(a), end = run.arc(b);
    double squared = 0;
    int k = 0;
    double arc0 = start, t0k = 0, arc1 = sample.arc[0], slope = sample.t[0] / std::max(1e-12, arc1 - arc0);
    for (int i = a + 1; i < b && squared <= enough * enough; ++i) {
        const double s = run.arc(i);
        while (s > arc1 && k < sample.count) {
            arc0 = arc1;
            t0k = sample.t[std::size_t(k)];
            ++k;
            arc1 = k < sample.count ? sample.arc[std::size_t(k)] : end;
            slope = ((k < sample.count ? sample.t[std::size_t(k)] : 1) - t0k) / std::max(1e-12, arc1 - arc0);
        }
        const Point p = run.at(i), off = curve.at(curve.nearer(p, t0k + (s - arc0) * slope)) - p;
        squared = std::max(squared, dot(off, off));
    }
    return std::sqrt(squared);
}

// The best cubic over points a..b with the given end tangents, and whether all
// points lie within the tolerance of it.
Piece fitOne(const PointRun& run, int a, int b, Point t0, Point t1, double tolerance)
{
    const Point p0 = run.at(a), p3 = run.at(b);
    const double total = run.arc(b) - run.arc(a), chord = distance(p0, p3);
    Piece out;
    if (b - a <= 1 || total < 1e-9) {
        out.curve = {p0, p0 + t0 * (total / 3), p3 - t1 * (total / 3), p3};
        // Between two points there is nothing to follow: no handle may lead away from the other point.
        const Point along = unit(p3 - p0);
        if (dot(t0, along) < 0.5 || dot(t1, along) < 0.5)
            out.curve = {p0, mix(p0, p3, 1.0 / 3), mix(p0, p3, 2.0 / 3), p3};
        out.ok = true;
        return out;
    }
    Sample sample(run, a, b);
    Cubic c{p0, {}, {}, p3};
    for (int round = 0; round < 4; ++round) {
        Handles h = leastSquares(sample, p0, p3, t0, t1, total / 3);
        constexpr double shortest = 1e-3, longest = 0.75; // handles, of the chord and of the way: others make cusps and loops
        if (!(h.first > shortest * chord) || !(h.second > shortest * chord) || h.first > longest * total || h.second > longest * total) {
            out.worst = 4 * tolerance;
            if (round > 0)
                return out;
            h = {total / 3, total / 3};
        }
        c.p1 = p0 + t0 * h.first;
        c.p2 = p3 - t1 * h.second;
        const Polynomial curve(c);
        double squared = 0;
        for (int k = 0; k < sample.count; ++k) {
            double& u = sample.t[std::size_t(k)];
            u = curve.nearer(sample.q[std::size_t(k)], u);
            const Point off = curve.at(u) - sample.q[std::size_t(k)];
            squared = std::max(squared, dot(off, off));
        }
        out.worst = std::sqrt(squared);
        // What is far off after a round will not come close any more.
        if (out.worst > (round == 0 ? 12 : round == 1 ? 4 : 2) * tolerance)
            return out;
        if (out.worst < tolerance * 0.5)
            break;
    }
    out.worst = deviation(run, a, b, sample, Polynomial(c), tolerance); // every point counts, not only the sample
    if (out.worst > tolerance)
        return out;
    out.curve = c;
    out.ok = true;
    return out;
}

bool straight(const Cubic& c)
{
    const Point d = c.p3 - c.p0;
    const double n = norm(d);
    if (n < 1e-9)
        return false;
    return std::abs(cross(c.p1 - c.p0, d)) / n < 2e-3 * std::min(1.0, n) && std::abs(cross(c.p2 - c.p0, d)) / n < 2e-3 * std::min(1.0, n);
}

class Fitter {
public:
    Fitter(const PointRun& run, double tolerance) : run_(run), tolerance_(tolerance) {}

    struct Fitted {
        Cubic curve;
        int from, to; // the points it runs over
    };

    // Fits points a..b. The ends are corners, or one and the same place on a line without any.
    std::vector<Fitted> span(int a, int b, bool smoothEnds)
    {
        const int n = run_.size();
        const auto tangent = [&](int i) {
            if (smoothEnds)
                return tangentAt(run_, i + n, 0, 3 * n, tolerance_); // the window may pass the seam
            return tangentAt(run_, i, a, b, tolerance_);
        };
        std::vector<Fitted> out;
        Point t0 = tangent(a);
        int from = a, reach = 16;
        const int last = b;
        while (from < last) {
            b = last;
            const double tolerance = tolerance_ * closer[run_.closeness(from)];
            if (!run_.even()) { // up to where it has to follow as closely as here
                b = from + 1;
                while (b < last && run_.closeness(b) == run_.closeness(from))
                    ++b;
            }
            if (tolerance <= 0) {
                const Point p = run_.at(from), q = run_.at(from + 1);
                out.push_back({{p, mix(p, q, 1.0 / 3), mix(p, q, 2.0 / 3), q}, from, from + 1});
                t0 = tangent(++from);
                continue;
            }
            const auto [best, good] = farthest(from, b, reach, t0, tangent, tolerance);
            out.push_back({best.curve, from, good});
            t0 = tangent(good);
            reach = std::max(4, (good - from));
            from = good;
        }
        return out;
    }

    struct Reached {
        Piece piece;
        int to;
    };
    // How far one curve reaches that starts at `from` with the tangent t0: not past b, and looked for
    // first at `reach` points. The deviation grows about with the fifth power of the length, which says
    // how far to try next; the search ends when what is left to gain is small.
    template <class Tangent> Reached farthest(int from, int b, int reach, Point t0, Tangent tangent, double tolerance) const
    {
        int good = from + 1, bad = b + 1;
        Piece best;
        int tryTo = std::min(b, from + reach);
        for (int round = 0, inRow = 0; round < 30; ++round) {
            const Piece p = fitOne(run_, from, tryTo, t0, tangent(tryTo), tolerance);
            const int length = tryTo - from;
            // The error grows with the fifth power of the length or so; a little less than that is tried.
            constexpr double growth = 0.2, careful = 0.98, afterBad = 0.97, leastOf = 0.3, mostOf = 0.95, leastWorst = 0.01;
            const double ratio = std::pow(tolerance / std::max(p.worst, tolerance * leastWorst), growth);
            int next = 0;
            if (p.ok) {
                best = p;
                good = tryTo;
                // On a straight stretch it is the noise that is measured, and says nothing.
                next = from + int(length * (++inRow > 1 && bad > b ? 2.0 : std::min(2.0, ratio * careful)));
                if (good == b || (round > 1 && next - good < length / 16))
                    break;
                next = std::max(next, good + 1);
            } else {
                bad = tryTo;
                inRow = 0;
                next = from + std::max(1, int(length * std::clamp(ratio * afterBad, leastOf, mostOf)));
            }
            if (bad <= b && bad - good <= std::max(1, (good - from) / 20))
                break;
            tryTo = std::clamp(next, good + 1, std::min(b, bad - 1));
            if (tryTo <= good)
                break;
        }
        if (!best.ok)
            best = fitOne(run_, from, good, t0, tangent(good), tolerance);
        return {best, good};
    }

    static constexpr double closer[] = {1, 0.3, 0.1, 0};

private:
    const PointRun& run_;
    double tolerance_;
};

} // namespace

namespace {

// Where stretches too short for a tangent of their own meet, curves may not join smoothly.
// What bending the handles puts right within the tolerance is put right; else the points
// themselves turn there, and it is a corner.
void smoothJoints(Path& path, double tolerance)
{
    const std::size_t n = path.segments.size();
    for (std::size_t k = 0; k < n; ++k) {
        Segment &in = path.segments[k], &out = path.segments[(k + 1) % n];
        if (path.corners[k] || n < 2)
            continue;
        const Point node = in.end, from = unit(node - in.c2), to = unit(out.c1 - node);
        constexpr double smooth = 0.01; // radians
        if (std::abs(std::atan2(cross(from, to), dot(from, to))) < smooth)
            continue;
        const Point along = unit(from + to);
        const Point before = node - along * distance(node, in.c2), after = node + along * distance(node, out.c1);
        // A handle moves its curve by four ninths at most.
        if (dot(from, to) > 0 && std::max(distance(before, in.c2), distance(after, out.c1)) * 4 / 9 < tolerance / 2) {
            in.c2 = before;
            out.c1 = after;
            in.line = out.line = false;
        } else {
            path.corners[k] = true;
        }
    }
}

struct Result {
    Path path;
    std::vector<std::pair<int, int>> over; // the points each segment runs over; may run past the end
};

Result fitted(const PointRun& run, double tolerance)
{
    Result out;
    const int n = run.size();
    Fitter fitter(run, tolerance);
    int first = 0;
    while (first < n && !run.corner(first))
        ++first;
    const bool smooth = first == n;
    if (smooth)
        first = 0;
    Path& path = out.path;
    path.start = run.at(first);
    int from = first;
    while (from < first + n) {
        int to = from + 1;
        while (to < first + n && !(!smooth && run.corner(to)))
            ++to;
        const auto pieces = fitter.span(from, to, smooth);
        for (std::size_t k = 0; k < pieces.size(); ++k) {
            const Cubic& c = pieces[k].curve;
            const bool corner = !smooth && k + 1 == pieces.size();
            if (straight(c))
                path.lineTo(c.p3, corner);
            else
                path.curveTo(c.p1, c.p2, c.p3, corner);
            out.over.emplace_back(pieces[k].from, pieces[k].to);
        }
        from = to;
    }
    path.segments.back().end = path.start;
    smoothJoints(path, tolerance);
    return out;
}

// The segments of a path that cross others.
std::vector<std::size_t> crossingSegments(const Path& path, double tolerance)
{
    Polyline line;
    std::vector<std::size_t> owner;
    std::size_t index = 0;
    path.each([&](Point from, const Segment& s) {
        Path one;
        one.start = from;
        one.segments.push_back(s);
        one.corners.push_back(false);
        one.closed = false;
        for (const Point p : flatten(one, tolerance)) {
            if (!line.empty() && p == line.back())
                continue; // where the one before ended
            line.push_back(p);
            owner.push_back(index);
        }
        // The last point begins the next segment.
        if (!owner.empty())
            owner.back() = index + 1 == path.segments.size() ? 0 : index + 1;
        ++index;
    });
    if (line.size() > 1 && line.back() == line.front()) {
        line.pop_back();
        owner.pop_back();
    }
    std::vector<std::size_t> out;
    for (const SelfCrossing& c : selfCrossings(line, 256)) {
        out.push_back(owner[std::size_t(c.first)]);
        out.push_back(owner[std::size_t(c.second)]);
    }
    return out;
}

} // namespace

Path fitClosed(std::span<const Point> points, std::span<const unsigned char> corners, double tolerance)
{
    if (points.size() < 3)
        return {};
    Result result = fitted(PointRun(points, corners), tolerance);
    // Where two stretches of a line lie closer than the tolerance, their curves may cross:
    // there, and only there, they are followed more closely, and at last exactly.
    const double chords = 0.25 * tolerance; // what the curves are looked at by
    std::vector<unsigned char> closeness;
    for (int round = 0; round < 12 && result.path.segments.size() > 1; ++round) {
        if (selfCrossings(flatten(result.path, chords), 1).empty())
            return result.path;
        closeness.resize(points.size(), 0);
        std::vector<unsigned char> wanted = closeness;
        for (const std::size_t segment : crossingSegments(result.path, chords)) {
            const auto [from, to] = result.over[segment];
            for (int i = from - 2; i <= to + 2; ++i) {
                const auto k = std::size_t((i + int(points.size())) % int(points.size()));
                wanted[k] = std::min<unsigned char>(3, closeness[k] + 1);
            }
        }
        if (wanted == closeness)
            break; // followed exactly already: the points themselves cross
        closeness = std::move(wanted);
        result = fitted(PointRun(points, corners, closeness), tolerance);
    }
    return selfCrossings(flatten(result.path, chords), 1).empty() ? result.path : polygonPath(points);
}

Path fitOpen(std::span<const Point> points, std::span<const unsigned char> corners, double tolerance)
{
    Path path;
    path.closed = false;
    if (points.size() < 2)
        return path;
    std::vector<unsigned char> ends(points.size(), 0);
    std::copy(corners.begin(), corners.end(), ends.begin());
    ends.front() = ends.back() = 1;
    const PointRun run(points, ends);
    Fitter fitter(run, tolerance);
    path.start = points.front();
    const int last = int(points.size()) - 1;
    for (int from = 0, to = 0; from < last; from = to) {
        to = from + 1;
        while (!ends[std::size_t(to)])
            ++to;
        for (const Fitter::Fitted& piece : fitter.span(from, to, false))
            if (straight(piece.curve))
                path.lineTo(piece.curve.p3, piece.to == to);
            else
                path.curveTo(piece.curve.p1, piece.curve.p2, piece.curve.p3, piece.to == to);
    }
    return path;
}

double deviation(std::span<const Point> points, const Path& path)
{
    const Polyline line = flatten(path, 1e-4);
    double worst = 0;
    for (Point p : points) {
        double best = std::numeric_limits<double>::infinity();
        for (std::size_t i = 0; i < line.size(); ++i) {
            const Point a = line[i], d = line[i + 1 == line.size() ? 0 : i + 1] - a;
            const double t = std::clamp(dot(p - a, d) / std::max(1e-300, dot(d, d)), 0.0, 1.0);
            best = std::min(best, distance(p, a + d * t));
        }
        worst = std::max(worst, best);
    }
    return worst;
}

} // namespace yokai
