#include "desk/jogging.h"

#include "desk/desk.h"
#include "desk/machining.h"
#include "device/eye.h"

namespace yokai::edits {

void jogPressed(Desk& desk, Point towards)
{
    if (const Length step = desk.hand().jog; step > Length())
        desk.machining().jog(towards * step.mm());
    else
        desk.machining().jogWhile(towards);
}

int markToTake(const Desk& desk)
{
    const auto& marks = desk.machining().onBed().marks;
    if (const auto* selected = std::get_if<MarkSelected>(&desk.selection()); selected && selected->mark < int(marks.size()))
        return selected->mark;
    const auto next = std::find_if(marks.begin(), marks.end(), [](const MarkSeen& m) { return !m.measured; });
    return next == marks.end() ? -1 : int(next - marks.begin());
}

void takeMark(Desk& desk)
{
    const int mark = markToTake(desk);
    if (mark < 0 || !desk.machining().onBed().head)
        return;
    desk.machining().takeHere(mark);
    desk.select({});
    if (const int next = markToTake(desk); next >= 0)
        desk.select(MarkSelected{next});
}

void goNearMark(Desk& desk)
{
    const int mark = markToTake(desk);
    if (mark < 0)
        return;
    const PlanSpec& plan = desk.job().cut.plan;
    const OnBed& bed = desk.machining().onBed();
    desk.machining().goTo(expectedPlace(bed.pairs(), bed.marks[std::size_t(mark)].design, {plan.sheetX.mm(), plan.sheetY.mm()}));
}

} // namespace yokai::edits
