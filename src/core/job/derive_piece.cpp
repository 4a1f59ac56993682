#include "job/derive_piece.h"

#include "base/cover.h"
#include "job/cut_lines.h"
#include "job/steps/engrave.h"
#include "job/steps/keep.h"
#include "job/steps/layers.h"
#include "job/steps/lines.h"
#include "job/steps/picture.h"
#include "job/steps/print.h"

namespace yokai {

namespace {

std::string nothingKept(const Piece& piece, const Layer& layer, const LayerResult& out)
{
    if (out.coverage->rule == KeepRule::Subject && out.parts->droppedParts == 0)
        return filled("no subject is found in '{}'; draw the box closer round it, or mark what is picture", {piece.artwork.picture.fileName});
    return out.parts->droppedParts > 0
               ? filled("nothing is kept of '{}' by the rule {} at level {}: all {} parts are under {} mm2; lower the smallest part",
                        {piece.artwork.picture.fileName, name(out.coverage->rule), plainNumber(out.coverage->level, 1), std::to_string(out.parts->droppedParts),
                         plainNumber(layer.keep.smallestPart, 2)})
               : filled("nothing is kept of '{}' by the rule {} at level {}; choose another rule or level",
                        {piece.artwork.picture.fileName, name(out.coverage->rule), plainNumber(out.coverage->level, 1)});
}

// What each layer has of the picture, as the split knows it.
class Colours {
public:
    Colours(const Piece& piece, const Made<Framed>& framed, double pxPerMm, Run& run) : piece_(piece), fromSource_(framed->fromSource), pxPerMm_(pxPerMm)
    {
        if (std::none_of(piece.layers.begin(), piece.layers.end(), [](const Layer& l) { return l.ofColours.has_value(); }))
            return;
        Made<Split> split = splitOf(piece, framed, pxPerMm, run);
        std::vector<Point> areas;
        for (const Layer& layer : piece.layers)
            if (layer.ofColours)
                for (const Point at : layer.ofColours->areas)
                    areas.push_back(fromSource_(at));
        split_ = areas.empty() ? std::move(split) : run(AreasIn{std::move(split), std::move(areas)});
    }
    const Made<Split>& split() const { return split_; }
    LayerIn in(const Layer& layer) const
    {
        const auto at = std::find_if(piece_.layers.begin(), piece_.layers.end(), [&](const Layer& l) { return &l == &layer; });
        LayerIn out{split_, *layer.ofColours, {}, {}, pxPerMm_};
        add(out.own, layer);
        for (auto above = at + 1; above != piece_.layers.end(); ++above)
            add(out.above, *above);
        return out;
    }

private:
    void add(ColoursOf& to, const Layer& layer) const
    {
        if (!layer.ofColours || layer.ofColours->from == LayerFrom::Above)
            return;
        to.colours.insert(to.colours.end(), layer.ofColours->colours.begin(), layer.ofColours->colours.end());
        for (const Point at : layer.ofColours->areas)
            to.areas.push_back(fromSource_(at));
    }
    const Piece& piece_;
    const Affine fromSource_;
    const double pxPerMm_;
    Made<Split> split_;
};

Made<Coverage> coverageOf(const Piece& piece, const Layer& layer, const Made<Framed>& framed, const Colours& colours, double pxPerMm, Run& run)
{
    const KeepSpec& keep = layer.keep;
    std::optional<Made<Gray8>> subject;
    if (!layer.ofColours && keep.rule == KeepRule::Subject)
        subject = run(SubjectIn{Later(SourceIn(piece.artwork)), keep.subject});
    Made<Coverage> coverage = layer.ofColours ? run(colours.in(layer))
                                              : run(RuledIn{framed, keep, piece.artwork.picture.info.lossy, pxPerMm, subject});
    if (!keep.onlyInside.empty())
        coverage = run(InsideIn{coverage, keep.onlyInside, framed->fromSource});
    if (!keep.touches.empty())
        coverage = run(TouchedIn{coverage, framed, keep.touches});
    return coverage;
}

// The box of what is kept, mm.
Rect keptBox(const Parts& parts, double pxPerMm)
{
    Rect box = Rect::nothing();
    for (const Contour& c : parts.contours)
        if (!c.opening()) {
            const Rect b = bounds(c.points);
            box.add(Rect{b.x0 / pxPerMm, b.y0 / pxPerMm, b.x1 / pxPerMm, b.y1 / pxPerMm});
        }
    return box;
}

// The line that bounds the print; null: none does.
const CutLine* clippingLine(const Layer& layer, const std::vector<CutLine>& lines)
{
    for (std::size_t i = 0; i < lines.size(); ++i)
        if (layer.lines[i].clipsPrint && !lines[i].paths->empty())
            return &lines[i];
    return nullptr;
}

// Of the lines that cut the piece out. An outline that nothing was done to keeps its distance everywhere.
Drift driftOfLines(const std::vector<CutLine>& lines, const Made<DistanceField>& edge, Length reach, double pxPerMm, Run& run)
{
    const bool through = std::any_of(lines.begin(), lines.end(), [](const CutLine& l) { return l.kind == LineKind::Through; });
    Drift out;
    for (const CutLine& line : lines) {
        if (line.kind != (through ? LineKind::Through : LineKind::Kiss) || line.paths->empty())
            continue;
        const Border border = line.offset > Length() ? Border::Wanted : Border::None;
        if (line.shape == LineShape::Outline && line.edits.empty())
            out.add(driftAt(line.paths->front().start, line.offset.mm(), (line.offset - reach).mm(), border));
        else
            out.add(*run(DriftIn{edge, withoutHoles(line), line.bare, reach.mm(), border, pxPerMm}));
    }
    return out;
}

// The list of a layer's work.
void deriveLayer(const Piece& piece, const Layer& layer, const Made<Framed>& framed, const Colours& colours, Run& run, Want want, const PieceResult& of, LayerResult& out)
{
    out.id = layer.id;
    out.isPrinted = !layer.ofColours && !layer.engrave && !framed->clear && !piece.artwork.lies() && piece.features.empty();
    const Made<Coverage> coverage = coverageOf(piece, layer, framed, colours, of.pxPerMm, run);
    out.coverage = coverage.value;
    const Made<Contours> edge = run(EdgeIn{coverage});
    out.edge = edge.value;
    const Made<Parts> parts = run(PartsIn{edge, layer.keep, framed->fromSource, of.pxPerMm});
    out.parts = parts.value;
    Made<Gray8> printed;
    const bool prints = want == Want::All && out.isPrinted;
    if (prints || layer.engrave) {
        printed = run(PrintedIn{framed, coverage, parts});
        out.printed = printed.value;
    }
    if (parts->contours.empty()) {
        // A colour of which there are only crumbs is no fault, beside others.
        if (layer.ofColours && piece.layers.size() > 1)
            return;
        throw Error(ErrorKind::Input, nothingKept(piece, layer, out));
    }
    out.kept = keptBox(*parts, of.pxPerMm);
    out.lines = cutLines(layer.lines, {parts, out.kept, of.pxPerMm, coverage->uncertain, of.sourceToMm}, run);
    const Made<DistanceField> edgeOfAll = run(FieldIn{parts, -1, 0});
    const CutLine* clip = clippingLine(layer, out.lines);
    if (layer.engrave) {
        const auto through = std::find_if(out.lines.begin(), out.lines.end(), [](const CutLine& l) { return l.kind == LineKind::Through && !l.paths->empty(); });
        out.engraving = run(EngraveIn{framed, printed, parts, through == out.lines.end() ? nullptr : through->paths, *layer.engrave, of.pxPerMm}).value;
    }
    out.printReach = !out.isPrinted ? Length() : clip ? clip->offset : layer.bleed.reach();
    if (!out.isPrinted)
        return;
    out.drift = driftOfLines(out.lines, edgeOfAll, out.printReach, of.pxPerMm, run);
    if (!prints)
        return;
    // Up to a line that bounds the print the picture itself is printed, and no farther.
    BleedIn print{edgeOfAll, framed, printed, layer.bleed, of.pxPerMm, piece.artwork.picture.info.lossy};
    if (clip) {
        print.bleed = {};
        print.edge = run(ClipEdgeIn{clip->paths, of.pxPerMm});
        print.printed = run(ClipIn{framed, clip->paths, of.pxPerMm});
        out.printed = print.printed.value;
    } else if (out.printReach > Length()) {
        out.bleed = run(print).value;
    }
    if (layer.underprint.on)
        out.underprint = run(UnderprintIn{print, out.bleed, layer.underprint}).value;
}

} // namespace

Made<Split> splitOf(const Piece& piece, const Made<Framed>& framed, double pxPerMm, Run& run)
{
    return run(SplitIn{framed, piece.split, piece.split.speckle > 0 ? pxPerMm : 1});
}

namespace {

// Flattened to a twentieth of a pixel, which no cover can show.
std::vector<Polyline> flattened(const Paths& paths, double pxPerMm)
{
    constexpr double flatness = 0.05;
    std::vector<Polyline> out;
    for (const Path& path : transformed(paths, Affine::scale(pxPerMm, pxPerMm)))
        out.push_back(flatten(path, flatness));
    return out;
}

} // namespace

std::shared_ptr<const Engraving> EngraveIn::make(Run& run) const
{
    if (spec.reverse && !region)
        throw Error(ErrorKind::Usage, "what is engraved reversed ends at a through line, and there is none; add one");
    auto out = std::make_shared<Engraving>();
    out->spec = spec;
    out->pxPerMm = pxPerMm;
    const std::vector<Polyline> within = spec.reverse ? flattened(*region, pxPerMm) : std::vector<Polyline>();
    const auto add = [&](const Polyline& ring) {
        Polyline& mm = out->outline.emplace_back();
        for (const Point p : ring) {
            mm.push_back(p * (1 / pxPerMm));
            out->box.add(mm.back());
        }
    };
    for (const Contour& c : parts->contours)
        add(c.points);
    for (const Polyline& ring : within)
        add(ring);
    if (spec.as == EngraveAs::Fill)
        return out;
    out->outline.clear();
    const Rgba8& px = *framed->pixels;
    Gray8 cover;
    if (spec.reverse) {
        cover = Gray8(px.width(), px.height(), std::uint8_t(0));
        coverPolygons(
            within, px.width(), px.height(), [&](int y, int x0, std::span<const std::uint8_t> row) { std::copy(row.begin(), row.end(), cover.row(y) + x0); }, run.work());
    }
    Gray8 tone = burnOf(px, *printed, spec.reverse ? &cover : nullptr, spec, run.work());
    if (spec.border > Length() && !spec.reverse)
        burnBorder(tone, *printed, spec.border.mm() * pxPerMm);
    out->tone = std::make_shared<const Gray8>(std::move(tone));
    return out;
}

std::shared_ptr<const Gray8> ClipIn::make(Run& run) const
{
    const std::vector<Polyline> polygons = flattened(*paths, pxPerMm);
    const Rgba8& px = *framed->pixels;
    auto out = std::make_shared<Gray8>(px.width(), px.height(), std::uint8_t(0));
    coverPolygons(
        polygons, px.width(), px.height(),
        [&](int y, int x0, std::span<const std::uint8_t> cover) {
            const Rgba* from = px.row(y) + x0;
            std::uint8_t* to = out->row(y) + x0;
            for (std::size_t x = 0; x < cover.size(); ++x)
                to[x] = std::uint8_t((int(cover[x]) * from[x].a + 127) / 255);
        },
        run.work());
    return out;
}

void derivePiece(const Piece& piece, Run& run, Want want, PieceResult& out)
{
    const ArtworkSpec& artwork = piece.artwork;
    out.pxPerMm = artwork.pxPerMm();
    out.width = artwork.width();
    out.height = artwork.height();
    out.sourceToMm = artwork.sourceToMm();
    const Made<Framed> framed = run(FrameIn{Later(SourceIn(artwork)), artwork.frameSpec()});
    out.pixels = SharedRgba(framed.value, framed->pixels.get()); // holds the whole of it, so that it is found again
    out.clear = framed->clear;
    const Colours colours(piece, framed, out.pxPerMm, run);
    out.split = colours.split().value;
    for (const Layer& layer : piece.layers) {
        out.layers.emplace_back();
        deriveLayer(piece, layer, framed, colours, run, want, out, out.layers.back());
        if (out.layers.back().parts->contours.empty())
            continue;
        out.kept.add(out.layers.back().kept);
        out.box.add(out.layers.back().kept);
        out.box.add(out.layers.back().kept.grown(out.layers.back().printReach.mm()));
        for (const CutLine& line : out.layers.back().lines)
            out.box.add(bounds(*line.paths));
    }
    if (out.kept.empty())
        throw Error(ErrorKind::Input, nothingKept(piece, piece.layers.front(), out.layers.front()));
}

} // namespace yokai
