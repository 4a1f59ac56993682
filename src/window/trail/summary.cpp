#include "trail/summary.h"

#include "device/test_cut.h"
#include "words.h"

#include <algorithm>

namespace yokai {

namespace {

QString listed(const QStringList& parts) { return parts.join(QStringLiteral(", ")); }

StationState worse(const Desk& desk, PieceId piece, std::initializer_list<std::string_view> codes, StationState otherwise)
{
    if (const Shown* shown = desk.shown())
        for (const Finding& f : shown->derived.findings)
            if (std::find(codes.begin(), codes.end(), f.code) != codes.end() && (!piece || f.piece == piece))
                return f.severity == Severity::Error ? StationState::Fault : StationState::Found;
    return otherwise;
}

PieceId current(const Desk& desk) { return desk.currentPiece() ? desk.currentPiece()->id : PieceId{}; }

Summary artwork(const Desk& desk)
{
    if (!desk.currentPiece())
        return {Desk::tr("open, drop or paste"), StationState::NotBegun};
    const PieceResult* r = desk.currentResult();
    const ArtworkSpec& spec = desk.currentPiece()->artwork;
    // While the frame is set on the whole picture its size is the frame's all the same.
    const bool framing = r && !r->problem && desk.shown()->uncropped == r->id;
    return {framing ? sizeText(spec.width(), spec.height(), desk.unit())
            : r     ? sizeText(r->width, r->height, desk.unit())
                    : QString(),
            worse(desk, current(desk), {"low-resolution"}, StationState::Fine)};
}

Summary keep(const Desk& desk)
{
    const PieceResult* r = desk.currentResult();
    const LayerResult* l = desk.layerResult();
    if (!l || !l->parts)
        return {r && r->problem ? Desk::tr("see the findings") : QString(), r ? StationState::Fault : StationState::NotBegun};
    if (l->parts->keptParts == 0)
        return {Desk::tr("nothing is kept"), StationState::Fault};
    QStringList parts{Desk::tr("%n parts", nullptr, l->parts->keptParts)};
    if (l->parts->keptOpenings > 0)
        parts << Desk::tr("%n openings", nullptr, l->parts->keptOpenings);
    else if (l->parts->droppedParts > 0)
        parts << Desk::tr("%n crumbs", nullptr, l->parts->droppedParts);
    return {listed(parts), StationState::Fine};
}

Summary cutLines(const Desk& desk)
{
    const PieceResult* r = desk.currentResult();
    const LayerResult* l = desk.layerResult();
    if (!l || l->lines.empty())
        return {{}, r && r->problem ? StationState::Fault : StationState::NotBegun};
    double length = 0;
    for (const CutLine& line : l->lines)
        length += line.length;
    return {listed({Desk::tr("%n lines", nullptr, int(l->lines.size())), lengthText(length, desk.unit())}),
            worse(desk, current(desk), {"line-vanished", "parts-vanished", "parts-split"}, StationState::Fine)};
}

Summary touchUp(const Desk& desk)
{
    const LayerResult* l = desk.layerResult();
    if (!l || l->lines.empty())
        return {};
    std::size_t nodes = 0;
    for (const CutLine& line : l->lines)
        nodes += line.nodes;
    return {Desk::tr("%n nodes, no edits", nullptr, int(nodes)), StationState::NotBegun};
}

Summary bleed(const Desk& desk)
{
    const LayerResult* l = desk.layerResult();
    if (!l || l->lines.empty())
        return {};
    return {Desk::tr("none, drifts %1").arg(lengthText(l->driftAllowance, desk.unit())), StationState::NotBegun};
}

Summary sheet(const Desk& desk)
{
    const Shown* shown = desk.shown();
    if (!shown || shown->job.pieces.empty())
        return {};
    const Layout& l = shown->derived.sheet;
    return {listed({QString::fromStdString(desk.job().sheet.media.name), Desk::tr("%n pieces", nullptr, int(l.placements.size())),
                    number(l.used * 100, 0) + QStringLiteral(" %")}),
            worse(desk, {}, {"does-not-fit", "sheet"}, l.placements.empty() ? StationState::NotBegun : StationState::Fine)};
}

Summary cut(const Desk& desk)
{
    const auto tried = desk.testCut();
    if (!tried)
        return {Desk::tr("not tried yet"), StationState::NotBegun};
    constexpr double fair = 0.3; // mm: what hides in a border of 0.5 mm
    return {Desk::tr("worst %1").arg(lengthText(tried->worst, desk.unit())), tried->worst > fair ? StationState::Found : StationState::Fine};
}

} // namespace

Summary summaryOf(const Desk& desk, Station station)
{
    const bool placed = desk.shown() && !desk.shown()->derived.sheet.placements.empty();
    Summary out;
    switch (station) {
    case Station::Artwork:
        out = artwork(desk);
        break;
    case Station::Keep:
        out = keep(desk);
        break;
    case Station::CutLines:
        out = cutLines(desk);
        break;
    case Station::TouchUp:
        out = touchUp(desk);
        break;
    case Station::Bleed:
        out = bleed(desk);
        break;
    case Station::Sheet:
        out = sheet(desk);
        break;
    case Station::HandOff:
        if (placed)
            out.line = Desk::tr("print and cut files");
        break;
    case Station::Cut:
        if (placed)
            out = cut(desk);
        break;
    }
    if (desk.currentPiece() && !desk.upToDate() && !desk.stalled() && out.state == StationState::Fine)
        out.state = StationState::Working;
    return out;
}

QString stateText(StationState state)
{
    switch (state) {
    case StationState::NotBegun:
        return Desk::tr("not begun");
    case StationState::Fine:
        return Desk::tr("fine");
    case StationState::Found:
        return Desk::tr("has findings");
    case StationState::Fault:
        return Desk::tr("has a fault");
    case StationState::Working:
        return Desk::tr("working");
    }
    return {};
}

} // namespace yokai
