#include "keep/colour.h"
#include "keep/keep.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>

namespace yokai {

namespace {

struct RuleName {
    KeepRule rule;
    const char* name;
};
constexpr RuleName ruleNames[] = {{KeepRule::Auto, "auto"},   {KeepRule::Alpha, "alpha"},   {KeepRule::Paper, "paper"}, {KeepRule::Dark, "dark"},
                                  {KeepRule::Light, "light"}, {KeepRule::Colour, "colour"}, {KeepRule::All, "all"}};

// The pixels of the picture's rim, evenly sampled.
std::vector<Rgba> rim(const Rgba8& px)
{
    std::vector<Rgba> out;
    const int w = px.width(), h = px.height();
    const int step = std::max(1, (w + h) / 4000);
    for (int x = 0; x < w; x += step) {
        out.push_back(px.at(x, 0));
        out.push_back(px.at(x, h - 1));
    }
    for (int y = 0; y < h; y += step) {
        out.push_back(px.at(0, y));
        out.push_back(px.at(w - 1, y));
    }
    return out;
}

// The most frequent colour of the rim, averaged over what is like it.
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

// CIEDE2000 from one colour to many pixels, remembering colours met before.
class Difference {
public:
    explicit Difference(Rgba from) : from_(labOf(from)), keys_(slots, 0xffffffffu), values_(slots) {}
    float operator()(Rgba c)
    {
        const std::uint32_t key = std::uint32_t(c.r) << 16 | std::uint32_t(c.g) << 8 | c.b;
        const std::size_t slot = (key * 2654435761u) >> 17;
        if (keys_[slot] != key) {
            keys_[slot] = key;
            values_[slot] = float(ciede2000(from_, labOf(c)));
        }
        return values_[slot];
    }

private:
    static constexpr std::size_t slots = 1 << 15;
    Lab from_;
    std::vector<std::uint32_t> keys_;
    std::vector<float> values_;
};

// Differences over the whole picture in quarter units, 63 and more as 252. A
// transparent pixel shows the paper through it.
Gray8 differences(const Rgba8& px, Rgba from, bool transparentIsPaper, const Work& work)
{
    Gray8 out(px.width(), px.height());
    parallelSlices(px.height(), 64, [&](int begin, int end) {
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
                    if (transparentIsPaper && last.a < 255)
                        d *= float(last.a) / 255;
                    value = std::uint8_t(std::min(252.0f, d * 4 + 0.5f));
                }
                to[x] = value;
            }
        }
    });
    return out;
}

// Paper is what is like the paper and reaches the picture's edge; all else is kept.
// Where the two meet, a pixel is a mixture of paper and of the ink it borders, and
// its coverage is its difference as a part of that ink's, which is looked up two
// pixels further in. A soft shadow has no such ink: there the level itself is the edge.
Gray8 awayFromPaper(const Gray8& difference, double level, const Work& work)
{
    const int w = difference.width(), h = difference.height();
    const int quarter = std::max(1, int(std::lround(level * 4)));
    cv::Mat paper(h + 2, w + 2, CV_8U, cv::Scalar(1)); // 1 paper, 0 other, 2 paper reached from the edge
    for (int y = 0; y < h; ++y) {
        const std::uint8_t* d = difference.row(y);
        std::uint8_t* p = paper.ptr(y + 1) + 1;
        for (int x = 0; x < w; ++x)
            p[x] = d[x] < quarter;
    }
    work.check();
    cv::floodFill(paper, {0, 0}, cv::Scalar(2), nullptr, {}, {}, 4);
    work.check();
    cv::Mat reached = paper == 2, near;
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
                if (norm > 0)
                    ink = std::max(ink, at(x + int(std::lround(2 * gx / norm)), y + int(std::lround(2 * gy / norm))));
                to[x] = std::uint8_t(std::min(255, 255 * int(d[x]) / std::max(ink, 2 * quarter)));
            }
        }
    });
    return out;
}

// How far the paper itself strays from its colour, with room to spare: what a
// level must exceed so that noise is not taken for picture.
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

template <class F> Gray8 eachPixel(const Rgba8& px, const Work& work, F f)
{
    Gray8 out(px.width(), px.height());
    parallelSlices(px.height(), 64, [&](int begin, int end) {
        for (int y = begin; y < end; ++y) {
            if ((y & 63) == 0)
                work.check();
            const Rgba* from = px.row(y);
            std::uint8_t* to = out.row(y);
            for (int x = 0; x < px.width(); ++x)
                to[x] = f(from[x]);
        }
    });
    return out;
}

