// A running 128-bit digest (XXH3, by xxHash), under which a step's result is
// remembered. Not for security.
//
// Anything a spec can hold can be added whole: numbers, texts, places, optional
// values, lists, specs field by field. Each says its size or presence first, so that
// neighbours cannot run into one another.
#pragma once

#include "base/fields.h"
#include "base/id.h"
#include "base/raster.h"

#include <compare>
#include <cstdint>
#include <cstring>
#include <memory>
#include <span>
#include <string>
#include <string_view>
#include <type_traits>

#define XXH_STATIC_LINKING_ONLY // the state lives here, not on the heap
#include <xxhash.h>

namespace yokai {

struct Key {
    std::uint64_t high = 0, low = 0;
    auto operator<=>(const Key&) const = default;
};

// 32 digits.
inline std::string hexadecimal(const Key& key)
{
    constexpr char digits[] = "0123456789abcdef";
    std::string out;
    for (const std::uint64_t part : {key.high, key.low})
        for (int shift = 60; shift >= 0; shift -= 4)
            out += digits[part >> shift & 15];
    return out;
}

class Digest {
public:
    Digest() { XXH3_128bits_reset(&state_); }

    template <class T> Digest& add(const T& value)
    {
        if constexpr (std::is_same_v<T, Length>)
            raw(value.ticks());
        else if constexpr (std::is_arithmetic_v<T> || std::is_enum_v<T> || std::is_same_v<T, Key> || std::is_same_v<T, Point> || std::is_same_v<T, Rect> ||
                           std::is_same_v<T, Affine> || std::is_same_v<T, Rgba>)
            raw(value);
        else if constexpr (std::is_convertible_v<const T&, std::string_view>)
            text(value);
        else if constexpr (IsOptional<T>::value) {
            raw(value.has_value());
            if (value)
                add(*value);
        } else if constexpr (IsVector<T>::value) {
            raw(value.size());
            for (const auto& entry : value)
                add(entry);
        } else if constexpr (requires { value.digestTo(*this); }) {
            value.digestTo(*this);
        } else if constexpr (requires { value.n; }) { // an id: steps never read it
        } else {
            Fields visit{*this};
            T::fields(value, visit);
        }
        return *this;
    }
    Digest& add(std::span<const unsigned char> data)
    {
        raw(data.size());
        XXH3_128bits_update(&state_, data.data(), data.size());
        return *this;
    }
    Key value() const
    {
        const XXH128_hash_t h = XXH3_128bits_digest(&state_);
        return {h.high64, h.low64};
    }

private:
    struct Fields {
        Digest& digest;
        template <class T, class... Options> void operator()(const char*, const T& value, const Options&...)
        {
            if constexpr (!hasOption<Label, Options...>)
                digest.add(value);
        }
    };
    template <class T> void raw(const T& value)
    {
        static_assert(std::is_trivially_copyable_v<T>);
        XXH3_128bits_update(&state_, &value, sizeof value);
    }
    void text(std::string_view t)
    {
        raw(t.size());
        XXH3_128bits_update(&state_, t.data(), t.size());
    }
    XXH3_state_t state_;
};

template <class T> Key keyOf(const T& value) { return Digest().add(value).value(); }

} // namespace yokai
