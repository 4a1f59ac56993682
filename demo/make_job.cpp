// Makes the demo job, the gift stand of the riverboat Ferry Nine, from its pictures.

#include "base/error.h"
#include "formats/order/order.h"
#include "formats/project/project.h"
#include "job/colour_layers.h"
#include "job/derive.h"
#include "machine/library.h"
#include "outline/kept_edge.h"
#include "touchup/anchor.h"
#include "job/take_apart.h"
#include "scan.h"
#include "touchup/stretch.h"

#include <cstdio>
#include <cstring>

using namespace yokai;

namespace {

// Puts edits on the first line of a piece.
class ByHand {
public:
    ByHand(Piece& piece, const PieceResult& result)
        : edits_(piece.lines()[0].edits), line_(result.layer().lines[0]), ground_{result.sourceToMm, line_.offset.mm()},
          edge_(result.layer().parts->contours, result.pxPerMm)
    {
    }
    NearestPlace nearest(Point p) const { return *nearestPlace(*line_.paths, p); }
    const CutLine& line() const { return line_; }
    Edit& add(EditKind kind, Point from) { return add(kind, from, from); }
    Edit& add(EditKind kind, Point from, Point to)
    {
        Edit& edit = edits_.emplace_back();
        edit.kind = kind;
        edit.offset = line_.offset;
        edit.from = anchorOf(from, edge_, ground_);
        edit.to = anchorOf(to, edge_, ground_);
        return edit;
    }

private:
    std::vector<Edit>& edits_;
    const CutLine& line_;
    EditGround ground_;
    KeptEdge edge_;
};

// It hangs from a tab; two corners are rounded by hand, a scallop is put straight, and one edit has been left behind by
// a change of size.
void touchUpImp(Piece& piece, const PieceResult& result)
{
    ByHand imp(piece, result);
    Edit& tab = imp.add(EditKind::Tab, imp.nearest({24, -5}).at);
    tab.size = 8_mm;
    tab.hole = 3_mm;
    int rounds = 0;
    for (const Path& path : *imp.line().paths)
        for (std::size_t k = 0; k < path.segments.size() && rounds < 2; ++k)
            if (const Point at = path.segments[k].end; turnAt(path, k) > 0.5 && at.y > 30) {
                imp.add(EditKind::Round, at).size = 1_mm;
                ++rounds;
            }
    const NearestPlace from = imp.nearest({40, 36});
    const PathPlace to = along((*imp.line().paths)[from.path], from, 3.5);
    Path way;
    way.closed = false;
    way.start = from.at;
    way.lineTo(to.at);
    imp.add(EditKind::Stretch, from.at, to.at).shape = frameOf(way, false);
    Edit& lost = imp.add(EditKind::Tab, {44, 52});
    lost.size = 5_mm;
    lost.hole = 2_mm;
}

// Its back is smoothed, and bridges hold it in the sheet, one of them put where the line is straight.
void touchUpBadger(Piece& piece, const PieceResult& result)
{
    ByHand badger(piece, result);
    const NearestPlace back = badger.nearest({8, 18});
    const Path& outline = (*badger.line().paths)[back.path];
    badger.add(EditKind::Smooth, along(outline, back, -6).at, along(outline, back, 6).at).size = 4_mm;
    piece.lines()[0].bridges = 3;
    piece.lines()[0].bridgeWidth = 600_um;
    badger.add(EditKind::Bridge, badger.nearest({48, 30}).at);
}

// To be mended: a hole too near the edge, and a stretch drawn with an unsteady hand.
void touchUpRiver(Piece& piece, const PieceResult& result)
{
    ByHand river(piece, result);
    river.add(EditKind::Hole, river.nearest({20, 0}).at + Point{0, 2.2}).size = 3_mm;
    const NearestPlace begin = river.nearest({0, 30});
    const PathPlace end = along((*river.line().paths)[begin.path], begin, 5);
    Path shaky;
    shaky.closed = false;
    shaky.start = begin.at;
    const Point chord = end.at - begin.at, aside = Point{-chord.y, chord.x} * (1 / norm(chord));
    constexpr int bows = 7;
    constexpr double swing = 0.09; // mm
    for (int k = 0; k < bows; ++k) {
        const Point from = begin.at + chord * (double(k) / bows), to = begin.at + chord * (double(k + 1) / bows), out = aside * (k % 2 ? swing : -swing);
        shaky.curveTo(mix(from, to, 0.35) + out, mix(from, to, 0.65) + out, to);
    }
    river.add(EditKind::Stretch, begin.at, end.at).shape = frameOf(shaky, false);
}

// All four, and a river imp for a clear bottle with white beneath it, nested on one sheet.
Job nested(Job job)
{
    Piece clear = job.pieces[3];
    clear.id = {};
    clear.name = "River imp, clear";
    clear.copies = 2;
    clear.underprint().on = true;
    clear.underprint().choke = 200_um;
    clear.lines() = {{LineKind::Through, 1500_um}};
    for (LineSpec& line : clear.lines())
        line.id = {};
    job.pieces.push_back(clear);
    for (std::size_t k : {0U, 1U, 2U, 3U})
        *job.pieces[k].copies += 2;
    job.sheet.layout = LayoutKind::Nest;
    job.sheet.nest.turns = Turns::Free;
    job.sheet.nest.seconds = 3;
    job.sheet.gap = 2_mm;
    giveIds(job);
    return job;
}

// Saved with its nested sheet, so that it opens to it at once.
Job withItsSheet(Job job)
{
    StepCache cache;
    job.nested = nestedOf(derive(job, cache));
    return job;
}

// What the stand ordered for the season, on as many sheets as it takes.
Job ordered(const std::filesystem::path& list)
{
    Job job;
    job.name = "Ferry Nine order";
    job.pieces = openOrder(list);
    for (Piece& piece : job.pieces)
        if (piece.name == "kettle-badger")
            piece.keep().level = 14;
    job.sheet.layout = LayoutKind::Nest;
    job.sheet.nest.seconds = 3;
    job.sheet.marks.style = MarkStyle::Brackets;
    job.sheet.cuts.notch = true;
    giveIds(job);
    return job;
}

// The watch's badge, of layered vinyl: a layer a colour on a backing, each going on a little under those above it.
Job badge(const std::filesystem::path& pictures)
{
    Job job;
    job.name = "Ferry Nine badge";
    Piece& owl = job.pieces.emplace_back();
    owl.name = "Lantern owl";
    owl.artwork.picture = openPicture(pictures / "lantern-owl.png");
    owl.artwork.setWidth(Length::mm(80));
    StepCache cache;
    LayersWanted wanted;
    wanted.spread = 600_um;
    wanted.backing = 2_mm;
    wanted.line.offset = Length();
    wanted.line.roundInside = 300_um; // a drag knife follows it
    wanted.smallestPart = 2;
    owl.layers = colourLayers(*splitOf(owl, cache), wanted);
    owl.layers.front().ofColours->stock = Rgba{246, 243, 236, 255};
    owl.copies = 2;
    giveIds(job);
    return job;
}

// A charm of plywood to hang up: the rabbit engraved, its greys as dots, and cut out with a tab.
Job charm(const std::filesystem::path& pictures)
{
    Job job;
    job.name = "Ferry Nine charm";
    Piece& rabbit = job.pieces.emplace_back();
    rabbit.name = "Moon rabbit";
    rabbit.artwork.picture = openPicture(pictures / "moon-rabbit.png");
    rabbit.artwork.setWidth(Length::mm(52));
    rabbit.keep().smallestPart = 8;
    Layer& layer = rabbit.layers.front();
    layer.engrave.emplace();
    layer.engrave->as = EngraveAs::Diffuse;
    layer.engrave->curve = 1.4;
    layer.lines = {{LineKind::Through, 2_mm}};
    layer.lines.front().openings = LineOpenings::None;
    rabbit.copies = 6;
    for (const Machine& machine : sampleMachines())
        if (machine.kind == MachineKind::Laser)
            job.cut.plan.machine = machine;
    for (const Material& material : sampleMaterials())
        if (material.name.starts_with("Birch"))
            job.cut.plan.material = material;
    giveIds(job);
    StepCache cache;
    const Derived derived = derive(job, cache, {}, Want::Lines);
    ByHand line(rabbit, derived.pieces[0]);
    Edit& tab = line.add(EditKind::Tab, line.nearest({26, -5}).at);
    tab.size = 9_mm;
    tab.hole = 4_mm;
    giveIds(job);
    return job;
}

// Woven patches from one scan, each a piece, straightened: the patch itself an eighth of an inch outside, and its backing, which is sewn to it
// from behind, a quarter, mirrored. Nothing is printed for them: the marks are what is on the cloth, shown to the machine by hand.
Job patches(const std::filesystem::path& pictures)
{
    Job job;
    job.name = "Ferry Nine patches";
    Piece& scan = job.pieces.emplace_back();
    scan.name = "Patch";
    const Rgba8 glass = demo::scanned({{pictures / "lantern-owl.png", {52, 70, 110, 255}, {226, 168, 70, 255}, {38, 42}, 58, 6.5},
                                       {pictures / "river-imp.png", {196, 214, 206, 255}, {40, 92, 88, 255}, {104, 44}, 56, -11}},
                                      142, 86, 300);
    scan.artwork.picture = pictureFromBytes(encodePng(glass, {}, 300), "patches-scan.png");
    scan.keep().openings = Openings::Fill;
    scan.keep().smallestPart = 40;
    scan.lines() = {{LineKind::Through, Length::inches(0.125)}};
    giveIds(job);
    StepCache cache;
    const Derived derived = derive(job, cache, {}, Want::Lines);
    constexpr double margin = 8; // mm
    std::vector<Piece> apart = takenApart(job.pieces.front(), derived.pieces.front(), Straighten::EachThing, margin);
    job.pieces.clear();
    for (Piece& patch : apart) {
        patch.copies = 2;
        job.pieces.push_back(patch);
        Piece backing = patch;
        backing.name += ", backing";
        backing.artwork.mirrorAcross();
        backing.lines().front().offset = Length::inches(0.25);
        job.pieces.push_back(std::move(backing));
    }
    job.cut.marksBy = MarksBy::Hand;
    giveIds(job);
    return job;
}

} // namespace

