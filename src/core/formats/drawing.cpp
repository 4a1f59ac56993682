#include "formats/drawing.h"

namespace yokai {

namespace {

void addLines(Drawing& drawing, const PieceResult& result, const Affine& map)
{
    for (const CutLine& line : result.lines)
        for (const Path& path : *line.paths) {
            if (line.gapLength > 0)
                for (const Path& dash : dashed(path, line.cutLength, line.gapLength))
                    drawing.lines.push_back({line.kind, transformed(dash, map)});
            else
                drawing.lines.push_back({line.kind, transformed(path, map)});
        }
}

DrawnPicture pictureOf(const PieceResult& result) { return {result.pixels, result.printed, result.width, result.height, {}}; }

} // namespace

Drawing drawSheet(const Job& job, const Derived& derived)
{
    Drawing drawing;
    drawing.title = job.name;
    drawing.width = derived.sheet.width;
    drawing.height = derived.sheet.height;
    drawing.marks = derived.sheet.marks;
    std::vector<int> index(derived.pieces.size(), -1);
    for (const Placement& place : derived.sheet.placements) {
        const auto p = std::size_t(place.piece);
        const PieceResult& result = derived.pieces[p];
        if (index[p] < 0) {
            index[p] = int(drawing.pictures.size());
            drawing.pictures.push_back(pictureOf(result));
        }
        drawing.pictures[std::size_t(index[p])].places.push_back(place.toSheet);
        addLines(drawing, result, place.toSheet);
    }
    return drawing;
}

Drawing drawPiece(const Piece& piece, const PieceResult& result)
{
    Drawing drawing;
    drawing.title = piece.name;
    drawing.width = result.width;
    drawing.height = result.height;
    if (result.printed && !result.problem) {
        drawing.pictures.push_back(pictureOf(result));
        drawing.pictures.back().places.push_back({});
    }
    addLines(drawing, result, {});
    return drawing;
}

const char* layerName(LineKind kind)
{
    switch (kind) {
    case LineKind::Through:
        return "CUT_THROUGH";
    case LineKind::Kiss:
        return "CUT_KISS";
    case LineKind::Perforate:
        return "CUT_PERFORATE";
    case LineKind::Crease:
        return "CREASE";
    }
    return "CUT_THROUGH";
}

const char* groupName(LineKind kind)
{
    switch (kind) {
    case LineKind::Through:
        return "cut-through";
    case LineKind::Kiss:
        return "cut-kiss";
    case LineKind::Perforate:
        return "cut-perforate";
    case LineKind::Crease:
        return "crease";
    }
    return "cut-through";
}

} // namespace yokai
