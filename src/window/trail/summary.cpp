#include "trail/summary.h"

#include <numeric>

#include "desk/findings.h"
#include "desk/line_edits.h"
#include "desk/machining.h"
#include "job/colour_layers.h"
#include "words.h"

#include <algorithm>

namespace yokai {

namespace {

QString listed(const QStringList& parts) { return parts.join(QStringLiteral(", ")); }

// What the findings that are mended at a station make of it.
StationState worse(const Desk& desk, Station station, StationState otherwise)
{
    const Shown* shown = desk.shown();
    StationState out = otherwise;
    for (const std::size_t k : findingsAt(desk, station)) {
        const Finding& f = shown->derived.findings[k];
        if (mendedAt(f) != station || f.severity == Severity::Note)
            continue;
        if (f.severity == Severity::Error)
            return StationState::Fault;
        out = StationState::Found;
    }
    return out;
}

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
            worse(desk, Station::Artwork, StationState::Fine)};
}

Summary keep(const Desk& desk)
{
    const PieceResult* r = desk.currentResult();
    const LayerResult* l = desk.layerResult();
    if (!l || !l->parts)
        return {r && r->problem ? Desk::tr("see the findings") : QString(), r ? StationState::Fault : StationState::NotBegun};
    if (isLayered(*desk.currentPiece())) {
        const auto layers = int(desk.currentPiece()->layers.size());
        return {listed({Desk::tr("%n layers", nullptr, layers), Desk::tr("%n parts", nullptr, std::accumulate(r->layers.begin(), r->layers.end(), 0, [](int sum, const LayerResult& layer) { return sum + (layer.parts ? layer.parts->keptParts : 0); }))}),
                worse(desk, Station::Keep, StationState::Fine)};
    }
    if (l->parts->keptParts == 0)
        return {Desk::tr("nothing is kept"), StationState::Fault};
    QStringList parts{Desk::tr("%n parts", nullptr, l->parts->keptParts)};
    if (l->parts->keptOpenings > 0)
        parts << Desk::tr("%n openings", nullptr, l->parts->keptOpenings);
    else if (l->parts->droppedParts > 0)
        parts << Desk::tr("%n crumbs", nullptr, l->parts->droppedParts);
    return {listed(parts), worse(desk, Station::Keep, StationState::Fine)};
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
            worse(desk, Station::CutLines, StationState::Fine)};
}

Summary touchUp(const Desk& desk)
{
    const LayerResult* l = desk.layerResult();
    if (!l || l->lines.empty())
        return {};
    std::size_t nodes = 0;
    for (const CutLine& line : l->lines)
        nodes += line.nodes;
    const std::size_t edits = edits::allEdits(desk).size(), found = findingsAt(desk, Station::TouchUp).size();
    QStringList said;
    if (edits > 0)
        said << Desk::tr("%n edits", nullptr, int(edits));
    else
        said << Desk::tr("%n nodes", nullptr, int(nodes));
    if (found > 0)
        said << Desk::tr("%n findings", nullptr, int(found));
    else if (edits == 0)
        said << Desk::tr("no edits");
    return {listed(said), worse(desk, Station::TouchUp, edits > 0 ? StationState::Fine : StationState::NotBegun)};
}

Summary bleed(const Desk& desk)
{
    const LayerResult* l = desk.layerResult();
    if (!l || l->lines.empty())
        return {};
    if (!l->isPrinted)
        return {l->engraving ? Desk::tr("engraved") : Desk::tr("not printed"), StationState::Fine};
    const QString drifts = Desk::tr("drifts %1").arg(lengthText(l->driftAllowance(), desk.unit()));
    if (l->printReach <= Length())
        return {listed({Desk::tr("none"), drifts}), StationState::NotBegun};
    return {listed({lengthText(l->printReach.mm(), desk.unit()), drifts}), worse(desk, Station::Bleed, StationState::Fine)};
}

Summary sheet(const Desk& desk)
{
    const Shown* shown = desk.shown();
    if (!shown || shown->job.pieces.empty())
        return {};
    const Layout& l = shown->derived.sheet;
    const QString media = QString::fromStdString(desk.job().sheet.media.name);
    if (l.waits)
        return {listed({media, Desk::tr("to be nested")}), StationState::NotBegun};
    const double used = std::accumulate(l.used.begin(), l.used.end(), 0.0) / std::max<double>(1, double(l.used.size()));
    return {listed({l.sheets > 1 ? Desk::tr("%1 \u00d7 %2").arg(l.sheets).arg(media) : media, Desk::tr("%n pieces", nullptr, int(l.placements.size())),
                    number(used * 100, 0) + QStringLiteral(" %")}),
            worse(desk, Station::Sheet, l.placements.empty() ? StationState::NotBegun : StationState::Fine)};
}

Summary cut(const Desk& desk)
{
    const OnBed& bed = desk.machining().onBed();
    if (bed.under)
        return {Desk::tr("%1 left").arg(timeText(bed.under->left)), StationState::Working};
    const auto tried = desk.testCut();
    if (!tried && !bed.refusal.isEmpty())
        return {Desk::tr("marks do not fit"), StationState::Fault};
    if (!tried && bed.fit)
        return {Desk::tr("%n marks, %1", nullptr, int(bed.pairs().size())).arg(exactText(bed.fit->worst, desk.unit())), bed.doubts.empty() ? StationState::Fine : StationState::Found};
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
