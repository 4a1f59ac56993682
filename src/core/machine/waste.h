// A place in the waste where a blade that was never down is drawn into its heading, before it cuts a line that counts.
//
// A blade that trails its pivot falls into line while it is drawn along, to e^-n of its first angle's half tangent after n times its
// offset (the tractrix). Straight against its way it would not, so the stretch has two legs at right angles.
//
// Unit: mm on the bed, y away.
#pragma once

#include "machine/crowded.h"
#include "machine/track.h"

#include <optional>
#include <span>

namespace yokai {

class Waste {
public:
    // `pieces`: closed outlines that keep what lies within them. `sheet` and `bed`: where material and machine are.
    Waste(std::span<const Path> pieces, const Crowded& lines, std::span<const Point> sheet, const Rect& bed);
    // Two legs of `leg` each, the second along `heading`; as near as may be to `near`. None where no waste is large enough.
    std::optional<Track> alignment(Point near, Point heading, double leg) const;

private:
    bool clear(Point p) const;
    std::vector<Polyline> outlines_;
    std::vector<Rect> boxes_;
    const Crowded& lines_;
    Polyline sheet_;
    Rect bed_;
};

} // namespace yokai
