#include "machine/eye_place.h"

#include <algorithm>
#include <vector>

namespace yokai {

namespace {

// Along one side of the bed: where the sheet may begin, and what of the bed the eye sees.
struct EyeSide {
    double last; // the farthest it may begin, with all of it on the bed
    double from, to;
};

// Begun there, which marks are seen along this side.
bool isSeen(const EyeSide& side, double begin, double mark)
{
    constexpr double exactly = 1e-6; // mm: what rounding makes of a sum
    return begin + mark >= side.from - exactly && begin + mark <= side.to + exactly;
}

// The least begin at which most are seen: right at the bed's edge, or where some mark comes into sight.
double bestBegin(const EyeSide& side, const std::vector<double>& marks)
{
    std::vector<double> tried = {0, side.last};
    for (const double mark : marks)
        for (const double begin : {side.from - mark, side.to - mark})
            if (begin > 0 && begin < side.last)
                tried.push_back(begin);
    std::sort(tried.begin(), tried.end());
    const auto seen = [&](double begin) { return std::count_if(marks.begin(), marks.end(), [&](double mark) { return isSeen(side, begin, mark); }); };
    return *std::max_element(tried.begin(), tried.end(), [&](double a, double b) { return seen(a) < seen(b); });
}

} // namespace

EyePlace placeForEye(const Machine& machine, double sheetWidth, double sheetHeight, std::span<const Point> marks, double markSize)
{
    const double width = machine.bed.width.mm(), depth = machine.bed.depth.mm(), x = machine.eye.x.mm(), y = machine.eye.y.mm();
    const auto place = [&](double room) {
        const EyeSide across{std::max(0.0, width - sheetWidth), x + room, width + x - room}, along{std::max(0.0, depth - sheetHeight), y + room, depth + y - room};
        std::vector<double> xs, ys;
        for (const Point m : marks) {
            xs.push_back(m.x);
            ys.push_back(m.y);
        }
        EyePlace out{{bestBegin(across, xs), bestBegin(along, ys)}, 0};
        out.seen = std::size_t(std::count_if(marks.begin(), marks.end(), [&](Point m) { return isSeen(across, out.corner.x, m.x) && isSeen(along, out.corner.y, m.y); }));
        return out;
    };
    // With room to look round about where each should be; else with enough to go across it.
    const EyePlace wide = place(machine.eye.reach.mm() + markSize);
    return wide.seen == marks.size() ? wide : place(markSize);
}

} // namespace yokai
