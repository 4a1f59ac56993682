#include "desk/layer_edits.h"
#include "desk/pictures.h"
#include "job/colour_layers.h"
#include "keep/colour.h"
#include "trail/panels.h"

#include <QLabel>
#include <QPushButton>

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

// Over 60 lines: its rows, one after another.
BleedPanel::BleedPanel(Desk& desk, QWidget* parent) : RowPanel(desk, parent)
{
    makeEngraving();
    const Scope<BleedSpec> bleed = [layer = layerScope()](Job& job) -> BleedSpec* {
        Layer* l = layer(job);
        return l ? &l->bleed : nullptr;
    };
    const auto printed = [this] { return desk_.currentLayer() && !desk_.currentLayer()->engrave; };
    const auto spec = [this, printed]() -> const BleedSpec* { return printed() ? &desk_.currentLayer()->bleed : nullptr; };
    number(on(bleed, &BleedSpec::distance)
               .id("bleed-distance")
               .label(tr("Bleed"))
               .tip(tr("How far the print runs on past what is kept"))
               .step(0.5)
               .slider(0, 5)
               .when(printed));
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
               .slider(0, 5)
               .when(printed));
    words(colourRow(bleed, &BleedSpec::borderColour).id("border-colour").label(tr("Border colour")).tip(tr("As #ffffff")).when([spec] {
        return spec() && spec()->border > Length();
    }));
    const Scope<UnderprintSpec> under = [layer = layerScope()](Job& job) -> UnderprintSpec* {
        Layer* l = layer(job);
        return l ? &l->underprint : nullptr;
    };
    const auto white = [this, printed] { return printed() && desk_.currentLayer()->underprint.on; };
    const auto light = [this, white] { return white() && desk_.currentLayer()->underprint.where == UnderprintWhere::Light; };
    tick(on(under, &UnderprintSpec::on).id("underprint").label(tr("Underprint")).tip(tr("A white plate beneath the print, for clear and dark stock")).when(printed));
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

