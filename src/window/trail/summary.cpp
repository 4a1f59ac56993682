#include "trail/summary.h"

#include "device/test_cut.h"

namespace yokai {

namespace {

QString joined(const QStringList& parts) { return parts.join(QStringLiteral(" \u00b7 ")); }

QString count(int n, const char* one, const char* many) { return QStringLiteral("%1 %2").arg(n).arg(QLatin1String(n == 1 ? one : many)); }

StationState worse(const Studio& studio, int piece, std::initializer_list<const char*> codes, StationState otherwise)
{
    if (const Shown* shown = studio.shown())
        for (const Finding& f : shown->derived.findings)
            for (const char* code : codes)
                if (f.code == code && (f.piece == piece || piece == -2))
                    return f.severity == Severity::Error ? StationState::Fault : StationState::Findings;
    return otherwise;
}

Summary artwork(const Studio& studio)
{
    const Piece* piece = studio.currentPiece();
    if (!piece)
        return {Studio::tr("open, drop or paste a picture"), StationState::NotBegun};
    const PieceResult* r = studio.currentResult();
    QStringList parts{QString::fromStdString(piece->artwork.picture.fileName)};
    if (r) {
        parts << QStringLiteral("%1 \u00d7 %2")
                     .arg(QString::fromStdString(formatMm(r->width, studio.unit(), false)), QString::fromStdString(formatMm(r->height, studio.unit())));
        parts << QStringLiteral("%1 ppi").arg(r->pxPerMm * 25.4, 0, 'f', 0);
    }
    return {joined(parts), worse(studio, studio.piece(), {"low-resolution"}, StationState::Fine)};
}

Summary keep(const Studio& studio)
{
    const PieceResult* r = studio.currentResult();
    if (!r || !r->parts)
        return {r && r->problem ? QString::fromUtf8(r->problem->what()) : QString(), r ? StationState::Fault : StationState::NotBegun};
    if (r->parts->keptParts == 0)
        return {Studio::tr("nothing is kept"), StationState::Fault};
    QStringList parts{count(r->parts->keptParts, "part", "parts")};
    if (r->parts->keptOpenings + r->parts->filledOpenings > 0)
        parts << (r->parts->filledOpenings
                      ? QStringLiteral("%1, %2 filled").arg(count(r->parts->keptOpenings, "opening", "openings")).arg(r->parts->filledOpenings)
                      : count(r->parts->keptOpenings, "opening", "openings"));
    if (r->parts->droppedParts > 0)
        parts << QStringLiteral("%1 dropped").arg(count(r->parts->droppedParts, "crumb", "crumbs"));
    return {joined(parts), StationState::Fine};
}

Summary cutLines(const Studio& studio)
{
    const PieceResult* r = studio.currentResult();
    if (!r || r->lines.empty())
        return {{}, r && r->problem ? StationState::Fault : StationState::NotBegun};
    std::size_t nodes = 0;
    double length = 0;
    for (const CutLine& l : r->lines) {
        nodes += l.nodes;
        length += l.length;
    }
    return {joined({count(int(r->lines.size()), "line", "lines"), count(int(nodes), "node", "nodes"), lengthText(length, studio.unit())}),
            worse(studio, studio.piece(), {"line-vanished", "parts-vanished", "parts-split"}, StationState::Fine)};
}

Summary touchUp(const Studio& studio)
{
    const PieceResult* r = studio.currentResult();
    if (!r || r->lines.empty())
        return {};
    return {Studio::tr("as fitted, no edits"), StationState::NotBegun};
}

Summary bleed(const Studio& studio)
{
    const PieceResult* r = studio.currentResult();
    if (!r || r->lines.empty())
        return {};
    return {Studio::tr("none \u00b7 may drift %1").arg(lengthText(r->driftAllowance, studio.unit())), StationState::NotBegun};
}

Summary sheet(const Studio& studio)
{
    const Shown* shown = studio.shown();
    if (!shown || shown->job.pieces.empty())
        return {};
    const Layout& l = shown->derived.sheet;
    return {joined({QString::fromStdString(studio.job().sheet.media.name), count(int(l.placements.size()), "piece", "pieces"),
                    QStringLiteral("%1 % used").arg(l.used * 100, 0, 'f', 0)}),
            worse(studio, -2, {"does-not-fit", "sheet"}, l.placements.empty() ? StationState::NotBegun : StationState::Fine)};
}

} // namespace

QString areaText(double mm2, Unit unit)
{
    if (unit == Unit::Inch)
        return QStringLiteral("%1 in\u00b2").arg(mm2 / 645.16, 0, 'f', mm2 < 64.5 ? 4 : 2);
    QString figure = QString::number(mm2, 'f', mm2 < 1 ? 2 : mm2 < 100 ? 1 : 0);
    if (figure.size() > 4 && !figure.contains(QLatin1Char('.')))
        figure.insert(figure.size() - 3, QChar(0x202f));
    return figure + QStringLiteral(" mm\u00b2");
}

QString lengthText(double mm, Unit unit)
{
    if (unit == Unit::Inch)
        return QStringLiteral("%1 in").arg(mm / 25.4, 0, 'f', mm < 254 ? 3 : 1);
    return mm < 10 ? QStringLiteral("%1 mm").arg(mm, 0, 'f', 2) : QStringLiteral("%1 mm").arg(mm, 0, 'f', 1);
}

Summary summaryOf(const Studio& studio, Station station)
{
    switch (station) {
    case Station::Artwork:
        return artwork(studio);
    case Station::Keep:
        return keep(studio);
    case Station::CutLines:
        return cutLines(studio);
    case Station::TouchUp:
        return touchUp(studio);
    case Station::Bleed:
        return bleed(studio);
    case Station::Sheet:
        return sheet(studio);
    case Station::HandOff: {
        const Shown* shown = studio.shown();
        if (!shown || shown->derived.sheet.placements.empty())
            return {};
        return {Studio::tr("print PDF, combined PDF, SVG, DXF"), StationState::NotBegun};
    }
    case Station::Cut: {
        const Shown* shown = studio.shown();
        if (!shown || shown->derived.sheet.placements.empty())
            return {};
        if (const auto cut = studio.testCut())
            return {Studio::tr("stand-in \u00b7 worst %1").arg(lengthText(cut->worst, studio.unit())),
                    cut->worst > 0.3 ? StationState::Findings : StationState::Fine};
        return {Studio::tr("stand-in cutter \u00b7 not tried yet"), StationState::NotBegun};
    }
    }
    return {};
}

} // namespace yokai
