#include "register/bend.h"

#include "path/cut.h"

#include <algorithm>
#include <cmath>
#include <optional>

namespace yokai {

namespace {

// Where the smooth line through values at rising places is at another (Catmull and Rom's cubic, its ends straight on).
Point smoothly(const std::vector<double>& at, const std::vector<Point>& value, double x)
{
    const std::size_t n = at.size();
    const auto slope = [&](std::size_t i) {
        const std::size_t a = i == 0 ? 0 : i - 1, b = i + 1 == n ? i : i + 1;
        return (value[b] - value[a]) * (1 / (at[b] - at[a]));
    };
    if (x <= at.front())
        return value.front() + slope(0) * (x - at.front());
    if (x >= at.back())
        return value.back() + slope(n - 1) * (x - at.back());
    const std::size_t k = std::size_t(std::upper_bound(at.begin(), at.end(), x) - at.begin()) - 1;
    const double h = at[k + 1] - at[k], t = (x - at[k]) / h;
    const double t2 = t * t, t3 = t2 * t;
    return value[k] * (2 * t3 - 3 * t2 + 1) + slope(k) * (h * (t3 - 2 * t2 + t)) + value[k + 1] * (3 * t2 - 2 * t3) + slope(k + 1) * (h * (t3 - t2));
}

Point bentBy(const std::vector<Bend::Band>& bands, double along, double across)
{
    std::vector<double> at;
    std::vector<Point> low, high;
    for (const Bend::Band& b : bands) {
        at.push_back(b.at);
        low.push_back(b.low);
        high.push_back(b.high);
    }
    const double t = (across - bands.front().lowAt) / (bands.front().highAt - bands.front().lowAt);
    return mix(smoothly(at, low, along), smoothly(at, high, along), t);
}

// Marks in pairs across the sheet, three pairs or more: each pair a band. What lies alone, as the one that tells the way up, is in none.
std::optional<Bend> bandsOf(std::span<const MarkPair> marks, const Homography& map)
{
    constexpr double together = 2; // mm along: nearer marks are of one band
    Rect box = Rect::nothing();
    for (const MarkPair& m : marks)
        box.add(m.design);
    Bend bend;
    bend.alongX = box.width() > box.height();
    const auto along = [&](Point p) { return bend.alongX ? p.x : p.y; };
    const auto across = [&](Point p) { return bend.alongX ? p.y : p.x; };
    std::vector<MarkPair> sorted(marks.begin(), marks.end());
    std::sort(sorted.begin(), sorted.end(), [&](const MarkPair& x, const MarkPair& y) { return along(x.design) < along(y.design); });
    for (std::size_t i = 0; i < sorted.size();) {
        std::size_t end = i;
        const MarkPair *low = &sorted[i], *high = low;
        for (; end < sorted.size() && along(sorted[end].design) - along(sorted[i].design) < together; ++end) {
            low = across(sorted[end].design) < across(low->design) ? &sorted[end] : low;
            high = across(sorted[end].design) > across(high->design) ? &sorted[end] : high;
        }
        if (across(high->design) - across(low->design) > 0.5 * (bend.alongX ? box.height() : box.width()))
            bend.bands.push_back({along(sorted[i].design), low->measured - map(low->design), high->measured - map(high->design), across(low->design), across(high->design)});
        i = end;
    }
    return bend.bands.size() < 3 ? std::nullopt : std::optional(bend);
}

} // namespace

void addBend(Fit& fit, std::span<const MarkPair> marks, double reading)
{
    constexpr double byChance = 3.5; // times: the worst of eight marks lies farther off in 2 of 100 sheets that do not bend
    auto bend = bandsOf(marks, fit.map);
    if (!bend || fit.worst <= std::max(readingNoise * 3, byChance * reading) || !fit.leftOut.empty() || !fit.order.empty())
        return;
    fit.bend = std::move(*bend);
    double sum = 0;
    fit.worst = 0;
    for (std::size_t i = 0; i < marks.size(); ++i) {
        const Point p = marks[i].design;
        std::vector<Bend::Band> others;
        for (const Bend::Band& b : fit.bend.bands)
            if (std::abs(b.at - (fit.bend.alongX ? p.x : p.y)) > 2)
                others.push_back(b);
        const bool apart = others.size() >= 2;
        const Point foretold = fit.map(p) + (apart ? bentBy(others, fit.bend.alongX ? p.x : p.y, fit.bend.alongX ? p.y : p.x) : Point{});
        fit.residuals[i] = distance(foretold, marks[i].measured);
        // The first and the last band lie outside of the others, from where little can be foretold: they are told by the bent map itself.
        const double along = fit.bend.alongX ? p.x : p.y;
        if (along < fit.bend.bands.front().at + 2 || along > fit.bend.bands.back().at - 2)
            fit.residuals[i] = distance(fit(p), marks[i].measured);
        fit.worst = std::max(fit.worst, fit.residuals[i]);
        sum += fit.residuals[i] * fit.residuals[i];
    }
    fit.rms = std::sqrt(sum / double(marks.size()));
}

Point Bend::operator()(Point design) const
{
    if (bands.empty())
        return {};
    return bentBy(bands, alongX ? design.x : design.y, alongX ? design.y : design.x);
}

Path Fit::operator()(const Path& path) const
{
    if (bend.bands.empty())
        return map(path);
    // In stretches short against the distance of the bands, of which each is as good as straight.
    constexpr double longest = 10; // mm
    Path out;
    out.closed = path.closed;
    out.start = (*this)(path.start);
    std::size_t k = 0;
    path.each([&](Point from, const Segment& segment) {
        Segment rest = segment;
        const bool corner = k < path.corners.size() && path.corners[k];
        const int pieces = std::max(1, int(std::ceil(distance(from, segment.end) / longest)));
        for (int i = 0; i < pieces; ++i) {
            Segment piece = rest;
            if (i + 1 < pieces) {
                const Halves halves = split(from, rest, 1.0 / (pieces - i));
                piece = halves.before;
                rest = halves.after;
            }
            const bool line = segment.line;
            out.segments.push_back({(*this)(piece.c1), (*this)(piece.c2), (*this)(piece.end), line});
            out.corners.push_back(i + 1 == pieces && corner);
            from = piece.end;
        }
        ++k;
    });
    return out;
}

} // namespace yokai
