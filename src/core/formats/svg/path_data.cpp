#include "formats/svg/path_data.h"

#include <charconv>
#include <numbers>
#include <optional>

namespace yokai::svg {

namespace {

class Data {
public:
    explicit Data(std::string_view text) : text_(text) {}
    Paths paths()
    {
        char command = 0;
        for (;;) {
            space();
            if (at_ >= text_.size())
                break;
            const char c = text_[at_];
            if (std::isalpha(static_cast<unsigned char>(c))) {
                command = c;
                ++at_;
            } else if (command == 'Z' || command == 'z' || command == 0)
                break;
            else if (command == 'M' || command == 'm') // more pairs after a move are lines
                command = command == 'M' ? 'L' : 'l';
            if (!take(command))
                break;
        }
        finish(false);
        return std::move(out_);
    }

private:
    void space()
    {
        while (at_ < text_.size() && (std::isspace(static_cast<unsigned char>(text_[at_])) || text_[at_] == ','))
            ++at_;
    }
    std::optional<double> number()
    {
        space();
        if (at_ < text_.size() && text_[at_] == '+')
            ++at_;
        double value = 0;
        const auto [end, error] = std::from_chars(text_.data() + at_, text_.data() + text_.size(), value);
        if (error != std::errc() || !std::isfinite(value) || std::abs(value) > 1e9)
            return std::nullopt;
        at_ = std::size_t(end - text_.data());
        return value;
    }
    std::optional<bool> flag() // one digit, which the next number may follow without a space
    {
        space();
        if (at_ >= text_.size() || (text_[at_] != '0' && text_[at_] != '1'))
            return std::nullopt;
        return text_[at_++] == '1';
    }
    bool point(bool relative, Point& p)
    {
        const auto x = number();
        const auto y = x ? number() : std::nullopt;
        if (!y)
            return false;
        p = relative ? current_ + Point{*x, *y} : Point{*x, *y};
        return true;
    }
    void begin()
    {
        if (!open_) {
            path_ = {};
            path_.start = current_;
            path_.closed = false;
            open_ = true;
        }
    }
    void finish(bool closed)
    {
        if (open_ && !path_.segments.empty()) {
            if (closed && distance(path_.segments.back().end, path_.start) > 0)
                path_.lineTo(path_.start);
            path_.closed = closed;
            out_.push_back(std::move(path_));
        }
        open_ = false;
    }
    void curve(Point a, Point b, Point to)
    {
        begin();
        path_.curveTo(a, b, to, true);
        control_ = b;
        current_ = to;
    }
    void line(Point to)
    {
        begin();
        if (distance(current_, to) > 0)
            path_.lineTo(to);
        current_ = to;
    }
    // One command's numbers, once.
    bool take(char command)
    {
        const bool relative = std::islower(static_cast<unsigned char>(command));
        const char kind = char(std::toupper(static_cast<unsigned char>(command)));
        const char last = std::exchange(last_, kind);
        Point a, b, to;
        switch (kind) {
        case 'M':
            if (!point(relative, to))
                return false;
            finish(false);
            current_ = subpath_ = to;
            return true;
        case 'Z':
            finish(true);
            current_ = subpath_;
            return true;
        case 'L':
            return point(relative, to) && (line(to), true);
        case 'H':
        case 'V': {
            const auto v = number();
            if (!v)
                return false;
            to = current_;
            (kind == 'H' ? to.x : to.y) = *v + (relative ? kind == 'H' ? current_.x : current_.y : 0);
            line(to);
            return true;
        }
        case 'C':
            return point(relative, a) && point(relative, b) && point(relative, to) && (curve(a, b, to), true);
        case 'S':
            a = last == 'C' || last == 'S' ? current_ * 2 - control_ : current_;
            return point(relative, b) && point(relative, to) && (curve(a, b, to), true);
        case 'Q':
        case 'T':
            if (kind == 'Q' ? !point(relative, a) : (a = last == 'Q' || last == 'T' ? current_ * 2 - control_ : current_, false))
                return false;
            if (!point(relative, to))
                return false;
            curve(mix(current_, a, 2.0 / 3), mix(to, a, 2.0 / 3), to);
            control_ = a;
            return true;
        case 'A': {
            const auto rx = number(), ry = rx ? number() : rx, turn = ry ? number() : ry;
            const auto large = turn ? flag() : std::nullopt, sweep = large ? flag() : std::nullopt;
            if (!sweep || !point(relative, to))
                return false;
            begin();
            arcTo(path_, current_, *rx, *ry, *turn, *large, *sweep, to);
            current_ = to;
            return true;
        }
        default:
            return false;
        }
    }

    std::string_view text_;
    std::size_t at_ = 0;
    Point current_, subpath_, control_;
    char last_ = 0;
    Path path_;
    bool open_ = false;
    Paths out_;
};

} // namespace

void arcTo(Path& path, Point from, double rx, double ry, double turnDegrees, bool large, bool sweep, Point to)
{
    rx = std::abs(rx);
    ry = std::abs(ry);
    if (distance(from, to) == 0)
        return;
    if (rx == 0 || ry == 0)
        return path.lineTo(to);
    const Affine turn = Affine::turn(turnDegrees * std::numbers::pi / 180);
    // In the ellipse's own frame, its radii made one.
    const Point half = turn.inverse()((from - to) * 0.5);
    const double over = half.x * half.x / (rx * rx) + half.y * half.y / (ry * ry);
    if (over > 1) {
        rx *= std::sqrt(over);
        ry *= std::sqrt(over);
    }
    const double x = half.x / rx, y = half.y / ry, square = x * x + y * y;
    const double k = std::sqrt(std::max(0.0, 1 / square - 1)) * (large == sweep ? -1 : 1);
    const Point centre{k * y, -k * x}; // of the unit circle, with the two ends at +half and -half
    const double begin = std::atan2(y - centre.y, x - centre.x);
    double sweepBy = std::atan2(-y - centre.y, -x - centre.x) - begin;
    if (sweep && sweepBy < 0)
        sweepBy += 2 * std::numbers::pi;
    if (!sweep && sweepBy > 0)
        sweepBy -= 2 * std::numbers::pi;
    const Affine out = Affine::move((from.x + to.x) / 2, (from.y + to.y) / 2) * turn * Affine::scale(rx, ry) * Affine::move(centre.x, centre.y);
    const int pieces = std::max(1, int(std::ceil(std::abs(sweepBy) / (std::numbers::pi / 4) - 1e-9)));
    const double step = sweepBy / pieces, handle = 4.0 / 3 * std::tan(step / 4);
    for (int i = 0; i < pieces; ++i) {
        const double a = begin + i * step, b = a + step;
        const Point p{std::cos(a), std::sin(a)}, q{std::cos(b), std::sin(b)};
        path.curveTo(out(p + Point{-p.y, p.x} * handle), out(q - Point{-q.y, q.x} * handle), i + 1 == pieces ? to : out(q), i + 1 == pieces);
    }
}

Paths pathData(std::string_view text) { return Data(text).paths(); }

} // namespace yokai::svg
