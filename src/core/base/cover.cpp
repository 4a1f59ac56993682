#include "base/cover.h"

#include <cmath>

namespace yokai {

namespace {

// Adds an edge to the rows from y0 to y1. In each row the change of cover is put into
// the cells it passes, so that a running sum along the row gives the cover.
void addEdge(std::vector<float>& cells, int stride, int y0, int y1, double originX, double limit, Point a, Point b)
{
    if (a.y == b.y)
        return;
    const double sign = a.y < b.y ? 1 : -1;
    if (sign < 0)
        std::swap(a, b);
    const double slope = (b.x - a.x) / (b.y - a.y);
    const int from = std::max(y0, int(std::floor(a.y))), to = std::min(y1 - 1, int(std::ceil(b.y)) - 1);
    for (int y = from; y <= to; ++y) {
        const double top = std::max(a.y, double(y)), bottom = std::min(b.y, double(y) + 1), h = bottom - top;
        if (h <= 0)
            continue;
        float* row = cells.data() + std::size_t(y - y0) * std::size_t(stride);
        double xa = a.x + (top - a.y) * slope - originX, xb = a.x + (bottom - a.y) * slope - originX;
        if (xa > xb)
            std::swap(xa, xb);
        xa = std::clamp(xa, 0.0, limit);
        xb = std::clamp(xb, 0.0, limit);
        const double d = sign * h;
        const int first = int(xa), last = int(xb);
        if (first == last) {
            const double middle = (xa + xb) / 2 - first;
            row[first] += float(d * (1 - middle));
            row[first + 1] += float(d * middle);
            continue;
        }
        // The edge crosses several cells: each gets its share of the height.
        const double perX = d / (xb - xa);
        for (int x = first; x <= last; ++x) {
            const double l = std::max(xa, double(x)), r = std::min(xb, double(x) + 1), share = (r - l) * perX, middle = (l + r) / 2 - x;
            row[x] += float(share * (1 - middle));
            row[x + 1] += float(share * middle);
        }
    }
}

} // namespace

void coverPolygons(std::span<const std::vector<Point>> polygons, int width, int height, const std::function<void(int, int, std::span<const std::uint8_t>)>& row,
                   const Work& work)
{
    Rect box = Rect::nothing();
    for (const auto& polygon : polygons)
        for (const Point p : polygon)
            box.add(p);
    const int x0 = int(std::clamp(std::floor(box.x0), 0.0, double(width))), x1 = int(std::clamp(std::ceil(box.x1), 0.0, double(width)));
    const int y0 = int(std::clamp(std::floor(box.y0), 0.0, double(height))), y1 = int(std::clamp(std::ceil(box.y1), 0.0, double(height)));
    if (!(box.x0 <= box.x1) || x0 >= x1 || y0 >= y1)
        return;
    const int stride = x1 - x0 + 2, band = std::clamp((1 << 16) / stride, 4, 64), bands = (y1 - y0 + band - 1) / band;
    parallelSlices(bands, 1, [&](int begin, int end) {
        std::vector<float> cells(std::size_t(stride) * std::size_t(band));
        std::vector<std::uint8_t> cover(std::size_t(x1 - x0));
        for (int k = begin; k < end; ++k) {
            work.check();
            const int top = y0 + k * band, bottom = std::min(y1, top + band);
            std::fill(cells.begin(), cells.end(), 0.0f);
            for (const auto& polygon : polygons)
                for (std::size_t i = 0; i < polygon.size(); ++i) {
                    const Point a = polygon[i], b = polygon[i + 1 == polygon.size() ? 0 : i + 1];
                    if (std::max(a.y, b.y) > top && std::min(a.y, b.y) < bottom)
                        addEdge(cells, stride, top, bottom, x0, double(x1 - x0), a, b);
                }
            for (int y = top; y < bottom; ++y) {
                float sum = 0;
                const float* cell = cells.data() + std::size_t(y - top) * std::size_t(stride);
                for (int x = 0; x < x1 - x0; ++x) {
                    sum += cell[x];
                    cover[std::size_t(x)] = std::uint8_t(std::min(1.0f, std::abs(sum)) * 255 + 0.5f);
                }
                row(y, x0, cover);
            }
        }
    });
}

} // namespace yokai
