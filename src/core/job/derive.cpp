#include "job/derive.h"

#include "base/digest.h"
#include "outline/build.h"

#include <chrono>

namespace yokai {

namespace {

enum class Step : int { Decode = 1, Coverage, Edge, Parts, Printed, Field, Line };

class Stopwatch {
public:
    Stopwatch(std::map<std::string, double>& into, const char* step) : into_(into), step_(step), begin_(std::chrono::steady_clock::now()) {}
    ~Stopwatch() { into_[step_] += std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begin_).count(); }
    Stopwatch(const Stopwatch&) = delete;
    Stopwatch& operator=(const Stopwatch&) = delete;

private:
    std::map<std::string, double>& into_;
    const char* step_;
    std::chrono::steady_clock::time_point begin_;
};

std::size_t bytesOf(const Contours& contours)
{
    std::size_t n = 0;
    for (const Contour& c : contours)
        n += sizeof(Contour) + c.points.capacity() * sizeof(Point) + c.corners.capacity();
    return n;
}

class PieceChain {
public:
    PieceChain(const Piece& piece, StepCache& cache, const Work& work, std::map<std::string, double>& times, Want want)
        : piece_(piece), cache_(cache), work_(work), times_(times), want_(want)
    {}

    template <class F> auto timed(const char* step, F f)
    {
        work_.check();
        const Stopwatch watch(times_, step);
        return f();
    }

