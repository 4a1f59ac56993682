#include "desk/piece_edits.h"

#include "formats/drawn_piece.h"
#include "job/colour_layers.h"
#include "job/replace.h"
#include "words.h"

#include <cmath>
#include <set>

namespace yokai::edits {

Point toSource(const PieceResult& r, QPointF mm)
{
    const Point p = r.sourceToMm.inverse()({mm.x(), mm.y()});
    return {std::round(p.x * 1000) / 1000, std::round(p.y * 1000) / 1000};
}

namespace {

std::vector<Point> wayToSource(const PieceResult& r, const std::vector<QPointF>& way)
{
    std::vector<Point> out;
    for (const QPointF p : way)
        out.push_back(toSource(r, p));
    return out;
}

} // namespace

std::optional<std::pair<int, int>> pixelAt(const PieceResult& r, QPointF mm)
{
    const int x = int(std::floor(mm.x() * r.pxPerMm)), y = int(std::floor(mm.y() * r.pxPerMm));
    if (!r.pixels || x < 0 || y < 0 || x >= r.pixels->width() || y >= r.pixels->height())
        return std::nullopt;
    return std::pair(x, y);
}

std::optional<Rgba> colourAt(const PieceResult& r, QPointF mm)
{
    const auto px = pixelAt(r, mm);
    if (!px)
        return std::nullopt;
    const auto [x, y] = *px;
    std::vector<int> c[3];
    for (int j = std::max(0, y - 1); j <= std::min(r.pixels->height() - 1, y + 1); ++j)
        for (int i = std::max(0, x - 1); i <= std::min(r.pixels->width() - 1, x + 1); ++i) {
            const Rgba p = r.pixels->at(i, j);
            c[0].push_back(p.r);
            c[1].push_back(p.g);
            c[2].push_back(p.b);
        }
    for (auto& v : c)
        std::nth_element(v.begin(), v.begin() + std::ptrdiff_t(v.size() / 2), v.end());
    const auto middle = [](const std::vector<int>& v) { return std::uint8_t(v[v.size() / 2]); };
    return Rgba{middle(c[0]), middle(c[1]), middle(c[2]), 255};
}

void cropToKept(Desk& desk, Length margin)
{
    const PieceResult* r = desk.currentResult();
    if (!r || r->kept.empty()) {
        desk.say(Desk::tr("Nothing is kept of this picture yet, so there is nothing to crop to; choose another rule under Keep."), Severity::Warning);
        return;
    }
    // The result may be of the picture as it was cropped before: its places are those of its own job.
    const ArtworkSpec then = find(desk.shown()->job, r->id)->artwork;
    ArtworkSpec now = then;
    now.cropTo(r->kept.grown(margin.mm()));
    desk.editPiece(Desk::tr("crop to what is kept"), [&](Piece& p) {
        if (p.artwork.picture.digest == then.picture.digest && p.artwork.tilt == then.tilt)
            p.artwork = now;
    });
}

int things(const Desk& desk)
{
    const PieceResult* r = desk.currentResult();
    return r && desk.currentPiece() && !isLayered(*desk.currentPiece()) && r->layer().parts ? r->layer().parts->keptParts : 0;
}

void takeApart(Desk& desk, Straighten straighten, Length margin)
{
    const PieceResult* r = desk.currentResult();
    const Piece* piece = desk.currentPiece();
    if (!r || !piece || !desk.current()) // what is known of an older state is not what is to be taken apart
        return;
    auto apart = std::make_shared<std::vector<Piece>>();
    desk.background().start(
        Desk::tr("Taking apart"),
        [apart, straighten, margin, of = *piece, result = *r](const Work& work) -> QString {
            *apart = takenApart(of, result, straighten, margin.mm(), work);
            return {};
        },
        [&desk, apart, of = *piece] {
            if (apart->empty())
                return desk.say(Desk::tr("There is only one thing in this picture."), Severity::Warning);
            for (std::size_t k = 1; k < apart->size(); ++k)
                (*apart)[k].features.clear(); // they are there once
            const auto& pieces = desk.job().pieces;
            const auto there = std::find(pieces.begin(), pieces.end(), of);
            if (there == pieces.end()) // it has been changed meanwhile
                return;
            const auto at = there - pieces.begin();
            desk.edit(Desk::tr("take %1 apart").arg(QString::fromStdString(of.name)), [&](Job& job) {
                std::erase_if(job.placings, [&](const Placing& p) { return p.piece == of.id; });
                job.pieces.erase(job.pieces.begin() + at);
                job.pieces.insert(job.pieces.begin() + at, apart->begin(), apart->end());
            });
            desk.setPiece(int(at));
            desk.say(Desk::tr("%n pieces made of it.", nullptr, int(apart->size())));
        });
}

std::optional<double> measuredLength(const Desk& desk)
{
    const auto& measured = desk.hand().measured;
    if (!measured || !desk.currentPiece())
        return std::nullopt;
    const Affine toMm = desk.currentPiece()->artwork.sourceToMm();
    return distance(toMm(measured->from), toMm(measured->to));
}

void measuredIs(Desk& desk, Length length)
{
    const auto now = measuredLength(desk);
    if (!now || *now <= 0 || length <= Length())
        return;
    if (desk.currentPiece()->artwork.lies())
        return desk.say(Desk::tr("It is as large as it lies on the sheet; set the sheet's sides with the tilt."), Severity::Warning);
    desk.editPiece(Desk::tr("set the scale by a length"), [factor = length.mm() / *now](Piece& p) { p.artwork.setWidth(Length::mm(p.artwork.width() * factor)); });
}

void straightenAlong(Desk& desk, QPointF from, QPointF to)
{
    const QPointF d = to - from;
    if (std::hypot(d.x(), d.y()) < 1e-6)
        return;
    const double angle = std::atan2(d.y(), d.x()) * 180 / M_PI, off = angle - 90 * std::round(angle / 90);
    desk.editPiece(Desk::tr("straighten along a guide"), [&](Piece& p) { p.artwork.straightenTo(p.artwork.straighten - off); });
}

void toggleParts(Desk& desk, const std::vector<int>& parts)
{
    const PieceResult* r = desk.currentResult();
    if (!r || !r->layer(desk.layerId()).parts)
        return;
    const std::vector<Part>& all = r->layer(desk.layerId()).parts->all;
    // What is chosen goes one way: if anything of it is dropped, all of it is kept.
    std::vector<const Part*> chosen;
    bool keep = false;
    for (const int i : parts)
        if (i >= 0 && i < int(all.size())) {
            chosen.push_back(&all[std::size_t(i)]);
            keep = keep || !chosen.back()->kept;
        }
    if (chosen.empty())
        return;
    const Affine back = r->sourceToMm.inverse();
    std::vector<PartChoice> choices;
    for (const Part* part : chosen)
        choices.push_back({back(part->inside), keep});
    const bool opening = chosen.front()->opening;
    const QString what = chosen.size() > 1 ? (keep ? Desk::tr("keep %1 parts") : Desk::tr("drop %1 parts")).arg(chosen.size())
                         : opening         ? (keep ? Desk::tr("keep the opening") : Desk::tr("fill the opening"))
                                           : (keep ? Desk::tr("keep the part") : Desk::tr("drop the part"));
    desk.editLayer(what, [&](Layer& p) {
        // The new choice takes the place of an old one about the same part.
        const auto place = [](Point at) { return std::pair(std::llround(at.x * 1e4), std::llround(at.y * 1e4)); };
        std::set<std::pair<long long, long long>> anew;
        for (const PartChoice& c : choices)
            anew.insert(place(c.at));
        auto& list = p.keep.byHand;
        std::erase_if(list, [&](const PartChoice& c) { return anew.contains(place(c.at)); });
        list.insert(list.end(), choices.begin(), choices.end());
    });
}

void brush(Desk& desk, const std::vector<QPointF>& way)
{
    const PieceResult* r = desk.currentResult();
    if (!r || way.empty())
        return;
    const Hand& hand = desk.hand();
    Touch touch;
    touch.kind = hand.hold == Hold::BringBack ? Touch::Kind::BringBack : Touch::Kind::RubOut;
    touch.square = hand.square;
    touch.radius = hand.brush.mm() / 2 / std::sqrt(std::abs(r->sourceToMm.det()));
    touch.points = wayToSource(*r, way);
    desk.editLayer(touch.kind == Touch::Kind::BringBack ? Desk::tr("bring back") : Desk::tr("rub out"),
                     [&](Layer& p) { p.keep.touches.push_back(touch); });
}

void rubOutLike(Desk& desk, QPointF at)
{
    const PieceResult* r = desk.currentResult();
    if (!r || !colourAt(*r, at))
        return;
    desk.editLayer(Desk::tr("rub out an area"), [&](Layer& p) {
        p.keep.touches.push_back({Touch::Kind::RubOutLike, false, 0, {toSource(*r, at)}, desk.hand().tolerance});
    });
}

void pick(Desk& desk, QPointF at)
{
    const PieceResult* r = desk.currentResult();
    const auto colour = r ? colourAt(*r, at) : std::nullopt;
    if (!colour)
        return;
    const Swatch swatch{*colour, toSource(*r, at)};
    const bool keeps = desk.currentLayer()->keep.rule == KeepRule::Colour;
    desk.editLayer(keeps ? Desk::tr("pick a colour to keep") : Desk::tr("pick a paper colour"), [&](Layer& p) {
        if (!keeps)
            p.keep.rule = KeepRule::Paper;
        (keeps ? p.keep.colours : p.keep.papers).push_back(swatch);
    });
}

void pickBleed(Desk& desk, QPointF at)
{
    const PieceResult* r = desk.currentResult();
    const auto colour = r ? colourAt(*r, at) : std::nullopt;
    if (!colour)
        return;
    desk.editLayer(Desk::tr("pick the bleed's colour"), [&](Layer& layer) {
        const bool border = layer.bleed.border > Length();
        (border ? layer.bleed.borderColour : layer.bleed.colour) = *colour;
        if (!border)
            layer.bleed.from = BleedFrom::Colour;
    });
}

void addInside(Desk& desk, const std::vector<QPointF>& outline)
{
    const PieceResult* r = desk.currentResult();
    if (!r || outline.size() < 3)
        return;
    desk.editLayer(Desk::tr("keep only inside"), [&](Layer& p) { p.keep.onlyInside.push_back(wayToSource(*r, outline)); });
}

void lookInside(Desk& desk, const std::vector<QPointF>& outline)
{
    const PieceResult* r = desk.currentResult();
    if (!r || outline.size() < 3)
        return;
    desk.editLayer(Desk::tr("find the subject"), [&](Layer& l) {
        l.keep.rule = KeepRule::Subject;
        l.keep.subject.box = wayToSource(*r, outline);
    });
}

void markSubject(Desk& desk, const std::vector<QPointF>& way)
{
    const PieceResult* r = desk.currentResult();
    if (!r || way.empty())
        return;
    const bool is = desk.hand().hold == Hold::SubjectIs;
    const double radius = desk.hand().brush.mm() / 2 / std::sqrt(std::abs(r->sourceToMm.det()));
    desk.editLayer(is ? Desk::tr("mark what is subject") : Desk::tr("mark what is not subject"), [&](Layer& l) {
        l.keep.rule = KeepRule::Subject;
        l.keep.subject.strokes.push_back({is, radius, wayToSource(*r, way)});
    });
}

void addLine(Desk& desk, bool copy)
{
    const Layer* layer = desk.currentLayer();
    if (!layer)
        return;
    const auto& lines = layer->lines;
    LineSpec line;
    if (const LineSpec* from = desk.currentLine(); copy && from) {
        line = *from;
        line.id = {};
        line.clipsPrint = false;
    } else {
        // The kind that is not there yet, where makers usually want it.
        const auto has = [&](LineKind kind) { return std::any_of(lines.begin(), lines.end(), [&](const LineSpec& l) { return l.kind == kind; }); };
        if (has(LineKind::Through))
            line = {has(LineKind::Kiss) ? LineKind::Crease : LineKind::Kiss, 500_um};
    }
    const int at = int(lines.size());
    desk.editLayer(copy ? Desk::tr("copy the line") : Desk::tr("add a line"), [&](Layer& l) { l.lines.push_back(line); });
    desk.setLine(at);
}

namespace {

CutItems itemsOf(LineKind kind, const Paths& paths)
{
    CutItems out;
    for (const Path& path : paths) {
        CutItem& item = out.emplace_back();
        item.kind = kind;
        item.path = path;
        item.opening = path.closed && signedArea(path) < 0;
    }
    return out;
}

const CutLine* shownLine(const Desk& desk)
{
    const LayerResult* r = desk.layerResult();
    return r && desk.line() >= 0 && desk.line() < int(r->lines.size()) ? &r->lines[std::size_t(desk.line())] : nullptr;
}

// Makes it one that is as drawn, of these paths.
void drawnFrom(LineSpec& line, const Paths& paths, const Affine& mmToSource)
{
    const std::vector<LineSpec> drawn = drawnLines(itemsOf(line.kind, paths), mmToSource);
    line.shape = LineShape::Drawn;
    line.drawn = drawn.empty() ? std::vector<DrawnOutline>{} : drawn.front().drawn;
    line.drawnUnit.reset();
    line.edits.clear();
    line.percent.reset();
}

} // namespace

void drawAsItIs(LineSpec& line, const Desk& desk)
{
    if (const CutLine* shown = shownLine(desk))
        drawnFrom(line, *shown->paths, desk.currentResult()->sourceToMm.inverse());
}

void takeLine(Desk& desk)
{
    const CutLine* shown = shownLine(desk);
    if (!shown || !desk.currentLine() || !desk.current())
        return;
    const PieceResult& r = *desk.currentResult();
    Hand hand = desk.hand();
    hand.taken = std::make_shared<const LineTaken>(LineTaken{*desk.currentLine(), shown->paths, {r.width / 2, r.height / 2}});
    desk.setHand(hand);
    desk.say(Desk::tr("The line is taken along; go to another piece and put it there."));
}

void putLine(Desk& desk)
{
    const PieceResult* r = desk.currentResult();
    const Layer* layer = desk.currentLayer();
    if (!r || !layer || !desk.hand().taken)
        return;
    const LineTaken& taken = *desk.hand().taken;
    const Affine there = Affine::move(r->width / 2 - taken.middle.x, r->height / 2 - taken.middle.y);
    LineSpec line = taken.line;
    line.id = {};
    line.clipsPrint = false;
    drawnFrom(line, transformed(*taken.paths, there), r->sourceToMm.inverse());
    desk.editLayer(Desk::tr("put the line here"), [&](Layer& l) { l.lines.push_back(line); });
    desk.setLine(int(desk.currentLayer()->lines.size()) - 1);
}

namespace {

void addDrawing(Desk& desk, const CutFile& file)
{
    const PieceResult* r = desk.currentResult();
    if (!r || !desk.currentLayer())
        return;
    constexpr double same = 0.5; // mm
    const Drawing& d = file.drawing;
    const bool onIt = std::abs(d.width - r->width) < same && std::abs(d.height - r->height) < same;
    const Affine there = onIt ? Affine() : Affine::move((r->width - d.width) / 2, (r->height - d.height) / 2);
    std::vector<LineSpec> lines = drawnLines(d.cuts, r->sourceToMm.inverse() * there);
    const Point fixed = onIt ? Point{} : Point{r->width / 2, r->height / 2};
    for (LineSpec& line : lines)
        if (!file.sizeFromFile)
            line.drawnUnit = DrawnUnit{file.unitsAnInch, r->sourceToMm.inverse()(fixed)};
    desk.editLayer(Desk::tr("add the lines of %1").arg(QString::fromStdString(d.title)), [&](Layer& l) { l.lines.insert(l.lines.end(), lines.begin(), lines.end()); });
    desk.setLine(int(desk.currentLayer()->lines.size() - lines.size()));
    QStringList left;
    for (const std::string& what : file.leftOut)
        left << QString::fromStdString(what);
    if (file.pages > 1)
        left << Desk::tr("all pages but the first");
    const QString size = sizeText(d.width, d.height, desk.unit());
    desk.say(left.isEmpty() ? Desk::tr("%1 came in at %2.").arg(QString::fromStdString(d.title), size)
                            : Desk::tr("%1 came in at %2; left out: %3.").arg(QString::fromStdString(d.title), size, left.join(QStringLiteral(", "))),
             left.isEmpty() ? Severity::Note : Severity::Warning);
}

} // namespace

void openDrawing(Desk& desk, const QString& path, AskUnits units)
{
    auto file = std::make_shared<CutFile>();
    desk.background().start(
        Desk::tr("Opening"),
        [path, file](const Work& work) -> QString {
            *file = openCutFile(path.toStdString(), cssUnitsAnInch, work);
            return {};
        },
        [&desk, file, units] {
            if (!file->sizeFromFile)
                takeUnits(*file, units(*file));
            addDrawing(desk, *file);
        });
}

void takeUnit(Desk& desk, double anInch)
{
    const LineSpec* line = desk.currentLine();
    if (!line || !line->drawnUnit || line->drawnUnit->anInch == anInch)
        return;
    desk.editLayer(Desk::tr("choose the drawing's unit"), [anInch, of = *line->drawnUnit](Layer& layer) {
        for (LineSpec& l : layer.lines) // all that came in with it
            if (l.drawnUnit == of)
                yokai::takeUnit(l, anInch);
    });
}

void removeLine(Desk& desk)
{
    const int at = desk.line();
    if (at < 0)
        return;
    desk.editLayer(Desk::tr("remove the line"), [&](Layer& l) { l.lines.erase(l.lines.begin() + at); });
    desk.setLine(std::max(0, at - 1));
}

void removeTouch(Desk& desk)
{
    if (const Touch* touch = desk.selectedTouch())
        desk.editLayer(Desk::tr("take a touch back"), [id = touch->id](Layer& l) { std::erase_if(l.keep.touches, [&](const Touch& t) { return t.id == id; }); });
}

} // namespace yokai::edits
