// Random specs, filled by their own lists of fields: what is added to a spec is drawn,
// saved, read, derived and compared without a word more. Where the numbers come from is the
// Draw's: rapidcheck, or the bytes of a fuzzer. It has int whole(least, most) and
// double real(least, most), both ends included.
#pragma once

#include "artwork/artwork.h"
#include "job/job.h"

namespace yokai::test {

template <class Draw> class Randomly {
public:
    Randomly(Draw& draw, Picture picture) : draw_(draw), picture_(std::move(picture)) {}

    template <class T, class... Options> void operator()(const char*, T& value, const Options&... options)
    {
        if constexpr (std::is_same_v<T, Length>) {
            const auto range = optionOr(Within{-1000_mm, 1000_mm}, options...);
            const double share = real(0, 1);
            value = Length::ticks(range.least.ticks() + std::int64_t(share * double(range.most.ticks() - range.least.ticks())));
        } else if constexpr (std::is_same_v<T, bool>)
            value = coin();
        else if constexpr (NamedEnum<T>) {
            const auto names = namesOf(T{});
            value = names[std::size_t(whole(0, int(names.size()) - 1))].value;
        } else if constexpr (std::is_integral_v<T>) {
            const auto range = optionOr(Within{0, 1000}, options...);
            value = whole(range.least, range.most);
        } else if constexpr (std::is_floating_point_v<T>) {
            const auto range = optionOr(Within{-1000.0, 1000.0}, options...);
            value = real(range.least, range.most);
        } else if constexpr (std::is_same_v<T, std::string>) {
            static const std::string letters[] = {"a", "Z", " ", "<", "&", "\"", "\\", "\xC3\xA9", "\xE2\x82\xAC", "\xF0\x9F\x99\x82", "\n"};
            value.clear();
            for (int n = whole(0, 12); n > 0; --n)
                value += letters[std::size_t(whole(0, int(std::size(letters)) - 1))];
        } else if constexpr (std::is_same_v<T, Point>)
            value = {real(-1000, 1000), real(-1000, 1000)};
        else if constexpr (std::is_same_v<T, Rect>) {
            const double x = real(-500, 500), y = real(-500, 500);
            value = {x, y, x + real(1, 400), y + real(1, 400)};
        } else if constexpr (std::is_same_v<T, Rgba>)
            value = {std::uint8_t(whole(0, 255)), std::uint8_t(whole(0, 255)), std::uint8_t(whole(0, 255)), 255};
        else if constexpr (std::is_same_v<T, Picture>)
            value = picture_;
        else if constexpr (IsOptional<T>::value) {
            value.reset();
            if (coin())
                (*this)("", value.emplace(), options...);
        } else if constexpr (IsVector<T>::value) {
            value.clear();
            const bool layers = std::is_same_v<typename T::value_type, Layer>; // a piece has at least one
            for (int n = whole(layers ? 1 : 0, layers ? 2 : 3); n > 0; --n)
                (*this)("", value.emplace_back());
        } else if constexpr (requires { value.n; }) {
            value = {}; // named afterwards
        } else {
            T::fields(value, *this);
        }
    }

private:
    double real(double least, double most) { return draw_.real(least, most); }
    int whole(int least, int most) { return draw_.whole(least, most); }
    bool coin() { return whole(0, 1) == 1; }
    Draw& draw_;
    Picture picture_;
};

template <class Draw> Job randomJob(Draw& draw, const Picture& picture)
{
    Job job;
    Randomly<Draw> fill(draw, picture);
    Job::fields(job, fill);
    job.ids = 0;
    giveIds(job);
    std::erase_if(job.placings, [&](Placing& p) {
        if (job.pieces.empty())
            return true;
        p.piece = job.pieces[std::size_t(draw.whole(0, int(job.pieces.size()) - 1))].id;
        return false;
    });
    return job;
}

} // namespace yokai::test
