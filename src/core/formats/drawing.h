// What the writers write: images, cut items by kind, and marks, at true scale.
//
// Unit: mm, (0, 0) the top-left corner, y down; each writer turns this into the
// coordinates its format asks for.
#pragma once

#include "artwork/frame.h"
#include "bleed/print_image.h"
#include "job/derive.h"
#include "machine/cut_item.h"

#include <algorithm>
#include <optional>
#include <string>
#include <vector>

namespace yokai {

// A picture that is itself a drawing, for formats that can hold it as one.
struct DrawnVectors {
    Picture picture;
    Affine sourceToMm;               // from its pixels to the frame, of which nothing else is seen
    double width = 0, height = 0;    // of the frame, mm
    std::shared_ptr<const Gray8> kept; // how much of it is, a pixel of the image each; null: all that is drawn
};

struct DrawnImage {
    PrintImage image;
    // The same pixels in the picture's own colours, where those are others than sRGB; the opacity is the image's.
    std::optional<OwnColours> own = std::nullopt;
    // The same pixels as the file itself has them compressed, where nothing was done to the picture.
    std::optional<Picture> asItCame = std::nullopt;
    std::optional<DrawnVectors> vectors = std::nullopt;
    std::vector<Affine> places = {}; // from mm, its top-left corner at (0, 0), to the drawing's
};

struct DrawnPlate { // of white
    std::shared_ptr<const Plate> plate;
    std::vector<Affine> places; // as an image's
};

// What is cut from one stock, where a job has colour layers: those of a name, whosever they are. From the bottom up.
struct DrawnLayer {
    std::string name;
    std::vector<LineId> lines;
    bool holds(LineId line) const { return std::find(lines.begin(), lines.end(), line) != lines.end(); }
};

struct Drawing {
    std::string title;
    bool alone = false; // one piece; what it will lie on is not known
    double width = 0, height = 0;
    std::vector<DrawnPlate> white; // beneath the images
    std::vector<DrawnImage> images;
    CutItems cuts;
    std::vector<EngraveItem> engravings;
    std::vector<DrawnLayer> layers;            // that some of the cuts belong to
    std::vector<Mark> marks;                   // as they are printed
    std::optional<std::vector<Mark>> cutMarks; // as the cut has them, where one of the two is mirrored and the other not
    SpotNames spots;
    double hairline = 0.0254; // of cut lines, mm
    double ppi = 300;         // of formats that hold nothing but pixels
    DxfCurves dxf = DxfCurves::Arcs;
    Affine stretch; // what the printer does
    StretchIn stretchIn = StretchIn::Print;
    PlanSpec plan; // of programs for a machine
};

enum class Content { Print, Cut, Both }; // images and marks; cut lines and marks; everything

// One sheet. Images are left out where only cut lines are wanted: they cost memory. Where print and cut are mirrored apart,
// each content has its own.
Drawing drawSheet(const Job& job, const Derived& derived, int sheet, Content content = Content::Both, const Work& work = {});
// What a machine is to cut of one: of the layer the job says. Throws Error(Usage) where that is not there any more.
Drawing drawSheetToCut(const Job& job, const Derived& derived, int sheet, const Work& work = {});
// All of them; a piece that lies on several has the same images in each, made once.
std::vector<Drawing> drawSheets(const Job& job, const Derived& derived, Content content = Content::Both, const Work& work = {});
// One piece alone; (0, 0) is the picture's top-left corner. The drawing is as large as the picture.
Drawing drawPiece(const Job& job, const Piece& piece, const PieceResult& result, Content content = Content::Both, const Work& work = {});

// What is engraved, each once with all its places, as they are met first.
struct DrawnEngraving {
    std::shared_ptr<const Engraving> of;
    std::vector<Affine> places; // from the picture's mm
    bool isFill() const { return of->spec.as == EngraveAs::Fill; }
    double width() const { return of->tone->width() / of->pxPerMm; } // mm; of what is not a fill
    double height() const { return of->tone->height() / of->pxPerMm; }
};
std::vector<DrawnEngraving> engravingsOnce(const Drawing& drawing);

// The cuts of one layer alone, with all marks.
Drawing ofLayer(const Drawing& drawing, const DrawnLayer& layer);
// "01-dark-blue": what groups and files call the layer that is the how manyth from the bottom, counted from 0.
std::string labelOf(const std::vector<DrawnLayer>& layers, std::size_t layer);
// The colour layers of a job that have anything to cut.
std::vector<DrawnLayer> layersOf(const Job& job, const Derived& derived);

// As it is put into a file with this content: what is to be printed on a printer that stretches undoes it, or what is to be cut
// follows it. Marks keep their size: where they are is what counts.
Drawing forContent(const Drawing& drawing, Content content);

// Where the cut has the marks of every sheet: as printed, unless print and cut are mirrored apart.
std::vector<Mark> cutMarksOf(const Job& job, const Derived& derived);
// The kinds of its cuts, in the order the first of each is cut.
std::vector<LineKind> kindsOf(const CutItems& cuts);
// The marks of a file with this content.
const std::vector<Mark>& marksFor(const Drawing& drawing, Content content);

} // namespace yokai