    // Fills `out` as far as it gets: a piece without a line still shows its picture.
    void run(PieceResult& out)
    {
        out.pxPerMm = piece_.artwork.pxPerMm();
        out.width = piece_.artwork.width();
        out.height = piece_.artwork.height();
        const KeepSpec& keep = piece_.keep;

        const auto decodeKey = Digest().add(Step::Decode).add(piece_.artwork.picture.digest).value();
        out.pixels = cache_.get<Rgba8>(
            decodeKey, [&] { return timed("decode", [&] { return decodePicture(piece_.artwork.picture, work_); }); },
            [](const Rgba8& p) { return p.size() * sizeof(Rgba); });

        Digest coverageDigest;
        coverageDigest.add(Step::Coverage).add(decodeKey).add(keep.rule).add(keep.level.value_or(-1));
        coverageDigest.add(keep.paper.has_value());
        for (const Rgba c : {keep.paper.value_or(Rgba{}), keep.colour})
            coverageDigest.add(c.r).add(c.g).add(c.b);
        const auto coverageKey = coverageDigest.value();
        out.coverage = cache_.get<Coverage>(
            coverageKey, [&] { return timed("keep", [&] { return std::make_shared<const Coverage>(coverageOf(*out.pixels, keep, work_)); }); },
            [](const Coverage& c) { return c.pixels->size(); });

        const auto edgeKey = Digest().add(Step::Edge).add(coverageKey).value();
        const auto edge = cache_.get<Contours>(
            edgeKey,
            [&] {
                return timed("outline", [&] {
                    auto traced = std::make_shared<Contours>(traceEdge(*out.coverage->pixels, work_));
                    sharpenCorners(*traced, work_);
                    return std::shared_ptr<const Contours>(traced);
                });
            },
            [](const Contours& c) { return bytesOf(c); });

        Digest partsDigest;
        partsDigest.add(Step::Parts).add(edgeKey).add(out.pxPerMm).add(keep.smallestPart).add(keep.openings).add(keep.openingsOver);
        for (const PartChoice& c : keep.byHand)
            partsDigest.add(c.at.x).add(c.at.y).add(c.keep);
        const auto partsKey = partsDigest.value();
        out.parts = cache_.get<Parts>(
            partsKey,
            [&] {
                return timed("keep", [&] {
                    return std::make_shared<const Parts>(partsOf(*edge, keep, {double(out.pixels->width()), double(out.pixels->height())}, out.pxPerMm, work_));
                });
            },
            [](const Parts& p) { return bytesOf(p.contours) + bytesOf(p.dropped); });
        if (want_ == Want::All)
            out.printed = cache_.get<Gray8>(
                Digest().add(Step::Printed).add(partsKey).value(),
                [&] { return timed("keep", [&] { return printedOf(*out.pixels, *out.coverage, *out.parts, work_); }); },
                [](const Gray8& g) { return g.size(); });
        if (out.parts->contours.empty())
            throw Error(ErrorKind::Input, nothingKept(out));

        const CutLinesSpec& lines = piece_.cutLines;
        const auto fieldKey = Digest().add(Step::Field).add(partsKey).add(lines.joinGap.ticks()).value();
        const auto field = cache_.get<DistanceField>(
            fieldKey,
            [&] {
                return timed("outline", [&] {
                    auto plain = std::make_shared<const DistanceField>(out.parts->contours);
                    return lines.joinGap > Length() ? std::make_shared<const DistanceField>(joined(*plain, lines.joinGap.mm() * out.pxPerMm, work_)) : plain;
                });
            },
            [](const DistanceField& f) { return 4 * bytesOf(f.contours()); });

        for (const LineSpec& spec : piece_.cutLines.lines)
            out.lines.push_back(lineOf(spec, fieldKey, *field, out.pxPerMm));

        for (const Contour& c : out.parts->contours) {
            const Rect b = bounds(c.points);
            out.box.add(Rect{b.x0 / out.pxPerMm, b.y0 / out.pxPerMm, b.x1 / out.pxPerMm, b.y1 / out.pxPerMm});
        }
        out.driftAllowance = std::numeric_limits<double>::infinity();
        for (const CutLine& line : out.lines) {
            out.box.add(bounds(*line.paths));
            if (line.kind == LineKind::Through)
                out.driftAllowance = std::min(out.driftAllowance, std::abs(line.offset.mm()));
        }
        if (!std::isfinite(out.driftAllowance))
            out.driftAllowance = 0;
    }

private:
    std::string nothingKept(const PieceResult& out) const
    {
        std::string line = "nothing is kept of '" + piece_.artwork.picture.fileName + "' by the rule " + name(out.coverage->rule) + " at level " +
                           plainNumber(out.coverage->level, 1);
        if (out.parts->droppedParts > 0)
            return line + ": all " + std::to_string(out.parts->droppedParts) + " parts are under " + plainNumber(piece_.keep.smallestPart, 2) +
                   " mm2; lower the smallest part";
        return line + "; choose another rule or level";
    }

    CutLine lineOf(const LineSpec& spec, std::uint64_t fieldKey, const DistanceField& field, double pxPerMm)
    {
        if (std::abs(spec.offset.mm()) > 500)
            throw Error(ErrorKind::Usage, "an offset of " + formatLength(spec.offset, Unit::Mm) + " is out of range; use at most 500 mm");
        const CutLinesSpec& cut = piece_.cutLines;
        BuildSpec build;
        build.offset = spec.offset.mm() * pxPerMm;
        build.corners = cut.corners;
        build.roundInside = std::clamp(cut.roundInside.mm(), 0.0, 100.0) * pxPerMm;
        build.smallestNotch = cut.smallestNotch * pxPerMm * pxPerMm;
        // Of the stated tolerance half is left to the edge itself, which is known to about a tenth of a pixel.
        const double tolerance = 0.5 * std::clamp(cut.tolerance.mm(), 0.001, 5.0) * pxPerMm;
        const auto key =
            Digest().add(Step::Line).add(fieldKey).add(build.offset).add(build.corners).add(build.roundInside).add(build.smallestNotch).add(tolerance).value();
        CutLine line;
        line.kind = spec.kind;
        line.offset = spec.offset;
        line.paths = cache_.get<Paths>(
            key,
            [&] {
                const LevelLines lines = timed("offset", [&] { return buildLines(field, build, work_); });
                return timed("fit", [&] {
                    return std::make_shared<const Paths>(transformed(fitLines(lines, tolerance, work_), Affine::scale(1 / pxPerMm, 1 / pxPerMm)));
                });
            },
            [](const Paths& p) { return nodesOf(p) * sizeof(Segment); });
        line.length = lengthOf(*line.paths);
        line.area = areaOf(*line.paths);
        line.nodes = nodesOf(*line.paths);
        return line;
    }

