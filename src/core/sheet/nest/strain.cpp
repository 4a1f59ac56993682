// How a crowd's bodies strain, and who is near whom.

#include "sheet/nest/crowd.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace yokai::nesting {

namespace {

// How far bodies may move before who is near whom is found anew.
constexpr float meetingRange = 12; // mm

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
    const Body &body = *members[of].body, &field = *members[in].body;
    const Affine between = b.back * a.map, map = field.toCells() * between;
    // The field is asked in its own size.
    const double share = body.share() * members[of].size, size = members[in].size, wide = members[of].size / size;
    need /= size;
    double strain = 0, least = std::numeric_limits<double>::infinity();
    Body::Cell cell;
    for (const Body::Group& group : body.groups()) {
        ++asked_;
        // Beyond what the field knows nothing is near; a disc half within it is gone through.
        const double within = need + group.radius * wide;
        const double away = field.find(map(group.at), cell) ? double(cell.away()) : boxDistance(field.box(), between(group.at));
        if (away >= within) {
            least = std::min(least, away - within);
            continue;
        }
        asked_ += group.count;
        for (std::size_t k = group.first; k < group.first + group.count; ++k) {
            if (!field.find(map(body.samples()[k]), cell))
                continue;
            const double clearance = double(cell.away()) - need;
            least = std::min(least, clearance);
            if (clearance >= 0)
                continue;
            const double missing = -clearance * size;
            strain += share * missing * missing / 2;
            if (!onOf)
                continue;
            const Point force = turned(b.map, field.slope(cell)) * (share * missing / size);
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
    asked_ += 2 * n + pairs_.size() / 2; // going through them costs as much
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
    asked_ += 20 * members.size();
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

} // namespace yokai::nesting
