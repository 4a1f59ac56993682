// libnest2d, which is not written for C++20, in a file of its own. Its whole numbers are nanometres.

#include <libnest2d/backends/clipper/geometries.hpp>
#include <libnest2d/libnest2d.hpp>
#include <libnest2d/optimizers/nlopt/subplex.hpp>

#include <chrono>
#include <utility>
#include <vector>

// Each outline as often as there are rounds, one after another; the bin each went to, -1 where the time ended before.
std::vector<int> nestedByPeer(const std::vector<std::vector<std::pair<double, double>>>& outlines, int rounds, double width, double height, double gap, int turns, double seconds)
{
    using namespace libnest2d;
    constexpr double unit = 1e6;
    std::vector<Item> items;
    for (int round = 0; round < rounds; ++round)
        for (const auto& outline : outlines) {
            ClipperLib::Path path;
            for (const auto& [x, y] : outline)
                path.emplace_back(ClipperLib::cInt(x * unit), ClipperLib::cInt(-y * unit));
            if (ClipperLib::Orientation(path))
                std::reverse(path.begin(), path.end());
            path.push_back(path.front());
            PolygonImpl polygon;
            polygon.Contour = path;
            items.emplace_back(polygon);
        }
    NestConfig<NfpPlacer, FirstFitSelection> config;
    config.placer_config.rotations.clear();
    for (int k = 0; k < turns; ++k)
        config.placer_config.rotations.push_back(Radians(2 * 3.14159265358979 * k / turns));
    config.placer_config.alignment = NfpPlacer::Config::Alignment::BOTTOM_LEFT;
    config.placer_config.starting_point = NfpPlacer::Config::Alignment::BOTTOM_LEFT;
    const auto end = std::chrono::steady_clock::now() + std::chrono::duration<double>(seconds);
    NestControl control;
    control.stopcond = [end] { return std::chrono::steady_clock::now() > end; };
    nest(items, Box(Coord(width * unit), Coord(height * unit)), Coord(gap * unit), config, control);
    std::vector<int> bins;
    for (const Item& item : items)
        bins.push_back(item.binId());
    return bins;
}
