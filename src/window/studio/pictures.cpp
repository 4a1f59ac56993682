#include "studio/pictures.h"

namespace yokai {

namespace {

std::shared_ptr<const ImagePyramid> pyramid(QImage full, const Work& work)
{
    auto out = std::make_shared<ImagePyramid>();
    out->levels.push_back(std::move(full));
    while (std::max(out->levels.back().width(), out->levels.back().height()) > 256) {
        work.check();
        const QImage& last = out->levels.back();
        QImage half((last.width() + 1) / 2, (last.height() + 1) / 2, QImage::Format_ARGB32_Premultiplied);
        // Averages of four premultiplied pixels; two channels at once in each half of a word.
        parallelSlices(half.height(), 64, [&](int begin, int end) {
            for (int y = begin; y < end; ++y) {
                const auto* a = reinterpret_cast<const QRgb*>(last.constScanLine(2 * y));
                const auto* b = reinterpret_cast<const QRgb*>(last.constScanLine(std::min(2 * y + 1, last.height() - 1)));
                auto* to = reinterpret_cast<QRgb*>(half.bits() + qsizetype(y) * half.bytesPerLine());
                for (int x = 0; x < half.width(); ++x) {
                    const int i = 2 * x, k = std::min(i + 1, last.width() - 1);
                    const auto sum = [&](int shift) {
                        return ((a[i] >> shift & 0xff00ff) + (a[k] >> shift & 0xff00ff) + (b[i] >> shift & 0xff00ff) + (b[k] >> shift & 0xff00ff) + 0x20002u) >>
                                   2 &
                               0xff00ff;
                    };
                    to[x] = sum(0) | sum(8) << 8;
                }
            }
        });
        out->levels.push_back(std::move(half));
    }
    return out;
}

QImage composed(const Rgba8& px, const Gray8* printed, bool ghost, const Work& work)
{
    QImage image(px.width(), px.height(), QImage::Format_ARGB32_Premultiplied);
    // Written through one pointer taken beforehand: scanLine() would check for sharing in every thread.
    uchar* const bits = image.bits();
    const auto stride = image.bytesPerLine();
    parallelSlices(px.height(), 32, [&](int begin, int end) {
        for (int y = begin; y < end; ++y) {
            if ((y & 63) == 0)
                work.check();
            const Rgba* from = px.row(y);
            const std::uint8_t* keep = printed ? printed->row(y) : nullptr;
            auto* to = reinterpret_cast<QRgb*>(bits + y * stride);
            for (int x = 0; x < px.width(); ++x) {
                const Rgba c = from[x];
                unsigned a = keep ? keep[x] : c.a;
                if (ghost)
                    a = std::max(a, unsigned(c.a) * 72 / 255);
                to[x] = qPremultiply(qRgba(c.r, c.g, c.b, int(a)));
            }
        }
    });
    return image;
}

} // namespace

const QImage& ImagePyramid::at(double scale) const
{
    std::size_t level = 0;
    while (level + 1 < levels.size() && scale * double(2u << level) <= 1.05)
        ++level;
    return levels[level];
}

PiecePicture PictureCache::of(const PieceResult& piece, const Work& work)
{
    PiecePicture out;
    if (!piece.pixels)
        return out;
    const std::shared_ptr<const Gray8> printed = piece.printed;
    Entry* entry = nullptr;
    for (Entry& e : entries_)
        if (e.pixels == piece.pixels && e.printed == printed)
            entry = &e;
    if (!entry) {
        Entry fresh{piece.pixels,
                    printed,
                    pyramid(composed(*piece.pixels, printed.get(), true, work), work),
                    pyramid(composed(*piece.pixels, printed.get(), false, work), work),
                    {},
                    true};
        fresh.thumbnail = fresh.print->levels.back().scaled(112, 112, Qt::KeepAspectRatio, Qt::SmoothTransformation);
        entries_.push_back(std::move(fresh));
        entry = &entries_.back();
    }
    entry->used = true;
    out.working = entry->working;
    out.printed = entry->print;
    out.thumbnail = entry->thumbnail;
    return out;
}

void PictureCache::forgetOthers()
{
    std::erase_if(entries_, [](const Entry& e) { return !e.used; });
    for (Entry& e : entries_)
        e.used = false;
}

} // namespace yokai
