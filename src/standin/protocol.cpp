#include "protocol.h"

#include "base/error.h"
#include "base/file.h"
#include "base/length.h"

#include <nlohmann/json.hpp>

#include <sstream>

namespace yokai::standin {

namespace {

struct Refused {
    std::string why;
};

std::vector<double> numbers(const std::string& text, std::size_t count)
{
    std::istringstream in(text);
    in.imbue(std::locale::classic());
    std::vector<double> out;
    for (double v; in >> v;)
        out.push_back(v);
    if (out.size() != count || !in.eof())
        throw Refused{"expected " + std::to_string(count) + " numbers"};
    return out;
}

std::string coordinates(Point p) { return plainNumber(p.x, 4) + "," + plainNumber(p.y, 4); }

std::string dollar(Bed& bed, const std::string& line)
{
    const std::string rest = line.size() > 3 ? line.substr(3) : std::string();
    switch (line.size() > 1 ? line[1] : '\0') {
    case 'I':
        return std::string("[ID:Yokai stand-in ") + YOKAI_VERSION + "]\r\n";
    case 'D': {
        const auto v = numbers(rest, 6);
        if (!(v[0] > 0.5 && v[0] < 2 && v[1] > 0.5 && v[1] < 2 && std::abs(v[2]) <= 360 && std::abs(v[3]) < 45))
            throw Refused{"a stretch, turn or skew out of range"};
        bed.setDistortion({v[0], v[1], v[2], v[3], v[4], v[5]});
        return {};
    }
    case 'P':
        bed.print(rest);
        return {};
    case 'M': {
        const auto v = numbers(rest, 3);
        if (!bed.loaded())
            throw Refused{"no sheet is loaded"};
        bed.moveTo({v[0], v[1]});
        if (const auto mark = bed.findMark({v[0], v[1]}, v[2]))
            return "[MARK:" + coordinates(*mark) + "]\r\n";
        throw Refused{"no mark near " + coordinates({v[0], v[1]})};
    }
    case 'V':
        if (!bed.loaded())
            throw Refused{"no sheet is loaded"};
        writeFile(rest, bed.view());
        return "[VIEW:" + coordinates(bed.viewCorner()) + "," + plainNumber(bed.pxPerMm(), 9) + "]\r\n";
    case 'T': {
        const Affine t = bed.truth();
        std::string out;
        for (const double v : {t.a, t.b, t.c, t.d, t.e, t.f})
            out += (out.empty() ? "[TRUE:" : ",") + plainNumber(v, 9);
        return out + "]\r\n";
    }
    case 'C': {
        nlohmann::json cuts = nlohmann::json::array();
        for (const Polyline& cut : bed.cuts()) {
            nlohmann::json points = nlohmann::json::array();
            for (const Point p : cut)
                points.push_back({p.x, p.y});
            cuts.push_back(std::move(points));
        }
        writeFile(rest, cuts.dump());
        return {};
    }
    case 'X':
        bed.clearCuts();
        return {};
    default:
        throw Refused{"unknown request"};
    }
}

void gcode(Bed& bed, const std::string& line)
{
    Point target = bed.at();
    bool moves = false;
    for (std::size_t i = 0; i < line.size();) {
        const char letter = char(std::toupper(static_cast<unsigned char>(line[i])));
        if (letter == ' ') {
            ++i;
            continue;
        }
        if (letter == ';' || letter == '(')
            break;
        std::size_t used = 0;
        double value = 0;
        try {
            value = std::stod(line.substr(i + 1), &used);
        } catch (const std::exception&) {
            throw Refused{std::string("a number is missing after ") + letter};
        }
        i += 1 + used;
        switch (letter) {
        case 'G':
            if (value == 0 || value == 1)
                moves = true;
            else if (value != 21 && value != 90)
                throw Refused{"unsupported G" + plainNumber(value, 1)};
            break;
        case 'M':
            if (value != 3 && value != 5)
                throw Refused{"unsupported M" + plainNumber(value, 1)};
            bed.tool(value == 3);
            break;
        case 'X':
            target.x = value;
            break;
        case 'Y':
            target.y = value;
            break;
        case 'F':
        case 'S':
            break;
        default:
            throw Refused{std::string("unsupported word ") + letter};
        }
    }
    if (moves)
        bed.moveTo(target);
}

} // namespace

std::string answer(Bed& bed, const std::string& line)
{
    if (line.empty())
        return {};
    if (line == "?")
        return std::string("<") + (bed.down() ? "Run" : "Idle") + "|MPos:" + coordinates(bed.at()) + ",0>\r\n";
    try {
        std::string out;
        if (line[0] == '$')
            out = dollar(bed, line);
        else
            gcode(bed, line);
        return out + "ok\r\n";
    } catch (const Refused& r) {
        return "error:" + r.why + "\r\n";
    } catch (const Error& e) {
        return std::string("error:") + e.what() + "\r\n";
    }
}

} // namespace yokai::standin
