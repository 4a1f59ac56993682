// Specs to JSON and back, by their lists of fields. Private to the project format.
//
// Lengths are whole ticks, places [x, y], boxes [x0, y0, x1, y1], colours [r, g, b],
// enumerations their names, what is absent null. A field that is not there keeps its
// default; one that is of the wrong kind or out of its range is refused with where it
// stands, as in "pieces[2].layers[0].cut_lines[1].offset".
#pragma once

#include "artwork/artwork.h"
#include "base/digest.h"
#include "base/error.h"
#include "base/fields.h"
#include "base/id.h"

#include <nlohmann/json.hpp>

#include <functional>
#include <set>
#include <stdexcept>
#include <string>
#include <vector>

namespace yokai::project {

using Json = nlohmann::ordered_json;

// Says where and what, for the line the reader makes of it.
struct BadField : std::runtime_error {
    BadField(const std::string& where, const std::string& what) : std::runtime_error(where + " " + what) {}
};

// A picture that is not there, or damaged: what needs it cannot be.
struct LostPicture : BadField {
    using BadField::BadField;
};

template <class T> struct IsId : std::false_type {};
template <class Tag> struct IsId<Id<Tag>> : std::true_type {};

// What a length is in the file: whole ticks, as jobs have them, or mm, for files that people write too.
enum class Lengths { Ticks, Mm };

class Writer {
public:
    using Entry = std::function<std::string(const Picture&)>; // where the picture's bytes are kept
    explicit Writer(const Entry& entry, Lengths lengths = Lengths::Ticks) : entry_(entry), lengths_(lengths) {}

    template <class T> Json json(const T& value) const
    {
        if constexpr (std::is_same_v<T, Length>)
            return lengths_ == Lengths::Mm ? Json(std::round(value.mm() * 1e6) / 1e6) : Json(value.ticks());
        else if constexpr (NamedEnum<T>)
            return name(value);
        else if constexpr (std::is_arithmetic_v<T> || std::is_same_v<T, std::string>)
            return value;
        else if constexpr (IsId<T>::value)
            return value.n;
        else if constexpr (std::is_same_v<T, Point>)
            return Json::array({value.x, value.y});
        else if constexpr (std::is_same_v<T, Rect>)
            return Json::array({value.x0, value.y0, value.x1, value.y1});
        else if constexpr (std::is_same_v<T, Rgba>)
            return Json::array({value.r, value.g, value.b});
        else if constexpr (std::is_same_v<T, Picture>)
            return {{"entry", entry_(value)}, {"file_name", value.fileName}, {"page", value.info.page}};
        else if constexpr (IsOptional<T>::value)
            return value ? json(*value) : Json();
        else if constexpr (IsVector<T>::value) {
            Json out = Json::array();
            for (const auto& entry : value)
                out.push_back(json(entry));
            return out;
        } else {
            Json out = Json::object();
            const auto visit = [&](const char* key, const auto& field, const auto&...) { out[key] = json(field); };
            T::fields(value, visit);
            return out;
        }
    }

private:
    const Entry& entry_;
    Lengths lengths_;
};

class Reader {
public:
    using Open = std::function<Picture(const std::string& entry, const std::string& fileName, int page)>;
    // With `leftOut`, what cannot be understood is left out, and named there, instead of being refused.
    explicit Reader(const Open& open, std::vector<std::string>* leftOut = nullptr, Lengths lengths = Lengths::Ticks) : open_(open), leftOut_(leftOut), lengths_(lengths) {}

