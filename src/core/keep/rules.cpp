#include "keep/rules.h"

#include "keep/colour.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

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
    constexpr double nearlyAll = 0.99, beyondThem = 2, least = 5, most = 20; // CIEDE2000
    const auto nth = strays.begin() + std::ptrdiff_t(double(strays.size() - 1) * nearlyAll);
    std::nth_element(strays.begin(), nth, strays.end());
    return std::clamp(std::round(*nth * beyondThem + 3), least, most);
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

std::uint8_t packed(double difference)
{
    constexpr double fineUpTo = 40, fine = 4, coarse = 1.5; // steps a unit
    return std::uint8_t(std::min(252.0, difference <= fineUpTo ? fine * difference : fine * fineUpTo + coarse * (difference - fineUpTo)) + 0.5);
}

Gray8 differences(const Rgba8& px, const std::vector<Rgba>& from, bool clearIsLike, const Work& work)
{
    Gray8 out(px.width(), px.height());
    // Few slices: each has to meet the colours anew.
    parallelSlices(px.height(), std::max(64, px.height() / 2), [&](int begin, int end) {
        constexpr double beyond = 63; // what is clear is unlike any colour
        Difference difference(from);
        Rgba last{1, 2, 3, 4};
        std::uint8_t value = 0;
        bool known = false;
        for (int y = begin; y < end; ++y) {
            if ((y & 3) == 0)
                work.check();
            const Rgba* row = px.row(y);
            std::uint8_t* to = out.row(y);
            for (int x = 0; x < px.width(); ++x) {
                if (!known || row[x] != last) {
                    last = row[x];
                    known = true;
                    double d = difference(last);
                    if (clearIsLike)
                        d *= double(last.a) / 255;
                    else if (last.a < 128)
                        d = beyond;
                    value = packed(d);
                }
                to[x] = value;
            }
        }
    });
    return out;
}

namespace {

// Runs filter(from, to) for bands of rows. The bands are parts of the whole, and OpenCV looks
// past a part's border into the whole it is of.
template <class Filter> void inBands(const cv::Mat& from, cv::Mat& to, const Work& work, Filter filter)
{
    constexpr int band = 96;
    parallelSlices((from.rows + band - 1) / band, 1, [&](int begin, int end) {
        for (int b = begin; b < end; ++b) {
            work.check();
            const cv::Range rows(b * band, std::min(from.rows, (b + 1) * band));
            cv::Mat part = to.rowRange(rows);
            filter(from.rowRange(rows), part);
        }
    });
}

cv::Mat matOf(const Gray8& g) { return {g.height(), g.width(), CV_8U, const_cast<std::uint8_t*>(g.all().data())}; }

constexpr std::uint8_t other = 0, like = 1, reached = 2;

// Spreads over what is like and joined to a place, by its four sides: whole runs of a row at a time.
void spread(Gray8& map, int x, int y, const Work& work)
{
    const int w = map.width(), h = map.height();
    if (x < 0 || y < 0 || x >= w || y >= h || map.at(x, y) != like)
        return;
    std::vector<std::pair<int, int>> open{{x, y}};
    std::size_t done = 0;
    while (!open.empty()) {
        const auto [at, row] = open.back();
        open.pop_back();
        std::uint8_t* line = map.row(row);
        if (line[at] != like)
            continue;
        int from = at, to = at;
        while (from > 0 && line[from - 1] == like)
            --from;
        while (to + 1 < w && line[to + 1] == like)
            ++to;
        std::fill(line + from, line + to + 1, reached);
        for (const int next : {row - 1, row + 1}) {
            if (next < 0 || next >= h)
                continue;
            const std::uint8_t* beside = map.row(next);
            for (int i = from; i <= to; ++i)
                if (beside[i] == like && (i == from || beside[i - 1] != like))
                    open.emplace_back(i, next);
        }
        if ((done += std::size_t(to - from)) > (1u << 20)) {
            done = 0;
            work.check();
        }
    }
}

// What is like the colours, and of that what is within reach.
Gray8 likeness(const Gray8& difference, std::uint8_t level, Reach reach, const std::vector<Point>& places, const Work& work)
{
    const int w = difference.width(), h = difference.height();
    Gray8 map(w, h);
    eachRow(h, w, work, [&](int y) {
        const std::uint8_t* d = difference.row(y);
        std::uint8_t* p = map.row(y);
        for (int x = 0; x < w; ++x)
            p[x] = d[x] < level ? (reach == Reach::Anywhere ? reached : like) : other;
    });
    if (reach == Reach::Rim) {
        for (int x = 0; x < w; ++x) {
            spread(map, x, 0, work);
            spread(map, x, h - 1, work);
        }
        for (int y = 0; y < h; ++y) {
            spread(map, 0, y, work);
            spread(map, w - 1, y, work);
        }
    }
    if (reach == Reach::Places)
        for (const Point p : places)
            spread(map, int(std::floor(p.x)), int(std::floor(p.y)), work);
    eachRow(h, w, work, [&](int y) {
        std::uint8_t* p = map.row(y);
        for (int x = 0; x < w; ++x)
            p[x] = p[x] == reached;
    });
    return map;
}

// How far a colour has gone from one to another, 0..1, each channel weighed by how much it
// tells: its contrast over its noise. As compression has it: brightness is kept pixel by
// pixel, the two colour differences only in squares of two by two and coarsely.
double mixture(Rgba here, Rgba back, Rgba firm, bool lossy)
{
    const auto part = [&](double r, double g, double b) { // one direction in colour space
        const double whole = r * (firm.r - back.r) + g * (firm.g - back.g) + b * (firm.b - back.b);
        const double gone = r * (here.r - back.r) + g * (here.g - back.g) + b * (here.b - back.b);
        return std::pair(whole, gone);
    };
    double whole = 0, gone = 0;
    const auto add = [&](std::pair<double, double> p, double weight) {
        whole += weight * p.first * p.first;
        gone += weight * p.first * p.second;
    };
    if (lossy) {
        // ITU-R BT.601, as JFIF has it. Halved colours are known a fourth as often and about half as well.
        constexpr double colours = 1.0 / 16;
        add(part(0.299, 0.587, 0.114), 1);
        add(part(-0.1687, -0.3313, 0.5), colours);
        add(part(0.5, -0.4187, -0.0813), colours);
    } else {
        add(part(1, 0, 0), 1);
        add(part(0, 1, 0), 1);
        add(part(0, 0, 1), 1);
    }
    return whole > 0 ? std::clamp(gone / whole, 0.0, 1.0) : 1;
}

class Edge {
public:
    Edge(const Rgba8& px, const Gray8& difference, std::uint8_t level, bool lossy)
        : px_(px), difference_(difference), w_(px.width()), h_(px.height()), level_(level), lossy_(lossy)
    {}

