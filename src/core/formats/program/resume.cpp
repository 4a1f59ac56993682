#include "formats/program/resume.h"

#include "base/length.h"
#include "path/path.h"

#include <charconv>
#include <cmath>
#include <numbers>
#include <utility>

namespace yokai {

namespace {

constexpr double near = 0.03; // mm: over half a unit of HPGL each way, and what a machine's figures are rounded to

// What a line of ours says, as far as going on needs it.
struct Said {
    std::optional<Point> to;     // mm
    std::optional<Point> middle; // of an arc, from where it begins
    bool left = false;           // it turns to the left
    std::string feed;            // with its letter
    std::optional<double> power;
    bool raises = false, lowers = false, holds = false; // `holds`: it must be said again, whatever comes between
};

// Whether what was said so far has the tool at work: lowered, and with some power where that is said.
class AtWork {
public:
    void hear(const Said& s)
    {
        on_ = (on_ || s.lowers) && !s.raises;
        power_ = s.power.value_or(power_);
    }
    bool lowered() const { return on_; }
    bool burns() const { return on_ && power_ > 0; }

private:
    bool on_ = false;
    double power_ = 1;
};

class Reader {
public:
    explicit Reader(const Program& program) : Reader(program.lines, program.dialect) {}
    Reader(const std::vector<std::string>& lines, Dialect dialect) : hpgl_(dialect == Dialect::Hpgl)
    {
        for (std::size_t k = 0; k < lines.size() && k < 4; ++k)
            if (lines[k] == "G20")
                unit_ = 25.4;
    }
    Said operator()(const std::string& line) const { return hpgl_ ? ofHpgl(line) : ofGcode(line); }
    double unit() const { return unit_; }

private:
    // "PU100,200;"
    static Said ofHpgl(const std::string& line)
    {
        Said out;
        const std::string_view word = std::string_view(line).substr(0, 2);
        out.raises = word == "PU";
        out.lowers = word == "PD";
        out.holds = word == "SP" || word == "VS" || word == "FS";
        double v[2] = {};
        const char *at = line.data() + 2, *end = line.data() + line.size();
        for (double& value : v) {
            const auto [stop, error] = std::from_chars(at, end, value);
            if (error != std::errc() || stop == end)
                return out;
            at = stop + 1;
        }
        if (out.raises || out.lowers)
            out.to = Point{v[0], v[1]} * (1.0 / hpglUnitsAMm);
        return out;
    }
    Said ofGcode(const std::string& line) const
    {
        Said out;
        if (line.empty() || line[0] == '(')
            return out;
        std::optional<double> x, y;
        Point middle;
        bool moves = false, arc = false;
        for (std::size_t i = 0; i < line.size();) {
            const std::size_t end = std::min(line.find(' ', i), line.size());
            const std::string word = line.substr(i, end - i);
            double value = 0;
            if (word.size() > 1)
                std::from_chars(word.data() + 1, word.data() + word.size(), value);
            switch (word.empty() ? ' ' : word[0]) {
            case 'X':
                x = value * unit_;
                break;
            case 'Y':
                y = value * unit_;
                break;
            case 'I':
                middle.x = value * unit_;
                break;
            case 'J':
                middle.y = value * unit_;
                break;
            case 'F':
                out.feed = word;
                break;
            case 'S':
                out.power = value;
                break;
            case 'G':
                moves = moves || (value >= 0 && value <= 3);
                arc = arc || value == 2 || value == 3;
                out.left = out.left || value == 3;
                break;
            case 'M':
                out.lowers = out.lowers || value == 3 || value == 4;
                out.raises = out.raises || value == 5;
                out.holds = out.holds || value == 8 || value == 9;
                break;
            case 'Z':
                (line.starts_with("G1") ? out.lowers : out.raises) = true;
                break;
            default:
                break;
            }
            i = end + 1;
        }
        // What is not said is as it was.
        last_.x = x.value_or(last_.x);
        last_.y = y.value_or(last_.y);
        if (moves && (x || y)) {
            out.to = last_;
            if (arc)
                out.middle = middle;
        }
        return out;
    }
    bool hpgl_;
    double unit_ = 1;
    mutable Point last_; // of the lines read so far, one after another
};

// How far a place lies from a move's way.
double awayFrom(Point from, const Said& move, Point at)
{
    const Point to = *move.to;
    if (!move.middle) {
        const Point along = to - from;
        const double length2 = dot(along, along), t = length2 > 0 ? std::clamp(dot(at - from, along) / length2, 0.0, 1.0) : 0;
        return distance(at, mix(from, to, t));
    }
    const Point centre = from + *move.middle;
    const double turn = move.left ? 1 : -1;
    const auto angle = [&](Point p) {
        const double a = turn * std::atan2(cross(from - centre, p - centre), dot(from - centre, p - centre));
        return a < -1e-9 ? a + 2 * std::numbers::pi : a;
    };
    const double sweep = angle(to) > 1e-9 ? angle(to) : 2 * std::numbers::pi;
    if (angle(at) <= sweep)
        return std::abs(distance(at, centre) - norm(from - centre));
    return std::min(distance(at, from), distance(at, to));
}

} // namespace

std::optional<std::size_t> firstNotDone(const Program& program, std::size_t from, std::size_t to, const Stood& stood)
{
    const Reader said(program);
    std::optional<Point> place; // where a line begins
    AtWork tool;
    for (std::size_t k = 0; k < from; ++k) {
        const Said s = said(program.lines[k]);
        place = s.to ? s.to : place;
        tool.hear(s);
    }
    struct Found {
        std::size_t next, move; // `move`: counted among those that move
        double away;
        double gone; // from where the move begins
    };
    std::vector<Found> found;
    const bool hasPlace = place.has_value();
    if (hasPlace && distance(*place, stood.at) <= near && stood.down.value_or(tool.burns()) == tool.burns())
        found.push_back({from, 0, distance(*place, stood.at), 0});
    std::size_t move = 0;
    for (std::size_t k = from; k < to && k < program.lines.size(); ++k) {
        const Said s = said(program.lines[k]);
        tool.hear(s);
        if (!s.to)
            continue;
        const Point begin = std::exchange(place, s.to).value_or(*s.to);
        ++move;
        const double away = awayFrom(begin, s, stood.at);
        // Where it begins, the one before it has ended.
        const bool atBegin = distance(begin, stood.at) <= near && distance(begin, *s.to) > 0;
        if (away <= near && !atBegin && stood.down.value_or(tool.burns()) == tool.burns())
            found.push_back({distance(*s.to, stood.at) <= near ? k + 1 : k, move, away, distance(begin, stood.at)});
    }
    if (found.empty()) // still on the way from nobody knows where to the first place of all, then
        return hasPlace ? std::nullopt : std::optional(from);
    // Two moves have a corner in common, and about it either will do. One that goes back along the other has more than that in common.
    constexpr double aboutCorner = 0.1, telling = near / 2; // mm: what may be cut twice; by what one must be nearer to be told
    for (std::size_t k = 1; k < found.size(); ++k)
        if (found[k].move != found[k - 1].move + 1 || (found[k].gone > aboutCorner && std::abs(found[k].away - found[k - 1].away) < telling))
            return std::nullopt;
    const Found& best = *std::min_element(found.begin(), found.end(), [](const Found& a, const Found& b) { return a.away < b.away; });
    return best.next;
}

Whereabouts::Whereabouts(const std::vector<std::string>& lines, Dialect dialect)
{
    const Reader said(lines, dialect);
    std::optional<Point> place;
    for (const std::string& line : lines) {
        const Said s = said(line);
        Way way;
        if (s.to) {
            way.fromAnywhere = !place;
            way.box.add(*s.to);
            if (place)
                way.box.add(*place);
            if (s.middle && place) { // all of its circle: more than it goes
                const Point centre = *place + *s.middle;
                const double r = norm(*s.middle);
                way.box.add(centre + Point{r, r});
                way.box.add(centre - Point{r, r});
            }
            place = s.to;
        }
        way.end = place;
        ways_.push_back(way);
    }
}

bool Whereabouts::mayBeAt(Point at, std::size_t from, std::size_t to, double slack) const
{
    Rect box = Rect::nothing();
    if (from > 0 && from <= ways_.size() && ways_[from - 1].end)
        box.add(*ways_[from - 1].end);
    for (std::size_t k = from; k < std::min(to, ways_.size()); ++k) {
        if (ways_[k].fromAnywhere)
            return true;
        if (ways_[k].box.x0 <= ways_[k].box.x1)
            box.add(ways_[k].box);
    }
    return !(box.x0 <= box.x1) || box.grown(slack).contains(at);
}

std::optional<Point> Whereabouts::after(std::size_t lines) const { return lines == 0 || lines > ways_.size() ? std::nullopt : ways_[lines - 1].end; }

std::size_t pastNextMove(const Program& program, std::size_t line)
{
    const Reader said(program);
    while (line < program.lines.size() && !said(program.lines[line]).to)
        ++line;
    return std::min(line + 1, program.lines.size());
}

Rest restOf(const Program& program, std::size_t line, std::optional<Point> stoodAt)
{
    const Reader said(program);
    const bool hpgl = program.dialect == Dialect::Hpgl;
    Rest out;
    for (const std::string& first : program.lines) {
        if (hpgl || !(first.starts_with("G2") || first.starts_with("G17") || first.starts_with("G90")))
            break;
        out.lines.push_back(first);
    }
    std::string lowered, feed;
    std::vector<std::string> held; // the last of each word
    std::optional<Point> place;
    AtWork tool;
    for (std::size_t k = 0; k < line && k < program.lines.size(); ++k) {
        const std::string& text = program.lines[k];
        const Said s = said(text);
        if (s.lowers)
            lowered = text;
        tool.hear(s);
        if (!s.feed.empty())
            feed = s.feed;
        place = s.to ? s.to : place;
        if (!s.holds)
            continue;
        std::erase_if(held, [&](const std::string& h) { return h[0] == text[0] && (!hpgl || h[1] == text[1]); });
        held.push_back(text);
    }
    out.lines.insert(out.lines.end(), held.begin(), held.end());
    const std::optional<Point> at = stoodAt ? stoodAt : place;
    const auto figure = [&](double mm) { return hpgl ? std::to_string(std::lround(mm * hpglUnitsAMm)) : plainNumber(mm / said.unit(), 5); };
    if (!hpgl) // of a plotter PU says it, with the way
        out.lines.insert(out.lines.end(), program.raise.begin(), program.raise.end());
    if (at)
        out.lines.push_back(hpgl ? "PU" + figure(at->x) + "," + figure(at->y) + ";" : "G0 X" + figure(at->x) + " Y" + figure(at->y));
    if (tool.lowered())
        out.lines.push_back(hpgl ? "PD;" : lowered);
    if (!feed.empty())
        out.lines.push_back("G1 " + feed);
    out.leading = out.lines.size();
    out.lines.insert(out.lines.end(), program.lines.begin() + std::ptrdiff_t(std::min(line, program.lines.size())), program.lines.end());
    // What is left of an arc has the same middle, seen from where it goes on.
    if (stoodAt && place && out.leading < out.lines.size())
        if (const Said s = said(out.lines[out.leading]); s.middle) {
            const Point from = *place + *s.middle - *stoodAt;
            out.lines[out.leading] = std::string(s.left ? "G3" : "G2") + " X" + figure(s.to->x) + " Y" + figure(s.to->y) + " I" + figure(from.x) + " J" +
                                     figure(from.y) + (s.feed.empty() ? "" : " " + s.feed);
        }
    return out;
}

} // namespace yokai
