#include "desk/node_edits.h"

#include "path/crossings.h"
#include "touchup/anchor.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace yokai::edits {

const Path& pathOf(const Desk& desk, const NodesOn& on) { return (*desk.layerResult()->lines[on.line].paths)[on.path]; }

std::vector<NodesOn> selectedNodes(const Desk& desk)
{
    std::vector<NodesOn> out;
    const auto* selected = std::get_if<NodesSelected>(&desk.selection());
    const LayerResult* layer = desk.layerResult();
    constexpr double same = 0.05; // mm: a line made anew has them a little elsewhere
    for (std::size_t l = 0; selected && layer && l < layer->lines.size(); ++l) {
        if (layer->lines[l].id != selected->line)
            continue;
        const Paths& paths = *layer->lines[l].paths;
        // By cells as wide as they may have moved: an outline of thousands of nodes may be selected whole.
        std::map<std::pair<long, long>, std::vector<Point>> cells;
        const auto cell = [](Point p) { return std::pair(long(std::floor(p.x / same)), long(std::floor(p.y / same))); };
        for (const Point at : selected->at)
            cells[cell(at)].push_back(at);
        for (std::size_t p = 0; p < paths.size(); ++p) {
            NodesOn on{l, p, {}};
            for (std::size_t k = 0; k < paths[p].segments.size(); ++k) {
                const Point at = paths[p].segments[k].end;
                const auto [x, y] = cell(at);
                bool found = false;
                for (long i = x - 1; i <= x + 1 && !found; ++i)
                    for (long j = y - 1; j <= y + 1 && !found; ++j)
                        if (const auto near = cells.find({i, j}); near != cells.end())
                            found = std::any_of(near->second.begin(), near->second.end(), [&](Point s) { return distance(s, at) < same; });
                if (found)
                    on.nodes.push_back(k);
            }
            if (!on.nodes.empty())
                out.push_back(std::move(on));
        }
    }
    return out;
}

std::vector<Point> nodesIn(const Desk& desk, const Polyline& outline, Takes takes)
{
    std::vector<Point> out;
    const CutLine* line = desk.lineResult();
    if (!line || outline.size() < 3)
        return out;
    constexpr double flatness = 0.05; // mm
    const Rect box = bounds(outline);
    for (const Path& path : *line->paths) {
        std::vector<unsigned char> in(path.segments.size(), 0);
        for (std::size_t k = 0; k < path.segments.size(); ++k)
            in[k] = contains(outline, path.segments[k].end);
        for (std::size_t k = 0; k < path.segments.size() && takes == Takes::Touched; ++k) {
            Path alone;
            alone.closed = false;
            alone.start = startOf(path, k);
            alone.segments = {path.segments[k]};
            alone.corners = {true};
            if (!bounds(alone).overlaps(box))
                continue;
            const std::vector<Polyline> both{flatten(alone, flatness), outline};
            const bool within = std::any_of(both[0].begin(), both[0].end(), [&](Point p) { return contains(outline, p); });
            const std::vector<LineCrossing> met = within ? std::vector<LineCrossing>{} : crossingsAmong(both, {false, true});
            if (within || std::any_of(met.begin(), met.end(), [](const LineCrossing& c) { return c.first != c.second; })) {
                in[k] = 1;
                if (path.closed || k > 0)
                    in[k == 0 ? path.segments.size() - 1 : k - 1] = 1;
            }
        }
        for (std::size_t k = 0; k < in.size(); ++k)
            if (in[k])
                out.push_back(path.segments[k].end);
    }
    return out;
}

void selectNodes(Desk& desk, LineId line, std::vector<Point> at, bool toTheRest)
{
    if (const auto* selected = std::get_if<NodesSelected>(&desk.selection()); toTheRest && selected && selected->line == line)
        for (const Point p : selected->at)
            if (std::find(at.begin(), at.end(), p) == at.end())
                at.push_back(p);
    desk.select(at.empty() ? Selection{} : Selection(NodesSelected{line, std::move(at)}));
}

void redraw(Desk& desk, const QString& what, std::size_t line, const std::vector<Redrawn>& redrawn)
{
    const PieceResult* piece = desk.currentResult();
    if (!piece || line >= piece->layer(desk.layerId()).lines.size() || redrawn.empty())
        return;
    const CutLine& on = piece->layer(desk.layerId()).lines[line];
    const EditGround ground{piece->sourceToMm, on.offset.mm()};
    std::vector<NewEdit> made;
    for (const Redrawn& r : redrawn)
        made.push_back(asEdit(desk, r.stretch));
    const LineSpec* spec = find(*desk.currentPiece(), on.id);
    bool again = spec && spec->edits.size() >= made.size();
    constexpr double same = 0.002; // mm
    for (std::size_t k = 0; again && k < made.size(); ++k) {
        const Edit& last = spec->edits[spec->edits.size() - made.size() + k];
        again = last.kind == EditKind::Stretch && last.on && distance(placeOf(last.from, ground), made[k].from) < same &&
                distance(placeOf(last.to, ground), *made[k].to) < same;
    }
    if (!again)
        return addEdits(desk, what, line, made);
    desk.editLayer(what, [&, id = on.id](Layer& layer) {
        for (LineSpec& l : layer.lines)
            for (std::size_t k = 0; l.id == id && k < made.size(); ++k)
                l.edits[l.edits.size() - made.size() + k].shape = made[k].edit.shape;
    });
}