    // The cover of a pixel near where the two meet.
    std::uint8_t cover(int x, int y) const
    {
        const int d = at(x, y);
        const int gx = at(x + 1, y - 1) + 2 * at(x + 1, y) + at(x + 1, y + 1) - at(x - 1, y - 1) - 2 * at(x - 1, y) - at(x - 1, y + 1);
        const int gy = at(x - 1, y + 1) + 2 * at(x, y + 1) + at(x + 1, y + 1) - at(x - 1, y - 1) - 2 * at(x, y - 1) - at(x + 1, y - 1);
        const double norm = std::hypot(gx, gy);
        if (norm == 0)
            return byLevel(d, d);
        const Point across{gx / norm, gy / norm};
        Step ahead = stepped(across, 2);
        // Halved colours run farther into one another than brightness does; where that tells little, one looks farther.
        const auto tellsLittle = [&] {
            return std::abs(lightness(colour(x + ahead.x, y + ahead.y)) - lightness(colour(x - ahead.x, y - ahead.y))) < clearlyDarker;
        };
        if (lossy_ && tellsLittle())
            ahead = stepped(across, 3);
        const Rgba firm = read(x + ahead.x, y + ahead.y, across), back = read(x - ahead.x, y - ahead.y, across);
        const Rgba here = lossy_ && tellsLittle() ? read(x, y, across) : colour(x, y);
        const int ink = at(x + ahead.x, y + ahead.y);
        // Towards the firm side it may be another edge's mixture that is found.
        if ((ink >= 2 * level_ || faintInk(x, y, ahead)) && at(x - ahead.x, y - ahead.y) < level_ && here.a == 255 && firm.a == 255 && back.a == 255)
            return std::uint8_t(255 * mixture(here, back, firm, lossy_) + 0.5);
        // A slight tint as bright as paper, beside a clearly darker ink, is compression's own.
        constexpr double asBright = 12; // of 255
        if (lossy_ && d < 2 * level_)
            if (const auto [darkest, lightest] = lightnessRound(x, y); lightest - darkest >= clearlyDarker)
                if (const double darker = lightest - lightness(colour(x, y)); darker < asBright)
                    return std::uint8_t(255 * darker / (lightest - darkest) + 0.5);
        return byLevel(d, std::max(d, ink));
    }

private:
    struct Step {
        int x, y;
    };
    static constexpr double clearlyDarker = 45; // of 255, in brightness

    static Step stepped(Point direction, double length) { return {int(std::lround(length * direction.x)), int(std::lround(length * direction.y))}; }

