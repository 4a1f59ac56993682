#include "touchup/anchor.h"

#include "touchup/kinds.h"

namespace yokai {

namespace {

// A direction through the linear part of a map.
Point turned(const Affine& map, Point direction) { return unit(map(direction) - map({0, 0})); }

} // namespace

Anchor anchorOf(Point mm, const KeptEdge& edge, const EditGround& ground)
{
    const KeptEdge::Nearest near = edge.nearest(mm);
    const Affine back = ground.toMm.inverse();
    return {back(near.at), turned(back, near.out), near.away - ground.offset};
}

Point placeOf(const Anchor& anchor, const EditGround& ground)
{
    return ground.toMm(anchor.edge) + turned(ground.toMm, anchor.out) * (ground.offset + anchor.past);
}

double reachOf(const Edit& edit, const EditGround& ground)
{
    constexpr double always = 1, ofTheChange = 4;
    return always + ofTheChange * std::abs(ground.offset - edit.offset.mm());
}

std::optional<NearestPlace> held(const Anchor& anchor, const Edit& edit, const Paths& paths, const EditGround& ground)
{
    const auto near = nearestPlace(paths, placeOf(anchor, ground));
    return near && near->away <= reachOf(edit, ground) ? near : std::nullopt;
}

std::optional<HeldStretch> heldStretch(const Edit& edit, const Paths& paths, const EditGround& ground)
{
    const auto from = held(edit.from, edit, paths, ground), to = held(edit.to, edit, paths, ground);
    if (!from || !to || from->path != to->path)
        return std::nullopt;
    const bool swap = mirrored(ground);
    return HeldStretch{from->path, swap ? *to : *from, swap ? *from : *to, edit.from == edit.to};
}

std::optional<HeldStretch> heldStretch(const Edit& edit, const Paths& paths, const EditGround& ground, EditOutcome& out)
{
    const Point from = placeOf(edit.from, ground), to = placeOf(edit.to, ground);
    out.at = mix(from, to, 0.5);
    const auto stretch = heldStretch(edit, paths, ground);
    if (!stretch)
        out.ghost = {from, to};
    return stretch;
}

} // namespace yokai
