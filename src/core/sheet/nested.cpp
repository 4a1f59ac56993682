#include "sheet/nested.h"

#include "sheet/nest/nest.h"

namespace yokai {

namespace {

std::vector<Polyline> ringsOf(const ToPlace& piece, bool openings)
{
    if (piece.box.empty())
        return {};
    if (!piece.shape || piece.shape->rings.empty()) {
        const Rect& b = piece.box;
        return {{{b.x0, b.y0}, {b.x1, b.y0}, {b.x1, b.y1}, {b.x0, b.y1}}};
    }
    std::vector<Polyline> out;
    for (const Polyline& ring : piece.shape->rings)
        if (openings || signedArea(ring) > 0)
            out.push_back(ring);
    return out;
}

Polyline corners(const Rect& r) { return {{r.x0, r.y0}, {r.x1, r.y0}, {r.x1, r.y1}, {r.x0, r.y1}}; }

} // namespace

void nestInto(Layout& out, const SheetSpec& spec, std::span<const ToPlace> pieces, const std::vector<std::optional<int>>& remaining, const Work& work,
              const LayoutWatch& watch)
{
    nesting::Nesting in;
    in.rules = {layoutArea(spec), spec.nest.turns, spec.nest.mirror};
    in.gap = spec.gap.mm();
    in.seconds = spec.nest.seconds;
    in.seed = std::uint64_t(spec.nest.seed);
    double most = in.gap;
    for (const ToPlace& p : pieces)
        most = std::max(most, p.shape ? p.shape->reach : 0);
    constexpr double beyond = 2; // mm: farther than any gap, distances need not be known
    std::vector<std::unique_ptr<nesting::Body>> bodies;
    for (std::size_t k = 0; k < pieces.size(); ++k) {
        work.check();
        bodies.push_back(std::make_unique<nesting::Body>(ringsOf(pieces[k], spec.nest.openings), pieces[k].shape ? pieces[k].shape->reach : 0, most + beyond));
        in.asks.push_back({bodies.back().get(), remaining[k], pieces[k].share});
    }
    std::vector<nesting::Member> zones;
    for (const Mark& m : out.marks) {
        if (!isPrinted(m))
            continue;
        const Rect zone = clearOf(m, spec.marks.clear.mm());
        bodies.push_back(std::make_unique<nesting::Body>(std::vector<Polyline>{corners(zone)}, 0, most + beyond));
        zones.push_back({bodies.back().get(), {zone.centre(), 0, false}, -1, true, 0});
    }
    in.there.assign(std::size_t(out.sheets) + 1, zones); // the last counts for all after
    for (const Placement& p : out.placements)
        in.there[std::size_t(p.sheet)].push_back({bodies[p.at].get(), nesting::poseOf(p.toSheet, bodies[p.at]->middle()), -1, true, in.gap});

    const Layout before = out;
    const auto take = [&](const std::vector<nesting::Settled>& settled) {
        Layout layout = before;
        for (const nesting::Settled& s : settled) {
            const auto what = std::size_t(s.what);
            const Point middle = bodies[what]->middle();
            layout.placements.push_back({pieces[what].piece, what, layout.placed[what]++, {}, s.pose.map() * Affine::move(-middle.x, -middle.y), s.sheet});
            layout.sheets = std::max(layout.sheets, s.sheet + 1);
        }
        return layout;
    };
    std::function<void(const std::vector<nesting::Settled>&)> better;
    if (watch.better)
        better = [&](const std::vector<nesting::Settled>& settled) { watch.better(take(settled)); };
    out = take(nesting::nest(in, work, better, watch.enough));
}

} // namespace yokai
