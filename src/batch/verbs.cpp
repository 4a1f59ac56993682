#include "verbs.h"
#include "values.h"

#include "base/file.h"
#include "formats/cut_file.h"
#include "formats/format.h"
#include "formats/order/order.h"
#include "formats/pages/proof.h"
#include "formats/project/project.h"
#include "formats/project/schema.h"
#include "outputs.h"
#include "report.h"
#include "words.h"

#include <chrono>
#include <cmath>
#include <ctime>
#include <iostream>

namespace yokai::batch {

namespace {

ProofFacts proofFacts(const Options& o)
{
    ProofFacts facts;
    facts.maker.name = o.maker;
    if (!o.makerLogo.empty())
        facts.maker.logo = openPicture(o.makerLogo);
    const std::time_t now = std::time(nullptr);
    std::tm day{};
    localtime_r(&now, &day);
    char text[16];
    std::strftime(text, sizeof text, "%Y-%m-%d", &day);
    facts.date = text;
    return facts;
}

// A drawing's paths are the lines as they are drawn.
int linesOf(const Options& o)
{
    const double begin = now();
    Job job; // of nothing but its settings
    applyTo(job, o);
    CutFile file = drawingOf(o.inputs.front(), o);
    Drawing& drawing = file.drawing;
    drawing.spots = job.handOff.spots;
    drawing.hairline = job.handOff.hairline.mm();
    drawing.dxf = job.handOff.dxf;
    const double written = now();
    Outputs outputs(o);
    for (const std::string& to : o.out)
        outputs.add(to, drawing, Content::Cut);
    outputs.write();
    if (!o.report.empty()) {
        Json report;
        report["artwork"] = {{"size_mm", {std::round(drawing.width * 1e4) / 1e4, std::round(drawing.height * 1e4) / 1e4}}, {"upi", file.unitsAnInch}, {"left_out", file.leftOut}};
        report["lines"] = Json::array();
        for (const LineKind kind : lineKinds) {
            int paths = 0;
            std::size_t nodes = 0;
            double length = 0, area = 0;
            for (const CutItem& item : drawing.cuts)
                if (item.kind == kind) {
                    ++paths;
                    nodes += nodesOf({item.path});
                    length += lengthOf({item.path});
                    area += item.path.closed ? std::abs(signedArea(item.path)) * (item.opening ? -1 : 1) : 0;
                }
            if (paths > 0)
                report["lines"].push_back({{"kind", facts(kind).name}, {"paths", paths}, {"nodes", nodes}, {"length_mm", std::round(length * 1e4) / 1e4}, {"area_mm2", std::round(area * 1e4) / 1e4}});
        }
        report["findings"] = Json::array();
        report["timing_ms"] = {{"write", now() - written}, {"total", now() - begin}};
        writeReport(report, o.report);
    }
    return 0;
}

} // namespace

int outline(const Options& o)
{
    o.requireOutput();
    if (o.asLines())
        return linesOf(o);
    const double begin = now();
    Job job;
    job.pieces.push_back(pieceOf(o.inputs.front(), o));
    applyTo(job, o);
    StepCache cache(1); // nothing is asked twice
    const Derived d = derive(job, cache, {}, Want::Lines);
    requireSomething(job, d, false);
    const double written = now();
    Outputs outputs(o);
    for (const std::string& file : o.out)
        if (isJob(file))
            outputs.add(file, job, d);
        else
            outputs.add(file, drawPiece(job, job.pieces[0], d.pieces[0], Content::Cut), Content::Cut);
    outputs.write();
    if (!o.report.empty()) {
        Json report = pieceReport(job.pieces[0], d.pieces[0]);
        report["findings"] = findingsReport(job, d, false);
        report["timing_ms"] = timing(d, now() - written, now() - begin);
        writeReport(report, o.report);
    }
    return endOf(job, d, o.strict, false);
}

namespace {

// Pictures, a saved job or an order list, with what was said of them.
Job jobOf(const Options& o)
{
    Job job;
    if (!o.order.empty() && !o.inputs.empty())
        throw Error(ErrorKind::Usage, "give either pictures or --order, not both; the list names its pictures");
    if (!o.order.empty()) {
        job.pieces = openOrder(o.order, {}, [&](Piece& piece) { applyTo(piece, o); });
        job.name = std::filesystem::path(o.order).stem().string();
    } else if (o.inputs.empty()) {
        throw Error(ErrorKind::Usage, "no pictures are given; name some, a .yokai job, or --order LIST.csv");
    } else if (o.inputs.size() == 1 && isJob(o.inputs.front())) {
        job = openProject(o.inputs.front());
        for (Piece& p : job.pieces)
            applyTo(p, o);
    } else {
        for (const std::string& path : o.inputs)
            job.pieces.push_back(pieceOf(path, o));
        job.name = job.pieces.front().name;
    }
    applyTo(job, o);
    applyTo(job.cut.plan, o, job.sheet.width(), job.sheet.height());
    if (job.pieces.empty())
        throw Error(ErrorKind::Input, "the job '{}' has no pieces; add a picture to it", o.inputs.front());
    return job;
}

void writeSheets(const Options& o, const Job& job, const Derived& d)
{
    if (!o.print.empty() && d.isBlank())
        throw Error(ErrorKind::Input, "nothing of '{}' is printed, so '{}' would be blank; leave --print out", job.name, o.print);
    const bool images = !o.print.empty() || !o.out.empty();
    Outputs outputs(o);
    const std::vector<Drawing> drawings = drawSheets(job, d, images ? Content::Both : Content::Cut);
    for (int s = 0; s < d.sheet.sheets; ++s) {
        const Drawing& drawing = drawings[std::size_t(s)];
        const auto named = [&](const std::string& file) { return fileOfSheet(file, s, d.sheet.sheets).string(); };
        outputs.add(named(o.print), drawing, Content::Print);
        outputs.add(named(o.cut), drawing, Content::Cut);
        for (const std::string& file : o.out)
            if (!isJob(file))
                outputs.add(named(file), drawing, Content::Both);
    }
    for (const std::string& file : o.out)
        if (isJob(file))
            outputs.add(file, job, d);
    if (!o.proof.empty())
        outputs.add(o.proof, writeProof(job, d, proofFacts(o)));
    outputs.write();
}

} // namespace

int sheet(const Options& o)
{
    o.requireOutput();
    const double begin = now();
    const Job job = jobOf(o);
    StepCache cache;
    const Derived d = derive(job, cache);
    requireSomething(job, d, true);
    const double written = now();
    writeSheets(o, job, d);
    if (!o.report.empty()) {
        Json report = pieceReport(job.pieces[0], d.pieces[0]);
        if (job.pieces.size() > 1) {
            report = Json::object();
            for (std::size_t i = 0; i < job.pieces.size(); ++i) {
                Json piece = pieceReport(job.pieces[i], d.pieces[i]);
                piece["name"] = job.pieces[i].name;
                piece["placed"] = d.sheet.placed[i];
                report["pieces"].push_back(piece);
            }
        }
        report["sheets"] = Json::array();
        for (int s = 0; s < d.sheet.sheets; ++s)
            report["sheets"].push_back(sheetReport(job, d, s));
        report["sheet"] = report["sheets"][0];
        report["findings"] = findingsReport(job, d, true);
        report["timing_ms"] = timing(d, now() - written, now() - begin);
        writeReport(report, o.report);
    }
    return endOf(job, d, o.strict, true);
}

int check(const Options& o)
{
    const double begin = now();
    Job job;
    if (isJob(o.inputs.front())) {
        job = openProject(o.inputs.front());
        for (Piece& p : job.pieces)
            applyTo(p, o);
    } else {
        job.pieces.push_back(pieceOf(o.inputs.front(), o));
    }
    const bool onSheet = isJob(o.inputs.front());
    applyTo(job, o);
    StepCache cache;
    const Derived d = derive(job, cache, {}, Want::Lines);
    if (!onSheet)
        requireSound(d, true);
    if (o.report.empty()) {
        for (const Finding& f : d.findings)
            if (onSheet || !f.onSheet())
                std::cout << words(f, job) << "\n";
    } else {
        Json report = onSheet ? Json::object() : pieceReport(job.pieces[0], d.pieces[0]);
        report["findings"] = findingsReport(job, d, onSheet);
        report["timing_ms"] = timing(d, 0, now() - begin);
        writeReport(report, o.report);
    }
    return strictCode(job, d, o.strict, onSheet);
}

int schema(const Options& o)
{
    const std::string of = o.inputs.empty() ? "job" : o.inputs.front();
    if (of != "job" && of != "machine" && of != "material")
        throw Error(ErrorKind::Usage, "there is no schema of '{}'; ask for that of job, machine or material", of);
    std::cout << (of == "job" ? jobSchema() : of == "machine" ? machineSchema() : materialSchema()) << std::flush;
    return std::cout ? 0 : 4;
}

} // namespace yokai::batch
