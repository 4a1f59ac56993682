#include "base/error.h"
#include "base/text.h"
#include "formats/cut_file.h"
#include "formats/dxf/groups.h"
#include "path/arcs.h"

#include <dxflib/dl_creationadapter.h>
#include <dxflib/dl_dxf.h>

#include <numbers>
#include <sstream>

namespace yokai {

namespace {

constexpr double radian = std::numbers::pi / 180;

// The mm of one drawing unit, by $INSUNITS (the published DXF reference, header variables); what is not said is mm.
double mmOfUnit(int insunits)
{
    switch (insunits) {
    case 1:
        return 25.4;
    case 2:
        return 304.8;
    case 5:
        return 10;
    case 6:
        return 1000;
    case 8:
        return 25.4e-6;
    case 9:
        return 0.0254;
    case 13:
        return 0.001;
    default:
        return 1;
    }
}

// dxflib tells of one entity after another.
class DxfReader : public DL_CreationAdapter {
public:
    CutFile out;
    int insunits = 0;
    Point extMax{-1, -1};

    void setVariableInt(const std::string& key, int value, int) override
    {
        if (key == "$INSUNITS")
            insunits = value;
    }
    void setVariableVector(const std::string& key, double x, double y, double, int) override
    {
        if (key == "$EXTMAX")
            extMax = {x, y};
    }
    void addLine(const DL_LineData& d) override
    {
        Path path;
        path.closed = false;
        path.start = {d.x1, d.y1};
        path.lineTo({d.x2, d.y2});
        add(std::move(path));
    }
    void addArc(const DL_ArcData& d) override { addEllipse({d.cx, d.cy}, {d.radius, 0}, 1, d.angle1 * radian, d.angle2 * radian); }
    void addCircle(const DL_CircleData& d) override
    {
        if (isMarks()) {
            if (sensible({d.cx, d.cy}) && d.radius > 0)
                out.drawing.marks.push_back({{d.cx, d.cy}, 2 * d.radius, false, MarkStyle::Dots});
            return;
        }
        addEllipse({d.cx, d.cy}, {d.radius, 0}, 1, 0, 2 * std::numbers::pi);
    }
    void addEllipse(const DL_EllipseData& d) override { addEllipse({d.cx, d.cy}, {d.mx, d.my}, d.ratio, d.angle1, d.angle2); }
    void addPolyline(const DL_PolylineData& d) override
    {
        poly_ = {};
        closedPoly_ = d.flags & 1;
    }
    void addVertex(const DL_VertexData& d) override { poly_.push_back({{d.x, d.y}, d.bulge}); }
    void endEntity() override
    {
        finishPolyline();
        finishSpline();
    }
    void endSequence() override { finishPolyline(); }
    void addSpline(const DL_SplineData& d) override
    {
        spline_ = {};
        degree_ = int(d.degree);
    }
    void addKnot(const DL_KnotData& d) override { spline_.knots.push_back(d.k); }
    void addControlPoint(const DL_ControlPointData& d) override
    {
        spline_.controls.push_back({d.x, d.y});
        spline_.weights.push_back(d.w > 0 ? d.w : 1);
    }

private:
    struct Vertex {
        Point at;
        double bulge;
    };
    struct Spline {
        std::vector<double> knots, weights;
        std::vector<Point> controls;
    };
    static bool sensible(Point p) { return std::isfinite(p.x) && std::isfinite(p.y) && std::abs(p.x) < 1e7 && std::abs(p.y) < 1e7; }
    bool isMarks() { return getAttributes().getLayer() == "MARKS"; }
    void addEllipse(Point centre, Point axis, double ratio, double from, double to)
    {
        if (!(to > from))
            to += 2 * std::numbers::pi * std::ceil((from - to) / (2 * std::numbers::pi) + 1e-12);
        if (!sensible(centre) || !sensible(axis) || !(norm(axis) > 0) || !(std::abs(ratio) > 0) || !(to - from < 100))
            return;
        const Affine out_{axis.x, axis.y, -axis.y * ratio, axis.x * ratio, centre.x, centre.y};
        const double whole = std::min(to - from, 2 * std::numbers::pi);
        const int pieces = std::max(1, int(std::ceil(whole / (std::numbers::pi / 4) - 1e-9)));
        const double step = whole / pieces, handle = 4.0 / 3 * std::tan(step / 4);
        Path path;
        path.start = out_({std::cos(from), std::sin(from)});
        path.closed = whole > 2 * std::numbers::pi - 1e-9;
        for (int i = 0; i < pieces; ++i) {
            const double a = from + i * step, b = a + step;
            const Point p{std::cos(a), std::sin(a)}, q{std::cos(b), std::sin(b)};
            path.curveTo(out_(p + Point{-p.y, p.x} * handle), out_(q - Point{-q.y, q.x} * handle), path.closed && i + 1 == pieces ? path.start : out_(q),
                         !path.closed && i + 1 == pieces);
        }
        add(std::move(path));
    }
    void finishPolyline()
    {
        const std::vector<Vertex> poly = std::exchange(poly_, {});
        if (poly.size() < 2)
            return;
        std::vector<Arc> arcs;
        for (std::size_t i = 0; i + (closedPoly_ ? 0 : 1) < poly.size(); ++i) {
            const Vertex& v = poly[i];
            const Point to = poly[around(i + 1, poly.size())].at;
            if (!sensible(v.at) || !sensible(to) || !std::isfinite(v.bulge))
                return;
            if (distance(v.at, to) > 0)
                arcs.push_back({to, std::abs(v.bulge) < 1e-9 ? 0 : v.bulge});
        }
        Path path = pathOf(poly.front().at, arcs, closedPoly_);
        add(std::move(path));
    }
    // A curve of degree 3 whose inner knots count three times is cubics one after another; any other is taken as short lines.
    void finishSpline()
    {
        const Spline whole = std::exchange(spline_, {});
        const auto& [knots, weights, controls] = whole;
        const std::size_t n = controls.size();
        if (degree_ < 1 || degree_ > 10 || n <= std::size_t(degree_) || knots.size() < n + std::size_t(degree_) + 1 ||
            !std::is_sorted(knots.begin(), knots.end()))
            return;
        for (const Point p : controls)
            if (!sensible(p))
                return;
        const bool plain = std::all_of(weights.begin(), weights.end(), [](double w) { return w == 1; });
        Path path;
        path.closed = false;
        path.start = controls.front();
        if (degree_ == 3 && plain && (n - 1) % 3 == 0 && isCubics(whole)) {
            for (std::size_t i = 0; i + 3 < n; i += 3)
                path.curveTo(controls[i + 1], controls[i + 2], controls[i + 3], true);
        } else {
            path.start = splineAt(whole, knots[std::size_t(degree_)]);
            const double first = knots[std::size_t(degree_)], last = knots[n];
            constexpr int aSpan = 24; // short lines for each span of knots
            const int steps = int(n - std::size_t(degree_)) * aSpan;
            for (int k = 1; k <= steps; ++k)
                path.lineTo(splineAt(whole, first + (last - first) * k / steps), k == steps);
        }
        add(std::move(path));
    }
    static bool isCubics(const Spline& spline)
    {
        const auto& knots = spline.knots;
        for (std::size_t k = 1; k + 3 < knots.size(); k += 3)
            if (knots[k] != knots[k + 1] || knots[k] != knots[k + 2])
                return false;
        return true;
    }
    // De Boor's recursion, with weights.
    Point splineAt(const Spline& spline, double t) const
    {
        const auto& [knots, weights, controls] = spline;
        const std::size_t p = std::size_t(degree_), n = controls.size();
        std::size_t span = p;
        while (span + 1 < n && knots[span + 1] <= t)
            ++span;
        struct Weighted {
            Point p;
            double w;
        };
        std::vector<Weighted> d(p + 1);
        for (std::size_t j = 0; j <= p; ++j)
            d[j] = {controls[span - p + j] * weights[span - p + j], weights[span - p + j]};
        for (std::size_t r = 1; r <= p; ++r)
            for (std::size_t j = p; j >= r; --j) {
                const double a = knots[span - p + j], b = knots[span + 1 + j - r], k = b > a ? (t - a) / (b - a) : 0;
                d[j] = {mix(d[j - 1].p, d[j].p, k), d[j - 1].w + (d[j].w - d[j - 1].w) * k};
            }
        return d[p].p * (1 / d[p].w);
    }
    void add(Path path)
    {
        if (path.segments.empty() || !sensible(path.start) ||
            !std::all_of(path.segments.begin(), path.segments.end(), [](const Segment& s) { return sensible(s.end); }))
            return;
        if (isMarks()) {
            markLines_.push_back(path);
            const Point centre = bounds(path).centre();
            for (const Path& other : markLines_)
                if (&other != &markLines_.back() && distance(bounds(other).centre(), centre) < 0.01) // the two lines of a cross
                    out.drawing.marks.push_back({centre, std::max(bounds(path).width(), bounds(other).width()), false, MarkStyle::Crosses});
                else if (&other != &markLines_.back() && distance(other.segments.back().end, path.start) < 0.01) // the two arms of a bracket
                    out.drawing.marks.push_back({path.start, std::max({bounds(path).width(), bounds(path).height()}), false, MarkStyle::Brackets});
            return;
        }
        CutItem item;
        const std::string layer = getAttributes().getLayer();
        for (const LineKindFacts& kind : lineKindTable)
            if (layer == kind.dxfLayer || getAttributes().getColor() == kind.dxfColour)
                item.kind = kind.kind;
        for (const LineKindFacts& kind : lineKindTable)
            if (layer == kind.dxfLayer || layer.starts_with(kind.dxfLayer + std::string("_"))) // of one of several colour layers
                item.kind = kind.kind;
        if (layer == "ENGRAVE")
            return;
        item.path = std::move(path);
        out.drawing.cuts.push_back(std::move(item));
    }

