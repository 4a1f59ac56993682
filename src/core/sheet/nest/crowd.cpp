#include "sheet/nest/crowd.h"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <numbers>

namespace yokai::nesting {

namespace {

// Bodies relax to a little more than their gap, so that what interpolation and the spacing of samples get wrong
// does not need another round of it.
constexpr double allowance = 0.07, nearEnough = 0.06; // mm
// What the exact end aims at and what it takes, beyond the gap: figures in files are rounded.
constexpr double exactAim = 0.008, exactLeast = 0.005; // mm

// How far bodies may move before who is near whom is found anew.
constexpr float meetingRange = 12; // mm


double quarterNear(double turn, double upright) { return upright + std::round((turn - upright) / (tau / 4)) * (tau / 4); }

double boxesApart(const Rect& a, const Rect& b)
{
    return norm(Point{std::max({a.x0 - b.x1, 0.0, b.x0 - a.x1}), std::max({a.y0 - b.y1, 0.0, b.y0 - a.y1})});
}

double boxDistance(const Rect& box, Point p)
{
    return norm(Point{std::max({box.x0 - p.x, 0.0, p.x - box.x1}), std::max({box.y0 - p.y, 0.0, p.y - box.y1})});
}

Point turned(const Affine& m, Point v) { return {m.a * v.x + m.c * v.y, m.b * v.x + m.d * v.y}; }

} // namespace

void Crowd::place(std::size_t k)
{
    const Member& m = members[k];
    Placed& p = placed_[k];
    p.map = m.pose.map() * Affine::scale(m.size, m.size);
    p.back = p.map.inverse();
    const double w = m.body->box().width() / 2, h = m.body->box().height() / 2;
    const double x = std::abs(p.map.a) * w + std::abs(p.map.c) * h, y = std::abs(p.map.b) * w + std::abs(p.map.d) * h;
    p.box = {m.pose.at.x - x, m.pose.at.y - y, m.pose.at.x + x, m.pose.at.y + y};
}

double Crowd::strainOf(std::size_t of, std::size_t in, double need, Push* onOf, Push* onIn, double* clear)
{
    const Placed &a = placed_[of], &b = placed_[in];
    const Affine map = b.back * a.map;
    const Body &body = *members[of].body, &field = *members[in].body;
    // The field is asked in its own size.
    const double share = body.share() * members[of].size, size = members[in].size, wide = members[of].size / size;
    need /= size;
    double strain = 0, least = std::numeric_limits<double>::infinity();
    Body::Reading r;
    for (const Body::Group& group : body.groups()) {
        ++asked_;
        const Point middle = map(group.at);
        // Beyond what the field knows nothing is near; a disc half within it is gone through.
        const double within = need + group.radius * wide;
        const double away = field.read(middle, r) ? r.away : boxDistance(field.box(), middle);
        if (away >= within) {
            least = std::min(least, away - within);
            continue;
        }
        asked_ += group.count;
        for (std::size_t k = group.first; k < group.first + group.count; ++k) {
            if (!field.read(map(body.samples()[k]), r))
                continue;
            least = std::min(least, r.away - need);
            if (r.away >= need)
                continue;
            const double missing = (need - r.away) * size;
            strain += share * missing * missing / 2;
            if (!onOf)
                continue;
            const Point force = turned(b.map, r.slope) * (share * missing / size);
            const Point place = a.map(body.samples()[k]);
            onOf->force = onOf->force + force;
            onOf->torque += cross(place - members[of].pose.at, force);
            onIn->force = onIn->force - force;
            onIn->torque -= cross(place - members[in].pose.at, force);
        }
    }
    if (clear)
        *clear = std::min(*clear, least * size);
    return strain;
}

// By the middles of the groups alone: enough to tell a bad place from one worth a look.
double Crowd::roughStrainOf(std::size_t of, std::size_t in, double need, double enough)
{
    const Affine map = placed_[in].back * placed_[of].map;
    const Body &body = *members[of].body, &field = *members[in].body;
    const double size = members[in].size;
    double strain = 0;
    Body::Reading r;
    for (const Body::Group& group : body.groups()) {
        ++asked_;
        if (!field.read(map(group.at), r) || r.away * size >= need)
            continue;
        const double missing = need - r.away * size;
        strain += body.share() * double(group.count) * missing * missing / 2;
        if (strain > enough)
            break;
    }
    return strain;
}

double Crowd::roughStrainAt(std::size_t member, double enough)
{
    double strain = 0;
    for (std::size_t j = 0; j < members.size() && strain < enough; ++j) {
        if (j == member)
            continue;
        const double n = need(members[member], members[j]);
        if (!placed_[member].box.grown(n).overlaps(placed_[j].box))
            continue;
        const double w = weight(member, j);
        strain += w * roughStrainOf(member, j, n, enough / w);
        if (strain < enough)
            strain += w * roughStrainOf(j, member, n, enough / w);
    }
    return strain;
}

double Crowd::strainAtEdge(std::size_t of, Push* on)
{
    const Member& m = members[of];
    const Rect within = rules_.area.grown(-m.body->reach());
    const Rect& box = placed_[of].box;
    if (box.x0 >= within.x0 && box.y0 >= within.y0 && box.x1 <= within.x1 && box.y1 <= within.y1)
        return 0;
    double strain = 0;
    const double share = m.body->share();
    asked_ += m.body->samples().size() / 4; // no field is read
    for (const Point sample : m.body->samples()) {
        const Point at = placed_[of].map(sample);
        const Point missing{std::max(0.0, within.x0 - at.x) - std::max(0.0, at.x - within.x1), std::max(0.0, within.y0 - at.y) - std::max(0.0, at.y - within.y1)};
        if (missing == Point{})
            continue;
        strain += share * dot(missing, missing) / 2;
        if (!on)
            continue;
        worst_ = std::max(worst_, std::max(std::abs(missing.x), std::abs(missing.y)));
        const Point force = missing * share;
        on->force = on->force + force;
        on->torque += cross(at - m.pose.at, force);
    }
    return strain;
}

double Crowd::strainAt(std::size_t member, double enough)
{
    constexpr double edgeWeight = 4; // the sheet does not give way
    double strain = edgeWeight * strainAtEdge(member, nullptr);
    for (std::size_t j = 0; j < members.size() && strain < enough; ++j) {
        if (j == member)
            continue;
        const double n = need(members[member], members[j]) + allowance;
        if (!placed_[member].box.grown(n).overlaps(placed_[j].box))
            continue;
        strain += weight(member, j) * (strainOf(member, j, n, nullptr, nullptr, nullptr) + strainOf(j, member, n, nullptr, nullptr, nullptr));
    }
    return strain;
}

void Crowd::look(Pair& p)
{
    constexpr float nearly = 0.004F; // mm
    const double gap = need(members[p.a], members[p.b]) + allowance;
    p.strain = p.missing = 0;
    p.moved = moved_[p.a] + moved_[p.b];
    if (const double apart = boxesApart(placed_[p.a].box, placed_[p.b].box); apart > gap) {
        p.holds = float(apart - gap);
        return;
    }
    p.one = p.other = {};
    double clear = std::numeric_limits<double>::infinity();
    p.strain = float(strainOf(p.a, p.b, gap, &p.one, &p.other, &clear) + strainOf(p.b, p.a, gap, &p.other, &p.one, &clear));
    p.holds = std::max(nearly, float(clear));
    p.missing = float(-clear - allowance);
}

double Crowd::forces(std::vector<Push>& pushes, Point pull)
{
    const std::size_t n = members.size();
    pushes.assign(n, {});
    worst_ = 0;
    double strain = 0;
    bool strayed = false;
    for (std::size_t i = 0; i < n; ++i) {
        place(i);
        strayed = strayed || moved_[i] - met_[i] > meetingRange / 2;
        if (members[i].fixed)
            continue;
        strain += strainAtEdge(i, &pushes[i]);
        pushes[i].force = pushes[i].force + pull * members[i].body->outline();
    }
    if (strayed)
        meet();
    for (Pair& p : pairs_) {
        if (moved_[p.a] + moved_[p.b] - p.moved >= p.holds)
            look(p);
        if (p.strain == 0)
            continue;
        worst_ = std::max(worst_, double(p.missing));
        const double w = double(p.weight);
        strain += w * double(p.strain);
        pushes[p.a].force = pushes[p.a].force + p.one.force * w;
        pushes[p.a].torque += p.one.torque * w;
        pushes[p.b].force = pushes[p.b].force + p.other.force * w;
        pushes[p.b].torque += p.other.torque * w;
    }
    return strain;
}

// FIRE, with the figures of its authors but for the time step, which goes by how stiff a contact is: a body weighs as
// much as half its outline, so that its own frequency is near one whatever its size.
double Crowd::relaxed(int steps, Point pull)
{
    constexpr double firstStep = 0.25, longestStep = 0.9, keep = 0.1, keepLess = 0.99, faster = 1.1, slower = 0.5;
    constexpr int patience = 5;
    struct Speed {
        Point v;
        double w = 0;
    };
    std::vector<Push> pushes;
    std::vector<Speed> speeds(members.size());
    double step = firstStep, mixing = keep, strain = 0;
    int downhill = 0;
    for (int k = 0; k < steps; ++k) {
        strain = forces(pushes, pull);
        if (worst_ < nearEnough && pull == Point{})
            break;
        double power = 0, speed = 0, force = 0;
        for (std::size_t i = 0; i < members.size(); ++i) {
            if (members[i].fixed)
                continue;
            const double mass = members[i].body->outline() / 2, r = members[i].body->radius() * 0.6;
            pushes[i].force = pushes[i].force * (1 / mass);
            // The turn is counted as the way of a point half way out, so that it weighs like the rest.
            pushes[i].torque = rules_.turns == Turns::Free ? pushes[i].torque / (mass * r) : 0;
            power += dot(pushes[i].force, speeds[i].v) + pushes[i].torque * speeds[i].w;
            speed += dot(speeds[i].v, speeds[i].v) + speeds[i].w * speeds[i].w;
            force += dot(pushes[i].force, pushes[i].force) + pushes[i].torque * pushes[i].torque;
        }
        const double along = force > 0 ? mixing * std::sqrt(speed / force) : 0;
        if (power > 0) {
            if (++downhill > patience) {
                step = std::min(step * faster, longestStep);
                mixing *= keepLess;
            }
        } else {
            downhill = 0;
            step *= slower;
            mixing = keep;
        }
        for (std::size_t i = 0; i < members.size(); ++i) {
            if (members[i].fixed)
                continue;
            Speed& s = speeds[i];
            s = power > 0 || k == 0 ? Speed{s.v * (1 - mixing) + pushes[i].force * along, s.w * (1 - mixing) + pushes[i].torque * along} : Speed{};
            s.v = s.v + pushes[i].force * step;
            s.w += pushes[i].torque * step;
            constexpr double most = 3; // mm a step: farther, and bodies jump through one another
            const double fast = std::max(1.0, std::max(norm(s.v), std::abs(s.w)) * step / most);
            members[i].pose.at = members[i].pose.at + s.v * (step / fast);
            const double turn = s.w * step / fast / (members[i].body->radius() * 0.6);
            members[i].pose.turn += turn;
            moved_[i] += float(norm(s.v) * step / fast + std::abs(turn) * members[i].body->radius());
        }
    }
    return strain;
}

Pose Crowd::randomPose(const Body& body, const Rect& within, Dice& dice) const
{
    Pose pose;
    pose.mirror = rules_.mirror && dice.below(2) == 1;
    pose.turn = rules_.upright;
    if (rules_.turns == Turns::Free)
        pose.turn += dice.unit() * tau;
    else if (rules_.turns == Turns::Quarter)
        pose.turn += double(dice.below(4)) * tau / 4;
    const Affine m = pose.map();
    const double w = body.box().width() / 2, h = body.box().height() / 2;
    const double x = std::abs(m.a) * w + std::abs(m.c) * h + body.reach(), y = std::abs(m.b) * w + std::abs(m.d) * h + body.reach();
    const Rect& a = rules_.area;
    const Rect room{std::max(a.x0 + x, within.x0), std::max(a.y0 + y, within.y0), std::min(a.x1 - x, within.x1), std::min(a.y1 - y, within.y1)};
    pose.at = {room.x0 < room.x1 ? dice.between(room.x0, room.x1) : room.centre().x, room.y0 < room.y1 ? dice.between(room.y0, room.y1) : room.centre().y};
    return pose;
}

// Steps down the strain of one body among the others, which stay.
double Crowd::descend(std::size_t member, double least, Dice& dice)
{
    constexpr int steps = 24;
    double way = std::min(4.0, members[member].body->radius() / 4); // mm
    double turn = rules_.turns == Turns::Free ? 0.3 : 0;             // radians
    for (int k = 0; k < steps && least > 0; ++k) {
        const Pose before = members[member].pose;
        Pose& pose = members[member].pose;
        const double heading = dice.unit() * tau;
        pose.at = pose.at + Point{std::cos(heading), std::sin(heading)} * (way * dice.unit());
        pose.turn += turn * (2 * dice.unit() - 1);
        place(member);
        if (const double strain = strainAt(member, least); strain < least) {
            least = strain;
            way *= 1.3;
        } else {
            pose = before;
            way *= 0.85;
            turn *= 0.9;
        }
    }
    place(member);
    return least;
}

void Crowd::settle(std::size_t member, const Rect& within, int tries, Dice& dice)
{
    struct Found {
        double strain;
        Pose pose;
    };
    constexpr std::size_t followed = 4;
    placed_.resize(members.size());
    if (pairsOf_.size() != members.size())
        forget();
    for (std::size_t k = 0; k < members.size(); ++k)
        place(k);
    std::vector<Found> best;
    const auto consider = [&](const Pose& pose) {
        members[member].pose = pose;
        place(member);
        const double enough = best.size() < followed ? std::numeric_limits<double>::infinity() : best.back().strain;
        const double strain = roughStrainAt(member, enough);
        if (strain >= enough)
            return;
        best.insert(std::upper_bound(best.begin(), best.end(), strain, [](double s, const Found& f) { return s < f.strain; }), {strain, pose});
        if (best.size() > followed)
            best.pop_back();
    };
    for (int k = 0; k < tries; ++k)
        consider(randomPose(*members[member].body, within, dice));
    for (Found& f : best) {
        members[member].pose = f.pose;
        place(member);
        f.strain = descend(member, strainAt(member, std::numeric_limits<double>::infinity()), dice);
        f.pose = members[member].pose;
    }
    members[member].pose = std::min_element(best.begin(), best.end(), [](const Found& a, const Found& b) { return a.strain < b.strain; })->pose;
    place(member);
}

// Pairs that strain weigh more, the others forget.
void Crowd::weigh()
{
    constexpr float fading = 0.95F, gain = 0.9F;
    float most = 0;
    for (const Pair& p : pairs_)
        most = std::max(most, p.strain);
    for (Pair& p : pairs_)
        p.weight = p.strain > 0 ? p.weight * (1.1F + gain * p.strain / most) : std::max(1.0F, p.weight * fading);
}

// Pairs whose boxes are no farther apart than that: by the left sides, from left to right.
std::vector<std::pair<std::size_t, std::size_t>> Crowd::near(double range) const
{
    std::vector<std::size_t> order(members.size());
    std::iota(order.begin(), order.end(), 0U);
    std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return std::make_pair(placed_[a].box.x0, a) < std::make_pair(placed_[b].box.x0, b); });
    std::vector<std::pair<std::size_t, std::size_t>> out;
    for (std::size_t k = 0; k < order.size(); ++k) {
        const std::size_t i = order[k];
        const Rect box = placed_[i].box.grown(range);
        for (std::size_t l = k + 1; l < order.size() && placed_[order[l]].box.x0 < box.x1; ++l) {
            const std::size_t j = order[l];
            if (placed_[j].box.y0 < box.y1 && placed_[j].box.y1 > box.y0 && !(members[i].fixed && members[j].fixed))
                out.push_back({std::max(i, j), std::min(i, j)});
        }
    }
    std::sort(out.begin(), out.end());
    return out;
}

