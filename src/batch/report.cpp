#include "report.h"

#include "artwork/svg_size.h"

#include "base/file.h"
#include "words.h"

#include <iostream>

namespace yokai::batch {

namespace {

double rounded(double v) { return std::round(v * 1e6) / 1e6; }
Json point(Point p, double height) { return Json::array({rounded(p.x), rounded(height - p.y)}); }

const char* name(Severity s)
{
    switch (s) {
    case Severity::Note:
        return "note";
    case Severity::Warning:
        return "warning";
    case Severity::Error:
        return "error";
    }
    return "error";
}

} // namespace

Json pieceReport(const Piece& piece, const PieceResult& r)
{
    Json out;
    const PictureInfo& info = piece.artwork.picture.info;
    const char* from = piece.artwork.sizeBy != SizeBy::File ? "option" : info.ppiFrom == PpiSource::File ? "file" : "assumed";
    out["artwork"] = {
        {"px", {info.width, info.height}}, {"ppi", rounded(r.pxPerMm * 25.4)}, {"ppi_from", from}, {"size_mm", {rounded(r.width), rounded(r.height)}}};
    if (info.format == PictureFormat::Svg && !info.sized)
        out["artwork"]["upi"] = rounded(cssUnitsAnInch * (piece.artwork.sizeBy == SizeBy::Ppi ? piece.artwork.ppi / info.ppi : 1));
    const LayerResult& layer = r.layer();
    Json parts = Json::array();
    for (const Part& p : layer.parts->all)
        if (!p.opening && p.kept)
            parts.push_back({{"area_mm2", rounded(p.area)}, {"openings", p.openings}});
    out["keep"] = {{"rule", yokai::name(layer.coverage->rule)},
                   {"level", layer.coverage->level},
                   {"parts", parts},
                   {"dropped_parts", layer.parts->droppedParts},
                   {"filled_openings", layer.parts->filledOpenings}};
    Json lines = Json::array();
    for (const CutLine& l : layer.lines)
        lines.push_back({{"kind", yokai::name(l.kind)},
                         {"offset_mm", l.offset.mm()},
                         {"paths", l.paths->size()},
                         {"nodes", l.nodes},
                         {"length_mm", rounded(l.length)},
                         {"area_mm2", rounded(l.area)}});
    out["lines"] = lines;
    out["drift_allowance_mm"] = rounded(layer.driftAllowance());
    out["drift_at_mm"] = point(layer.drift.at(), r.height);
    out["bleed_mm"] = rounded(piece.bleed().distance.mm());
    return out;
}

Json sheetReport(const Job& job, const Derived& d, int sheet)
{
    const Layout& layout = d.sheet;
    Json marks = Json::array(), placements = Json::array();
    for (const Mark& m : cutMarksOf(job, d))
        marks.push_back(point(m.centre, layout.height));
    // Where the middle of a copy's box lies, and how it is turned clockwise, after it was mirrored.
    for (const Placement& p : layout.on(sheet)) {
        const Point at = p.toSheet(d.pieces[p.at].box.centre());
        placements.push_back({{"piece", p.at}, {"x_mm", rounded(at.x)}, {"y_mm", rounded(layout.height - at.y)}, {"turn_deg", rounded(turnOf(p.toSheet))}, {"mirror", p.toSheet.det() < 0}});
    }
    const MarkSpec& spec = job.sheet.marks;
    return {{"size_mm", {layout.width, layout.height}},
            {"marks", {{"style", yokai::name(layout.marks.empty() ? MarkStyle::None : spec.style)}, {"size_mm", spec.size.mm()}, {"weight_mm", spec.weight.mm()}}},
            {"copies", layout.on(sheet).size()},
            {"used", rounded(layout.usedOf(sheet))},
            {"marks_mm", marks},
            {"placements", placements}};
}

Json planReport(const Plan& plan)
{
    const auto figure = [](double v) { return std::round(v * 1e4) / 1e4; };
    Json out = Json::array();
    for (const PlannedStep& step : plan.steps) {
        if (step.paths == 0)
            continue;
        Json entry = {{"operation", facts(step.operation).called}};
        if (step.operation == Operation::InnerThrough || step.operation == Operation::OuterThrough)
            entry["part"] = step.operation == Operation::InnerThrough ? "inner" : "outer";
        if (!step.name.empty())
            entry["name"] = step.name;
        entry["paths"] = step.paths;
        entry["cut_mm"] = figure(step.cut);
        entry["travel_mm"] = figure(step.travel);
        entry["seconds"] = figure(step.seconds);
        entry["speed_mm_s"] = figure(step.settings.speed.mmPerSecond());
        entry["passes"] = step.settings.passes;
        entry[plan.machine.kind == MachineKind::Laser ? "power_percent" : "force_gram"] =
            plan.machine.kind == MachineKind::Laser ? step.settings.power : step.settings.force;
        out.push_back(entry);
    }
    return out;
}

Json fitReport(const Fit& f)
{
    Json residuals = Json::array(), leftOut = Json::array();
    for (const double r : f.residuals)
        residuals.push_back(rounded(r));
    for (const int i : f.leftOut)
        leftOut.push_back(i + 1);
    return {{"model", yokai::name(f.model)}, {"scale", {rounded(f.scaleX), rounded(f.scaleY)}},
            {"turn_deg", rounded(f.turn)},   {"skew_deg", rounded(f.skew)},
            {"rms_mm", rounded(f.rms)},      {"residual_mm", residuals},
            {"left_out", leftOut},            {"expected_mm", rounded(f.expected)},
            {"reordered", !f.order.empty()}};
}

Json findingsReport(const Job& job, const Derived& d, bool onSheet)
{
    Json out = Json::array();
    for (const Finding& f : d.findings) {
        if (!onSheet && f.onSheet())
            continue;
        const PieceResult* piece = d.find(f.piece);
        Json finding = {{"code", f.code}, {"severity", name(f.severity)}};
        if (piece)
            finding["piece"] = piece - d.pieces.data();
        finding["at_mm"] = point(f.at, piece ? piece->height : d.sheet.height);
        finding["value"] = rounded(f.value);
        finding["limit"] = rounded(f.limit);
        finding["text"] = words(f, job);
        out.push_back(finding);
    }
    return out;
}

void writeReport(const Json& report, const std::string& target)
{
    const std::string text = report.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
    if (target == "-") {
        std::cout << text << std::flush;
        if (!std::cout)
            throw Error(ErrorKind::Output, "cannot write the report to standard output; check where it goes");
    } else {
        writeFile(target, text);
    }
}

} // namespace yokai::batch
