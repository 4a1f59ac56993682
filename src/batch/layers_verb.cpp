// layers: a flat-colour picture as one cut file a colour, all on the same sheet with the same marks.

#include "base/file.h"
#include "base/length.h"
#include "job/colour_layers.h"
#include "keep/colour.h"
#include "layers/coverage.h"
#include "outputs.h"
#include "verbs.h"
#include "values.h"
#include "words.h"

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <iostream>

namespace yokai::batch {

namespace {

SplitSpec splitFrom(const Options& o)
{
    SplitSpec out;
    if (!o.colours.empty() && o.colours != "auto")
        out.colours = int(plainOption(o.colours, "--colours", 1, 64));
    if (o.photo)
        out.of = SplitOf::Photo;
    if (!o.speckle.empty())
        out.speckle = areaOption(o.speckle, "--speckle");
    if (!o.merge.empty())
        out.merge = plainOption(o.merge, "--merge", 0.5, 60);
    return out;
}

LayersWanted wantedFrom(const Options& o, const Piece& piece)
{
    LayersWanted out;
    for (const std::string& text : o.drop) {
        const auto colour = colourFrom(text);
        if (!colour)
            throw Error(ErrorKind::Usage, "--drop '{}' is no colour; write it as #rrggbb", text);
        out.dropped.push_back(*colour);
    }
    if (!o.spread.empty())
        out.spread = lengthOption(o.spread, "--spread");
    if (!o.backing.empty())
        out.backing = lengthOption(o.backing, "--backing");
    out.line = piece.lines().front();
    if (o.lines.empty())
        out.line.offset = Length();
    if (!o.smallestPart.empty())
        out.smallestPart = piece.keep().smallestPart;
    return out;
}

// A file a layer that has anything, numbered from the bottom up; `files` says which.
void addFolder(Outputs& outputs, const std::string& folder, const Drawing& sheet, const Piece& piece, std::vector<std::string>& files)
{
    std::error_code error;
    std::filesystem::create_directories(folder, error);
    if (error)
        throw Error(ErrorKind::Output, "cannot make the folder '{}': {}; choose another", folder, error.message());
    for (std::size_t k = 0; k < piece.layers.size(); ++k) {
        const auto drawn = std::find_if(sheet.layers.begin(), sheet.layers.end(), [&](const DrawnLayer& l) { return l.name == piece.layers[k].name; });
        if (drawn == sheet.layers.end()) {
            std::cerr << "yokai-batch: of " << piece.layers[k].name << " all parts are under " << plainNumber(piece.layers[k].keep.smallestPart, 2)
                      << " mm2, so it has no file; lower --smallest-part to have one\n";
            continue;
        }
        files[k] = folder + labelOf(sheet.layers, std::size_t(drawn - sheet.layers.begin())) + ".svg";
        outputs.add(files[k], ofLayer(sheet, *drawn), Content::Cut);
    }
}

Json layerReport(const Layer& layer, const LayerResult& made, const std::string& file)
{
    double area = 0;
    for (const Part& part : made.parts->all)
        area += !part.opening && part.kept ? part.area : 0;
    const auto& colours = layer.ofColours->colours;
    return {{"name", layer.name}, {"colour", colours.size() == 1 ? hexOf(colours.front()) : std::string()}, {"area_mm2", std::round(area * 1e3) / 1e3}, {"parts", made.parts->keptParts}, {"file", file}};
}

} // namespace

int layers(const Options& o)
{
    o.requireOutput();
    const double begin = now();
    Job job;
    job.pieces.push_back(pieceOf(o.inputs.front(), o));
    job.name = job.pieces.front().name;
    applyTo(job, o);
    Piece& piece = job.pieces.front();
    piece.split = splitFrom(o);
    StepCache cache;
    piece.layers = colourLayers(*splitOf(piece, cache), wantedFrom(o, piece));
    giveIds(job);
    const Derived d = derive(job, cache, {}, Want::Lines);
    requireSomething(job, d, true);
    const double written = now();
    const PieceResult& made = d.pieces.front();
    Drawing sheet = drawSheets(job, d, Content::Cut).front();
    if (sheet.cutMarks)
        sheet.marks = *std::exchange(sheet.cutMarks, std::nullopt);
    Outputs outputs(o);
    std::vector<std::string> files(piece.layers.size());
    for (const std::string& out : o.out) {
        if (out.ends_with('/'))
            addFolder(outputs, out, sheet, piece, files);
        else if (isJob(out))
            outputs.add(out, job, d);
        else
            outputs.add(out, sheet, Content::Cut);
    }
    outputs.write();
    if (!o.report.empty()) {
        Json report = pieceReport(piece, made);
        report["layers"] = Json::array();
        for (std::size_t k = 0; k < piece.layers.size(); ++k)
            report["layers"].push_back(layerReport(piece.layers[k], made.layers[k], files[k]));
        report["sheets"] = Json::array({sheetReport(job, d, 0)});
        report["sheet"] = report["sheets"][0];
        report["findings"] = findingsReport(job, d, false);
        report["timing_ms"] = timing(d, now() - written, now() - begin);
        writeReport(report, o.report);
    }
    return endOf(job, d, o.strict, false);
}

} // namespace yokai::batch
