#include "desk/machining.h"
#include "desk/operation_edits.h"
#include "side/row_kinds.h"
#include "words.h"

#include <algorithm>

namespace yokai {

namespace {

QString exact(double mm, Unit unit) { return unit == Unit::Mm ? number(mm, 3) + QStringLiteral(" mm") : number(mm / 25.4, 4) + QStringLiteral(" in"); }

void landed(const Desk& desk, std::vector<SideRow>& rows)
{
    const auto cut = desk.testCut();
    if (!cut)
        return;
    rows.push_back(section(Desk::tr("How it landed")));
    constexpr double fair = 0.3; // mm
    rows.push_back(warning(cut->worst > fair ? Kind::Warning : Kind::Item, Desk::tr("Worst %1").arg(exactText(cut->worst, desk.unit())),
                           Desk::tr("%1 on average").arg(exact(cut->mean, desk.unit()))));
    rows.push_back(figure(Desk::tr("Took %1").arg(timeText(cut->took)), Desk::tr("%1 were foretold").arg(timeText(cut->planned))));
    if (!cut->fit)
        rows.push_back(warning(Kind::Warning, Desk::tr("Cut without a fit"), Desk::tr("the marks were not read")));
}

void fit(const Desk& desk, std::vector<SideRow>& rows)
{
    const OnBed& bed = desk.machining().onBed();
    if (!bed.fit)
        return;
    const Fit& f = *bed.fit;
    rows.push_back(section(Desk::tr("Fit")));
    rows.push_back(figure(title(f.model), Desk::tr("%1 % across \u00b7 %2 % along \u00b7 turned %3\u00b0 \u00b7 skewed %4\u00b0")
                                              .arg(number(f.scaleX * 100, 2), number(f.scaleY * 100, 2), number(f.turn, 2), number(f.skew, 2))));
    rows.push_back(figure(Desk::tr("To expect"), Desk::tr("within %1 anywhere on the sheet, 95 of 100 times").arg(exact(f.expected, desk.unit()))));
    for (const QString& doubt : desk.machining().doubtWords())
        rows.push_back(warning(Kind::Warning, doubt));
}

// Design, measured, residual: one table, whatever way the marks were found.
void marksOnBed(const Desk& desk, std::vector<SideRow>& rows)
{
    const OnBed& bed = desk.machining().onBed();
    const Unit unit = desk.unit();
    if (bed.marks.empty() || !desk.machining().usesFit())
        return;
    rows.push_back(section(Desk::tr("Marks and residuals")));
    int measured = 0;
    for (std::size_t i = 0; i < bed.marks.size(); ++i) {
        const MarkSeen& m = bed.marks[i];
        const auto place = [&](Point p) { return QStringLiteral("%1, %2").arg(exactText(p.x, unit, false), exactText(p.y, unit)); };
        SideRow row = figure(Desk::tr("Mark %1").arg(i + 1), Desk::tr("designed at %1").arg(place(m.design)));
        if (m.measured) {
            const int k = measured++;
            row.detail = Desk::tr("found at %1").arg(place(*m.measured));
            if (bed.fit) {
                row.title += QStringLiteral(" \u00b7 ") + exact(bed.fit->residuals[std::size_t(k)], unit);
                if (std::find(bed.fit->leftOut.begin(), bed.fit->leftOut.end(), k) != bed.fit->leftOut.end()) {
                    row.kind = Kind::Warning;
                    row.detail = Desk::tr("left out: the others agree without it");
                }
            }
            row.tip = Desk::tr("Designed at %1").arg(place(m.design));
        }
        row.faded = !m.measured;
        row.of = Of::Mark;
        row.id = int(i);
        rows.push_back(row);
    }
}

// How an operation is done, as its machine does it: "30 mm/s, 80 g, 2 passes".
QString settingsText(const ProcessSettings& s, MachineKind kind, Unit unit)
{
    QStringList out{speedText(s.speed, unit), kind == MachineKind::Laser ? Desk::tr("%1 %").arg(number(s.power, 0)) : Desk::tr("%1 g").arg(number(s.force, 0))};
    if (s.passes > 1)
        out << Desk::tr("%n passes", nullptr, s.passes);
    return out.join(QStringLiteral(", "));
}

// In their order; those of which there is nothing on the sheet are left out, but for the maker's own and those that are off.
void operations(const Desk& desk, std::vector<SideRow>& rows)
{
    const auto planned = desk.machining().onBed().planned;
    if (!planned)
        return;
    const Plan& plan = planned->plan;
    rows.push_back(section(Desk::tr("Operations")));
    const auto& all = desk.job().cut.plan.operations;
    for (std::size_t k = 0; k < all.size(); ++k) {
        const auto step = std::find_if(plan.steps.begin(), plan.steps.end(), [&](const PlannedStep& s) { return s.at == int(k); });
        const int paths = step == plan.steps.end() ? 0 : step->paths;
        const bool left = !all[k].on || all[k].guide;
        if (paths == 0 && !left && all[k].name.empty())
            continue;
        SideRow row = figure(edits::nameOf(all[k]), all[k].guide ? Desk::tr("guide only: shown, not cut") : !all[k].on ? Desk::tr("off") : Desk::tr("no lines"));
        if (paths > 0) {
            row.title = Desk::tr("%1, %n paths", nullptr, paths).arg(row.title);
            row.detail = Desk::tr("%1 \u00b7 %2 \u00b7 %3").arg(lengthText(step->cut, desk.unit()), timeText(step->seconds), settingsText(step->settings, plan.machine.kind, desk.unit()));
        }
        row.faded = left;
        row.of = Of::Operation;
        row.id = int(k);
        rows.push_back(row);
    }
    rows.push_back(figure(Desk::tr("All in %1").arg(timeText(plan.seconds)), plan.machine.name.empty() ? Desk::tr("with usual settings") : text(plan.machine.name)));
    constexpr double nothing = 0.005; // mm
    if (plan.beyondBed > nothing && desk.job().cut.plan.machine)
        rows.push_back(warning(Kind::Fault, Desk::tr("%1 past the bed").arg(exactText(plan.beyondBed, desk.unit())), Desk::tr("lay the sheet farther in, or take a larger machine")));
}

} // namespace

void cutRows(const Desk& desk, std::vector<SideRow>& rows)
{
    landed(desk, rows);
    // While marks are still to be taken, they are what is worked on.
    if (desk.job().cut.marksBy == MarksBy::Hand && !desk.machining().onBed().fit) {
        marksOnBed(desk, rows);
        operations(desk, rows);
    } else {
        operations(desk, rows);
        marksOnBed(desk, rows);
    }
    fit(desk, rows);
}

} // namespace yokai
