#include "trail/panels.h"

#include "desk/layer_edits.h"
#include "job/colour_layers.h"
#include "trail/layer_rows.h"

#include <QLabel>

namespace yokai {

namespace {
QColor q(Rgba c) { return {c.r, c.g, c.b}; }
} // namespace

KeepPanel::KeepPanel(Desk& desk, QWidget* parent) : RowPanel(desk, parent)
{
    makeLayers();
    makeRule();
    makeParts();
    makeHand();
    makeSplit();
    makeInside();
    note_ = addNote();
}

const KeepSpec* KeepPanel::keep() const { return desk_.currentLayer() ? &desk_.currentLayer()->keep : nullptr; }

bool KeepPanel::layered() const { return desk_.currentPiece() && isLayered(*desk_.currentPiece()); }

KeepRule KeepPanel::rule() const
{
    if (layered())
        return KeepRule::All;
    const LayerResult* r = desk_.layerResult();
    const KeepRule asked = keep() ? keep()->rule : KeepRule::All;
    return asked == KeepRule::Auto && r && r->coverage ? r->coverage->rule : asked;
}

void KeepPanel::makeLayers()
{
    madeOf_ = new Segmented({tr("One layer"), tr("Colour layers")}, this);
    madeOf_->setObjectName("keep-made-of");
    madeOf_->setAccessibleName(tr("Cut as"));
    madeOf_->setToolTip(tr("One shape, or one for each of the picture's colours, cut from stock of that colour and laid on one another"));
    auto* label = new QLabel(tr("Cut as"), this);
    label->setBuddy(madeOf_);
    label->setToolTip(madeOf_->toolTip());
    addRow(label, madeOf_, nullptr);
    connect(madeOf_, &Segmented::chosen, this, [this](int index) {
        if ((index == 1) == layered())
            return;
        if (index == 1)
            edits::splitIntoColours(desk_);
        else
            edits::backToOneLayer(desk_);
    });
    layers_ = new LayerRows(desk_, this);
    addWide(layers_);
    keepShown(layers_, [this] { return layered(); });
    auto* pick = holder("keep", "pick", Hold::PickLayer, tr("Pick a layer"), tr("Press a colour in the picture: it becomes a layer of its own (P)"));
    pick->setObjectName("keep-pick-layer");
    const auto press = [this](const char* icon, const QString& name, const QString& tip, auto run) {
        auto* button = new IconButton(QLatin1String(icon), name, tip, this);
        button->setObjectName(QStringLiteral("layer-") + QLatin1String(icon));
        connect(button, &QAbstractButton::clicked, this, run);
        return button;
    };
    auto* merge = press("merge", tr("Merge down"), tr("The layer and the one below it become one (M in the list)"), [this] { edits::mergeDown(desk_); });
    auto* drop = press("trash", tr("Drop the layer"), tr("Its colours are cut from nothing"), [this] { edits::dropLayer(desk_, desk_.layerId()); });
    auto* backing = press("backing", tr("Add a backing"), tr("A layer beneath all, with a border round everything"), [this] { edits::addBacking(desk_); });
    lift_ = press("lift", tr("Lift off"), tr("Shows the layer lifted off the others, and what lies beneath it"), [this] {
        Hand hand = desk_.hand();
        hand.lifts = !hand.lifts;
        desk_.setHand(hand);
    });
    lift_->setCheckable(true);
    QWidget* group = addGroup(tr("Layers"), {pick, merge, drop, backing, lift_});
    keepShown(group, [this] { return layered(); });
    where_ = new Segmented({tr("Everywhere"), tr("Only here")}, this);
    where_->setObjectName("keep-pick-where");
    where_->setAccessibleName(tr("Picks"));
    where_->setToolTip(tr("All of the colour that is pressed, or the one area of it"));
    auto* whereLabel = new QLabel(tr("Picks"), this);
    addRow(whereLabel, where_, nullptr);
    const auto picking = [this] { return layered() && desk_.hand().hold == Hold::PickLayer; };
    keepShown(where_, picking);
    keepShown(whereLabel, picking);
    connect(where_, &Segmented::chosen, this, [this](int index) {
        Hand hand = desk_.hand();
        hand.onlyHere = index == 1;
        desk_.setHand(hand);
    });
    makeLayer();
}

// What is set of the layer that is worked on.
void KeepPanel::makeLayer()
{
    const Scope<LayerColours> colours = [layer = layerScope()](Job& job) -> LayerColours* {
        Layer* l = layer(job);
        return l && l->ofColours ? &*l->ofColours : nullptr;
    };
    const auto when = [this] { return layered(); };
    const auto onOthers = [this] { return layered() && desk_.currentLayer()->ofColours && desk_.currentLayer()->ofColours->from == LayerFrom::Colours; };
    auto name = on(layerScope(), &Layer::name);
    // The layer that is chosen to be cut stays chosen.
    name.set = [layer = layerScope()](Job& job, const std::string& text) {
        if (Layer* l = layer(job)) {
            if (job.cut.layer == l->name)
                job.cut.layer = text;
            l->name = text;
        }
    };
    words(std::move(name).id("layer-name").label(tr("Name")).tip(tr("What files and lists call the layer; layers of one name are cut together")).when(when));
    words(by<std::string>(
              [layer = layerScope()](Job& job) -> std::optional<std::string> {
                  const Layer* l = layer(job);
                  const auto stock = l ? stockOf(*l) : std::nullopt;
                  return stock ? std::optional<std::string>(hexOf(*stock)) : std::nullopt;
              },
              [colours](Job& job, const std::string& text) {
                  if (LayerColours* c = colours(job))
                      if (const QColor to = QColor::fromString(QString::fromStdString(text)); to.isValid())
                          c->stock = Rgba{std::uint8_t(to.red()), std::uint8_t(to.green()), std::uint8_t(to.blue()), 255};
              })
              .id("layer-stock")
              .label(tr("Stock"))
              .tip(tr("The colour of what it is cut from, as #rrggbb or by its English name; shown on the bench"))
              .when(when));
    number(on(colours, &LayerColours::spread)
               .id("layer-spread")
               .label(tr("Spread"))
               .tip(tr("How far the layer goes on under those above it, so that no gap shows"))
               .slider(0, 3)
               .when(onOthers));
    tick(on(colours, &LayerColours::closeCovered)
             .id("layer-close-covered")
             .label(tr("Close what is covered"))
             .tip(tr("Openings that layers above cover wholly are not cut"))
             .when(onOthers));
}

// How the colours are told apart.
void KeepPanel::makeSplit()
{
    fold("split", tr("How colours are told apart"));
    const Scope<SplitSpec> split = [piece = pieceScope()](Job& job) { return piece(job) ? &piece(job)->split : nullptr; };
    const auto when = [this] { return layered(); };
    choice(on(split, &SplitSpec::of)
               .id("split-of")
               .label(tr("Picture"))
               .tip(tr("Drawn in plain colours, or shaded as photos are: then it is reduced to some"))
               .of({{SplitOf::Drawing, tr("Drawing")}, {SplitOf::Photo, tr("Photo")}})
               .when(when));
    auto colours = by<int>(
        [split](Job& job) -> std::optional<int> { return split(job) && split(job)->colours > 0 ? std::optional<int>(split(job)->colours) : std::nullopt; },
        [split](Job& job, const int& count) {
            if (SplitSpec* s = split(job))
                s->colours = count;
        });
    colours.reset = [split](Job& job) {
        if (SplitSpec* s = split(job))
            s->colours = 0;
    };
    colours.found = [this]() -> std::optional<int> {
        const PieceResult* r = desk_.currentResult();
        return r && r->split ? std::optional<int>(int(std::count_if(r->split->colours.begin(), r->split->colours.end(), [](const SplitColour& c) { return !c.area; }))) : std::nullopt;
    };
    number(std::move(colours).id("split-colours").label(tr("Colours")).tip(tr("How many; or as many as there are")).within(1, 64).automatic(tr("As many as there are")).when(when));
    number(on(split, &SplitSpec::merge)
               .id("split-merge")
               .label(tr("Alike"))
               .tip(tr("Colours less unlike than this are one (CIEDE2000)"))
               .step(1, 1)
               .slider(1, 40)
               .when([this, when] { return when() && desk_.currentPiece()->split.of == SplitOf::Drawing && desk_.currentPiece()->split.colours == 0; }));
    number(on(split, &SplitSpec::speckle)
               .id("split-speckle")
               .label(tr("Speckles"))
               .tip(tr("Areas of a colour smaller than this become what lies round them"))
               .step(0.1, 2)
               .area()
               .slider(0, 5)
               .when(when));
    endFold();
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
                                {KeepRule::Subject, tr("Subject in a box")},
                                {KeepRule::All, tr("Whole picture")}})
                           .when([this] { return !layered(); }));
    // Nothing is kept by no colour: the next press picks one.
    connect(rules, &QComboBox::activated, this, [this] {
        if (keep() && keep()->rule == KeepRule::Colour && keep()->colours.empty() && desk_.hand().hold != Hold::Pick)
            desk_.hold(Hold::Pick);
        // Nor is anything found until it is said where.
        if (keep() && keep()->rule == KeepRule::Subject && keep()->subject.box.empty() && desk_.hand().hold != Hold::SubjectBox)
            desk_.hold(Hold::SubjectBox);
    });
    auto* box = holder("keep", "subject-box", Hold::SubjectBox, tr("Box"), tr("Drag a box round what is picture (U)"));
    auto* is = holder("keep", "subject-is", Hold::SubjectIs, tr("Subject"), tr("Draw a stroke over what is picture and was not found (S)"));
    auto* isNot = holder("keep", "subject-is-not", Hold::SubjectIsNot, tr("Not subject"), tr("Draw a stroke over what was found and is not picture (N)"));
    unmark_ = new IconButton(QStringLiteral("close"), tr("Take the strokes away"), tr("The box alone says where the subject is"), this);
    unmark_->setObjectName("keep-unmark");
    connect(unmark_, &QAbstractButton::clicked, this, [this] { desk_.editLayer(tr("take the strokes away"), [](Layer& l) { l.keep.subject.strokes.clear(); }); });
    keepShown(addGroup(tr("Subject"), {box, is, isNot, unmark_}, tr("For photos, in which paper is no colour")), [this] { return rule() == KeepRule::Subject; });
    const auto edged = [this] { return rule() != KeepRule::All && rule() != KeepRule::Subject; };
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
    const auto rubs = [this] { return desk_.hand().hold == Hold::RubOut || desk_.hand().hold == Hold::BringBack; };
    const auto brushing = [this, rubs] { return rubs() || desk_.hand().hold == Hold::SubjectIs || desk_.hand().hold == Hold::SubjectIsNot; };
    brush_ = field(NumberField::Meaning::Length, "keep-brush", tr("Brush"), tr("How wide the brush is; [ and ] step it"), brushing);
    brush_->setRange(0.05, 500);
    brush_->setStep(0.5);
    tip_ = new Segmented({tr("Round"), tr("Square")}, this);
    tip_->setObjectName("keep-tip");
    tip_->setAccessibleName(tr("Tip"));
    auto* tipLabel = new QLabel(tr("Tip"), this);
    addRow(tipLabel, tip_, nullptr);
    keepShown(tip_, rubs);
    keepShown(tipLabel, rubs);
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
    madeOf_->setCurrent(layered());
    layers_->refresh();
    where_->setCurrent(desk_.hand().onlyHere);
    lift_->setChecked(desk_.hand().lifts);
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
    unmark_->setEnabled(!k->subject.strokes.empty());
    QString note;
    if (layered())
        note = hand.hold == Hold::PickLayer ? tr("Press a colour that is to be a layer of its own.") : QString();
    else if (hand.hold == Hold::Pick)
        note = k->rule == KeepRule::Colour ? tr("Press a colour to keep.") : tr("Press the paper.");
    else if (hand.hold == Hold::SubjectBox || (k->rule == KeepRule::Subject && k->subject.box.empty()))
        note = tr("Drag a box round what is picture.");
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
