// What was said on the command line, put into a job.

#include "options.h"
#include "values.h"

#include "base/error.h"
#include "base/text.h"
#include "formats/machine/own_files.h"
#include "formats/project/recipe_file.h"
#include "job/derive.h"
#include "keep/colour.h"
#include "touchup/anchor.h"

#include <algorithm>
#include <charconv>
#include <iterator>
#include <sstream>

namespace yokai::batch {

namespace {

// A name, or "over=AREA"; tells whether it was the latter.
template <class E> bool openings(const std::string& text, const char* option, E& which, double& over)
{
    if (text.starts_with("over=")) {
        which = E::Over;
        over = areaOption(text.substr(5), option);
        return true;
    }
    which = choiceOption<E>(text, option);
    if (which == E::Over)
        throw Error(ErrorKind::Usage, "{} 'over' says no area; write it like over=4mm2", option);
    return false;
}

LineSpec lineFrom(const std::string& text)
{
    const auto colon = text.find(':');
    if (const auto kind = fromName<LineKind>(text.substr(0, colon)); kind && colon != std::string::npos)
        return {*kind, lengthOption(text.substr(colon + 1), "--line", &LineSpec::offset)};
    throw Error(ErrorKind::Usage, "--line '{}' is not KIND:OFFSET; write it like through:2mm (kinds: {})", text, namesIn<LineKind>());
}

void applyTo(LineSpec& line, const Options& o)
{
    if (!o.corners.empty())
        line.corners = choiceOption<Corners>(o.corners, "--corners");
    if (!o.join.empty())
        line.joinGap = lengthOption(o.join, "--join", &LineSpec::joinGap);
    if (!o.roundInside.empty())
        line.roundInside = lengthOption(o.roundInside, "--round-inside", &LineSpec::roundInside);
    if (!o.lineOpenings.empty()) {
        openings(o.lineOpenings, "--line-openings", line.openings, line.openingsOver);
    } else if (!o.openings.empty()) { // alone it sets both
        Openings kept = Openings::Keep;
        openings(o.openings, "--openings", kept, line.openingsOver);
        line.openings = kept == Openings::Fill ? LineOpenings::None : kept == Openings::Over ? LineOpenings::Over : LineOpenings::All;
    }
    if (!o.tolerance.empty())
        line.tolerance = lengthOption(o.tolerance, "--tolerance", &LineSpec::tolerance);
    if (!o.bridges.empty() && line.kind == LineKind::Through) {
        const auto slash = o.bridges.find('/');
        if (slash == std::string::npos)
            throw Error(ErrorKind::Usage, "--bridges '{}' is not N/WIDTH; write it like 4/0.5mm", o.bridges);
        line.bridges = int(plainOption(o.bridges.substr(0, slash), "--bridges", 0, 1000));
        line.bridgeWidth = lengthOption(o.bridges.substr(slash + 1), "--bridges", &LineSpec::bridgeWidth);
    }
    if (!o.perforate.empty()) {
        const auto slash = o.perforate.find('/');
        if (slash == std::string::npos)
            throw Error(ErrorKind::Usage, "--perforate '{}' is not CUT/GAP; write it like 3mm/0.8mm", o.perforate);
        line.cutLength = lengthOption(o.perforate.substr(0, slash), "--perforate", &LineSpec::cutLength);
        line.gapLength = lengthOption(o.perforate.substr(slash + 1), "--perforate", &LineSpec::gapLength);
    }
}

// OUTER/HOLE@SIDE, put on the through line that is there.
Edit tabFrom(const std::string& text, const PieceResult& piece, const CutLine& line)
{
    const auto slash = text.find('/'), at = text.find('@');
    if (slash == std::string::npos || at == std::string::npos || slash > at)
        throw Error(ErrorKind::Usage, "--tab '{}' is not OUTER/HOLE@SIDE; write it like 10mm/4mm@top", text);
    Edit tab;
    tab.kind = EditKind::Tab;
    tab.size = lengthOption(text.substr(0, slash), "--tab", &Edit::size);
    tab.hole = lengthOption(text.substr(slash + 1, at - slash - 1), "--tab", &Edit::hole);
    if (tab.hole >= tab.size)
        throw Error(ErrorKind::Usage, "--tab '{}' has a hole as wide as itself; make the hole smaller", text);
    tab.offset = line.offset;
    const std::string side = text.substr(at + 1);
    const Rect box = bounds(*line.paths);
    Point near;
    if (side == "top" || side == "bottom") {
        near = {box.centre().x, side == "top" ? box.y0 : box.y1};
    } else if (side == "left" || side == "right") {
        near = {side == "left" ? box.x0 : box.x1, box.centre().y};
    } else {
        const auto comma = side.find(',');
        if (comma == std::string::npos)
            throw Error(ErrorKind::Usage, "--tab '{}' stands nowhere; write it @top, right, bottom, left or X,Y", text);
        near = {lengthOption(side.substr(0, comma), "--tab").mm(), lengthOption(side.substr(comma + 1), "--tab").mm()};
    }
    // On an outline, not on the rim of an opening.
    Paths outlines;
    std::copy_if(line.paths->begin(), line.paths->end(), std::back_inserter(outlines), [](const Path& p) { return signedArea(p) > 0; });
    const auto place = nearestPlace(outlines, near);
    if (!place)
        throw Error(ErrorKind::Usage, "--tab needs a through line and this picture has none; add --line through:2mm");
    const LayerResult& layer = piece.layer();
    tab.from = anchorOf(place->at, KeptEdge(layer.parts->contours, piece.pxPerMm), {piece.sourceToMm, line.offset.mm()});
    return tab;
}

// X,Y,WxH in the picture.
Rect boxFrom(const std::string& text, const std::string& wrong, const char* option)
{
    const auto first = text.find(','), second = text.find(',', first + 1), by = text.find('x', second + 1);
    if (first == std::string::npos || second == std::string::npos || by == std::string::npos)
        throw Error(ErrorKind::Usage, "{} '{}' is {}X,Y,WxH; write it like 2mm,3mm,40mmx25mm", option, text, wrong);
    const auto part = [&](std::size_t from, std::size_t to) { return lengthOption(text.substr(from, to - from), option).mm(); };
    const double x = part(0, first), y = part(first + 1, second);
    return {x, y, x + part(second + 1, by), y + part(by + 1, text.size())};
}

void applyTo(BleedSpec& bleed, const Options& o)
{
    if (!o.bleed.empty())
        bleed.distance = lengthOption(o.bleed, "--bleed", &BleedSpec::distance);
    if (o.bleedFrom.starts_with('#')) {
        const auto colour = colourFrom(o.bleedFrom);
        if (!colour)
            throw Error(ErrorKind::Usage, "--bleed-from '{}' names no colour; write it like #c0325a", o.bleedFrom);
        bleed.from = BleedFrom::Colour;
        bleed.colour = *colour;
    } else if (!o.bleedFrom.empty()) {
        if (o.bleedFrom != name(BleedFrom::Edge) && o.bleedFrom != name(BleedFrom::Mirror))
            throw Error(ErrorKind::Usage, "--bleed-from '{}' is not edge, mirror or a colour like #c0325a", o.bleedFrom);
        bleed.from = *fromName<BleedFrom>(o.bleedFrom);
    }
    if (!o.bleedFrom.empty() && o.bleed.empty())
        throw Error(ErrorKind::Usage, "--bleed-from goes with --bleed; say how far, as --bleed 2mm");
}

// What stands out within a box in the frame, mm.
SubjectSpec subjectFrom(const std::string& text, const ArtworkSpec& artwork)
{
    const Rect box = boxFrom(text, "not ", "--keep subject");
    if (box.empty() || box.x1 <= 0 || box.y1 <= 0 || box.x0 >= artwork.width() || box.y0 >= artwork.height())
        throw Error(ErrorKind::Usage, "--keep subject '{}' holds nothing of the picture, which is {} x {}", text, formatMm(artwork.width(), Unit::Mm),
                    formatMm(artwork.height(), Unit::Mm));
    const Affine back = artwork.sourceToMm().inverse();
    SubjectSpec out;
    for (const Point p : {Point{box.x0, box.y0}, {box.x1, box.y0}, {box.x1, box.y1}, {box.x0, box.y1}})
        out.box.push_back(back(p));
    return out;
}

void applyTo(KeepSpec& k, const ArtworkSpec& artwork, const Options& o)
{
    if (o.keep.starts_with("colour=")) {
        const auto colour = colourFrom(o.keep.substr(7));
        if (!colour)
            throw Error(ErrorKind::Usage, "--keep '{}' names no colour; write it like colour=#c0325a", o.keep);
        k.rule = KeepRule::Colour;
        k.colours = {Swatch{*colour}};
    } else if (o.keep.starts_with("subject=")) {
        k.rule = KeepRule::Subject;
        k.subject = subjectFrom(o.keep.substr(8), artwork);
    } else if (!o.keep.empty()) {
        k.rule = choiceOption<KeepRule>(o.keep, "--keep");
        if (k.rule == KeepRule::Colour)
            throw Error(ErrorKind::Usage, "--keep colour says no colour; write it like colour=#c0325a");
        if (k.rule == KeepRule::Subject)
            throw Error(ErrorKind::Usage, "--keep subject says no box; write it like subject=2mm,3mm,40mmx25mm");
    }
    if (!o.level.empty())
        k.level = plainOption(o.level, "--level", 0, 100);
    if (!o.smallestPart.empty())
        k.smallestPart = areaOption(o.smallestPart, "--smallest-part");
    if (!o.openings.empty())
        openings(o.openings, "--openings", k.openings, k.openingsOver);
    if (!o.smoothing.empty()) {
        k.smoothing = lengthOption(o.smoothing, "--smoothing");
        if (*k.smoothing < Length() || *k.smoothing > 10_mm)
            throw Error(ErrorKind::Usage, "--smoothing '{}' is out of range; use 0 to 10 mm", o.smoothing);
    }
}

TiltSpec rectangleFrom(const std::string& text)
{
    const auto fail = [&] { return Error(ErrorKind::Usage, "--rectangle '{}' is not four corners and two sides; write it like 120,80,910,95,930,700,100,690=210mmx297mm", text); };
    const auto is = text.find('='), by = text.find('x', is + 1);
    if (is == std::string::npos || by == std::string::npos)
        throw fail();
    std::vector<double> at;
    std::istringstream numbers(text.substr(0, is));
    for (std::string one; std::getline(numbers, one, ',');)
        at.push_back(plainOption(one, "--rectangle", -100'000, 100'000));
    if (at.size() != 8)
        throw fail();
    TiltSpec out;
    setCorners(out, {Point{at[0], at[1]}, {at[2], at[3]}, {at[4], at[5]}, {at[6], at[7]}});
    out.across = lengthOption(text.substr(is + 1, by - is - 1), "--rectangle", &TiltSpec::across);
    out.down = lengthOption(text.substr(by + 1), "--rectangle", &TiltSpec::down);
    return out;
}

void applyTo(ArtworkSpec& a, const Options& o)
{
    if (!o.rectangle.empty())
        a.tilt = rectangleFrom(o.rectangle);
    if (o.lies && !a.tilt)
        throw Error(ErrorKind::Usage, "--lies goes with --rectangle, which is the sheet it lies on");
    if (o.lies)
        a.tilt->lies = true;
    if (int(!o.width.empty()) + int(!o.height.empty()) + int(!o.ppi.empty()) > 1)
        throw Error(ErrorKind::Usage, "give only one of --width, --height and --ppi; the others follow");
    if (!o.width.empty())
        a.setWidth(lengthOption(o.width, "--width", &ArtworkSpec::side));
    if (!o.height.empty())
        a.setHeight(lengthOption(o.height, "--height", &ArtworkSpec::side));
    if (!o.ppi.empty()) {
        a.sizeBy = SizeBy::Ppi;
        a.ppi = plainOption(o.ppi, "--ppi", 1, 100'000);
    }
    a.pxPerMm(); // refuses a senseless size before any work
    if (o.mirror)
        a.mirrorAcross();
    if (!o.straighten.empty())
        a.straightenTo(plainOption(o.straighten, "--straighten", -45, 45));
    if (!o.crop.empty() && o.crop != "kept")
        a.cropTo(boxFrom(o.crop, "neither kept nor ", "--crop"));
}

} // namespace

void applyTo(Piece& piece, const Options& o)
{
    if (!o.recipe.empty())
        apply(openRecipe(o.recipe), piece, HandWork::Stays);
    applyTo(piece.artwork, o);
    for (Layer& layer : piece.layers) {
        applyTo(layer.keep, piece.artwork, o);
        applyTo(layer.bleed, o);
        if (!o.underprint.empty()) {
            layer.underprint.on = true;
            layer.underprint.choke = lengthOption(o.underprint, "--underprint", &UnderprintSpec::choke);
        }
        if (!o.lines.empty()) {
            layer.lines.clear();
            for (const std::string& line : o.lines)
                layer.lines.push_back(lineFrom(line));
        }
        for (LineSpec& line : layer.lines)
            applyTo(line, o);
    }
    if (o.copies == "fill")
        piece.copies.reset();
    else if (!o.copies.empty())
        piece.copies = int(plainOption(o.copies, "--copies", 1, 100'000));
    const auto derivedAlone = [&] {
        Job alone;
        alone.pieces.push_back(piece);
        giveIds(alone);
        StepCache cache;
        Derived d = derive(alone, cache, {}, Want::Lines);
        if (d.pieces[0].problem)
            throw *d.pieces[0].problem;
        return d;
    };
    if (o.crop == "kept") {
        const Length margin = o.cropMargin.empty() ? Length() : lengthOption(o.cropMargin, "--crop-margin");
        const Derived d = derivedAlone();
        piece.artwork.cropTo(d.pieces[0].kept.grown(margin.mm()));
    }
    if (!o.tabs.empty()) {
        const Derived d = derivedAlone();
        const std::vector<CutLine>& lines = d.pieces[0].layer().lines;
        const auto through = std::find_if(lines.begin(), lines.end(), [](const CutLine& l) { return l.kind == LineKind::Through; });
        if (through == lines.end())
            throw Error(ErrorKind::Usage, "--tab needs a through line; add --line through:2mm");
        const std::size_t number = std::size_t(through - lines.begin()), before = piece.lines()[number].edits.size();
        for (const std::string& tab : o.tabs)
            piece.lines()[number].edits.push_back(tabFrom(tab, d.pieces[0], *through));
        const Derived tabbed = derivedAlone();
        const auto& outcomes = tabbed.pieces[0].layer().lines[number].edits;
        for (std::size_t k = before; k < outcomes.size(); ++k)
            if (outcomes[k].fate == EditFate::NoPlace || outcomes[k].fate == EditFate::DoesNotFit)
                throw Error(ErrorKind::Usage, "--tab '{}' does not fit there; make it smaller, or put it elsewhere", o.tabs[k - before]);
    }
}

namespace {

void applyTo(MarkSpec& marks, const Options& o)
{
    if (!o.marks.empty())
        marks.style = choiceOption<MarkStyle>(o.marks, "--marks");
    if (!o.markInset.empty())
        marks.inset = lengthOption(o.markInset, "--mark-inset", &MarkSpec::inset);
    if (!o.markSize.empty())
        marks.size = lengthOption(o.markSize, "--mark-size", &MarkSpec::size);
    if (!o.markCount.empty())
        marks.count = int(plainOption(o.markCount, "--mark-count", 3, 8));
    if (!o.markGap.empty())
        marks.bandGap = lengthOption(o.markGap, "--mark-gap", &MarkSpec::bandGap);
    if (!(o.marks.empty() && o.markInset.empty() && o.markSize.empty() && o.markCount.empty() && o.markGap.empty()))
        marks.places.clear(); // those by hand were of other marks
}

} // namespace

void applyTo(SheetSpec& s, const Options& o)
{
    if (!o.paper.empty())
        s.media = mediaFrom(o.paper);
    if (o.landscape)
        s.landscape = true;
    if (!o.margin.empty())
        s.margin = lengthOption(o.margin, "--margin", &SheetSpec::margin);
    if (!o.gap.empty())
        s.gap = lengthOption(o.gap, "--gap", &SheetSpec::gap);
    if (!o.layout.empty())
        s.layout = choiceOption<LayoutKind>(o.layout, "--layout");
    if (!o.columns.empty())
        s.grid.columns = int(plainOption(o.columns, "--columns", 1, 10'000));
    if (!o.rows.empty())
        s.grid.rows = int(plainOption(o.rows, "--rows", 1, 10'000));
    if (!o.gapDown.empty())
        s.grid.gapDown = lengthOption(o.gapDown, "--gap-down");
    if (!o.turn.empty())
        s.nest.turns = choiceOption<Turns>(o.turn, "--turn");
    if (o.nestMirror)
        s.nest.mirror = true;
    if (!o.seconds.empty())
        s.nest.seconds = plainOption(o.seconds, "--seconds", 0, 3600);
    if (!o.seed.empty())
        s.nest.seed = int(plainOption(o.seed, "--seed", 1, 1'000'000));
    if (!o.sheetMirror.empty())
        s.mirror = choiceOption<SheetMirror>(o.sheetMirror, "--sheet-mirror");
    if (o.trim)
        s.cuts.boxAll = true, s.cuts.boxKind = LineKind::Through;
    if (o.separate)
        s.cuts.separate = true;
    applyTo(s.marks, o);
}

namespace {

void applyTo(CheckSpec& check, const Options& o)
{
    const auto set = [](const std::string& text, const char* option, Length CheckSpec::*field, CheckSpec& to) {
        if (!text.empty())
            to.*field = lengthOption(text, option, field);
    };
    set(o.toolRadius, "--tool-radius", &CheckSpec::toolRadius, check);
    set(o.leastNeck, "--least-neck", &CheckSpec::leastNeck, check);
    set(o.leastGap, "--least-gap", &CheckSpec::leastGap, check);
    set(o.leastLength, "--least-length", &CheckSpec::leastLength, check);
    set(o.drift, "--drift", &CheckSpec::drift, check);
    if (!o.leastArea.empty())
        check.leastArea = areaOption(o.leastArea, "--least-area");
    if (!o.leastPpi.empty())
        check.leastPpi = plainOption(o.leastPpi, "--least-ppi", 0, 10'000);
}

// 3:1:2, one for each piece.
void applyShares(Job& job, const std::string& text)
{
    if (text.empty())
        return;
    std::vector<int> shares;
    for (std::size_t from = 0; from <= text.size();) {
        const std::size_t to = std::min(text.find(':', from), text.size());
        shares.push_back(int(plainOption(text.substr(from, to - from), "--share", 1, 1000)));
        from = to + 1;
    }
    if (shares.size() != job.pieces.size())
        throw Error(ErrorKind::Usage, "--share '{}' has {} numbers for {} pictures; give one for each", text, std::to_string(shares.size()),
                    std::to_string(job.pieces.size()));
    for (std::size_t k = 0; k < shares.size(); ++k)
        job.pieces[k].share = shares[k];
}

void applyTo(HandOffSpec& handOff, const Options& o)
{
    if (!o.hairline.empty())
        handOff.hairline = lengthOption(o.hairline, "--hairline", &HandOffSpec::hairline);
    if (!o.stretch.empty()) {
        const auto comma = o.stretch.find(',');
        if (comma == std::string::npos)
            throw Error(ErrorKind::Usage, "--stretch '{}' is not X,Y; write the two scales in percent, like 100.2,99.8", o.stretch);
        const Limits x = limitsOf(&HandOffSpec::stretchX), y = limitsOf(&HandOffSpec::stretchY);
        handOff.stretchX = plainOption(o.stretch.substr(0, comma), "--stretch", x.least, x.most);
        handOff.stretchY = plainOption(o.stretch.substr(comma + 1), "--stretch", y.least, y.most);
    }
    if (!o.dxf.empty())
        handOff.dxf = choiceOption<DxfCurves>(o.dxf, "--dxf");
    if (!o.material.empty())
        handOff.material = cleanText(o.material);
    if (const Limits l = limitsOf(&HandOffSpec::ppi); !o.printPpi.empty())
        handOff.ppi = plainOption(o.printPpi, "--print-ppi", l.least, l.most);
}

} // namespace

void applyTo(PlanSpec& plan, const Options& o, double sheetWidth, double sheetHeight)
{
    if (!o.machine.empty())
        plan.machine = machineNamed(o.machine, ownFolder());
    // On a sheet without a machine it is only what the proof says.
    if (!o.material.empty() && (o.verb != "sheet" || !o.machine.empty()))
        plan.material = materialNamed(o.material, ownFolder());
    if (o.byOperation)
        plan.byOperation = true;
    if (!o.sheetAt.empty()) {
        const auto comma = o.sheetAt.find(',');
        if (comma == std::string::npos)
            throw Error(ErrorKind::Usage, "--sheet-at '{}' is not X,Y; write it like 25mm,25mm", o.sheetAt);
        plan.sheetX = lengthOption(o.sheetAt.substr(0, comma), "--sheet-at", &PlanSpec::sheetX);
        plan.sheetY = lengthOption(o.sheetAt.substr(comma + 1), "--sheet-at", &PlanSpec::sheetY);
    }
    const auto machine = [&]() -> Machine& {
        if (!plan.machine) {
            plan.machine.emplace();
            plan.machine->bed.width = Length::mm(sheetWidth);
            plan.machine->bed.depth = Length::mm(sheetHeight);
            plan.machine->kind = o.force.empty() && o.bladeOffset.empty() ? MachineKind::Laser : MachineKind::Cutter;
            plan.machine->motion.topSpeed = {Speed::fastest}; // it is not known
        }
        return *plan.machine;
    };
    if (!o.kerf.empty())
        machine().tool.kerf = lengthOption(o.kerf, "--kerf", &ToolSpec::kerf);
    if (!o.bladeOffset.empty())
        machine().tool.bladeOffset = lengthOption(o.bladeOffset, "--blade-offset", &ToolSpec::bladeOffset);
    if (!o.overcut.empty())
        machine().tool.overcut = lengthOption(o.overcut, "--overcut", &ToolSpec::overcut);
    if (o.passes.empty() && o.feed.empty() && o.power.empty() && o.force.empty())
        return;
    if (!o.power.empty() || !o.force.empty())
        machine();
    if (!o.power.empty() && plan.machine->kind == MachineKind::Cutter)
        throw Error(ErrorKind::Usage, "--power is of a laser, and the machine has a blade; use --force");
    if (!o.force.empty() && plan.machine->kind == MachineKind::Laser)
        throw Error(ErrorKind::Usage, "--force is of a blade, and the machine is a laser; use --power");
    if (!o.feed.empty() && plan.machine)
        requireSpeed(*plan.machine, parseSpeed(o.feed), "--feed");
    const auto change = [&](ProcessSettings& s) {
        if (!o.passes.empty())
            s.passes = int(plainOption(o.passes, "--passes", 1, 100));
        if (!o.feed.empty())
            s.speed = parseSpeed(o.feed);
        if (!o.power.empty())
            s.power = plainOption(o.power, "--power", 0, 100);
        if (!o.force.empty())
            s.force = plainOption(o.force, "--force", 0, 10'000);
    };
    if (!plan.material)
        plan.material.emplace();
    for (const Process p : processes)
        change(plan.material->of(p));
    for (OperationStep& step : plan.operations)
        if (step.settings)
            change(*step.settings);
}

void applyTo(Job& job, const Options& o)
{
    applyTo(job.handOff, o);
    applyTo(job.sheet, o);
    applyTo(job.check, o);
    applyShares(job, o.share);
    for (const std::string& spot : o.spots) {
        const auto equals = spot.find('=');
        const auto kind = equals == std::string::npos ? std::nullopt : fromName<LineKind>(spot.substr(0, equals));
        const bool white = spot.starts_with("white="), engrave = spot.starts_with("engrave=");
        const std::string text = kind || white || engrave ? spot.substr(equals + 1) : spot;
        if (text.empty() || cleanText(text) != text || text.find_first_of("\t\r\n") != std::string::npos)
            throw Error(ErrorKind::Usage, "--spot names no colour that can be written; use plain text");
        SpotNames& names = job.handOff.spots;
        (white ? names.white : engrave ? names.engrave : names.of(kind.value_or(LineKind::Through))) = text;
    }
    if (!o.fit.empty())
        job.cut.model = choiceOption<FitModel>(o.fit, "--fit");
    if (!o.maxResidual.empty())
        job.cut.maxResidual = lengthOption(o.maxResidual, "--max-residual", &CutSpec::maxResidual);
    giveIds(job);
}

} // namespace yokai::batch