    // What is there; of compressed pictures the mean of three along the edge, as single pixels are noisy.
    Rgba read(int x, int y, Point across) const
    {
        if (!lossy_)
            return colour(x, y);
        const Step along = stepped({across.y, -across.x}, std::numbers::sqrt2);
        const Rgba p = colour(x, y), q = colour(x + along.x, y + along.y), r = colour(x - along.x, y - along.y);
        const auto mean = [](int a, int b, int c) { return std::uint8_t((a + b + c + 1) / 3); };
        return {mean(p.r, q.r, r.r), mean(p.g, q.g, r.g), mean(p.b, q.b, r.b), std::min({p.a, q.a, r.a})};
    }

    // The least and the most within five pixels.
    std::pair<double, double> lightnessRound(int x, int y) const
    {
        double darkest = 255, lightest = 0;
        for (int j = -around; j <= around; ++j)
            for (int i = -around; i <= around; ++i) {
                const double l = lightness(colour(x + i, y + j));
                darkest = std::min(darkest, l);
                lightest = std::max(lightest, l);
            }
        return {darkest, lightest};
    }

    // Ink not much stronger than the level is told from a soft shadow by its evenness, and from
    // what compression made of a strong ink nearby by there being none.
    bool faintInk(int x, int y, Step ahead) const
    {
        const int ink = at(x + ahead.x, y + ahead.y), farther = at(x + 2 * ahead.x, y + 2 * ahead.y);
        if (4 * ink < 5 * level_ || 4 * std::abs(farther - ink) > ink)
            return false;
        int most = 0;
        for (int j = -around; j <= around; ++j)
            for (int i = -around; i <= around; ++i)
                most = std::max(most, at(x + i, y + j));
        return most < 3 * level_;
    }
    static constexpr int around = 5; // pixels: as far as compression carries a colour

    // Half where the level is; full where the ink is firm, twice the level at least, as far as that can be told.
    std::uint8_t byLevel(int d, int ink) const
    {
        constexpr int most = 252;
        const int full = std::max(ink, 2 * level_);
        if (full <= most)
            return std::uint8_t(std::min(255, 255 * d / full));
        const double half = 127.5;
        return std::uint8_t(std::min(255.0, d < level_ ? half * d / level_ : half + half * (d - level_) / std::max(1, most - level_)) + 0.5);
    }
    static double lightness(Rgba c) { return 0.299 * c.r + 0.587 * c.g + 0.114 * c.b; }
    int at(int x, int y) const { return difference_.at(std::clamp(x, 0, w_ - 1), std::clamp(y, 0, h_ - 1)); }
    Rgba colour(int x, int y) const { return px_.at(std::clamp(x, 0, w_ - 1), std::clamp(y, 0, h_ - 1)); }
    const Rgba8& px_;
    const Gray8& difference_;
    int w_, h_, level_;
    bool lossy_;
};

} // namespace

void blur(Gray8& pixels, double sigma, const Work& work)
{
    Gray8 from(pixels.width(), pixels.height());
    eachRow(pixels.height(), pixels.width(), work, [&](int y) { std::copy_n(pixels.row(y), pixels.width(), from.row(y)); });
    cv::Mat to = matOf(pixels);
    inBands(matOf(from), to, work, [&](const cv::Mat& a, cv::Mat& b) { cv::GaussianBlur(a, b, {}, sigma, 0, cv::BORDER_REPLICATE); });
}

void grow(const Gray8& from, Gray8& to, int side, bool shrink, const Work& work)
{
    const cv::Mat square = cv::getStructuringElement(cv::MORPH_RECT, {side, side});
    cv::Mat out = matOf(to);
    inBands(matOf(from), out, work, [&](const cv::Mat& a, cv::Mat& b) { shrink ? cv::erode(a, b, square) : cv::dilate(a, b, square); });
}

Gray8 awayFrom(const Rgba8& px, const Gray8& difference, double level, Reach reach, const std::vector<Point>& places, bool lossy, const Work& work)
{
    const int w = difference.width(), h = difference.height();
    const std::uint8_t threshold = std::max<std::uint8_t>(1, packed(level));
    const int beyond = lossy ? 7 : 5; // the square an edge's mixtures lie in
    const Gray8 within = likeness(difference, threshold, reach, places, work);
    Gray8 near(w, h), out(w, h);
    grow(within, near, beyond, false, work);
    const Edge edge(px, difference, threshold, lossy);
    eachRow(h, w, work, [&](int y) {
        const std::uint8_t *n = near.row(y), *r = within.row(y), *d = difference.row(y);
        std::uint8_t* to = out.row(y);
        for (int x = 0; x < w; ++x)
            to[x] = !n[x] ? 255 : r[x] && d[x] * 4 < threshold ? 0 : edge.cover(x, y);
    });
    return out;
}

} // namespace yokai::rules
