#include "job/replace.h"

#include <algorithm>
#include <functional>

namespace yokai {

namespace {

// From the old picture's pixels to the new one's.
struct Moved {
    std::function<Point(Point)> map;
    Point along(Point at, Point by) const // what a small step becomes
    {
        constexpr double step = 0.5; // px
        const Point u = unit(by) * step;
        return map(at + u) - map(at - u);
    }
    double sizeAt(Point at) const { return std::sqrt(std::abs(cross(along(at, {1, 0}), along(at, {0, 1})))); } // how many times as large lengths become
    void operator()(Point& p) const { p = map(p); }
    void operator()(std::vector<Point>& points) const
    {
        for (Point& p : points)
            (*this)(p);
    }
    void operator()(Anchor& anchor) const
    {
        // A direction out of an edge: it turns as the edge does.
        if (norm(anchor.out) > 0) {
            const Point edge = along(anchor.edge, {-anchor.out.y, anchor.out.x}), out = along(anchor.edge, anchor.out);
            const Point across{edge.y, -edge.x};
            if (norm(edge) > 0)
                anchor.out = unit(dot(across, out) < 0 ? across * -1 : across);
        }
        (*this)(anchor.edge);
    }
    void operator()(std::vector<Swatch>& swatches) const
    {
        for (Swatch& swatch : swatches)
            if (swatch.at)
                (*this)(*swatch.at);
    }
    void operator()(KeepSpec& keep) const
    {
        (*this)(keep.papers);
        (*this)(keep.colours);
        for (Ring& ring : keep.onlyInside)
            (*this)(ring);
        for (Touch& touch : keep.touches) {
            if (!touch.points.empty())
                touch.radius *= sizeAt(touch.points.front());
            (*this)(touch.points);
        }
        for (PartChoice& choice : keep.byHand)
            (*this)(choice.at);
        (*this)(keep.subject.box);
        for (SubjectStroke& stroke : keep.subject.strokes) {
            if (!stroke.points.empty())
                stroke.radius *= sizeAt(stroke.points.front());
            (*this)(stroke.points);
        }
    }
    void operator()(Edit& edit) const
    {
        (*this)(edit.from);
        (*this)(edit.to);
        for (std::vector<Point>& outline : edit.outlines)
            (*this)(outline);
    }
};

void scaleFrame(ArtworkSpec& artwork, double x, double y)
{
    const bool turned = artwork.quarters % 2 == 1; // the frame is measured after turning
    const double across = turned ? y : x, down = turned ? x : y;
    if (artwork.crop)
        artwork.crop = Rect{artwork.crop->x0 * across, artwork.crop->y0 * down, artwork.crop->x1 * across, artwork.crop->y1 * down};
    artwork.sidePx *= artwork.sizeBy == SizeBy::Height ? down : across;
    artwork.downPx *= down;
    artwork.ppi *= across;
}

void move(LineSpec& line, const Moved& moved)
{
    for (DrawnOutline& outline : line.drawn)
        moved(outline.points);
    if (line.drawnUnit)
        moved(line.drawnUnit->fixed);
    for (Edit& edit : line.edits)
        moved(edit);
}

void move(Piece& piece, const Moved& moved)
{
    for (Guide& guide : piece.guides) {
        moved(guide.a);
        moved(guide.b);
    }
    moved(piece.features);
    for (Layer& layer : piece.layers) {
        moved(layer.keep);
        if (layer.ofColours)
            moved(layer.ofColours->areas);
        for (LineSpec& line : layer.lines)
            move(line, moved);
    }
}

} // namespace

void takeUnit(LineSpec& line, double anInch)
{
    if (!line.drawnUnit || !(anInch > 0))
        return;
    const double k = line.drawnUnit->anInch / anInch;
    move(line, {[k, fixed = line.drawnUnit->fixed](Point p) { return fixed + (p - fixed) * k; }});
    line.drawnUnit->anInch = anInch;
}

void replacePicture(Piece& piece, Picture picture)
{
    const PictureInfo was = piece.artwork.picture.info, now = picture.info;
    const double x = double(now.width) / was.width, y = double(now.height) / was.height;
    if (TiltSpec* tilt = piece.artwork.tilt ? &*piece.artwork.tilt : nullptr) { // seen as it was, if no finer
        Corners4 corners = tilt->corners();
        for (Point& p : corners)
            p = {p.x * x, p.y * y};
        const ArtworkSpec::Source before = piece.artwork.source();
        setCorners(*tilt, corners);
        piece.artwork.picture = std::move(picture);
        const ArtworkSpec::Source after = piece.artwork.source();
        const double across = double(after.width) / before.width, down = double(after.height) / before.height;
        scaleFrame(piece.artwork, across, down);
        return move(piece, {[=](Point p) { return Point{p.x * across, p.y * down}; }});
    }
    const Length width = Length::mm(piece.artwork.width());
    const bool bySize = piece.artwork.sizeBy == SizeBy::File && (now.width != was.width || now.height != was.height || now.ppi != was.ppi);
    piece.artwork.picture = std::move(picture);
    scaleFrame(piece.artwork, x, y);
    if (bySize)
        piece.artwork.setWidth(width);
    move(piece, {[=](Point p) { return Point{p.x * x, p.y * y}; }});
}

void setTilt(Piece& piece, const std::optional<TiltSpec>& tilt)
{
    ArtworkSpec& artwork = piece.artwork;
    const auto before = artwork.fromAbove();
    const Picture picture = artwork.picture;
    artwork = ArtworkSpec{};
    artwork.picture = picture;
    artwork.tilt = tilt;
    const auto after = artwork.fromAbove();
    move(piece, {[&](Point p) {
             const Point came = before ? before->toPicture(p) : p;
             return after ? after->fromPicture(came) : came;
         }});
}

} // namespace yokai
