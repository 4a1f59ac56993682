#include "side/row_kinds.h"

#include "check/mend.h"
#include "desk/findings.h"
#include "desk/line_edits.h"
#include "desk/machining.h"
#include "formats/drawing.h"
#include "job/colour_layers.h"
#include "words.h"

#include <QCoreApplication>

#include <algorithm>
#include <map>

namespace yokai {

namespace {

void touches(const Desk& desk, const PieceResult& r, std::vector<SideRow>& rows)
{
    const auto& list = desk.currentLayer()->keep.touches;
    if (list.empty())
        return;
    rows.push_back(section(Desk::tr("By hand")));
    const double mmPerPx = std::sqrt(std::abs(r.sourceToMm.det()));
    for (std::size_t i = 0; i < list.size(); ++i) {
        const Touch& t = list[i];
        const QString what = t.kind == Touch::Kind::RubOut      ? Desk::tr("Rubbed out")
                             : t.kind == Touch::Kind::BringBack ? Desk::tr("Brought back")
                                                                : Desk::tr("Area rubbed out");
        const QString how = t.kind == Touch::Kind::RubOutLike
                                ? Desk::tr("of like colour, \u00b1%1").arg(number(t.tolerance, 0))
                                : Desk::tr("%1 tip, %2").arg(t.square ? Desk::tr("square") : Desk::tr("round"), lengthText(2 * t.radius * mmPerPx, desk.unit()));
        Rect box = Rect::nothing();
        for (const Point p : t.points)
            box.add(r.sourceToMm(p));
        SideRow row = figure(what, how);
        row.crop = box.grown(std::max(1.0, t.radius * mmPerPx));
        row.of = Of::Touch;
        row.id = int(i);
        rows.push_back(row);
    }
}

void parts(const Desk& desk, std::vector<SideRow>& rows)
{
    const LayerResult* r = desk.layerResult();
    if (!r || !r->parts)
        return;
    if (desk.station() == Station::Keep)
        touches(desk, *desk.currentResult(), rows);
    rows.push_back(section(Desk::tr("Parts and openings")));
    int part = 0, opening = 0;
    for (std::size_t i = 0; i < r->parts->all.size(); ++i) {
        const Part& p = r->parts->all[i];
        QString state = p.opening ? (p.kept ? Desk::tr("stays") : Desk::tr("closes")) : (p.kept ? Desk::tr("kept") : Desk::tr("crumb, dropped"));
        if (p.byHand)
            state += Desk::tr(", by hand");
        SideRow row = figure(p.opening ? Desk::tr("Opening %1").arg(++opening) : Desk::tr("Part %1").arg(++part),
                             areaText(p.area, desk.unit()) + QStringLiteral(" \u00b7 ") + state);
        row.faded = !p.kept && !p.opening;
        row.of = Of::Part;
        row.id = int(i);
        row.crop = p.box;
        row.ring = p.opening;
        rows.push_back(row);
    }
}

void findings(const Desk& desk, std::vector<SideRow>& rows)
{
    std::vector<std::size_t> here = findingsAt(desk, desk.station());
    if (desk.station() == Station::TouchUp) // the list of edits says so
        std::erase_if(here, [&](std::size_t k) { return desk.shown()->derived.findings[k].code == "lost-edit"; });
    if (here.empty())
        return;
    rows.push_back(section(Desk::tr("Findings")));
    std::map<std::string_view, int> alike;
    for (const std::size_t k : here)
        ++alike[desk.shown()->derived.findings[k].code];
    // What several can be mended by at once.
    const auto* selected = std::get_if<FindingSelected>(&desk.selection());
    for (const std::size_t k : here) {
        const Finding& f = desk.shown()->derived.findings[k];
        if (mendsFor(f).empty() || alike[f.code] < 2 || (selected && selected->code != f.code))
            continue;
        SideRow row = figure(title(f), Desk::tr("all of a kind"));
        for (const Mend& mend : mendsFor(f))
            row.presses << QCoreApplication::translate("Finding", mend.press) + QStringLiteral(" ") + QString::number(alike[f.code]);
        row.of = Of::Kind;
        row.id = int(k);
        rows.push_back(row);
        break;
    }
    for (const std::size_t k : here) {
        const Finding& f = desk.shown()->derived.findings[k];
        const QString whole = words(f, desk.shown()->job, desk.unit());
        const Piece* piece = find(desk.shown()->job, f.piece);
        const LineSpec* line = piece ? find(*piece, f.line) : nullptr;
        QStringList detail;
        if (const QString said = figures(f, desk.unit()); !said.isEmpty())
            detail << said;
        if (line && desk.currentLayer() && desk.currentLayer()->lines.size() > 1)
            detail << title(line->kind).toLower();
        // What has no figures is said whole.
        const bool brief = !f.error && !onSheet(desk.station());
        SideRow row = warning(f.severity == Severity::Error  ? Kind::Fault
                              : f.severity == Severity::Note ? Kind::Note
                                                             : Kind::Warning,
                              brief ? title(f) : whole, brief ? detail.join(QStringLiteral(" \u00b7 ")) : QString());
        row.tip = whole;
        for (const Mend& mend : mendsFor(f))
            row.presses << QCoreApplication::translate("Finding", mend.press);
        row.of = Of::Finding;
        row.id = int(k);
        rows.push_back(row);
    }
}

QString nameOf(EditKind kind)
{
    switch (kind) {
    case EditKind::Stretch:
        return Desk::tr("Stretch redrawn");
    case EditKind::Open:
        return Desk::tr("Stretch deleted");
    case EditKind::Join:
        return Desk::tr("Ends joined");
    case EditKind::Smooth:
        return Desk::tr("Smoothed");
    case EditKind::RoundInside:
        return Desk::tr("Inside corners rounded");
    case EditKind::Bridge:
        return Desk::tr("Bridge");
    case EditKind::Beside:
        return Desk::tr("Outline beside");
    case EditKind::Round:
        return Desk::tr("Corner rounded");
    case EditKind::Tab:
        return Desk::tr("Tab");
    case EditKind::Hole:
        return Desk::tr("Hole");
    case EditKind::Add:
        return Desk::tr("Area added");
    case EditKind::TakeAway:
        return Desk::tr("Area taken away");
    case EditKind::Drop:
        return Desk::tr("Outline dropped");
    case EditKind::Simplify:
        return Desk::tr("Outline simplified");
    }
    return {};
}

QString sizeOf(const Edit& edit, Unit unit)
{
    switch (edit.kind) {
    case EditKind::Round:
    case EditKind::Hole:
    case EditKind::RoundInside:
    case EditKind::Simplify:
        return exactText(edit.size.mm(), unit);
    case EditKind::Tab:
        return Desk::tr("%1 across, hole %2").arg(exactText(edit.size.mm(), unit, false), exactText(edit.hole.mm(), unit));
    default:
        return {};
    }
}

// How an edit fares on the line as it is now.
QString fateOf(const edits::EditOf& of, Unit unit)
{
    if (!of.edit->on)
        return Desk::tr("off");
    if (of.outcome && of.outcome->nodesBefore > 0)
        return Desk::tr("%1 nodes to %2").arg(of.outcome->nodesBefore).arg(of.outcome->nodesAfter);
    if (of.outcome && of.outcome->fate == EditFate::Held && of.outcome->strayed > 0)
        return Desk::tr("%1 off").arg(exactText(of.outcome->strayed, unit));
    if (of.outcome && of.outcome->fate == EditFate::Held && of.edit->kind == EditKind::RoundInside)
        return of.outcome->left > 0 ? Desk::tr("%1 corners, no room at %2").arg(of.outcome->rounded).arg(of.outcome->left) : Desk::tr("%n corners", nullptr, of.outcome->rounded);
    if (!of.outcome || of.outcome->fate == EditFate::Held)
        return {};
    if (of.outcome->fate == EditFate::NoPlace)
        return Desk::tr("has lost its place");
    return of.outcome->largest > 0 ? Desk::tr("does not fit; %1 would").arg(exactText(of.outcome->largest, unit)) : Desk::tr("does not fit here");
}

void lineEdits(const Desk& desk, std::vector<SideRow>& rows)
{
    const std::vector<edits::EditOf> all = edits::allEdits(desk);
    if (all.empty())
        return;
    rows.push_back(section(Desk::tr("Edits")));
    for (const edits::EditOf& of : all) {
        QStringList detail;
        for (const QString& part : {sizeOf(*of.edit, desk.unit()), all.front().line != all.back().line ? title(of.line->kind).toLower() : QString(), fateOf(of, desk.unit())})
            if (!part.isEmpty())
                detail << part;
        SideRow row = figure(nameOf(of.edit->kind), detail.join(QStringLiteral(" \u00b7 ")));
        if (of.edit->on && of.outcome && of.outcome->fate != EditFate::Held) {
            row.kind = Kind::Warning;
            if (!isArea(of.edit->kind) && of.edit->kind != EditKind::RoundInside) // an area lies where it was drawn
                row.presses << Desk::tr("Place");
        }
        row.faded = !of.edit->on;
        row.of = Of::Edit;
        row.id = int(of.edit->id.n);
        rows.push_back(row);
    }
}

std::size_t cornersOf(const CutLine& line)
{
    std::size_t corners = 0;
    for (const Path& p : *line.paths)
        corners += std::size_t(std::count(p.corners.begin(), p.corners.end(), true));
    return corners;
}

// The lines themselves stand in the panel; here is what came of the chosen one.
void chosenLine(const Desk& desk, std::vector<SideRow>& rows)
{
    const CutLine* l = desk.lineResult();
    if (!l)
        return;
    rows.push_back(section(Desk::tr("%1 line").arg(title(l->kind))));
    rows.push_back(figure(Desk::tr("Length"), lengthText(l->length, desk.unit())));
    rows.push_back(figure(Desk::tr("Nodes"), Desk::tr("%1, of them %2 corners").arg(l->nodes).arg(cornersOf(*l))));
    rows.push_back(figure(Desk::tr("Closed outlines"), QString::number(l->paths->size())));
    rows.push_back(figure(Desk::tr("Encloses"), areaText(l->area, desk.unit())));
    if (const Rect box = bounds(*l->paths); !box.empty())
        rows.push_back(figure(Desk::tr("Size"), sizeText(box.width(), box.height(), desk.unit())));
}

void fittedLines(const Desk& desk, std::vector<SideRow>& rows)
{
    const LayerResult* r = desk.layerResult();
    if (!r || r->lines.empty())
        return;
    rows.push_back(section(Desk::tr("As fitted")));
    for (const CutLine& l : r->lines)
        rows.push_back(figure(Desk::tr("%1 at %2").arg(title(l.kind), exactText(l.offset.mm(), desk.unit())),
                              Desk::tr("%1 nodes, of them %2 corners").arg(l.nodes).arg(cornersOf(l))));
}

// How much there is to engrave, and how long it takes where that is known.
void engraving(const Desk& desk, const Engraving& of, std::vector<SideRow>& rows)
{
    const PlanSpec& plan = desk.job().cut.plan;
    const double interval = of.spec.interval ? of.spec.interval->mm() : lookOf(plan).interval;
    rows.push_back(section(Desk::tr("Engraving")));
    rows.push_back(figure(Desk::tr("Size"), sizeText(of.box.width(), of.box.height(), desk.unit())));
    rows.push_back(figure(Desk::tr("%n lines", nullptr, int(std::ceil(of.box.height() / interval))), Desk::tr("%1 apart").arg(exactText(interval, desk.unit()))));
    const ProcessSettings settings = plan.material ? plan.material->of(Process::Engrave) : ProcessSettings{};
    rows.push_back(figure(plan.material ? text(plan.material->name) : Desk::tr("No material chosen"), Desk::tr("%1 at %2 %").arg(speedText(settings.speed, desk.unit()), number(settings.power, 0))));
    if (const auto planned = desk.machining().onBed().planned)
        for (const PlannedStep& step : planned->plan.steps)
            if (step.operation == Operation::Engrave && step.paths > 0)
                rows.push_back(figure(Desk::tr("All copies take %1").arg(timeText(step.seconds)), Desk::tr("before they are cut")));
}

void drift(const Desk& desk, std::vector<SideRow>& rows)
{
    const LayerResult* r = desk.layerResult();
    if (r && r->engraving)
        return engraving(desk, *r->engraving, rows);
    if (r && !r->isPrinted)
        return;
    if (!r || r->lines.empty())
        return;
    rows.push_back(section(Desk::tr("Drift allowance")));
    const Unit unit = desk.unit();
    const auto place = [&](Point p) { return Desk::tr("weakest at %1, %2").arg(exactText(p.x, unit, false), exactText(p.y, unit)); };
    if (std::isfinite(r->drift.paper))
        rows.push_back(figure(Desk::tr("%1 to bare paper").arg(lengthText(r->drift.paper, unit)), place(r->drift.paperAt)));
    if (std::isfinite(r->drift.artwork))
        rows.push_back(figure(Desk::tr("%1 to the picture").arg(lengthText(r->drift.artwork, unit)), place(r->drift.artworkAt)));
    rows.push_back(figure(Desk::tr("%1 to expect").arg(lengthText(desk.job().check.drift.mm(), unit)), Desk::tr("of machine and fit; set at Touch-up")));
}

QString marksText(MarkStyle style, int count)
{
    switch (style) {
    case MarkStyle::Crosses:
        return Desk::tr("%n crosses", nullptr, count);
    case MarkStyle::Brackets:
        return Desk::tr("%n brackets", nullptr, count);
    case MarkStyle::InPicture:
        return Desk::tr("%n features of the picture", nullptr, count);
    case MarkStyle::Dots:
    case MarkStyle::None:
        break;
    }
    return Desk::tr("%n dots", nullptr, count);
}

void placements(const Desk& desk, std::vector<SideRow>& rows)
{
    const Shown* shown = desk.shown();
    if (!shown)
        return;
    rows.push_back(section(Desk::tr("On the sheet")));
    const Layout& sheet = shown->derived.sheet;
    for (std::size_t i = 0; i < shown->derived.pieces.size() && i < sheet.placed.size(); ++i) {
        const PieceResult& r = shown->derived.pieces[i];
        const QString count = sheet.asked[i] ? Desk::tr("%1 of %2").arg(sheet.placed[i]).arg(*sheet.asked[i]) : Desk::tr("%1, as many as fit").arg(sheet.placed[i]);
        SideRow row = figure(text(shown->job.pieces[i].name), r.box.empty() ? count : count + QStringLiteral(" \u00b7 ") + sizeText(r.box.width(), r.box.height(), desk.unit()));
        row.of = Of::Piece;
        row.id = int(i);
        rows.push_back(row);
    }
    if (sheet.sheets > 1) {
        rows.push_back(section(Desk::tr("Sheets")));
        for (int s = 0; s < sheet.sheets; ++s) {
            SideRow row = figure(Desk::tr("Sheet %1").arg(s + 1),
                                 Desk::tr("%n copies", nullptr, int(sheet.on(s).size())) + QStringLiteral(" \u00b7 ") + number(sheet.usedOf(s) * 100, 0) + QStringLiteral(" %"));
            row.of = Of::Sheet;
            row.id = s;
            rows.push_back(row);
        }
    }
    rows.push_back(section(Desk::tr("Marks")));
    if (sheet.marks.empty()) {
        rows.push_back(figure(Desk::tr("None"), Desk::tr("a cut cannot be fitted to the print")));
        return;
    }
    const bool wayUp = std::any_of(sheet.marks.begin(), sheet.marks.end(), [](const Mark& m) { return m.orientation; });
    rows.push_back(figure(marksText(shown->job.sheet.marks.style, int(sheet.marks.size())),
                          wayUp ? Desk::tr("%1 across; the one by itself tells the corners apart").arg(lengthText(sheet.marks[0].diameter, desk.unit()))
                                : Desk::tr("%1 across").arg(lengthText(sheet.marks[0].diameter, desk.unit()))));
}

// What will be in each file.
enum SeparationRow { pictureRow, whiteRow, marksRow, engravingRow, linesRow }; // and one a kind from there on

// What is in the files, a row a plate.
void contents(const Desk& desk, std::vector<SideRow>& rows)
{
    const Shown* shown = desk.shown();
    if (!shown || shown->derived.sheet.placements.empty())
        return;
    const Layout& sheet = shown->derived.sheet;
    std::array<int, lineKindTable.size()> lines{};
    for (const Placement& place : sheet.placements)
        for (const LayerResult& layer : shown->derived.pieces[place.at].layers)
            for (const CutLine& line : layer.lines)
                lines[std::size_t(line.kind)] += int(line.paths->size());
    int printed = 0, engraved = 0; // copies
    for (const Placement& place : sheet.placements) {
        const auto& of = shown->derived.pieces[place.at].layers;
        printed += std::any_of(of.begin(), of.end(), [](const LayerResult& l) { return l.isPrinted; });
        engraved += std::any_of(of.begin(), of.end(), [](const LayerResult& l) { return l.engraving != nullptr; });
    }
    bool white = false;
    for (const PieceResult& piece : shown->derived.pieces)
        for (const LayerResult& layer : piece.layers)
            white = white || layer.underprint;
    const auto plate = [&](int id, const QString& title, const QString& detail) {
        SideRow row = figure(title, detail);
        row.of = Of::Separation;
        row.id = id;
        row.tip = Desk::tr("Shows it by itself; Esc shows all again");
        rows.push_back(row);
    };
    const std::vector<DrawnLayer> layers = layersOf(shown->job, shown->derived);
    if (printed > 0 || white || !sheet.marks.empty())
        rows.push_back(section(Desk::tr("Printed")));
    if (printed > 0)
        plate(pictureRow, Desk::tr("%n copies", nullptr, printed), Desk::tr("on %1").arg(sizeText(sheet.width, sheet.height, desk.unit())));
    if (white)
        plate(whiteRow, Desk::tr("White"), Desk::tr("as the spot colour '%1'").arg(text(shown->job.handOff.spots.white)));
    if (!sheet.marks.empty())
        plate(marksRow, Desk::tr("%n marks", nullptr, int(sheet.marks.size())), Desk::tr("in every ink"));
    rows.push_back(section(engraved > 0 ? Desk::tr("Engraved and cut") : Desk::tr("Cut")));
    if (engraved > 0)
        plate(engravingRow, Desk::tr("%n engraved copies", nullptr, engraved), Desk::tr("as the spot colour '%1'").arg(text(shown->job.handOff.spots.engrave)));
    for (const LineKind kind : lineKinds)
        if (const int n = lines[std::size_t(kind)]; n > 0)
            plate(linesRow + int(kind), Desk::tr("%1, %n outlines", nullptr, n).arg(title(kind)), Desk::tr("as the spot colour '%1'").arg(text(shown->job.handOff.spots.of(kind))));
    if (layers.empty())
        return;
    rows.push_back(section(Desk::tr("Colour layers, from the bottom")));
    for (const DrawnLayer& layer : layers) {
        double length = 0;
        int outlines = 0;
        for (const Placement& place : sheet.placements)
            for (const LayerResult& of : shown->derived.pieces[place.at].layers)
                for (const CutLine& line : of.lines)
                    if (layer.holds(line.id)) {
                        length += line.length;
                        outlines += int(line.paths->size());
                    }
        rows.push_back(figure(text(layer.name), Desk::tr("%n outlines, %1", nullptr, outlines).arg(lengthText(length, desk.unit()))));
    }
}

} // namespace

std::vector<SideRow> sideRows(const Desk& desk)
{
    std::vector<SideRow> rows;
    switch (desk.station()) {
    case Station::Artwork:
    case Station::Keep:
        findings(desk, rows); // above the parts, of which there may be thousands
        parts(desk, rows);
        return rows;
    case Station::CutLines:
        chosenLine(desk, rows);
        break;
    case Station::TouchUp:
        lineEdits(desk, rows);
        if (rows.empty())
            fittedLines(desk, rows);
        break;
    case Station::Bleed:
        drift(desk, rows);
        break;
    case Station::Sheet:
        placements(desk, rows);
        break;
    case Station::HandOff:
        contents(desk, rows);
        break;
    case Station::Cut:
        cutRows(desk, rows);
        break;
    }
    findings(desk, rows);
    return rows;
}

SeparationSelected separationOf(int id)
{
    using What = SeparationSelected::Of;
    if (id >= linesRow)
        return {What::Lines, LineKind(id - linesRow)};
    return {id == pictureRow ? What::Picture : id == whiteRow ? What::White : id == engravingRow ? What::Engraving : What::Marks};
}

} // namespace yokai
