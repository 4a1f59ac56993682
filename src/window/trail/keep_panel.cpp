#include "trail/panels.h"

#include <QLabel>

namespace yokai {

namespace {
QColor q(Rgba c) { return {c.r, c.g, c.b}; }
} // namespace

KeepPanel::KeepPanel(Desk& desk, QWidget* parent) : RowPanel(desk, parent)
{
    makeRule();
    makeParts();
    makeHand();
    makeInside();
    note_ = addNote();
}

const KeepSpec* KeepPanel::keep() const { return desk_.currentLayer() ? &desk_.currentLayer()->keep : nullptr; }

KeepRule KeepPanel::rule() const
{
    const LayerResult* r = desk_.layerResult();
    const KeepRule asked = keep() ? keep()->rule : KeepRule::All;
    return asked == KeepRule::Auto && r && r->coverage ? r->coverage->rule : asked;
}

void KeepPanel::makeRule()
{
    auto* rules = list(on(keepScope(), &KeepSpec::rule)
                           .id("keep-rule")
                           .label(tr("Keep by"))
                           .tip(tr("What tells picture from paper"))
                           .of({{KeepRule::Auto, tr("Chosen by itself")},
                                {KeepRule::Alpha, tr("Transparency")},
                                {KeepRule::Paper, tr("Unlike the paper")},
                                {KeepRule::Colour, tr("Chosen colours")},
                                {KeepRule::Dark, tr("Darker")},
                                {KeepRule::Light, tr("Lighter")},
                                {KeepRule::All, tr("Whole picture")}}));
    // Nothing is kept by no colour: the next press picks one.
    connect(rules, &QComboBox::activated, this, [this] {
        if (keep() && keep()->rule == KeepRule::Colour && keep()->colours.empty() && desk_.hand().hold != Hold::Pick)
            desk_.hold(Hold::Pick);
    });
    const auto edged = [this] { return rule() != KeepRule::All; };
    number(on(keepScope(), &KeepSpec::level)
               .id("keep-level")
               .label(tr("Level"))
               .tip(tr("Where picture begins: opacity in percent, difference from a colour, or lightness"))
               .step(1, 0)
               .slider(0, 100)
               .automatic(tr("The rule's own level"))
               .otherwise([this]() -> std::optional<double> {
                   const LayerResult* r = desk_.layerResult();
                   return r && r->coverage ? std::optional<double>(r->coverage->level) : std::nullopt;
               })
               .when(edged));
    swatches_ = new Swatches(this);
    swatches_->setObjectName("keep-swatches");
    auto* pick = holder("keep", "pick", Hold::Pick, tr("Pick a colour"), tr("Press the picture on the bench to pick one more colour (P)"));
    QWidget* group = addGroup(tr("Colours"), {swatches_, pick}, tr("The paper's colours, or those to keep"));
    connect(swatches_, &Swatches::removed, this, [this](int index) {
        desk_.editLayer(tr("take a colour out"), [&](Layer& l) {
            auto& list = l.keep.rule == KeepRule::Colour ? l.keep.colours : l.keep.papers;
            if (index < int(list.size()))
                list.erase(list.begin() + index);
        });
    });
    const auto byColour = [this] { return rule() == KeepRule::Paper || rule() == KeepRule::Colour; };
    keepShown(group, byColour);
    choice(by<bool>(
               [keep = keepScope()](Job& job) -> std::optional<bool> {
                   const KeepSpec* k = keep(job);
                   return k ? std::optional<bool>(k->rule == KeepRule::Colour ? !k->oneArea : k->paperAnywhere) : std::nullopt;
               },
               [keep = keepScope()](Job& job, const bool& anywhere) {
                   if (KeepSpec* k = keep(job))
                       (k->rule == KeepRule::Colour ? k->oneArea : k->paperAnywhere) = (k->rule == KeepRule::Colour) != anywhere;
               })
               .id("keep-reach")
               .label(tr("Where"))
               .tip(tr("Paper joined to the picture's edge, or everywhere; a colour's one area, or everywhere"))
               .of({{false, tr("Joined")}, {true, tr("Everywhere")}})
               .when(byColour));
}

void KeepPanel::makeParts()
{
    number(on(keepScope(), &KeepSpec::smallestPart)
               .id("keep-smallest")
               .label(tr("Crumbs"))
               .tip(tr("Parts smaller than this are dropped"))
               .step(0.1, 1)
               .within(0, 1e6)
               .slider(0, 20)
               .area());
    choice(on(keepScope(), &KeepSpec::openings)
               .id("keep-openings")
               .label(tr("Openings"))
               .tip(tr("All openings stay, only those over an area, or none"))
               .of({{Openings::Keep, tr("Stay")}, {Openings::Over, tr("Over")}, {Openings::Fill, tr("Close")}}));
    number(on(keepScope(), &KeepSpec::openingsOver)
               .id("keep-openings-over")
               .label(tr("Openings over"))
               .tip(tr("Smaller openings close"))
               .step(0.5, 1)
               .within(0, 1e6)
               .area()
               .when([this] { return keep() && keep()->openings == Openings::Over; }));
}

void KeepPanel::makeHand()
{
    auto* out = holder("keep", "rub-out", Hold::RubOut, tr("Rub out"), tr("Brush away what is not wanted (R)"));
    auto* back = holder("keep", "bring-back", Hold::BringBack, tr("Bring back"), tr("Brush back what was lost (A)"));
    auto* like = holder("keep", "rub-out-like", Hold::RubOutLike, tr("Rub out an area"), tr("Press an area of like colour to rub it out (L)"));
    addGroup(tr("By hand"), {out, back, like}, tr("Every touch is listed and can be taken back"));
    // What is in hand is no part of the job.
    const auto set = [this](auto change) {
        Hand hand = desk_.hand();
        change(hand);
        desk_.setHand(hand);
    };
    const auto field = [this](NumberField::Meaning meaning, const char* id, const QString& text, const QString& tip, auto when) {
        auto* f = new NumberField(meaning, this);
        auto* label = new ScrubLabel(text, f, this);
        f->setObjectName(QLatin1String(id));
        f->setAccessibleName(text);
        f->setToolTip(tip);
        addRow(label, nullptr, f);
        keepShown(f, when);
        keepShown(label, when);
        return f;
    };
    const auto brushing = [this] { return desk_.hand().hold == Hold::RubOut || desk_.hand().hold == Hold::BringBack; };
    brush_ = field(NumberField::Meaning::Length, "keep-brush", tr("Brush"), tr("How wide the brush is; [ and ] step it"), brushing);
    brush_->setRange(0.05, 500);
    brush_->setStep(0.5);
    tip_ = new Segmented({tr("Round"), tr("Square")}, this);
    tip_->setObjectName("keep-tip");
    tip_->setAccessibleName(tr("Tip"));
    auto* tipLabel = new QLabel(tr("Tip"), this);
    addRow(tipLabel, tip_, nullptr);
    keepShown(tip_, brushing);
    keepShown(tipLabel, brushing);
    likeness_ = field(NumberField::Meaning::Number, "keep-likeness", tr("Likeness"), tr("How unlike the pressed colour the area may become (CIEDE2000)"),
                      [this] { return desk_.hand().hold == Hold::RubOutLike; });
    likeness_->setRange(0.5, 100);
    likeness_->setStep(1);
    likeness_->setDecimals(0);
    connect(brush_, &NumberField::edited, this, [this, set] { set([&](Hand& h) { h.brush = brush_->length(); }); });
    connect(likeness_, &NumberField::edited, this, [this, set] { set([&](Hand& h) { h.tolerance = likeness_->number(); }); });
    connect(tip_, &Segmented::chosen, this, [set](int index) { set([&](Hand& h) { h.square = index == 1; }); });
}

void KeepPanel::makeInside()
{
    fold("keep", tr("Smoothing, only inside"));
    number(on(keepScope(), &KeepSpec::smoothing)
               .id("keep-smoothing")
               .label(tr("Smoothing"))
               .tip(tr("Evens out stairs, JPEG hair and scan noise on the edge"))
               .step(0.02)
               .within(0, 10)
               .automatic(tr("As much as the picture needs"))
               .otherwise([this]() -> std::optional<Length> {
                   const LayerResult* r = desk_.layerResult();
                   return r && r->coverage ? std::optional<Length>(Length::mm(r->coverage->smoothing / desk_.currentResult()->pxPerMm)) : std::nullopt;
               })
               .when([this] { return rule() != KeepRule::All; }));
    auto* box = holder("keep", "inside-box", Hold::InsideBox, tr("Box"), tr("Drag a box: only inside it is anything kept"));
    auto* lasso = holder("keep", "inside-lasso", Hold::InsideLasso, tr("Lasso"), tr("Draw round what may be kept; the outline closes by itself"));
    everywhere_ = new IconButton(QStringLiteral("close"), tr("Everywhere"), tr("Take the outlines away"), this);
    everywhere_->setObjectName("keep-everywhere");
    connect(everywhere_, &QAbstractButton::clicked, this, [this] { desk_.editLayer(tr("keep everywhere"), [](Layer& l) { l.keep.onlyInside.clear(); }); });
    keepShown(addGroup(tr("Only inside"), {box, lasso, everywhere_}, tr("Outlines in which the rule works")), {});
    endFold();
}

void KeepPanel::refreshRest()
{
    const KeepSpec* k = keep();
    setEnabled(k != nullptr);
    brush_->setUnit(desk_.unit());
    const Hand& hand = desk_.hand();
    brush_->setLength(hand.brush);
    tip_->setCurrent(hand.square);
    likeness_->setNumber(hand.tolerance);
    if (!k)
        return;
    const LayerResult* r = desk_.layerResult();
    const Coverage* used = r ? r->coverage.get() : nullptr;
    const auto& own = rule() == KeepRule::Colour ? k->colours : k->papers;
    std::vector<QColor> colours;
    for (const Swatch& s : own)
        colours.push_back(q(s.colour));
    if (own.empty() && rule() == KeepRule::Paper && used)
        for (const Rgba c : used->papers)
            colours.push_back(q(c));
    swatches_->setColours(std::move(colours), !own.empty());
    everywhere_->setEnabled(!k->onlyInside.empty());
    QString note;
    if (hand.hold == Hold::Pick)
        note = k->rule == KeepRule::Colour ? tr("Press a colour to keep.") : tr("Press the paper.");
    else if (used && k->rule == KeepRule::Auto)
        note = tr("%1: %2.").arg(used->rule == KeepRule::Alpha   ? tr("By transparency")
                                 : used->rule == KeepRule::Paper ? tr("Unlike the paper")
                                                                 : tr("The whole picture"),
                                 used->why == KeepWhy::Clear         ? tr("its surround is transparent")
                                 : used->why == KeepWhy::ClearWithin ? tr("part of it is transparent")
                                 : used->why == KeepWhy::OneColour   ? tr("its surround is one colour")
                                                                     : tr("it fills its frame"));
    note_->setText(note);
    note_->setVisible(!note.isEmpty());
}

} // namespace yokai
