#include "desk/line_edits.h"

#include "outline/kept_edge.h"
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

std::optional<OnLine> selectedNode(const Desk& desk)
{
    const auto* selected = std::get_if<NodeSelected>(&desk.selection());
    constexpr double same = 0.05; // mm: a line made anew has it a little elsewhere
    const auto found = selected ? nodeNear(desk, selected->at, same) : std::nullopt;
    return found && desk.layerResult()->lines[found->line].id == selected->line ? found : std::nullopt;
}

void addEdit(Desk& desk, const QString& what, std::size_t line, Edit edit, Point from, std::optional<Point> to)
{
    const PieceResult* piece = desk.currentResult();
    if (!piece || !piece->whole() || line >= piece->layer().lines.size())
        return;
    const CutLine& on = piece->layer().lines[line];
    const EditGround ground{piece->sourceToMm, on.offset.mm()};
    const KeptEdge edge(piece->layer().parts->contours, piece->pxPerMm);
    edit.offset = on.offset;
    edit.from = anchorOf(from, edge, ground);
    if (to)
        edit.to = anchorOf(*to, edge, ground);
    desk.editLayer(what, [&, id = on.id](Layer& layer) {
        for (LineSpec& spec : layer.lines)
            if (spec.id == id)
                spec.edits.push_back(edit);
    });
    const auto all = allEdits(desk);
    for (const EditOf& e : all)
        if (e.line->id == on.id && e.edit == &e.line->edits.back())
            desk.select(EditSelected{e.edit->id});
}

namespace {

// The stretch as an edit: in the picture's own sense, in which edits are kept.
struct AsEdit {
    Edit edit;
    Point from, to;
};
AsEdit asEdit(const Path& stretch, bool mirror)
{
    AsEdit out;
    out.edit.kind = EditKind::Stretch;
    const Path sensed = mirror ? reversed(stretch) : stretch;
    out.from = sensed.start;
    out.to = sensed.segments.back().end;
    out.edit.shape = frameOf(sensed, mirror);
    return out;
}

} // namespace

void redraw(Desk& desk, const QString& what, std::size_t line, const Redrawn& redrawn)
{
    const PieceResult* piece = desk.currentResult();
    if (!piece || line >= piece->layer().lines.size())
        return;
    const CutLine& on = piece->layer().lines[line];
    const EditGround ground{piece->sourceToMm, on.offset.mm()};
    const AsEdit made = asEdit(redrawn.stretch, mirrored(ground));
    // The last edit again, where it lies between the same places.
    constexpr double same = 0.002; // mm
    const LineSpec* spec = find(*desk.currentPiece(), on.id);
    if (spec && !spec->edits.empty()) {
        const Edit& last = spec->edits.back();
        const bool again = last.kind == EditKind::Stretch && last.on && distance(placeOf(last.from, ground), made.from) < same &&
                           distance(placeOf(last.to, ground), made.to) < same;
        if (again) {
            desk.editLayer(what, [&, id = on.id](Layer& layer) {
                for (LineSpec& l : layer.lines)
                    if (l.id == id)
                        l.edits.back().shape = made.edit.shape;
            });
            return;
        }
    }
    addEdit(desk, what, line, made.edit, made.from, made.to);
}

void nudgeNode(Desk& desk, Point by)
{
    const auto node = selectedNode(desk);
    if (!node || !desk.current())
        return;
    const Path& path = (*desk.layerResult()->lines[node->line].paths)[node->place.path];
    const LineId id = desk.layerResult()->lines[node->line].id;
    if (const auto redrawn = nodeMoved(path, node->place.segment, by)) {
        redraw(desk, Desk::tr("move a node"), node->line, *redrawn);
        desk.select(NodeSelected{id, node->place.at + by});
    }
}

void takeNode(Desk& desk)
{
    const auto node = selectedNode(desk);
    if (!node || !desk.current())
        return;
    const Path& path = (*desk.layerResult()->lines[node->line].paths)[node->place.path];
    if (const auto redrawn = nodeTaken(path, node->place.segment))
        redraw(desk, Desk::tr("take a node out"), node->line, *redrawn);
    else
        desk.say(Desk::tr("This outline has too few nodes to lose one."), Severity::Warning);
}

void straighten(Desk& desk, const OnLine& from, const OnLine& to)
{
    const PieceResult* piece = desk.currentResult();
    if (!piece || from.line != to.line || from.place.path != to.place.path)
        return;
    const Path& path = (*piece->layer().lines[from.line].paths)[from.place.path];
    const bool forward = length(stretchOf(path, from.place, to.place)) <= length(stretchOf(path, to.place, from.place));
    Path straight;
    straight.closed = false;
    straight.start = forward ? from.place.at : to.place.at;
    straight.lineTo(forward ? to.place.at : from.place.at);
    const AsEdit made = asEdit(straight, mirrored({piece->sourceToMm, 0}));
    addEdit(desk, Desk::tr("straighten a stretch"), from.line, made.edit, made.from, made.to);
}

void addNode(Desk& desk, const OnLine& at)
{
    const Path& path = (*desk.layerResult()->lines[at.line].paths)[at.place.path];
    const LineId id = desk.layerResult()->lines[at.line].id;
    if (const auto redrawn = nodeAdded(path, at.place)) {
        redraw(desk, Desk::tr("add a node"), at.line, *redrawn);
        desk.select(NodeSelected{id, at.place.at});
    }
}

void addArea(Desk& desk, const std::vector<QPointF>& outline, bool add)
{
    const PieceResult* piece = desk.currentResult();
    if (!piece || desk.line() < 0 || outline.size() < 3)
        return;
    Edit edit;
    edit.kind = add ? EditKind::Add : EditKind::TakeAway;
    const Affine back = piece->sourceToMm.inverse();
    Rect box = Rect::nothing();
    for (const QPointF p : outline) {
        edit.shape.push_back(back({p.x(), p.y()}));
        box.add(Point{p.x(), p.y()});
    }
    addEdit(desk, add ? Desk::tr("add an area") : Desk::tr("take an area away"), std::size_t(desk.line()), edit, box.centre());
}

void placeEdit(Desk& desk, const OnLine& at, std::optional<Point> off)
{
    const PieceResult* piece = desk.currentResult();
    const auto* selected = std::get_if<EditSelected>(&desk.selection());
    if (!piece || !piece->whole() || !selected)
        return;
    const CutLine& on = piece->layer().lines[at.line];
    const EditGround ground{piece->sourceToMm, on.offset.mm()};
    const KeptEdge edge(piece->layer().parts->contours, piece->pxPerMm);
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
            edit.from = anchorOf(off.value_or(at.place.at), edge, ground);
            if (edit.kind == EditKind::Stretch)
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
