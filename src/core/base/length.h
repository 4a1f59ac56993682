// Lengths that never drift.
//
// A maker types 1/8 in, looks at it in mm, switches back and must find 1/8 in
// again. A Length is therefore a whole count of ticks, fine enough that a
// micrometre, a thousandth and a 64th of an inch, a tenth of a PostScript point,
// a CSS pixel and an HPGL unit are all whole counts; nothing is rounded when the
// shown unit changes.
#pragma once

#include <compare>
#include <cstdint>
#include <string>
#include <string_view>

namespace yokai {

enum class Unit { Mm, Inch };

class Length {
public:
    static constexpr std::int64_t ticksPerMm = 360'000;
    static constexpr std::int64_t ticksPerInch = 9'144'000; // 25.4 mm, the international inch of 1959
    static constexpr std::int64_t ticksPerPoint = ticksPerInch / 72;

    constexpr Length() = default;
    static constexpr Length ticks(std::int64_t n) { return Length(n); }
    static constexpr Length um(std::int64_t n) { return Length(n * (ticksPerMm / 1000)); }
    static constexpr Length points(std::int64_t n) { return Length(n * ticksPerPoint); }
    // Rounds to the nearest tick. What lies beyond +-1e7 mm is held there, so that
    // a limit still refuses it; what is no number is 0.
    static Length mm(double value);
    static Length inches(double value);

    constexpr std::int64_t ticks() const { return n_; }
    constexpr double mm() const { return double(n_) / double(ticksPerMm); }
    constexpr double inches() const { return double(n_) / double(ticksPerInch); }
    constexpr double in(Unit unit) const { return unit == Unit::Mm ? mm() : inches(); }

    constexpr auto operator<=>(const Length&) const = default;
    constexpr Length operator+(Length o) const { return Length(n_ + o.n_); }
    constexpr Length operator-(Length o) const { return Length(n_ - o.n_); }
    constexpr Length operator-() const { return Length(-n_); }
    constexpr Length operator*(std::int64_t k) const { return Length(n_ * k); }

private:
    explicit constexpr Length(std::int64_t n) : n_(n) {}
    std::int64_t n_ = 0;
};

inline namespace literals {
// 2_mm, 0.5_mm, 20_um; exact for whole micrometres.
constexpr Length operator""_mm(unsigned long long n) { return Length::ticks(std::int64_t(n) * Length::ticksPerMm); }
constexpr Length operator""_mm(long double n) { return Length::ticks(std::int64_t(n * static_cast<long double>(Length::ticksPerMm) + 0.5L)); }
constexpr Length operator""_um(unsigned long long n) { return Length::um(std::int64_t(n)); }
} // namespace literals

// Reads a length as a person types it: numbers with or without a unit (mm, cm,
// m, um, in, ", pt), fractions and sums: "2mm", "1/8in", "1 1/2 in", "2+0.5mm",
// "3*2.5". Sums are taken term by term, and a bare number takes `bare`: in mm
// "2+3mm+1in" is 30.4 mm. Throws Error(usage) naming the text.
Length parseLength(std::string_view text, Unit bare = Unit::Mm);

constexpr double mm2PerInch2 = 25.4 * 25.4;

// Square millimetres, from "4mm2", "0.01in2" or a bare number (mm2).
double parseArea(std::string_view text, Unit bare = Unit::Mm);

// "2.00 mm", "0.079 in": the shown figure, rounded for reading only.
std::string formatLength(Length value, Unit unit, bool withUnit = true);
std::string formatMm(double mm, Unit unit, bool withUnit = true);

// The same with a set number of decimals. Whatever the locale says.
std::string fixedNumber(double value, int decimals);
// A number without trailing zeros, always with a point: for files and messages.
std::string plainNumber(double value, int decimals);

} // namespace yokai
