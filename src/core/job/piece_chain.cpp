#include "job/piece_chain.h"

#include "base/cover.h"
#include "base/digest.h"
#include "outline/build.h"
#include "outline/figures.h"

#include <chrono>

namespace yokai {

namespace {

enum class Step : int { Decode = 1, Frame, Ruled, Inside, Touch, Edge, Parts, Printed, Field, Line, Clip };

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

// What the picture has itself, inside the paths.
SharedGray clipped(const Rgba8& px, const Paths& paths, double pxPerMm, const Work& work)
{
    std::vector<Polyline> polygons;
    for (const Path& path : transformed(paths, Affine::scale(pxPerMm, pxPerMm)))
        polygons.push_back(flatten(path, 0.05));
    auto out = std::make_shared<Gray8>(px.width(), px.height(), std::uint8_t(0));
    coverPolygons(
        polygons, px.width(), px.height(),
        [&](int y, int x0, std::span<const std::uint8_t> cover) {
            const Rgba* from = px.row(y) + x0;
            std::uint8_t* to = out->row(y) + x0;
            for (std::size_t x = 0; x < cover.size(); ++x)
                to[x] = std::uint8_t((int(cover[x]) * from[x].a + 127) / 255);
        },
        work);
    return out;
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
        const ArtworkSpec& artwork = piece_.artwork;
        out.pxPerMm = artwork.pxPerMm();
        out.width = artwork.width();
        out.height = artwork.height();
        out.sourceToMm = artwork.sourceToMm();
        const KeepSpec& keep = piece_.keep;

        const auto decodeKey = Digest().add(Step::Decode).add(artwork.picture.digest).value();
        const auto bytesOfPicture = [](const Rgba8& p) { return p.size() * sizeof(Rgba); };
        const auto decoded = [&] {
            return cache_.get<Rgba8>(
                decodeKey, [&] { return timed("decode", [&] { return decodePicture(artwork.picture, work_); }); }, bytesOfPicture);
        };
        const auto frameKey = frameDigest(decodeKey);
        const auto framed = cache_.get<Framed>(
            frameKey,
            [&] {
                const SharedRgba source = decoded();
                return timed("frame", [&] { return std::make_shared<const Framed>(framePicture(source, artwork, work_)); });
            },
            [](const Framed& f) { return f.pixels->size() * sizeof(Rgba) + (f.within ? f.within->size() : 0); });
        out.pixels = framed->pixels;
        const KeepGround ground{framed->within.get(), framed->fromSource, out.pxPerMm, artwork.picture.info.lossy};
        const auto coverageKey = coverage(out, keep, ground, frameKey);

        const auto edgeKey = Digest().add(Step::Edge).add(coverageKey).value();
        const auto edge = cache_.get<Contours>(
            edgeKey,
            [&] {
                return timed("outline", [&] {
                    auto traced = std::make_shared<Contours>(traceEdge(*out.coverage->pixels, work_));
                    sharpenCorners(*traced, std::min(3.0, out.coverage->smoothing), work_);
                    return std::shared_ptr<const Contours>(traced);
                });
            },
            [](const Contours& c) { return bytesOf(c); });

        Digest partsDigest;
        partsDigest.add(Step::Parts).add(edgeKey).add(out.pxPerMm).add(keep.smallestPart).add(keep.openings).add(keep.openingsOver);
        for (const PartChoice& c : keep.byHand) // in source pixels, which the frame's key covers
            partsDigest.add(c.at.x).add(c.at.y).add(c.keep);
        const auto partsKey = partsDigest.value();
        out.parts = cache_.get<Parts>(
            partsKey, [&] { return timed("keep", [&] { return std::make_shared<const Parts>(partsOf(*edge, keep, ground.fromSource, out.pxPerMm, work_)); }); },
            [](const Parts& p) { return bytesOf(p.contours) + bytesOf(p.dropped); });
        if (want_ == Want::All)
            out.printed = cache_.get<Gray8>(
                Digest().add(Step::Printed).add(partsKey).value(),
                [&] { return timed("keep", [&] { return printedOf(*out.pixels, *out.coverage, *out.parts, work_); }); },
                [](const Gray8& g) { return g.size(); });
        if (out.parts->contours.empty())
            throw Error(ErrorKind::Input, nothingKept(out));

        for (const Contour& c : out.parts->contours)
            if (!c.opening()) {
                const Rect b = bounds(c.points);
                out.kept.add(Rect{b.x0 / out.pxPerMm, b.y0 / out.pxPerMm, b.x1 / out.pxPerMm, b.y1 / out.pxPerMm});
            }
        out.box = out.kept;
        for (const LineSpec& spec : piece_.cutLines.lines)
            out.lines.push_back(lineOf(spec, partsKey, out));
        finishBoxesRoundAll(out);

        out.driftAllowance = std::numeric_limits<double>::infinity();
        for (const CutLine& line : out.lines) {
            out.box.add(bounds(*line.paths));
            if (line.kind == LineKind::Through && line.shape == LineShape::Outline)
                out.driftAllowance = std::min(out.driftAllowance, std::abs(line.offset.mm()));
        }
        if (!std::isfinite(out.driftAllowance))
            out.driftAllowance = 0;
        if (want_ == Want::All)
            clipPrint(out, frameKey);
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

    std::uint64_t frameDigest(std::uint64_t decodeKey) const
    {
        const ArtworkSpec& a = piece_.artwork;
        const Rect f = a.frame();
        const Point k = a.scale();
        return Digest()
            .add(Step::Frame)
            .add(decodeKey)
            .add(a.quarters)
            .add(a.mirror)
            .add(a.straighten)
            .add(f.x0)
            .add(f.y0)
            .add(f.x1)
            .add(f.y1)
            .add(std::round(k.x / k.y * 1e9))
            .value();
    }

    static void addSwatches(Digest& digest, const std::vector<Swatch>& swatches)
    {
        digest.add(swatches.size());
        for (const Swatch& s : swatches) {
            digest.add(s.colour.r).add(s.colour.g).add(s.colour.b).add(s.at.has_value());
            if (s.at)
                digest.add(s.at->x).add(s.at->y);
        }
    }

    // From the rule to the last touch, each remembered; returns the key of the result.
    std::uint64_t coverage(PieceResult& out, const KeepSpec& keep, const KeepGround& ground, std::uint64_t frameKey)
    {
        const auto bytes = [](const Coverage& c) { return c.pixels->size(); };
        Digest ruled;
        ruled.add(Step::Ruled).add(frameKey).add(keep.rule).add(keep.level.value_or(-1)).add(keep.paperAnywhere).add(keep.oneArea);
        addSwatches(ruled, keep.papers);
        addSwatches(ruled, keep.colours);
        ruled.add(keep.smoothing ? keep.smoothing->mm() * out.pxPerMm : -1);
        std::uint64_t key = ruled.value();
        out.coverage = cache_.get<Coverage>(
            key, [&] { return timed("keep", [&] { return std::make_shared<const Coverage>(ruledCoverage(*out.pixels, keep, ground, work_)); }); }, bytes);
        if (!keep.onlyInside.empty()) {
            Digest inside;
            inside.add(Step::Inside).add(key);
            for (const auto& outline : keep.onlyInside) {
                inside.add(outline.size());
                for (const Point p : outline)
                    inside.add(p.x).add(p.y);
            }
            key = inside.value();
            out.coverage = cache_.get<Coverage>(
                key, [&] { return timed("keep", [&] { return std::make_shared<const Coverage>(insideOnly(*out.coverage, keep.onlyInside, ground, work_)); }); },
                bytes);
        }
        if (keep.touches.empty())
            return key;
        // A new touch goes on from the ones before; only the end of the row is remembered.
        std::vector<std::uint64_t> keys{key};
        for (const Touch& t : keep.touches) {
            Digest digest;
            digest.add(Step::Touch).add(keys.back()).add(t.kind).add(t.square).add(t.radius).add(t.tolerance).add(t.points.size());
            for (const Point p : t.points)
                digest.add(p.x).add(p.y);
            keys.push_back(digest.value());
        }
        std::size_t done = keep.touches.size();
        std::shared_ptr<const Coverage> known;
        while (done > 0 && !(known = cache_.find<Coverage>(keys[done])))
            --done;
        if (known)
            out.coverage = known;
        if (done == keep.touches.size())
            return keys.back();
        out.coverage = cache_.get<Coverage>(
            keys.back(),
            [&] {
                return timed("keep", [&] {
                    Coverage c = *out.coverage;
                    for (std::size_t i = done; i < keep.touches.size(); ++i)
                        c = touched(c, keep.touches[i], *out.pixels, ground, work_);
                    return std::make_shared<const Coverage>(std::move(c));
                });
            },
            bytes);
        return keys.back();
    }

    // The edge a line keeps its distance from.
    std::shared_ptr<const DistanceField> fieldOf(const LineSpec& spec, std::uint64_t partsKey, const PieceResult& out, std::uint64_t& key)
    {
        const double mm2 = out.pxPerMm * out.pxPerMm;
        const double filled = spec.openings == Openings::Fill   ? std::numeric_limits<double>::infinity()
                              : spec.openings == Openings::Over ? spec.openingsOver * mm2
                                                                : -1;
        const Length gap = std::clamp(spec.joinGap, Length(), Length::mm(200));
        key = Digest().add(Step::Field).add(partsKey).add(filled).add(gap.ticks()).add(gap > Length() ? out.pxPerMm : 0.0).value();
        return cache_.get<DistanceField>(
            key,
            [&] {
                return timed("outline", [&] {
                    auto plain = std::make_shared<const DistanceField>(filled < 0 ? out.parts->contours : withoutOpenings(out.parts->contours, filled));
                    return gap > Length() ? std::make_shared<const DistanceField>(joined(*plain, gap.mm() * out.pxPerMm, work_)) : plain;
                });
            },
            [](const DistanceField& f) { return 4 * bytesOf(f.contours()); });
    }

    CutLine lineOf(const LineSpec& spec, std::uint64_t partsKey, const PieceResult& out)
    {
        CutLine line;
        line.kind = spec.kind;
        line.shape = spec.shape;
        line.offset = spec.percent ? Length::mm(*spec.percent / 100 * std::max(out.kept.width(), out.kept.height())) : spec.offset;
        if (std::abs(line.offset.mm()) > 500)
            throw Error(ErrorKind::Usage, "an offset of " + formatLength(line.offset, Unit::Mm) + " is out of range; use at most 500 mm");
        if (spec.kind == LineKind::Perforate && spec.gapLength > Length()) {
            line.cutLength = std::max(0.05, spec.cutLength.mm());
            line.gapLength = std::max(0.05, spec.gapLength.mm());
        }
        if (spec.shape == LineShape::Outline)
            line.paths = outlineOf(spec, line.offset, partsKey, out);
        else
            line.paths = std::make_shared<const Paths>(figureOf(spec, line.offset.mm(), out));
        if (spec.shape == LineShape::Outline && line.offset < Length())
            countLosses(line, out);
        measure(line);
        return line;
    }

    static void measure(CutLine& line)
    {
        line.length = lengthOf(*line.paths);
        line.area = areaOf(*line.paths);
        line.nodes = nodesOf(*line.paths);
    }

    std::shared_ptr<const Paths> outlineOf(const LineSpec& spec, Length offset, std::uint64_t partsKey, const PieceResult& out)
    {
        const double pxPerMm = out.pxPerMm;
        std::uint64_t fieldKey = 0;
        const auto field = fieldOf(spec, partsKey, out, fieldKey);
        BuildSpec build;
        build.offset = offset.mm() * pxPerMm;
        build.corners = spec.corners;
        build.sharpLimit = std::clamp(spec.sharpLimit, 1.0, 100.0);
        build.roundInside = std::clamp(spec.roundInside.mm(), 0.0, 100.0) * pxPerMm;
        build.smallestNotch = spec.smallestNotch * pxPerMm * pxPerMm;
        // Of the stated tolerance half is left to the edge itself. Following an edge more closely than it is known only makes nodes.
        const double tolerance = std::max(0.5 * std::clamp(spec.tolerance.mm(), 0.001, 5.0) * pxPerMm, out.coverage->uncertain);
        const auto key = Digest()
                             .add(Step::Line)
                             .add(fieldKey)
                             .add(build.offset)
                             .add(build.corners)
                             .add(build.sharpLimit)
                             .add(build.roundInside)
                             .add(build.smallestNotch)
                             .add(tolerance)
                             .add(pxPerMm)
                             .value();
        return cache_.get<Paths>(
            key,
            [&] {
                const LevelLines lines = timed("offset", [&] { return buildLines(*field, build, work_); });
                return timed("fit", [&] {
                    return std::make_shared<const Paths>(transformed(fitLines(lines, tolerance, work_), Affine::scale(1 / pxPerMm, 1 / pxPerMm)));
                });
            },
            [](const Paths& p) { return nodesOf(p) * sizeof(Segment); });
    }

    // A plain figure round what is kept, mm. Nothing where an inward distance leaves nothing.
    static Paths figureOf(const LineSpec& spec, double offset, const PieceResult& out)
    {
        std::vector<Point> points;
        if (spec.shape == LineShape::Circle || spec.shape == LineShape::Ellipse)
            for (const Contour& c : out.parts->contours)
                if (!c.opening())
                    for (const Point p : hullOf(c.points))
                        points.push_back(p * (1 / out.pxPerMm));
        const Rect box = out.kept.grown(offset);
        Path path;
        switch (spec.shape) {
        case LineShape::Outline:
        case LineShape::BoxRoundAll: // made when all others are known
            return {};
        case LineShape::Box:
        case LineShape::RoundedBox:
            if (!box.empty())
                path = boxFigure(box, spec.shape == LineShape::RoundedBox ? std::max(0.0, spec.boxRadius.mm()) : 0);
            break;
        case LineShape::Circle: {
            const Circle c = smallestCircle(std::move(points));
            if (c.radius + offset > 0.01)
                path = ellipseFigure(c.centre, c.radius + offset, c.radius + offset);
            break;
        }
        case LineShape::Ellipse: {
            const Point half = ellipseRound(points);
            if (std::min(half.x, half.y) + offset > 0.01)
                path = ellipseFigure(out.kept.centre(), half.x + offset, half.y + offset);
            break;
        }
        }
        return path.segments.empty() ? Paths{} : Paths{path};
    }

    void finishBoxesRoundAll(PieceResult& out)
    {
        Rect all = out.kept;
        for (const CutLine& line : out.lines)
            all.add(bounds(*line.paths));
        for (std::size_t i = 0; i < out.lines.size(); ++i)
            if (CutLine& line = out.lines[i]; line.shape == LineShape::BoxRoundAll) {
                const Rect box = all.grown(line.offset.mm());
                line.paths = std::make_shared<const Paths>(box.empty() ? Paths{} : Paths{boxFigure(box)});
                measure(line);
            }
    }

    // How the parts fare under an inward line.
    static void countLosses(CutLine& line, const PieceResult& out)
    {
        struct Kept {
            const Contour* contour;
            Rect box; // mm
            int lines = 0;
        };
        std::vector<Kept> parts;
        for (const Contour& c : out.parts->contours)
            if (!c.opening()) {
                const Rect b = bounds(c.points);
                parts.push_back({&c, {b.x0 / out.pxPerMm, b.y0 / out.pxPerMm, b.x1 / out.pxPerMm, b.y1 / out.pxPerMm}, 0});
            }
        std::sort(parts.begin(), parts.end(), [](const Kept& a, const Kept& b) { return std::abs(a.contour->area) < std::abs(b.contour->area); });
        for (const Path& path : *line.paths) {
            if (signedArea(path) <= 0)
                continue;
            for (Kept& k : parts) // the smallest round it is its own
                if (k.box.contains(path.start) && contains(k.contour->points, path.start * out.pxPerMm)) {
                    ++k.lines;
                    break;
                }
        }
        for (const Kept& k : parts) {
            line.lostParts += k.lines == 0;
            line.splitParts += k.lines > 1;
        }
    }

    // Where a line bounds the print, it is the picture itself that is printed up to it.
    void clipPrint(PieceResult& out, std::uint64_t frameKey)
    {
        for (std::size_t i = 0; i < out.lines.size(); ++i) {
            if (!piece_.cutLines.lines[i].clipsPrint || out.lines[i].paths->empty())
                continue;
            const Paths& paths = *out.lines[i].paths;
            Digest digest;
            digest.add(Step::Clip).add(frameKey).add(out.pxPerMm);
            for (const Path& p : paths) {
                digest.add(p.start.x).add(p.start.y).add(p.segments.size());
                for (const Segment& s : p.segments)
                    digest.add(s.c1.x).add(s.c1.y).add(s.c2.x).add(s.c2.y).add(s.end.x).add(s.end.y);
            }
            out.printed = cache_.get<Gray8>(
                digest.value(), [&] { return timed("keep", [&] { return clipped(*out.pixels, paths, out.pxPerMm, work_); }); },
                [](const Gray8& g) { return g.size(); });
            return;
        }
    }

    const Piece& piece_;
    StepCache& cache_;
    const Work& work_;
    std::map<std::string, double>& times_;
    Want want_;
};

} // namespace

void derivePiece(const Piece& piece, StepCache& cache, Want want, PieceResult& out, std::map<std::string, double>& milliseconds, const Work& work)
{
    PieceChain(piece, cache, work, milliseconds, want).run(out);
}

} // namespace yokai
