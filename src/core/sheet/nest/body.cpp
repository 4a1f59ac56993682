#include "sheet/nest/body.h"

#include "base/work.h"

namespace yokai::nesting {

namespace {

// Steps of the field across the longer side, and the finest worth having: what it leaves uncertain is less
// than the last exact push makes good.
constexpr int stepsAcross = 80;
constexpr double finestStep = 0.2; // mm

// How far apart samples lie on a straight stretch: a corner of the other is a sample of its own, so this only has to
// be small beside the width of what could slip in between.
constexpr double samplesAround = 90, closestSamples = 0.8; // mm

Contours contoursOf(const std::vector<Polyline>& rings)
{
    Contours out;
    for (const Polyline& ring : rings) {
        Contour& c = out.emplace_back();
        c.points = ring;
        c.area = signedArea(ring);
    }
    return out;
}

} // namespace

Pose poseOf(const Affine& map, Point middle)
{
    const bool mirror = map.det() < 0;
    return {map(middle), mirror ? std::atan2(-map.b, -map.a) : std::atan2(map.b, map.a), mirror};
}

Body::Body(std::vector<Polyline> rings, double reach, double far) : rings_(std::move(rings)), reach_(reach)
{
    for (const Polyline& ring : rings_)
        box_.add(bounds(ring));
    if (rings_.empty()) {
        edge_ = std::make_unique<const KeptEdge>(Contours{}, 1);
        return;
    }
    middle_ = box_.centre();
    box_ = box_.moved({-middle_.x, -middle_.y});
    for (Polyline& ring : rings_) {
        for (Point& p : ring) {
            p = p - middle_;
            radius_ = std::max(radius_, norm(p));
        }
        area_ += signedArea(ring);
        vertices_ += ring.size();
        outline_ += length(std::span<const Point>(ring));
    }
    area_ = std::abs(area_);
    edge_ = std::make_unique<const KeptEdge>(contoursOf(rings_), 1);
    sample();
    group();
    measure(far);
}

void Body::sample()
{
    const double spacing = std::max(closestSamples, outline_ / samplesAround);
    for (const Polyline& ring : rings_) {
        const std::size_t n = ring.size();
        // Vertices at least half a spacing apart, corners always; long sides in between.
        double since = spacing;
        for (std::size_t k = 0; k < n; ++k) {
            const Point p = ring[k], next = ring[(k + 1) % n], before = ring[(k + n - 1) % n];
            const double side = distance(p, next);
            constexpr double cornerCosine = 0.9; // of a turn by 26 degrees
            const bool corner = dot(unit(p - before), unit(next - p)) < cornerCosine;
            if (since >= spacing / 2 || corner) {
                samples_.push_back(p);
                since = 0;
            }
            const int parts = int(side / spacing);
            for (int i = 1; i <= parts; ++i)
                samples_.push_back(mix(p, next, double(i) / (parts + 1)));
            since = parts > 0 ? side / (parts + 1) : since + side;
        }
    }
    share_ = outline_ / double(samples_.size());
}

void Body::group()
{
    constexpr std::size_t most = 8;
    for (std::size_t first = 0; first < samples_.size(); first += most) {
        Group& g = groups_.emplace_back();
        g.first = first;
        g.count = std::min(most, samples_.size() - first);
        g.at = bounds(std::span(samples_).subspan(first, g.count)).centre();
        for (std::size_t k = first; k < first + g.count; ++k)
            g.radius = std::max(g.radius, distance(g.at, samples_[k]));
    }
}

void Body::measure(double far)
{
    const double step = std::max(finestStep, std::max(box_.width(), box_.height()) / stepsAcross);
    perStep_ = 1 / step;
    field_ = box_.grown(far + step);
    columns_ = int(field_.width() * perStep_) + 2;
    rows_ = int(field_.height() * perStep_) + 2;
    lastColumn_ = columns_ - 1;
    lastRow_ = rows_ - 1;
    distances_.resize(std::size_t(columns_) * std::size_t(rows_));
    eachRow(rows_, columns_, {}, [&](int y) {
        for (int x = 0; x < columns_; ++x)
            distances_[std::size_t(y) * std::size_t(columns_) + std::size_t(x)] = float(edge_->distanceTo({field_.x0 + x * step, field_.y0 + y * step}));
    });
}

namespace {

// The points of one against the edge of the other.
void look(const Body& of, const Pose& poseOf, const Body& in, const Pose& poseIn, double side, double unless, Apart& out)
{
    const Affine map = poseIn.map().inverse() * poseOf.map();
    const Affine back = poseIn.map();
    const Rect near = in.box().grown(std::min(unless, out.distance));
    for (const Polyline& ring : of.rings())
        for (const Point p : ring) {
            const Point at = map(p);
            if (!near.contains(at))
                continue;
            Body::Reading coarse{};
            // What the field says is far off is not asked for exactly.
            constexpr double doubt = 0.7; // mm: more than the field can be wrong by
            if (in.read(at, coarse) && coarse.away > out.distance + doubt)
                continue;
            const KeptEdge::Nearest nearest = in.edge().nearest(at);
            if (nearest.away < out.distance) {
                out.distance = nearest.away;
                const Point way = {back.a * nearest.out.x + back.c * nearest.out.y, back.b * nearest.out.x + back.d * nearest.out.y};
                out.way = way * side;
            }
        }
}

} // namespace

bool apart(const Body& a, const Pose& poseA, const Body& b, const Pose& poseB, double unless, Apart& out)
{
    out = {unless, {}};
    if (distance(poseA.at, poseB.at) > a.radius() + b.radius() + unless)
        return false;
    look(a, poseA, b, poseB, 1, unless, out);
    look(b, poseB, a, poseA, -1, unless, out);
    return out.distance < unless;
}

} // namespace yokai::nesting
