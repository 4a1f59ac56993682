// Kiss lines outside their piece's through line: what they hold falls off with the waste.
#include "check/checks.h"
#include "check/trace.h"

namespace yokai {

namespace {

struct OutsideIn {
    static constexpr const char* step = "kiss outside";
    static constexpr const char* time = "check";
    using Out = Faults; // the farthest place outside, of each path
    PathSet kiss, through;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("kiss", self.kiss);
        visit("through", self.through);
    }
    std::shared_ptr<const Faults> make(Run& run) const;
};

PathSet throughOf(const std::vector<CutLine>& lines)
{
    auto all = std::make_shared<Paths>();
    for (const CutLine& line : lines)
        if (line.kind == LineKind::Through)
            all->insert(all->end(), line.paths->begin(), line.paths->end());
    PathSet out{all, {}};
    for (std::size_t k = 0; k < all->size(); ++k)
        out.which.push_back(k);
    return out;
}

// Those whose boxes overlap the one given: no other can be round what lies in it. All where there is none.
PathSet nearest(const PathSet& paths, const Rect& box)
{
    PathSet out{paths.all, {}};
    for (std::size_t k = 0; k < paths.size(); ++k)
        if (bounds(paths[k]).overlaps(box))
            out.which.push_back(paths.which[k]);
    return out.size() > 0 ? out : paths;
}

std::shared_ptr<const Faults> OutsideIn::make(Run& run) const
{
    constexpr double flatness = 0.02, apart = 0.5; // mm
    struct Shape {
        Polyline points;
        Rect box;
    };
    std::vector<Shape> shapes;
    for (std::size_t k = 0; k < through.size(); ++k) {
        Polyline points = flatten(through[k], flatness);
        const Rect box = bounds(points);
        shapes.push_back({std::move(points), box});
    }
    auto out = std::make_shared<Faults>();
    const Trace trace(kiss, apart, apart);
    for (const Trace::Place& place : trace.places()) {
        run.work().check();
        bool inside = false;
        double away = std::numeric_limits<double>::infinity();
        for (const Shape& shape : shapes)
            if (shape.box.contains(place.at) && contains(shape.points, place.at))
                inside = !inside;
        if (inside)
            continue;
        for (const Shape& shape : shapes)
            for (std::size_t k = 0; k < shape.points.size(); ++k) {
                const Point from = shape.points[k], d = shape.points[k + 1 == shape.points.size() ? 0 : k + 1] - from;
                const double squared = dot(d, d), t = squared > 0 ? std::clamp(dot(place.at - from, d) / squared, 0.0, 1.0) : 0;
                away = std::min(away, distance(place.at, from + d * t));
            }
        constexpr double exactly = 0.05; // mm: on the line is not outside
        if (away <= exactly)
            continue;
        if (out->empty() || out->back().path != place.path)
            out->push_back({place.at, away, place.path});
        else if (away > out->back().value)
            out->back() = {place.at, away, place.path};
    }
    return out;
}

} // namespace

void checkKindOrder(const CheckGround& ground, Findings& found)
{
    for (const PieceResult& piece : ground.derived.pieces)
        for (const LayerResult& layer : piece.layers) {
            const PathSet through = throughOf(layer.lines);
            if (through.size() == 0)
                continue;
            for (const CutLine& line : layer.lines)
                if (line.kind == LineKind::Kiss)
                    for (const PathSet& kiss : singly(line.paths))
                        for (const Fault& fault : *ground.run(OutsideIn{kiss, nearest(through, bounds(kiss[0]))}))
                            found.push_back({"kind-order", Severity::Warning, piece.id, line.id, fault.at, fault.value, 0});
        }
}

} // namespace yokai
