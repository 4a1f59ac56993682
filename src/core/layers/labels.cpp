#include "layers/labels.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <array>
#include <map>
#include <numeric>

namespace yokai {

namespace labels {

namespace {

// The areas of equal label, joined by sides: the number of each pixel's.
class Areas {
public:
    Areas(const Raster<std::uint8_t>& label, const Work& work) : of(label.width(), label.height())
    {
        for (int y = 0; y < label.height(); ++y) {
            if (y % 64 == 0)
                work.check();
            for (int x = 0; x < label.width(); ++x) {
                const std::uint8_t own = label.at(x, y);
                const bool left = x > 0 && label.at(x - 1, y) == own, up = y > 0 && label.at(x, y - 1) == own;
                if (left) {
                    of.at(x, y) = of.at(x - 1, y);
                    if (up)
                        join(of.at(x, y), of.at(x, y - 1));
                } else if (up) {
                    of.at(x, y) = of.at(x, y - 1);
                } else {
                    of.at(x, y) = int(parent_.size());
                    parent_.push_back(of.at(x, y));
                }
            }
        }
        sizes.assign(parent_.size(), 0);
        for (int& area : of.all()) {
            area = root(area);
            ++sizes[std::size_t(area)];
        }
    }
    Raster<int> of;
    std::vector<int> sizes; // by number; 0: the number went into another

private:
    int root(int a)
    {
        while (parent_[std::size_t(a)] != a)
            a = parent_[std::size_t(a)] = parent_[std::size_t(parent_[std::size_t(a)])];
        return a;
    }
    void join(int a, int b)
    {
        a = root(a);
        b = root(b);
        parent_[std::size_t(std::max(a, b))] = std::min(a, b);
    }
    std::vector<int> parent_;
};

// Of each small area, the label most of its border has; noColour: none but its like.
std::map<int, std::uint8_t> takers(const Raster<std::uint8_t>& label, const Areas& areas, double least)
{
    std::map<int, std::array<int, 256>> borders;
    const auto meet = [&](int a, int b, std::uint8_t with) {
        if (a != b && areas.sizes[std::size_t(a)] < least && with != noColour && areas.sizes[std::size_t(b)] > areas.sizes[std::size_t(a)])
            ++borders[a][with];
    };
    for (int y = 0; y < label.height(); ++y)
        for (int x = 0; x < label.width(); ++x) {
            const int own = areas.of.at(x, y);
            if (x + 1 < label.width()) {
                meet(own, areas.of.at(x + 1, y), label.at(x + 1, y));
                meet(areas.of.at(x + 1, y), own, label.at(x, y));
            }
            if (y + 1 < label.height()) {
                meet(own, areas.of.at(x, y + 1), label.at(x, y + 1));
                meet(areas.of.at(x, y + 1), own, label.at(x, y));
            }
        }
    std::map<int, std::uint8_t> out;
    for (const auto& [area, counts] : borders)
        out[area] = std::uint8_t(std::max_element(counts.begin(), counts.end()) - counts.begin());
    return out;
}

} // namespace

void despeckle(Split& split, double least, const Work& work)
{
    constexpr int rounds = 4; // speckles within speckles
    for (int round = 0; round < rounds; ++round) {
        const Areas areas(split.label, work);
        const auto to = takers(split.label, areas, least);
        if (to.empty())
            return;
        Raster<std::uint8_t>& label = split.label;
        for (int y = 0; y < label.height(); ++y)
            for (int x = 0; x < label.width(); ++x) {
                const auto taken = label.at(x, y) == noColour ? to.end() : to.find(areas.of.at(x, y));
                if (taken == to.end())
                    continue;
                // Nothing is left of it, nor in the pixels that it shared.
                const std::uint8_t was = std::exchange(label.at(x, y), taken->second);
                constexpr int rim = 2;
                for (int v = std::max(0, y - rim); v <= std::min(label.height() - 1, y + rim); ++v)
                    for (int u = std::max(0, x - rim); u <= std::min(label.width() - 1, x + rim); ++u)
                        if ((u == x && v == y) || split.other.at(u, v) == was) {
                            split.other.at(u, v) = noColour;
                            split.share.at(u, v) = 255;
                        }
            }
    }
}

void soften(Split& split, const Work& work)
{
    const int w = split.label.width(), h = split.label.height();
    const Raster<std::uint8_t> hard = [&] {
        Raster<std::uint8_t> copy(w, h);
        std::copy(split.label.all().begin(), split.label.all().end(), copy.all().begin());
        return copy;
    }();
    constexpr int reach = 2;
    constexpr int weights[] = {1, 4, 6, 4, 1}; // binomial: a Gaussian of one pixel
    eachRow(h, w, work, [&](int y) {
        for (int x = 0; x < w; ++x) {
            const std::uint8_t own = hard.at(x, y);
            bool alone = true;
            for (int dy = -reach; dy <= reach && alone; ++dy)
                for (int dx = -reach; dx <= reach && alone; ++dx)
                    alone = hard.at(std::clamp(x + dx, 0, w - 1), std::clamp(y + dy, 0, h - 1)) == own;
            if (alone)
                continue;
            std::array<std::pair<std::uint8_t, int>, 25> seen;
            std::size_t count = 0;
            for (int dy = -reach; dy <= reach; ++dy)
                for (int dx = -reach; dx <= reach; ++dx) {
                    const std::uint8_t l = hard.at(std::clamp(x + dx, 0, w - 1), std::clamp(y + dy, 0, h - 1));
                    const auto known = std::find_if(seen.begin(), seen.begin() + std::ptrdiff_t(count), [l](const auto& s) { return s.first == l; });
                    const int weight = weights[dx + reach] * weights[dy + reach];
                    if (known == seen.begin() + std::ptrdiff_t(count))
                        seen[count++] = {l, weight};
                    else
                        known->second += weight;
                }
            std::partial_sort(seen.begin(), seen.begin() + std::min<std::ptrdiff_t>(2, std::ptrdiff_t(count)), seen.begin() + std::ptrdiff_t(count),
                              [](const auto& a, const auto& b) { return a.second > b.second || (a.second == b.second && a.first < b.first); });
            const double both = seen[0].second + seen[1].second;
            split.label.at(x, y) = seen[0].first;
            split.other.at(x, y) = seen[1].first;
            split.share.at(x, y) = std::uint8_t(std::clamp(std::lround(255 * seen[0].second / both), 128L, 255L));
        }
    });
}

} // namespace labels

Split withAreas(const Split& split, const std::vector<Point>& places, const Work& work)
{
    const int w = split.label.width(), h = split.label.height();
    Split out{split.colours, Raster<std::uint8_t>(w, h), Raster<std::uint8_t>(w, h), Gray8(w, h)};
    std::copy(split.label.all().begin(), split.label.all().end(), out.label.all().begin());
    std::copy(split.other.all().begin(), split.other.all().end(), out.other.all().begin());
    std::copy(split.share.all().begin(), split.share.all().end(), out.share.all().begin());
    cv::Mat label(h, w, CV_8UC1, out.label.all().data());
    for (const Point p : places) {
        work.check();
        const int x = int(std::floor(p.x)), y = int(std::floor(p.y));
        if (x < 0 || y < 0 || x >= w || y >= h || out.label.at(x, y) == noColour || out.colours[out.label.at(x, y)].area || out.colours.size() >= noColour)
            continue;
        const std::uint8_t was = out.label.at(x, y), now = std::uint8_t(out.colours.size());
        cv::Rect box;
        const int pixels = cv::floodFill(label, {x, y}, now, &box, 0, 0, 4);
        out.colours[was].pixels -= std::size_t(pixels);
        out.colours.push_back({out.colours[was].colour, std::size_t(pixels), p});
        // What its rim shares with others.
        for (int v = std::max(0, box.y - 1); v < std::min(h, box.br().y + 1); ++v)
            for (int u = std::max(0, box.x - 1); u < std::min(w, box.br().x + 1); ++u)
                if (out.other.at(u, v) == was)
                    for (const auto& [a, b] : {std::pair(u - 1, v), {u + 1, v}, {u, v - 1}, {u, v + 1}})
                        if (a >= 0 && b >= 0 && a < w && b < h && out.label.at(a, b) == now)
                            out.other.at(u, v) = now;
    }
    return out;
}

} // namespace yokai
