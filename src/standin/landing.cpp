#include "landing.h"

#include "formats/cut_file.h"

#include <algorithm>
#include <cmath>

namespace yokai::standin {

namespace {

std::vector<Polyline> linesOf(const std::filesystem::path& cutFile)
{
    constexpr double flatness = 0.002; // mm
    const Drawing drawing = openCutFile(cutFile).drawing;
    std::vector<Polyline> out;
    for (const CutItem& item : drawing.cuts) {
        out.push_back(flatten(transformed(item.path, Affine{1, 0, 0, -1, 0, drawing.height}), flatness));
        if (item.path.closed)
            out.back().push_back(out.back().front());
    }
    return out;
}

} // namespace

Lines::Lines(const std::filesystem::path& cutFile, const ToolSpec& tool) : lines_(linesOf(cutFile)), tool_(tool) {}

std::optional<Landed> Lines::landed(const Cut& cut, bool first) const
{
    constexpr double slack = 0.05; // mm
    // A blade goes in and out along the line; one that was never down is drawn into its heading first, in the waste or on its first line.
    const bool blade = tool_.bladeOffset > 0_mm;
    const double half = tool_.kerf.mm() / 2, in = blade ? (first ? 5 * tool_.bladeOffset.mm() : 0.0) : tool_.leadIn.mm(), out = blade ? 0.0 : tool_.leadOut.mm();
    double whole = 0, way = 0;
    for (std::size_t k = 1; k < cut.points.size(); ++k)
        whole += distance(cut.points[k - 1], cut.points[k]);
    if (blade && first && whole < 2 * in + slack)
        return std::nullopt;
    Landed landed;
    std::size_t count = 0;
    for (std::size_t k = 0; k < cut.points.size(); ++k) {
        way += k > 0 ? distance(cut.points[k - 1], cut.points[k]) : 0;
        if ((in > 0 && way < in + slack) || (out > 0 && whole - way < out + slack))
            continue;
        const Point p = cut.truth.inverse(cut.points[k]);
        const auto line = lines_.near(p);
        if (!line)
            continue;
        const double miss = std::abs(distance(p, *line) - half);
        landed.worst = std::max(landed.worst, miss);
        landed.mean += miss;
        ++count;
    }
    if (count == 0)
        return std::nullopt;
    landed.mean /= double(count);
    return landed;
}

} // namespace yokai::standin
