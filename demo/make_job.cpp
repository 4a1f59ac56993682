// Makes the demo job, the gift stand of the riverboat Ferry Nine, from its pictures.

#include "base/error.h"
#include "formats/project/project.h"

#include <cstdio>
#include <cstring>

using namespace yokai;

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
        saveProject(job, argv[2]);
        return 0;
    } catch (const Error& e) {
        std::fprintf(stderr, "make_job: %s\n", e.what());
        return 1;
    }
}
