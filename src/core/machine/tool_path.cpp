#include "machine/tool_path.h"

#include "base/length.h"

namespace yokai {

std::vector<Stroke> strokesOf(CutItems items, double sheetHeight, const Work& work, double tolerance)
{
    nest(items, work);
    putInOrder(items);
    std::vector<Stroke> out;
    for (const CutItem& item : items) {
        work.check();
        for (const Path& path : cutsOf(item)) {
            Stroke stroke{item.kind, flatten(path, tolerance), path.closed};
            if (stroke.points.size() < 2)
                continue;
            for (Point& p : stroke.points)
                p.y = sheetHeight - p.y;
            out.push_back(std::move(stroke));
        }
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
