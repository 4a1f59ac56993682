#include "keep/colour.h"

#include <array>
#include <charconv>
#include <cmath>
#include <numbers>

namespace yokai {

std::optional<Rgba> colourFrom(std::string_view text)
{
    constexpr std::size_t whole = 7; // #rrggbb
    unsigned value = 0;
    if (text.size() != whole || text[0] != '#' || std::from_chars(text.data() + 1, text.data() + whole, value, 16).ptr != text.data() + whole)
        return std::nullopt;
    return Rgba{std::uint8_t(value >> 16), std::uint8_t(value >> 8), std::uint8_t(value), 255};
}

std::string hexOf(Rgba colour)
{
    constexpr char digits[] = "0123456789abcdef";
    std::string out = "#";
    for (const std::uint8_t part : {colour.r, colour.g, colour.b}) {
        out += digits[part >> 4];
        out += digits[part & 15];
    }
    return out;
}

namespace {

const std::array<double, 256>& linear()
{
    static const auto table = [] {
        std::array<double, 256> out{};
        for (int i = 0; i < 256; ++i) {
            const double v = i / 255.0;
            out[std::size_t(i)] = v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4);
        }
        return out;
    }();
    return table;
}

// The luminance of what is linear: the middle row of the primaries of IEC 61966-2-1.
double luminance(double r, double g, double b) { return 0.2126729 * r + 0.7151522 * g + 0.0721750 * b; }

} // namespace

int lightnessOf(Rgba colour)
{
    static constexpr int steps = 4096; // of luminance; the dark end, where they are coarsest, is within 2
    static const auto table = [] {
        std::array<std::uint8_t, steps + 1> out{};
        for (int i = 0; i <= steps; ++i) {
            const double t = double(i) / steps;
            out[std::size_t(i)] = std::uint8_t(std::lround(t > 216.0 / 24389 ? 116 * std::cbrt(t) - 16 : 24389.0 / 27 * t));
        }
        return out;
    }();
    const auto& l = linear();
    return table[std::size_t(luminance(l[colour.r], l[colour.g], l[colour.b]) * steps + 0.5)];
}

Lab labOf(Rgba colour)
{
    const double r = linear()[colour.r], g = linear()[colour.g], b = linear()[colour.b];
    // The white point is the row sums, so that white is exactly L 100, a 0, b 0.
    const double x = (0.4124564 * r + 0.3575761 * g + 0.1804375 * b) / 0.9504700;
    const double y = luminance(r, g, b);
    const double z = (0.0193339 * r + 0.1191920 * g + 0.9503041 * b) / 1.0888300;
    const auto f = [](double t) { return t > 216.0 / 24389 ? std::cbrt(t) : (24389.0 / 27 * t + 16) / 116; };
    const double fx = f(x), fy = f(y), fz = f(z);
    return {116 * fy - 16, 500 * (fx - fy), 200 * (fy - fz)};
}

double ciede2000(const Lab& x, const Lab& y)
{
    constexpr double degree = std::numbers::pi / 180;
    constexpr double seven25 = 6103515625.0; // 25^7
    const auto seventh = [](double v) { return v * v * v * v * v * v * v; };
    const double meanC = (std::hypot(x.a, x.b) + std::hypot(y.a, y.b)) / 2;
    const double g = 0.5 * (1 - std::sqrt(seventh(meanC) / (seventh(meanC) + seven25)));
    const double a1 = (1 + g) * x.a, a2 = (1 + g) * y.a;
    const double c1 = std::hypot(a1, x.b), c2 = std::hypot(a2, y.b);
    const auto hue = [&](double a, double b) {
        if (a == 0 && b == 0)
            return 0.0;
        const double h = std::atan2(b, a) / degree;
        return h < 0 ? h + 360 : h;
    };
    const double h1 = hue(a1, x.b), h2 = hue(a2, y.b);
    const bool grey = c1 * c2 == 0;
    double dh = 0, hBar = h1 + h2;
    if (!grey) {
        dh = h2 - h1;
        if (dh > 180)
            dh -= 360;
        else if (dh < -180)
            dh += 360;
        if (std::abs(h1 - h2) > 180)
            hBar = (h1 + h2 < 360 ? hBar + 360 : hBar - 360);
        hBar /= 2;
    }
    const double dL = y.L - x.L, dC = c2 - c1, dH = 2 * std::sqrt(c1 * c2) * std::sin(dh / 2 * degree);
    const double lBar = (x.L + y.L) / 2, cBar = (c1 + c2) / 2;
    const double t = 1 - 0.17 * std::cos((hBar - 30) * degree) + 0.24 * std::cos(2 * hBar * degree) + 0.32 * std::cos((3 * hBar + 6) * degree) -
                     0.20 * std::cos((4 * hBar - 63) * degree);
    const double l50 = (lBar - 50) * (lBar - 50);
    const double sL = 1 + 0.015 * l50 / std::sqrt(20 + l50), sC = 1 + 0.045 * cBar, sH = 1 + 0.015 * cBar * t;
    const double theta = 30 * std::exp(-((hBar - 275) / 25) * ((hBar - 275) / 25));
    const double rT = -2 * std::sqrt(seventh(cBar) / (seventh(cBar) + seven25)) * std::sin(2 * theta * degree);
    const double l = dL / sL, c = dC / sC, h = dH / sH;
    return std::sqrt(std::max(0.0, l * l + c * c + h * h + rT * c * h));
}

} // namespace yokai
