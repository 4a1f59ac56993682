#include "job/recipe.h"

#include <algorithm>

namespace yokai {

namespace {

// Places on one picture say nothing on another: colours picked there stay, as everywhere in the picture.
void withoutPlaces(KeepSpec& keep)
{
    keep.onlyInside.clear();
    keep.touches.clear();
    keep.byHand.clear();
    keep.subject = {};
    keep.oneArea = false;
    for (std::vector<Swatch>* swatches : {&keep.papers, &keep.colours})
        for (Swatch& swatch : *swatches)
            swatch.at.reset();
}

// The line of the piece that most likely is the same: of the kind, in the same order.
const LineSpec* counterpart(const Layer& layer, const Layer& from, std::size_t line)
{
    const LineKind kind = from.lines[line].kind;
    std::ptrdiff_t before = std::count_if(from.lines.begin(), from.lines.begin() + std::ptrdiff_t(line), [&](const LineSpec& l) { return l.kind == kind; });
    for (const LineSpec& l : layer.lines)
        if (l.kind == kind && before-- == 0)
            return &l;
    return nullptr;
}

} // namespace

Recipe recipeOf(const Piece& piece, std::string name)
{
    Recipe out{std::move(name), piece};
    Piece& p = out.settings;
    p.id = {};
    p.name.clear();
    p.copies = 1;
    p.share = 1;
    p.guides.clear();
    p.artwork.picture = {};
    p.artwork.tilt.reset();
    p.artwork.crop.reset();
    p.artwork.straighten = 0;
    p.artwork.quarters = 0;
    p.artwork.sidePx = p.artwork.downPx = 0; // of the whole picture
    for (Layer& layer : p.layers) {
        layer.id = {};
        withoutPlaces(layer.keep);
        if (layer.ofColours)
            layer.ofColours->areas.clear();
        for (LineSpec& line : layer.lines) {
            line.id = {};
            line.edits.clear();
        }
    }
    return out;
}

void apply(const Recipe& recipe, Piece& piece, HandWork handWork)
{
    const Piece from = recipeOf(recipe.settings, {}).settings;
    const bool stays = handWork == HandWork::Stays;
    ArtworkSpec artwork = from.artwork;
    artwork.picture = piece.artwork.picture;
    artwork.tilt = piece.artwork.tilt; // how a picture was taken is no setting
    artwork.quarters = piece.artwork.quarters;
    artwork.straighten = piece.artwork.straighten;
    if (stays)
        artwork.crop = piece.artwork.crop;
    // A side as long as the recipe says, measured on what is seen of this picture.
    piece.artwork = artwork;
    piece.artwork.sizeBy = SizeBy::File;
    if (artwork.sizeBy == SizeBy::Ppi)
        piece.artwork.sizeBy = SizeBy::Ppi;
    else if (artwork.sizeBy == SizeBy::Width)
        piece.artwork.setWidth(artwork.side);
    else if (artwork.sizeBy == SizeBy::Height)
        piece.artwork.setHeight(artwork.side);
    else if (artwork.sizeBy == SizeBy::Both) {
        piece.artwork.setWidth(artwork.side, false);
        piece.artwork.setHeight(artwork.down, false);
    }
    std::vector<Layer> layers = from.layers;
    for (std::size_t k = 0; k < layers.size(); ++k) {
        if (k >= piece.layers.size())
            break;
        const Layer& own = piece.layers[k];
        Layer& layer = layers[k];
        layer.id = own.id;
        if (stays) {
            layer.keep.onlyInside = own.keep.onlyInside;
            layer.keep.touches = own.keep.touches;
            layer.keep.byHand = own.keep.byHand;
            layer.keep.subject = own.keep.subject;
        }
        for (std::size_t l = 0; l < layer.lines.size(); ++l)
            if (const LineSpec* line = counterpart(own, layer, l)) {
                layer.lines[l].id = line->id;
                if (stays)
                    layer.lines[l].edits = line->edits;
            }
    }
    piece.layers = std::move(layers);
    if (!stays)
        piece.guides.clear();
}

} // namespace yokai
