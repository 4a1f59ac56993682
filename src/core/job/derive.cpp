#include "job/derive.h"

#include "check/checks.h"
#include "job/derive_piece.h"

namespace yokai {

namespace {

PieceResult resultOf(const Piece& piece, Run& run, Want want)
{
    PieceResult result;
    result.id = piece.id;
    try {
        try {
            derivePiece(piece, run, want, result);
        } catch (...) {
            rethrowAsError(ErrorKind::Input, "working on '" + piece.name + "'");
        }
    } catch (const Error& e) {
        result.problem = e;
        for (LayerResult& layer : result.layers)
            layer.lines.clear();
        if (result.width <= 0) { // the asked size itself makes no sense
            result.pxPerMm = assumedPpi / 25.4;
            result.width = piece.artwork.picture.info.width / result.pxPerMm;
            result.height = piece.artwork.picture.info.height / result.pxPerMm;
        }
    }
    return result;
}

} // namespace

const LayerResult& PieceResult::layer() const
{
    static const LayerResult none;
    return layers.empty() ? none : layers.front();
}

const PieceResult* Derived::find(PieceId id) const
{
    for (const PieceResult& piece : pieces)
        if (piece.id == id)
            return &piece;
    return nullptr;
}

Derived derive(const Job& job, StepCache& cache, const Work& work, Want want)
{
    Derived out;
    Run run(cache, out.milliseconds, work);
    std::vector<ToPlace> toPlace;
    const double steps = double(job.pieces.size() + 1);
    for (const Piece& piece : job.pieces) {
        work.report(double(out.pieces.size()) / steps, piece.name);
        out.pieces.push_back(resultOf(piece, run, want));
        const PieceResult& result = out.pieces.back();
        toPlace.push_back({piece.id, result.problem ? Rect::nothing() : result.box, piece.copies});
    }
    work.report(double(job.pieces.size()) / steps, "sheet");
    out.sheet = layOut(job.sheet, toPlace, job.placings, work);
    work.report(1, "checks");
    out.findings = findingsOf({job, out, run});
    return out;
}

} // namespace yokai
