#include "verbs.h"

#include "base/file.h"
#include "formats/format.h"
#include "formats/order/order.h"
#include "formats/pages/proof.h"
#include "formats/project/project.h"
#include "register/measured.h"
#include "report.h"
#include "words.h"

#include <chrono>
#include <ctime>
#include <iostream>

namespace yokai::batch {

namespace {

double now() { return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now().time_since_epoch()).count(); }

// Everything is made before anything is written, so that an error late in the
// making leaves every target as it was.
bool isJob(const std::string& path) { return std::filesystem::path(path).extension() == ".yokai"; }

// All are made before the first is written, so that a failure leaves none half done.
class Outputs {
public:
    void add(const std::string& file, Job job, const Derived& derived)
    {
        giveIds(job);
        job.nested = nestedOf(derived);
        files_.emplace_back(file, writeProject(job));
    }
    void add(const std::string& file, const Drawing& drawing, Content content)
    {
        if (!file.empty())
            files_.emplace_back(file, written(*formatOf(file), drawing, content));
    }
    void add(const std::string& file, Bytes bytes) { files_.emplace_back(file, std::move(bytes)); }
    void write() const
    {
        for (const auto& [file, bytes] : files_)
            writeFile(file, bytes);
    }

private:
    std::vector<std::pair<std::string, Bytes>> files_;
};

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

Json timing(const Derived& d, double write, double total)
{
    const auto of = [&](const char* step) {
        const auto found = d.milliseconds.find(step);
        return found == d.milliseconds.end() ? 0.0 : found->second;
    };
    return {{"decode", of("decode")}, {"keep", of("keep")}, {"outline", of("outline")}, {"offset", of("offset")}, {"fit", of("fit")},
            {"bleed", of("bleed")}, {"touchup", of("touchup")}, {"layout", of("layout")}, {"check", of("check")}, {"write", write},   {"total", total}};
}

int strictCode(const Job& job, const Derived& d, bool strict, bool onSheet)
{
    for (const Finding& f : d.findings)
        if (strict && f.severity == Severity::Error && (onSheet || !f.onSheet())) {
            std::cerr << "yokai-batch: " << words(f, job) << "\n";
            return 1;
        }
    return 0;
}

void requireLines(const Derived& d)
{
    for (const PieceResult& p : d.pieces)
        if (p.problem)
            throw *p.problem;
    if (d.sheet.problem)
        throw *d.sheet.problem;
}

} // namespace

int outline(const Options& o)
{
    o.requireOutput();
    const double begin = now();
    Job job;
    job.pieces.push_back(pieceOf(o.inputs.front(), o));
    applyTo(job, o);
    StepCache cache(1); // nothing is asked twice
    const Derived d = derive(job, cache, {}, Want::Lines);
    for (const PieceResult& p : d.pieces)
        if (p.problem)
            throw *p.problem;
    const double written = now();
    Outputs outputs;
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
    return strictCode(job, d, o.strict, false);
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
    if (job.pieces.empty())
        throw Error(ErrorKind::Input, "the job '{}' has no pieces; add a picture to it", o.inputs.front());
    return job;
}

void writeSheets(const Options& o, const Job& job, const Derived& d)
{
    const bool images = !o.print.empty() || !o.out.empty();
    Outputs outputs;
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
    requireLines(d);
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
    return strictCode(job, d, o.strict, true);
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
        requireLines(d);
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

int registerCut(const Options& o)
{
    o.requireOutput();
    const double begin = now();
    if (!isJob(o.inputs.front()))
        throw Error(ErrorKind::Usage, "'{}' is not a .yokai job; register moves the cut of a saved job", o.inputs.front());
    Job job = openProject(o.inputs.front());
    applyTo(job, o);
    const std::vector<MarkPair> marks = readMeasured(readFile(o.measured), o.measured);
    const Fit fit = fitMarks(marks, job.cut.model, job.cut.maxResidual.mm());
    StepCache cache;
    const Derived d = derive(job, cache, {}, Want::Lines);
    requireLines(d);
    requireResidual(fit, job.cut.maxResidual.mm());
    // The marks are in y up, the drawing in y down.
    if (d.sheet.sheets > 1)
        throw Error(ErrorKind::Usage, "'{}' has {} sheets, and register moves one; save each as a job of its own", o.inputs.front(), std::to_string(d.sheet.sheets));
    Drawing drawing = drawSheet(job, d, 0, Content::Cut);
    if (drawing.cutMarks)
        drawing.marks = *std::exchange(drawing.cutMarks, std::nullopt);
    const Affine flip{1, 0, 0, -1, 0, drawing.height};
    for (CutItem& item : drawing.cuts)
        item.path = transformed(fit.map(transformed(item.path, flip)), flip);
    for (Mark& m : drawing.marks)
        m.centre = flip(fit.map(flip(m.centre)));
    const double written = now();
    Outputs outputs;
    for (const std::string& file : o.out)
        outputs.add(file, drawing, Content::Cut);
    outputs.write();
    if (!o.report.empty()) {
        Json report;
        report["sheet"] = sheetReport(job, d, 0);
        report["fit"] = fitReport(fit);
        report["findings"] = findingsReport(job, d, true);
        report["timing_ms"] = timing(d, now() - written, now() - begin);
        writeReport(report, o.report);
    }
    return strictCode(job, d, o.strict, true);
}

} // namespace yokai::batch
