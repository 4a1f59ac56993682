// Makes the demo job, the gift stand of the riverboat Ferry Nine, from its pictures.

#include "base/error.h"
#include "formats/project/project.h"
#include "job/derive.h"
#include "outline/kept_edge.h"
#include "touchup/anchor.h"
#include "touchup/stretch.h"

#include <cstdio>
#include <cstring>

using namespace yokai;

namespace {

// The umbrella imp hangs from a tab; two corners of its through line are rounded by hand, a scallop is
// put straight, and one edit has been left behind by a change of size.
void touchUpByHand(Job& job)
{
    StepCache cache;
    const Derived derived = derive(job, cache, {}, Want::Lines);
    const PieceResult& piece = derived.pieces[0];
    const CutLine& line = piece.layer().lines[0];
    const EditGround ground{piece.sourceToMm, line.offset.mm()};
    const KeptEdge edge(piece.layer().parts->contours, piece.pxPerMm);
    std::vector<Edit>& edits = job.pieces[0].lines()[0].edits;
    const auto add = [&](EditKind kind, Point at) -> Edit& {
        Edit& edit = edits.emplace_back();
        edit.kind = kind;
        edit.offset = line.offset;
        edit.from = anchorOf(at, edge, ground);
        return edit;
    };
    const auto nearest = [&](Point p) { return *nearestPlace(*line.paths, p); };
    Edit& tab = add(EditKind::Tab, nearest({24, -5}).at);
    tab.size = 8_mm;
    tab.hole = 3_mm;
    int rounds = 0;
    for (const Path& path : *line.paths)
        for (std::size_t k = 0; k < path.segments.size() && rounds < 2; ++k)
            if (const Point at = path.segments[k].end; turnAt(path, k) > 0.5 && at.y > 30) {
                add(EditKind::Round, at).size = 1_mm;
                ++rounds;
            }
    const NearestPlace from = nearest({40, 36});
    const PathPlace to = along((*line.paths)[from.path], from, 3.5);
    Edit& straight = add(EditKind::Stretch, from.at);
    straight.to = anchorOf(to.at, edge, ground);
    Path way;
    way.closed = false;
    way.start = from.at;
    way.lineTo(to.at);
    straight.shape = frameOf(way, mirrored(ground));
    Edit& lost = add(EditKind::Tab, {44, 52});
    lost.size = 5_mm;
    lost.hole = 2_mm;
}

} // namespace

int main(int argc, char** argv)
{
    if (argc != 3) {
        std::fprintf(stderr, "make_job PICTURES JOB.yokai\n");
        return 2;
    }
    try {
        const std::filesystem::path pictures = argv[1];
        Job job;
        job.name = "Ferry Nine stickers";
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
        Piece& river = add("River imp", "river-imp.png", 3);
        river.artwork.setWidth(Length::mm(40));
        river.lines() = {{LineKind::Through, Length::um(-800)}}; // inwards, so that no white shows
        job.sheet.gap = Length::mm(3);
        giveIds(job);
        touchUpByHand(job);
        giveIds(job);
        saveProject(job, argv[2]);
        return 0;
    } catch (const Error& e) {
        std::fprintf(stderr, "make_job: %s\n", e.what());
        return 1;
    }
}
