#include "gcode_device.h"
#include "hpgl_device.h"

#include "base/error.h"
#include "base/file.h"
#include "base/length.h"

#include <nlohmann/json.hpp>

#include <charconv>
#include <chrono>
#include <cmath>
#include <sstream>

namespace yokai::standin {

namespace {

constexpr double leastPower = 0.01; // of all: less leaves no mark

double wallSeconds() { return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count(); }
std::vector<double> numbersOf(const std::string& text)
{
    std::istringstream in(text);
    in.imbue(std::locale::classic());
    std::vector<double> out;
    std::string one;
    while (std::getline(in, one, ',')) {
        double v = 0;
        const auto [end, error] = std::from_chars(one.data(), one.data() + one.size(), v);
        if (error != std::errc() || end != one.data() + one.size() || !std::isfinite(v))
            return {};
        out.push_back(v);
    }
    return out;
}

} // namespace

void Device::serve(const std::atomic<bool>& over)
{
    wall_ = wallSeconds();
    while (!over) {
        // As fast as can be, time passes only while there is no room for what comes, or nothing comes.
        constexpr int nothingComes = 3; // ms
        const bool busy = !motors_.idle() || waits_, room = !motors_.full() && !waits_;
        const std::string came = link_.read(!busy ? 20 : spec_.pace > 0 ? 1 : room ? nothingComes : 0);
        const bool said = take(came);
        const double now = wallSeconds(), passed = now - std::exchange(wall_, now);
        if (pulledUntil_ > 0 && now > pulledUntil_) {
            pulledUntil_ = 0;
            link_.plug();
        }
        if (stalled_ && stalledUntil_ > 0 && now > stalledUntil_)
            stalled_ = false;
        if (stalled_)
            continue;
        bool took = false;
        while (tryLine())
            took = true;
        if (spec_.pace > 0)
            go(passed * spec_.pace);
        else if (motors_.held()) // until it has come to rest
            go(0.01);
        else if (motors_.full()) // no longer than until there is room: short moves are gone through in a moment
            while (motors_.full())
                go(0.001);
        else if (waits_)
            go(0.05);
        else if (!took && !said && !motors_.idle())
            go(0.01);
    }
}

void Device::answerLine(std::string said)
{
    ++lines_;
    for (const Fault& fault : spec_.faults)
        if (fault.line == lines_)
            setOff(fault);
    if (garbles_ && !said.empty())
        for (char& c : said)
            c = char(c ^ 0x15);
    garbles_ = garbles_ && said.empty();
    if (!stalled_)
        link_.write(said);
}

void Device::setOff(const Fault& fault)
{
    switch (fault.kind) {
    case FaultKind::Link:
        link_.pull();
        pulledUntil_ = wallSeconds() + (fault.x > 0 ? fault.x : 1e9);
        buffer_.clear();
        break;
    case FaultKind::Garble:
        garbles_ = true;
        break;
    case FaultKind::Stall:
        stalled_ = true;
        stalledUntil_ = fault.x > 0 ? wallSeconds() + fault.x : 0;
        break;
    case FaultKind::Anew:
        beginAnew();
        break;
    case FaultKind::Slip:
        bed_.slip({fault.x, fault.y});
        break;
    }
}

void Device::go(double seconds)
{
    const double took = motors_.step(seconds, [this](Point at, double power) {
        if (spec_.byHeight)
            lowerByHeight();
        moved(at, power);
    });
    clock_ += took;
}

// On along the same line with the same power is the same stretch.
void Device::burnt(Point from, Point to, double power)
{
    if (!burns_.empty()) {
        Burn& last = burns_.back();
        const Point a{last.x0, last.y0}, b{last.x1, last.y1};
        constexpr double near = 1e-4, straight = 1e-3; // mm; of a radian
        if (last.power == float(power) && distance(b, from) < near && distance(a, b) > 0 && distance(from, to) > 0 && std::abs(cross(unit(b - a), unit(to - from))) < straight &&
            dot(b - a, to - from) > 0) {
            last.x1 = float(to.x);
            last.y1 = float(to.y);
            return;
        }
    }
    burns_.push_back({float(from.x), float(from.y), float(to.x), float(to.y), float(power)});
}

void Device::moved(Point counted, double power)
{
    const Point at = spec_.toBed(counted + moved_), from = std::exchange(was_, at);
    if (!down_)
        return;
    if (power >= 0) {
        if (power > 0)
            burnt(from, at, power);
        return;
    }
    if (spec_.bladeOffset > 0) {
        heading_ = unit(at - tip_);
        tip_ = at - heading_ * spec_.bladeOffset;
    } else
        tip_ = at;
    constexpr double apart = 0.02; // mm between places that are kept
    Polyline& points = cuts_.back().points;
    if (points.size() < 2 || distance(points[points.size() - 2], tip_) > apart)
        points.push_back(tip_);
    else
        points.back() = tip_;
}

void Device::tool(bool down, double power)
{
    if (down != down_)
        clock_ += spec_.toolSeconds;
    if (down && (!down_ || cuts_.back().power != power)) {
        tip_ = spec_.toBed(motors_.at() + moved_) - heading_ * spec_.bladeOffset;
        cuts_.push_back({{tip_}, power, lines_, bed_.truth()});
    }
    down_ = down;
}

// The material's surface lies half way down: under it the tool is in it.
void Device::lowerByHeight()
{
    const bool down = (motors_.z() - (spec_.up + spec_.down) / 2) * (spec_.up - spec_.down) < 0;
    if (down != down_)
        tool(down, spec_.powerMost);
}

std::string Device::own(const std::string& request)
{
    toSay_.clear();
    try {
        obey(request);
        return toSay_ + "ok";
    } catch (const Error& e) {
        return std::string("error:") + e.what();
    }
}

void Device::obey(const std::string& request)
{
    const std::size_t equals = request.find('=');
    const std::string word = request.substr(0, equals), rest = equals == std::string::npos ? std::string() : request.substr(equals + 1);
    if (word == "ASKEW") {
        const auto v = numbersOf(rest);
        if ((v.size() != 6 && v.size() != 7) || !(v[0] > 0.5 && v[0] < 2 && v[1] > 0.5 && v[1] < 2 && std::abs(v[2]) <= 360 && std::abs(v[3]) < 45))
            throw Error(ErrorKind::Usage, "how the sheet lies is six or seven numbers: stretch both ways, turn, skew, shift both ways, swell");
        bed_.setAskew({v[0], v[1], v[2], v[3], v[4], v[5], v.size() > 6 ? v[6] : 0});
        return;
    }
    if (word == "SHEET") {
        bed_.print(rest);
        cuts_.clear();
        burns_.clear();
        return;
    }
    if (!bed_.loaded() && word != "REPORT")
        throw Error(ErrorKind::Usage, "no sheet is loaded");
    if (word == "VIEW") {
        writeFile(rest, bed_.view());
        toSay_ = "[VIEW:" + plainNumber(bed_.viewCorner().x, 4) + "," + plainNumber(bed_.viewCorner().y, 4) + "," + plainNumber(bed_.pxPerMm(), 9) + "]\r\n";
        return;
    }
    if (word == "PICTURE") {
        writeFile(rest, picture());
        return;
    }
    if (word == "REPORT") {
        writeFile(rest, report());
        return;
    }
    throw Error(ErrorKind::Usage, "unknown request");
}

std::string Device::report(const Lines* lines) const
{
    nlohmann::json cuts = nlohmann::json::array();
    double worst = -1;
    for (const Cut& cut : cuts_) {
        if (cut.power < leastPower * spec_.powerMost)
            continue;
        // Both where it lies on the bed and where on the sheet as it was designed: what is cut, is cut into the print.
        nlohmann::json onBed = nlohmann::json::array(), onSheet = nlohmann::json::array();
        for (const Point p : cut.points) {
            const Point design = cut.truth.inverse(p);
            onBed.push_back({std::round(p.x * 1e5) / 1e5, std::round(p.y * 1e5) / 1e5});
            onSheet.push_back({std::round(design.x * 1e5) / 1e5, std::round(design.y * 1e5) / 1e5});
        }
        cuts.push_back({{"line", cut.line}, {"power", cut.power}, {"bed_mm", std::move(onBed)}, {"sheet_mm", std::move(onSheet)}});
        if (const auto landed = lines ? lines->landed(cut, &cut == &cuts_.front()) : std::nullopt) {
            cuts.back()["worst_mm"] = std::round(landed->worst * 1e4) / 1e4;
            cuts.back()["mean_mm"] = std::round(landed->mean * 1e4) / 1e4;
            worst = std::max(worst, landed->worst);
        }
    }
    double engraved = 0;
    for (const Burn& b : burns_)
        engraved += std::hypot(b.x1 - b.x0, b.y1 - b.y0);
    // What stands there when all is over: a knife in the material, a beam that is on.
    const bool burns = down_ && !spec_.byHeight && !cuts_.empty() && cuts_.back().power > 0 && !(onlyMoving_ && motors_.idle());
    nlohmann::json out{{"ends", {{"tool_down", down_}, {"burns", burns}, {"z", motors_.z()}, {"at", {motors_.at().x, motors_.at().y}}, {"held", motors_.held()}}}, {"engraved", {{"stretches", burns_.size()}, {"mm", engraved}}}, {"seconds", clock_}, {"lines", lines_}, {"characters_lost", lost_}, {"cuts", std::move(cuts)}};
    if (worst >= 0)
        out["worst_mm"] = std::round(worst * 1e4) / 1e4;
    return out.dump();
}

std::unique_ptr<Device> deviceOf(const DeviceSpec& spec, Bed& bed, Link& link)
{
    if (spec.dialect == Dialect::Hpgl)
        return std::make_unique<HpglDevice>(spec, bed, link);
    return std::make_unique<GcodeDevice>(spec, bed, link);
}

} // namespace yokai::standin
