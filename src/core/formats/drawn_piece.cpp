#include "formats/drawn_piece.h"

#include "base/length.h"
#include "touchup/outlines.h"

namespace yokai {

std::vector<LineSpec> drawnLines(const CutItems& items, const Affine& mmToSource)
{
    std::vector<LineSpec> out;
    for (const LineKind kind : lineKinds) {
        LineSpec line;
        line.kind = kind;
        line.offset = {};
        line.shape = LineShape::Drawn;
        for (const CutItem& item : items) {
            if (item.kind != kind || item.path.segments.empty())
                continue;
            // What falls out runs round the other way.
            const bool turned = item.path.closed && (signedArea(item.path) < 0) != item.opening;
            line.drawn.push_back({item.path.closed, pointsOf(transformed(turned ? reversed(item.path) : item.path, mmToSource))});
        }
        if (!line.drawn.empty())
            out.push_back(std::move(line));
    }
    return out;
}

Piece pieceOfLines(const CutFile& file, const std::string& fileName)
{
    const std::string w = plainNumber(file.drawing.width, 6), h = plainNumber(file.drawing.height, 6);
    const std::string clear = "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"" + w + "mm\" height=\"" + h + "mm\" viewBox=\"0 0 " + w + " " + h + "\"/>";
    Piece piece;
    piece.name = file.drawing.title;
    piece.artwork.picture = pictureFromBytes(Bytes(clear.begin(), clear.end()), fileName);
    piece.keep().rule = KeepRule::All;
    piece.lines() = drawnLines(file.drawing.cuts, piece.artwork.sourceToMm().inverse());
    return piece;
}

} // namespace yokai
