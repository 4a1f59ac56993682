// From the cut lines of the pieces to where their copies lie.
#pragma once

#include "job/derived.h"
#include "job/steps/lines.h"

namespace yokai {

// What of a piece nothing else may lie on.
struct ShapeIn {
    static constexpr const char* step = "shape";
    static constexpr const char* time = "layout";
    using Out = PieceShape;
    struct Line {
        std::shared_ptr<const Paths> paths;
        LineKind kind = LineKind::Through;
    };
    struct Print { // of a layer
        std::shared_ptr<const Parts> parts;
        double reach = 0; // beyond what is kept, mm
    };
    std::vector<Line> lines;
    std::vector<Print> prints;
    double pxPerMm = 1;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        for (const Line& line : self.lines) {
            visit("kind", line.kind);
            visitPaths(*line.paths, visit);
        }
        for (const Print& print : self.prints) {
            visit("reach", print.reach);
            for (const Contour& c : print.parts->contours)
                visit("points", c.points);
        }
        visit("scale", self.pxPerMm);
    }
    std::shared_ptr<const PieceShape> make(Run& run) const;
};

struct LayoutIn {
    static constexpr const char* step = "layout";
    static constexpr const char* time = "layout";
    using Out = Layout;
    const SheetSpec& sheet;
    const std::vector<ToPlace>& pieces;
    const std::vector<Key>& shapes; // the pieces' own keys
    const std::vector<Placing>& byHand;
    const LayoutWatch& watch; // has no part in what comes out
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("sheet", self.sheet);
        for (const ToPlace& piece : self.pieces) {
            visit("id", piece.piece.n);
            visit("box", piece.box);
            visit("copies", piece.copies);
            visit("share", piece.share);
            visit("lies", piece.lies);
        }
        visit("shapes", self.shapes);
        for (const Placing& placing : self.byHand) {
            visit("id", placing.id.n);
            visit("of", placing.piece.n);
            visit("placing", placing);
        }
    }
    std::shared_ptr<const Layout> make(Run& run) const;
};

} // namespace yokai
