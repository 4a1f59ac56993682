// Windows bitmaps: no library in wide use reads them and nothing else, and the format is
// a header and rows. Plain, bit-field and run-length ones (RLE8, RLE4), 1 to 32 bits.
#include "artwork/readers/readers.h"

#include <algorithm>
#include <bit>

namespace yokai {

namespace {

struct Damaged {};

class Bmp {
public:
    explicit Bmp(const Bytes& bytes) : b_(bytes)
    {
        headerSize_ = u32(14);
        if (headerSize_ < 40)
            throw Damaged(); // of OS/2, which nobody writes any more
        width_ = std::int32_t(u32(18));
        const auto high = std::int32_t(u32(22));
        height_ = std::abs(std::int64_t(high));
        downwards_ = high < 0;
        bits_ = int(u16(28));
        packing_ = u32(30);
        if (width_ <= 0 || height_ <= 0 || width_ > mostPixelsAcross || height_ > mostPixelsAcross || packing_ > 6 || packing_ == 4 || packing_ == 5)
            throw Damaged();
        readMasks();
        readPalette();
    }
    int width() const { return width_; }
    int height() const { return int(height_); }
    bool packed() const { return packing_ == 1 || packing_ == 2; }
    bool hasAlpha() const { return mask_[3] != 0; }

    void row(int y, Rgba* to) const
    {
        const std::size_t stride = (std::size_t(width_) * std::size_t(bits_) + 31) / 32 * 4;
        const std::size_t at = u32(10) + stride * std::size_t(downwards_ ? y : height() - 1 - y);
        if (at + stride > b_.size())
            throw Damaged();
        const unsigned char* p = b_.data() + at;
        for (int x = 0; x < width_; ++x)
            switch (bits_) {
            case 1:
            case 4:
            case 8: {
                const std::size_t bit = std::size_t(x) * std::size_t(bits_);
                to[x] = colour((p[bit / 8] >> (8 - bits_ - int(bit % 8))) & ((1 << bits_) - 1));
                break;
            }
            case 24:
                to[x] = {p[3 * x + 2], p[3 * x + 1], p[3 * x], 255};
                break;
            case 16:
                to[x] = masked(std::uint32_t(p[2 * x] | p[2 * x + 1] << 8));
                break;
            default:
                to[x] = masked(p[4 * x] | std::uint32_t(p[4 * x + 1]) << 8 | std::uint32_t(p[4 * x + 2]) << 16 | std::uint32_t(p[4 * x + 3]) << 24);
            }
    }

    // Runs, and stretches as they are, from the bottom row up.
    void unpack(Rgba8& to, const Work& work) const
    {
        const int a = bits_ == 4 ? 2 : 1; // pixels a byte
        std::size_t at = u32(10);
        int x = 0, y = 0;
        const auto put = [&](int index) {
            if (x < width_ && y < height_)
                to.at(x, height() - 1 - y) = colour(index);
            ++x;
        };
        for (int k = 0;; ++k) {
            if ((k & 4095) == 0)
                work.check();
            const int count = u8(at), value = u8(at + 1);
            at += 2;
            if (count > 0) {
                for (int i = 0; i < count; ++i)
                    put(a == 1 ? value : i % 2 == 0 ? value >> 4 : value & 15);
            } else if (value == 0) {
                x = 0;
                ++y;
            } else if (value == 1) {
                return;
            } else if (value == 2) {
                x += u8(at);
                y += u8(at + 1);
                at += 2;
            } else {
                for (int i = 0; i < value; ++i) {
                    const int byte = u8(at + std::size_t(i / a));
                    put(a == 1 ? byte : i % 2 == 0 ? byte >> 4 : byte & 15);
                }
                at += std::size_t((value + a - 1) / a + 1) & ~std::size_t(1); // to an even byte
            }
            if (y >= height_)
                return;
        }
    }

private:
    int u8(std::size_t at) const
    {
        if (at >= b_.size())
            throw Damaged();
        return b_[at];
    }
    std::uint32_t u16(std::size_t at) const { return std::uint32_t(u8(at) | u8(at + 1) << 8); }
    std::uint32_t u32(std::size_t at) const { return u16(at) | u16(at + 2) << 16; }

    void readMasks()
    {
        if (bits_ == 16)
            mask_ = {0x7c00, 0x03e0, 0x001f, 0};
        else if (bits_ == 32)
            mask_ = {0xff0000, 0xff00, 0xff, 0};
        else if (bits_ != 1 && bits_ != 4 && bits_ != 8 && bits_ != 24)
            throw Damaged();
        if (packing_ == 3 || packing_ == 6)
            for (std::size_t i = 0; i < (packing_ == 6 || headerSize_ >= 56 ? 4u : 3u); ++i)
                mask_[i] = u32(54 + 4 * i);
        if ((packing_ == 1 && bits_ != 8) || (packing_ == 2 && bits_ != 4))
            throw Damaged();
    }
    void readPalette()
    {
        if (bits_ > 8)
            return;
        const std::size_t said = u32(46), count = std::min<std::size_t>(said ? said : std::size_t(1) << bits_, 256);
        for (std::size_t i = 0; i < count; ++i) {
            const std::size_t at = 14 + headerSize_ + 4 * i;
            palette_.push_back({std::uint8_t(u8(at + 2)), std::uint8_t(u8(at + 1)), std::uint8_t(u8(at)), 255});
        }
    }
    Rgba colour(int index) const
    {
        if (std::size_t(index) >= palette_.size())
            throw Damaged();
        return palette_[std::size_t(index)];
    }
    static std::uint8_t channel(std::uint32_t v, std::uint32_t mask, std::uint8_t otherwise)
    {
        if (mask == 0)
            return otherwise;
        const std::uint32_t most = mask >> std::countr_zero(mask);
        return std::uint8_t((std::uint64_t((v & mask) >> std::countr_zero(mask)) * 255 + most / 2) / most);
    }
    Rgba masked(std::uint32_t v) const { return {channel(v, mask_[0], 0), channel(v, mask_[1], 0), channel(v, mask_[2], 0), channel(v, mask_[3], 255)}; }

    const Bytes& b_;
    std::size_t headerSize_ = 40;
    int width_ = 0, bits_ = 24;
    std::int64_t height_ = 0;
    bool downwards_ = false;
    std::uint32_t packing_ = 0;
    std::array<std::uint32_t, 4> mask_ = {0, 0, 0, 0};
    std::vector<Rgba> palette_;
};

} // namespace

RawPicture readBmp(const Picture& picture, const Work& work)
{
    RawPicture raw;
    try {
        const Bmp bmp(*picture.bytes);
        decodeInPlace(raw, bmp.width(), bmp.height());
        if (bmp.packed()) {
            std::fill(raw.place->all().begin(), raw.place->all().end(), Rgba{0, 0, 0, 0}); // what runs leave out
            bmp.unpack(*raw.place, work);
            return raw;
        }
        bool clear = bmp.hasAlpha();
        for (int y = 0; y < bmp.height(); ++y) {
            if ((y & 31) == 0)
                work.check();
            bmp.row(y, raw.place->row(y));
            clear = clear && std::all_of(raw.place->row(y), raw.place->row(y) + bmp.width(), [](Rgba c) { return c.a == 0; });
        }
        if (clear) // a mask for alpha, and nothing in it: programs that forgot to fill it
            for (Rgba& c : raw.place->all())
                c.a = 255;
    } catch (const Damaged&) {
        raw.samples.release();
    }
    return raw;
}

} // namespace yokai
