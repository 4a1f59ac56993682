#include "sheet/nest/crowd.h"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <numbers>

namespace yokai::nesting {

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
    constexpr int stages = 5, steps = 30;
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

} // namespace yokai::nesting
