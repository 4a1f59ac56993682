#include "check/mend.h"

#include "check/widen.h"
#include "outline/kept_edge.h"
#include "touchup/anchor.h"
#include "touchup/outlines.h"

#include <algorithm>
#include <iterator>

namespace yokai {

namespace {

// What a press works on.
struct Place {
    Job& job;
    Piece& piece;
    LineSpec& line;
    const PieceResult& result;
    const KeptEdge& edge;
    const CutLine& made;
    const Finding& finding;
};

Edit& editAt(const Place& p, EditKind kind)
{
    Edit& edit = p.line.edits.emplace_back();
    edit.kind = kind;
    edit.offset = p.made.offset;
    edit.from = edit.to = anchorOf(p.finding.at, p.edge, {p.result.sourceToMm, p.made.offset.mm()});
    return edit;
}

// An edit about what runs from one place of the line to another.
Edit& stretchAt(const Place& p, EditKind kind, Point from, Point to)
{
    Edit& edit = editAt(p, kind);
    const EditGround ground{p.result.sourceToMm, p.made.offset.mm()};
    edit.from = anchorOf(from, p.edge, ground);
    edit.to = anchorOf(to, p.edge, ground);
    if (mirrored(ground))
        std::swap(edit.from, edit.to);
    return edit;
}

void fill(const Place& p, Facing side, Length limit)
{
    const Affine back = p.result.sourceToMm.inverse();
    const Paths strip = widening(p.made.paths, side, limit.mm(), p.finding.at);
    if (strip.empty())
        return;
    Edit& edit = editAt(p, EditKind::Add);
    for (const Path& path : strip)
        edit.outlines.push_back(pointsOf(transformed(path, back)));
}
void widenIt(const Place& p) { fill(p, Facing::Material, p.job.check.leastNeck); }
void closeGap(const Place& p) { fill(p, Facing::Waste, p.job.check.leastGap); }

// The lumps near the place that is worst; what is left is found again.
void smoothIt(const Place& p)
{
    constexpr double reach = 12, lumps = 8; // tool radii
    const double radius = p.job.check.toolRadius.mm();
    const auto near = nearestPlace(*p.made.paths, p.finding.at);
    if (!near)
        return;
    const Path& path = (*p.made.paths)[near->path];
    if (!path.closed || length(path) < 4 * reach * radius) {
        editAt(p, EditKind::Smooth).size = Length::mm(lumps * radius);
        return;
    }
    stretchAt(p, EditKind::Smooth, along(path, *near, -reach * radius).at, along(path, *near, reach * radius).at).size = Length::mm(lumps * radius);
}

void closeLine(const Place& p)
{
    const Path* open = nullptr;
    for (const Path& path : *p.made.paths)
        if (!path.closed && !path.segments.empty() &&
            (!open || distance(mix(path.start, path.segments.back().end, 0.5), p.finding.at) < distance(mix(open->start, open->segments.back().end, 0.5), p.finding.at)))
            open = &path;
    if (open)
        stretchAt(p, EditKind::Join, open->segments.back().end, open->start);
}

void roundIt(const Place& p) { editAt(p, EditKind::Round).size = p.job.check.toolRadius; }
void simplifyIt(const Place& p) { editAt(p, EditKind::Simplify).size = p.line.tolerance; }
void dropIt(const Place& p) { editAt(p, EditKind::Drop); }

// Out by what is missing, so that a border of bare paper is as wide as the drift; a line that runs
// within what is printed goes in instead, which is nearer.
void moveFromTheEdge(const Place& p)
{
    const Length drift = p.job.check.drift;
    p.line.percent.reset();
    p.line.offset = p.made.offset < Length() ? -drift : drift;
}
void moveOut(const Place& p)
{
    p.line.percent.reset();
    p.line.offset = p.made.offset + Length::mm(p.finding.value - p.finding.limit);
}
void moveIn(const Place& p)
{
    p.line.percent.reset();
    p.line.offset = p.made.offset - Length::mm(p.finding.value);
}
void forget(const Place& p)
{
    std::erase_if(p.line.edits, [&](const Edit& edit) {
        return std::any_of(p.made.edits.begin(), p.made.edits.end(), [&](const EditOutcome& o) { return o.id == edit.id && o.at == p.finding.at; });
    });
}

constexpr struct {
    std::string_view code;
    const char* press;
    void (*mend)(const Place&);
} mends[] = {{"tight-corner", "Round", roundIt},       {"thin-neck", "Widen", widenIt},     {"narrow-gap", "Close", closeGap},
             {"lumpy", "Smooth", smoothIt},           {"open-line", "Close", closeLine},  {"small-part", "Drop", dropIt},       {"small-opening", "Close", dropIt},
             {"short-path", "Drop", dropIt},           {"doubled", "Drop", dropIt},          {"shows-paper", "Move", moveFromTheEdge},
             {"cuts-artwork", "Move out", moveOut},    {"kind-order", "Move in", moveIn},    {"needless-nodes", "Simplify", simplifyIt}, {"lost-edit", "Forget", forget}};

const auto* mendOf(std::string_view code)
{
    const auto found = std::find_if(std::begin(mends), std::end(mends), [&](const auto& m) { return m.code == code; });
    return found == std::end(mends) ? nullptr : &*found;
}

} // namespace

const char* pressFor(const Finding& finding)
{
    const auto* known = mendOf(finding.code);
    return known ? known->press : nullptr;
}

int mend(Job& job, const Derived& derived, std::span<const Finding> findings)
{
    Piece* piece = findings.empty() ? nullptr : find(job, findings.front().piece);
    const PieceResult* result = piece ? derived.find(piece->id) : nullptr;
    if (!result || !result->whole())
        return 0;
    const KeptEdge edge(result->layer().parts->contours, result->pxPerMm);
    const auto& made = result->layer().lines;
    int mended = 0;
    for (const Finding& finding : findings) {
        const auto* known = mendOf(finding.code);
        const auto of = std::find_if(made.begin(), made.end(), [&](const CutLine& l) { return l.id == finding.line; });
        const auto line = std::find_if(piece->lines().begin(), piece->lines().end(), [&](const LineSpec& l) { return l.id == finding.line; });
        if (!known || finding.piece != piece->id || of == made.end() || line == piece->lines().end())
            continue;
        known->mend({job, *piece, *line, *result, edge, *of, finding});
        ++mended;
    }
    return mended;
}

} // namespace yokai
