#include "layers/split.h"

#include "keep/colour.h"
#include "layers/clusters.h"
#include "layers/labels.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>

namespace yokai {

namespace {

constexpr int flatness = 10; // of 255: how far a flat pixel's neighbours may be from it, in each channel

bool alike(Rgba a, Rgba b) { return std::abs(a.r - b.r) <= flatness && std::abs(a.g - b.g) <= flatness && std::abs(a.b - b.b) <= flatness; }

// Where a pixel and all round it are alike, and opaque: 255, else 0.
Gray8 flatOf(const Rgba8& px, const Work& work)
{
    const int w = px.width(), h = px.height();
    Gray8 out(w, h);
    eachRow(h, w, work, [&](int y) {
        const Rgba *up = px.row(std::max(0, y - 1)), *on = px.row(y), *down = px.row(std::min(h - 1, y + 1));
        std::uint8_t* to = out.row(y);
        // A run of one colour, as most of a drawing is, is told by comparing words.
        const auto word = [](Rgba c) { return std::bit_cast<std::uint32_t>(c); };
        for (int x = 0; x < w; ++x) {
            const int l = std::max(0, x - 1), r = std::min(w - 1, x + 1);
            const std::uint32_t own = word(on[x]);
            const std::uint32_t differs = (word(up[l]) ^ own) | (word(up[x]) ^ own) | (word(up[r]) ^ own) | (word(on[l]) ^ own) | (word(on[r]) ^ own) | (word(down[l]) ^ own) |
                                          (word(down[x]) ^ own) | (word(down[r]) ^ own);
            bool flat = on[x].a >= opaque;
            if (flat && differs != 0)
                for (const Rgba c : {up[l], up[x], up[r], on[l], on[r], down[l], down[x], down[r]})
                    flat = flat && c.a >= opaque && alike(c, on[x]);
            to[x] = flat ? 255 : 0;
        }
    });
    return out;
}

// Grain and hair taken out, edges left where they are.
Rgba8 calmed(const Rgba8& px)
{
    constexpr int across = 5; // px
    Rgba8 out(px.width(), px.height());
    cv::Mat from(px.height(), px.width(), CV_8UC4, const_cast<Rgba*>(px.all().data())), to(px.height(), px.width(), CV_8UC4, out.all().data());
    cv::medianBlur(from, to, across);
    return out;
}

class Splitter {
public:
    Splitter(const Rgba8& px, const SplitSpec& spec, const Work& work) : px_(px), work_(work), flat_(spec.of == SplitOf::Photo ? Gray8() : flatOf(px, work))
    {
        const std::vector<Cluster> found = coloursOf(px, flat_, spec, work);
        if (found.empty())
            throw Error(ErrorKind::Input, "the picture is transparent all over; there are no colours to tell apart");
        for (const Cluster& c : found) {
            out_.colours.push_back({c.colour(), 0});
            labs_.push_back(c.middle);
        }
        nearest_.assign(std::size_t(1) << 15, unknown);
    }
    Split ofDrawing()
    {
        const int w = px_.width(), h = px_.height();
        out_.label = Raster<std::uint8_t>(w, h);
        out_.other = Raster<std::uint8_t>(w, h, noColour);
        out_.share = Gray8(w, h, 255);
        fillNearest();
        // What is flat decides what is not; so they are told apart first.
        Raster<std::uint8_t> flat(w, h, undecided);
        eachRow(h, w, work_, [&](int y) {
            for (int x = 0; x < w; ++x)
                if (px_.at(x, y).a == 0)
                    flat.at(x, y) = noColour;
                else if (flat_.at(x, y))
                    flat.at(x, y) = nearestTo(px_.at(x, y));
        });
        eachRow(h, w, work_, [&](int y) {
            for (int x = 0; x < w; ++x) {
                out_.label.at(x, y) = flat.at(x, y);
                if (flat.at(x, y) == undecided)
                    mixture(flat, x, y);
            }
        });
        mixThin(flat);
        if (clear_)
            ownRims();
        return std::move(out_);
    }
    // Every pixel the nearest: there are no mixtures, as all are shades.
    Split ofPhoto()
    {
        const int w = px_.width(), h = px_.height();
        out_.label = Raster<std::uint8_t>(w, h);
        out_.other = Raster<std::uint8_t>(w, h, noColour);
        out_.share = Gray8(w, h, 255);
        fillNearest();
        eachRow(h, w, work_, [&](int y) {
            for (int x = 0; x < w; ++x)
                out_.label.at(x, y) = px_.at(x, y).a < 128 ? noColour : nearestTo(px_.at(x, y));
        });
        return std::move(out_);
    }

private:
    static constexpr std::uint8_t undecided = 254, unknown = 253;
    static std::size_t cellOf(Rgba c) { return std::size_t((c.r >> 3) << 10 | (c.g >> 3) << 5 | (c.b >> 3)); }
    // Of every cell of colour space that occurs.
    void fillNearest()
    {
        for (int y = 0; y < px_.height(); ++y) {
            if (y % 64 == 0)
                work_.check();
            for (int x = 0; x < px_.width(); ++x) {
                const Rgba c = px_.at(x, y);
                clear_ = clear_ || c.a < opaque;
                if (std::uint8_t& n = nearest_[cellOf(c)]; n == unknown)
                    n = byDifference({std::uint8_t((c.r & 0xf8) + 4), std::uint8_t((c.g & 0xf8) + 4), std::uint8_t((c.b & 0xf8) + 4), 255});
            }
        }
    }
    std::uint8_t nearestTo(Rgba c) const { return nearest_[cellOf(c)]; }
    std::uint8_t byDifference(Rgba c) const
    {
        const Lab lab = labOf(c);
        std::size_t best = 0;
        double least = 1e9;
        for (std::size_t k = 0; k < labs_.size(); ++k)
            if (const double d = ciede2000(lab, labs_[k]); d < least) {
                least = d;
                best = k;
            }
        return std::uint8_t(best);
    }

