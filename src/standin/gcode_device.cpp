#include "gcode_device.h"

#include "base/length.h"

#include <charconv>
#include <cmath>
#include <map>
#include <numbers>

namespace yokai::standin {

namespace {

constexpr std::size_t bufferSize = 128; // characters, as small controllers have
// Numbers of refusals, as open-source motion firmware documents them.
constexpr int noWord = 1, badNumber = 2, noSuchRequest = 3, locked = 9, jogTooFar = 15, noFeed = 22, unknownWord = 20, noSuchArc = 33;
constexpr int softLimit = 2, lostInMotion = 3, probeUntouched = 5;

std::string places(Point p, double z = 0) { return plainNumber(p.x, 3) + "," + plainNumber(p.y, 3) + "," + plainNumber(z, 3); }
std::string refusedWith(int number) { return "error:" + std::to_string(number); }

} // namespace

std::optional<std::vector<std::pair<char, double>>> wordsIn(const std::string& line)
{
    std::vector<std::pair<char, double>> out;
    for (std::size_t i = 0; i < line.size();) {
        const char c = char(std::toupper(static_cast<unsigned char>(line[i])));
        if (c == ';')
            break;
        if (c == '(') {
            const std::size_t end = line.find(')', i);
            i = end == std::string::npos ? line.size() : end + 1;
            continue;
        }
        if (c == ' ' || c == '\t') {
            ++i;
            continue;
        }
        if (c < 'A' || c > 'Z')
            return std::nullopt;
        double value = 0;
        std::size_t begin = i + 1;
        if (begin < line.size() && line[begin] == '+')
            ++begin;
        const auto [end, error] = std::from_chars(line.data() + begin, line.data() + line.size(), value);
        if (error != std::errc() || !std::isfinite(value) || std::abs(value) > 1e7)
            return std::nullopt;
        out.emplace_back(c, value);
        i = std::size_t(end - line.data());
    }
    return out;
}

bool GcodeDevice::take(const std::string& bytes)
{
    bool said = false;
    for (const char c : bytes) {
        if (c == '?' || c == '!' || c == '~' || c == 0x18 || static_cast<unsigned char>(c) == 0x85) {
            realtime(c);
            continue;
        }
        if (c == '\r')
            continue;
        said = true;
        keep(c, bufferSize);
    }
    return said;
}

void GcodeDevice::realtime(char c)
{
    if (stalled_ && c != 0x18)
        return;
    if (c == '?')
        link_.write(status() + "\r\n");
    else if (c == '!')
        motors_.hold(true);
    else if (c == '~')
        motors_.hold(false);
    else if (c == 0x18)
        reset();
    else { // no more of a jog
        if (jogging_)
            motors_.drop();
        jogging_ = false;
        target_ = motors_.at();
    }
}

// What it was doing and what was said to it so far.
void GcodeDevice::forget()
{
    motors_.drop();
    // A spindle or a beam stops; Z stays where it is.
    if (!spec_.byHeight)
        tool(false, 0);
    targetZ_ = motors_.z();
    buffer_.clear();
    waits_ = jogging_ = false;
    asked_ = 0;
    motion_ = 0;
    absolute_ = true;
    unit_ = 1;
    motors_.finished(0);
}

void GcodeDevice::reset()
{
    alarm_ = !motors_.idle() && !motors_.still(); // where it is, is no longer sure
    forget();
    stalled_ = false;
    clock_ = 0;
    target_ = motors_.at();
    greet();
}

// As after it was switched off and on: where it stands it takes for its zero, and of what it had it knows nothing.
void GcodeDevice::beginAnew()
{
    alarm_ = false;
    forget();
    moved_ = moved_ + motors_.at();
    motors_.put({});
    target_ = {};
    greet();
}

void GcodeDevice::greet()
{
    link_.write(std::string("\r\nYokai stand-in ") + YOKAI_VERSION + " ['$' for help]\r\n" + (alarm_ ? "ALARM:" + std::to_string(lostInMotion) + "\r\n" : ""));
}

GcodeDevice::State GcodeDevice::state() const
{
    if (alarm_)
        return State::Alarm;
    if (motors_.held())
        return State::Hold;
    if (jogging_ && !motors_.idle())
        return State::Jog;
    return motors_.idle() && !waits_ ? State::Idle : State::Run;
}

// Said with the first state, and with some of those to come.
std::string GcodeDevice::offsetNow()
{
    constexpr int every = 10;
    return asked_++ % every == 0 ? "|WCO:" + places(spec_.offset) : std::string();
}

std::string GcodeDevice::status()
{
    const std::map<State, const char*> names = {
        {State::Idle, "Idle"}, {State::Run, "Run"}, {State::Hold, motors_.still() ? "Hold:0" : "Hold:1"}, {State::Jog, "Jog"}, {State::Alarm, "Alarm"}};
    return "<" + std::string(names.at(state())) + "|MPos:" + places(motors_.at() + spec_.offset, motors_.z()) + "|Bf:" + std::to_string(motors_.free()) + "," +
           std::to_string(bufferSize - buffer_.size()) + (motors_.lastLine() > 0 ? "|Ln:" + std::to_string(motors_.lastLine()) : "") +
           "|FS:" + plainNumber(motors_.speed() * 60, 0) + "," + plainNumber(down_ ? power_ : 0, 0) + offsetNow() + ">";
}

bool GcodeDevice::tryLine()
{
    const std::size_t end = buffer_.find('\n');
    if (end == std::string::npos) {
        // A line too long to be one is none.
        if (buffer_.size() == bufferSize)
            buffer_.clear(), link_.write(refusedWith(11) + "\r\n");
        waits_ = false;
        return false;
    }
    const std::string line = buffer_.substr(0, end);
    // Only plain moves go on while others are under way.
    const auto words = wordsIn(line);
    bool plain = words && !words->empty();
    for (const auto& [letter, value] : words.value_or(std::vector<std::pair<char, double>>{}))
        plain = plain && letter != 'M' && !(letter == 'G' && (value == 4 || (value >= 38 && value < 39)));
    const bool jogs = line.starts_with("$J=");
    waits_ = plain || jogs ? motors_.full() : !motors_.idle() && !line.empty();
    if (waits_ && !line.starts_with("$I"))
        return false;
    buffer_.erase(0, end + 1);
    waits_ = false;
    answerLine(answer(line) + "\r\n");
    return true;
}

std::string GcodeDevice::answer(const std::string& line)
{
    if (line.empty())
        return "ok";
    if (line.starts_with("$Y"))
        return own(line.substr(2));
    if (line == "$I")
        return std::string("[VER:Yokai stand-in ") + YOKAI_VERSION + ":]\r\n[OPT:V,16," + std::to_string(bufferSize) + "]\r\nok";
    if (line == "$X" || line == "$H") {
        alarm_ = false;
        if (line == "$H") { // to its corner, which it finds with switches
            clock_ += norm(motors_.at()) / spec_.limits.topSpeed;
            motors_.put({});
            target_ = moved_ = {};
            if (spec_.byHeight) { // Z first
                motors_.putZ(spec_.up);
                targetZ_ = spec_.up;
                tool(false, 0);
            }
        }
        return "ok";
    }
    if (alarm_)
        return refusedWith(locked);
    if (line.starts_with("$J="))
        return jog(line.substr(3));
    return line[0] == '$' ? refusedWith(noSuchRequest) : words(line);
}

std::string GcodeDevice::jog(const std::string& line)
{
    const auto all = wordsIn(line);
    if (!all)
        return refusedWith(badNumber);
    Point to = target_;
    bool by = false;
    double speed = 0;
    for (const auto& [letter, value] : *all)
        if (letter == 'G')
            by = value == 91 ? true : value == 90 ? false : by;
    for (const auto& [letter, value] : *all) {
        if (letter == 'X')
            to.x = by ? target_.x + value : value;
        else if (letter == 'Y')
            to.y = by ? target_.y + value : value;
        else if (letter == 'F')
            speed = value / 60;
    }
    if (!(speed > 0))
        return refusedWith(noFeed);
    if (!reaches(to))
        return refusedWith(jogTooFar);
    jogging_ = true;
    Block block{target_, to, {}, targetZ_, targetZ_, 0, std::min(speed, spec_.limits.topSpeed)};
    target_ = to;
    if (block.length() > 0)
        motors_.add(block);
    return "ok";
}

// Over 60 lines: one word after another.
std::string GcodeDevice::words(const std::string& line)
{
    const auto all = wordsIn(line);
    if (!all)
        return refusedWith(line.find_first_of("0123456789") == std::string::npos ? noWord : badNumber);
    jogging_ = false;
    std::map<char, double> value;
    int motion = -1, toolWord = -1;
    double probing = 0;
    bool dwell = false;
    for (const auto& [letter, v] : *all) {
        if (letter == 'G') {
            if (v == 0 || v == 1 || v == 2 || v == 3)
                motion = int(v);
            else if (v == 38.3 || v == 38.5)
                probing = v;
            else if (v == 4)
                dwell = true;
            else if (v == 20 || v == 21)
                unit_ = v == 20 ? 25.4 : 1;
            else if (v == 90 || v == 91)
                absolute_ = v == 90;
            else if (v != 17)
                return refusedWith(unknownWord);
        } else if (letter == 'M') {
            if (v == 3 || v == 4 || v == 5 || v == 2)
                toolWord = v == 2 ? 5 : int(v);
            else if (v != 7 && v != 8 && v != 9)
                return refusedWith(unknownWord);
        } else if (std::string_view("SFXYZIJPN").find(letter) == std::string_view::npos)
            return refusedWith(unknownWord);
        else
            value[letter] = v;
    }
    if (value.contains('S'))
        power_ = value['S'];
    if (value.contains('F'))
        feed_ = value['F'] * unit_ / 60;
    if (dwell)
        clock_ += value['P'];
    if (toolWord >= 0) {
        tool(toolWord != 5, power_);
        scans_ = false;
    }
    if (motion >= 0)
        motion_ = motion;
    if (toolWord >= 0)
        onlyMoving_ = toolWord == 4;
    // What does not move is done at once, if nothing before it is still under way.
    if (value.contains('N') && motors_.idle() && !value.contains('X') && !value.contains('Y') && !value.contains('Z'))
        motors_.finished(int(value['N']));
    if (!value.contains('X') && !value.contains('Y') && !value.contains('Z'))
        return "ok";
    Point to = target_;
    const double fromZ = targetZ_;
    if (value.contains('Z'))
        targetZ_ = value['Z'] * unit_ + (absolute_ ? 0 : targetZ_);
    if (value.contains('X'))
        to.x = value['X'] * unit_ + (absolute_ ? 0 : target_.x);
    if (value.contains('Y'))
        to.y = value['Y'] * unit_ + (absolute_ ? 0 : target_.y);
    if (!reaches(to)) {
        alarm_ = true;
        return "ALARM:" + std::to_string(softLimit) + "\r\nok";
    }
    if (probing > 0)
        return feed_ > 0 ? probe(to, probing > 38.4, feed_) : refusedWith(noFeed);
    if (motion_ != 0 && !(feed_ > 0))
        return refusedWith(noFeed);
    Block block{target_, to, {}, fromZ, targetZ_, 0, motion_ == 0 ? spec_.limits.topSpeed : std::min(feed_, spec_.limits.topSpeed)};
    if (motion_ >= 2) {
        block.centre = target_ + Point{value['I'], value['J']} * unit_;
        const double r = distance(target_, block.centre), off = std::abs(distance(to, block.centre) - r);
        if (!(r > 0) || off > std::max(0.005, 0.001 * r))
            return refusedWith(noSuchArc);
        const Point a = target_ - block.centre, b = to - block.centre;
        block.sweep = std::atan2(cross(a, b), dot(a, b));
        if (motion_ == 3 && block.sweep <= 1e-9)
            block.sweep += 2 * std::numbers::pi;
        if (motion_ == 2 && block.sweep >= -1e-9)
            block.sweep -= 2 * std::numbers::pi;
    }
    target_ = to;
    // A power said with a move is that move's; a way there without one burns nothing.
    if (down_ && motion_ == 1 && value.contains('S')) {
        scans_ = true;
        block.power = power_;
    } else if (down_ && motion_ == 0 && scans_)
        block.power = 0;
    block.line = value.contains('N') ? int(value['N']) : 0;
    if (block.length() > 0)
        motors_.add(block);
    return "ok";
}

// Along a line until the eye sees dark, or light again; it says where the tool then is.
std::string GcodeDevice::probe(Point to, bool away, double speed)
{
    constexpr double step = 0.005; // mm
    const Point from = motors_.at();
    const double way = distance(from, to);
    const Point eye{spec_.eyeX, spec_.eyeY};
    double found = -1;
    for (double s = 0; s <= way && found < 0; s += step)
        if (bed_.dark(spec_.toBed(mix(from, to, way > 0 ? s / way : 0)) + eye) != away)
            found = s;
    const double stop = found >= 0 ? found : way;
    clock_ += stop / std::max(speed, 1e-3);
    const Point at = mix(from, to, way > 0 ? stop / way : 1);
    motors_.put(at);
    target_ = at;
    // What it reads strays a little; where it is, does not.
    const Point read = found >= 0 && way > 0 ? at + unit(to - from) * bed_.stray() : at;
    static_cast<void>(probeUntouched); // 38.3 and 38.5 end quietly where there is nothing
    return "[PRB:" + places(read + spec_.offset) + ":" + (found >= 0 ? "1" : "0") + "]\r\nok";
}

} // namespace yokai::standin
