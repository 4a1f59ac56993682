#include "keep/colour.h"
#include "keep/rules.h"
#include "keep/subject.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>

namespace yokai {

namespace {

template <class F> Gray8 eachPixel(const Rgba8& px, const Work& work, F f)
{
    Gray8 out(px.width(), px.height());
    const int width = px.width(); // by itself: a byte written might be one of its
    eachRow(px.height(), width, work, [&px, &out, width, f](int y) {
        const Rgba* from = px.row(y);
        std::uint8_t* to = out.row(y);
        for (int x = 0; x < width; ++x)
            to[x] = f(from[x]);
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
constexpr double stairs = 1.1, hair = 0.7, faint = 1.5; // faint ink in a compressed picture
// A clean edge strays by up to 0.01, of those looked at; one between whose pixels was
// interpolated by 0.021; a lightly compressed one by 0.04.
constexpr double ragged = 0.018, raggedOfTurned = 0.028, veryRagged = 0.06, lostInNoise = 0.07;

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

namespace {

// The alpha channel is the coverage; the level moves where its middle lies.
Gray8 byAlpha(const Rgba8& px, double level, const Work& work)
{
    constexpr double middle = 50;
    if (level == middle) // the channel as it is, a word a pixel so that many go at once
        return eachPixel(px, work, [](Rgba c) { return std::uint8_t(std::bit_cast<std::uint32_t>(c) >> 24); });
    std::array<std::uint8_t, 256> table{};
    for (int a = 0; a < 256; ++a)
        table[std::size_t(a)] = a == 0 ? 0 : a == 255 ? 255 : byte(a + (middle - level) * 2.55);
    return eachPixel(px, work, [&](Rgba c) { return table[c.a]; });
}

Gray8 byColour(const Rgba8& px, const RuleSpec& spec, double level, const KeepGround& ground, const Work& work)
{
    if (spec.colours.empty())
        return Gray8(px.width(), px.height(), 0);
    std::vector<Point> places;
    for (const Swatch& s : spec.colours)
        if (s.at)
            places.push_back(ground.fromSource(*s.at));
    const bool spreads = spec.oneArea && !places.empty();
    Gray8 away = rules::awayFrom(px, rules::differences(px, coloursOf(spec.colours), false, work), level,
                                 spreads ? rules::Reach::Places : rules::Reach::Anywhere, places, ground.lossy, work);
    eachRow(away.height(), away.width(), work, [&](int y) {
        for (std::uint8_t *c = away.row(y), *last = c + away.width(); c != last; ++c)
            *c = std::uint8_t(255 - *c);
    });
    return away;
}

Gray8 byLightness(const Rgba8& px, double level, bool dark, const Work& work)
{
    // The lightness level as a grey value; luma is near enough to compare against it.
    int threshold = 0;
    while (threshold < 255 && labOf({std::uint8_t(threshold), std::uint8_t(threshold), std::uint8_t(threshold), 255}).L < level)
        ++threshold;
    return eachPixel(px, work, [&](Rgba c) {
        const double luma = 0.2126 * c.r + 0.7152 * c.g + 0.0722 * c.b;
        const double d = dark ? threshold - luma : luma - threshold;
        return byte((127.5 + d) * c.a / 255);
    });
}

Gray8 all(const Rgba8& px, const KeepGround& ground, const Work& work)
{
    Gray8 out(px.width(), px.height());
    eachRow(px.height(), px.width(), work, [&](int y) {
        if (ground.within)
            std::copy_n(ground.within->row(y), px.width(), out.row(y));
        else
            std::fill_n(out.row(y), px.width(), std::uint8_t(255));
    });
    return out;
}

Gray8 byRule(const Rgba8& px, const RuleSpec& spec, const Coverage& chosen, const KeepGround& ground, const Work& work)
{
    constexpr double leastLevel = 0.5; // of a difference: below it nothing is like anything
    switch (chosen.rule) {
    case KeepRule::Auto:
    case KeepRule::All:
        return all(px, ground, work);
    case KeepRule::Alpha:
        return byAlpha(px, chosen.level, work);
    case KeepRule::Paper:
        return rules::awayFrom(px, rules::differences(px, chosen.papers, true, work), std::max(leastLevel, chosen.level),
                               spec.paperAnywhere ? rules::Reach::Anywhere : rules::Reach::Rim, {}, ground.lossy, work);
    case KeepRule::Colour:
        return byColour(px, spec, std::max(leastLevel, chosen.level), ground, work);
    case KeepRule::Subject:
        return ground.subject ? brought(*ground.subject, ground.fromSource, px.width(), px.height(), work) : subjectOf(px, spec.subject, ground.fromSource, work);
    case KeepRule::Dark:
    case KeepRule::Light:
        return byLightness(px, chosen.level, chosen.rule == KeepRule::Dark, work);
    }
    return {};
}

// How much smoothing the edge needs, pixels, and how closely it can be known.
double smoothingOf(const Gray8& coverage, const RuleSpec& spec, Coverage& out, const KeepGround& ground, const Work& work)
{
    const bool edged = out.rule != KeepRule::All,
               judged = edged && out.rule != KeepRule::Alpha; // by transparency the picture says itself how it is to be taken
    const bool hard = edged && allOrNothing(coverage);
    const double strays = hard || !judged ? 0 : raggednessOf(coverage, work);
    const bool compressed = ground.lossy && judged;
    const bool rough = strays > (ground.within ? raggedOfTurned : ragged);
    constexpr double ofStairs = 0.25, ofRagged = 0.2, ofSoft = 0.1; // px by which an edge may lie off
    out.uncertain = hard ? ofStairs : rough ? ofRagged : ofSoft;
    if (spec.smoothing)
        return spec.smoothing->mm() * ground.pxPerMm;
    if (compressed && strays > lostInNoise)
        return faint;
    if (hard || (rough && (!compressed || strays > veryRagged)))
        return stairs;
    return compressed ? hair : 0;
}

} // namespace

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
    Gray8 coverage = byRule(px, spec, out, ground, work);
    constexpr double least = 0.05, most = 200; // pixels: what cannot be seen, and what no edge survives
    if (const double sigma = smoothingOf(coverage, spec, out, ground, work); sigma > least) {
        out.smoothing = sigma;
        out.opaqueInside = true;
        rules::blur(coverage, std::min(sigma, most), work);
    }
    // Colours that compression halved went through a box of two pixels and a tent of two, one pixel
    // together, and reading noisy pixels by threes along an edge adds as much at a corner's tip.
    constexpr double halvedColours = 1.2;
    out.softness = out.smoothing > 0 && ground.lossy ? std::hypot(out.smoothing, halvedColours) : out.smoothing;
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
