#include "boards.h"

#include <QStringList>

#include <chrono>
#include <cmath>
#include <poll.h>
#include <pty.h>
#include <unistd.h>

namespace yokai::test {

namespace {

constexpr double mmPerSecond = 600; // of all its ways

} // namespace

Board::Board()
{
    char name[128] = {};
    if (::openpty(&master_, &slave_, name, nullptr, nullptr) != 0)
        qFatal("no pseudo-terminal");
    termios raw{};
    ::tcgetattr(slave_, &raw);
    ::cfmakeraw(&raw);
    ::tcsetattr(slave_, TCSANOW, &raw);
    port_ = QString::fromLatin1(name);
}

Board::~Board()
{
    ::close(slave_);
    ::close(master_);
}

void Board::begin()
{
    thread_ = std::jthread([this](const std::stop_token& over) { serve(over); });
}

void Board::end()
{
    thread_.request_stop();
    thread_.join();
}

std::vector<Polyline> Board::cuts() const
{
    const std::scoped_lock lock(mutex_);
    return cuts_;
}

void Board::say(const std::string& text)
{
    if (::write(master_, text.data(), text.size()) < 0)
        lost_ += text.size();
}

void Board::tool(bool down)
{
    const std::scoped_lock lock(mutex_);
    if (down && !down_)
        cuts_.push_back({at_});
    down_ = down;
}

void Board::serve(const std::stop_token& over)
{
    using Clock = std::chrono::steady_clock;
    auto last = Clock::now();
    while (!over.stop_requested()) {
        pollfd wait{master_, POLLIN, 0};
        char bytes[256];
        if (::poll(&wait, 1, 1) > 0)
            for (ssize_t k = 0, n = ::read(master_, bytes, sizeof bytes); k < n; ++k)
                hear(bytes[k]);
        const auto now = Clock::now();
        double way = held_ ? 0 : mmPerSecond * std::chrono::duration<double>(now - last).count();
        last = now;
        // As far as that takes it, which may be past several places.
        while (!held_) {
            if (!moving_) {
                next();
                if (!moving_)
                    break;
            }
            const double left = distance(at_, target_);
            at_ = left > way ? mix(at_, target_, way / left) : target_;
            moving_ = left > way;
            way = std::max(0.0, way - left);
            if (down_) {
                const std::scoped_lock lock(mutex_);
                cuts_.back().push_back(at_);
            }
            if (moving_ || way <= 0)
                break;
        }
    }
}

void OldPlotter::hear(char c)
{
    constexpr std::size_t room = 255;
    if (c == 0x1b || !escape_.empty()) {
        escape_ += c;
        if (escape_.size() < 3)
            return;
        if (c == 'B')
            say(std::to_string(room - buffer_.size()) + "\r");
        else if (c == 'O')
            say(moving_ || !buffer_.empty() ? "0\r" : "8\r");
        else if (c == 'K')
            buffer_.clear();
        escape_.clear();
    } else if (buffer_.size() < room)
        buffer_ += c;
    else
        ++lost_;
}

void OldPlotter::next()
{
    const std::size_t end = buffer_.find(';');
    if (end == std::string::npos)
        return;
    const QString word = QString::fromStdString(buffer_.substr(0, end)).trimmed();
    buffer_.erase(0, end + 1);
    const QStringList figures = word.mid(2).split(',');
    if (word == "OA")
        say(QString("%1,%2,%3\r").arg(std::lround(at_.x * 40)).arg(std::lround(at_.y * 40)).arg(down_ ? 1 : 0).toStdString());
    else if (word == "OE")
        say("0\r");
    else if (word.startsWith("PU") || word.startsWith("PD")) {
        tool(word.startsWith("PD"));
        if (figures.size() == 2)
            go({figures[0].toDouble() / 40, figures[1].toDouble() / 40});
    } else if (word == "IN")
        tool(false);
    if (!moving_) // a word that takes no time
        next();
}

void PlainBoard::hear(char c)
{
    if (c == '?')
        say(QString("<%1|MPos:%2,%3,0.000>\r\n").arg(alarm_ ? "Alarm" : held_ ? "Hold:0" : moving_ || !lines_.empty() ? "Run" : "Idle").arg(at_.x, 0, 'f', 3).arg(at_.y, 0, 'f', 3).toStdString());
    else if (c == '!')
        held_ = moving_ || !lines_.empty();
    else if (c == '~')
        held_ = false;
    else if (c == 0x18) {
        if (moving_ && !held_) { // steps are lost
            at_ = at_ + Point{0.7, -0.4};
            alarm_ = true;
        }
        moving_ = held_ = false;
        lines_.clear();
        waiting_.clear();
        text_.clear();
        tool(false);
        say("\r\nplain board\r\n");
    } else if (c == '\n') {
        waiting_.push_back(std::exchange(text_, {}));
        take();
    } else if (c != '\r')
        text_ += c;
}

void PlainBoard::take()
{
    constexpr std::size_t memory = 8;
    while (!waiting_.empty() && lines_.size() < memory) {
        const std::string line = waiting_.front();
        waiting_.pop_front();
        if (line == "$X")
            alarm_ = false;
        if (alarm_ && !line.empty()) {
            say("error:9\r\n");
            continue;
        }
        if (!line.empty() && line[0] != '$')
            lines_.push_back(line);
        say("ok\r\n");
    }
}

void PlainBoard::next()
{
    take();
    if (lines_.empty())
        return;
    const QString line = QString::fromStdString(lines_.front());
    lines_.pop_front();
    Point to = at_;
    bool moves = false;
    for (const QString& word : line.split(' ')) {
        const double value = word.mid(1).toDouble();
        if (word.startsWith('M'))
            tool(value == 3 || value == 4 || (value != 5 && down_));
        if (word.startsWith('X') || word.startsWith('Y')) {
            (word.startsWith('X') ? to.x : to.y) = value;
            moves = true;
        }
    }
    if (moves)
        go(to);
    else
        next();
}

} // namespace yokai::test