int main(int argc, char** argv)
{
    if (argc != 3) {
        std::fprintf(stderr, "make_job PICTURES FOLDER\n");
        return 2;
    }
    try {
        const std::filesystem::path pictures = argv[1];
        Job job;
        job.name = "Ferry Nine stickers";
        job.pieces.reserve(4); // they are referred to
        const auto add = [&](const char* name, const char* file, int copies) -> Piece& {
            Piece piece;
            piece.name = name;
            piece.artwork.picture = openPicture(pictures / file);
            piece.copies = copies;
            job.pieces.push_back(std::move(piece));
            return job.pieces.back();
        };
        // 48 mm wide stickers: two rows of the sheet for the favourite, one each for the rest.
        Piece& imp = add("Umbrella imp", "umbrella-imp.png", 4);
        imp.artwork.setHeight(Length::mm(62));
        imp.lines() = {{LineKind::Through, 2_mm}, {LineKind::Kiss, 500_um}};
        for (LineSpec& line : imp.lines())
            line.openings = LineOpenings::Over; // the crook keeps no sliver of a hole
        Piece& badger = add("Kettle badger", "kettle-badger.jpg", 3);
        badger.artwork.setWidth(Length::mm(50));
        badger.artwork.cropTo({1, 2, 49, 43.5}); // the surround it was scanned with
        badger.keep().level = 14;                  // past the soft shadow
        LineSpec& round = badger.lines()[0];
        round.joinGap = Length::mm(3); // handle, body and feet in one
        round.roundInside = Length::um(800);
        Piece& rabbit = add("Moon rabbit", "moon-rabbit.png", 3);
        rabbit.artwork.setWidth(Length::mm(46));
        rabbit.keep().smallestPart = 8;                         // the stardust is not for cutting
        LineSpec card{LineKind::Perforate, Length::um(1500)}; // each on a card of its own to tear off
        card.shape = LineShape::BoxRoundAll;
        card.cutLength = Length::um(2500);
        card.gapLength = Length::um(800);
        rabbit.lines() = {{LineKind::Kiss, Length::um(1500)}, card};
        rabbit.bleed().distance = Length::um(2500); // the moon goes on past the cut
        Piece& river = add("River imp", "river-imp.png", 3);
        river.artwork.setWidth(Length::mm(40));
        river.lines() = {{LineKind::Through, Length::um(-800)}}; // inwards, so that no white shows
        job.sheet.gap = Length::mm(3);
        giveIds(job);
        StepCache cache;
        const Derived derived = derive(job, cache, {}, Want::Lines);
        touchUpImp(imp, derived.pieces[0]);
        touchUpBadger(badger, derived.pieces[1]);
        touchUpRiver(river, derived.pieces[3]);
        giveIds(job);
        const std::filesystem::path folder = argv[2];
        saveProject(job, folder / "ferry-nine-rows.yokai");
        saveProject(withItsSheet(nested(job)), folder / "ferry-nine.yokai");
        saveProject(charm(pictures), folder / "ferry-nine-charm.yokai");
        saveProject(badge(pictures), folder / "ferry-nine-badge.yokai");
        saveProject(patches(pictures), folder / "ferry-nine-patches.yokai");
        saveProject(withItsSheet(ordered(pictures.parent_path() / "gift-stand.csv")), folder / "ferry-nine-order.yokai");
        return 0;
    } catch (const Error& e) {
        std::fprintf(stderr, "make_job: %s\n", e.what());
        return 1;
    }
}
