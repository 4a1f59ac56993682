// Lines that cross themselves or each other, lie on each other, run too close beside each other, or
// do not close.
#include "check/checks.h"
#include "check/overlaps.h"

namespace yokai {

namespace {

struct OverlapsIn {
    static constexpr const char* step = "overlaps";
    static constexpr const char* time = "check";
    using Out = Overlaps;
    PathSet paths;
    std::vector<int> line; // of each path
    double gap = 0;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("paths", self.paths);
        visit("line", self.line);
        visit("gap", self.gap);
    }
    std::shared_ptr<const Overlaps> make(Run&) const { return std::make_shared<const Overlaps>(overlapsOf(paths, line, gap)); }
};

void checkLayerLines(const CheckGround& ground, const PieceResult& piece, const LayerResult& layer, Findings& found)
{
    const auto all = std::make_shared<Paths>();
    std::vector<int> lineOf;
    for (std::size_t l = 0; l < layer.lines.size(); ++l) {
        all->insert(all->end(), layer.lines[l].paths->begin(), layer.lines[l].paths->end());
        lineOf.resize(all->size(), int(l));
    }
    const double gap = ground.job.check.leastGap.mm();
    std::vector<OverlapsIn> ins;
    for (const PathSet& paths : together(all, gap)) {
        ins.push_back({paths, {}, gap});
        for (const std::size_t k : paths.which)
            ins.back().line.push_back(lineOf[k]);
    }
    const auto results = ground.run.all(ins);
    for (std::size_t k = 0; k < ins.size(); ++k) {
        const OverlapsIn& in = ins[k];
        const auto& overlaps = results[k].value;
        const auto add = [&](const char* code, Severity severity, const Faults& faults, double limit) {
            for (const Fault& fault : faults)
                found.push_back({code, severity, piece.id, layer.lines[std::size_t(in.line[std::size_t(fault.path)])].id, fault.at, fault.value, limit});
        };
        add("crossing", Severity::Error, overlaps->crossings, 0);
        add("doubled", Severity::Error, overlaps->doubled, 0);
        add("narrow-gap", Severity::Warning, overlaps->close, gap);
    }
}

} // namespace

void checkCrossings(const CheckGround& ground, Findings& found)
{
    for (const PieceResult& piece : ground.derived.pieces)
        for (const LayerResult& layer : piece.layers)
            checkLayerLines(ground, piece, layer, found);
    eachLine(ground.derived, [&](const PieceResult& piece, const LayerResult&, const CutLine& line) {
        for (const Path& path : *line.paths)
            if (!path.closed && !path.segments.empty())
                found.push_back({"open-line", Severity::Error, piece.id, line.id, path.start, distance(path.start, path.segments.back().end), 0});
    });
}

} // namespace yokai
