#include "base/length.h"

#include "base/error.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <optional>
#include <vector>

namespace yokai {

namespace {

constexpr double largestMm = 1e7;

Length rounded(double ticks)
{
    constexpr double largest = largestMm * double(Length::ticksPerMm);
    return std::isnan(ticks) ? Length() : Length::ticks(std::llround(std::clamp(ticks, -largest, largest)));
}

// A recursive reader of sums: sum = product {(+|-) product}, product = factor
// {(*|/) factor}, factor = [sign] number [number] [unit] | "(" sum ")".
// Every value carries whether a unit was met: then it is in ticks, else as typed.
class SumReader {
public:
    SumReader(std::string_view text, double bareTicks) : text_(text), bareTicks_(bareTicks) {}

    double ticks()
    {
        const Value v = sum();
        skipSpace();
        if (pos_ != text_.size())
            fail();
        return v.hasUnit ? v.number : v.number * bareTicks_;
    }

private:
    struct Value {
        double number = 0;
        bool hasUnit = false;
    };

    [[noreturn]] void fail() const
    {
        constexpr std::size_t shown = 60;
        throw Error(ErrorKind::Usage, "'{}' is not a length; write it like 2mm, 1/8in or 2+0.5mm",
                    std::string(text_.substr(0, shown)) + (text_.size() > shown ? "..." : ""));
    }

    void skipSpace()
    {
        while (pos_ < text_.size() && (text_[pos_] == ' ' || text_[pos_] == '\t'))
            ++pos_;
    }

    bool take(char c)
    {
        skipSpace();
        if (pos_ < text_.size() && text_[pos_] == c) {
            ++pos_;
            return true;
        }
        return false;
    }

    Value sum()
    {
        std::vector<Value> terms{product()};
        for (;;) {
            if (take('+')) {
                terms.push_back(product());
            } else if (take('-')) {
                Value v = product();
                v.number = -v.number;
                terms.push_back(v);
            } else {
                break;
            }
        }
        // Term by term: each that has no unit takes the bare one, if any other has one.
        Value total;
        for (const Value& v : terms)
            total.hasUnit |= v.hasUnit;
        for (const Value& v : terms)
            total.number += total.hasUnit && !v.hasUnit ? v.number * bareTicks_ : v.number;
        return total;
    }

    Value product()
    {
        Value left = factor();
        for (;;) {
            if (take('*')) {
                const Value right = factor();
                if (left.hasUnit && right.hasUnit)
                    fail();
                left = {left.number * right.number, left.hasUnit || right.hasUnit};
            } else if (take('/')) {
                const Value right = factor();
                // "1/8in": the unit belongs to the whole fraction, not to its lower half.
                if (right.number == 0 || (left.hasUnit && right.hasUnit))
                    fail();
                if (right.hasUnit)
                    left = {left.number / (right.number / lastUnitTicks_) * lastUnitTicks_, true};
                else
                    left.number /= right.number;
            } else {
                return left;
            }
        }
    }

    std::optional<double> number()
    {
        skipSpace();
        std::string buffer;
        std::size_t p = pos_;
        bool point = false;
        for (; p < text_.size(); ++p) {
            const char c = text_[p];
            if (c >= '0' && c <= '9') {
                buffer += c;
            } else if ((c == '.' || c == ',') && !point) {
                buffer += '.';
                point = true;
            } else {
                break;
            }
        }
        if (buffer.empty() || buffer == ".")
            return std::nullopt;
        double value = 0;
        const auto [end, ec] = std::from_chars(buffer.data(), buffer.data() + buffer.size(), value);
        if (ec != std::errc() || end != buffer.data() + buffer.size())
            return std::nullopt;
        pos_ = p;
        return value;
    }

