#include "job/cut_lines.h"

#include "job/steps/lines.h"
#include "outline/figures.h"
#include "touchup/outlines.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace yokai {

namespace {

constexpr double leastFigure = 0.01; // mm: a figure smaller than this has vanished

double closedUpTo(const LineSpec& spec, double pxPerMm)
{
    return spec.openings == LineOpenings::None   ? std::numeric_limits<double>::infinity()
           : spec.openings == LineOpenings::Over ? spec.openingsOver * pxPerMm * pxPerMm
                                                 : 0;
}

// Of the stated tolerance half is left to the edge itself. Following an edge more closely than it is known only makes nodes.
double fitTolerance(const LineSpec& spec, const LineGround& ground)
{
    constexpr double fitShare = 0.5;
    return std::max(fitShare * spec.tolerance.mm(), ground.uncertain / ground.pxPerMm);
}

std::shared_ptr<const Paths> outlineOf(const LineSpec& spec, Length offset, const LineGround& ground, Run& run)
{
    const double pxPerMm = ground.pxPerMm, closed = closedUpTo(spec, pxPerMm);
    const Made<DistanceField> field = run(FieldIn{ground.parts, closed > 0 ? closed : -1, spec.joinGap.mm() * pxPerMm});
    const Made<LevelLines> lines =
        run(LevelIn{field, {offset.mm() * pxPerMm, spec.corners, spec.sharpLimit, spec.roundInside.mm() * pxPerMm, closed}});
    return run(FitIn{lines, fitTolerance(spec, ground) * pxPerMm, pxPerMm}).value;
}

// The corners of the kept shape's hull, mm.
std::vector<Point> hullPoints(const LineGround& ground)
{
    std::vector<Point> points;
    for (const Contour& c : ground.parts->contours)
        if (!c.opening())
            for (const Point p : hullOf(c.points))
                points.push_back(p * (1 / ground.pxPerMm));
    return points;
}

// A plain figure round what is kept. Nothing where an inward distance leaves nothing.
Paths figureOf(const LineSpec& spec, double offset, const LineGround& ground)
{
    const auto ellipse = [](Point centre, double across, double down) {
        return std::min(across, down) > leastFigure ? Paths{ellipseFigure(centre, across, down)} : Paths{};
    };
    switch (spec.shape) {
    case LineShape::Outline:
    case LineShape::BoxRoundAll: // made when all others are known
        return {};
    case LineShape::Drawn: {
        Paths out;
        for (const DrawnOutline& outline : spec.drawn)
            if (Path path = curvesOf(outline.points, outline.closed); !path.segments.empty())
                out.push_back(transformed(path, ground.sourceToMm));
        // A mirrored picture turns them the other way round.
        if (ground.sourceToMm.det() < 0)
            for (Path& path : out)
                path = reversed(path);
        return out;
    }
    case LineShape::Box:
    case LineShape::RoundedBox: {
        const Rect box = ground.kept.grown(offset);
        return box.empty() ? Paths{} : Paths{boxFigure(box, spec.shape == LineShape::RoundedBox ? spec.boxRadius.mm() : 0)};
    }
    case LineShape::Circle: {
        const Circle c = smallestCircle(hullPoints(ground));
        return ellipse(c.centre, c.radius + offset, c.radius + offset);
    }
    case LineShape::Ellipse: {
        const Point half = ellipseRound(hullPoints(ground));
        return ellipse(ground.kept.centre(), half.x + offset, half.y + offset);
    }
    }
    return {};
}

void measure(CutLine& line)
{
    line.length = lengthOf(*line.paths);
    line.area = areaOf(*line.paths);
    line.nodes = nodesOf(*line.paths);
}

// How the parts fare under an inward line. Lines and parts are met in order of their left
// sides, so that only those whose boxes overlap are looked at.
void countLosses(CutLine& line, const LineGround& ground, const Work& work)
{
    struct Kept {
        const Contour* contour;
        Rect box; // mm
        int lines = 0;
    };
    std::vector<Kept> parts;
    for (const Contour& c : ground.parts->contours)
        if (!c.opening()) {
            const Rect b = bounds(c.points);
            const double k = 1 / ground.pxPerMm;
            parts.push_back({&c, {b.x0 * k, b.y0 * k, b.x1 * k, b.y1 * k}, 0});
        }
    std::sort(parts.begin(), parts.end(), [](const Kept& a, const Kept& b) { return a.box.x0 < b.box.x0; });
    std::vector<const Path*> paths;
    for (const Path& path : *line.paths)
        if (signedArea(path) > 0)
            paths.push_back(&path);
    std::sort(paths.begin(), paths.end(), [](const Path* a, const Path* b) { return a->start.x < b->start.x; });
    std::vector<Kept*> open; // parts begun and not ended at the present x
    std::size_t next = 0;
    for (std::size_t i = 0; i < paths.size(); ++i) {
        if ((i & 255) == 0)
            work.check();
        const Point at = paths[i]->start;
        while (next < parts.size() && parts[next].box.x0 <= at.x)
            open.push_back(&parts[next++]);
        std::erase_if(open, [&](const Kept* k) { return k->box.x1 < at.x; });
        Kept* own = nullptr; // the smallest round it
        for (Kept* k : open)
            if (k->box.contains(at) && (!own || std::abs(k->contour->area) < std::abs(own->contour->area)) &&
                contains(k->contour->points, at * ground.pxPerMm))
                own = k;
        if (own)
            ++own->lines;
    }
    for (const Kept& k : parts) {
        line.lostParts += k.lines == 0;
        line.splitParts += k.lines > 1;
    }
}

void touchUpLine(CutLine& line, const LineSpec& spec, const LineGround& ground, Run& run)
{
    if (spec.edits.empty())
        return;
    const auto touched = run(TouchUpIn{line.paths, spec.edits, ground.sourceToMm, line.offset.mm()}).value;
    line.paths = {touched, &touched->paths};
    line.edits = touched->outcomes;
    line.holes = touched->holes;
    for (std::size_t k = 0; k < line.edits.size(); ++k) {
        line.edits[k].id = spec.edits[k].id;
        if (spec.edits[k].kind == EditKind::Bridge && line.edits[k].fate == EditFate::Held)
            line.bridgesAt.push_back(line.edits[k].at);
        constexpr double withFillet = 0.85; // of a tab's diameter, from its middle
        if (spec.edits[k].kind == EditKind::Tab && line.edits[k].fate == EditFate::Held)
            line.bare.push_back({line.edits[k].at, withFillet * spec.edits[k].size.mm()});
    }
}

CutLine lineOf(const LineSpec& spec, const LineGround& ground, Run& run)
{
    CutLine line;
    line.id = spec.id;
    line.kind = spec.kind;
    line.shape = spec.shape;
    line.offset = spec.shape == LineShape::Drawn ? Length() : spec.percent ? Length::mm(*spec.percent / 100 * std::max(ground.kept.width(), ground.kept.height())) : spec.offset;
    if (const Limits range = limitsOf(&LineSpec::offset); line.offset.mm() < range.least || line.offset.mm() > range.most)
        throw Error(ErrorKind::Usage, "an offset of {} is out of range; use {} to {}", formatLength(line.offset, Unit::Mm), formatMm(range.least, Unit::Mm),
                    formatMm(range.most, Unit::Mm));
    if (spec.kind == LineKind::Perforate && spec.gapLength > Length()) {
        constexpr double leastDash = 0.05; // mm: no tool makes shorter ones, and a file of them would never end
        line.cutLength = std::max(leastDash, spec.cutLength.mm());
        line.gapLength = std::max(leastDash, spec.gapLength.mm());
    }
    line.tolerance = fitTolerance(spec, ground);
    line.bridges = spec.bridges;
    line.bridgeWidth = spec.bridgeWidth.mm();
    const bool outline = spec.shape == LineShape::Outline;
    line.paths = outline ? outlineOf(spec, line.offset, ground, run) : std::make_shared<const Paths>(figureOf(spec, line.offset.mm(), ground));
    if (outline && line.offset < Length())
        countLosses(line, ground, run.work());
    touchUpLine(line, spec, ground, run);
    measure(line);
    return line;
}

void finishBoxesRoundAll(std::vector<CutLine>& lines, Rect all)
{
    for (const CutLine& line : lines)
        all.add(bounds(*line.paths));
    for (CutLine& line : lines)
        if (line.shape == LineShape::BoxRoundAll) {
            const Rect box = all.grown(line.offset.mm());
            line.paths = std::make_shared<const Paths>(box.empty() ? Paths{} : Paths{boxFigure(box)});
            measure(line);
        }
}

} // namespace

