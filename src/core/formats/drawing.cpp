#include "formats/drawing.h"

#include "artwork/drawn_page.h"
#include "base/length.h"
#include "sheet/extra_cuts.h"

namespace yokai {

namespace {

void addCuts(Drawing& drawing, const PieceResult& result, int copy, const Affine& map)
{
    for (const LayerResult& layer : result.layers)
        if (layer.engraving)
            drawing.engravings.push_back({result.id, copy, layer.engraving, map});
    for (const LayerResult& layer : result.layers)
        for (const CutLine& line : layer.lines)
            for (const Path& path : *line.paths)
                if (!path.segments.empty())
                    drawing.cuts.push_back({result.id, copy, line.id, line.kind, 0, transformed(path, map), breaksOf(line, path), path.closed && signedArea(path) < 0});
}

// Framed as the working copy is. Inks are not mixed by what is clear: they are framed three at a time.
std::optional<OwnColours> framedOwn(const ArtworkSpec& artwork, const Work& work)
{
    auto own = ownColours(artwork.picture, work);
    if (!own)
        return own;
    if (const auto above = artwork.fromAbove())
        own->pixels = std::make_shared<const Rgba8>(seenFromAbove(*own->pixels, *above, work));
    if (own->channels == 3) {
        own->pixels = framePicture(own->pixels, artwork, work).pixels;
        return own;
    }
    auto three = std::make_shared<Rgba8>(own->pixels->width(), own->pixels->height()), black = std::make_shared<Rgba8>(three->width(), three->height());
    for (std::size_t k = 0; k < three->size(); ++k) {
        const Rgba c = own->pixels->all()[k];
        three->all()[k] = {c.r, c.g, c.b, 255};
        black->all()[k] = {c.a, c.a, c.a, 255};
    }
    const SharedRgba colours = framePicture(three, artwork, work).pixels, blacks = framePicture(black, artwork, work).pixels;
    auto all = std::make_shared<Rgba8>(colours->width(), colours->height());
    for (std::size_t k = 0; k < all->size(); ++k) {
        all->all()[k] = colours->all()[k];
        all->all()[k].a = blacks->all()[k].r;
    }
    own->pixels = std::move(all);
    return own;
}

bool isUntouched(const ArtworkSpec& artwork)
{
    const FrameSpec frame = artwork.frameSpec();
    return isUprightJpeg(artwork.picture) && !artwork.tilt && artwork.quarters == 0 && !artwork.mirror && artwork.straighten == 0 && !frame.resampled && frame.width == artwork.picture.info.width &&
           frame.height == artwork.picture.info.height;
}

void addExtraCuts(Drawing& drawing, const Job& job, const Derived& derived, int sheet, int copies, const Affine& map)
{
    std::vector<Rect> boxes;
    for (const PieceResult& piece : derived.pieces)
        boxes.push_back(piece.box);
    for (const ExtraCut& cut : extraCuts(job.sheet, derived.sheet, sheet, boxes).cuts)
        drawing.cuts.push_back({{}, cut.copy ? int(*cut.copy) : copies, {}, cut.kind, 0, transformed(cut.path, map)});
}

std::vector<Mark> mapped(const Affine& map, std::vector<Mark> marks)
{
    for (Mark& m : marks) {
        m.centre = map(m.centre);
        m.inwards.x *= map.a;
    }
    return marks;
}

Affine mirrored(const SheetSpec& sheet, SheetMirror what)
{
    return sheet.mirror == SheetMirror::Both || sheet.mirror == what ? Affine{-1, 0, 0, 1, sheet.width(), 0} : Affine{};
}

// About the sheet's middle, as the printer was measured to do.
Affine stretchOf(const HandOffSpec& spec, double width, double height)
{
    const double x = spec.stretchX / 100, y = spec.stretchY / 100;
    return {x, 0, 0, y, width / 2 * (1 - x), height / 2 * (1 - y)};
}

void addLayers(std::vector<DrawnLayer>& out, const Piece& piece, const PieceResult& result)
{
    for (const Layer& layer : piece.layers) {
        if (!layer.ofColours)
            continue;
        std::vector<LineId> lines;
        for (const CutLine& line : result.layer(layer.id).lines)
            if (!line.paths->empty())
                lines.push_back(line.id);
        if (lines.empty())
            continue;
        auto at = std::find_if(out.begin(), out.end(), [&](const DrawnLayer& l) { return l.name == layer.name; });
        if (at == out.end())
            at = out.insert(out.end(), {layer.name, {}});
        at->lines.insert(at->lines.end(), lines.begin(), lines.end());
    }
}

void setUp(Drawing& drawing, const Job& job)
{
    const HandOffSpec& spec = job.handOff;
    drawing.plan = job.cut.plan;
    drawing.spots = spec.spots;
    drawing.hairline = spec.hairline.mm();
    drawing.ppi = spec.ppi;
    drawing.dxf = spec.dxf;
    drawing.stretch = stretchOf(spec, drawing.width, drawing.height);
    drawing.stretchIn = spec.stretchIn;
}

// Of what is drawn there; null where it is printed just as it is drawn.
std::shared_ptr<const Gray8> keptOf(const Rgba8& drawn, const Gray8& printed)
{
    constexpr int same = 1; // of 255, for what was rounded
    auto kept = std::make_shared<Gray8>(drawn.width(), drawn.height());
    bool all = true;
    for (std::size_t k = 0; k < drawn.size(); ++k) {
        const int have = drawn.all()[k].a, want = printed.all()[k];
        const bool asDrawn = have - want <= same;
        all = all && asDrawn;
        kept->all()[k] = want == 0 ? 0 : asDrawn ? 255 : std::uint8_t((want * 255 + have / 2) / have);
    }
    return all ? nullptr : kept;
}

// What is printed of a piece, without its places.
struct PrintedPiece {
    std::vector<DrawnPlate> white;
    std::vector<DrawnImage> images;
};

// What bleeds lies beneath the picture.
PrintedPiece printedOf(const ArtworkSpec& artwork, const PieceResult& result, const Work& work)
{
    PrintedPiece out;
    for (const LayerResult& layer : result.layers) {
        if (!layer.isPrinted || !layer.printed || result.problem)
            continue;
        if (layer.underprint)
            out.white.push_back({layer.underprint, {}});
        if (layer.bleed)
            out.images.push_back({*layer.bleed});
        const Rgba8& px = *result.pixels;
        DrawnImage& drawn =
            out.images.emplace_back(DrawnImage{{withColoursRunOn(px, *layer.printed, work), Affine::scale(result.width / px.width(), result.height / px.height())}});
        if (isDrawing(artwork.picture.info.format) && !artwork.tilt)
            drawn.vectors = {artwork.picture, artwork.sourceToMm(), result.width, result.height, keptOf(px, *layer.printed)};
        else if (isUntouched(artwork))
            drawn.asItCame = artwork.picture;
        else
            drawn.own = framedOwn(artwork, work);
    }
    return out;
}

void addPrinted(Drawing& drawing, const PrintedPiece& printed, const std::vector<Affine>& places)
{
    const auto at = [&](const Affine& toMm) {
        std::vector<Affine> out;
        for (const Affine& place : places)
            out.push_back(place * Affine::move(toMm.e, toMm.f));
        return out;
    };
    for (const DrawnPlate& plate : printed.white)
        drawing.white.push_back({plate.plate, at(plate.plate->toMm)});
    for (const DrawnImage& image : printed.images)
        drawing.images.push_back({image.image, image.own, image.asItCame, image.vectors, at(image.image.toMm)});
}

// Draws sheet after sheet, and makes each piece's images once.
class Drawer {
public:
    Drawer(const Job& job, const Derived& derived, Content content, const Work& work) : job_(job), derived_(derived), content_(content), work_(work), printed_(job.pieces.size()) {}
    Drawing sheet(int index);

private:
    const Job& job_;
    const Derived& derived_;
    Content content_;
    const Work& work_;
    std::vector<std::optional<PrintedPiece>> printed_; // of the pieces that were met
};

Drawing Drawer::sheet(int index)
{
    Drawing drawing;
    drawing.title = job_.name;
    drawing.width = derived_.sheet.width;
    drawing.height = derived_.sheet.height;
    setUp(drawing, job_);
    drawing.layers = layersOf(job_, derived_);
    const Affine print = mirrored(job_.sheet, SheetMirror::Print), cut = mirrored(job_.sheet, SheetMirror::Cut);
    drawing.marks = mapped(print, derived_.sheet.marks);
    if (!(print == cut))
        drawing.cutMarks = mapped(cut, derived_.sheet.marks);
    std::vector<std::vector<Affine>> places(derived_.pieces.size());
    int copy = 0;
    for (const Placement& place : derived_.sheet.on(index)) {
        work_.check();
        places[place.at].push_back(print * place.toSheet);
        if (content_ != Content::Print)
            addCuts(drawing, derived_.pieces[place.at], copy, cut * place.toSheet);
        ++copy;
    }
    if (content_ != Content::Print)
        addExtraCuts(drawing, job_, derived_, index, copy, cut);
    for (std::size_t i = 0; i < places.size() && content_ != Content::Cut; ++i) {
        if (places[i].empty())
            continue;
        if (!printed_[i])
            printed_[i] = printedOf(job_.pieces[i].artwork, derived_.pieces[i], work_);
        addPrinted(drawing, *printed_[i], places[i]);
    }
    // Of a sheet on which things lie already the marks are there, too.
    const auto on = derived_.sheet.on(index);
    if (content_ == Content::Print && std::any_of(on.begin(), on.end(), [](const Placement& p) { return p.lies; }))
        drawing.marks.clear();
    return drawing;
}

} // namespace

std::vector<Mark> cutMarksOf(const Job& job, const Derived& derived) { return mapped(mirrored(job.sheet, SheetMirror::Cut), derived.sheet.marks); }

std::vector<LineKind> kindsOf(const CutItems& cuts)
{
    std::vector<LineKind> out;
    for (const CutItem& item : cuts)
        if (std::find(out.begin(), out.end(), item.kind) == out.end())
            out.push_back(item.kind);
    return out;
}

const std::vector<Mark>& marksFor(const Drawing& drawing, Content content)
{
    return content == Content::Cut && drawing.cutMarks ? *drawing.cutMarks : drawing.marks;
}

namespace {

// As a threshold burns it: wholly or not at all.
std::shared_ptr<const Engraving> asBurnt(const std::shared_ptr<const Engraving>& of)
{
    if (of->spec.as != EngraveAs::Threshold || !of->tone)
        return of;
    auto out = std::make_shared<Engraving>(*of);
    auto tone = std::make_shared<Gray8>(of->tone->width(), of->tone->height());
    std::transform(of->tone->all().begin(), of->tone->all().end(), tone->all().begin(), [&](std::uint8_t t) { return t > burntOver(of->spec) ? 255 : 0; });
    out->tone = std::move(tone);
    return out;
}

} // namespace

std::vector<DrawnEngraving> engravingsOnce(const Drawing& drawing)
{
    std::vector<DrawnEngraving> out;
    std::vector<const Engraving*> met; // one each
    for (const EngraveItem& item : drawing.engravings) {
        if (item.of->spec.as != EngraveAs::Fill && !item.of->tone)
            continue;
        const auto at = std::find(met.begin(), met.end(), item.of.get());
        if (at == met.end()) {
            met.push_back(item.of.get());
            out.push_back({asBurnt(item.of), {item.toSheet}});
        } else
            out[std::size_t(at - met.begin())].places.push_back(item.toSheet);
    }
    return out;
}

Drawing ofLayer(const Drawing& drawing, const DrawnLayer& layer)
{
    Drawing out = drawing;
    std::erase_if(out.cuts, [&](const CutItem& item) { return item.line && !layer.holds(item.line); });
    out.layers = {layer};
    return out;
}

std::vector<DrawnLayer> layersOf(const Job& job, const Derived& derived)
{
    std::vector<DrawnLayer> out;
    for (const Piece& piece : job.pieces)
        if (const PieceResult* result = derived.find(piece.id))
            addLayers(out, piece, *result);
    return out;
}

std::string labelOf(const std::vector<DrawnLayer>& layers, std::size_t layer)
{
    std::string out = (layer < 9 ? "0" : "") + std::to_string(layer + 1) + "-";
    for (const char c : layers[layer].name)
        out += std::isalnum(static_cast<unsigned char>(c)) || (c & 0x80) != 0 ? c : '-';
    return out;
}

Drawing forContent(const Drawing& drawing, Content content)
{
    Drawing out = drawing;
    const bool printed = content == Content::Print && drawing.stretchIn == StretchIn::Print, cut = content == Content::Cut && drawing.stretchIn == StretchIn::Cut;
    if (drawing.stretch == Affine{} || (!printed && !cut))
        return out;
    const Affine map = printed ? drawing.stretch.inverse() : drawing.stretch;
    for (DrawnImage& image : out.images)
        for (Affine& place : image.places)
            place = map * place;
    for (DrawnPlate& plate : out.white)
        for (Affine& place : plate.places)
            place = map * place;
    for (CutItem& item : out.cuts)
        item.path = transformed(item.path, map);
    for (EngraveItem& item : out.engravings)
        item.toSheet = map * item.toSheet;
    for (Mark& mark : out.marks)
        mark.centre = map(mark.centre);
    if (out.cutMarks)
        for (Mark& mark : *out.cutMarks)
            mark.centre = map(mark.centre);
    return out;
}

Drawing drawSheet(const Job& job, const Derived& derived, int sheet, Content content, const Work& work) { return Drawer(job, derived, content, work).sheet(sheet); }

Drawing drawSheetToCut(const Job& job, const Derived& derived, int sheet, const Work& work)
{
    Drawing all = drawSheet(job, derived, sheet, Content::Cut, work);
    if (job.cut.layer.empty() || all.layers.empty())
        return all;
    const auto layer = std::find_if(all.layers.begin(), all.layers.end(), [&](const DrawnLayer& l) { return l.name == job.cut.layer; });
    if (layer == all.layers.end()) // it was dropped: all others in its stead would spoil the stock
        throw Error(ErrorKind::Usage, "the layer '{}' that was to be cut is not there any more; choose another, or all at once", job.cut.layer);
    return ofLayer(all, *layer);
}

std::vector<Drawing> drawSheets(const Job& job, const Derived& derived, Content content, const Work& work)
{
    Drawer drawer(job, derived, content, work);
    std::vector<Drawing> out;
    for (int sheet = 0; sheet < derived.sheet.sheets; ++sheet)
        out.push_back(drawer.sheet(sheet));
    return out;
}

Drawing drawPiece(const Job& job, const Piece& piece, const PieceResult& result, Content content, const Work& work)
{
    Drawing drawing;
    drawing.title = piece.name;
    drawing.alone = true;
    drawing.width = result.width;
    drawing.height = result.height;
    setUp(drawing, job);
    addLayers(drawing.layers, piece, result);
    if (content != Content::Print)
        addCuts(drawing, result, 0, {});
    if (content != Content::Cut)
        addPrinted(drawing, printedOf(piece.artwork, result, work), {Affine{}});
    return drawing;
}

} // namespace yokai
