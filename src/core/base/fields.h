// A field of a spec is said once.
//
// A spec is a plain struct that lists its fields in one function:
//
//     struct BrushSpec {
//         Length width = 3_mm;
//         bool square = false;
//         template <class Self, class V> static void fields(Self& self, V& visit)
//         {
//             visit("width", self.width, Within{50_um, 500_mm});
//             visit("square", self.square);
//         }
//         bool operator==(const BrushSpec&) const = default;
//     };
//
// All that has to be done with every field walks that list: writing and reading job
// files with their ranges, the digests of steps, the panels' limits, the tests'
// random jobs. A visitor is called as visit(name, value, options...); the options it
// does not know it leaves aside.
//
// Enumerations say their names once too, in a function namesOf(E) beside them.
#pragma once

#include "base/geometry.h"
#include "base/length.h"

#include <array>
#include <concepts>
#include <cstddef>
#include <optional>
#include <string>
#include <string_view>
#include <tuple>
#include <type_traits>
#include <vector>

namespace yokai {

// Options of a field.

// What the value may be, both ends included. What lies outside is refused by name when read.
template <class T> struct Within {
    T least, most;
};
template <class T> Within(T, T) -> Within<T>;

// At most so many entries, or bytes of a text.
struct AtMost {
    std::size_t count;
};

// Says what a thing is called or used for; no step computes with it.
struct Label {};

// Names of an enumeration's values, as they stand in files and on command lines.
template <class E> struct Named {
    E value;
    const char* name;
};
template <class E>
concept NamedEnum = std::is_enum_v<E> && requires(E e)
{
    namesOf(e);
};
template <NamedEnum E> const char* name(E value)
{
    for (const Named<E>& n : namesOf(value))
        if (n.value == value)
            return n.name;
    return "";
}
template <NamedEnum E> std::optional<E> fromName(std::string_view text)
{
    for (const Named<E>& n : namesOf(E{}))
        if (text == n.name)
            return n.value;
    return std::nullopt;
}
// "round, sharp or flat"
template <NamedEnum E> std::string namesIn()
{
    const auto names = namesOf(E{});
    std::string out;
    for (std::size_t i = 0; i < names.size(); ++i)
        out += (i == 0 ? "" : i + 1 == names.size() ? " or " : ", ") + std::string(names[i].name);
    return out;
}

struct AnyVisitor {
    template <class... Rest> void operator()(const char*, Rest&&...) const {}
};
template <class T>
concept Spec = requires(T& value, AnyVisitor& visit)
{
    T::fields(value, visit);
};

template <class T> struct IsOptional : std::false_type {};
template <class T> struct IsOptional<std::optional<T>> : std::true_type {};
template <class T> struct IsVector : std::false_type {};
template <class T> struct IsVector<std::vector<T>> : std::true_type {};

// The option of one kind among those given, or the fallback.
template <class Wanted, class... Options> Wanted optionOr(Wanted fallback, const Options&... options)
{
    Wanted found = fallback;
    [[maybe_unused]] const auto look = [&found]([[maybe_unused]] const auto& option) {
        if constexpr (std::is_same_v<std::decay_t<decltype(option)>, Wanted>)
            found = option;
    };
    (look(options), ...);
    return found;
}
template <class Wanted, class... Options> constexpr bool hasOption = (std::is_same_v<std::decay_t<Options>, Wanted> || ...);

// The limits a field was given, whatever unit it is in; a panel takes them from here.
struct Limits {
    double least = 0, most = 0; // mm for lengths
    bool given = false;
};
namespace fields {

inline double plain(Length v) { return v.mm(); }
template <class T> requires std::is_arithmetic_v<T> double plain(T v) { return double(v); }

// Finds a member by where it lies in a default-made spec.
template <class S> struct LimitsOf {
    const void* wanted;
    Limits found;
    template <class T, class... Options> void operator()(const char*, const T& value, const Options&... options)
    {
        if (static_cast<const void*>(&value) != wanted)
            return;
        [[maybe_unused]] const auto look = [this]([[maybe_unused]] const auto& option) {
            if constexpr (requires { option.least; option.most; })
                found = {plain(option.least), plain(option.most), true};
        };
        (look(options), ...);
    }
};

} // namespace fields

template <Spec S, class T> Limits limitsOf(T S::*member)
{
    const S spec{};
    fields::LimitsOf<S> visit{&(spec.*member), {}};
    S::fields(spec, visit);
    return visit.found;
}

} // namespace yokai