    std::optional<double> unit()
    {
        skipSpace();
        static constexpr struct {
            std::string_view name;
            double ticks;
        } units[] = {{"mm", 360'000},     {"cm", 3'600'000}, {"um", 360},       {"\xC2\xB5m", 360}, {"inches", 9'144'000},
                     {"inch", 9'144'000}, {"in", 9'144'000}, {"\"", 9'144'000}, {"pt", 127'000},    {"m", 360'000'000}};
        for (const auto& u : units)
            if (text_.substr(pos_).starts_with(u.name)) {
                pos_ += u.name.size();
                return u.ticks;
            }
        return std::nullopt;
    }

    Value factor()
    {
        double sign = 1;
        for (;;)
            if (take('-'))
                sign = -sign;
            else if (!take('+'))
                break;
        if (take('(')) {
            constexpr int deepest = 32;
            if (++depth_ > deepest)
                fail();
            Value v = sum();
            if (!take(')'))
                fail();
            --depth_;
            v.number *= sign;
            return v;
        }
        const auto whole = number();
        if (!whole)
            fail();
        double value = *whole;
        // "1 1/2 in": a whole number followed by a fraction.
        const std::size_t before = pos_;
        if (const auto upper = number()) {
            const bool slash = take('/');
            const auto lower = slash ? number() : std::nullopt;
            if (lower && *lower != 0)
                value += *upper / *lower;
            else
                pos_ = before;
        }
        if (const auto u = unit()) {
            lastUnitTicks_ = *u;
            return {sign * value * *u, true};
        }
        return {sign * value, false};
    }

    std::string_view text_;
    double bareTicks_;
    double lastUnitTicks_ = 0;
    std::size_t pos_ = 0;
    int depth_ = 0;
};

} // namespace

Length Length::mm(double value) { return rounded(value * double(ticksPerMm)); }
Length Length::inches(double value) { return rounded(value * double(ticksPerInch)); }

Length parseLength(std::string_view text, Unit bare)
{
    const double bareTicks = double(bare == Unit::Mm ? Length::ticksPerMm : Length::ticksPerInch);
    const double ticks = SumReader(text, bareTicks).ticks();
    if (!std::isfinite(ticks) || std::abs(ticks) > largestMm * double(Length::ticksPerMm))
        throw Error(ErrorKind::Usage, "'{}' is too large for a length; use at most 10 000 m", text);
    return Length::ticks(std::llround(ticks));
}

double parseArea(std::string_view text, Unit bare)
{
    static constexpr struct {
        std::string_view name;
        double mm2;
    } units[] = {{"mm2", 1}, {"mm\xC2\xB2", 1}, {"in2", mm2PerInch2}, {"in\xC2\xB2", mm2PerInch2}};
    double factor = bare == Unit::Inch ? mm2PerInch2 : 1;
    std::string number(text);
    for (const auto& u : units)
        if (number.ends_with(u.name)) {
            number.resize(number.size() - u.name.size());
            factor = u.mm2;
            break;
        }
    number.erase(number.find_last_not_of(' ') + 1);
    std::replace(number.begin(), number.end(), ',', '.');
    double value = 0;
    const auto [end, ec] = std::from_chars(number.data(), number.data() + number.size(), value);
    if (number.empty() || ec != std::errc() || end != number.data() + number.size() || !std::isfinite(value) || value < 0)
        throw Error(ErrorKind::Usage, "'{}' is not an area; write it like 4mm2 or 0.01in2", text);
    return value * factor;
}

std::string fixedNumber(double value, int decimals)
{
    char buffer[400]; // the largest double has 309 digits before the point
    const auto [end, ec] = std::to_chars(buffer, buffer + sizeof buffer, value, std::chars_format::fixed, decimals);
    return {buffer, ec == std::errc() ? end : buffer};
}

std::string formatMm(double mm, Unit unit, bool withUnit)
{
    return unit == Unit::Mm ? fixedNumber(mm, 2) + (withUnit ? " mm" : "") : fixedNumber(mm / 25.4, 4) + (withUnit ? " in" : "");
}

std::string formatLength(Length value, Unit unit, bool withUnit) { return formatMm(value.mm(), unit, withUnit); }

std::string plainNumber(double value, int decimals)
{
    std::string text = fixedNumber(value, decimals);
    if (text.find('.') != std::string::npos) {
        text.erase(text.find_last_not_of('0') + 1);
        if (text.back() == '.')
            text.pop_back();
    }
    return text == "-0" ? "0" : text;
}

} // namespace yokai
