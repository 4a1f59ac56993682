#include "machine/cut_item.h"

#include <algorithm>
#include <numeric>
#include <tuple>

namespace yokai {

std::vector<int> depthsOf(const CutItems& items, const std::function<bool(const CutItem&, const CutItem&)>& counts, const Work& work)
{
    std::vector<int> depths(items.size(), 0);
    constexpr double flatness = 0.02; // mm: lines nearer to one another than this are not told apart
    struct Shape {
        Polyline points;
        Rect box;
        double area;
    };
    std::vector<Shape> shapes(items.size());
    parallelSlices(int(items.size()), 16, [&](int begin, int end) {
        for (int i = begin; i < end; ++i) {
            work.check();
            Shape& shape = shapes[std::size_t(i)];
            shape.points = flatten(items[std::size_t(i)].path, flatness);
            shape.box = bounds(shape.points);
            shape.area = items[std::size_t(i)].path.closed ? std::abs(signedArea(shape.points)) : 0;
        }
    });
    std::vector<int> order(items.size()); // by their left sides: what begins farther right cannot lie round
    std::iota(order.begin(), order.end(), 0);
    std::sort(order.begin(), order.end(), [&](int a, int b) { return shapes[std::size_t(a)].box.x0 < shapes[std::size_t(b)].box.x0; });
    parallelSlices(int(items.size()), 16, [&](int begin, int end) {
        for (int k = begin; k < end; ++k) {
            work.check();
            const auto i = std::size_t(order[std::size_t(k)]);
            const Point at = items[i].path.start;
            for (const int other : order) {
                const Shape& o = shapes[std::size_t(other)];
                if (o.box.x0 > at.x)
                    break;
                if (std::size_t(other) != i && o.area > shapes[i].area && o.box.contains(at) && counts(items[std::size_t(other)], items[i]) && contains(o.points, at))
                    ++depths[i];
            }
        }
    });
    return depths;
}

void nest(CutItems& items, const Work& work)
{
    const std::vector<int> depths = depthsOf(items, [](const CutItem&, const CutItem&) { return true; }, work);
    for (std::size_t i = 0; i < items.size(); ++i)
        items[i].depth = depths[i];
}

} // namespace yokai
