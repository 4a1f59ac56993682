// The verbs that end at a machine: register, plan, cut.

#include "base/file.h"
#include "device/cut_on_machine.h"
#include "formats/cut_file.h"
#include "formats/program/onto_print.h"
#include "formats/program/program.h"
#include "outputs.h"
#include "machine/hazard.h"
#include "register/doubt.h"
#include "register/measured.h"
#include "stopped_by_signal.h"
#include "verbs.h"
#include "values.h"
#include "words.h"

#include <QCoreApplication>

#include <iostream>

namespace yokai::batch {

namespace {

// What is to be cut: a job's sheets, or a cut file.
struct Cut {
    std::optional<Job> job;
    Derived derived; // of the job
    std::optional<CutFile> file;
    std::vector<Drawing> sheets;
    CutSpec spec;
};

// Of a job's colour layers.
void chooseLayer(Job& job, const std::string& name)
{
    if (name.empty())
        return;
    std::string names;
    for (const Piece& piece : job.pieces)
        for (const Layer& layer : piece.layers) {
            if (!layer.ofColours)
                continue;
            if (layer.name == name) {
                job.cut.layer = name;
                return;
            }
            names += (names.empty() ? "" : ", ") + layer.name;
        }
    if (names.empty())
        throw Error(ErrorKind::Usage, "--layer '{}': the job has no colour layers; leave it out", name);
    throw Error(ErrorKind::Usage, "--layer '{}': the job has no layer of that name; it has {}", name, names);
}

Cut openCut(const Options& o)
{
    const std::string& path = o.inputs.front();
    Cut cut;
    if (isJob(path)) {
        cut.job = openProject(path);
        applyTo(*cut.job, o);
        cut.spec = cut.job->cut;
        // The checks are of the machine that was asked for; how large a sheet without one is, is known once it is laid out.
        const double anySize = std::max(cut.job->sheet.width(), cut.job->sheet.height());
        applyTo(cut.job->cut.plan, o, anySize, anySize);
        StepCache cache;
        cut.derived = derive(*cut.job, cache, {}, Want::Lines);
        requireSomething(*cut.job, cut.derived, true);
        chooseLayer(*cut.job, o.layer);
        for (int sheet = 0; sheet < cut.derived.sheet.sheets; ++sheet)
            cut.sheets.push_back(drawSheetToCut(*cut.job, cut.derived, sheet));
        for (Drawing& sheet : cut.sheets)
            if (sheet.cutMarks)
                sheet.marks = *std::exchange(sheet.cutMarks, std::nullopt);
        cut.spec.layer = cut.job->cut.layer;
        cut.job->cut = cut.spec;
        return cut;
    }
    if (!isCutFile(path))
        throw Error(ErrorKind::Usage, "'{}' is neither a .yokai job nor a cut file; give a job, an .svg or a .dxf", path);
    Job job; // of nothing but its settings
    applyTo(job, o);
    const double upi = o.upi.empty() ? cssUnitsAnInch : plainOption(o.upi, "--upi", 1, 10'000);
    cut.file = openCutFile(path, upi);
    cut.sheets = {cut.file->drawing};
    cut.spec = job.cut;
    return cut;
}

struct Registered {
    std::vector<MarkPair> marks;
    Fit fit;
};

// Fitted to what was measured; refused where it misses a mark by more than is allowed.
Registered registered(const Cut& cut, const Options& o)
{
    Registered out;
    out.marks = readMeasured(readFile(o.measured), o.measured);
    out.fit = fitMarks(out.marks, cut.spec.model, cut.spec.maxResidual.mm());
    requireResidual(out.fit, cut.spec.maxResidual.mm());
    if (cut.sheets.size() > 1)
        throw Error(ErrorKind::Usage, "'{}' has {} sheets, and marks are of one; save each as a job of its own", o.inputs.front(),
                    std::to_string(cut.sheets.size()));
    const Drawing& sheet = cut.sheets.front();
    const auto spec = cut.spec.plan.machine;
    out.fit.expected = expectedError(out.fit, inOrder(out.marks, out.fit), {0, 0, sheet.width, sheet.height},
                                     spec ? std::max(spec->eye.repeatability.mm(), 1e-3) : usualReading);
    return out;
}

Json marksReport(const Registered& r)
{
    const auto at = [](Point p) { return Json::array({std::round(p.x * 1e6) / 1e6, std::round(p.y * 1e6) / 1e6}); };
    Json out = Json::array();
    const std::vector<MarkPair> marks = inOrder(r.marks, r.fit);
    for (std::size_t i = 0; i < marks.size(); ++i)
        out.push_back(
            {{"design_mm", at(marks[i].design)}, {"measured_mm", at(marks[i].measured)}, {"residual_mm", std::round(r.fit.residuals[i] * 1e6) / 1e6}});
    return out;
}

// What is common to the reports of both.
Json reportOf(const Cut& cut, const Options& o)
{
    Json report;
    if (cut.job) {
        report["sheets"] = Json::array();
        for (int s = 0; s < int(cut.sheets.size()); ++s)
            report["sheets"].push_back(sheetReport(*cut.job, cut.derived, s));
        report["sheet"] = report["sheets"][0];
        report["findings"] = findingsReport(*cut.job, cut.derived, true);
    } else {
        const Drawing& d = cut.file->drawing;
        Json marks = Json::array();
        for (const Mark& m : d.marks)
            marks.push_back({m.centre.x, d.height - m.centre.y});
        report["artwork"] = {{"size_mm", {d.width, d.height}},
                             {"upi", cut.file->unitsAnInch},
                             {"upi_from", cut.file->sizeFromFile ? "file"
                                          : o.upi.empty()        ? "assumed"
                                                                 : "option"}};
        report["sheet"] = {{"size_mm", {d.width, d.height}}, {"marks_mm", marks}};
        report["left_out"] = cut.file->leftOut;
        report["findings"] = Json::array();
    }
    return report;
}

// A file's own checks are those of its plan.
int endOf(const Cut& cut, const Options& o, const std::vector<Plan>& plans = {})
{
    if (!cut.job && o.strict)
        for (const Plan& plan : plans)
            if (!plan.lost.empty()) {
                std::cerr << "yokai-batch: a place that is " << plainNumber(plan.lost.front().width, 2) << " mm wide is lost in the kerf\n";
                return 1;
            }
    return cut.job ? strictCode(*cut.job, cut.derived, o.strict, true) : 0;
}

std::string textOf(const Plan& plan)
{
    try {
        requireOnBed(plan);
    } catch (const Error& e) {
        return e.what();
    }
    return {};
}

Json outsideReach(const Plan& plan)
{
    return {{"code", "outside-reach"},
            {"severity", "error"},
            {"at_mm", {plan.beyondAt.x, plan.beyondAt.y}},
            {"value", std::round(plan.beyondBed * 1e4) / 1e4},
            {"limit", 0},
            {"text", textOf(plan)}};
}

Json kerfLoss(const LostPath& lost, double kerf)
{
    const auto figure = [](double v) { return std::round(v * 1e4) / 1e4; };
    return {{"code", "kerf-loss"},
            {"severity", "error"},
            {"at_mm", {figure(lost.at.x), figure(lost.at.y)}},
            {"value", figure(lost.width)},
            {"limit", kerf},
            {"text", "the beam's width of " + plainNumber(kerf, 2) + " mm swallows a place that is " + plainNumber(lost.width, 2) + " mm wide: it is not cut as drawn; widen it, or use a narrower beam"}};
}

} // namespace

int registerCut(const Options& o)
{
    o.requireOutput();
    const double begin = now();
    Cut cut = openCut(o);
    const Registered r = registered(cut, o);
    const Drawing drawing = movedOntoPrint(cut.sheets.front(), r.fit);
    const double written = now();
    Outputs outputs(o);
    for (const std::string& file : o.out)
        outputs.add(file, drawing, Content::Cut);
    outputs.write();
    if (!o.report.empty()) {
        Json report = reportOf(cut, o);
        report["fit"] = fitReport(r.fit);
        report["marks"] = marksReport(r);
        report["timing_ms"] = timing(cut.derived, now() - written, now() - begin);
        writeReport(report, o.report);
    }
    return endOf(cut, o);
}

int plan(const Options& o)
{
    o.requireOutput();
    const double begin = now();
    Cut cut = openCut(o);
    std::optional<Registered> r;
    if (!o.measured.empty())
        r = registered(cut, o);
    std::vector<Plan> plans;
    for (const Drawing& sheet : cut.sheets) {
        PlanSpec spec = cut.spec.plan;
        applyTo(spec, o, sheet.width, sheet.height);
        plans.push_back(planOfSheet(sheet, spec, r ? std::optional(r->fit) : std::nullopt));
    }
    // None of them is written where one would leave the bed: the report alone says so.
    const bool reaches = std::none_of(plans.begin(), plans.end(), leavesBed);
    const double written = now();
    Outputs outputs(o);
    for (const std::string& file : reaches ? o.out : std::vector<std::string>())
        for (int s = 0; s < int(plans.size()); ++s)
            outputs.add(fileOfSheet(file, s, int(plans.size())).string(),
                        textOf(file.ends_with(".plt") ? hpglOf(plans[std::size_t(s)]) : gcodeOf(plans[std::size_t(s)])));
    outputs.write();
    Json report = reportOf(cut, o);
    for (int s = 0; s < int(plans.size()); ++s) {
        const Plan& p = plans[std::size_t(s)];
        if (s == 0) {
            report["plan"] = planReport(p);
            report["seconds"] = std::round(p.seconds * 1e4) / 1e4;
        }
        if (cut.job) {
            report["sheets"][std::size_t(s)]["plan"] = planReport(p);
            report["sheets"][std::size_t(s)]["seconds"] = std::round(p.seconds * 1e4) / 1e4;
        }
        if (leavesBed(p))
            report["findings"].push_back(outsideReach(p));
        if (!cut.job)
            for (const LostPath& lost : p.lost)
                report["findings"].push_back(kerfLoss(lost, p.machine.tool.kerf.mm()));
    }
    if (r) {
        report["fit"] = fitReport(r->fit);
        report["marks"] = marksReport(*r);
    }
    report["timing_ms"] = timing(cut.derived, now() - written, now() - begin);
    if (!o.report.empty())
        writeReport(report, o.report);
    for (const Plan& p : plans)
        requireOnBed(p);
    return endOf(cut, o, plans);
}

namespace {

std::string describe(const DoubtOfFit& d)
{
    switch (d.why) {
    case FitDoubt::LeftOut:
        return "mark " + std::to_string(d.mark + 1) + " lies " + plainNumber(d.value, 2) + " mm astray and is left out";
    case FitDoubt::Reordered:
        return "the marks were measured in another order than they are numbered in";
    case FitDoubt::TurnedRound:
        return "the sheet lies turned by " + plainNumber(d.value, 0) + " degrees";
    case FitDoubt::NoneToSpare:
        return "no mark is to spare, so that one measured wrongly would not show";
    case FitDoubt::Coarse:
        return plainNumber(d.value, 2) + " mm is to be expected at the cut, more than " + plainNumber(d.limit, 2) + " mm (--drift)";
    }
    return {};
}

// Nothing is cut by a fit that is in doubt. That no mark is to spare, who wrote the command knows: how many there are was chosen; so it is said only.
void requireSure(const Fit& fit, std::size_t marks, double drift)
{
    std::string all;
    for (const DoubtOfFit& d : doubtsOf(fit, marks, drift)) {
        if (d.why == FitDoubt::NoneToSpare)
            std::cerr << "yokai-batch: " << describe(d) << "\n";
        else
            all += (all.empty() ? "" : "; ") + describe(d);
    }
    if (!all.empty())
        throw Error(ErrorKind::Fit, "{}; look at the sheet and its marks, and add --sure to cut all the same", all);
}

} // namespace

// What a shell has as the end of a program that a signal ended.
constexpr int signalled = 128;

int cut(const Options& o)
{
    const double begin = now();
    Cut what = openCut(o);
    if (what.sheets.size() > 1)
        throw Error(ErrorKind::Usage, "'{}' has {} sheets, and one lies on the bed; save each as a job of its own", o.inputs.front(),
                    std::to_string(what.sheets.size()));
    if (!o.find.empty() && o.find != "sensor" && o.find != "none")
        throw Error(ErrorKind::Usage, "--find '{}' is no way to find marks; use sensor or none", o.find);
    CutOrder order;
    order.sheet = what.sheets.front();
    order.spec = what.spec;
    applyTo(order.spec.plan, o, order.sheet.width, order.sheet.height);
    order.spec.useFit = o.find != "none" || !o.measured.empty();
    if (!o.measured.empty())
        order.marks = readMeasured(readFile(o.measured), o.measured);
    LinkSpec link = machineOf(order).link;
    if (!o.port.empty())
        link.port = o.port;
    if (link.port.empty())
        throw Error(ErrorKind::Usage, "no port is given, and the machine has none of its own; add --port");
    int count = 1;
    char name[] = "yokai-batch";
    char* arguments[] = {name, nullptr};
    const QCoreApplication application(count, arguments); // serial ports need one
    if (const auto why = hazardOf(order.spec.plan.machine, order.spec.plan.material); why && !o.sure)
        throw *why;
    CutControl control;
    Job settings; // the drift that lines are checked for
    if (!what.job)
        applyTo(settings, o);
    CutWatch watch;
    if (!o.sure)
        watch.fitted = [drift = (what.job ? *what.job : settings).check.drift.mm()](const Fit& fit, std::size_t marks) { requireSure(fit, marks, drift); };
    std::size_t runs = 0, all = 0;
    watch.planned = [&](const Plan& p) { all = p.runs.size(); };
    watch.run = [&](std::size_t n) { runs = n; };
    const StoppedBySignal stopped;
    CutDone done;
    try {
        done = cutOnMachine(order, link, control, watch, {stopped.token(), {}});
    } catch (const Cancelled&) {
        std::cerr << "yokai-batch: stopped, with the tool up: " << runs << " of " << all << " paths are done\n";
        return signalled + stopped.which();
    }
    if (!o.report.empty()) {
        Json report = reportOf(what, o);
        if (done.fit) {
            report["fit"] = fitReport(*done.fit);
            report["marks"] = marksReport({done.marks, *done.fit});
        }
        report["plan"] = planReport(done.plan);
        report["seconds"] = std::round(done.plan.seconds * 1e4) / 1e4;
        report["paths_cut"] = done.runs;
        report["timing_ms"] = timing(what.derived, 0, now() - begin);
        writeReport(report, o.report);
    }
    return endOf(what, o, {done.plan});
}

} // namespace yokai::batch
