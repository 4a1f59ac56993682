#include "keep/colour.h"
#include "keep/rules.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>

namespace yokai {

namespace {

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

void choose(Coverage& out, const Rgba8& px, const std::vector<Rgba>& edge, const Gray8* within)
{
    const auto clear = std::count_if(edge.begin(), edge.end(), [](Rgba c) { return c.a < 128; });
    if (clear * 10 >= std::ptrdiff_t(edge.size())) {
        out.rule = KeepRule::Alpha;
        out.why = KeepWhy::Clear;
        return;
    }
    // Transparent somewhere inside, though the rim is covered?
    std::size_t inside = 0;
    for (int y = 0; y < px.height(); y += 4)
        for (int x = 0; x < px.width(); x += 4)
            inside += px.at(x, y).a < 128 && (!within || within->at(x, y) == 255);
    if (inside * 16 * 50 > px.size()) {
        out.rule = KeepRule::Alpha;
        out.why = KeepWhy::ClearWithin;
        return;
    }
    const Lab paper = labOf(out.papers.front());
    const auto like = std::count_if(edge.begin(), edge.end(), [&](Rgba c) { return ciede2000(paper, labOf(c)) < 8; });
    if (like * 2 >= std::ptrdiff_t(edge.size())) {
        out.rule = KeepRule::Paper;
        out.why = KeepWhy::OneColour;
        return;
    }
    out.rule = KeepRule::All;
    out.why = KeepWhy::FillsFrame;
}

// Whether the edge has no soft pixels, as 1-bit art and selections have none.
bool allOrNothing(const Gray8& coverage)
{
    long hard = 0, all = 0;
    // Some 200 rows tell.
    for (int y = 0; y < coverage.height(); y += std::max(1, coverage.height() / 200)) {
        const std::uint8_t* row = coverage.row(y);
        for (int x = 0; x + 1 < coverage.width(); ++x)
            if ((row[x] ^ row[x + 1]) & 0x80) {
                ++all;
                hard += std::abs(row[x] - row[x + 1]) > 250;
            }
    }
    return all > 20 && hard * 10 > all * 8;
}

// How far the edge strays from its course, pixels; six bands of a tall picture tell.
double raggednessOf(const Gray8& coverage, const Work& work)
{
    constexpr int bands = 6, rows = 64, brink = 6;
    const int h = coverage.height(), each = h <= 2 * bands * rows ? h : rows;
    Contours edge;
    for (int k = 0; k < (each == h ? 1 : bands); ++k) {
        Gray8 band(coverage.width(), each);
        const int top = each == h ? 0 : int(std::int64_t(h - each) * k / (bands - 1));
        std::copy_n(coverage.row(top), band.size(), band.all().data());
        for (Contour& c : traceEdge(band, work))
            edge.push_back(std::move(c));
    }
    return each == h ? roughnessOf(edge, 0, h) : roughnessOf(edge, brink, rows - brink);
}

// Standard deviation of the smoothing that a picture needs, in pixels: all-or-nothing
// edges are read as stairs, coarsely drawn and noisy ones are little better, and JPEG
// makes hair of what it compresses.
constexpr double stairs = 1.1, hair = 0.7;
// A clean edge strays by up to 0.01, of those looked at; one between whose pixels was
// interpolated by 0.021; a lightly compressed one by 0.04.
constexpr double ragged = 0.018, raggedOfTurned = 0.028, veryRagged = 0.06;

std::vector<Rgba> coloursOf(const std::vector<Swatch>& swatches)
{
    std::vector<Rgba> out;
    for (const Swatch& s : swatches)
        out.push_back(s.colour);
    return out;
}

} // namespace

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

Coverage ruledCoverage(const Rgba8& px, const RuleSpec& spec, const KeepGround& ground, const Work& work)
{
    Coverage out;
    out.rule = spec.rule;
    const std::vector<Rgba> edge = rules::rim(px, ground.within);
    out.papers = spec.papers.empty() ? std::vector{rules::paperOf(edge)} : coloursOf(spec.papers);
    if (spec.rule == KeepRule::Auto)
        choose(out, px, edge, ground.within);
    const double usual = out.rule == KeepRule::Paper ? rules::levelAbove(edge, out.papers.front()) : usualLevel(out.rule);
    out.level = std::clamp(spec.level.value_or(usual), 0.0, 100.0);
    const double level = out.level;
    Gray8 coverage;
    switch (out.rule) {
    case KeepRule::Auto:
    case KeepRule::All:
        coverage = Gray8(px.width(), px.height(), 255);
        if (ground.within)
            std::copy(ground.within->all().begin(), ground.within->all().end(), coverage.all().begin());
        break;
    case KeepRule::Alpha: {
        if (level == 50) { // the channel as it is, a word a pixel so that many go at once
            coverage = eachPixel(px, work, [](Rgba c) { return std::uint8_t(std::bit_cast<std::uint32_t>(c) >> 24); });
            break;
        }
        // The alpha channel is the coverage; the level moves where its middle lies.
        std::array<std::uint8_t, 256> table{};
        for (int a = 0; a < 256; ++a)
            table[std::size_t(a)] = a == 0 ? 0 : a == 255 ? 255 : byte(a + (50 - level) * 2.55);
        coverage = eachPixel(px, work, [&](Rgba c) { return table[c.a]; });
        break;
    }
    case KeepRule::Paper:
        coverage = rules::awayFrom(px, rules::differences(px, out.papers, true, work), std::max(0.5, level),
                                   spec.paperAnywhere ? rules::Reach::Anywhere : rules::Reach::Rim, {}, work);
        break;
    case KeepRule::Colour: {
        if (spec.colours.empty()) {
            coverage = Gray8(px.width(), px.height(), 0);
            break;
        }
        std::vector<Point> places;
        for (const Swatch& s : spec.colours)
            if (s.at)
                places.push_back(ground.fromSource(*s.at));
        const bool spreads = spec.oneArea && !places.empty();
        coverage = rules::awayFrom(px, rules::differences(px, coloursOf(spec.colours), false, work), std::max(0.5, level),
                                   spreads ? rules::Reach::Places : rules::Reach::Anywhere, places, work);
        for (std::uint8_t& c : coverage.all())
            c = std::uint8_t(255 - c);
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
    const bool hard = out.rule != KeepRule::All && allOrNothing(coverage);
    // By transparency the picture says itself how it is to be taken.
    const double strays = hard || out.rule == KeepRule::All || out.rule == KeepRule::Alpha ? 0 : raggednessOf(coverage, work);
    const bool compressed = ground.lossy && out.rule != KeepRule::Alpha && out.rule != KeepRule::All;
    const bool rough = strays > (ground.within ? raggedOfTurned : ragged);
    out.uncertain = hard ? 0.25 : rough ? 0.2 : 0.1;
    double sigma = 0;
    if (spec.smoothing)
        sigma = spec.smoothing->mm() * ground.pxPerMm;
    else if (hard || (rough && (!compressed || strays > veryRagged)))
        sigma = stairs;
    else if (compressed)
        sigma = hair;
    if (sigma > 0.05) {
        out.smoothing = sigma;
        out.opaqueInside = true;
        cv::Mat mat(coverage.height(), coverage.width(), CV_8U, coverage.all().data());
        work.check();
        cv::GaussianBlur(mat, mat, {}, std::min(sigma, 200.0), 0, cv::BORDER_REPLICATE);
        work.check();
    }
    out.pixels = std::make_shared<const Gray8>(std::move(coverage));
    return out;
}

Coverage coverageOf(const Rgba8& px, const KeepSpec& spec, const KeepGround& ground, const Work& work)
{
    Coverage out = insideOnly(ruledCoverage(px, spec, ground, work), spec.onlyInside, ground, work);
    for (const Touch& touch : spec.touches)
        out = touched(out, touch, px, ground, work);
    return out;
}

} // namespace yokai
