#include "desk/placings.h"

#include <algorithm>
#include <map>
#include <numbers>

namespace yokai::edits {

namespace {

Placing asPlacing(const Desk& desk, const Placement& placement)
{
    if (const Placing* own = placingOf(desk, placement))
        return *own;
    Placing out;
    out.piece = placement.piece;
    out.sheet = placement.sheet;
    const Point at = placement.toSheet(desk.shown()->derived.pieces[placement.at].box.centre());
    out.x = Length::mm(at.x);
    out.y = Length::mm(at.y);
    out.mirror = placement.toSheet.det() < 0;
    out.turn = turnOf(placement.toSheet);
    return out;
}

double within(double degrees)
{
    const double turn = std::remainder(degrees, 360);
    return std::abs(turn) < 1e-9 ? 0 : turn;
}

Point place(const Placing& p) { return {p.x.mm(), p.y.mm()}; }
void put(Placing& p, Point at)
{
    p.x = Length::mm(at.x);
    p.y = Length::mm(at.y);
}

Rect boxOfAll(const Desk& desk, const std::vector<Placement>& copies)
{
    Rect all = Rect::nothing();
    for (const Placement& p : copies)
        all.add(boxOf(desk, p));
    return all;
}

// Puts changed placings into the job, and new ones; those without an id get one.
void store(Job& job, std::vector<Placing>& placings)
{
    for (Placing& placing : placings) {
        const auto there = std::find_if(job.placings.begin(), job.placings.end(), [&](const Placing& p) { return p.id && p.id == placing.id; });
        if (there == job.placings.end()) {
            placing.id = PlacingId{std::uint32_t(++job.ids)};
            job.placings.push_back(placing);
        } else {
            *there = placing;
        }
    }
}

void selectPlacings(Desk& desk, const std::vector<Placing>& placings)
{
    CopiesSelected selected;
    for (const Placing& p : placings)
        selected.copies.push_back({p.id, p.piece, 0});
    desk.select(selected);
}

} // namespace

CopiesSelected::Copy nameOf(const Placement& p) { return {p.placing, p.piece, p.copy}; }

void selectAllCopies(Desk& desk)
{
    if (!desk.shown())
        return;
    CopiesSelected all;
    for (const Placement& p : desk.shown()->derived.sheet.on(desk.sheet()))
        all.copies.push_back(nameOf(p));
    desk.select(all);
}

Rect boxOf(const Desk& desk, const Placement& p) { return mapped(p.toSheet, desk.shown()->derived.pieces[p.at].box); }

const Placing* placingOf(const Desk& desk, const Placement& placement)
{
    for (const Placing& p : desk.job().placings)
        if (placement.placing && p.id == placement.placing)
            return &p;
    return nullptr;
}

std::vector<Placement> selectedCopies(const Desk& desk)
{
    std::vector<Placement> out;
    const auto* selected = std::get_if<CopiesSelected>(&desk.selection());
    if (!selected || !desk.shown())
        return out;
    for (const CopiesSelected::Copy& copy : selected->copies)
        for (const Placement& p : desk.shown()->derived.sheet.placements)
            if (nameOf(p) == copy)
                out.push_back(p);
    return out;
}

void selectCopies(Desk& desk, std::vector<CopiesSelected::Copy> copies)
{
    std::vector<CopiesSelected::Copy> all;
    const auto add = [&](const CopiesSelected::Copy& copy) {
        if (std::find(all.begin(), all.end(), copy) == all.end())
            all.push_back(copy);
    };
    for (const CopiesSelected::Copy& copy : copies) {
        for (const Placing& own : desk.job().placings)
            if (own.group > 0 && own.id == copy.placing)
                for (const Placing& other : desk.job().placings)
                    if (other.group == own.group && other.id != own.id)
                        add({other.id, other.piece, 0});
        add(copy);
    }
    desk.select(all.empty() ? Selection{} : Selection{CopiesSelected{all}});
}

namespace {

// What lies on the sheet already stays there, and there is one of it.
std::vector<Placement> movableCopies(const Desk& desk)
{
    std::vector<Placement> out = selectedCopies(desk);
    std::erase_if(out, [](const Placement& p) { return p.lies; });
    return out;
}

} // namespace

void changeCopies(Desk& desk, const QString& what, const std::function<void(Placing&, const Placement&)>& change, const QString& key)
{
    std::vector<Placing> placings;
    for (const Placement& p : movableCopies(desk)) {
        Placing placing = asPlacing(desk, p);
        if (!placing.locked)
            change(placing, p);
        placings.push_back(placing);
    }
    if (placings.empty())
        return;
    desk.edit(what, [&](Job& job) { store(job, placings); }, key);
    selectPlacings(desk, placings);
}

void moveCopies(Desk& desk, Point by, int sheets, const QString& key)
{
    changeCopies(
        desk, Desk::tr("move copies"),
        [&](Placing& placing, const Placement&) {
            put(placing, place(placing) + by);
            placing.sheet = std::max(0, placing.sheet + sheets);
        },
        key);
}

void turnCopies(Desk& desk, double degrees)
{
    const Point middle = boxOfAll(desk, selectedCopies(desk)).centre();
    const Affine turn = Affine::move(middle.x, middle.y) * Affine::turn(degrees * std::numbers::pi / 180) * Affine::move(-middle.x, -middle.y);
    changeCopies(desk, Desk::tr("turn copies"), [&](Placing& placing, const Placement&) {
        put(placing, turn(place(placing)));
        placing.turn = within(placing.turn + degrees);
    });
}

void mirrorCopies(Desk& desk)
{
    changeCopies(desk, Desk::tr("mirror copies"), [](Placing& placing, const Placement&) {
        placing.mirror = !placing.mirror;
        placing.turn = within(-placing.turn);
    });
}

void alignCopies(Desk& desk, Side side, AlignTo to)
{
    const std::vector<Placement> copies = selectedCopies(desk); // to one that cannot be moved, too
    if (copies.empty())
        return;
    const SheetSpec& sheet = desk.job().sheet;
    const Rect goal = to == AlignTo::Selection    ? boxOfAll(desk, copies)
                      : to == AlignTo::LastPicked ? boxOf(desk, copies.back())
                      : to == AlignTo::Sheet      ? Rect{0, 0, sheet.width(), sheet.height()}
                                                  : layoutArea(sheet);
    const bool across = side == Side::Left || side == Side::Middle || side == Side::Right;
    const double share = side == Side::Left || side == Side::Top ? 0 : side == Side::Middle || side == Side::Centre ? 0.5 : 1; // of the way from side to side
    changeCopies(desk, Desk::tr("align copies"), [&](Placing& placing, const Placement& placement) {
        const Rect box = boxOf(desk, placement);
        const Point by{std::lerp(goal.x0, goal.x1, share) - std::lerp(box.x0, box.x1, share), std::lerp(goal.y0, goal.y1, share) - std::lerp(box.y0, box.y1, share)};
        put(placing, place(placing) + (across ? Point{by.x, 0} : Point{0, by.y}));
    });
}

void spreadCopies(Desk& desk, bool across)
{
    std::vector<Placement> copies = movableCopies(desk);
    if (copies.size() < 3)
        return;
    const auto from = [&](const Placement& p) { return across ? boxOf(desk, p).x0 : boxOf(desk, p).y0; };
    const auto size = [&](const Placement& p) { return across ? boxOf(desk, p).width() : boxOf(desk, p).height(); };
    std::sort(copies.begin(), copies.end(), [&](const Placement& a, const Placement& b) { return from(a) < from(b); });
    double room = from(copies.back()) + size(copies.back()) - from(copies.front());
    for (const Placement& p : copies)
        room -= size(p);
    const double gap = room / double(copies.size() - 1);
    std::map<std::pair<std::size_t, int>, double> wanted; // by piece and copy
    double at = from(copies.front());
    for (const Placement& p : copies) {
        wanted[{p.at, p.copy}] = at;
        at += size(p) + gap;
    }
    changeCopies(desk, Desk::tr("spread copies"), [&](Placing& placing, const Placement& p) {
        const double by = wanted.at({p.at, p.copy}) - from(p);
        put(placing, place(placing) + (across ? Point{by, 0} : Point{0, by}));
    });
}

namespace {

// The selected as they are, now the hand's, and new ones that `make` derives from each; the pieces' counts grow along.
void addCopies(Desk& desk, const QString& what, const std::function<std::vector<Placing>(const Placing&, const Rect& box)>& make)
{
    std::vector<Placing> placings, added;
    for (const Placement& p : movableCopies(desk)) {
        placings.push_back(asPlacing(desk, p));
        for (Placing& more : make(placings.back(), boxOf(desk, p))) {
            more.id = {};
            more.locked = false;
            more.group = 0;
            added.push_back(more);
        }
    }
    if (added.empty())
        return;
    desk.edit(what, [&](Job& job) {
        store(job, placings);
        for (const Placing& more : added)
            if (Piece* piece = find(job, more.piece); piece && piece->copies)
                ++*piece->copies;
        store(job, added);
    });
    selectPlacings(desk, added);
}

} // namespace

void duplicateCopies(Desk& desk, int more, double gap, bool across)
{
    addCopies(desk, Desk::tr("duplicate copies"), [&](const Placing& placing, const Rect& box) {
        std::vector<Placing> out;
        for (int k = 1; k <= more; ++k) {
            const double by = k * ((across ? box.width() : box.height()) + gap);
            out.push_back(placing);
            put(out.back(), place(placing) + (across ? Point{by, 0} : Point{0, by}));
        }
        return out;
    });
}

void mirroredBeside(Desk& desk, double gap)
{
    addCopies(desk, Desk::tr("mirrored copies"), [&](const Placing& placing, const Rect& box) {
        Placing out = placing;
        out.mirror = !out.mirror;
        out.turn = within(-out.turn);
        put(out, place(placing) + Point{box.width() + gap, 0});
        return std::vector<Placing>{out};
    });
}

void removeCopies(Desk& desk)
{
    const std::vector<Placement> copies = movableCopies(desk);
    if (copies.empty())
        return;
    desk.edit(Desk::tr("remove copies"), [&](Job& job) {
        for (const Placement& p : copies) {
            if (const Placing* own = placingOf(desk, p); own && own->locked)
                continue;
            std::erase_if(job.placings, [&](const Placing& placing) { return p.placing && placing.id == p.placing; });
            if (Piece* piece = find(job, p.piece); piece && piece->copies && *piece->copies > 0)
                --*piece->copies;
        }
    });
    desk.select({});
}

void lockCopies(Desk& desk, bool locked)
{
    std::vector<Placing> placings;
    for (const Placement& p : movableCopies(desk)) {
        placings.push_back(asPlacing(desk, p));
        placings.back().locked = locked;
    }
    if (placings.empty())
        return;
    desk.edit(locked ? Desk::tr("lock copies") : Desk::tr("unlock copies"), [&](Job& job) { store(job, placings); });
    selectPlacings(desk, placings);
}

void groupCopies(Desk& desk, bool together)
{
    int group = 0;
    if (together)
        for (const Placing& p : desk.job().placings)
            group = std::max(group, p.group);
    std::vector<Placing> placings;
    for (const Placement& p : movableCopies(desk)) {
        placings.push_back(asPlacing(desk, p));
        placings.back().group = together ? group + 1 : 0;
    }
    if (placings.empty())
        return;
    desk.edit(together ? Desk::tr("group copies") : Desk::tr("ungroup copies"), [&](Job& job) { store(job, placings); });
    selectPlacings(desk, placings);
}

void layAgain(Desk& desk)
{
    const std::vector<Placement> copies = selectedCopies(desk);
    desk.edit(Desk::tr("lay out again"), [&](Job& job) {
        std::erase_if(job.placings, [&](const Placing& placing) {
            const bool chosen = copies.empty() || std::any_of(copies.begin(), copies.end(), [&](const Placement& p) { return p.placing == placing.id; });
            return chosen && !placing.locked;
        });
    });
    desk.select({});
}

} // namespace yokai::edits
