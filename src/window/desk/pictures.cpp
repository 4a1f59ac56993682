#include "desk/pictures.h"

#include "engrave/scan.h"

#include <QPainter>

namespace yokai {

namespace {

// Of 255: how much of what is not kept shows.
constexpr unsigned faint = 72;

QRgb premultiplied(Rgba c, unsigned alpha) { return qPremultiply(qRgba(c.r, c.g, c.b, int(alpha))); }
unsigned fadedAlpha(Rgba c, unsigned kept) { return std::max(kept, unsigned(c.a) * faint / 255); }

// The average of four premultiplied pixels; two channels at once in each half of a word.
QRgb average(QRgb a, QRgb b, QRgb c, QRgb d)
{
    const auto sum = [&](int shift) {
        return ((a >> shift & 0xff00ff) + (b >> shift & 0xff00ff) + (c >> shift & 0xff00ff) + (d >> shift & 0xff00ff) + 0x20002u) >> 2 & 0xff00ff;
    };
    return sum(0) | sum(8) << 8;
}

QImage halfOf(QSize full) { return QImage((full.width() + 1) / 2, (full.height() + 1) / 2, QImage::Format_ARGB32_Premultiplied); }

// Runs row(y, to) for each row of an image, its pixels taken beforehand: scanLine() would
// check for sharing in every thread.
template <class Row> void eachRow(QImage& image, const Work& work, Row row)
{
    uchar* const bits = image.bits();
    const auto stride = image.bytesPerLine();
    parallelSlices(image.height(), 32, [&](int begin, int end) {
        for (int y = begin; y < end; ++y) {
            if ((y & 63) == 0)
                work.check();
            row(y, reinterpret_cast<QRgb*>(bits + y * stride));
        }
    });
}

void halve(std::vector<QImage>& halves, const Work& work)
{
    while (std::max(halves.back().width(), halves.back().height()) > 256) {
        const QImage last = halves.back();
        QImage half = halfOf(last.size());
        eachRow(half, work, [&](int y, QRgb* to) {
            const auto* a = reinterpret_cast<const QRgb*>(last.constScanLine(2 * y));
            const auto* b = reinterpret_cast<const QRgb*>(last.constScanLine(std::min(2 * y + 1, last.height() - 1)));
            for (int x = 0; x < half.width(); ++x) {
                const int i = 2 * x, k = std::min(i + 1, last.width() - 1);
                to[x] = average(a[i], a[k], b[i], b[k]);
            }
        });
        halves.push_back(std::move(half));
    }
}

// The first halves, with what is not kept faded and without it, in one pass over the pixels.
void firstHalves(const Rgba8& px, const Gray8* printed, QImage& faded, QImage& kept, const Work& work)
{
    faded = halfOf({px.width(), px.height()});
    kept = halfOf({px.width(), px.height()});
    uchar* const bits = kept.bits();
    const auto stride = kept.bytesPerLine();
    eachRow(faded, work, [&](int y, QRgb* toFaded) {
        auto* toKept = reinterpret_cast<QRgb*>(bits + y * stride);
        const int j[2] = {2 * y, std::min(2 * y + 1, px.height() - 1)};
        for (int x = 0; x < faded.width(); ++x) {
            const int i[2] = {2 * x, std::min(2 * x + 1, px.width() - 1)};
            const Rgba c[4] = {px.at(i[0], j[0]), px.at(i[1], j[0]), px.at(i[0], j[1]), px.at(i[1], j[1])};
            unsigned a[4];
            for (int k = 0; k < 4; ++k)
                a[k] = printed ? printed->at(i[k & 1], j[k >> 1]) : c[k].a;
            const unsigned all = a[0] & a[1] & a[2] & a[3], any = a[0] | a[1] | a[2] | a[3];
            const bool nothing = (c[0].a | c[1].a | c[2].a | c[3].a) == 0;
            if (all == 255) {
                toKept[x] = toFaded[x] = average(premultiplied(c[0], 255), premultiplied(c[1], 255), premultiplied(c[2], 255), premultiplied(c[3], 255));
                continue;
            }
            toKept[x] = any == 0 ? 0 : average(premultiplied(c[0], a[0]), premultiplied(c[1], a[1]), premultiplied(c[2], a[2]), premultiplied(c[3], a[3]));
            toFaded[x] = nothing ? toKept[x]
                                 : average(premultiplied(c[0], fadedAlpha(c[0], a[0])), premultiplied(c[1], fadedAlpha(c[1], a[1])),
                                           premultiplied(c[2], fadedAlpha(c[2], a[2])), premultiplied(c[3], fadedAlpha(c[3], a[3])));
        }
    });
}

// As a plate is looked at: black where there is ink.
QImage inkOf(const Gray8& tint)
{
    constexpr int most = 1600; // px: enough to look at a plate by
    const QImage alpha(tint.row(0), tint.width(), tint.height(), tint.width(), QImage::Format_Alpha8);
    const QSize size = alpha.size().boundedTo(alpha.size().scaled(most, most, Qt::KeepAspectRatio));
    return alpha.scaled(size, Qt::IgnoreAspectRatio, Qt::SmoothTransformation).convertToFormat(QImage::Format_ARGB32_Premultiplied);
}

} // namespace

QImage ScreenPicture::composed(const QRect& part) const
{
    QImage image(part.size(), QImage::Format_ARGB32_Premultiplied);
    eachRow(image, {}, [&](int y, QRgb* to) {
        const Rgba* from = pixels_->row(part.y() + y) + part.x();
        const std::uint8_t* keep = printed_ ? printed_->row(part.y() + y) + part.x() : nullptr;
        for (int x = 0; x < part.width(); ++x) {
            const unsigned kept = keep ? keep[x] : from[x].a;
            to[x] = premultiplied(from[x], faded_ ? fadedAlpha(from[x], kept) : kept);
        }
    });
    return image;
}

void ScreenPicture::draw(QPainter& painter, const QRectF& to, const QRectF& from, double scale) const
{
    if (from.isEmpty())
        return;
    std::size_t level = 0;
    while (level < halves_.size() && scale * double(2u << level) <= 1.05)
        ++level;
    if (level > 0) {
        const QImage& half = halves_[level - 1];
        // Its last row and column may reach beyond the picture: sizes are not all powers of two.
        const double k = 1.0 / double(1u << level);
        painter.drawImage(to, half, QRectF(from.topLeft() * k, from.size() * k));
        return;
    }
    const QRect part = from.toAlignedRect().adjusted(-1, -1, 1, 1) & QRect({}, size());
    painter.drawImage(to, composed(part), from.translated(-part.topLeft()));
}

QImage ScreenPicture::small() const { return halves_.empty() ? composed(QRect({}, size())) : halves_.back(); }

QColor stockColour(const PlanSpec& plan)
{
    const Rgba c = plan.material ? plan.material->colour : Rgba{255, 255, 255, 255};
    return {c.r, c.g, c.b};
}

EngraveLook lookOf(const PlanSpec& plan)
{
    const ProcessSettings settings = plan.material ? plan.material->of(Process::Engrave) : ProcessSettings{};
    const QColor stock = stockColour(plan);
    // Light stock is scorched, dark stock goes pale.
    constexpr int scorched = 330, frosted = 190; // of 100: darker, lighter
    QColor burnt = stock.lightness() > 100 ? stock.darker(scorched) : stock.lighter(frosted);
    if (stock.lightness() > 100)
        burnt = QColor(std::max(0, burnt.red() - 6), std::max(0, burnt.green() - 16), std::max(0, burnt.blue() - 24));
    return {1 / settings.linesPerMm, burnt.rgb()};
}

namespace {

// The burn as ink of its colour, as opaque as it is dense.
QImage burnOf(const Engraving& engraving, const EngraveLook& look, const Work& work)
{
    const double interval = engraving.spec.interval ? engraving.spec.interval->mm() : look.interval;
    const Gray8 dots = dotsOf(engraving, interval, work);
    QImage out(std::max(1, dots.width()), std::max(1, dots.height()), QImage::Format_ARGB32_Premultiplied);
    out.fill(Qt::transparent);
    for (int y = 0; y < dots.height(); ++y) {
        auto* to = reinterpret_cast<QRgb*>(out.scanLine(y));
        for (int x = 0; x < dots.width(); ++x)
            to[x] = qPremultiply((look.burnt & 0xffffff) | QRgb(dots.at(x, y)) << 24);
    }
    return out;
}

} // namespace

PiecePicture PictureCache::of(const PieceResult& piece, const EngraveLook& look, const Work& work)
{
    if (!piece.pixels)
        return {};
    for (Entry& e : entries_)
        if (e.pixels == piece.pixels && e.printed == piece.layer().printed && e.bleed == piece.layer().bleed && e.white == piece.layer().underprint && e.engraving == piece.layer().engraving && (!e.engraving || e.look == look)) {
            e.used = true;
            return e.picture;
        }
    auto working = std::make_shared<ScreenPicture>(), printed = std::make_shared<ScreenPicture>();
    for (const auto& picture : {working, printed}) {
        picture->pixels_ = piece.pixels;
        picture->printed_ = piece.layer().printed;
        picture->faded_ = picture == working;
    }
    if (std::max(piece.pixels->width(), piece.pixels->height()) > 256) {
        working->halves_.emplace_back();
        printed->halves_.emplace_back();
        firstHalves(*piece.pixels, piece.layer().printed.get(), working->halves_[0], printed->halves_[0], work);
        halve(working->halves_, work);
        halve(printed->halves_, work);
    }
    PiecePicture out;
    out.working = working;
    out.printed = printed;
    out.thumbnail = printed->small().scaled(112, 112, Qt::KeepAspectRatio, Qt::SmoothTransformation);
    if (const auto& bleed = piece.layer().bleed) {
        auto shown = std::make_shared<ScreenPicture>();
        shown->pixels_ = bleed->pixels;
        if (std::max(bleed->pixels->width(), bleed->pixels->height()) > 256) {
            QImage faded;
            shown->halves_.emplace_back();
            firstHalves(*bleed->pixels, nullptr, faded, shown->halves_[0], work);
            halve(shown->halves_, work);
        }
        out.bleed = shown;
        out.bleedAt = QRectF(bleed->toMm.e, bleed->toMm.f, bleed->width(), bleed->height());
    }
    if (const auto& white = piece.layer().underprint) {
        out.white = inkOf(*white->tint);
        out.whiteAt = QRectF(white->toMm.e, white->toMm.f, white->width(), white->height());
    }
    if (const auto& engraving = piece.layer().engraving; engraving && engraving->spec.as != EngraveAs::Fill) {
        out.burnt = {burnOf(*engraving, look, work)};
        const double interval = engraving->spec.interval ? engraving->spec.interval->mm() : look.interval;
        out.burntAt = QRectF(engraving->box.x0, engraving->box.y0, out.burnt[0].width() * interval, out.burnt[0].height() * interval);
        halve(out.burnt, work);
    }
    entries_.push_back({piece.pixels, piece.layer().printed, piece.layer().bleed, piece.layer().underprint, piece.layer().engraving, look, out, true});
    return out;
}

void PictureCache::forgetOthers()
{
    std::erase_if(entries_, [](const Entry& e) { return !e.used; });
    for (Entry& e : entries_)
        e.used = false;
}

QImage together(const std::vector<PiecePicture>& pictures)
{
    constexpr int side = 112; // px
    const int across = pictures.size() > 1 ? 2 : 1, cell = side / across;
    QImage out(side, side, QImage::Format_ARGB32_Premultiplied);
    out.fill(Qt::transparent);
    QPainter painter(&out);
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    int drawn = 0;
    for (const PiecePicture& picture : pictures)
        if (!picture.thumbnail.isNull() && drawn < across * across) {
            const QRect place(drawn % across * cell, drawn / across * cell, cell, cell);
            QRect own(QPoint(), picture.thumbnail.size().scaled(place.size() * 0.94, Qt::KeepAspectRatio));
            own.moveCenter(place.center());
            painter.drawImage(own, picture.thumbnail);
            ++drawn;
        }
    return drawn > 0 ? out : QImage();
}

} // namespace yokai
