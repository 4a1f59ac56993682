#include "desk/layer_edits.h"

#include "desk/piece_edits.h"
#include "job/colour_layers.h"
#include "keep/colour.h"
#include "layers/coverage.h"

#include <algorithm>
#include <cmath>

namespace yokai::edits {

namespace {

constexpr Length usualBacking = 2_mm; // as wide a border as makers leave (common practice)

// A layer that follows its colours exactly, set otherwise as the one it comes from.
LineSpec followingLine(const Piece& piece)
{
    LineSpec line;
    for (const Layer& layer : piece.layers)
        if (!layer.lines.empty() && (!layer.ofColours || layer.ofColours->from == LayerFrom::Colours)) {
            line = layer.lines.front();
            line.offset = layer.ofColours ? line.offset : Length();
            break;
        }
    line.id = {};
    line.edits.clear();
    line.percent.reset();
    return line;
}

Layer newLayer(const Piece& piece, Rgba colour)
{
    Layer out;
    out.name = freeName(piece.layers, wordFor(colour));
    out.ofColours.emplace();
    out.keep.smallestPart = piece.layers.front().keep.smallestPart;
    for (const Layer& layer : piece.layers)
        if (layer.ofColours && layer.ofColours->from == LayerFrom::Colours) {
            out.ofColours->spread = layer.ofColours->spread;
            out.ofColours->closeCovered = layer.ofColours->closeCovered;
            out.keep.smallestPart = layer.keep.smallestPart;
        }
    out.lines = {followingLine(piece)};
    return out;
}

// Whose a colour of the split is; null: nobody's.
const Layer* ownerOf(const Piece& piece, const Split& split, std::size_t colour)
{
    for (const Layer& layer : piece.layers) {
        if (!layer.ofColours || layer.ofColours->from == LayerFrom::Above)
            continue;
        for (const Rgba c : layer.ofColours->colours)
            if (const auto k = colourIn(split, c); k && std::size_t(*k) == colour)
                return &layer;
    }
    return nullptr;
}

} // namespace

void splitIntoColours(Desk& desk)
{
    const Piece* piece = desk.currentPiece();
    if (!piece)
        return;
    const auto layers = std::make_shared<std::vector<Layer>>();
    desk.background().start(
        Desk::tr("finding the colours"),
        [layers, piece = *piece](const Work& work) {
            StepCache cache;
            LayersWanted wanted;
            wanted.line = followingLine(piece);
            wanted.smallestPart = piece.layers.front().keep.smallestPart;
            *layers = colourLayers(*splitOf(piece, cache, work), wanted);
            return QString();
        },
        [&desk, layers, id = piece->id, picture = piece->artwork.picture.digest] {
            const Piece* now = find(desk.job(), id);
            if (!now || now->artwork.picture.digest != picture)
                return; // it went meanwhile
            desk.edit(Desk::tr("split into colours"), [&](Job& job) {
                if (Piece* to = find(job, id))
                    to->layers = *layers;
            });
        });
}

void backToOneLayer(Desk& desk)
{
    desk.editPiece(Desk::tr("back to one layer"), [](Piece& piece) {
        Layer layer;
        layer.keep.smallestPart = piece.layers.front().keep.smallestPart;
        piece.layers = {layer};
        piece.split = {};
    });
}

std::vector<std::size_t> coloursInNoLayer(const Desk& desk)
{
    std::vector<std::size_t> out;
    const Piece* piece = desk.currentPiece();
    const PieceResult* result = desk.currentResult();
    if (!piece || !result || !result->split)
        return out;
    for (std::size_t k = 0; k < result->split->colours.size(); ++k)
        if (!result->split->colours[k].area && result->split->colours[k].pixels > 0 && !ownerOf(*piece, *result->split, k))
            out.push_back(k);
    return out;
}

void addColours(Desk& desk, const std::vector<std::size_t>& colours)
{
    const PieceResult* result = desk.currentResult();
    if (!result || !result->split || colours.empty())
        return;
    const auto split = result->split;
    desk.editPiece(Desk::tr("add %n layers", nullptr, int(colours.size())), [&](Piece& piece) {
        for (const std::size_t k : colours) {
            piece.layers.push_back(newLayer(piece, split->colours[k].colour));
            piece.layers.back().ofColours->colours = {split->colours[k].colour};
        }
    });
    desk.setLayer(desk.currentPiece()->layers.back().id);
}

void pickLayer(Desk& desk, QPointF at)
{
    const PieceResult* r = desk.currentResult();
    const auto px = r ? pixelAt(*r, at) : std::nullopt;
    if (!px || !r->split)
        return;
    const Split& split = *r->split;
    const std::uint8_t label = split.label.at(px->first, px->second);
    if (label == noColour)
        return desk.say(Desk::tr("Nothing is there; press a colour."), Severity::Warning);
    const Rgba seen = *colourAt(*r, at), known = split.colours[label].colour;
    const Layer* owner = split.colours[label].area ? nullptr : ownerOf(*desk.currentPiece(), split, label);
    constexpr double another = 3; // CIEDE2000: what was made one with its like
    if (desk.hand().onlyHere) {
        if (split.colours[label].area)
            return desk.say(Desk::tr("That area is a layer of its own already."), Severity::Warning);
        desk.editPiece(Desk::tr("an area as a layer"), [&, place = toSource(*r, at)](Piece& piece) {
            Layer layer = newLayer(piece, known);
            layer.ofColours->areas = {place};
            layer.ofColours->stock = known;
            piece.layers.push_back(std::move(layer));
        });
    } else if (ciede2000(labOf(seen), labOf(known)) > another) {
        desk.editPiece(Desk::tr("a colour as a layer"), [&](Piece& piece) {
            piece.split.picked.push_back(seen);
            piece.layers.push_back(newLayer(piece, seen));
            piece.layers.back().ofColours->colours = {seen};
        });
    } else if (!owner || owner->ofColours->colours.size() + owner->ofColours->areas.size() > 1) {
        desk.editPiece(Desk::tr("a colour as a layer"), [&, from = owner ? owner->id : LayerId{}](Piece& piece) {
            for (Layer& layer : piece.layers)
                if (layer.id == from)
                    std::erase_if(layer.ofColours->colours, [&](Rgba c) { return colourIn(split, c) == int(label); });
            piece.layers.push_back(newLayer(piece, known));
            piece.layers.back().ofColours->colours = {known};
        });
    } else {
        return desk.say(Desk::tr("%1 is a layer of its own already; \u201cOnly here\u201d takes this one area of it.").arg(QString::fromStdString(owner->name)), Severity::Warning);
    }
    desk.setLayer(desk.currentPiece()->layers.back().id);
}

void mergeLayers(Desk& desk, LayerId from, LayerId into)
{
    if (from == into)
        return;
    desk.editPiece(Desk::tr("merge layers"), [&](Piece& piece) {
        const auto at = [&](LayerId id) { return std::find_if(piece.layers.begin(), piece.layers.end(), [id](const Layer& l) { return l.id == id; }); };
        const auto a = at(from), b = at(into);
        if (a == piece.layers.end() || b == piece.layers.end() || !a->ofColours || !b->ofColours || b->ofColours->from == LayerFrom::Above)
            return;
        if (!b->ofColours->stock)
            b->ofColours->stock = stockOf(*b);
        b->ofColours->colours.insert(b->ofColours->colours.end(), a->ofColours->colours.begin(), a->ofColours->colours.end());
        b->ofColours->areas.insert(b->ofColours->areas.end(), a->ofColours->areas.begin(), a->ofColours->areas.end());
        piece.layers.erase(a);
    });
    desk.setLayer(into);
}

void mergeDown(Desk& desk)
{
    const Piece* piece = desk.currentPiece();
    for (std::size_t k = 0; piece && k < piece->layers.size(); ++k)
        if (piece->layers[k].id == desk.layerId()) {
            if (k == 0 || !piece->layers[k - 1].ofColours || piece->layers[k - 1].ofColours->from == LayerFrom::Above)
                desk.say(Desk::tr("There is no layer of colours below it to merge it into; drag it up first."), Severity::Warning);
            else
                mergeLayers(desk, piece->layers[k].id, piece->layers[k - 1].id);
            return;
        }
}

void dropLayer(Desk& desk, LayerId layer)
{
    const Piece* piece = desk.currentPiece();
    if (!piece || piece->layers.size() < 2)
        return desk.say(Desk::tr("It is the only layer left; keep it."), Severity::Warning);
    const auto at = std::find_if(piece->layers.begin(), piece->layers.end(), [layer](const Layer& l) { return l.id == layer; });
    if (at == piece->layers.end())
        return;
    const auto next = at + 1 == piece->layers.end() ? at - 1 : at + 1;
    const LayerId then = next->id;
    desk.editPiece(Desk::tr("drop %1").arg(QString::fromStdString(at->name)), [&](Piece& p) { std::erase_if(p.layers, [layer](const Layer& l) { return l.id == layer; }); });
    desk.setLayer(then);
}

void moveLayer(Desk& desk, LayerId layer, int to)
{
    desk.editPiece(Desk::tr("move a layer"), [&](Piece& piece) {
        const auto at = std::find_if(piece.layers.begin(), piece.layers.end(), [layer](const Layer& l) { return l.id == layer; });
        if (at == piece.layers.end())
            return;
        Layer moved = std::move(*at);
        piece.layers.erase(at);
        piece.layers.insert(piece.layers.begin() + std::clamp(to, 0, int(piece.layers.size())), std::move(moved));
    });
}

void addBacking(Desk& desk)
{
    desk.editPiece(Desk::tr("add a backing"), [](Piece& piece) {
        Layer layer = newLayer(piece, {});
        layer.name = freeName(piece.layers, Desk::tr("backing").toStdString());
        layer.ofColours->from = LayerFrom::Above;
        layer.lines.front().offset = usualBacking;
        layer.lines.front().openings = LineOpenings::None;
        piece.layers.insert(piece.layers.begin(), std::move(layer));
    });
    desk.setLayer(desk.currentPiece()->layers.front().id);
}

void reversedBeside(Desk& desk)
{
    const int at = desk.piece();
    if (at < 0)
        return;
    desk.edit(Desk::tr("plain and reversed"), [&](Job& job) {
        Piece other = job.pieces[std::size_t(at)];
        other.id = {};
        bool reversed = false;
        for (Layer& layer : other.layers)
            if (layer.engrave)
                reversed = layer.engrave->reverse = !layer.engrave->reverse;
        other.name = (reversed ? Desk::tr("%1, reversed") : Desk::tr("%1, plain")).arg(QString::fromStdString(other.name)).toStdString();
        job.pieces.insert(job.pieces.begin() + at + 1, std::move(other));
    });
    desk.setPiece(at + 1);
}

} // namespace yokai::edits
