#include "check/mend.h"

#include "check/widen.h"
#include "outline/kept_edge.h"
#include "touchup/anchor.h"
#include "touchup/outlines.h"

#include <algorithm>
#include <iterator>

namespace yokai {

// The line that a press works on.
struct OfLine {
    Job& job;
    Piece& piece;
    LineSpec& line;
    const PieceResult& result;
    const KeptEdge& edge;
    const CutLine& made;
    const Work& work;
};

namespace {

Edit& editAt(const OfLine& p, EditKind kind, Point at)
{
    Edit& edit = p.line.edits.emplace_back();
    edit.kind = kind;
    edit.offset = p.made.offset;
    edit.from = edit.to = anchorOf(at, p.edge, {p.result.sourceToMm, p.made.offset.mm()});
    return edit;
}

// An edit about what runs from one place of the line to another.
Edit& stretchAt(const OfLine& p, EditKind kind, Point from, Point to)
{
    Edit& edit = editAt(p, kind, from);
    const EditGround ground{p.result.sourceToMm, p.made.offset.mm()};
    edit.from = anchorOf(from, p.edge, ground);
    edit.to = anchorOf(to, p.edge, ground);
    if (mirrored(ground))
        std::swap(edit.from, edit.to);
    return edit;
}

// One strip for all, so that those that meet are one.
void putStrip(const OfLine& p, std::span<const Finding> all, Facing side, Length limit, EditKind kind)
{
    const Affine back = p.result.sourceToMm.inverse();
    std::vector<Point> at;
    for (const Finding& finding : all)
        at.push_back(finding.at);
    const Paths strip = widening(p.made.paths, side, limit.mm(), at, kind == EditKind::Add ? Combine::Unite : Combine::TakeAway, p.work);
    if (strip.empty())
        return;
    Edit& edit = editAt(p, kind, at.front());
    for (const Path& path : strip)
        edit.outlines.push_back(pointsOf(transformed(path, back)));
}
void widenIt(const OfLine& p, std::span<const Finding> all) { putStrip(p, all, Facing::Material, p.job.check.leastNeck, EditKind::Add); }
void closeGap(const OfLine& p, std::span<const Finding> all) { putStrip(p, all, Facing::Waste, p.job.check.leastGap, EditKind::Add); }
void partGap(const OfLine& p, std::span<const Finding> all) { putStrip(p, all, Facing::Waste, p.job.check.leastGap, EditKind::TakeAway); }

// The lumps near the place that is worst; what is left is found again.
void smoothIt(const OfLine& p, const Finding& finding)
{
    constexpr double reach = 12, lumps = 8; // tool radii
    const double radius = p.job.check.toolRadius.mm();
    const auto near = nearestPlace(*p.made.paths, finding.at);
    if (!near)
        return;
    const Path& path = (*p.made.paths)[near->path];
    if (!path.closed || length(path) < 4 * reach * radius) {
        editAt(p, EditKind::Smooth, finding.at).size = Length::mm(lumps * radius);
        return;
    }
    stretchAt(p, EditKind::Smooth, along(path, *near, -reach * radius).at, along(path, *near, reach * radius).at).size = Length::mm(lumps * radius);
}

void closeLine(const OfLine& p, const Finding& finding)
{
    const Path* open = nullptr;
    for (const Path& path : *p.made.paths)
        if (!path.closed && !path.segments.empty() &&
            (!open || distance(mix(path.start, path.segments.back().end, 0.5), finding.at) < distance(mix(open->start, open->segments.back().end, 0.5), finding.at)))
            open = &path;
    if (open)
        stretchAt(p, EditKind::Join, open->segments.back().end, open->start);
}

void roundIt(const OfLine& p, const Finding& finding) { editAt(p, EditKind::Round, finding.at).size = p.job.check.toolRadius; }
void simplifyIt(const OfLine& p, const Finding& finding) { editAt(p, EditKind::Simplify, finding.at).size = p.line.tolerance; }
void dropIt(const OfLine& p, const Finding& finding) { editAt(p, EditKind::Drop, finding.at); }

// Out by what is missing, so that a border of bare paper is as wide as the drift; a line that runs
// within what is printed goes in instead, which is nearer.
void moveFromTheEdge(const OfLine& p, const Finding&)
{
    const Length drift = p.job.check.drift;
    p.line.percent.reset();
    p.line.offset = p.made.offset < Length() ? -drift : drift;
}
void moveOut(const OfLine& p, const Finding& finding)
{
    p.line.percent.reset();
    p.line.offset = p.made.offset + Length::mm(finding.value - finding.limit);
}
void moveIn(const OfLine& p, const Finding& finding)
{
    p.line.percent.reset();
    p.line.offset = p.made.offset - Length::mm(finding.value);
}
void forget(const OfLine& p, const Finding& finding)
{
    std::erase_if(p.line.edits, [&](const Edit& edit) {
        return std::any_of(p.made.edits.begin(), p.made.edits.end(), [&](const EditOutcome& o) { return o.id == edit.id && o.at == finding.at; });
    });
}

// What mends each by itself.
template <void (*one)(const OfLine&, const Finding&)> void each(const OfLine& p, std::span<const Finding> all)
{
    for (const Finding& finding : all)
        one(p, finding);
}

// Those of one kind stand together, the likeliest first.
constexpr Mend mends[] = {{"tight-corner", "Round", each<roundIt>},
                          {"thin-neck", "Widen", widenIt},
                          {"narrow-gap", "Close", closeGap},
                          {"narrow-gap", "Part", partGap},
                          {"lumpy", "Smooth", each<smoothIt>},
                          {"open-line", "Close", each<closeLine>},
                          {"small-part", "Drop", each<dropIt>},
                          {"small-opening", "Close", each<dropIt>},
                          {"short-path", "Drop", each<dropIt>},
                          {"doubled", "Drop", each<dropIt>},
                          {"shows-paper", "Move", each<moveFromTheEdge>},
                          {"cuts-artwork", "Move out", each<moveOut>},
                          {"kind-order", "Move in", each<moveIn>},
                          {"needless-nodes", "Simplify", each<simplifyIt>},
                          {"lost-edit", "Forget", each<forget>}};

} // namespace

std::span<const Mend> mendsFor(const Finding& finding)
{
    const auto first = std::find_if(std::begin(mends), std::end(mends), [&](const Mend& m) { return m.code == finding.code; });
    const auto last = std::find_if(first, std::end(mends), [&](const Mend& m) { return m.code != finding.code; });
    return {first, last};
}

void mend(Job& job, const Derived& derived, std::span<const Finding> findings, const Mend& how, const Work& work)
{
    Piece* piece = findings.empty() ? nullptr : find(job, findings.front().piece);
    const PieceResult* result = piece ? derived.find(piece->id) : nullptr;
    if (!result || !result->whole())
        return;
    for (Layer& layer : piece->layers) {
        const LayerResult& of = result->layer(layer.id);
        if (!of.parts)
            continue;
        const KeptEdge edge(of.parts->contours, result->pxPerMm);
        for (const CutLine& made : of.lines) {
            work.check();
            Findings all;
            std::copy_if(findings.begin(), findings.end(), std::back_inserter(all),
                         [&](const Finding& f) { return f.code == how.code && f.line == made.id && f.piece == piece->id; });
            const auto line = std::find_if(layer.lines.begin(), layer.lines.end(), [&](const LineSpec& l) { return l.id == made.id; });
            if (!all.empty() && line != layer.lines.end())
                how.mend({job, *piece, *line, *result, edge, made, work}, all);
        }
    }
}

} // namespace yokai
