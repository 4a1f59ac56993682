#include "studio/piece_edits.h"
#include "trail/panels.h"

#include <QCheckBox>

namespace yokai {

ArtworkPanel::ArtworkPanel(Studio& studio, QWidget* parent) : Panel(studio, parent)
{
    width_ = addField(tr("Width"), NumberField::Meaning::Length, tr("How wide the printed picture is; the height follows"));
    height_ = addField(tr("Height"), NumberField::Meaning::Length, tr("How high the printed picture is; the width follows"));
    ratio_ = new QCheckBox(tr("Keep the ratio of the sides"), this);
    ratio_->setChecked(true);
    ratio_->setObjectName("artwork-ratio");
    ratio_->setToolTip(tr("Off: width and height are set apart, and the picture is stretched"));
    addWide(ratio_);
    ppi_ = addField(tr("Resolution"), NumberField::Meaning::Number, tr("Pixels an inch at this size; under 150 prints soft"));
    copies_ = addField(tr("Copies"), NumberField::Meaning::Number, tr("How many go on the sheet"));
    page_ = addField(tr("Page"), NumberField::Meaning::Number, tr("Which page of the file"));

    auto* left = new IconButton(QStringLiteral("turn-left"), tr("Turn left"), tr("A quarter turn to the left"), this);
    auto* right = new IconButton(QStringLiteral("turn-right"), tr("Turn right"), tr("A quarter turn to the right"), this);
    auto* mirror = new IconButton(QStringLiteral("mirror"), tr("Mirror"), tr("Left for right, as heat transfers and clear acrylic need it"), this);
    right->setObjectName("artwork-turn-right");
    mirror->setObjectName("artwork-mirror");
    addGroup(tr("Turn"), {left, right, mirror}, tr("Quarter turns and mirror; nothing is lost"));
    guide_ = new IconButton(QStringLiteral("guide"), tr("Guide"), tr("Draw along an edge that should be level or upright; the picture turns to it"), this);
    guide_->setCheckable(true);
    guide_->setObjectName("artwork-guide");
    straighten_ = new NumberField(NumberField::Meaning::Number, this);
    straighten_->setObjectName("artwork-straighten");
    straighten_->setAccessibleName(tr("Straighten"));
    straighten_->setToolTip(tr("Clockwise, in degrees"));
    addGroup(tr("Straighten"), {guide_, straighten_}, tr("Turns the picture by a little"));
    frame_ = new IconButton(QStringLiteral("frame"), tr("Crop"), tr("Crop by handles on the bench"), this);
    frame_->setCheckable(true);
    frame_->setObjectName("artwork-crop");
    auto* kept = new IconButton(QStringLiteral("frame-kept"), tr("Crop to what is kept"), tr("Crop to what is kept and the margin round it"), this);
    kept->setObjectName("artwork-crop-kept");
    whole_ = new IconButton(QStringLiteral("close"), tr("Whole picture"), tr("Take the crop back"), this);
    whole_->setObjectName("artwork-whole");
    addGroup(tr("Crop"), {frame_, kept, whole_}, tr("The rest stays in the job and can be had back"));
    margin_ = addField(tr("Margin"), NumberField::Meaning::Length, tr("Left round what is kept when cropping to it"));

    width_->setObjectName("artwork-width");
    height_->setObjectName("artwork-height");
    page_->setObjectName("artwork-page");
    for (NumberField* f : {width_, height_}) {
        f->setRange(1, 20'000);
        f->setStep(1);
    }
    ppi_->setRange(1, 100'000);
    ppi_->setStep(10);
    ppi_->setDecimals(0);
    ppi_->setSuffix(QStringLiteral(" ppi"));
    for (NumberField* f : {copies_, page_}) {
        f->setRange(f == copies_ ? 0 : 1, 100'000);
        f->setStep(1);
        f->setDecimals(0);
    }
    straighten_->setRange(-45, 45);
    straighten_->setStep(0.1);
    straighten_->setDecimals(2);
    straighten_->setSuffix(QStringLiteral("\u00b0"));
    margin_->setRange(0, 1000);
    margin_->setStep(0.5);
    margin_->setLength(Length::mm(5));

    bind(width_, tr("change the width"), [this](Piece& p, NumberField* f) { p.artwork.setWidth(f->length(), ratio_->isChecked()); });
    bind(height_, tr("change the height"), [this](Piece& p, NumberField* f) { p.artwork.setHeight(f->length(), ratio_->isChecked()); });
    bind(ppi_, tr("change the resolution"), [](Piece& p, NumberField* f) {
        p.artwork.sizeBy = SizeBy::Ppi;
        p.artwork.ppi = f->number();
    });
    bind(copies_, tr("change the copies"), [](Piece& p, NumberField* f) { p.copies = int(std::lround(f->number())); });
    bind(straighten_, tr("straighten"), [](Piece& p, NumberField* f) { p.artwork.straightenTo(f->number()); });
    connect(page_, &NumberField::edited, this, [this](bool) {
        const int page = int(std::lround(page_->number())) - 1;
        const Piece* piece = studio_.currentPiece();
        if (!piece || page == piece->artwork.picture.info.page)
            return;
        try {
            const Picture other = pageOf(piece->artwork.picture, page);
            studio_.editPiece(tr("choose page %1").arg(page + 1), [&](Piece& p) {
                p.artwork = ArtworkSpec{};
                p.artwork.picture = other;
            });
        } catch (const Error& e) {
            studio_.say(QString::fromUtf8(e.what()), Severity::Error);
            refresh();
        }
    });
    connect(left, &QAbstractButton::clicked, this, [this] { studio_.editPiece(tr("turn left"), [](Piece& p) { p.artwork.turnLeft(); }); });
    connect(right, &QAbstractButton::clicked, this, [this] { studio_.editPiece(tr("turn right"), [](Piece& p) { p.artwork.turnRight(); }); });
    connect(mirror, &QAbstractButton::clicked, this, [this] { studio_.editPiece(tr("mirror"), [](Piece& p) { p.artwork.mirrorAcross(); }); });
    connect(guide_, &QAbstractButton::clicked, this, [this] { studio_.hold(Hold::Guide); });
    connect(frame_, &QAbstractButton::clicked, this, [this] { studio_.hold(Hold::Frame); });
    connect(kept, &QAbstractButton::clicked, this, [this] { edits::cropToKept(studio_, margin_->length()); });
    connect(whole_, &QAbstractButton::clicked, this, [this] { studio_.editPiece(tr("take the crop back"), [](Piece& p) { p.artwork.crop.reset(); }); });
    note_ = addNote();
}

void ArtworkPanel::refresh()
{
    const Piece* piece = studio_.currentPiece();
    setEnabled(piece != nullptr);
    for (NumberField* f : {width_, height_, margin_})
        f->setUnit(studio_.unit());
    if (!piece)
        return;
    const ArtworkSpec& a = piece->artwork;
    guide_->setChecked(studio_.hand().hold == Hold::Guide);
    frame_->setChecked(studio_.hand().hold == Hold::Frame);
    whole_->setEnabled(a.crop.has_value());
    straighten_->setNumber(a.straighten);
    copies_->setNumber(piece->copies.value_or(0));
    const PictureInfo& info = a.picture.info;
    showRow(page_, info.pages > 1);
    page_->setRange(1, info.pages);
    page_->setNumber(info.page + 1);
    page_->setSuffix(tr(" of %1").arg(info.pages));
    try {
        // A typed side is shown as typed, exactly; the other follows.
        const Rect f = a.frame();
        const auto shown = [&](Length typed, double px, double mm, double now) { return px == now || px == 0 ? typed : Length::mm(mm); };
        const bool both = a.sizeBy == SizeBy::Both;
        width_->setLength(a.sizeBy == SizeBy::Width || both ? shown(a.side, a.sidePx, a.width(), f.width()) : Length::mm(a.width()));
        height_->setLength(a.sizeBy == SizeBy::Height ? shown(a.side, a.sidePx, a.height(), f.height())
                           : both                     ? shown(a.down, a.downPx, a.height(), f.height())
                                                      : Length::mm(a.height()));
        ppi_->setNumber(a.pxPerMm() * 25.4);
    } catch (const Error&) {
        // The findings say what is wrong with the size.
    }
    const QString from =
        info.ppiFrom == PpiSource::File ? tr("the file says %1 ppi").arg(info.ppi, 0, 'f', 0) : tr("the file says no resolution; 300 ppi assumed");
    note_->setText(studio_.hand().hold == Hold::Guide   ? tr("Draw along an edge that should be level or upright.")
                   : studio_.hand().hold == Hold::Frame ? tr("Drag the frame's handles; Esc or the button ends it.")
                                                        : tr("%1 \u00d7 %2 px, %3").arg(info.width).arg(info.height).arg(from));
}

} // namespace yokai
