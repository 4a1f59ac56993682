#include "hpgl_device.h"

#include <cctype>
#include <charconv>
#include <cmath>

namespace yokai::standin {

namespace {

constexpr std::size_t bufferSize = 1024; // characters
constexpr double unitsAMm = 40;
constexpr int unknownWord = 1, wrongCount = 2, badFigure = 3, pastTheBed = 6;

std::string endOfAnswer() { return "\r"; }

} // namespace

bool HpglDevice::take(const std::string& bytes)
{
    bool said = false;
    for (const char c : bytes) {
        if (c == 0x1b || !escape_.empty()) {
            escape_ += c;
            if (escape_.size() == 3) {
                outOfTurn(escape_.back());
                escape_.clear();
            }
            continue;
        }
        said = true;
        keep(c, bufferSize);
    }
    return said;
}

void HpglDevice::outOfTurn(char request)
{
    if (stalled_)
        return;
    const bool nothingLeft = buffer_.empty() && motors_.idle();
    if (request == 'B')
        link_.write(std::to_string(bufferSize - buffer_.size()) + endOfAnswer());
    else if (request == 'O')
        link_.write(std::to_string(nothingLeft ? 8 : 0) + endOfAnswer());
    else if (request == 'K') {
        buffer_.clear();
        motors_.drop();
        target_ = motors_.at();
        waits_ = false;
    }
}

bool HpglDevice::tryLine()
{
    // What stands between words.
    std::size_t begin = 0;
    while (begin < buffer_.size() && (buffer_[begin] == ';' || std::isspace(static_cast<unsigned char>(buffer_[begin]))))
        ++begin;
    buffer_.erase(0, begin);
    waits_ = false;
    const bool request = buffer_.starts_with("$Y");
    const std::size_t end = buffer_.find(request ? '\n' : ';');
    if (end == std::string::npos)
        return false;
    const std::string text = buffer_.substr(0, end), name = text.substr(0, 2);
    // Only moves go on while others are under way.
    const bool moves = (name == "PU" || name == "PD" || name == "PA") && (name == "PU") == !down_ && text.size() > 2;
    waits_ = moves ? motors_.full() : !motors_.idle();
    if (waits_)
        return false;
    buffer_.erase(0, end + 1);
    if (request) {
        answerLine(own(text.substr(2)) + "\r\n");
        return true;
    }
    std::vector<double> figures;
    bool good = true;
    for (const char *at = text.data() + 2, *stop = text.data() + text.size(); text.size() > 2 && at < stop && good;) {
        double v = 0;
        const auto [next, error] = std::from_chars(at, stop, v);
        good = error == std::errc() && std::isfinite(v) && std::abs(v) < 1e7 && (next == stop || (*next == ',' && next + 1 < stop));
        figures.push_back(v);
        at = next + 1;
    }
    const std::string said = good ? word(name, figures) : std::string();
    if (!good && error_ == 0)
        error_ = badFigure;
    answerLine(said);
    return true;
}

std::string HpglDevice::word(const std::string& name, const std::vector<double>& figures)
{
    const auto wrong = [&](int error) {
        error_ = error_ == 0 ? error : error_;
        return std::string();
    };
    if (name == "OA")
        return std::to_string(std::lround(motors_.at().x * unitsAMm)) + "," + std::to_string(std::lround(motors_.at().y * unitsAMm)) + (down_ ? ",1" : ",0") + endOfAnswer();
    if (name == "OE")
        return std::to_string(std::exchange(error_, 0)) + endOfAnswer();
    if (name == "IN") {
        tool(false, 0);
        speed_ = force_ = 0;
        clock_ = 0;
    } else if (name == "SP")
        tool(false, 0);
    else if (name == "VS")
        speed_ = figures.empty() ? 0 : figures.front() * 10;
    else if (name == "FS")
        force_ = figures.empty() ? 0 : figures.front();
    else if (name == "PU" || name == "PD" || name == "PA") {
        if (figures.size() % 2 != 0)
            return wrong(wrongCount);
        if (name != "PA")
            tool(name == "PD", std::min(1.0, force_ / spec_.forceMost) * spec_.powerMost);
        for (std::size_t k = 0; k + 1 < figures.size(); k += 2) {
            const Point to = Point{figures[k], figures[k + 1]} * (1 / unitsAMm);
            if (!reaches(to))
                return wrong(pastTheBed);
            go(to);
        }
    } else
        return wrong(unknownWord);
    return {};
}

void HpglDevice::go(Point to)
{
    const double top = spec_.limits.topSpeed;
    Block block{target_, to, {}, 0, 0, 0, down_ && speed_ > 0 ? std::min(speed_, top) : top};
    target_ = to;
    if (block.length() > 0)
        motors_.add(block);
}

} // namespace yokai::standin