std::uint8_t byte(double v) { return std::uint8_t(std::clamp(v, 0.0, 255.0) + 0.5); }

void choose(Coverage& out, const Rgba8& px)
{
    const auto edge = rim(px);
    const auto clear = std::count_if(edge.begin(), edge.end(), [](Rgba c) { return c.a < 128; });
    if (clear * 10 >= std::ptrdiff_t(edge.size())) {
        out.rule = KeepRule::Alpha;
        out.why = "its surround is transparent";
        return;
    }
    // Transparent somewhere inside, though the rim is covered?
    std::size_t inside = 0;
    for (int y = 0; y < px.height(); y += 4)
        for (int x = 0; x < px.width(); x += 4)
            inside += px.at(x, y).a < 128;
    if (inside * 16 * 50 > px.size()) {
        out.rule = KeepRule::Alpha;
        out.why = "part of it is transparent";
        return;
    }
    const Lab paper = labOf(out.paper);
    const auto like = std::count_if(edge.begin(), edge.end(), [&](Rgba c) { return ciede2000(paper, labOf(c)) < 8; });
    if (like * 2 >= std::ptrdiff_t(edge.size())) {
        out.rule = KeepRule::Paper;
        out.why = "its surround is one colour";
        return;
    }
    out.rule = KeepRule::All;
    out.why = "it fills its frame";
}

} // namespace

const char* name(KeepRule rule)
{
    for (const auto& r : ruleNames)
        if (r.rule == rule)
            return r.name;
    return "auto";
}

std::optional<KeepRule> keepRuleFrom(std::string_view text)
{
    for (const auto& r : ruleNames)
        if (text == r.name)
            return r.rule;
    return std::nullopt;
}

double usualLevel(KeepRule rule)
{
    switch (rule) {
    case KeepRule::Paper:
        return 8;
    case KeepRule::Colour:
        return 12;
    default:
        return 50;
    }
}

Coverage coverageOf(const Rgba8& px, const KeepSpec& spec, const Work& work)
{
    Coverage out;
    out.rule = spec.rule;
    out.paper = spec.paper ? *spec.paper : paperOf(rim(px));
    if (spec.rule == KeepRule::Auto)
        choose(out, px);
    const double usual = out.rule == KeepRule::Paper ? levelAbove(rim(px), out.paper) : usualLevel(out.rule);
    out.level = std::clamp(spec.level.value_or(usual), 0.0, 100.0);
    const double level = out.level;
    Gray8 coverage;
    switch (out.rule) {
    case KeepRule::Auto:
    case KeepRule::All:
        coverage = Gray8(px.width(), px.height(), 255);
        break;
    case KeepRule::Alpha: {
        // The alpha channel is the coverage; the level moves where its middle lies.
        std::array<std::uint8_t, 256> table{};
        for (int a = 0; a < 256; ++a)
            table[std::size_t(a)] = a == 0 ? 0 : a == 255 ? 255 : byte(a + (50 - level) * 2.55);
        coverage = eachPixel(px, work, [&](Rgba c) { return table[c.a]; });
        break;
    }
    case KeepRule::Paper:
        coverage = awayFromPaper(differences(px, out.paper, true, work), std::max(0.5, level), work);
        break;
    case KeepRule::Colour: {
        const Gray8 d = differences(px, spec.colour, false, work);
        const double quarter = std::max(1.0, level * 4);
        coverage = Gray8(px.width(), px.height());
        for (std::size_t i = 0; i < d.size(); ++i)
            coverage.all()[i] = px.all()[i].a < 128 ? 0 : byte(127.5 + 255 * (quarter - d.all()[i]) / (2 * quarter));
        break;
    }
    case KeepRule::Dark:
    case KeepRule::Light: {
        std::array<double, 256> grey{};
        for (int i = 0; i < 256; ++i)
            grey[std::size_t(i)] = i;
        // The lightness level as a grey value; luma is near enough to compare against it.
        int threshold = 0;
        while (threshold < 255 && labOf({std::uint8_t(threshold), std::uint8_t(threshold), std::uint8_t(threshold), 255}).L < level)
            ++threshold;
        const bool dark = out.rule == KeepRule::Dark;
        coverage = eachPixel(px, work, [&](Rgba c) {
            const double luma = 0.2126 * c.r + 0.7152 * c.g + 0.0722 * c.b;
            const double d = dark ? threshold - luma : luma - threshold;
            return byte((127.5 + d) * c.a / 255);
        });
        break;
    }
    }
    out.pixels = std::make_shared<const Gray8>(std::move(coverage));
    return out;
}

} // namespace yokai
