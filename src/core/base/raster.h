// A plain block of pixels, row after row without padding. Made once, then shared
// as `std::shared_ptr<const Raster<T>>` and never changed, so that jobs, threads
// and undo steps can all hold the same one.
#pragma once

#include "base/untouched.h"

#include <cstddef>
#include <cstdint>
#include <memory>
#include <span>

namespace yokai {

struct Rgba {
    std::uint8_t r = 0, g = 0, b = 0, a = 0;
    constexpr bool operator==(const Rgba&) const = default;
};

template <class T> class Raster {
public:
    Raster() = default;
    // Leaves the pixels unset.
    Raster(int width, int height) : width_(width), height_(height), data_(untouched<T>(std::size_t(width) * std::size_t(height), false)) {}
    Raster(int width, int height, T value) : Raster(width, height)
    {
        for (T& v : all())
            v = value;
    }
    int width() const { return width_; }
    int height() const { return height_; }
    bool empty() const { return !data_; }
    std::size_t size() const { return std::size_t(width_) * std::size_t(height_); }
    T* row(int y) { return data_.get() + std::size_t(y) * std::size_t(width_); }
    const T* row(int y) const { return data_.get() + std::size_t(y) * std::size_t(width_); }
    T& at(int x, int y) { return row(y)[x]; }
    const T& at(int x, int y) const { return row(y)[x]; }
    std::span<T> all() { return {data_.get(), size()}; }
    std::span<const T> all() const { return {data_.get(), size()}; }

private:
    int width_ = 0, height_ = 0;
    Untouched<T> data_;
};

using Gray8 = Raster<std::uint8_t>;
using Rgba8 = Raster<Rgba>;
using SharedGray = std::shared_ptr<const Gray8>;
using SharedRgba = std::shared_ptr<const Rgba8>;

} // namespace yokai
