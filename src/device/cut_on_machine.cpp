#include "device/cut_on_machine.h"

#include "base/length.h"
#include "device/eye.h"

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

namespace {

void requireOnBed(const Plan& plan)
{
    constexpr double nothing = 0.005; // mm
    if (plan.beyondBed > nothing)
        throw Error(ErrorKind::Input, "the cut reaches {} mm past the machine's bed; lay the sheet farther in, or take a larger machine",
                    plainNumber(plan.beyondBed, 2));
}

} // namespace

CutDone cutOnMachine(const CutOrder& order, const LinkSpec& link, CutControl& control, const CutWatch& watch, const Work& work)
{
    CutDone out;
    const Machine machine = machineOf(order);
    out.marks = order.marks;
    if (order.spec.useFit && out.marks.empty()) {
        if (order.sheet.marks.empty())
            throw Error(ErrorKind::Fit, "the sheet has no marks to fit to; switch marks on under Sheet, or the fit off");
        if (!order.findMarks)
            throw Error(ErrorKind::Fit, "the marks are not found yet; find them, or switch the fit off");
        SerialMachine there(QString::fromStdString(link.port), link.baud, link.buffer);
        there.greet(work);
        out.marks = findByEye(there, machine, order.sheet.marks, order.sheet.height, {order.spec.plan.sheetX.mm(), order.spec.plan.sheetY.mm()},
                              {work.stop, [&](double f, std::string_view what) { work.report(f * 0.2, what); }}, watch.mark);
    }
    if (order.spec.useFit) {
        out.fit = fitMarks(out.marks, order.spec.model, order.spec.maxResidual.mm(), std::max(1e-3, machine.eye.repeatability.mm()));
        requireResidual(*out.fit, order.spec.maxResidual.mm());
        out.fit->expected = expectedError(*out.fit, inOrder(out.marks, *out.fit), {0, 0, order.sheet.width, order.sheet.height},
                                          std::max(1e-3, machine.eye.repeatability.mm()));
    }
    OntoPrint onto;
    if (out.fit)
        onto = [&](const Path& path) { return (*out.fit)(path); };
    out.plan = planOf(order.sheet.cuts, order.sheet.width, order.sheet.height, order.spec.plan, onto, work);
    if (order.spec.plan.machine) // the bed of one that is not described is not known
        requireOnBed(out.plan);
    if (watch.planned)
        watch.planned(out.plan);
    const Program program = gcodeOf(out.plan);
    CutRun run(link, program, order.record);
    SerialMachine::Watch told;
    const Affine back = machine.bed.toMachine().inverse();
    std::size_t runs = 0;
    told.told = [&](const Streamed&) {
        if (run.runsDone() != runs && watch.run)
            watch.run(runs = run.runsDone());
    };
    told.seen = [&](const MachineStatus& s) {
        if (watch.at)
            watch.at(back(s.at), s.state);
    };
    run.start(control, told, {work.stop, [&](double f, std::string_view what) { work.report(0.2 + 0.8 * f, what); }});
    out.runs = run.runsDone();
    return out;
}

} // namespace yokai
