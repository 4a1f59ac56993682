// The last hundredths of a crowd, by exact distances.

#include "sheet/nest/crowd.h"

#include <algorithm>
#include <cmath>

namespace yokai::nesting {

namespace {

// What the exact end aims at and what it takes, beyond the gap: figures in files are rounded.
constexpr double exactAim = 0.008, exactLeast = 0.005; // mm

double quarterNear(double turn, double upright) { return upright + std::round((turn - upright) / (tau / 4)) * (tau / 4); }

} // namespace

Point Crowd::backInside(std::size_t member) const
{
    const Rect in = rules_.area.grown(-members[member].body->reach());
    Rect box = placed_[member].box;
    if (box.x0 >= in.x0 && box.y0 >= in.y0 && box.x1 <= in.x1 && box.y1 <= in.y1)
        return {};
    box = Rect::nothing();
    for (const Polyline& ring : members[member].body->rings())
        for (const Point p : ring)
            box.add(placed_[member].map(p));
    return {std::max(0.0, in.x0 - box.x0) - std::max(0.0, box.x1 - in.x1), std::max(0.0, in.y0 - box.y0) - std::max(0.0, box.y1 - in.y1)};
}

bool Crowd::makeExact(const Work& work)
{
    constexpr int pushes = 40;
    constexpr double hopeless = 0.5; // mm missing after the first of them: that comes of more than rounding
    constexpr double still = 1e-9; // mm
    const std::size_t n = members.size();
    placed_.resize(n);
    for (Member& m : members)
        if (!m.fixed && rules_.turns != Turns::Free)
            m.pose.turn = quarterNear(m.pose.turn, rules_.upright);
    double widest = 0;
    for (const Member& m : members)
        widest = std::max({widest, m.gap, m.body->reach()});
    std::vector<char> moved(n, 1); // since their pairs were last looked at
    for (int k = 0; k < pushes; ++k) {
        work.check();
        std::vector<Point> push(n);
        bool fine = true;
        double missing = 0;
        for (std::size_t i = 0; i < n; ++i) {
            place(i);
            if (!members[i].fixed)
                push[i] = backInside(i);
            fine = fine && norm(push[i]) < still;
        }
        for (const auto& [i, j] : near(widest + exactAim)) {
            if (!(moved[i] || moved[j]))
                continue;
            const double gap = need(members[i], members[j]);
            Apart d;
            asked_ += 2 * (members[i].body->vertices() + members[j].body->vertices());
            if (!apart(*members[i].body, members[i].pose, *members[j].body, members[j].pose, gap + exactAim, d) || d.distance >= gap + exactLeast)
                continue;
            fine = false;
            missing = std::max(missing, gap - d.distance);
            const Point way = d.way * (gap + exactAim - d.distance);
            const double mine = members[j].fixed ? 1 : members[i].fixed ? 0 : 0.5;
            push[i] = push[i] + way * mine;
            push[j] = push[j] - way * (1 - mine);
        }
        if (fine)
            return true;
        if (missing > hopeless)
            return false;
        for (std::size_t i = 0; i < n; ++i) {
            moved[i] = !(push[i] == Point{});
            members[i].pose.at = members[i].pose.at + push[i];
        }
    }
    return false;
}

Rect Crowd::extent() const
{
    Rect out = Rect::nothing();
    for (const Member& m : members)
        if (!m.fixed) {
            const Affine map = m.pose.map();
            for (const Polyline& ring : m.body->rings())
                for (const Point p : ring)
                    out.add(map(p));
        }
    return out;
}

} // namespace yokai::nesting