    std::vector<Vertex> poly_;
    Spline spline_;
    std::vector<Path> markLines_;
    bool closedPoly_ = false;
    int degree_ = 3;
};

} // namespace

CutFile readDxf(const Bytes& bytes, const std::string& name, const Work& work)
{
    const std::string text(bytes.begin(), bytes.end());
    if (text.find("SECTION") == std::string::npos)
        throw Error(ErrorKind::Input, "'{}' is no DXF that can be read; save it again as DXF", name);
    const CleanDxf clean = cleanDxf(text, name);
    std::stringstream stream(clean.text);
    DxfReader reader;
    DL_Dxf dxf;
    if (!dxf.in(stream, &reader))
        throw Error(ErrorKind::Input, "cannot read '{}'; save it again as DXF", name);
    work.check();
    CutFile out = std::move(reader.out);
    const double mm = mmOfUnit(reader.insunits);
    out.unitsAnInch = 25.4 / mm;
    out.sizeFromFile = reader.insunits != 0;
    Rect all = Rect::nothing();
    for (const CutItem& item : out.drawing.cuts)
        all.add(bounds(item.path));
    if (reader.extMax.x > 0 && reader.extMax.y > 0 && reader.extMax.x < 1e7 && reader.extMax.y < 1e7 && reader.extMax.x >= all.x1 - 1e-6 &&
        reader.extMax.y >= all.y1 - 1e-6) {
        out.drawing.width = reader.extMax.x * mm;
        out.drawing.height = reader.extMax.y * mm;
    } else if (all.x1 > all.x0 || all.y1 > all.y0) {
        out.drawing.width = std::max(1.0, all.x1 * mm);
        out.drawing.height = std::max(1.0, all.y1 * mm);
    }
    // It counts upwards.
    const Affine down = Affine{mm, 0, 0, -mm, 0, out.drawing.height};
    for (CutItem& item : out.drawing.cuts)
        item.path = transformed(item.path, down);
    for (Mark& mark : out.drawing.marks) {
        mark.centre = down(mark.centre);
        mark.diameter *= mm;
    }
    out.leftOut.assign(clean.left.begin(), clean.left.end());
    if (!out.drawing.cuts.empty() || !out.drawing.marks.empty())
        keepWithinReason(out, name);
    return out;
}

} // namespace yokai
