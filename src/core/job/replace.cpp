#include "job/replace.h"

#include <algorithm>

namespace yokai {

namespace {

// From the old picture's pixels to the new one's.
struct Scaled {
    double x = 1, y = 1;
    void operator()(Point& p) const { p = {p.x * x, p.y * y}; }
    void operator()(std::vector<Point>& points) const
    {
        for (Point& p : points)
            (*this)(p);
    }
    void operator()(Anchor& anchor) const
    {
        (*this)(anchor.edge);
        // A direction out of an edge: it turns as the edge does.
        const Point out{anchor.out.x / x, anchor.out.y / y};
        if (norm(out) > 0)
            anchor.out = unit(out);
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
            (*this)(touch.points);
            touch.radius *= std::sqrt(x * y);
        }
        for (PartChoice& choice : keep.byHand)
            (*this)(choice.at);
    }
    void operator()(Edit& edit) const
    {
        (*this)(edit.from);
        (*this)(edit.to);
        for (std::vector<Point>& outline : edit.outlines)
            (*this)(outline);
    }
};

void scaleFrame(ArtworkSpec& artwork, const Scaled& scaled)
{
    const bool turned = artwork.quarters % 2 == 1; // the frame is measured after turning
    const double across = turned ? scaled.y : scaled.x, down = turned ? scaled.x : scaled.y;
    if (artwork.crop)
        artwork.crop = Rect{artwork.crop->x0 * across, artwork.crop->y0 * down, artwork.crop->x1 * across, artwork.crop->y1 * down};
    artwork.sidePx *= artwork.sizeBy == SizeBy::Height ? down : across;
    artwork.downPx *= down;
    artwork.ppi *= across;
}

} // namespace

void replacePicture(Piece& piece, Picture picture)
{
    const PictureInfo was = piece.artwork.picture.info, now = picture.info;
    const Scaled scaled{double(now.width) / was.width, double(now.height) / was.height};
    const Length width = Length::mm(piece.artwork.width());
    const bool bySize = piece.artwork.sizeBy == SizeBy::File && (now.width != was.width || now.height != was.height || now.ppi != was.ppi);
    piece.artwork.picture = std::move(picture);
    scaleFrame(piece.artwork, scaled);
    if (bySize)
        piece.artwork.setWidth(width);
    for (Guide& guide : piece.guides) {
        scaled(guide.a);
        scaled(guide.b);
    }
    for (Layer& layer : piece.layers) {
        scaled(layer.keep);
        if (layer.ofColours)
            scaled(layer.ofColours->areas);
        for (LineSpec& line : layer.lines)
            for (Edit& edit : line.edits)
                scaled(edit);
    }
}

} // namespace yokai