bool isHole(const CutLine& line, const Path& path)
{
    constexpr double same = 0.01; // mm
    const Point middle = bounds(path).centre();
    return signedArea(path) < 0 && std::any_of(line.holes.begin(), line.holes.end(), [&](Point h) { return distance(h, middle) < same; });
}

std::shared_ptr<const Paths> withoutHoles(const CutLine& line)
{
    if (line.holes.empty())
        return line.paths;
    auto out = std::make_shared<Paths>(*line.paths);
    std::erase_if(*out, [&](const Path& path) { return isHole(line, path); });
    return out;
}

Breaks breaksOf(const CutLine& line, const Path& path)
{
    if (line.gapLength > 0)
        return {line.cutLength, line.gapLength, {}};
    const double whole = length(path);
    if (!path.closed || whole <= line.bridgeWidth)
        return {};
    constexpr double same = 0.01; // mm
    std::vector<double> byHand;
    for (const Point bridge : line.bridgesAt)
        if (const auto near = nearestPlace({path}, bridge); near && near->away < same)
            byHand.push_back(wayTo(path, *near));
    const int spread = isHole(line, path) || whole / std::max(1, line.bridges) <= line.bridgeWidth ? 0 : line.bridges;
    std::vector<double> middles;
    for (int k = 0; k < spread; ++k)
        middles.push_back((k + 0.5) * whole / spread);
    // One put by hand is the nearest of those that spread by themselves, moved; or one more.
    const auto apart = [&](double a, double b) { return std::min(std::abs(a - b), whole - std::abs(a - b)); };
    std::vector<double> out;
    for (const double way : byHand) {
        const auto nearest = std::min_element(middles.begin(), middles.end(), [&](double a, double b) { return apart(a, way) < apart(b, way); });
        if (nearest != middles.end())
            middles.erase(nearest);
        out.push_back(way);
    }
    out.insert(out.end(), middles.begin(), middles.end());
    std::sort(out.begin(), out.end());
    return {0, line.bridgeWidth, std::move(out)};
}

std::vector<Point> bridgesOn(const CutLine& line, const Path& path)
{
    std::vector<Point> out;
    for (const double way : breaksOf(line, path).middles)
        out.push_back(along(path, {0, 0, path.start}, way).at);
    return out;
}

std::vector<CutLine> cutLines(const std::vector<LineSpec>& specs, const LineGround& ground, Run& run)
{
    std::vector<CutLine> lines;
    for (const LineSpec& spec : specs)
        lines.push_back(lineOf(spec, ground, run));
    finishBoxesRoundAll(lines, ground.kept);
    return lines;
}

} // namespace yokai
