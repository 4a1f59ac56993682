#include "formats/dxf/groups.h"

#include "base/error.h"
#include "base/text.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <string_view>
#include <utility>
#include <vector>

namespace yokai {

namespace {

struct Group {
    int code = 0;
    std::string_view value;
    std::size_t line = 0;
};
using Groups = std::vector<Group>;

std::string_view trimmed(std::string_view s)
{
    const auto blank = [](char c) { return c == ' ' || c == '\t' || c == '\r'; };
    while (!s.empty() && blank(s.front()))
        s.remove_prefix(1);
    while (!s.empty() && blank(s.back()))
        s.remove_suffix(1);
    return s;
}

template <class T> bool reads(std::string_view s, T& out)
{
    if (!s.empty() && s.front() == '+')
        s.remove_prefix(1);
    const auto [end, error] = std::from_chars(s.data(), s.data() + s.size(), out);
    return error == std::errc() && end == s.data() + s.size();
}

// By the published DXF reference: 10 to 59 and 140 to 149 are real numbers, 60 to 99 and 170 to 179 whole ones.
bool isReal(int code) { return (code >= 10 && code < 60) || (code >= 140 && code < 150); }
bool isWhole(int code) { return (code >= 60 && code < 100) || (code >= 170 && code < 180); }

Groups groupsOf(std::string_view text, const std::string& name)
{
    Groups out;
    std::size_t line = 0;
    const auto next = [&]() -> std::string_view {
        const std::size_t end = std::min(text.find('\n'), text.size());
        const std::string_view got = trimmed(text.substr(0, end));
        text.remove_prefix(std::min(end + 1, text.size()));
        ++line;
        return got;
    };
    while (!text.empty()) {
        const std::string_view code = next();
        if (code.empty() && text.empty())
            break;
        Group g;
        constexpr int least = -5, most = 1071; // codes there are
        if (!reads(code, g.code) || g.code < least || g.code > most)
            throw Error(ErrorKind::Input, "'{}' is damaged at line {}: a group's number should stand there; save it again as DXF", name, std::to_string(line));
        g.value = next();
        g.line = line;
        if (g.code == 0 && g.value == "EOF")
            break;
        out.push_back(g);
    }
    return out;
}

void requireNumbers(const Groups& part, const std::string& name)
{
    for (const Group& g : part) {
        double real = 0;
        int whole = 0;
        constexpr double largest = 1e12;
        if ((isReal(g.code) && !(reads(g.value, real) && std::abs(real) < largest)) || (isWhole(g.code) && !reads(g.value, whole)))
            throw Error(ErrorKind::Input, "'{}' is damaged at line {}: a number should stand there; save it again as DXF", name, std::to_string(g.line));
    }
}

void write(std::string& out, int code, std::string_view value)
{
    constexpr std::size_t longest = 255; // the library keeps no more of a line
    out += std::to_string(code);
    out += '\n';
    out += value.substr(0, longest);
    out += '\n';
}

std::size_t count(const Groups& groups, int code)
{
    return std::size_t(std::count_if(groups.begin(), groups.end(), [code](const Group& g) { return g.code == code; }));
}

// With the counts that are true; of a spline without the places it was fitted to.
void writeEntity(std::string& out, const Groups& entity)
{
    const std::string_view kind = entity.front().value;
    const bool polyline = kind == "LWPOLYLINE", spline = kind == "SPLINE";
    write(out, 0, kind);
    if (polyline)
        write(out, 90, std::to_string(count(entity, 10)));
    if (spline) {
        write(out, 72, std::to_string(count(entity, 40)));
        write(out, 73, std::to_string(count(entity, 10)));
        write(out, 74, "0");
    }
    std::size_t points = 0, weights = 0;
    for (std::size_t k = 1; k < entity.size(); ++k) {
        const int code = entity[k].code;
        const std::string_view value = entity[k].value;
        if ((polyline && code == 90) || (spline && (code == 72 || code == 73 || code == 74 || (code >= 11 && code < 14) || (code >= 21 && code < 24) || (code >= 31 && code < 34))))
            continue;
        // What belongs to a place comes after it, and once.
        points += code == 10;
        if (polyline && points == 0 && (code == 20 || code == 42 || code == 91))
            continue;
        if (spline && ((code == 41 && ++weights > count(entity, 10)) || ((code == 20 || code == 30) && points == 0)))
            continue;
        constexpr int ownData = 1000; // whatever a program put there for itself
        if (code < ownData && code >= 5 && code != 102 && code != 360 && code != 330)
            write(out, code, value);
    }
}

} // namespace

CleanDxf cleanDxf(const std::string& text, const std::string& name)
{
    static const std::set<std::string_view> read = {"LINE", "ARC", "CIRCLE", "ELLIPSE", "LWPOLYLINE", "POLYLINE", "VERTEX", "SEQEND", "SPLINE"};
    static const std::pair<std::string_view, const char*> left[] = {{"TEXT", "text"}, {"MTEXT", "text"}, {"INSERT", "block"}, {"HATCH", "hatch"}, {"IMAGE", "picture"}};
    const Groups groups = groupsOf(text, name);
    CleanDxf out;
    std::string_view section;
    bool open = false; // whether a section is being written
    for (std::size_t k = 0; k < groups.size();) {
        std::size_t end = k + 1;
        // An entity, or a variable of the header, ends where the next begins.
        const int begins = groups[k].code;
        while (end < groups.size() && groups[end].code != 0 && groups[end].code != 9)
            ++end;
        const Groups part(groups.begin() + std::ptrdiff_t(k), groups.begin() + std::ptrdiff_t(end));
        const std::string_view word = part.front().value;
        if (begins == 0 && word == "SECTION") {
            section = part.size() > 1 && part[1].code == 2 ? part[1].value : std::string_view();
            open = section == "HEADER" || section == "ENTITIES";
            if (open) {
                write(out.text, 0, "SECTION");
                write(out.text, 2, section);
            }
        } else if (begins == 0 && word == "ENDSEC") {
            if (std::exchange(open, false))
                write(out.text, 0, "ENDSEC");
            section = {};
        } else if (section == "HEADER" && begins == 9 && (word == "$INSUNITS" || word == "$EXTMAX")) {
            requireNumbers(part, name);
            for (const Group& g : part)
                if (g.code == 9 || g.code == 10 || g.code == 20 || g.code == 30 || g.code == 70)
                    write(out.text, g.code, g.value);
        } else if (section == "ENTITIES" && begins == 0) {
            if (read.contains(word)) {
                requireNumbers(part, name);
                writeEntity(out.text, part);
            }
            for (const auto& [kind, called] : left)
                if (word == kind)
                    out.left.insert(called);
        }
        k = end;
    }
    if (open)
        write(out.text, 0, "ENDSEC");
    write(out.text, 0, "EOF");
    return out;
}

} // namespace yokai
