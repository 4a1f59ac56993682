#include "keep/rules.h"

#include "keep/colour.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <array>
#include <cmath>

namespace yokai::rules {

std::vector<Rgba> rim(const Rgba8& px, const Gray8* within)
{
    std::vector<Rgba> out;
    const int w = px.width(), h = px.height();
    const int step = std::max(1, (w + h) / 4000);
    // Walks in from the border to where the picture begins.
    const auto sample = [&](int x, int y, int dx, int dy) {
        if (within) {
            while (x >= 0 && y >= 0 && x < w && y < h && within->at(x, y) < 255) {
                x += dx;
                y += dy;
            }
            if (x < 0 || y < 0 || x >= w || y >= h)
                return;
        }
        out.push_back(px.at(x, y));
    };
    for (int x = 0; x < w; x += step) {
        sample(x, 0, 0, 1);
        sample(x, h - 1, 0, -1);
    }
    for (int y = 0; y < h; y += step) {
        sample(0, y, 1, 0);
        sample(w - 1, y, -1, 0);
    }
    return out;
}

Rgba paperOf(const std::vector<Rgba>& rim)
{
    std::array<int, 4096> counts{};
    const auto bin = [](Rgba c) { return std::size_t((c.r >> 4) << 8 | (c.g >> 4) << 4 | (c.b >> 4)); };
    for (Rgba c : rim)
        ++counts[bin(c)];
    // A colour on the border of two bins is split between them, so neighbours count too.
    int best = 0;
    std::size_t at = 0;
    for (int r = 0; r < 16; ++r)
        for (int g = 0; g < 16; ++g)
            for (int b = 0; b < 16; ++b) {
                int sum = 0;
                for (int dr = 0; dr < 2; ++dr)
                    for (int dg = 0; dg < 2; ++dg)
                        for (int db = 0; db < 2; ++db)
                            if (r + dr < 16 && g + dg < 16 && b + db < 16)
                                sum += counts[std::size_t((r + dr) << 8 | (g + dg) << 4 | (b + db))];
                if (sum > best) {
                    best = sum;
                    at = std::size_t(r << 8 | g << 4 | b);
                }
            }
    const int r0 = int(at >> 8) * 16, g0 = int(at >> 4 & 15) * 16, b0 = int(at & 15) * 16;
    long r = 0, g = 0, b = 0, n = 0;
    for (Rgba c : rim)
        if (c.r >= r0 && c.r < r0 + 32 && c.g >= g0 && c.g < g0 + 32 && c.b >= b0 && c.b < b0 + 32) {
            r += c.r;
            g += c.g;
            b += c.b;
            ++n;
        }
    if (n == 0)
        return {255, 255, 255, 255};
    return {std::uint8_t((r + n / 2) / n), std::uint8_t((g + n / 2) / n), std::uint8_t((b + n / 2) / n), 255};
}

double levelAbove(const std::vector<Rgba>& rim, Rgba paper)
{
    const Lab from = labOf(paper);
    std::vector<double> strays;
    for (Rgba c : rim)
        if (const double d = ciede2000(from, labOf(c)); d < 15)
            strays.push_back(d);
    if (strays.empty())
        return usualLevel(KeepRule::Paper);
    const auto nth = strays.begin() + std::ptrdiff_t(double(strays.size() - 1) * 0.99);
    std::nth_element(strays.begin(), nth, strays.end());
    return std::clamp(std::round(*nth * 2 + 3), 5.0, 20.0);
}

namespace {

// CIEDE2000 from the nearest of some colours to many pixels, remembering colours met before.
class Difference {
public:
    explicit Difference(const std::vector<Rgba>& from) : keys_(slots, 0xffffffffu), values_(slots)
    {
        for (const Rgba c : from)
            from_.push_back(labOf(c));
    }
    float operator()(Rgba c)
    {
        const std::uint32_t key = std::uint32_t(c.r) << 16 | std::uint32_t(c.g) << 8 | c.b;
        const std::size_t slot = (key * 2654435761u) >> 17;
        if (keys_[slot] != key) {
            keys_[slot] = key;
            double least = 1000;
            for (const Lab& f : from_)
                least = std::min(least, ciede2000(f, labOf(c)));
            values_[slot] = float(least);
        }
        return values_[slot];
    }

private:
    static constexpr std::size_t slots = 1 << 15;
    std::vector<Lab> from_;
    std::vector<std::uint32_t> keys_;
    std::vector<float> values_;
};

} // namespace

Gray8 differences(const Rgba8& px, const std::vector<Rgba>& from, bool clearIsLike, const Work& work)
{
    Gray8 out(px.width(), px.height());
    // Few slices: each has to meet the colours anew.
    parallelSlices(px.height(), std::max(64, px.height() / 2), [&](int begin, int end) {
        Difference difference(from);
        Rgba last{1, 2, 3, 4};
        std::uint8_t value = 0;
        bool known = false;
        for (int y = begin; y < end; ++y) {
            if ((y & 63) == 0)
                work.check();
            const Rgba* row = px.row(y);
            std::uint8_t* to = out.row(y);
            for (int x = 0; x < px.width(); ++x) {
                if (!known || row[x] != last) {
                    last = row[x];
                    known = true;
                    float d = difference(last);
                    if (clearIsLike)
                        d *= float(last.a) / 255;
                    else if (last.a < 128)
                        d = 63;
                    value = std::uint8_t(std::min(252.0f, d * 4 + 0.5f));
                }
                to[x] = value;
            }
        }
    });
    return out;
}

Gray8 awayFrom(const Rgba8& px, const Gray8& difference, double level, Reach reach, const std::vector<Point>& places, const Work& work)
{
    const int w = difference.width(), h = difference.height();
    const int quarter = std::max(1, int(std::lround(level * 4)));
    cv::Mat like(h + 2, w + 2, CV_8U, cv::Scalar(reach == Reach::Places ? 0 : 1)); // 1 like, 0 other, 2 like and within reach
    for (int y = 0; y < h; ++y) {
        const std::uint8_t* d = difference.row(y);
        std::uint8_t* p = like.ptr(y + 1) + 1;
        for (int x = 0; x < w; ++x)
            p[x] = d[x] < quarter;
    }
    work.check();
    if (reach == Reach::Rim)
        cv::floodFill(like, {0, 0}, cv::Scalar(2), nullptr, {}, {}, 4);
    for (const Point p : places) {
        const int x = int(std::floor(p.x)), y = int(std::floor(p.y));
        if (reach == Reach::Places && x >= 0 && y >= 0 && x < w && y < h && like.at<std::uint8_t>(y + 1, x + 1) == 1)
            cv::floodFill(like, {x + 1, y + 1}, cv::Scalar(2), nullptr, {}, {}, 4);
        work.check();
    }
    cv::Mat reached = like == (reach == Reach::Anywhere ? 1 : 2), near;
    cv::dilate(reached, near, cv::getStructuringElement(cv::MORPH_RECT, {5, 5}));
    work.check();
    Gray8 out(w, h);
    parallelSlices(h, 64, [&](int begin, int end) {
        const auto at = [&](int x, int y) -> int { return difference.at(std::clamp(x, 0, w - 1), std::clamp(y, 0, h - 1)); };
        for (int y = begin; y < end; ++y) {
            const std::uint8_t* n = near.ptr(y + 1) + 1;
            const std::uint8_t* r = reached.ptr(y + 1) + 1;
            const std::uint8_t* d = difference.row(y);
            std::uint8_t* to = out.row(y);
            for (int x = 0; x < w; ++x) {
                if (!n[x]) {
                    to[x] = 255;
                    continue;
                }
                if (r[x] && d[x] * 4 < quarter) {
                    to[x] = 0;
                    continue;
                }
                const int gx = at(x + 1, y - 1) + 2 * at(x + 1, y) + at(x + 1, y + 1) - at(x - 1, y - 1) - 2 * at(x - 1, y) - at(x - 1, y + 1);
                const int gy = at(x - 1, y + 1) + 2 * at(x, y + 1) + at(x + 1, y + 1) - at(x - 1, y - 1) - 2 * at(x, y - 1) - at(x + 1, y - 1);
                const double norm = std::hypot(gx, gy);
                int ink = d[x];
                if (norm > 0) {
                    const int dx = int(std::lround(2 * gx / norm)), dy = int(std::lround(2 * gy / norm));
                    ink = std::max(ink, at(x + dx, y + dy));
                    const auto colour = [&](int i, int j) { return px.at(std::clamp(i, 0, w - 1), std::clamp(j, 0, h - 1)); };
                    const Rgba here = colour(x, y), firm = colour(x + dx, y + dy), back = colour(x - dx, y - dy);
                    // Towards the firm side it may be another edge's mixture that is found.
                    if (ink >= 2 * quarter && at(x + dx, y + dy) >= 2 * quarter && at(x - dx, y - dy) < quarter && here.a == 255 && firm.a == 255 &&
                        back.a == 255) {
                        const int fr = firm.r - back.r, fg = firm.g - back.g, fb = firm.b - back.b;
                        const int whole = fr * fr + fg * fg + fb * fb;
                        const int part = fr * (here.r - back.r) + fg * (here.g - back.g) + fb * (here.b - back.b);
                        to[x] = whole > 0 ? std::uint8_t(std::clamp(255.0 * part / whole, 0.0, 255.0) + 0.5) : 255;
                        continue;
                    }
                }
                to[x] = std::uint8_t(std::min(255, 255 * int(d[x]) / std::max(ink, 2 * quarter)));
            }
        }
    });
    return out;
}

} // namespace yokai::rules