void addNode(Desk& desk, const OnLine& at)
{
    const Path& path = (*desk.layerResult()->lines[at.line].paths)[at.place.path];
    const LineId id = desk.layerResult()->lines[at.line].id;
    if (const auto redrawn = nodeAdded(path, at.place)) {
        redraw(desk, Desk::tr("add a node"), at.line, {*redrawn});
        desk.select(NodesSelected{id, {at.place.at}});
    }
}

namespace {

// What a change makes of the selected nodes, path by path, as one step. The nodes selected thereafter: moved by as much, or none.
template <class Change> bool change(Desk& desk, const QString& what, std::optional<Point> by, Change make)
{
    const std::vector<NodesOn> all = selectedNodes(desk);
    if (all.empty() || !desk.current())
        return false;
    std::vector<Redrawn> redrawn;
    std::vector<Point> at;
    const LineId id = desk.layerResult()->lines[all.front().line].id;
    for (const NodesOn& on : all) {
        const Path& path = pathOf(desk, on);
        std::vector<Redrawn> own = make(path, on.nodes);
        redrawn.insert(redrawn.end(), own.begin(), own.end());
        for (const std::size_t node : on.nodes)
            at.push_back(path.segments[node].end + by.value_or(Point{}));
    }
    if (redrawn.empty())
        return false;
    redraw(desk, what, all.front().line, redrawn);
    desk.select(by ? Selection(NodesSelected{id, std::move(at)}) : Selection{});
    return true;
}

void tooFew(Desk& desk) { desk.say(Desk::tr("An outline keeps at least two nodes where they are; select fewer of them."), Severity::Warning); }

} // namespace

void moveNodes(Desk& desk, Point by)
{
    if (selectedNodes(desk).empty())
        return;
    if (!change(desk, Desk::tr("move nodes"), by, [&](const Path& path, const NodeSet& nodes) { return nodesMoved(path, nodes, by); }))
        tooFew(desk);
}

void takeNodes(Desk& desk)
{
    if (selectedNodes(desk).empty())
        return;
    if (!change(desk, Desk::tr("take nodes out"), std::nullopt, [](const Path& path, const NodeSet& nodes) { return nodesTaken(path, nodes); }))
        tooFew(desk);
}

void changeNodes(Desk& desk, NodesAs as)
{
    static constexpr struct {
        NodesAs as;
        const char* what;
        std::vector<Redrawn> (*make)(const Path&, const NodeSet&);
    } all[] = {{NodesAs::Smooth, QT_TRANSLATE_NOOP("yokai::Desk", "make nodes smooth"), nodesSmooth},
               {NodesAs::Corners, QT_TRANSLATE_NOOP("yokai::Desk", "make corners"), nodesCorners},
               {NodesAs::Straight, QT_TRANSLATE_NOOP("yokai::Desk", "make straight"), segmentsStraight},
               {NodesAs::Curved, QT_TRANSLATE_NOOP("yokai::Desk", "make curved"), segmentsCurved}};
    for (const auto& one : all)
        if (one.as == as && !change(desk, Desk::tr(one.what), Point{}, one.make))
            desk.say(Desk::tr("Select nodes first: press one, or drag a box round them."));
}

std::optional<std::pair<OnLine, OnLine>> selectedStretch(const Desk& desk, const OnLine& at)
{
    for (const NodesOn& on : selectedNodes(desk)) {
        if (on.line != at.line || on.path != at.place.path || on.nodes.size() < 2)
            continue;
        // The run begins after the widest gap between them, round the path.
        const Path& path = pathOf(desk, on);
        const std::size_t n = path.segments.size(), count = on.nodes.size();
        std::size_t first = 0, widest = 0;
        for (std::size_t k = 0; k < count; ++k)
            if (const std::size_t gap = (on.nodes[k] + n - on.nodes[(k + count - 1) % count]) % n; gap > widest) {
                widest = gap;
                first = k;
            }
        const auto place = [&](std::size_t k) {
            const std::size_t node = on.nodes[k % count];
            return OnLine{on.line, {{node, 1, path.segments[node].end}, on.path, 0}};
        };
        return std::pair(place(first), place(first + count - 1));
    }
    return std::nullopt;
}

std::optional<HandleOn> handleNear(const Desk& desk, Point mm, double reach)
{
    const std::vector<NodesOn> all = selectedNodes(desk);
    if (all.size() != 1 || all[0].nodes.size() != 1 || !pathOf(desk, all[0]).closed)
        return std::nullopt;
    const Path& path = pathOf(desk, all[0]);
    std::optional<HandleOn> best;
    double least = reach;
    for (const Handle which : {Handle::Before, Handle::After}) {
        const Point at = handleOf(path, all[0].nodes[0], which);
        if (const double away = distance(at, mm); away <= least) {
            least = away;
            best = HandleOn{all[0], which};
        }
    }
    return best;
}

} // namespace yokai::edits
