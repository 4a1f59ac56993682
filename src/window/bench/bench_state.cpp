#include "bench/bench_state.h"

#include "desk/findings.h"
#include "desk/guides.h"
#include "desk/machining.h"
#include "desk/node_edits.h"

#include <numbers>

namespace yokai {

BenchState BenchState::of(const Desk& desk)
{
    BenchState state;
    state.shown = desk.sharedShown();
    state.testCut = desk.testCut();
    state.bed = desk.machining().onBed();
    state.station = desk.station();
    state.unit = desk.unit();
    state.sheet = desk.sheet();
    if (const auto* copies = std::get_if<CopiesSelected>(&desk.selection()))
        state.copies = copies->copies;
    if (const auto* separation = std::get_if<SeparationSelected>(&desk.selection()); separation && state.station == Station::HandOff)
        state.separation = *separation;
    state.layerId = desk.layerId();
    state.lifted = desk.hand().lifts;
    state.line = desk.currentLine() ? desk.currentLine()->id : LineId{};
    state.peek = desk.peek();
    state.hold = desk.hand().hold;
    const double towards = desk.hand().offTowards * std::numbers::pi / 180;
    state.off = Point{std::cos(towards), std::sin(towards)} * desk.hand().offBy.mm();
    if (const auto* mark = std::get_if<MarkSelected>(&desk.selection()))
        state.mark = mark->mark;
    if (const auto* edit = std::get_if<EditSelected>(&desk.selection()))
        state.edit = edit->edit;
    const PieceResult* result = desk.currentResult();
    if (!result)
        return state;
    state.piece = int(result - state.shown->derived.pieces.data());
    state.selectedParts = desk.selectedParts();
    const std::vector<edits::NodesOn> nodes = edits::selectedNodes(desk);
    for (const edits::NodesOn& on : nodes)
        for (const std::size_t node : on.nodes)
            state.nodes.push_back(edits::pathOf(desk, on).segments[node].end);
    if (state.nodes.size() == 1 && edits::pathOf(desk, nodes[0]).closed)
        for (const Handle which : {Handle::Before, Handle::After})
            state.handles.push_back(handleOf(edits::pathOf(desk, nodes[0]), nodes[0].nodes[0], which));
    const auto* guide = std::get_if<GuideSelected>(&desk.selection());
    for (const edits::GuideOn& on : edits::guides(desk))
        state.guides.emplace_back(on.line, guide && guide->guide == on.id);
    if (!onSheet(state.station))
        state.findings = findingsAt(desk, state.station);
    if (const auto* selected = std::get_if<FindingSelected>(&desk.selection()))
        for (const std::size_t k : state.findings)
            if (selected->is(state.shown->derived.findings[k]))
                state.finding = k;
    const KeepSpec& keep = desk.currentLayer()->keep;
    if (const Touch* touch = desk.selectedTouch()) {
        state.selectedTouch = *touch;
        state.selectedTouch->radius *= std::sqrt(std::abs(result->sourceToMm.det()));
        for (Point& p : state.selectedTouch->points)
            p = result->sourceToMm(p);
    }
    const auto shown = [&](Ring outline) {
        for (Point& p : outline)
            p = result->sourceToMm(p);
        state.inside.push_back(std::move(outline));
    };
    for (const Ring& outline : keep.onlyInside)
        shown(outline);
    if (keep.rule == KeepRule::Subject && !keep.subject.box.empty())
        shown(keep.subject.box);
    if (state.hold == Hold::SubjectIs || state.hold == Hold::SubjectIsNot)
        for (const SubjectStroke& s : keep.subject.strokes) {
            Touch touch{s.picture ? TouchKind::BringBack : TouchKind::RubOut, false, s.radius * std::sqrt(std::abs(result->sourceToMm.det())), s.points};
            for (Point& p : touch.points)
                p = result->sourceToMm(p);
            state.marked.push_back(std::move(touch));
        }
    return state;
}

} // namespace yokai
