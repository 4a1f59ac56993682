// The pixels that a bleed takes its colours from. Private to the bleed room.
#pragma once

#include "base/raster.h"
#include "base/work.h"

#include <cstdint>
#include <vector>

namespace yokai {

// A yes or no for each pixel, 64 to a word.
class Bits {
public:
    Bits(int width, int height) : width_(width), height_(height), words_((width + 63) / 64), bits_(std::size_t(words_) * std::size_t(height), 0) {}
    int width() const { return width_; }
    int height() const { return height_; }
    int words() const { return words_; }
    std::uint64_t* row(int y) { return bits_.data() + std::size_t(y) * std::size_t(words_); }
    const std::uint64_t* row(int y) const { return bits_.data() + std::size_t(y) * std::size_t(words_); }
    bool at(int x, int y) const { return row(y)[x >> 6] >> (x & 63) & 1; }

private:
    int width_, height_, words_;
    std::vector<std::uint64_t> bits_;
};

// Of the opaque pixels those `depth` or more within their edge, and of what is thinner its middle: what is lost when
// it is opened by a square of 3 at each depth (Lantuejoul's residues, by which skeletons are made), where no deeper
// seed is near.
Bits seedsOf(const Gray8& opacity, int depth, const Work& work = {});

} // namespace yokai
