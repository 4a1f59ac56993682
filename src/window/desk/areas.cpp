#include "desk/areas.h"

#include "desk/line_edits.h"
#include "outline/figures.h"
#include "path/fit.h"
#include "touchup/outlines.h"

#include <cmath>
#include <numbers>

namespace yokai::edits {

namespace {

QString named(Hold hold)
{
    return hold == Hold::AddArea    ? Desk::tr("add an area")
           : hold == Hold::TakeArea ? Desk::tr("take an area away")
                                    : Desk::tr("put an outline beside");
}

// All of the picture, only inside the outlines.
void keepInside(Desk& desk, const Paths& outlines, const Affine& back)
{
    constexpr double flatness = 0.005; // mm
    std::vector<Ring> rings;
    for (const Path& path : outlines) {
        Ring ring;
        for (const Point p : flatten(path, flatness))
            ring.push_back(back(p));
        rings.push_back(std::move(ring));
    }
    desk.editLayer(Desk::tr("keep a drawn shape"), [&](Layer& layer) {
        layer.keep.rule = KeepRule::All;
        layer.keep.onlyInside = rings;
    });
}

} // namespace

void addArea(Desk& desk, const Paths& outlines)
{
    const PieceResult* piece = desk.currentResult();
    if (!piece || !desk.current() || outlines.empty())
        return;
    const Affine back = piece->sourceToMm.inverse();
    const Hold hold = desk.hand().hold;
    if (hold == Hold::KeepArea)
        return keepInside(desk, outlines, back);
    if (desk.line() < 0)
        return desk.say(Desk::tr("There is no cut line to work on; add one under Cut lines."), Severity::Warning);
    Edit edit;
    edit.kind = hold == Hold::AddArea ? EditKind::Add : hold == Hold::TakeArea ? EditKind::TakeAway : EditKind::Beside;
    for (const Path& path : outlines)
        edit.outlines.push_back(pointsOf(transformed(path, back)));
    addEdit(desk, named(hold), std::size_t(desk.line()), edit, bounds(outlines).centre());
}

Path lassoed(const Polyline& way)
{
    constexpr double tolerance = 0.05; // mm: a hand's tremor
    const Path path = fitClosed(way, {}, tolerance);
    return signedArea(path) < 0 ? reversed(path) : path;
}

Path boxed(Point a, Point b, double radius)
{
    const Rect box{std::min(a.x, b.x), std::min(a.y, b.y), std::max(a.x, b.x), std::max(a.y, b.y)};
    return boxFigure(box, radius);
}

Path ellipseIn(Point a, Point b) { return ellipseFigure(mix(a, b, 0.5), std::abs(b.x - a.x) / 2, std::abs(b.y - a.y) / 2); }

Path circleRound(Point centre, double radius) { return ellipseFigure(centre, radius, radius); }

Path drawn(const Sketch& sketch)
{
    Path path;
    const std::size_t n = sketch.at.size();
    if (n < 2)
        return path;
    path.start = sketch.at.front();
    for (std::size_t k = 0; k < n; ++k) {
        const std::size_t next = (k + 1) % n;
        const Point from = sketch.at[k], to = sketch.at[next], leaving = sketch.out[k], arriving = to - (sketch.out[next] - to);
        if (leaving == from && arriving == to)
            path.lineTo(to, true);
        else
            path.curveTo(leaving, arriving, to, sketch.out[next] == to);
    }
    path.segments.back().end = path.start;
    return path;
}

std::optional<Leg> lastLeg(const Sketch& sketch)
{
    if (sketch.at.size() < 2)
        return std::nullopt;
    const Point leg = sketch.at.back() - sketch.at[sketch.at.size() - 2];
    return Leg{norm(leg), std::atan2(-leg.y, leg.x) * 180 / std::numbers::pi};
}

void setLastLeg(Desk& desk, Leg leg)
{
    Hand hand = desk.hand();
    Sketch& sketch = hand.sketch;
    if (sketch.at.size() < 2)
        return;
    const double angle = leg.angle * std::numbers::pi / 180;
    const Point to = sketch.at[sketch.at.size() - 2] + Point{std::cos(angle), -std::sin(angle)} * leg.length;
    sketch.out.back() = to + (sketch.out.back() - sketch.at.back());
    sketch.at.back() = to;
    desk.setHand(hand);
}

} // namespace yokai::edits