    // The colours that are flat nearby, and how far off; more than so many are no edge.
    struct Beside {
        std::uint8_t label;
        double away; // pixels
    };
    struct AllBeside {
        std::array<Beside, 12> all;
        std::size_t count = 0;
        std::size_t size() const { return count; }
        const Beside& operator[](std::size_t k) const { return all[k]; }
        void add(std::uint8_t label, int squared)
        {
            for (std::size_t k = 0; k < count; ++k)
                if (all[k].label == label) {
                    all[k].away = std::min(all[k].away, double(squared));
                    return;
                }
            if (count < all.size())
                all[count++] = {label, double(squared)};
        }
    };
    static AllBeside near(const Raster<std::uint8_t>& flat, int x, int y)
    {
        AllBeside out;
        constexpr int enough = 3, farthest = 4; // pixels: softer edges are gradients
        const auto look = [&](int u, int v) {
            if (const std::uint8_t l = flat.at(u, v); l < unknown)
                out.add(l, (u - x) * (u - x) + (v - y) * (v - y));
        };
        const int w = flat.width() - 1, h = flat.height() - 1;
        for (int v = std::max(0, y - enough); v <= std::min(h, y + enough); ++v)
            for (int u = std::max(0, x - enough); u <= std::min(w, x + enough); ++u)
                look(u, v);
        if (out.size() < 2)
            for (int v = std::max(0, y - farthest); v <= std::min(h, y + farthest); ++v)
                for (int u = std::max(0, x - farthest); u <= std::min(w, x + farthest); ++u)
                    if (std::max(std::abs(u - x), std::abs(v - y)) == farthest)
                        look(u, v);
        for (std::size_t k = 0; k < out.count; ++k)
            out.all[k].away = std::sqrt(out.all[k].away);
        return out;
    }

    // What is too thin to be flat has borders all the same: where its own colour is seen pure, what lies beside that is mixed with it.
    void mixThin(Raster<std::uint8_t>& known)
    {
        const auto pure = [&](int x, int y) { return px_.at(x, y).a >= opaque && alike(px_.at(x, y), out_.colours[out_.label.at(x, y)].colour); };
        Raster<std::uint8_t> again(known.width(), known.height(), 0);
        for (int y = 0; y < known.height(); ++y)
            for (int x = 0; x < known.width(); ++x) {
                if (known.at(x, y) != undecided || out_.label.at(x, y) == noColour || out_.other.at(x, y) != noColour)
                    continue;
                if (pure(x, y))
                    known.at(x, y) = out_.label.at(x, y);
                else
                    again.at(x, y) = 1;
            }
        eachRow(known.height(), known.width(), work_, [&](int y) {
            for (int x = 0; x < known.width(); ++x)
                if (again.at(x, y))
                    mixture(known, x, y);
        });
    }

