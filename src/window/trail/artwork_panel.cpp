#include "artwork/svg_size.h"
#include "desk/piece_edits.h"
#include "desk/recipes.h"
#include "desk/tilt_edits.h"
#include "formats/cut_file.h"
#include "trail/panels.h"
#include "trail/units.h"
#include "trail/shelf.h"
#include "words.h"

#include <QCheckBox>
#include <QLabel>
#include <QPushButton>
#include <QSignalBlocker>

namespace yokai {

namespace {

// A typed side is shown as typed, exactly; the other follows.
std::optional<Length> sideOf(const ArtworkSpec& a, bool across)
{
    const Rect f = a.frame();
    const double now = across ? f.width() : f.height();
    const bool both = a.sizeBy == SizeBy::Both;
    const bool typed = both || a.sizeBy == (across ? SizeBy::Width : SizeBy::Height);
    const double px = both && !across ? a.downPx : a.sidePx;
    if (typed && (px == now || px == 0))
        return both && !across ? a.down : a.side;
    return Length::mm(across ? a.width() : a.height());
}

} // namespace

ArtworkPanel::ArtworkPanel(Desk& desk, QWidget* parent) : RowPanel(desk, parent)
{
    makeSize();
    makeTurns();
    makeTilt();
    makeCrop();
    note_ = addNote();
    makeRecipe();
}

void ArtworkPanel::makeSize()
{
    const auto artwork = [piece = pieceScope()](Job& job) { return piece(job) ? &piece(job)->artwork : nullptr; };
    const auto side = [artwork](bool across) {
        return by<Length>(
            [artwork, across](Job& job) -> std::optional<Length> {
                try {
                    return artwork(job) ? sideOf(*artwork(job), across) : std::nullopt;
                } catch (const Error&) {
                    return std::nullopt; // the findings say what is wrong with the size
                }
            },
            [artwork, across](Job& job, const Length& to) {
                if (ArtworkSpec* a = artwork(job)) {
                    const bool ratio = a->sizeBy != SizeBy::Both;
                    across ? a->setWidth(to, ratio) : a->setHeight(to, ratio);
                }
            });
    };
    // What lies on the sheet is as large as it lies there, and there is one of it.
    const auto sized = [this] { return !desk_.currentPiece() || !desk_.currentPiece()->artwork.lies(); };
    number(side(true).id("artwork-width").label(tr("Width")).tip(tr("How wide the printed picture is")).step(1).within(1, 20'000).when(sized));
    number(side(false).id("artwork-height").label(tr("Height")).tip(tr("How high the printed picture is")).step(1).within(1, 20'000).when(sized));
    tick(by<bool>([artwork](Job& job) -> std::optional<bool> { return artwork(job) && artwork(job)->sizeBy != SizeBy::Both; },
                  [artwork](Job& job, const bool& ratio) {
                      if (ArtworkSpec* a = artwork(job)) {
                          const Length width = Length::mm(a->width());
                          if (ratio)
                              a->sizeBy = SizeBy::File; // no longer apart; the width decides
                          a->setWidth(width, ratio);
                      }
                  })
             .id("artwork-ratio")
             .label(tr("Keep the ratio of the sides"))
             .tip(tr("Off: width and height are set apart, and the picture is stretched"))
             .when(sized));
    units_ = new ChoiceBox(this);
    units_->setObjectName("artwork-units");
    units_->setAccessibleName(tr("Its unit"));
    units_->setToolTip(tr("The drawing says no size: how many of its units are an inch, and how large that makes it"));
    addWide(units_);
    const auto unsized = [this] { return desk_.currentPiece() && !desk_.currentPiece()->artwork.picture.info.sized; };
    keepShown(units_, unsized);
    connect(units_, &ChoiceBox::activated, this, [this](int index) {
        const double units = units_->itemData(index).toDouble();
        desk_.editPiece(tr("choose the drawing's unit"), [units](Piece& p) {
            p.artwork.sizeBy = SizeBy::Ppi;
            p.artwork.ppi = p.artwork.picture.info.ppi * units / cssUnitsAnInch;
        });
    });
    number(on(pieceScope(), &Piece::copies)
               .id("artwork-copies")
               .label(tr("Copies"))
               .tip(tr("How many go on the sheet"))
               .within(0, 100'000)
               .when(sized)
               .automatic(tr("As many as fit"))
               .otherwise([this]() -> std::optional<int> {
                   const PieceResult* r = desk_.currentResult();
                   return r ? std::optional<int>(desk_.shown()->derived.sheet.placed[std::size_t(r - desk_.shown()->derived.pieces.data())]) : std::nullopt;
               }));
}

void ArtworkPanel::makeTurns()
{
    auto* left = new IconButton(QStringLiteral("turn-left"), tr("Turn left"), tr("A quarter turn to the left"), this);
    auto* right = new IconButton(QStringLiteral("turn-right"), tr("Turn right"), tr("A quarter turn to the right"), this);
    auto* mirror = new IconButton(QStringLiteral("mirror"), tr("Mirror"), tr("Left for right, as heat transfers and clear acrylic need it"), this);
    left->setObjectName("artwork-turn-left");
    right->setObjectName("artwork-turn-right");
    mirror->setObjectName("artwork-mirror");
    tilt_ = new IconButton(QStringLiteral("tilt"), tr("Take out tilt"), tr("By the four corners of something whose sides you know, in a picture taken at an angle (Q)"), this);
    tilt_->setCheckable(true);
    tilt_->setObjectName("artwork-tilt");
    connect(tilt_, &QAbstractButton::clicked, this, [this] { edits::holdCorners(desk_); });
    addGroup(tr("Turn"), {left, right, mirror, tilt_}, tr("Quarter turns and mirror; nothing is lost"));
    connect(left, &QAbstractButton::clicked, this, [this] { desk_.editPiece(tr("turn left"), [](Piece& p) { p.artwork.turnLeft(); }); });
    connect(right, &QAbstractButton::clicked, this, [this] { desk_.editPiece(tr("turn right"), [](Piece& p) { p.artwork.turnRight(); }); });
    connect(mirror, &QAbstractButton::clicked, this, [this] { desk_.editPiece(tr("mirror"), [](Piece& p) { p.artwork.mirrorAcross(); }); });
    number(by<double>([piece = pieceScope()](Job& job) { return piece(job) ? std::optional<double>(piece(job)->artwork.straighten) : std::nullopt; },
                      [piece = pieceScope()](Job& job, const double& degrees) {
                          if (Piece* p = piece(job))
                              p->artwork.straightenTo(degrees);
                      })
               .id("artwork-straighten")
               .label(tr("Straighten"))
               .tip(tr("Turns the picture by a little: clockwise, in degrees"))
               .within(-45, 45)
               .step(0.1)
               .suffix(QStringLiteral("\u00b0")));
    guide_ = new IconButton(QStringLiteral("guide"), tr("Guide"), tr("Draw along an edge that should be level or upright; the picture turns to it (G)"), this);
    guide_->setCheckable(true);
    guide_->setObjectName("artwork-guide");
    connect(guide_, &QAbstractButton::clicked, this, [this] { desk_.hold(Hold::Guide); });
    measure_ = holder("artwork", "measure", Hold::Measure, tr("Measure"), tr("Draw along something whose length you know, then type it: the picture is sized by it (M)"));
    length_ = new NumberField(NumberField::Meaning::Length, this);
    auto* label = new ScrubLabel(tr("It is"), length_, this);
    length_->setObjectName("artwork-measured");
    length_->setAccessibleName(tr("It is"));
    length_->setToolTip(tr("How long what was measured truly is"));
    length_->setRange(0.01, 100'000);
    length_->setStep(1);
    addRow(label, nullptr, length_);
    const auto measured = [this] { return edits::measuredLength(desk_).has_value(); };
    keepShown(length_, measured);
    keepShown(label, measured);
    connect(length_, &NumberField::edited, this, [this] { edits::measuredIs(desk_, length_->length()); });
}

// While the corners of a known rectangle are in hand.
void ArtworkPanel::makeTilt()
{
    const auto held = [this] { return desk_.hand().hold == Hold::Tilt; };
    const auto side = [&](const char* id, const QString& text, const QString& tip) {
        auto* field = new NumberField(NumberField::Meaning::Length, this);
        auto* label = new ScrubLabel(text, field, this);
        field->setObjectName(QLatin1String(id));
        field->setAccessibleName(text);
        field->setToolTip(tip);
        field->setRange(1, 20'000);
        field->setStep(1);
        addRow(label, nullptr, field);
        keepShown(field, held);
        keepShown(label, held);
        return field;
    };
    across_ = side("artwork-tilt-across", tr("Known width"), tr("How long the rectangle's top and bottom truly are"));
    down_ = side("artwork-tilt-down", tr("Known height"), tr("How long its two sides truly are"));
    const Scope<Piece> piece = pieceScope();
    tick(by<bool>(
             [piece](Job& job) -> std::optional<bool> {
                 const Piece* p = piece(job);
                 return p ? std::optional(p->artwork.lies()) : std::nullopt;
             },
             [piece](Job& job, const bool& lies) {
                 if (Piece* p = piece(job))
                     edits::layAsSheet(job, *p, lies);
             })
             .id("artwork-is-sheet")
             .label(tr("The scan is the sheet"))
             .tip(tr("What is seen lies on the sheet or mat already: it is cut where it lies, and is not printed")));
    lies_ = new QCheckBox(tr("It is the sheet"), this);
    lies_->setObjectName("artwork-lies");
    lies_->setToolTip(tr("The sheet or mat itself: what is seen lies on it already, is cut where it lies, and is not printed"));
    addWide(lies_);
    keepShown(lies_, held);
    const auto press = [&](const char* id, const QString& text, const QString& tip, std::function<void()> run, std::function<bool()> shown) {
        auto* button = new QPushButton(text, this);
        button->setObjectName(QLatin1String(id));
        button->setToolTip(tip);
        addWide(button);
        keepShown(button, std::move(shown));
        connect(button, &QPushButton::clicked, this, std::move(run));
        return button;
    };
    press("artwork-tilt-take", tr("Take the tilt out"), tr("The picture as it is seen from right above, at its true size"),
          [this] { edits::takeTiltOut(desk_, across_->length(), down_->length(), lies_->isChecked()); }, held)
        ->setProperty("kind", "primary");
    press("artwork-tilt-marks", tr("By the sheet's marks"), tr("The picture shows the sheet of this job with its marks: they say how it lies, and what lies on it is cut there"),
          [this] { edits::takeTiltOutByMarks(desk_); }, held);
    press("artwork-tilt-leave", tr("As it came"), tr("Puts the tilt back; work by hand stays on its place"), [this] { edits::leaveTilt(desk_); },
          [this, held] { return held() && desk_.currentPiece() && desk_.currentPiece()->artwork.tilt; });
}

// Over 60 lines: its rows, one after another.
void ArtworkPanel::makeCrop()
{
    frame_ = new IconButton(QStringLiteral("frame"), tr("Crop"), tr("Crop by handles on the bench (C)"), this);
    frame_->setCheckable(true);
    frame_->setObjectName("artwork-crop");
    auto* kept = new IconButton(QStringLiteral("frame-kept"), tr("Crop to what is kept"), tr("Crop to what is kept and the margin round it"), this);
    kept->setObjectName("artwork-crop-kept");
    whole_ = new IconButton(QStringLiteral("close"), tr("Whole picture"), tr("Take the crop back"), this);
    whole_->setObjectName("artwork-whole");
    addGroup(tr("Tools"), {measure_, guide_, frame_, kept, whole_}, tr("The rest stays in the job and can be had back"));
    const auto apart = [this](const char* icon, const QString& name, const QString& tip, Straighten straighten) {
        auto* button = new IconButton(QLatin1String(icon), name, tip, this);
        button->setObjectName(QStringLiteral("artwork-") + QLatin1String(icon));
        connect(button, &QAbstractButton::clicked, this, [this, straighten] { edits::takeApart(desk_, straighten, margin_->length()); });
        return button;
    };
    auto* pieces = apart("apart", tr("A piece for each"), tr("Each thing in the picture becomes a piece of its own"), Straighten::Nothing);
    auto* level = apart("apart-level", tr("A straightened piece for each"), tr("Each becomes a piece, turned until its longest straight edge is level or upright"), Straighten::EachThing);
    keepShown(addGroup(tr("Things"), {pieces, level}, tr("Several in one picture, as in a scan; the crop margin is left round each")), [this] { return edits::things(desk_) > 1; });
    connect(frame_, &QAbstractButton::clicked, this, [this] { desk_.hold(Hold::Frame); });
    connect(whole_, &QAbstractButton::clicked, this, [this] { desk_.editPiece(tr("take the crop back"), [](Piece& p) { p.artwork.crop.reset(); }); });

    fold("artwork", tr("Resolution, page, crop margin"));
    const auto artwork = [piece = pieceScope()](Job& job) { return piece(job) ? &piece(job)->artwork : nullptr; };
    number(by<double>(
               [artwork](Job& job) -> std::optional<double> {
                   try {
                       return artwork(job) ? std::optional<double>(artwork(job)->pxPerMm() * 25.4) : std::nullopt;
                   } catch (const Error&) {
                       return std::nullopt;
                   }
               },
               [artwork](Job& job, const double& ppi) {
                   if (ArtworkSpec* a = artwork(job)) {
                       a->sizeBy = SizeBy::Ppi;
                       a->ppi = ppi;
                   }
               })
               .id("artwork-ppi")
               .label(tr("Resolution"))
               .tip(tr("Pixels an inch at this size; under 150 prints soft"))
               .within(1, 100'000)
               .step(10, 0)
               .suffix(QStringLiteral(" ppi"))
               .when([this] { return !desk_.currentPiece() || !desk_.currentPiece()->artwork.lies(); }));
    const auto pages = [this] { return desk_.currentPiece() ? desk_.currentPiece()->artwork.picture.info.pages : 1; };
    number(by<int>([artwork](Job& job) { return artwork(job) ? std::optional<int>(artwork(job)->picture.info.page + 1) : std::nullopt; },
                   [artwork](Job& job, const int& page) {
                       ArtworkSpec* a = artwork(job);
                       if (!a || page - 1 == a->picture.info.page || page > a->picture.info.pages)
                           return;
                       const Picture other = pageOf(a->picture, page - 1);
                       *a = ArtworkSpec{};
                       a->picture = other;
                   })
               .id("artwork-page")
               .label(tr("Page"))
               .tip(tr("Which page of the file"))
               .within(1, 10'000)
               .when([pages] { return pages() > 1; }));
    margin_ = new NumberField(NumberField::Meaning::Length, this);
    auto* label = new ScrubLabel(tr("Crop margin"), margin_, this);
    margin_->setObjectName("artwork-margin");
    margin_->setAccessibleName(tr("Crop margin"));
    margin_->setToolTip(tr("Left round what is kept when cropping to it"));
    margin_->setRange(0, 1000);
    margin_->setStep(0.5);
    margin_->setLength(5_mm);
    addRow(label, nullptr, margin_);
    keepShown(margin_, {});
    keepShown(label, {});
    endFold();
    connect(kept, &QAbstractButton::clicked, this, [this] { edits::cropToKept(desk_, margin_->length()); });
}

// All settings of a piece under a name, for the next pictures.
void ArtworkPanel::makeRecipe()
{
    fold("recipe", tr("Recipes"));
    Shelf::Of of{QStringLiteral("recipe"), tr("Recipes: all settings of a piece"), recipes::names, [this](const QString&) { putRecipe(false); }, {}, recipes::remove};
    of.keep = [this](const QString& name) {
        try {
            if (const Piece* piece = desk_.currentPiece())
                recipes::keep(recipeOf(*piece, name.toStdString()));
            desk_.say(tr("Kept the recipe '%1'.").arg(name));
        } catch (const Error& e) {
            desk_.say(yokai::words(e), Severity::Error);
        }
    };
    recipes_ = new Shelf(std::move(of), this);
    addWide(recipes_);
    keepShown(recipes_, {});
    const auto ticked = [this](const char* id, const QString& text, const QString& tip) {
        auto* tick = new QCheckBox(text, this);
        tick->setObjectName(QLatin1String(id));
        tick->setToolTip(tip);
        addWide(tick);
        keepShown(tick, {});
        return tick;
    };
    handStays_ = ticked("recipe-hand-stays", tr("Work by hand stays"), tr("Strokes, chosen parts, edits of lines and the crop of the picture it is put on"));
    handStays_->setChecked(true);
    onNew_ = ticked("recipe-on-new", tr("Put it on each new picture"), tr("The chosen recipe is what new pictures start with"));
    onAll_ = new QPushButton(tr("Use on every piece"), this);
    onAll_->setObjectName("recipe-all");
    addWide(onAll_);
    keepShown(onAll_, {});
    endFold();
    connect(onAll_, &QPushButton::clicked, this, [this] { putRecipe(true); });
    connect(onNew_, &QCheckBox::clicked, this, [this](bool on) { recipes::setForNew(on ? recipes_->chosen() : QString()); });
    connect(recipes_, &Shelf::changed, this, &ArtworkPanel::refreshRecipes);
    refreshRecipes();
}

void ArtworkPanel::putRecipe(bool onAll)
{
    const auto recipe = recipes::named(recipes_->chosen());
    if (!recipe || !desk_.currentPiece()) {
        desk_.say(tr("The recipe cannot be read any more; keep it again."), Severity::Error);
        return;
    }
    const HandWork work = handStays_->isChecked() ? HandWork::Stays : HandWork::Goes;
    const PieceId current = desk_.currentPiece()->id;
    desk_.edit(tr("recipe %1").arg(recipes_->chosen()), [&](Job& job) {
        for (Piece& piece : job.pieces)
            if (onAll || piece.id == current)
                yokai::apply(*recipe, piece, work);
    });
}

void ArtworkPanel::refreshRecipes()
{
    const QString name = recipes_->chosen();
    onAll_->setEnabled(!name.isEmpty());
    onNew_->setEnabled(!name.isEmpty());
    onNew_->setChecked(!name.isEmpty() && recipes::forNew() == name);
}

// Each with the size it makes; none chosen while the size is another.
void ArtworkPanel::refreshUnits(const ArtworkSpec& artwork)
{
    if (artwork.picture.info.sized)
        return units_->clear();
    const Rect f = artwork.frame();
    const double now = (artwork.sizeBy == SizeBy::File ? artwork.picture.info.ppi : artwork.sizeBy == SizeBy::Ppi ? artwork.ppi : 0) / artwork.picture.info.ppi * cssUnitsAnInch;
    listUnits(*units_, unitsBeside(cssUnitsAnInch), now, [&](double units) {
        const double mm = 25.4 / (artwork.picture.info.ppi * units / cssUnitsAnInch);
        return sizeText(f.width() * mm, f.height() * mm, desk_.unit());
    });
}

void ArtworkPanel::refreshRest()
{
    const Piece* piece = desk_.currentPiece();
    setEnabled(piece != nullptr);
    margin_->setUnit(desk_.unit());
    guide_->setChecked(desk_.hand().hold == Hold::Guide);
    tilt_->setChecked(desk_.hand().hold == Hold::Tilt);
    across_->setUnit(desk_.unit());
    down_->setUnit(desk_.unit());
    if (const bool tilts = desk_.hand().hold == Hold::Tilt; std::exchange(tilts_, tilts) != tilts && tilts) {
        const auto sides = edits::knownSides(desk_);
        across_->setLength(sides[0]);
        down_->setLength(sides[1]);
        lies_->setChecked(piece && piece->artwork.lies());
    }
    length_->setUnit(desk_.unit());
    if (const auto length = edits::measuredLength(desk_))
        length_->setLength(Length::mm(*length));
    frame_->setChecked(desk_.hand().hold == Hold::Frame);
    if (!piece)
        return;
    whole_->setEnabled(piece->artwork.crop.has_value());
    const PictureInfo& info = piece->artwork.picture.info;
    refreshUnits(piece->artwork);
    const QString from =
        info.ppiFrom == PpiSource::File ? tr("the file says %1 ppi").arg(yokai::number(info.ppi, 0)) : tr("the file says no resolution; 300 ppi assumed");
    note_->setText(desk_.hand().hold == Hold::Guide   ? tr("Draw along an edge that should be level or upright.")
                   : desk_.hand().hold == Hold::Measure ? tr("Draw along something whose length you know, then type it.")
                   : desk_.hand().hold == Hold::Tilt ? tr("Drag the four corners onto those of something whose sides you know.")
                   : piece->artwork.lies() ? tr("It lies on the sheet: cut there, and not printed.")
                   : desk_.hand().hold == Hold::Frame ? tr("Drag the frame's handles; Esc or the button ends it.")
                   : !info.sized ? tr("A drawing that says no size, drawn at %1 \u00d7 %2 px").arg(info.width).arg(info.height)
                                                      : tr("%1 \u00d7 %2 px, %3").arg(info.width).arg(info.height).arg(from));
}

} // namespace yokai