void Crowd::forget()
{
    placed_.resize(members.size());
    for (std::size_t k = 0; k < members.size(); ++k)
        place(k);
    moved_.assign(members.size(), 0);
    pairs_.clear();
    pairsOf_.assign(members.size(), {});
    meet();
}

void Crowd::meet()
{
    double gap = 0;
    for (const Member& m : members)
        gap = std::max({gap, m.gap, m.body->reach()});
    std::vector<Pair> before = std::move(pairs_);
    pairs_.clear();
    for (std::vector<std::size_t>& of : pairsOf_)
        of.clear();
    std::size_t k = 0;
    for (const auto& [a, b] : near(gap + meetingRange)) {
        while (k < before.size() && std::make_pair(before[k].a, before[k].b) < std::make_pair(a, b))
            ++k;
        pairsOf_[a].push_back(pairs_.size());
        pairsOf_[b].push_back(pairs_.size());
        if (k < before.size() && before[k].a == a && before[k].b == b)
            pairs_.push_back(before[k]);
        else
            pairs_.push_back(Pair{.a = a, .b = b, .one = {}, .other = {}});
    }
    met_ = moved_;
}

double Crowd::weight(std::size_t a, std::size_t b) const
{
    for (const std::size_t k : pairsOf_[a])
        if (pairs_[k].a == b || pairs_[k].b == b)
            return double(pairs_[k].weight);
    return 1;
}

