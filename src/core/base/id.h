// Names for the things a job is made of, so that a reference survives when others are
// added, removed or moved. An index never does.
//
// Given out by the job (see job.h) and never used twice in it; 0 names nothing yet.
#pragma once

#include <compare>
#include <cstdint>

namespace yokai {

template <class Tag> struct Id {
    std::uint32_t n = 0;
    constexpr explicit operator bool() const { return n != 0; }
    constexpr auto operator<=>(const Id&) const = default;
};

using PieceId = Id<struct PieceTag>;
using LayerId = Id<struct LayerTag>;
using LineId = Id<struct LineTag>;
using EditId = Id<struct EditTag>; // of work by hand: a touch, an outline
using GuideId = Id<struct GuideTag>;
using PlacingId = Id<struct PlacingTag>;

} // namespace yokai
