#include "side/side_rows.h"

#include "device/test_cut.h"
#include "trail/summary.h"

namespace yokai {

namespace {

using Kind = SideRow::Kind;

SideRow section(const QString& text) { return {Kind::Section, text, {}, false, -1, Rect::nothing(), false}; }
SideRow figure(const QString& title, const QString& detail) { return {Kind::Item, title, detail, false, -1, Rect::nothing(), false}; }

void touches(const Studio& studio, const PieceResult& r, std::vector<SideRow>& rows)
{
    const auto& list = studio.currentPiece()->keep.touches;
    if (list.empty())
        return;
    rows.push_back(section(Studio::tr("By hand")));
    const double mmPerPx = std::sqrt(std::abs(r.sourceToMm.det()));
    for (std::size_t i = 0; i < list.size(); ++i) {
        const Touch& t = list[i];
        const QString what = t.kind == Touch::Kind::RubOut      ? Studio::tr("Rubbed out")
                             : t.kind == Touch::Kind::BringBack ? Studio::tr("Brought back")
                                                                : Studio::tr("Area rubbed out");
        const QString how =
            t.kind == Touch::Kind::RubOutLike
                ? Studio::tr("of like colour, \u00b1%1").arg(t.tolerance, 0, 'f', 0)
                : Studio::tr("%1 tip, %2").arg(t.square ? Studio::tr("square") : Studio::tr("round"), lengthText(2 * t.radius * mmPerPx, studio.unit()));
        Rect box = Rect::nothing();
        for (const Point p : t.points)
            box.add(r.sourceToMm(p));
        SideRow row = figure(what, how);
        row.crop = box.grown(std::max(1.0, t.radius * mmPerPx));
        row.touch = int(i);
        rows.push_back(row);
    }
}

void parts(const Studio& studio, std::vector<SideRow>& rows)
{
    const PieceResult* r = studio.currentResult();
    if (!r || !r->parts)
        return;
    if (studio.station() == Station::Keep)
        touches(studio, *r, rows);
    rows.push_back(section(Studio::tr("Parts and openings")));
    int part = 0, opening = 0;
    for (std::size_t i = 0; i < r->parts->all.size(); ++i) {
        const Part& p = r->parts->all[i];
        QString state = p.opening ? (p.kept ? Studio::tr("stays open") : Studio::tr("filled")) : (p.kept ? Studio::tr("kept") : Studio::tr("crumb, dropped"));
        if (p.byHand)
            state += Studio::tr(", by hand");
        const QString name = p.opening ? Studio::tr("Opening %1").arg(++opening) : Studio::tr("Part %1").arg(++part);
        rows.push_back(
            {Kind::Item, name, areaText(p.area, studio.unit()) + QStringLiteral(" \u00b7 ") + state, !p.kept && !p.opening, int(i), p.box, p.opening});
    }
}

void findings(const Studio& studio, std::vector<SideRow>& rows)
{
    const Shown* shown = studio.shown();
    if (!shown || shown->derived.findings.empty())
        return;
    const bool sheet = onSheet(studio.station());
    bool any = false;
    for (const Finding& f : shown->derived.findings) {
        if (!sheet && f.piece != studio.piece())
            continue;
        if (!any)
            rows.push_back(section(Studio::tr("Findings")));
        any = true;
        rows.push_back(
            {f.severity == Severity::Error ? Kind::Fault : Kind::Warning, QString::fromStdString(f.text), {}, false, f.piece, Rect::nothing(), false});
    }
}

void lines(const Studio& studio, std::vector<SideRow>& rows)
{
    const PieceResult* r = studio.currentResult();
    if (!r)
        return;
    rows.push_back(section(Studio::tr("Cut lines")));
    if (r->lines.empty())
        rows.push_back(figure(Studio::tr("None"), r->problem ? Studio::tr("see the findings") : Studio::tr("add one under Cut lines")));
    for (std::size_t i = 0; i < r->lines.size(); ++i) {
        const CutLine& l = r->lines[i];
        QString kind = QString::fromLatin1(name(l.kind));
        kind[0] = kind[0].toUpper();
        SideRow row = figure(kind + QStringLiteral(" at ") + QString::fromStdString(formatLength(l.offset, studio.unit())),
                             Studio::tr("%1 closed \u00b7 %2 nodes \u00b7 %3").arg(l.paths->size()).arg(l.nodes).arg(lengthText(l.length, studio.unit())));
        row.id = int(i);
        rows.push_back(row);
    }
}

void placements(const Studio& studio, std::vector<SideRow>& rows)
{
    const Shown* shown = studio.shown();
    if (!shown)
        return;
    rows.push_back(section(Studio::tr("On the sheet")));
    for (std::size_t i = 0; i < shown->derived.pieces.size() && i < shown->derived.sheet.placed.size(); ++i) {
        const PieceResult& r = shown->derived.pieces[i];
        SideRow row = figure(QString::fromStdString(shown->job.pieces[i].name),
                             Studio::tr("%1 of %2 \u00b7 %3 \u00d7 %4")
                                 .arg(shown->derived.sheet.placed[i])
                                 .arg(shown->derived.sheet.asked[i])
                                 .arg(QString::fromStdString(formatMm(std::max(0.0, r.box.width()), studio.unit(), false)),
                                      QString::fromStdString(formatMm(std::max(0.0, r.box.height()), studio.unit()))));
        row.id = int(i);
        rows.push_back(row);
    }
    rows.push_back(section(Studio::tr("Marks")));
    if (shown->derived.sheet.marks.empty())
        rows.push_back(figure(Studio::tr("None"), Studio::tr("a cut cannot be fitted to the print")));
    else
        rows.push_back(figure(Studio::tr("%1 dots").arg(shown->derived.sheet.marks.size()),
                              Studio::tr("%1 across, one tells the corners apart").arg(lengthText(shown->derived.sheet.marks[0].diameter, studio.unit()))));
}

void testCut(const Studio& studio, std::vector<SideRow>& rows)
{
    const auto cut = studio.testCut();
    if (!cut)
        return;
    const Unit unit = studio.unit();
    rows.push_back(section(Studio::tr("How it landed")));
    rows.push_back({cut->worst > 0.3 ? Kind::Warning : Kind::Item, Studio::tr("Worst %1").arg(QString::fromStdString(formatMm(cut->worst, unit))),
                    Studio::tr("%1 on average").arg(QString::fromStdString(formatMm(cut->mean, unit))), false, -1, Rect::nothing(), false});
    if (!cut->fit) {
        rows.push_back({Kind::Warning, Studio::tr("Cut without a fit"), Studio::tr("the marks were not read"), false, -1, Rect::nothing(), false});
        return;
    }
    const Fit& f = *cut->fit;
    QString model = QString::fromLatin1(name(f.model));
    model[0] = model[0].toUpper();
    rows.push_back(section(Studio::tr("Fit")));
    rows.push_back(figure(Studio::tr("%1 fit").arg(model), Studio::tr("leaves %1 mm on average (rms)").arg(f.rms, 0, 'f', 3)));
    rows.push_back(figure(Studio::tr("Scale"), Studio::tr("%1 % across \u00b7 %2 % along").arg(f.scaleX * 100, 0, 'f', 3).arg(f.scaleY * 100, 0, 'f', 3)));
    rows.push_back(figure(Studio::tr("Turn and skew"), Studio::tr("%1\u00b0 \u00b7 %2\u00b0").arg(f.turn, 0, 'f', 3).arg(f.skew, 0, 'f', 3)));
    rows.push_back(section(Studio::tr("Marks and residuals")));
    for (std::size_t i = 0; i < cut->marks.size(); ++i)
        rows.push_back(figure(Studio::tr("Mark %1 \u00b7 %2 mm").arg(i + 1).arg(f.residuals[i], 0, 'f', 3),
                              Studio::tr("found at %1, %2").arg(cut->marks[i].measured.x, 0, 'f', 2).arg(cut->marks[i].measured.y, 0, 'f', 2)));
}

} // namespace

std::vector<SideRow> sideRows(const Studio& studio)
{
    std::vector<SideRow> rows;
    switch (studio.station()) {
    case Station::Artwork:
    case Station::Keep:
        findings(studio, rows); // above the parts, of which there may be thousands
        parts(studio, rows);
        return rows;
    case Station::CutLines:
    case Station::TouchUp:
    case Station::Bleed:
        lines(studio, rows);
        break;
    case Station::Sheet:
    case Station::HandOff:
        placements(studio, rows);
        break;
    case Station::Cut:
        testCut(studio, rows);
        if (!studio.testCut())
            placements(studio, rows);
        break;
    }
    findings(studio, rows);
    return rows;
}

} // namespace yokai
