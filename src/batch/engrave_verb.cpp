// engrave: a picture's engraving, and with lines the cut after it, as one program.

#include "base/length.h"
#include "outputs.h"
#include "report.h"
#include "verbs.h"
#include "values.h"
#include "formats/program/onto_print.h"
#include "formats/program/program.h"
#include "words.h"

#include <cmath>

namespace yokai::batch {

namespace {

EngraveSpec engraveFrom(const Options& o)
{
    EngraveSpec out;
    if (!o.engrave.empty())
        out.as = choiceOption<EngraveAs>(o.engrave, "--engrave");
    if (!o.interval.empty())
        out.interval = lengthOption(o.interval, "--interval", &EngraveSpec::interval);
    if (!o.angle.empty())
        out.angle = plainOption(o.angle, "--angle", -180, 180);
    if (!o.overscan.empty())
        out.overscan = lengthOption(o.overscan, "--overscan", &EngraveSpec::overscan);
    if (!o.burnLevel.empty())
        out.level = plainOption(o.burnLevel, "--burn-level", 0, 100);
    if (!o.curve.empty())
        out.curve = plainOption(o.curve, "--curve", 0.1, 10);
    if (!o.leastPower.empty())
        out.leastPower = plainOption(o.leastPower, "--least-power", 0, 100);
    out.oneWay = o.oneWay;
    out.reverse = o.reverse;
    return out;
}

Json engraveReport(const EngraveSpec& spec, const Plan& plan)
{
    std::size_t lines = 0, stretches = 0;
    double burnt = 0, interval = spec.interval ? spec.interval->mm() : 0;
    for (const ToolRun& run : plan.runs) {
        if (!run.scan)
            continue;
        const ScanLine& line = run.scan->lines[run.line];
        ++lines;
        stretches += line.count;
        for (std::size_t k = line.first; k < line.first + line.count; ++k)
            burnt += run.scan->stretches[k].to - run.scan->stretches[k].from;
        if (!spec.interval)
            interval = 1 / plan.steps[std::size_t(run.step)].settings.linesPerMm;
    }
    return {{"as", name(spec.as)}, {"interval_mm", interval}, {"lines", lines}, {"stretches", stretches}, {"burnt_mm", std::round(burnt * 1e3) / 1e3}};
}

} // namespace

int engrave(const Options& o)
{
    o.requireOutput();
    const double begin = now();
    Job job;
    job.pieces.push_back(pieceOf(o.inputs.front(), o));
    Layer& layer = job.pieces.front().layers.front();
    layer.engrave = engraveFrom(o);
    if (o.lines.empty()) {
        if (layer.engrave->reverse)
            throw Error(ErrorKind::Usage, "--reverse engraves all inside the through line, and there is none; add --line through:OFFSET");
        layer.lines.clear();
    }
    applyTo(job, o);
    StepCache cache(1); // nothing is asked twice
    const Derived d = derive(job, cache, {}, Want::Lines);
    requireSound(d, false);
    Drawing drawing = drawPiece(job, job.pieces.front(), d.pieces.front(), Content::Cut);
    PlanSpec spec = drawing.plan;
    applyTo(spec, o, drawing.width, drawing.height);
    const double planned = now();
    Plan plan = planOfSheet(drawing, spec);
    if (plan.bedIsSheet)
        plan.beyondBed = 0; // the frame of a picture is no bed
    const double written = now();
    Outputs outputs(o);
    for (const std::string& file : o.out)
        if (isJob(file))
            outputs.add(file, job, d);
        else if (file.ends_with(".gcode"))
            outputs.add(file, textOf(gcodeOf(plan)));
        else
            outputs.add(file, drawing, Content::Cut);
    outputs.write();
    if (!o.report.empty()) {
        Json report = pieceReport(job.pieces.front(), d.pieces.front());
        report["engrave"] = engraveReport(*layer.engrave, plan);
        report["plan"] = planReport(plan);
        report["seconds"] = std::round(plan.seconds * 1e4) / 1e4;
        report["findings"] = findingsReport(job, d, false);
        report["timing_ms"] = timing(d, now() - written, now() - begin);
        report["timing_ms"]["paths"] = std::round((written - planned) * 1e3) / 1e3;
        writeReport(report, o.report);
    }
    return strictCode(job, d, o.strict, false);
}

} // namespace yokai::batch
