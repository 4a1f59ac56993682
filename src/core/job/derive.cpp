#include "job/derive.h"

#include "check/checks.h"
#include "job/features.h"
#include "job/derive_piece.h"
#include "job/steps/layout.h"

namespace yokai {

namespace {

PieceResult resultOf(const Piece& piece, Run& run, Want want)
{
    PieceResult result;
    result.id = piece.id;
    try {
        try {
            derivePiece(piece, run, want, result);
        } catch (...) {
            rethrowAsError(ErrorKind::Input, "working on '" + piece.name + "'");
        }
    } catch (const Error& e) {
        result.problem = e;
        for (LayerResult& layer : result.layers)
            layer.lines.clear();
        if (result.width <= 0) { // the asked size itself makes no sense
            result.pxPerMm = assumedPpi / 25.4;
            result.width = piece.artwork.source().width / result.pxPerMm;
            result.height = piece.artwork.source().height / result.pxPerMm;
        }
    }
    return result;
}

ToPlace toPlaceOf(const Piece& piece, PieceResult& result, Run& run)
{
    ToPlace out{piece.id, result.problem ? Rect::nothing() : result.box, piece.copies, piece.share};
    if (result.problem)
        return out;
    out.lies = piece.artwork.frameOnSheet();
    if (out.lies)
        out.copies = 1;
    ShapeIn shape{{}, {}, result.pxPerMm};
    for (const LayerResult& layer : result.layers) {
        for (const CutLine& line : layer.lines)
            if (line.kind != LineKind::Crease)
                shape.lines.push_back({line.paths, line.kind});
        if (layer.isPrinted || layer.lines.empty())
            shape.prints.push_back({layer.parts, layer.printReach.mm()});
    }
    out.shape = result.shape = run(shape).value;
    return out;
}

void layOut(const Job& job, const std::vector<ToPlace>& pieces, Run& run, LayoutWatch watch, Derived& out)
{
    std::vector<Key> shapes;
    for (const ToPlace& piece : pieces)
        shapes.push_back(piece.shape ? Digest().add(piece.shape->rings).add(piece.shape->reach).value() : Key{});
    // Where nothing is printed there are no marks to print, and none to fit to.
    SheetSpec sheet = job.sheet;
    if (!out.printed)
        sheet.marks.style = MarkStyle::None;
    const LayoutIn in{sheet, pieces, shapes, job.placings, watch};
    if (job.sheet.layout != LayoutKind::Nest) {
        out.sheet = *run(in);
        return;
    }
    const Key key = Run::keyOf(in);
    const std::string named = hexadecimal(key);
    // What was nested before is as good now, wherever it is looked at.
    if (job.nested && job.nested->key == named)
        watch.nested = &*job.nested;
    if (!watch.nests && !watch.nested)
        if (const auto known = run.find<Layout>(key))
            out.sheet = *known;
        else
            out.sheet = yokai::layOut(sheet, pieces, job.placings, run.work(), watch);
    else
        out.sheet = *run(in);
    if (!out.sheet.waits && !out.sheet.problem)
        out.nestedKey = named;
}

} // namespace

const LayerResult& PieceResult::layer() const
{
    static const LayerResult none;
    return layers.empty() ? none : layers.front();
}

const LayerResult& PieceResult::layer(LayerId wanted) const
{
    static const LayerResult none;
    const auto found = std::find_if(layers.begin(), layers.end(), [wanted](const LayerResult& l) { return l.id == wanted; });
    return found == layers.end() ? none : *found;
}

bool Derived::isBlank() const
{
    const auto prints = [](const PieceResult& p) { return std::any_of(p.layers.begin(), p.layers.end(), [](const LayerResult& l) { return l.isPrinted; }); };
    // On a sheet on which things lie already marks are not printed again.
    const bool marked = std::any_of(sheet.marks.begin(), sheet.marks.end(), yokai::isPrinted) &&
                        std::none_of(sheet.placements.begin(), sheet.placements.end(), [](const Placement& p) { return p.lies; });
    return !marked && std::none_of(pieces.begin(), pieces.end(), prints);
}

const PieceResult* Derived::find(PieceId id) const
{
    for (const PieceResult& piece : pieces)
        if (piece.id == id)
            return &piece;
    return nullptr;
}

std::optional<Nested> nestedOf(const Derived& derived)
{
    if (derived.nestedKey.empty())
        return std::nullopt;
    Nested out{derived.nestedKey, {}};
    for (const Placement& p : derived.sheet.placements)
        if (const Affine& m = p.toSheet; !p.placing && !p.lies)
            out.copies.push_back({p.piece, p.sheet, {m.a, m.b}, {m.c, m.d}, {m.e, m.f}});
    return out;
}

namespace {

// All is engraved, and lies where it is burnt. Colour layers are cut from stocks that marks make lie upon one another, and what a clear picture is
// there for may be printed elsewhere.
bool isPrintedAtAll(const Job& job, const Derived& derived)
{
    if (job.pieces.empty())
        return true;
    for (std::size_t i = 0; i < job.pieces.size(); ++i) {
        const Piece& piece = job.pieces[i];
        if (isThere(job, piece) || std::none_of(piece.layers.begin(), piece.layers.end(), [](const Layer& l) { return bool(l.engrave); }) ||
            std::any_of(piece.layers.begin(), piece.layers.end(), [](const Layer& l) { return bool(l.ofColours); }))
            return true;
        const auto& layers = derived.pieces[i].layers;
        if (derived.pieces[i].problem || std::any_of(layers.begin(), layers.end(), [](const LayerResult& l) { return l.isPrinted; }))
            return true;
    }
    return false;
}

} // namespace

Derived derive(const Job& job, StepCache& cache, const Work& work, Want want, const Watch& watch)
{
    Derived out;
    Run run(cache, out.milliseconds, work);
    std::vector<ToPlace> toPlace;
    const double steps = double(job.pieces.size() + 1);
    for (const Piece& piece : job.pieces) {
        work.report(double(out.pieces.size()) / steps, piece.name);
        out.pieces.push_back(resultOf(piece, run, want));
        PieceResult& result = out.pieces.back();
        toPlace.push_back(toPlaceOf(piece, result, run));
    }
    out.printed = isPrintedAtAll(job, out);
    work.report(double(job.pieces.size()) / steps, "sheet");
    LayoutWatch looksOn{watch.nests, {}, watch.enough, nullptr};
    if (watch.better)
        looksOn.better = [&](const Layout& layout) {
            Derived better = out;
            better.sheet = layout;
            better.findings = findingsOf({job, better, run});
            watch.better(better);
        };
    layOut(job, toPlace, run, looksOn, out);
    for (const FeatureMark& feature : featureMarksOf(job, out.pieces, out.sheet))
        out.sheet.marks.push_back(feature.mark);
    work.report(1, "checks");
    out.findings = findingsOf({job, out, run});
    return out;
}

} // namespace yokai
