#include "device/eye.h"

#include "base/length.h"

#include <algorithm>

namespace yokai {

namespace {

constexpr double sizeSlack = 0.3; // of a disc's diameter: what stretch and the eye's own spot may change
constexpr double lookMmPerMinute = 1500, readMmPerMinute = 600;

class Looker {
public:
    Looker(SerialMachine& machine, const Machine& profile, const Work& work)
        : machine_(machine), eye_{profile.eye.x.mm(), profile.eye.y.mm()}, toMachine_(profile.bed.toMachine()),
          sees_{eye_.x, eye_.y, profile.bed.width.mm() + eye_.x, profile.bed.depth.mm() + eye_.y}, profile_(profile), work_(work)
    {}

    bool sees(Point p) const { return sees_.contains(p); }

    // The middle of a disc near a place.
    std::optional<Point> disc(Point near, double diameter)
    {
        const double reach = profile_.eye.reach.mm() + diameter / 2, step = 0.35 * diameter;
        for (int k = 0; k * step <= reach; ++k)
            for (const double side : {1.0, -1.0}) {
                if (k == 0 && side < 0)
                    continue;
                const double y = near.y + side * k * step;
                if (y < sees_.y0 || y > sees_.y1)
                    continue;
                // On along the band: what is met first may be something else.
                for (double from = std::max(near.x - reach, sees_.x0); from < std::min(near.x + reach, sees_.x1);) {
                    const auto chord = inkAlong({from, y}, {near.x + reach, y}, lookMmPerMinute);
                    if (!chord)
                        break;
                    // Where the band itself begins on something dark, beside the sheet or on a picture, that is no mark.
                    const bool begun = distance(chord->first, {from, y}) < onInk;
                    if (const auto middle = begun ? std::nullopt : discAt(mix(chord->first, chord->second, 0.5), diameter);
                        middle && distance(*middle, near) < reach + diameter)
                        return middle;
                    from = chord->second.x + 0.3;
                }
            }
        return std::nullopt;
    }

private:
    static constexpr double onInk = 0.15; // mm: ink met sooner was there already
    // Where the eye comes to ink and leaves it again, on the way from one place to another.
    std::optional<std::pair<Point, Point>> inkAlong(Point from, Point to, double speed)
    {
        go(from);
        const auto begin = probe(to, false, speed);
        const auto end = begin ? probe(to, true, speed) : std::nullopt;
        return end ? std::optional(std::pair(*begin, *end)) : std::nullopt;
    }
    // The same from a place that is paper.
    std::optional<std::pair<Point, Point>> chordAlong(Point from, Point to, double speed)
    {
        const auto ink = inkAlong(from, to, speed);
        return ink && distance(ink->first, from) >= onInk ? ink : std::nullopt;
    }
    std::optional<Point> discAt(Point middle, double diameter)
    {
        const double half = 0.9 * diameter;
        Point sum;
        constexpr int rounds = 3; // the first only comes near the middle
        for (int round = 0; round < rounds; ++round) {
            for (const bool down : {true, false}) {
                const Point way = down ? Point{0, half} : Point{half, 0};
                const auto chord = chordAlong(middle - way, middle + way, readMmPerMinute);
                const bool first = round == 0 && down; // beside the middle it may be shorter
                if (!chord || distance(chord->first, chord->second) > (1 + sizeSlack) * diameter ||
                    (!first && distance(chord->first, chord->second) < (1 - sizeSlack) * diameter))
                    return std::nullopt;
                const Point at = mix(chord->first, chord->second, 0.5);
                (down ? middle.y : middle.x) = down ? at.y : at.x;
            }
            if (round > 0)
                sum = sum + middle;
        }
        return sum * (1.0 / (rounds - 1));
    }
    // The tool stands beside where the eye looks, and stays on the bed.
    Point toolFor(Point p) const { return toMachine_(Point{std::clamp(p.x, sees_.x0, sees_.x1), std::clamp(p.y, sees_.y0, sees_.y1)} - eye_); }
    void go(Point p) { machine_.goTo(toolFor(p), work_); }
    std::optional<Point> probe(Point to, bool away, double speed)
    {
        const auto at = machine_.lookAlong(toolFor(to), away, speed, work_);
        return at ? std::optional(toMachine_.inverse()(*at) + eye_) : std::nullopt;
    }

    SerialMachine& machine_;
    Point eye_;
    Affine toMachine_;
    Rect sees_; // of the bed
    const Machine& profile_;
    const Work& work_;
};

} // namespace

Point expectedPlace(const std::vector<MarkPair>& found, Point design, Point corner)
{
    if (found.empty())
        return design + corner;
    if (found.size() == 1)
        return design + (found[0].measured - found[0].design);
    return fitMarks(found, FitModel::Rigid).map(design);
}

std::vector<MarkPair> findByEye(SerialMachine& machine, const Machine& profile, std::span<const Mark> marks, double sheetHeight, Point corner, const Work& work,
                                const std::function<void(const MarkPair&)>& told)
{
    std::vector<MarkPair> out;
    Looker looker(machine, profile, work);
    machine.requireEye();
    machine.reset(); // whatever was before
    machine.greet(work);
    machine.status(work); // with where its own zero lies, from which it says what it saw
    machine.raiseTool(work);
    for (std::size_t k = 0; k < marks.size(); ++k) {
        work.report(double(k) / double(marks.size()), "looking for marks");
        if (marks[k].style != MarkStyle::Dots)
            throw Error(ErrorKind::Fit, "the machine's eye reads only discs; choose dots under Sheet, or find the marks in a picture or by hand");
        const Point design{marks[k].centre.x, sheetHeight - marks[k].centre.y}, near = expectedPlace(out, design, corner);
        if (!looker.sees(near))
            throw Error(ErrorKind::Device, "mark {} should lie at {}, {} mm, where the machine's eye cannot look; lay the sheet farther in, and say where it lies",
                        std::to_string(k + 1), plainNumber(near.x, 1), plainNumber(near.y, 1));
        const auto at = looker.disc(near, marks[k].diameter);
        if (!at)
            throw Error(ErrorKind::Device, "mark {} is not seen near {}, {} mm; check that the sheet lies there, or take the mark by hand",
                        std::to_string(k + 1), plainNumber(near.x, 1), plainNumber(near.y, 1));
        out.push_back({design, *at});
        if (told)
            told(out.back());
    }
    return out;
}

} // namespace yokai