    const Piece& piece_;
    StepCache& cache_;
    const Work& work_;
    std::map<std::string, double>& times_;
    Want want_;
};

void findInPiece(const Piece& piece, int index, const PieceResult& result, std::vector<Finding>& findings)
{
    if (result.problem) {
        findings.push_back({"no-cut-line", Severity::Error, index, {}, result.problem->what()});
        return;
    }
    const double ppi = result.pxPerMm * 25.4;
    if (ppi < 149.5)
        findings.push_back({"low-resolution",
                            Severity::Warning,
                            index,
                            {result.width / 2, result.height / 2},
                            "'" + piece.name + "' has " + plainNumber(ppi, 0) + " ppi at this size; under 150 it prints soft"});
    for (const CutLine& line : result.lines)
        if (line.paths->empty())
            findings.push_back({"line-vanished",
                                Severity::Error,
                                index,
                                {result.width / 2, result.height / 2},
                                std::string("the ") + name(line.kind) + " line at " + formatLength(line.offset, Unit::Mm) + " leaves nothing of '" +
                                    piece.name + "'; use a smaller inward offset"});
}

} // namespace

Derived derive(const Job& job, StepCache& cache, const Work& work, Want want)
{
    Derived out;
    std::vector<ToPlace> toPlace;
    for (std::size_t i = 0; i < job.pieces.size(); ++i) {
        const Piece& piece = job.pieces[i];
        work.report(double(i) / double(job.pieces.size() + 1), piece.name);
        PieceResult result;
        try {
            PieceChain(piece, cache, work, out.milliseconds, want).run(result);
        } catch (const Error& e) {
            result.problem = e;
            result.lines.clear();
            if (result.width <= 0) { // the asked size itself makes no sense
                result.pxPerMm = assumedPpi / 25.4;
                result.width = piece.artwork.picture.info.width / result.pxPerMm;
                result.height = piece.artwork.picture.info.height / result.pxPerMm;
            }
        }
        findInPiece(piece, int(i), result, out.findings);
        toPlace.push_back({result.problem ? Rect::nothing() : result.box, piece.copies});
        out.pieces.push_back(std::move(result));
    }
    work.report(double(job.pieces.size()) / double(job.pieces.size() + 1), "sheet");
    try {
        out.sheet = layOut(job.sheet, toPlace);
        for (std::size_t i = 0; i < toPlace.size(); ++i)
            if (!out.pieces[i].problem && (out.sheet.placed[i] < out.sheet.asked[i] || out.sheet.placed[i] == 0)) {
                const std::string asked = out.sheet.asked[i] < 0 ? "one" : std::to_string(out.sheet.asked[i]);
                if (out.sheet.asked[i] != 0)
                    out.findings.push_back({"does-not-fit",
                                            Severity::Warning,
                                            int(i),
                                            {},
                                            std::to_string(out.sheet.placed[i]) + " of " + asked + " copies of '" + job.pieces[i].name +
                                                "' fit on the sheet; use fewer, a smaller gap or a larger sheet"});
            }
    } catch (const Error& e) {
        out.sheet.width = job.sheet.width();
        out.sheet.height = job.sheet.height();
        out.sheet.asked.assign(job.pieces.size(), 0);
        out.sheet.placed.assign(job.pieces.size(), 0);
        out.findings.push_back({"sheet", Severity::Error, -1, {}, e.what()});
    }
    return out;
}

} // namespace yokai