std::vector<std::size_t> Crowd::mostStrained(std::size_t count) const
{
    std::vector<std::pair<float, std::size_t>> straining;
    for (std::size_t i = 0; i < pairsOf_.size(); ++i) {
        float s = 0;
        for (const std::size_t k : pairsOf_[i])
            s += pairs_[k].strain * pairs_[k].weight;
        if (!members[i].fixed && s > 0)
            straining.push_back({s, i});
    }
    std::sort(straining.begin(), straining.end(), std::greater<>());
    std::vector<std::size_t> out;
    for (std::size_t k = 0; k < std::min(count, straining.size()); ++k)
        out.push_back(straining[k].second);
    return out;
}

bool Crowd::separate(int rounds, Dice& dice, const Work& work)
{
    constexpr int firstSteps = 160, laterSteps = 90, tries = 120;
    forget();
    for (int round = 0; round < rounds; ++round) {
        work.check();
        relaxed(round == 0 ? firstSteps : laterSteps, {});
        if (worst_ < nearEnough)
            return true;
        if (round + 1 == rounds)
            break;
        weigh();
        // Of the bodies that strain most, some look for another place.
        constexpr std::size_t movers = 3;
        for (const std::size_t who : mostStrained(movers)) {
            const Pose before = members[who].pose;
            const double was = strainAt(who, std::numeric_limits<double>::infinity());
            settle(who, rules_.area, tries, dice);
            if (strainAt(who, was) >= was) {
                members[who].pose = before;
                place(who);
            } else {
                moved_[who] += float(distance(before.at, members[who].pose.at) + 2 * members[who].body->radius());
            }
        }
    }
    return false;
}

void Crowd::grow(std::size_t member, const Work& work)
{
    constexpr int stages = 6, steps = 40;
    forget();
    const double from = members[member].size;
    for (int k = 1; k <= stages; ++k) {
        work.check();
        members[member].size = k == stages ? 1 : from + (1 - from) * k / stages;
        moved_[member] += float((1 - from) / stages * members[member].body->radius());
        relaxed(steps, {});
    }
}

void Crowd::pack(Point pull, int steps)
{
    forget();
    relaxed(steps, pull);
}

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
