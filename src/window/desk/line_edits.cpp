#include "desk/line_edits.h"

#include "outline/kept_edge.h"
#include "path/fit.h"
#include "touchup/anchor.h"
#include "touchup/stretch.h"

#include <algorithm>
#include <map>
#include <numbers>

namespace yokai::edits {

std::optional<OnLine> lineNear(const Desk& desk, Point mm, double reach)
{
    const LayerResult* layer = desk.layerResult();
    std::optional<OnLine> best;
    for (std::size_t k = 0; layer && k < layer->lines.size(); ++k)
        if (const auto near = nearestPlace(*layer->lines[k].paths, mm); near && near->away <= reach && (!best || near->away < best->place.away))
            best = OnLine{k, *near};
    return best;
}

namespace {

std::optional<OnLine> nodeWhere(const Desk& desk, Point mm, double reach, double leastTurn)
{
    const LayerResult* layer = desk.layerResult();
    std::optional<OnLine> best;
    for (std::size_t k = 0; layer && k < layer->lines.size(); ++k)
        for (std::size_t p = 0; p < layer->lines[k].paths->size(); ++p) {
            const Path& path = (*layer->lines[k].paths)[p];
            for (std::size_t s = 0; s < path.segments.size(); ++s) {
                const double away = distance(path.segments[s].end, mm);
                if (away > reach || (best && away >= best->place.away) || turnAt(path, s) < leastTurn)
                    continue;
                NearestPlace place;
                place.segment = s;
                place.t = 1;
                place.at = path.segments[s].end;
                place.path = p;
                place.away = away;
                best = OnLine{k, place};
            }
        }
    return best;
}

} // namespace

std::optional<OnLine> cornerNear(const Desk& desk, Point mm, double reach)
{
    constexpr double corner = 10 * std::numbers::pi / 180; // radians
    return nodeWhere(desk, mm, reach, corner);
}

std::optional<OnLine> nodeNear(const Desk& desk, Point mm, double reach) { return nodeWhere(desk, mm, reach, 0); }

std::optional<OnLine> endNear(const Desk& desk, Point mm, double reach)
{
    const LayerResult* layer = desk.layerResult();
    std::optional<OnLine> best;
    for (std::size_t k = 0; layer && k < layer->lines.size(); ++k)
        for (std::size_t p = 0; p < layer->lines[k].paths->size(); ++p) {
            const Path& path = (*layer->lines[k].paths)[p];
            for (const bool isStart : {true, false}) {
                if (path.closed || path.segments.empty())
                    continue;
                const std::size_t segment = isStart ? 0 : path.segments.size() - 1;
                const Point at = isStart ? path.start : path.segments.back().end;
                if (const double away = distance(at, mm); away <= reach && (!best || away < best->place.away))
                    best = OnLine{k, {{segment, isStart ? 0.0 : 1.0, at}, p, away}};
            }
        }
    return best;
}

std::optional<Edit> anchored(const Desk& desk, std::size_t line, Edit edit, Point from, std::optional<Point> to)
{
    const PieceResult* piece = desk.currentResult();
    if (!piece || !piece->whole() || line >= piece->layer(desk.layerId()).lines.size())
        return std::nullopt;
    const CutLine& on = piece->layer(desk.layerId()).lines[line];
    const EditGround ground{piece->sourceToMm, on.offset.mm()};
    const KeptEdge edge(piece->layer(desk.layerId()).parts->contours, piece->pxPerMm);
    edit.offset = on.offset;
    edit.from = anchorOf(from, edge, ground);
    edit.to = to ? anchorOf(*to, edge, ground) : edit.from;
    return edit;
}

void addEdits(Desk& desk, const QString& what, std::size_t line, const std::vector<NewEdit>& made)
{
    std::vector<Edit> edits;
    for (const NewEdit& m : made)
        if (auto edit = anchored(desk, line, m.edit, m.from, m.to))
            edits.push_back(std::move(*edit));
    if (edits.empty())
        return;
    const LineId id = desk.layerResult()->lines[line].id;
    desk.editLayer(what, [&](Layer& layer) {
        for (LineSpec& spec : layer.lines)
            if (spec.id == id)
                spec.edits.insert(spec.edits.end(), edits.begin(), edits.end());
    });
    const LineSpec* spec = find(*desk.currentPiece(), id);
    if (spec && !spec->edits.empty())
        desk.select(EditSelected{spec->edits.back().id});
}

void addEdit(Desk& desk, const QString& what, std::size_t line, Edit edit, Point from, std::optional<Point> to)
{
    addEdits(desk, what, line, {{std::move(edit), from, to}});
}

void roundAllInside(Desk& desk, Length radius)
{
    const CutLine* line = desk.current() ? desk.lineResult() : nullptr;
    if (!line || line->paths->empty())
        return;
    Edit edit;
    edit.kind = EditKind::RoundInside;
    edit.size = radius;
    addEdit(desk, Desk::tr("round all inside corners"), std::size_t(desk.line()), edit, line->paths->front().start);
}

NewEdit asEdit(const Desk& desk, const Path& stretch)
{
    const PieceResult* piece = desk.currentResult();
    const bool mirror = piece && mirrored({piece->sourceToMm, 0});
    // Edits are kept in the picture's own sense.
    const Path sensed = mirror ? reversed(stretch) : stretch;
    NewEdit out{{}, sensed.start, sensed.segments.back().end};
    out.edit.kind = EditKind::Stretch;
    out.edit.shape = frameOf(sensed, mirror);
    return out;
}

namespace {

// Two places of one path in its order, the shorter way between them.
struct Between {
    PathPlace from, to;
    bool turned = false; // against the order they were given in
};
std::optional<Between> shorterWay(const Desk& desk, const OnLine& from, const OnLine& to)
{
    const LayerResult* layer = desk.layerResult();
    if (!layer || from.line != to.line || from.place.path != to.place.path || distance(from.place.at, to.place.at) < 1e-3)
        return std::nullopt;
    const Path& path = (*layer->lines[from.line].paths)[from.place.path];
    const bool forward = path.closed ? length(stretchOf(path, from.place, to.place)) <= length(stretchOf(path, to.place, from.place))
                                     : wayTo(path, from.place) < wayTo(path, to.place);
    return forward ? Between{from.place, to.place, false} : Between{to.place, from.place, true};
}

// From one place to another as the line runs on at both.
Path smoothBetween(const Path& path, const PathPlace& from, const PathPlace& to)
{
    const Point in = unit(tangentOn(startOf(path, from.segment), path.segments[from.segment], from.t));
    const Point out = unit(tangentOn(startOf(path, to.segment), path.segments[to.segment], to.t));
    constexpr double ofTheChord = 1.0 / 3;
    const double handle = distance(from.at, to.at) * ofTheChord;
    Path way;
    way.closed = false;
    way.start = from.at;
    way.curveTo(from.at + in * handle, to.at - out * handle, to.at, true);
    return way;
}

} // namespace

std::optional<NewEdit> stretchEdit(const Desk& desk, EditKind kind, const OnLine& from, const OnLine& to)
{
    Edit edit;
    edit.kind = kind;
    const PieceResult* piece = desk.currentResult();
    if (!piece)
        return std::nullopt;
    if (from.line == to.line && from.place.at == to.place.at)
        return NewEdit{edit, from.place.at};
    const auto way = shorterWay(desk, from, to);
    if (!way)
        return std::nullopt;
    const bool mirror = mirrored({piece->sourceToMm, 0});
    return mirror ? NewEdit{edit, way->to.at, way->from.at} : NewEdit{edit, way->from.at, way->to.at};
}

void redrawStretch(Desk& desk, const OnLine& from, const OnLine& to, StretchAs as, const Polyline& drawn)
{
    const auto way = desk.current() ? shorterWay(desk, from, to) : std::nullopt;
    if (!way)
        return;
    const Path& path = (*desk.layerResult()->lines[from.line].paths)[from.place.path];
    Path laid;
    laid.closed = false;
    laid.start = way->from.at;
    QString what;
    switch (as) {
    case StretchAs::Straight:
        what = Desk::tr("straighten a stretch");
        laid.lineTo(way->to.at);
        break;
    case StretchAs::Smooth:
        what = Desk::tr("bridge a stretch");
        laid = smoothBetween(path, way->from, way->to);
        break;
    case StretchAs::Drawn: {
        what = Desk::tr("draw a stretch");
        Polyline points = drawn;
        if (way->turned)
            std::reverse(points.begin(), points.end());
        points.insert(points.begin(), way->from.at);
        points.push_back(way->to.at);
        constexpr double tolerance = 0.05; // mm: a hand's tremor
        laid = fitOpen(points, {}, tolerance);
        break;
    }
    case StretchAs::Nothing: {
        if (const auto edit = stretchEdit(desk, EditKind::Open, from, to))
            addEdits(desk, Desk::tr("delete a stretch"), from.line, {*edit});
        return;
    }
    }
    addEdits(desk, what, from.line, {asEdit(desk, laid)});
}

void joinEnds(Desk& desk, const OnLine& from, const OnLine& to)
{
    if (from.line != to.line || from.place.at == to.place.at)
        return desk.say(Desk::tr("Drag from one end of an open line to another."));
    Edit edit;
    edit.kind = EditKind::Join;
    addEdit(desk, Desk::tr("join two ends"), from.line, edit, from.place.at, to.place.at);
}

void placeEdit(Desk& desk, const OnLine& at, std::optional<Point> off)
{
    const PieceResult* piece = desk.currentResult();
    const auto* selected = std::get_if<EditSelected>(&desk.selection());
    if (!piece || !piece->whole() || !selected)
        return;
    const CutLine& on = piece->layer(desk.layerId()).lines[at.line];
    const EditGround ground{piece->sourceToMm, on.offset.mm()};
    const KeptEdge edge(piece->layer(desk.layerId()).parts->contours, piece->pxPerMm);
    const Path& path = (*on.paths)[at.place.path];
    desk.editLayer(Desk::tr("place an edit again"), [&, id = selected->edit](Layer& layer) {
        for (LineSpec& from : layer.lines) {
            const auto found = std::find_if(from.edits.begin(), from.edits.end(), [&](const Edit& e) { return e.id == id; });
            const auto to = std::find_if(layer.lines.begin(), layer.lines.end(), [&](const LineSpec& l) { return l.id == on.id; });
            if (found == from.edits.end() || to == layer.lines.end())
                continue;
            Edit edit = *found;
            // A stretch as long as it was, the other way along in a mirror.
            const double chord = distance(placeOf(edit.from, ground), placeOf(edit.to, ground));
            const bool whole = edit.from == edit.to;
            edit.from = anchorOf(off.value_or(at.place.at), edge, ground);
            if (whole)
                edit.to = edit.from;
            else if (isStretch(edit.kind) && path.closed)
                edit.to = anchorOf(along(path, at.place, mirrored(ground) ? -chord : chord).at, edge, ground);
            edit.offset = on.offset;
            from.edits.erase(found);
            to->edits.push_back(edit);
            return;
        }
    });
}

std::vector<EditOf> allEdits(const Desk& desk)
{
    std::vector<EditOf> out;
    const Layer* layer = desk.currentLayer();
    const LayerResult* result = desk.layerResult();
    std::map<EditId, const EditOutcome*> outcomes;
    for (std::size_t k = 0; result && k < result->lines.size(); ++k)
        for (const EditOutcome& outcome : result->lines[k].edits)
            outcomes.emplace(outcome.id, &outcome);
    for (std::size_t l = 0; layer && l < layer->lines.size(); ++l)
        for (const Edit& edit : layer->lines[l].edits) {
            const auto found = outcomes.find(edit.id);
            out.push_back({&layer->lines[l], &edit, found == outcomes.end() ? nullptr : found->second});
        }
    return out;
}

const Edit* selectedEdit(const Desk& desk)
{
    const auto* selected = std::get_if<EditSelected>(&desk.selection());
    for (const EditOf& of : allEdits(desk))
        if (selected && of.edit->id == selected->edit)
            return of.edit;
    return nullptr;
}

namespace {

void change(Desk& desk, const QString& what, EditId id, const std::function<void(std::vector<Edit>&, std::size_t)>& to)
{
    desk.editLayer(what, [&](Layer& layer) {
        for (LineSpec& line : layer.lines)
            for (std::size_t k = 0; k < line.edits.size(); ++k)
                if (line.edits[k].id == id)
                    return to(line.edits, k);
    });
}

} // namespace

void removeEdit(Desk& desk)
{
    if (const Edit* edit = selectedEdit(desk))
        change(desk, Desk::tr("take an edit back"), edit->id, [](std::vector<Edit>& all, std::size_t k) { all.erase(all.begin() + std::ptrdiff_t(k)); });
}

void toggleEdit(Desk& desk, EditId id)
{
    change(desk, Desk::tr("switch an edit"), id, [](std::vector<Edit>& all, std::size_t k) { all[k].on = !all[k].on; });
}

} // namespace yokai::edits
