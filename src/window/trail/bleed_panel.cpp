#include "keep/colour.h"
#include "trail/panels.h"

#include <QLabel>

namespace yokai {

namespace {

// A colour as it is written: #rrggbb. What is none leaves the one there was.
RowSpec<std::string> colourRow(const Scope<BleedSpec>& scope, Rgba BleedSpec::*member)
{
    return by<std::string>(
        [scope, member](Job& job) -> std::optional<std::string> {
            const BleedSpec* spec = scope(job);
            return spec ? std::optional(hexOf(spec->*member)) : std::nullopt;
        },
        [scope, member](Job& job, const std::string& text) {
            if (BleedSpec* spec = scope(job))
                spec->*member = colourFrom(text).value_or(spec->*member);
        });
}

} // namespace

BleedPanel::BleedPanel(Desk& desk, QWidget* parent) : RowPanel(desk, parent)
{
    const Scope<BleedSpec> bleed = [piece = pieceScope()](Job& job) -> BleedSpec* {
        Piece* p = piece(job);
        return p ? &p->bleed() : nullptr;
    };
    const auto spec = [this]() -> const BleedSpec* { return desk_.currentPiece() ? &desk_.currentPiece()->bleed() : nullptr; };
    number(on(bleed, &BleedSpec::distance)
               .id("bleed-distance")
               .label(tr("Bleed"))
               .tip(tr("How far the print runs on past what is kept"))
               .step(0.5)
               .slider(0, 5));
    choice(on(bleed, &BleedSpec::from)
               .id("bleed-from")
               .label(tr("Colours"))
               .tip(tr("Of the nearest edge, the picture mirrored at its edge, or one"))
               .of({{BleedFrom::Edge, tr("Nearest")}, {BleedFrom::Mirror, tr("Mirrored")}, {BleedFrom::Colour, tr("One")}})
               .when([spec] { return spec() && spec()->distance > Length() && spec()->border == Length(); }));
    words(colourRow(bleed, &BleedSpec::colour).id("bleed-colour").label(tr("Colour")).tip(tr("As #c0325a")).when([spec] {
        return spec() && spec()->distance > Length() && spec()->border == Length() && spec()->from == BleedFrom::Colour;
    }));
    number(on(bleed, &BleedSpec::border)
               .id("bleed-border")
               .label(tr("Border"))
               .tip(tr("A rim of one colour round the picture, printed; the bleed goes on in it"))
               .step(0.5)
               .slider(0, 5));
    words(colourRow(bleed, &BleedSpec::borderColour).id("border-colour").label(tr("Border colour")).tip(tr("As #ffffff")).when([spec] {
        return spec() && spec()->border > Length();
    }));
    const Scope<UnderprintSpec> under = [piece = pieceScope()](Job& job) -> UnderprintSpec* {
        Piece* p = piece(job);
        return p ? &p->underprint() : nullptr;
    };
    const auto white = [this] { return desk_.currentPiece() && desk_.currentPiece()->underprint().on; };
    const auto light = [this, white] { return white() && desk_.currentPiece()->underprint().where == UnderprintWhere::Light; };
    tick(on(under, &UnderprintSpec::on).id("underprint").label(tr("Underprint")).tip(tr("A white plate beneath the print, for clear and dark stock")));
    number(on(under, &UnderprintSpec::choke).id("underprint-choke").label(tr("Choke")).tip(tr("How much smaller than the print the white is")).step(0.05).when(white));
    choice(on(under, &UnderprintSpec::where)
               .id("underprint-where")
               .label(tr("Under"))
               .tip(tr("All of the print, or only where it is light"))
               .of({{UnderprintWhere::All, tr("All")}, {UnderprintWhere::Light, tr("Light")}})
               .when(white));
    number(on(under, &UnderprintSpec::lightFrom).id("underprint-from").label(tr("Begins at")).tip(tr("The lightness L* at which there is first white")).step(5, 0).when(light));
    number(on(under, &UnderprintSpec::lightFull).id("underprint-full").label(tr("Full from")).tip(tr("The lightness L* from which it is full")).step(5, 0).when(light));
    makeCutOff();
    figures_ = addNote();
    fold("bleed", tr("Where the colours are taken"));
    number(on(bleed, &BleedSpec::inside)
               .id("bleed-inside")
               .label(tr("Within the edge"))
               .tip(tr("How far within its edge the picture's colour is taken, past a pale rim"))
               .step(0.05)
               .automatic(tr("Past what blending and JPEG leave"))
               .otherwise([]() -> std::optional<Length> { return std::nullopt; })
               .when([spec] { return spec() && spec()->distance > Length() && spec()->border == Length() && spec()->from != BleedFrom::Colour; }));
    endFold();
}

// How a cut is shown that lands off: no part of the job.
void BleedPanel::makeCutOff()
{
    addGroup(tr("Tools"), {holder("bleed", "pick", Hold::PickBleed, tr("Pick a colour"), tr("Press the picture: the bleed, or the border where there is one, takes that colour (P)")),
                                  holder("bleed", "show-cut", Hold::ShowCut, tr("Show it cut"), tr("The piece cut off its print, and the worst of 100 cuts as far off as is to be expected (C)"))});
    const auto field = [this](NumberField::Meaning meaning, const char* id, const QString& text, const QString& tip) {
        auto* made = new NumberField(meaning, this);
        auto* label = new ScrubLabel(text, made, this);
        made->setObjectName(QLatin1String(id));
        made->setAccessibleName(text);
        made->setToolTip(tip);
        addRow(label, nullptr, made);
        const auto shown = [this] { return desk_.hand().hold == Hold::ShowCut; };
        keepShown(made, shown);
        keepShown(label, shown);
        return made;
    };
    offBy_ = field(NumberField::Meaning::Length, "cut-off-by", tr("Off by"), tr("How far off the print the cut lands"));
    offBy_->setRange(0, 20);
    offBy_->setStep(0.1);
    offTowards_ = field(NumberField::Meaning::Number, "cut-off-towards", tr("Towards"), tr("Which way, clockwise from the right"));
    offTowards_->setRange(-360, 360);
    offTowards_->setStep(15);
    offTowards_->setSuffix(QStringLiteral("\u00b0"));
    const auto set = [this] {
        Hand hand = desk_.hand();
        hand.offBy = offBy_->length();
        hand.offTowards = offTowards_->number();
        desk_.setHand(hand);
    };
    connect(offBy_, &NumberField::edited, this, set);
    connect(offTowards_, &NumberField::edited, this, set);
}

void BleedPanel::refreshRest()
{
    offBy_->setUnit(desk_.unit());
    offBy_->setLength(desk_.hand().offBy);
    offTowards_->setNumber(desk_.hand().offTowards);
    const LayerResult* r = desk_.layerResult();
    const bool printed = !r || r->isPrinted;
    setEnabled(printed);
    if (!printed) {
        figures_->setText(tr("Colour layers are cut from coloured stock and not printed, so nothing bleeds."));
        return;
    }
    if (!r || r->lines.empty()) {
        figures_->setText(tr("There is no cut line yet."));
        return;
    }
    // The figures themselves stand in the side list.
    const double expected = desk_.job().check.drift.mm();
    figures_->setText(!std::isfinite(r->drift.paper)      ? tr("The print ends within the cut: a border of bare paper stays round it.")
                      : r->drift.paper < expected         ? tr("A cut as far off as is to be expected would show paper; give it more bleed.")
                      : std::isfinite(r->drift.artwork) && r->drift.artwork < expected
                          ? tr("A cut as far off as is to be expected would run into the picture.")
                          : tr("A cut as far off as is to be expected shows no paper."));
}

} // namespace yokai
