#include "machine/tool_path.h"

#include <algorithm>

namespace yokai {

namespace {

int rank(LineKind kind)
{
    switch (kind) {
    case LineKind::Crease:
        return 0;
    case LineKind::Kiss:
        return 1;
    case LineKind::Perforate:
        return 2;
    case LineKind::Through:
        return 3;
    }
    return 3;
}

} // namespace

std::vector<Stroke> strokesOf(const Drawing& drawing, double tolerance)
{
    struct Item {
        Stroke stroke;
        double area;
        Rect box;
    };
    std::vector<Item> items;
    for (const DrawnLine& line : drawing.lines) {
        Item item;
        item.stroke.kind = line.kind;
        item.stroke.points = flatten(line.path, tolerance);
        if (item.stroke.points.size() < 2)
            continue;
        for (Point& p : item.stroke.points)
            p.y = drawing.height - p.y;
        item.box = bounds(item.stroke.points);
        item.stroke.closed = line.path.closed;
        item.area = line.path.closed ? std::abs(signedArea(item.stroke.points)) : 0; // dashes keep their order
        items.push_back(std::move(item));
    }
    // A line goes before whatever lies round it, and lighter kinds before heavier ones of the same piece.
    // Lines of one piece follow each other in the drawing; a group ends where the next line lies apart from it.
    std::vector<Stroke> out;
    for (std::size_t begin = 0; begin < items.size();) {
        std::size_t end = begin + 1;
        Rect box = items[begin].box;
        while (end < items.size() && items[end].box.overlaps(box)) {
            box.add(items[end].box);
            ++end;
        }
        std::stable_sort(items.begin() + std::ptrdiff_t(begin), items.begin() + std::ptrdiff_t(end), [](const Item& a, const Item& b) {
            const int ra = rank(a.stroke.kind), rb = rank(b.stroke.kind);
            return ra != rb ? ra < rb : a.area < b.area;
        });
        for (; begin < end; ++begin)
            out.push_back(std::move(items[begin].stroke));
    }
    return out;
}

std::vector<Stroke> moved(const std::vector<Stroke>& strokes, const Homography& map)
{
    std::vector<Stroke> out = strokes;
    for (Stroke& s : out)
        for (Point& p : s.points)
            p = map(p);
    return out;
}

std::vector<std::string> gcodeOf(const std::vector<Stroke>& strokes, double feed)
{
    const auto at = [](Point p) { return "X" + plainNumber(p.x, 3) + " Y" + plainNumber(p.y, 3); };
    std::vector<std::string> lines = {"G21", "G90", "M5"};
    for (const Stroke& s : strokes) {
        lines.push_back("G0 " + at(s.points.front()));
        lines.push_back("M3");
        for (std::size_t i = 1; i < s.points.size(); ++i)
            lines.push_back("G1 " + at(s.points[i]) + (i == 1 ? " F" + plainNumber(feed, 0) : ""));
        if (s.closed)
            lines.push_back("G1 " + at(s.points.front()) + (s.points.size() == 1 ? " F" + plainNumber(feed, 0) : ""));
        lines.push_back("M5");
    }
    lines.push_back("G0 X0 Y0");
    return lines;
}

} // namespace yokai
