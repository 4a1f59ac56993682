#include "device/cut_on_machine.h"

#include "base/length.h"
#include "device/eye.h"
#include "formats/program/onto_print.h"

namespace yokai {

Machine machineOf(const CutOrder& order)
{
    if (order.spec.plan.machine)
        return *order.spec.plan.machine;
    Machine m;
    m.bed.width = Length::mm(order.sheet.width);
    m.bed.depth = Length::mm(order.sheet.height);
    return m;
}

std::vector<MarkPair> marksByEye(const CutOrder& order, MachineLine& line, const CutWatch& watch, const Work& work)
{
    if (order.sheet.marks.empty())
        throw Error(ErrorKind::Fit, "the sheet has no marks to fit to; switch marks on under Sheet, or the fit off");
    return findByEye(line.reached(work), machineOf(order), order.sheet.marks, order.sheet.height,
                     {order.spec.plan.sheetX.mm(), order.spec.plan.sheetY.mm()}, work, watch.mark);
}

Fit fitOf(const CutOrder& order, std::span<const MarkPair> marks)
{
    constexpr double finest = 1e-3; // mm: no reading is better
    const double reading = std::max(finest, machineOf(order).eye.repeatability.mm()), most = order.spec.maxResidual.mm();
    Fit fit = fitMarks(marks, order.spec.model, most, reading);
    requireResidual(fit, most);
    fit.expected = expectedError(fit, inOrder(marks, fit), {0, 0, order.sheet.width, order.sheet.height}, reading);
    return fit;
}

Plan planFor(const CutOrder& order, const std::optional<Fit>& fit, const Work& work)
{
    Plan plan = planOfSheet(order.sheet, order.spec.plan, fit, work);
    requireOnBed(plan);
    return plan;
}

SerialMachine::Watch watchOf(const CutRun& run, const Machine& machine, const CutWatch& watch)
{
    SerialMachine::Watch told;
    told.told = [&run, &watch, runs = std::size_t(0)](const Streamed&) mutable {
        if (run.runsDone() != runs && watch.run)
            watch.run(runs = run.runsDone());
    };
    told.seen = [&watch, back = machine.bed.toMachine().inverse()](const MachineStatus& s) {
        if (watch.at)
            watch.at(back(s.at), s.state);
    };
    return told;
}

CutDone cutOnMachine(const CutOrder& order, const LinkSpec& link, CutControl& control, const CutWatch& watch, const Work& work)
{
    CutDone out;
    MachineLine line(link, machineOf(order));
    out.marks = order.marks;
    if (order.spec.useFit && out.marks.empty()) {
        if (!order.findMarks)
            throw Error(ErrorKind::Fit, "the marks are not found yet; find them, or switch the fit off");
        out.marks = marksByEye(order, line, watch, {work.stop, [&](double f, std::string_view what) { work.report(f * 0.2, what); }});
    }
    if (order.spec.useFit) {
        out.fit = fitOf(order, out.marks);
        if (watch.fitted)
            watch.fitted(*out.fit, out.marks.size());
    }
    out.plan = planFor(order, out.fit, work);
    if (watch.planned)
        watch.planned(out.plan);
    CutRun run(line, programOf(out.plan), order.record);
    run.start(control, watchOf(run, out.plan.machine, watch), {work.stop, [&](double f, std::string_view what) { work.report(0.2 + 0.8 * f, what); }});
    out.runs = run.runsDone();
    return out;
}

} // namespace yokai
