// Lumps smoothed out of a stretch, or of a whole outline.
//
// Places close together along the path are averaged with a Gaussian weight, twice, so that what bends
// slowly stays where it is (2g - g^2 instead of g: Taubin, "A signal processing approach to fair surface
// design", 1995, has the idea of a second pass against shrinking). Towards the ends of a stretch it fades out.
#include "path/fit.h"
#include "touchup/kinds.h"

#include <algorithm>
#include <cmath>

namespace yokai {

namespace {

// A path at even ways along it: closed, the last place is one step before the first.
struct Even {
    Polyline at;
    double step = 0;
    bool closed = true;
    Point operator[](std::ptrdiff_t k) const
    {
        const auto n = std::ptrdiff_t(at.size());
        return at[std::size_t(closed ? (k % n + n) % n : std::clamp<std::ptrdiff_t>(k, 0, n - 1))];
    }
};

Even evenly(const Path& path, double wanted)
{
    constexpr double fine = 0.002; // mm
    const Polyline line = flatten(path, fine);
    const double whole = length(path);
    constexpr std::size_t most = 200'000;
    const std::size_t n = std::clamp<std::size_t>(std::size_t(std::ceil(whole / wanted)), 8, most);
    Even out;
    out.closed = path.closed;
    out.step = whole / double(n);
    double gone = 0;
    const std::size_t ends = line.size() - (path.closed ? 0 : 1);
    for (std::size_t k = 0; k < ends; ++k) {
        const Point a = line[k], b = line[(k + 1) % line.size()];
        const double way = distance(a, b);
        while (out.at.size() < n + (path.closed ? 0 : 1) && double(out.at.size()) * out.step <= gone + way + 1e-9)
            out.at.push_back(mix(a, b, way > 0 ? std::clamp((double(out.at.size()) * out.step - gone) / way, 0.0, 1.0) : 0));
        gone += way;
    }
    return out;
}

Even averaged(const Even& line, double sigma)
{
    const auto reach = std::ptrdiff_t(std::ceil(3 * sigma / line.step));
    std::vector<double> weights;
    for (std::ptrdiff_t k = -reach; k <= reach; ++k)
        weights.push_back(std::exp(-0.5 * std::pow(double(k) * line.step / sigma, 2)));
    Even out = line;
    for (std::size_t i = 0; i < line.at.size(); ++i) {
        Point sum;
        double whole = 0;
        for (std::ptrdiff_t k = -reach; k <= reach; ++k) {
            sum = sum + line[std::ptrdiff_t(i) + k] * weights[std::size_t(k + reach)];
            whole += weights[std::size_t(k + reach)];
        }
        out.at[i] = sum * (1 / whole);
    }
    return out;
}

} // namespace

EditFate smoothStretch(const Edit& edit, const EditGround& ground, Paths& paths, EditOutcome& out)
{
    const auto stretch = heldStretch(edit, paths, ground, out);
    if (!stretch)
        return EditFate::NoPlace;
    constexpr double ofTheLumps = 0.4, steps = 12, tolerance = 0.005; // the weight's width; places to a lump; mm of the fit
    const double size = edit.size.mm(), sigma = ofTheLumps * size;
    Path& path = paths[stretch->path];
    if (size <= 0 || length(path) < 2 * size || path.segments.empty())
        return EditFate::DoesNotFit;
    const Even line = evenly(path, size / steps), once = averaged(line, sigma), twice = averaged(once, sigma);
    const auto smooth = [&](std::size_t k) { return once.at[k] * 2 - twice.at[k]; };
    if (stretch->whole && path.closed) {
        Polyline points;
        for (std::size_t k = 0; k < line.at.size(); ++k) {
            points.push_back(smooth(k));
            out.strayed = std::max(out.strayed, distance(points.back(), line.at[k]));
        }
        path = fitClosed(points, {}, tolerance);
        return path.segments.empty() ? EditFate::DoesNotFit : EditFate::Held;
    }
    auto [from, until] = std::pair(stretch->from, stretch->to);
    if (!path.closed && wayTo(path, from) > wayTo(path, until))
        std::swap(from, until);
    const double whole = length(path), begin = wayTo(path, from), to = wayTo(path, until);
    const double end = to > begin || !path.closed ? to : to + whole;
    if (end - begin < size)
        return EditFate::DoesNotFit;
    Polyline points{from.at};
    for (auto k = std::ptrdiff_t(std::floor(begin / line.step)) + 1; double(k) * line.step < end - 1e-6; ++k) {
        const double way = double(k) * line.step, fade = std::clamp(std::min(way - begin, end - way) / sigma, 0.0, 1.0);
        const auto i = std::size_t(k % std::ptrdiff_t(line.at.size()));
        const Point by = (smooth(i) - line.at[i]) * (fade * fade * (3 - 2 * fade));
        out.strayed = std::max(out.strayed, norm(by));
        points.push_back(line.at[i] + by);
    }
    points.push_back(until.at);
    out.at = points[points.size() / 2];
    const Path laid = fitOpen(points, {}, tolerance);
    path = withStretch(path, from, until, laid);
    return EditFate::Held;
}

} // namespace yokai
