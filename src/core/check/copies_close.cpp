// Copies put by hand nearer to others than the gap, or onto them; proposed ones never are.
#include "check/checks.h"

#include "sheet/nest/body.h"

#include <map>

namespace yokai {

void checkCopiesClose(const CheckGround& ground, Findings& found)
{
    const Layout& layout = ground.derived.sheet;
    const double gap = ground.job.sheet.gap.mm();
    constexpr double exactly = 0.005, beyond = 1; // mm
    std::map<std::size_t, nesting::Body> bodies;
    const auto body = [&](std::size_t piece) -> const nesting::Body& {
        auto at = bodies.find(piece);
        if (at == bodies.end()) {
            const auto& shape = ground.derived.pieces[piece].shape;
            at = bodies.try_emplace(piece, shape ? shape->rings : std::vector<Polyline>{}, 0.0, gap + beyond).first;
        }
        return at->second;
    };
    for (int sheet = 0; sheet < layout.sheets; ++sheet) {
        const auto on = layout.on(sheet);
        for (const Placement& a : on) {
            if (!a.placing)
                continue;
            ground.run.work().check();
            for (const Placement& b : on) {
                if (&a == &b || (b.placing && &b < &a) ||
                    !mapped(a.toSheet, ground.derived.pieces[a.at].box).grown(gap).overlaps(mapped(b.toSheet, ground.derived.pieces[b.at].box)))
                    continue;
                nesting::Apart apart;
                const nesting::Body &one = body(a.at), &other = body(b.at);
                if (one.rings().empty() || other.rings().empty() ||
                    !nesting::apart(one, nesting::poseOf(a.toSheet, one.middle()), other, nesting::poseOf(b.toSheet, other.middle()), gap, apart) || apart.distance > gap - exactly)
                    continue;
                found.push_back({"copies-close", apart.distance < 0 ? Severity::Error : Severity::Warning, a.piece, {},
                                 mapped(a.toSheet, ground.derived.pieces[a.at].box).centre(), std::max(0.0, apart.distance), gap, std::nullopt, sheet});
            }
        }
    }
}

} // namespace yokai
