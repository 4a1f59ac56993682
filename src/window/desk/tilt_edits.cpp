#include "desk/tilt_edits.h"

#include "job/replace.h"
#include "register/find_marks.h"
#include "words.h"

namespace yokai::edits {

namespace {

// Where they are when they are taken in hand: on those there are, else some way in from the frame's, as it is seen.
Corners4 cornersToBegin(const ArtworkSpec& a)
{
    if (const auto above = a.fromAbove()) {
        Corners4 out = a.tilt->corners();
        for (Point& p : out)
            p = above->fromPicture(p);
        return out;
    }
    constexpr double in = 0.08; // of the frame
    const double w = a.width(), h = a.height();
    const Affine back = a.sourceToMm().inverse();
    return {back({in * w, in * h}), back({(1 - in) * w, in * h}), back({(1 - in) * w, (1 - in) * h}), back({in * w, (1 - in) * h})};
}

void layOn(SheetSpec& sheet, Length across, Length down)
{
    if (Length::mm(sheet.width()) == across && Length::mm(sheet.height()) == down)
        return;
    sheet.media = {"custom", std::min(across, down), std::max(across, down)};
    sheet.landscape = across > down;
}

// None where the picture is another by now.
bool put(Desk& desk, const QString& what, const Piece& of, const TiltSpec& tilt)
{
    const Piece* there = find(desk.job(), of.id);
    if (!there || there->artwork.picture.digest != of.artwork.picture.digest)
        return false;
    desk.edit(what, [&](Job& job) {
        Piece* piece = find(job, of.id);
        setTilt(*piece, tilt);
        if (tilt.lies)
            layOn(job.sheet, tilt.across, tilt.down);
    });
    return true;
}

} // namespace

void holdCorners(Desk& desk)
{
    const Piece* piece = desk.currentPiece();
    if (!piece)
        return;
    desk.hold(Hold::Tilt);
    if (desk.hand().hold != Hold::Tilt)
        return;
    Hand hand = desk.hand();
    try {
        hand.corners = cornersToBegin(piece->artwork);
    } catch (const Error& e) {
        hand.hold = Hold::Nothing;
        desk.say(words(e), Severity::Warning);
    }
    desk.setHand(hand);
}

std::array<Length, 2> knownSides(const Desk& desk)
{
    if (const Piece* piece = desk.currentPiece(); piece && piece->artwork.tilt)
        return {piece->artwork.tilt->across, piece->artwork.tilt->down};
    return {Length::mm(desk.job().sheet.width()), Length::mm(desk.job().sheet.height())};
}

void takeTiltOut(Desk& desk, Length across, Length down, bool lies)
{
    const Piece* piece = desk.currentPiece();
    if (!piece || !desk.hand().corners)
        return;
    Corners4 corners = *desk.hand().corners;
    if (const auto above = piece->artwork.fromAbove())
        for (Point& p : corners)
            p = above->toPicture(p);
    TiltSpec tilt;
    setCorners(tilt, corners);
    tilt.across = across;
    tilt.down = down;
    tilt.bulge = piece->artwork.tilt ? piece->artwork.tilt->bulge : 0;
    tilt.lies = lies;
    if (!FromAbove::of(tilt, piece->artwork.picture.info.width, piece->artwork.picture.info.height))
        return desk.say(Desk::tr("These are not the corners of a rectangle as it is seen from above; put each on its own corner."), Severity::Warning);
    put(desk, Desk::tr("take the tilt out"), *piece, tilt);
    desk.hold(Hold::Nothing);
}

void takeTiltOutByMarks(Desk& desk)
{
    const Piece* piece = desk.currentPiece();
    if (!piece || !desk.shown())
        return;
    const SheetSpec& sheet = desk.job().sheet;
    auto tilt = std::make_shared<TiltSpec>();
    auto seen = std::make_shared<std::pair<int, double>>(); // how many marks, and what they leave, mm
    tilt->across = Length::mm(sheet.width());
    tilt->down = Length::mm(sheet.height());
    tilt->lies = true;
    desk.background().start(
        Desk::tr("Finding the marks"),
        [tilt, seen, picture = piece->artwork.picture, marks = desk.shown()->derived.sheet.marks](const Work& work) -> QString {
            const FoundMarks found = findMarks(*decodePicture(picture, work), marks, work);
            setCorners(*tilt, found.cornersOf(tilt->across.mm(), tilt->down.mm()));
            tilt->bulge = std::clamp(found.lens.bulge, -0.5, 0.5);
            *seen = {int(std::count_if(found.px.begin(), found.px.end(), [](const auto& px) { return px.has_value(); })), found.worst};
            return {};
        },
        [&desk, tilt, seen, of = *piece] {
            if (!put(desk, Desk::tr("take the tilt out by the marks"), of, *tilt))
                return;
            desk.hold(Hold::Nothing);
            desk.say(Desk::tr("Straightened by %n marks; the worst lies %1 off.", nullptr, seen->first).arg(exactText(seen->second, desk.unit())));
        });
}

void leaveTilt(Desk& desk)
{
    desk.editPiece(Desk::tr("put the tilt back"), [](Piece& piece) { setTilt(piece, std::nullopt); });
    desk.hold(Hold::Nothing);
}

void layAsSheet(Job& job, Piece& piece, bool lies)
{
    if (lies == piece.artwork.lies())
        return;
    if (!lies)
        return setTilt(piece, std::nullopt);
    TiltSpec tilt;
    if (piece.artwork.tilt) // taken at an angle: the rectangle is known
        tilt = *piece.artwork.tilt;
    else {
        const ArtworkSpec& a = piece.artwork;
        const Affine back = a.sourceToMm().inverse();
        const double w = a.width(), h = a.height();
        setCorners(tilt, {back({0, 0}), back({w, 0}), back({w, h}), back({0, h})});
        tilt.across = Length::mm(w);
        tilt.down = Length::mm(h);
    }
    tilt.lies = true;
    if (!FromAbove::of(tilt, piece.artwork.picture.info.width, piece.artwork.picture.info.height))
        return; // a mirrored one is no scan of a sheet
    setTilt(piece, tilt);
    layOn(job.sheet, tilt.across, tilt.down);
}

} // namespace yokai::edits