    // A pixel on an edge, or of something too thin to be flat.
    void mixture(const Raster<std::uint8_t>& flat, int x, int y)
    {
        const Rgba c = px_.at(x, y);
        const AllBeside beside = near(flat, x, y);
        std::uint8_t label = nearestTo(c), other = noColour;
        double share = 1;
        // Of a colour that is there, it is that; between two of them, it is a mixture of theirs; else it is its own.
        constexpr double off = 20; // of 255: how far a mixture may lie off the way from one colour to the other
        // Where several pairs explain it, as greys do between black and white, the nearer is meant: a pixel is worth so much of a difference.
        constexpr double aPixel = 6;
        double least = 1e9;
        for (std::size_t i = 0; i < beside.size(); ++i)
            for (std::size_t j = i + 1; j < beside.size(); ++j) {
                const auto [t, away] = between(out_.colours[beside[i].label].colour, out_.colours[beside[j].label].colour, c);
                const double worth = away + aPixel * (beside[i].away + beside[j].away);
                if (away >= off || worth >= least)
                    continue;
                least = worth;
                label = t >= 0.5 ? beside[j].label : beside[i].label;
                other = t >= 0.5 ? beside[i].label : beside[j].label;
                share = std::max(t, 1 - t);
            }
        if (c.a < opaque) { // the rest of it is nothing
            const double alpha = c.a / 255.0;
            out_.label.at(x, y) = alpha >= 0.5 ? label : noColour;
            out_.other.at(x, y) = alpha >= 0.5 ? noColour : label;
            share = std::max(alpha, 1 - alpha);
        } else {
            out_.label.at(x, y) = label;
            out_.other.at(x, y) = other;
        }
        out_.share.at(x, y) = std::uint8_t(std::clamp(std::lround(255 * share), 128L, 255L));
    }
    // Where one thing ends just where another does that it lies on, the rim is a mixture of both. A colour of which nothing whole lies beside it is none.
    void ownRims()
    {
        const int w = px_.width(), h = px_.height();
        const auto whole = [&](int x, int y) { return x >= 0 && y >= 0 && x < w && y < h && px_.at(x, y).a >= opaque; };
        const auto rim = [&](std::uint8_t& label, int x, int y) {
            std::array<int, 256> beside{};
            for (int v = y - 1; v <= y + 1; ++v)
                for (int u = x - 1; u <= x + 1; ++u)
                    if (whole(u, v))
                        ++beside[out_.label.at(u, v)];
            const auto most = std::max_element(beside.begin(), beside.end());
            if (*most > 0 && beside[label] == 0)
                label = std::uint8_t(most - beside.begin());
        };
        for (int y = 0; y < h; ++y)
            for (int x = 0; x < w; ++x) {
                if (px_.at(x, y).a >= opaque || px_.at(x, y).a == 0)
                    continue;
                if (out_.label.at(x, y) != noColour)
                    rim(out_.label.at(x, y), x, y);
                else if (out_.other.at(x, y) != noColour)
                    rim(out_.other.at(x, y), x, y);
            }
    }
    // Where on the way from one colour to the other, and how far from it.
    static std::pair<double, double> between(Rgba a, Rgba b, Rgba c)
    {
        const double d[3] = {double(b.r - a.r), double(b.g - a.g), double(b.b - a.b)}, e[3] = {double(c.r - a.r), double(c.g - a.g), double(c.b - a.b)};
        const double dd = d[0] * d[0] + d[1] * d[1] + d[2] * d[2];
        const double t = dd > 0 ? std::clamp((d[0] * e[0] + d[1] * e[1] + d[2] * e[2]) / dd, 0.0, 1.0) : 0;
        double away = 0;
        for (int k = 0; k < 3; ++k)
            away += (e[k] - t * d[k]) * (e[k] - t * d[k]);
        return {t, std::sqrt(away)};
    }

    const Rgba8& px_;
    const Work& work_;
    const Gray8 flat_;
    bool clear_ = false; // anything of it is
    Split out_;
    std::vector<Lab> labs_;
    std::vector<std::uint8_t> nearest_; // by cell of colour space
};

void sortByArea(Split& split)
{
    std::vector<std::uint8_t> order(split.colours.size()), place(256, noColour);
    for (std::size_t k = 0; k < order.size(); ++k)
        order[k] = std::uint8_t(k);
    std::stable_sort(order.begin(), order.end(), [&](std::uint8_t a, std::uint8_t b) { return split.colours[a].pixels > split.colours[b].pixels; });
    std::vector<SplitColour> sorted;
    for (std::size_t k = 0; k < order.size(); ++k) {
        place[order[k]] = std::uint8_t(k);
        sorted.push_back(split.colours[order[k]]);
    }
    split.colours = std::move(sorted);
    for (LabelArea& area : split.areas.all)
        area.label = place[area.label];
    if (std::is_sorted(order.begin(), order.end()))
        return;
    for (auto* raster : {&split.label, &split.other})
        for (std::uint8_t& l : raster->all())
            l = place[l];
}

} // namespace

Split splitColours(const Rgba8& picture, const SplitSpec& spec, double pxPerMm, const Work& work)
{
    const bool photo = spec.of == SplitOf::Photo;
    Split out;
    if (photo)
        out = Splitter(calmed(picture), spec, work).ofPhoto();
    else
        out = Splitter(picture, spec, work).ofDrawing();
    if (spec.speckle > 0)
        labels::despeckle(out, spec.speckle * pxPerMm * pxPerMm, work);
    if (photo)
        labels::soften(out, work);
    out.areas = areasOf(out.label, work);
    for (const LabelArea& area : out.areas.all)
        if (area.label != noColour)
            out.colours[area.label].pixels += area.pixels;
    sortByArea(out);
    return out;
}

} // namespace yokai
