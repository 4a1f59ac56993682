// Changes to the current piece that several places of the window ask for.
#pragma once

#include "desk/desk.h"
#include "formats/cut_file.h"
#include "job/take_apart.h"

#include <QPointF>

namespace yokai::edits {

// A place as shown, mm, in the source's pixels: to a thousandth, which keeps saved jobs short.
Point toSource(const PieceResult& r, QPointF mm);
// In those of the working copy; none beside the picture. Its colour is the middle of those round it: one pixel of a scan or a JPEG says little.
std::optional<std::pair<int, int>> pixelAt(const PieceResult& r, QPointF mm);
std::optional<Rgba> colourAt(const PieceResult& r, QPointF mm);

// Artwork. `mm` is in the frame as it is shown.
void cropToKept(Desk& desk, Length margin);
int things(const Desk& desk);                                      // kept parts that could each be a piece; 0 in colour layers
void takeApart(Desk& desk, Straighten straighten, Length margin); // each kept part becomes a piece, in the place of this one
std::optional<double> measuredLength(const Desk& desk); // mm, of what was measured
void measuredIs(Desk& desk, Length length);             // the picture is as large as that makes it
void straightenAlong(Desk& desk, QPointF from, QPointF to); // mm: what should be level or upright

// Keep. Places in mm as shown.
void toggleParts(Desk& desk, const std::vector<int>& parts); // keeps what was dropped and drops what was kept
void brush(Desk& desk, const std::vector<QPointF>& way);     // with what is in hand
void rubOutLike(Desk& desk, QPointF at);
void pick(Desk& desk, QPointF at);
void pickBleed(Desk& desk, QPointF at); // of the border where there is one, else of a bleed in one colour
void addInside(Desk& desk, const std::vector<QPointF>& outline);
// The subject's box, which makes it the rule; and a stroke that says whether it is there, by what is in hand.
void lookInside(Desk& desk, const std::vector<QPointF>& outline);
void markSubject(Desk& desk, const std::vector<QPointF>& way);

// Cut lines.
void addLine(Desk& desk, bool copy);
void removeLine(Desk& desk);
void drawAsItIs(LineSpec& line, const Desk& desk); // the current one stays as it is shown, whatever becomes of what it followed
void takeLine(Desk& desk);    // along to other pieces
void putLine(Desk& desk);     // the one taken, as it was there, at the same place from the picture's middle
// `units` is asked where the file says no size.
using AskUnits = std::function<double(const CutFile& file)>;
void takeUnit(Desk& desk, double anInch); // of the line that is chosen, and of all others of its drawing
void openDrawing(Desk& desk, const QString& path, AskUnits units); // its lines as drawn; one as large as the picture lies on it, another in its middle

void removeTouch(Desk& desk); // the selected one

} // namespace yokai::edits
