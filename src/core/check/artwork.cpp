// Lines that run through what is kept, or so close to its edge that paper would show.
#include "check/checks.h"
#include "check/faults.h"
#include "outline/kept_edge.h"

#include <algorithm>

namespace yokai {

namespace {

// How far a line lies from the kept edge, place by place.
struct FromEdge {
    Point at;
    double away = 0; // mm, positive outside
};
using FromEdges = std::vector<FromEdge>;
void owned(const FromEdges& all, Owns& out) { out.push_back({&all, all.capacity() * sizeof(FromEdge)}); }

struct FromEdgeIn {
    static constexpr const char* step = "from edge";
    static constexpr const char* time = "check";
    using Out = FromEdges;
    PathSet paths;
    std::shared_ptr<const Parts> parts;
    double pxPerMm = 1;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("paths", self.paths);
        visit("scale", self.pxPerMm);
        for (const Contour& c : self.parts->contours)
            visit("contour", c.points);
    }
    std::shared_ptr<const FromEdges> make(Run& run) const
    {
        constexpr double apart = 0.25; // mm
        auto out = std::make_shared<FromEdges>();
        const KeptEdge edge(parts->contours, pxPerMm);
        for (std::size_t k = 0; k < paths.size(); ++k)
            paths[k].each([&](Point from, const Segment& s) {
                run.work().check();
                const int steps = std::max(1, int(std::ceil(distance(from, s.end) / apart)));
                for (int i = 0; i < steps; ++i) {
                    const Point at = pointOn(from, s, double(i) / steps);
                    out->push_back({at, edge.distanceTo(at)});
                }
            });
        return out;
    }
};

// All but the holes put where they are by hand: those are meant, whatever they go through.
PathSet pathsOf(const CutLine& line)
{
    PathSet out{line.paths, {}};
    for (std::size_t k = 0; k < line.paths->size(); ++k)
        if (!isHole(line, (*line.paths)[k]))
            out.which.push_back(k);
    return out;
}

// An outline that nothing was done to keeps its distance everywhere, and is not measured.
bool keepsItsDistance(const CutLine& line) { return line.shape == LineShape::Outline && line.edits.empty(); }

FromEdges fromEdge(const CheckGround& ground, const PieceResult& piece, const LayerResult& layer, const CutLine& line)
{
    if (line.paths->empty() || !layer.parts)
        return {};
    if (keepsItsDistance(line))
        return {{line.paths->front().start, line.offset.mm()}};
    return *ground.run(FromEdgeIn{pathsOf(line), layer.parts, piece.pxPerMm});
}

bool cutsOff(LineKind kind) { return kind == LineKind::Through || kind == LineKind::Kiss; }

} // namespace

void checkArtwork(const CheckGround& ground, Findings& found)
{
    eachLine(ground.derived, [&](const PieceResult& piece, const LayerResult& layer, const CutLine& line) {
        if (!cutsOff(line.kind) || piece.clear)
            return;
        // As deep as the line was asked to run is meant.
        constexpr double exactly = 0.05; // mm
        const double meant = std::max(0.0, -line.offset.mm());
        FromEdge deepest;
        for (const FromEdge& place : fromEdge(ground, piece, layer, line))
            if (place.away < deepest.away)
                deepest = place;
        if (-deepest.away > meant + exactly)
            found.push_back({"cuts-artwork", Severity::Error, piece.id, line.id, deepest.at, -deepest.away, meant});
    });
}

void checkPaper(const CheckGround& ground, Findings& found)
{
    const double drift = ground.job.check.drift.mm();
    for (const PieceResult& piece : ground.derived.pieces)
        for (const LayerResult& layer : piece.layers) {
            if (!layer.isPrinted)
                continue;
            const double printed = layer.printReach.mm();
            for (const CutLine& line : layer.lines) {
                if (!cutsOff(line.kind))
                    continue;
                double missing = 0;
                Point at;
                const auto meant = [&](Point p) { return std::any_of(line.bare.begin(), line.bare.end(), [&](const BarePlace& d) { return d.holds(p); }); };
                for (const FromEdge& place : fromEdge(ground, piece, layer, line))
                    if (const double past = place.away - printed; std::abs(past) < drift && past + drift > missing && !meant(place.at)) {
                        missing = past + drift;
                        at = place.at;
                    }
                if (missing > 0)
                    found.push_back({"shows-paper", Severity::Warning, piece.id, line.id, at, missing, drift});
            }
        }
}

} // namespace yokai