    template <class T, class... Options> void read(const Json& j, T& out, const std::string& where, const Options&... options) const
    {
        if constexpr (std::is_same_v<T, Length>)
            out = lengths_ == Lengths::Mm ? Length::mm(ranged(number(j, where), Within{-1e7, 1e7}, where)) : Length::ticks(within(integer(j, where), 1e7 * double(Length::ticksPerMm), where));
        else if constexpr (NamedEnum<T>) {
            const std::string text = string(j, where);
            const auto found = fromName<T>(text);
            if (!found)
                throw BadField(where, "has the unknown value '" + text.substr(0, 40) + "'; known are " + namesIn<T>());
            out = *found;
        } else if constexpr (std::is_same_v<T, bool>) {
            if (!j.is_boolean())
                throw BadField(where, "is neither true nor false");
            out = j.get<bool>();
        } else if constexpr (std::is_integral_v<T>)
            out = T(within(integer(j, where), 2e9, where));
        else if constexpr (std::is_floating_point_v<T>)
            out = number(j, where);
        else if constexpr (std::is_same_v<T, std::string>)
            out = string(j, where);
        else if constexpr (IsId<T>::value)
            out.n = std::uint32_t(ranged(double(integer(j, where)), Within{0.0, 2e9}, where));
        else if constexpr (std::is_same_v<T, Point>)
            out = {coordinate(j, 0, 2, where), coordinate(j, 1, 2, where)};
        else if constexpr (std::is_same_v<T, Rect>) {
            out = {coordinate(j, 0, 4, where), coordinate(j, 1, 4, where), coordinate(j, 2, 4, where), coordinate(j, 3, 4, where)};
            if (out.empty())
                throw BadField(where, "is empty");
        } else if constexpr (std::is_same_v<T, Rgba>) {
            const auto channel = [&](std::size_t i) { return std::uint8_t(ranged(coordinate(j, i, 3, where), Within{0.0, 255.0}, where)); };
            out = {channel(0), channel(1), channel(2), 255};
        } else if constexpr (std::is_same_v<T, Picture>) {
            std::string entry, fileName;
            int page = 0;
            field(j, "entry", entry, where);
            field(j, "file_name", fileName, where, AtMost{10'000});
            field(j, "page", page, where, Within{0, 10'000});
            out = open_(entry, fileName, page);
        } else if constexpr (IsOptional<T>::value) {
            out.reset();
            if (!j.is_null())
                read(j, out.emplace(), where, options...);
        } else if constexpr (IsVector<T>::value)
            list(j, out, where, optionOr(AtMost{1'000'000}, options...));
        else {
            if (!j.is_object())
                throw BadField(where, "is not an object");
            std::set<std::string> known;
            const auto visit = [&](const char* key, auto& value, const auto&... given) {
                known.insert(key);
                field(j, key, value, where, given...);
            };
            T::fields(out, visit);
            for (const auto& entry : j.items())
                if (leftOut_ && !known.contains(entry.key()) && !(where.empty() && (entry.key() == "yokai" || entry.key() == "length_unit")))
                    leftOut_->push_back((where.empty() ? entry.key() : where + "." + entry.key()) + " is not known");
        }
        if constexpr (!IsOptional<T>::value)
            (check(out, where, options), ...);
    }

    template <class T, class... Options> void field(const Json& j, const char* key, T& out, const std::string& where, const Options&... options) const
    {
        if (!j.is_object())
            throw BadField(where, "is not an object");
        const auto found = j.find(key);
        if (found == j.end())
            return;
        const std::string at = where.empty() ? key : where + "." + key;
        if (!leftOut_) {
            read(*found, out, at, options...);
            return;
        }
        const T before = out;
        try {
            read(*found, out, at, options...);
        } catch (const LostPicture&) {
            throw;
        } catch (const BadField& e) {
            if constexpr (std::is_same_v<T, Picture>)
                throw LostPicture(where, e.what());
            leftOut_->push_back(e.what());
            out = before;
        } catch (const Error& e) {
            throw LostPicture(at, std::string("cannot be read: ") + e.what());
        }
    }

private:
    template <class T> void list(const Json& j, std::vector<T>& out, const std::string& where, AtMost most) const
    {
        if (!j.is_array())
            throw BadField(where, "is not a list");
        if (j.size() > most.count)
            throw BadField(where, "has " + std::to_string(j.size()) + " entries, over the " + std::to_string(most.count) + " it may have");
        out.clear();
        out.reserve(j.size());
        for (std::size_t i = 0; i < j.size(); ++i)
            try {
                read(j[i], out.emplace_back(), where + "[" + std::to_string(i) + "]");
            } catch (const BadField& e) {
                if (!leftOut_)
                    throw;
                leftOut_->push_back(e.what());
                out.pop_back();
            }
    }
    static double number(const Json& j, const std::string& where)
    {
        if (!j.is_number())
            throw BadField(where, "is not a number");
        return j.get<double>();
    }
    static std::int64_t integer(const Json& j, const std::string& where)
    {
        if (!j.is_number_integer())
            throw BadField(where, "is not a whole number");
        return j.get<std::int64_t>();
    }
    static std::int64_t within(std::int64_t v, double most, const std::string& where)
    {
        if (std::abs(double(v)) > most)
            throw BadField(where, "is out of range");
        return v;
    }
    static std::string string(const Json& j, const std::string& where)
    {
        if (!j.is_string())
            throw BadField(where, "is not a text");
        return j.get<std::string>();
    }
    static double coordinate(const Json& j, std::size_t i, std::size_t count, const std::string& where)
    {
        if (!j.is_array() || j.size() != count)
            throw BadField(where, "is not a list of " + std::to_string(count) + " numbers");
        return ranged(number(j[i], where), Within{-1e6, 1e6}, where);
    }
    template <class T> static T ranged(T v, const Within<T>& range, const std::string& where)
    {
        if (!(v >= range.least && v <= range.most))
            throw BadField(where, "is " + shown(v) + ", out of " + shown(range.least) + " to " + shown(range.most));
        return v;
    }
    static std::string shown(Length v) { return formatLength(v, Unit::Mm); }
    static std::string shown(double v) { return plainNumber(v, 3); }
    static std::string shown(int v) { return std::to_string(v); }

    template <class T, class Option> static void check(const T& value, const std::string& where, const Option& option)
    {
        if constexpr (requires { option.least; value < option.least; })
            ranged(value, option, where);
        else if constexpr (std::is_same_v<Option, AtMost> && std::is_same_v<T, std::string>)
            if (value.size() > option.count)
                throw BadField(where, "is longer than " + std::to_string(option.count) + " bytes");
    }
    const Open& open_;
    std::vector<std::string>* leftOut_;
    Lengths lengths_;
};

} // namespace yokai::project
