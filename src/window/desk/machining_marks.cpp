// Marks found on the bed: by the eye, in a picture, pointed at; and what is made of them.

#include "desk/machining_tasks.h"

#include "artwork/artwork.h"
#include "desk/jogging.h"
#include "words.h"

#include <QSettings>

#include <algorithm>
#include <cmath>
#include <cstring>

namespace yokai {

void Machining::findMarks()
{
    if (!mayCut())
        return;
    if (desk_.job().cut.marksBy != MarksBy::Picture)
        findByEye();
    else if (onBed_.photo)
        findInPhoto();
    else if (port_.isEmpty())
        findByCamera();
    else
        emit said(tr("Open a picture of the machine's bed first."), int(Severity::Warning));
}

void Machining::openPhoto(const QString& file)
{
    if (!desk_.job().cut.plan.machine) {
        emit said(tr("Choose the machine first: how large its bed is must be known."), int(Severity::Warning));
        return;
    }
    auto photo = std::make_shared<Photograph>();
    line_.start(
        tr("Opening the picture"),
        [file, photo](const Work& work) -> QString {
            photo->pixels = decodePicture(openPicture(file.toStdString()), work);
            const Rgba8& p = *photo->pixels;
            photo->image = QImage(reinterpret_cast<const uchar*>(p.all().data()), p.width(), p.height(), p.width() * 4, QImage::Format_RGBA8888).convertToFormat(QImage::Format_RGB32);
            return {};
        },
        [this, photo] {
            forgetMarks();
            onBed_.photo = photo;
            onBed_.picture.reset();
            onBed_.corners.reset();
            // A camera that stands still sees the bed where it saw it before.
            if (QSettings().contains(cornersKey()))
                findInPhoto();
            else
                setCorners();
        });
}

QString Machining::cornersKey() const
{
    const QSize size = onBed_.photo ? onBed_.photo->image.size() : QSize();
    return QStringLiteral("cut/corners/%1/%2x%3").arg(yokai::text(desk_.job().cut.plan.machine.value_or(Machine{}).name)).arg(size.width()).arg(size.height());
}

void Machining::setCorners()
{
    if (!onBed_.photo || busy())
        return;
    BedCorners corners = likelyCorners(onBed_.photo->image.width(), onBed_.photo->image.height());
    if (const QVariantList kept = QSettings().value(cornersKey()).toList(); kept.size() == 8)
        for (qsizetype k = 0; k < 4; ++k)
            corners[std::size_t(k)] = {kept[2 * k].toDouble(), kept[2 * k + 1].toDouble()};
    onBed_.corners = corners;
    emit changed();
}

void Machining::setCorner(std::size_t which, Point px)
{
    if (!onBed_.corners)
        return;
    (*onBed_.corners)[which] = px;
    emit changed();
}

void Machining::found(const std::vector<std::optional<Point>>& places)
{
    for (std::size_t k = 0; k < std::min(places.size(), onBed_.marks.size()); ++k)
        onBed_.marks[k].measured = places[k];
    fit();
    emit changed();
    if (!onBed_.refusal.isEmpty())
        emit said(onBed_.refusal, int(Severity::Error));
}

void Machining::findInPhoto()
{
    if (!onBed_.photo || !desk_.shown() || !desk_.job().cut.plan.machine || busy())
        return;
    if (!onBed_.corners)
        setCorners();
    const BedSpec& bed = desk_.job().cut.plan.machine->bed;
    struct Out {
        std::vector<std::optional<Point>> places;
        BedPicture picture;
    };
    auto out = std::make_shared<Out>();
    line_.start(
        tr("Finding the marks"),
        [out, photo = onBed_.photo, marks = cutMarksOf(desk_.shown()->job, desk_.shown()->derived), seen = BedPhoto{*onBed_.corners, bed.width.mm(), bed.depth.mm(), {}}](const Work& work) mutable -> QString {
            const Rgba8& pixels = *photo->pixels;
            // Features of the picture's own are pointed at by the maker.
            const bool looks = std::all_of(marks.begin(), marks.end(), isPrinted);
            FoundMarks in;
            if (looks) {
                in = yokai::findMarks(pixels, marks, work);
                seen.lens = in.lens;
            } else
                in.px.resize(marks.size());
            for (const auto& px : in.px)
                out->places.push_back(px ? std::optional(seen.onBed(*px)) : std::nullopt);
            // As fine as the photo itself.
            constexpr double most = 40e6; // pixels
            const double fine = distance(seen.corners[0], seen.corners[1]) / seen.width;
            const double pxPerMm = std::min(fine, std::sqrt(most / (seen.width * seen.depth)));
            const Rgba8 above = fromAbove(pixels, seen, pxPerMm, work);
            out->picture.image = QImage(reinterpret_cast<const uchar*>(above.all().data()), above.width(), above.height(), above.width() * 4, QImage::Format_RGBA8888).convertToFormat(QImage::Format_RGB32);
            out->picture.corner = {0, seen.depth};
            out->picture.pxPerMm = pxPerMm;
            return {};
        },
        [this, out] {
            QVariantList kept;
            for (const Point p : *onBed_.corners)
                kept << p.x << p.y;
            QSettings().setValue(cornersKey(), kept);
            onBed_.corners.reset();
            onBed_.picture = std::make_shared<const BedPicture>(std::move(out->picture));
            found(out->places);
        });
}

// The stand-in's camera, which sees its bed from right above.
void Machining::findByCamera()
{
    auto places = std::make_shared<std::vector<std::optional<Point>>>();
    forgetMarks();
    start(
        tr("Finding the marks"), asked(true),
        [places, there = there_](const Asked&, MachineLine& line, const Work& work) -> QString {
            const BedPicture picture = there->bed->picture(line, work);
            const QImage image = picture.image.convertToFormat(QImage::Format_RGBA8888);
            Rgba8 pixels(image.width(), image.height());
            for (int y = 0; y < image.height(); ++y)
                std::memcpy(pixels.row(y), image.constScanLine(y), std::size_t(image.width()) * sizeof(Rgba));
            for (const auto& px : yokai::findMarks(pixels, there->order.sheet.marks, work).px)
                places->push_back(px ? std::optional(Point{picture.corner.x + px->x / picture.pxPerMm, picture.corner.y - px->y / picture.pxPerMm}) : std::nullopt);
            return {};
        },
        [this, places] { found(*places); });
}

bool Machining::takeNear(Point onBed, double reachMm)
{
    const auto& picture = onBed_.picture;
    const int mark = edits::markToTake(desk_);
    if (!picture || mark < 0)
        return false;
    const Point px{(onBed.x - picture->corner.x) * picture->pxPerMm, (picture->corner.y - onBed.y) * picture->pxPerMm};
    const double reach = reachMm * picture->pxPerMm;
    const QRect part = QRect(int(px.x - 2 * reach), int(px.y - 2 * reach), int(4 * reach) + 1, int(4 * reach) + 1) & picture->image.rect();
    const QImage image = picture->image.copy(part).convertToFormat(QImage::Format_RGBA8888);
    if (part.isEmpty())
        return false;
    Rgba8 pixels(image.width(), image.height());
    for (int y = 0; y < image.height(); ++y)
        std::memcpy(pixels.row(y), image.constScanLine(y), std::size_t(image.width()) * sizeof(Rgba));
    const Point corner{double(part.x()), double(part.y())};
    const auto at = featureNear(pixels, px - corner, reach);
    if (!at)
        return false;
    const Point seen = *at + corner;
    take(mark, Point{picture->corner.x + seen.x / picture->pxPerMm, picture->corner.y - seen.y / picture->pxPerMm});
    desk_.select({});
    return true;
}

// What to do with each that is found, on the line's thread.
std::function<void(const MarkPair&)> Machining::seenMark()
{
    return [this](const MarkPair& pair) {
        post([this, pair] {
            for (std::size_t k = 0; k < onBed_.marks.size(); ++k)
                if (onBed_.marks[k].design == pair.design)
                    take(int(k), pair.measured);
        });
    };
}

void Machining::findByEye()
{
    const Asked with = asked(true);
    forgetMarks();
    if (with.freshSheet)
        onBed_.picture.reset();
    start(
        tr("Finding the marks"), with,
        [this, there = there_](const Asked&, MachineLine& line, const Work& work) -> QString {
            marksByEye(there->order, line, {seenMark(), {}, {}, {}, {}}, work);
            return {};
        },
        [this] {
            if (!onBed_.refusal.isEmpty())
                emit said(onBed_.refusal, int(Severity::Error));
        });
}

void Machining::take(int mark, std::optional<Point> measured)
{
    if (mark < 0 || mark >= int(onBed_.marks.size()))
        return;
    onBed_.marks[std::size_t(mark)].measured = measured;
    fit();
    emit changed();
}

void Machining::takeHere(int mark)
{
    if (onBed_.head)
        take(mark, onBed_.head->at + eyeOffset());
}

void Machining::forgetMarks()
{
    for (MarkSeen& m : onBed_.marks)
        m.measured.reset();
    fit();
    emit changed();
}

QStringList Machining::doubtWords() const
{
    QStringList out;
    const auto mm = [this](double v) { return exactText(v, desk_.unit()); };
    for (const DoubtOfFit& d : onBed_.doubts)
        switch (d.why) {
        case FitDoubt::LeftOut:
            out << tr("Mark %1 is left out: it lies %2 astray, and the others agree without it.").arg(d.mark + 1).arg(mm(d.value));
            break;
        case FitDoubt::Reordered:
            out << tr("The marks were measured in another order than they are numbered in.");
            break;
        case FitDoubt::TurnedRound:
            out << tr("The sheet lies turned by %1\u00b0.").arg(yokai::number(d.value, 0));
            break;
        case FitDoubt::NoneToSpare:
            out << tr("No mark is to spare: one that was measured wrongly would not show.");
            break;
        case FitDoubt::Coarse:
            out << tr("%1 is to be expected at the cut; lines are checked for %2 (Drift, at Touch-up).").arg(mm(d.value), mm(d.limit));
            break;
        }
    return out;
}

} // namespace yokai