// Engraved instead of printed, and how. Over 60 lines: its rows, one after another.
void BleedPanel::makeEngraving()
{
    const Scope<EngraveSpec> engrave = [layer = layerScope()](Job& job) -> EngraveSpec* {
        Layer* l = layer(job);
        return l && l->engrave ? &*l->engrave : nullptr;
    };
    const auto on_ = [this] { return desk_.currentLayer() && desk_.currentLayer()->engrave; };
    const auto as = [this, on_](EngraveAs wanted) { return on_() && desk_.currentLayer()->engrave->as == wanted; };
    choice(by<bool>([layer = layerScope()](Job& job) -> std::optional<bool> { return layer(job) ? std::optional<bool>(layer(job)->engrave.has_value()) : std::nullopt; },
                    [layer = layerScope()](Job& job, const bool& engraved) {
                        if (Layer* l = layer(job))
                            l->engrave = engraved ? std::optional(l->engrave.value_or(EngraveSpec{})) : std::nullopt;
                    })
               .id("picture-is")
               .label(tr("Picture"))
               .tip(tr("Printed, with a bleed; or engraved by a laser before the lines are cut"))
               .of({{false, tr("Printed")}, {true, tr("Engraved")}}));
    list(on(engrave, &EngraveSpec::as)
             .id("engrave-as")
             .label(tr("As"))
             .tip(tr("All that is kept alike, or its greys: by a level, as dots, or by the beam's power"))
             .of({{EngraveAs::Fill, tr("Solid fill")},
                  {EngraveAs::Threshold, tr("Dark or not")},
                  {EngraveAs::Dither, tr("Dots in order")},
                  {EngraveAs::Diffuse, tr("Dots strewn")},
                  {EngraveAs::Grey, tr("Power by grey")}})
             .when(on_));
    number(on(engrave, &EngraveSpec::interval)
               .id("engrave-interval")
               .label(tr("Interval"))
               .tip(tr("From one line to the next"))
               .step(0.01)
               .automatic(tr("The material's"))
               .otherwise([this]() -> std::optional<Length> { return Length::mm(lookOf(desk_.job().cut.plan).interval); })
               .when(on_));
    number(on(engrave, &EngraveSpec::level)
               .id("engrave-level")
               .label(tr("Level"))
               .tip(tr("What is darker than this lightness is burnt"))
               .step(1, 0)
               .suffix(QStringLiteral(" %"))
               .slider(0, 100)
               .when([as] { return as(EngraveAs::Threshold); }));
    number(on(engrave, &EngraveSpec::curve)
               .id("engrave-curve")
               .label(tr("Curve"))
               .tip(tr("The grey's exponent: above 1 the middle greys are burnt less"))
               .step(0.1)
               .slider(0.3, 3)
               .when([as] { return as(EngraveAs::Dither) || as(EngraveAs::Diffuse) || as(EngraveAs::Grey); }));
    number(on(engrave, &EngraveSpec::leastPower)
               .id("engrave-least-power")
               .label(tr("Least power"))
               .tip(tr("Of the lightest grey that is burnt, in percent of the material's power"))
               .step(1, 0)
               .suffix(QStringLiteral(" %"))
               .slider(0, 100)
               .when([as] { return as(EngraveAs::Grey); }));
    tick(on(engrave, &EngraveSpec::reverse).id("engrave-reverse").label(tr("Reversed")).tip(tr("All inside the through line but the picture")).when(on_));
    auto* beside = new QPushButton(tr("Plain and reversed"), this);
    beside->setObjectName("engrave-beside");
    beside->setToolTip(tr("Adds a piece that is the same but reversed, or plain where this one is reversed, to lie beside it"));
    addWide(beside);
    keepShown(beside, on_);
    connect(beside, &QPushButton::clicked, this, [this] { edits::reversedBeside(desk_); });
    number(on(engrave, &EngraveSpec::border)
               .id("engrave-border")
               .label(tr("Border line"))
               .tip(tr("How wide the edge of what is kept is burnt wholly, inwards; 0 for none"))
               .step(0.1)
               .when([this, as, on_] { return on_() && !as(EngraveAs::Fill) && !desk_.currentLayer()->engrave->reverse; }));
    fold("engrave", tr("Angle, overscan, one way"));
    number(on(engrave, &EngraveSpec::angle)
               .id("engrave-angle")
               .label(tr("Angle"))
               .tip(tr("Of the lines, counter-clockwise"))
               .step(15, 1)
               .suffix(QStringLiteral("\u00b0"))
               .when(on_));
    number(on(engrave, &EngraveSpec::overscan)
               .id("engrave-overscan")
               .label(tr("Overscan"))
               .tip(tr("Past a line's ends without power, so that all of it burns at one speed"))
               .step(0.5)
               .when(on_));
    tick(on(engrave, &EngraveSpec::oneWay).id("engrave-one-way").label(tr("One way only")).tip(tr("Every line from the same end: slower, and even at both ends")).when(on_));
    endFold();
}

// How a cut is shown that lands off: no part of the job.
void BleedPanel::makeCutOff()
{
    keepShown(addGroup(tr("Tools"), {holder("bleed", "pick", Hold::PickBleed, tr("Pick a colour"), tr("Press the picture: the bleed, or the border where there is one, takes that colour (P)")),
                                  holder("bleed", "show-cut", Hold::ShowCut, tr("Show it cut"), tr("The piece cut off its print, and the worst of 100 cuts as far off as is to be expected (C)"))}),
              [this] { return desk_.currentLayer() && !desk_.currentLayer()->engrave; });
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
    const bool layered = desk_.currentPiece() && isLayered(*desk_.currentPiece());
    setEnabled(!layered);
    if (layered) {
        figures_->setText(tr("Colour layers are cut from coloured stock and not printed, so nothing bleeds."));
        return;
    }
    if (desk_.currentLayer() && desk_.currentLayer()->engrave) {
        const Machine* machine = desk_.job().cut.plan.machine ? &*desk_.job().cut.plan.machine : nullptr;
        figures_->setText(machine && machine->kind != MachineKind::Laser ? tr("%1 is no laser; choose one at Cut before this is engraved.").arg(QString::fromStdString(machine->name))
                                                                         : tr("Shown as it will look on the material that is chosen at Cut."));
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
