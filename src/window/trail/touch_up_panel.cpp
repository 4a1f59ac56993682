#include "desk/areas.h"
#include "desk/node_edits.h"
#include "trail/panels.h"

#include <QCheckBox>
#include <QLabel>

#include <algorithm>

namespace yokai {

namespace {

bool drawsAnArea(const Hand& hand) { return hand.hold == Hold::AddArea || hand.hold == Hold::TakeArea || hand.hold == Hold::BesideArea || hand.hold == Hold::KeepArea; }
bool sketches(const Hand& hand) { return drawsAnArea(hand) && (hand.drawnAs == DrawnAs::Lines || hand.drawnAs == DrawnAs::Curves); }

QString noteFor(const Hand& hand)
{
    switch (hand.hold) {
    case Hold::NodeLasso:
        return TouchUpPanel::tr("Draw round the nodes; Shift adds to those selected.");
    case Hold::Stretch:
        return hand.stretchAs == StretchAs::Drawn ? TouchUpPanel::tr("Draw from one place of a line to another of the same outline.")
                                                  : TouchUpPanel::tr("Drag from one place of a line to another of the same outline.");
    case Hold::Join:
        return TouchUpPanel::tr("Drag from one open end to another.");
    case Hold::Smooth:
        return TouchUpPanel::tr("Drag along a line; the lumps go.");
    case Hold::Simplify:
        return TouchUpPanel::tr("Press an outline, or drag along a stretch of it.");
    case Hold::RoundCorner:
        return TouchUpPanel::tr("Press a pointed node.");
    case Hold::Tab:
        return TouchUpPanel::tr("Press where the tab should stand.");
    case Hold::Hole:
        return TouchUpPanel::tr("Press where the hole's middle should be.");
    case Hold::DropPath:
        return TouchUpPanel::tr("Press the outline; all of it goes.");
    case Hold::AddNode:
        return TouchUpPanel::tr("Press the line where a node should be.");
    case Hold::GuideLine:
        return TouchUpPanel::tr("Drag from one place to another; or out of a ruler.");
    case Hold::PlaceEdit:
        return TouchUpPanel::tr("Press where the edit should be.");
    default:
        break;
    }
    if (sketches(hand))
        return hand.drawnAs == DrawnAs::Lines ? TouchUpPanel::tr("Press place after place, and the first again. Backspace takes one back, Shift holds 15\u00b0.")
                                              : TouchUpPanel::tr("Drag at each place for a curve, press for a corner; the first place closes.");
    return QString();
}

} // namespace

TouchUpPanel::TouchUpPanel(Desk& desk, QWidget* parent) : RowPanel(desk, parent)
{
    layerBox("touch-layer");
    makeTools();
    makeSettings();
    makeBridges();
    note_ = addNote();
    makeLimits();
}

void TouchUpPanel::makeTools()
{
    const auto forNodes = [this](const char* icon, const QString& name, const QString& tip, edits::NodesAs as) {
        auto* button = new IconButton(QLatin1String(icon), name, tip, this);
        button->setObjectName(QStringLiteral("touch-") + QLatin1String(icon));
        connect(button, &QAbstractButton::clicked, this, [this, as] { edits::changeNodes(desk_, as); });
        forNodes_.push_back(button);
        return button;
    };
    addGroup(tr("Nodes"),
             {holder("touch", "add-node", Hold::AddNode, tr("Add a node"), tr("Press a line where a node should be (N)")),
              forNodes("node-smooth", tr("Smooth"), tr("The line goes on smoothly at the selected nodes"), edits::NodesAs::Smooth),
              forNodes("node-corner", tr("Corner"), tr("The line turns at the selected nodes"), edits::NodesAs::Corners),
              forNodes("make-straight", tr("Straight"), tr("Straight between the selected nodes, or beside a single one"), edits::NodesAs::Straight),
              forNodes("make-curved", tr("Curved"), tr("Curved between the selected nodes, or beside a single one"), edits::NodesAs::Curved)},
             tr("With nothing in hand nodes are dragged, nudged by the arrow keys and taken out by Delete"));
    addGroup(tr("Outline"),
             {holder("touch", "straighten", Hold::Stretch, tr("Stretch"), tr("Drag along a line: what lies between gets another shape, or goes (S)")),
              holder("touch", "join", Hold::Join, tr("Join"), tr("Drag from one open end to another (J)")),
              holder("touch", "smooth", Hold::Smooth, tr("Smooth"), tr("Brush along a line to take its lumps out (U)")),
              holder("touch", "simplify", Hold::Simplify, tr("Simplify"), tr("Press an outline or drag along it: as few nodes as the distance allows (M)")),
              holder("touch", "drop-path", Hold::DropPath, tr("Drop"), tr("Press an outline that is not wanted (D)"))},
             tr("Every edit is listed, keeps its place when a number changes, and can be taken back"));
    addGroup(tr("Areas"),
             {holder("touch", "add-area", Hold::AddArea, tr("Add"), tr("What is drawn is enclosed by the chosen line, too (A)")),
              holder("touch", "take-area", Hold::TakeArea, tr("Take away"), tr("What is drawn is left out by the chosen line (X)")),
              holder("touch", "beside-area", Hold::BesideArea, tr("Beside"), tr("What is drawn is cut by itself, beside the chosen line (W)")),
              holder("touch", "keep-area", Hold::KeepArea, tr("Keep"), tr("What is drawn is the piece's kept shape; its lines follow it (Q)"))});
    roundAll_ = new IconButton(QStringLiteral("round-all"), tr("Round all inside"), tr("Round all inside corners of the chosen line to the tool"), this);
    roundAll_->setObjectName("touch-round-all");
    connect(roundAll_, &QAbstractButton::clicked, this, [this] { edits::roundAllInside(desk_, desk_.job().check.toolRadius); });
    addGroup(tr("Set"), {holder("touch", "round-corner", Hold::RoundCorner, tr("Round a corner"), tr("Press a corner to round it (R)")), roundAll_,
                         holder("touch", "tab", Hold::Tab, tr("Tab"), tr("Press a line: a tab with a hole to hang it by (E)")),
                         holder("touch", "hole", Hold::Hole, tr("Hole"), tr("Press where a hole should be (H)")),
                         holder("touch", "guide", Hold::GuideLine, tr("Guide"), tr("Drag a guide between two places (G); level and upright ones come out of the rulers"))});
}

void TouchUpPanel::makeSettings()
{
    const auto holds = [](Hold hold) { return [hold](const Hand& hand) { return hand.hold == hold; }; };
    const auto draws = [](DrawnAs as) { return [as](const Hand& hand) { return drawsAnArea(hand) && hand.drawnAs == as; }; };
    const auto selects = [](const Hand& h) { return h.hold == Hold::Nothing || h.hold == Hold::NodeLasso; };
    handList(
        "touch-select-by", tr("Select by"), {tr("Box"), tr("Lasso")}, [](const Hand& h) { return int(h.hold == Hold::NodeLasso); },
        [](Hand& h, int k) { h.hold = k == 1 ? Hold::NodeLasso : Hold::Nothing; }, selects);
    handList(
        "touch-takes", tr("Takes"), {tr("Enclosed"), tr("Touched")}, [](const Hand& h) { return int(h.takes); }, [](Hand& h, int k) { h.takes = Takes(k); },
        selects);
    handList(
        "touch-stretch-as", tr("Becomes"), {tr("Straight"), tr("A smooth bridge"), tr("As drawn"), tr("Nothing: the line opens")}, [](const Hand& h) { return int(h.stretchAs); },
        [](Hand& h, int k) { h.stretchAs = StretchAs(k); }, holds(Hold::Stretch));
    handList(
        "touch-drawn-as", tr("Drawn as"),
        {tr("Lasso"), tr("Brush"), tr("Straight lines"), tr("Curves"), tr("Box"), tr("Rounded box"), tr("Ellipse"), tr("Circle")}, [](const Hand& h) { return int(h.drawnAs); },
        [](Hand& h, int k) {
            h.drawnAs = DrawnAs(k);
            h.sketch = {};
        },
        drawsAnArea);
    handField("touch-brush", tr("Brush"), tr("How wide the brush is; [ and ] step it"), &Hand::brush, draws(DrawnAs::Brush));
    handField("touch-box-radius", tr("Radius"), tr("Of the box's corners"), &Hand::boxRadius, draws(DrawnAs::RoundedBox));
    const auto leg = [this](NumberField::Meaning meaning, const char* id, const QString& text, const QString& tip) {
        auto* field = new NumberField(meaning, this);
        auto* label = new ScrubLabel(text, field, this);
        field->setObjectName(QLatin1String(id));
        field->setAccessibleName(text);
        field->setToolTip(tip);
        addRow(label, nullptr, field);
        const auto when = [this] { return sketches(desk_.hand()) && desk_.hand().sketch.at.size() > 1; };
        keepShown(field, when);
        keepShown(label, when);
        return field;
    };
    leg_ = leg(NumberField::Meaning::Length, "touch-leg", tr("Length"), tr("Of the leg drawn last"));
    leg_->setRange(0.01, 5000);
    angle_ = leg(NumberField::Meaning::Number, "touch-angle", tr("Angle"), tr("Of the leg drawn last, from level"));
    angle_->setRange(-360, 360);
    angle_->setSuffix(QStringLiteral("\u00b0"));
    connect(leg_, &NumberField::edited, this, [this] {
        if (auto last = edits::lastLeg(desk_.hand().sketch)) {
            last->length = leg_->length().mm();
            edits::setLastLeg(desk_, *last);
        }
    });
    connect(angle_, &NumberField::edited, this, [this] {
        if (auto last = edits::lastLeg(desk_.hand().sketch)) {
            last->angle = angle_->number();
            edits::setLastLeg(desk_, *last);
        }
    });
    handField("touch-smooth-brush", tr("Lumps up to"), tr("How long the lumps are that go, and how wide the brush is"), &Hand::smooth, holds(Hold::Smooth));
    handField("touch-simplify-stray", tr("Stray at most"), tr("How far the outline may come away from where it was"), &Hand::simplify, holds(Hold::Simplify));
    handField("touch-radius", tr("Radius"), tr("Of the corner"), &Hand::radius, holds(Hold::RoundCorner));
    handField("touch-tab-across", tr("Tab across"), tr("How wide the tab is"), &Hand::tab, holds(Hold::Tab));
    handField("touch-tab-hole", tr("Hole"), tr("How wide its hole is; 0 for none"), &Hand::tabHole, holds(Hold::Tab));
    handList(
        "touch-tab-stands", tr("Stands"), {tr("Outwards"), tr("Upright")}, [](const Hand& h) { return int(h.upright); }, [](Hand& h, int k) { h.upright = k == 1; }, holds(Hold::Tab));
    handField("touch-hole-across", tr("Hole across"), tr("How wide the hole is"), &Hand::hole, holds(Hold::Hole));
}

void TouchUpPanel::makeBridges()
{
    const auto through = [this] { return desk_.currentLine() && desk_.currentLine()->kind == LineKind::Through && desk_.hand().hold == Hold::Nothing; };
    number(on(lineScope(), &LineSpec::bridges)
               .id("line-bridges")
               .label(tr("Bridges"))
               .tip(tr("Uncut stretches of each outline of the chosen line that hold the piece in its sheet; each can be dragged along it"))
               .when(through));
    number(on(lineScope(), &LineSpec::bridgeWidth)
               .id("bridge-width")
               .label(tr("Bridge width"))
               .tip(tr("How wide a bridge is"))
               .step(0.1)
               .when([this, through] { return through() && desk_.currentLine()->bridges > 0; }));
}

void TouchUpPanel::makeLimits()
{
    const Scope<CheckSpec> check = [](Job& job) { return &job.check; };
    fold("limits", tr("What the tool can cut, snapping"));
    number(on(check, &CheckSpec::toolRadius)
               .id("tool-radius")
               .label(tr("Tool radius"))
               .tip(tr("The tightest inside corner that the tool can follow"))
               .step(0.05));
    number(on(check, &CheckSpec::leastNeck).id("least-neck").label(tr("Least neck")).tip(tr("What stays between two cuts is at least this wide")).step(0.1));
    number(on(check, &CheckSpec::leastGap).id("least-gap").label(tr("Least gap")).tip(tr("What falls out between two cuts is at least this wide")).step(0.1));
    number(on(check, &CheckSpec::leastArea).id("least-area").label(tr("Least area")).tip(tr("Of a part or an opening")).step(0.5).area());
    number(on(check, &CheckSpec::leastLength).id("least-length").label(tr("Least length")).tip(tr("Of a line")).step(0.5));
    number(on(check, &CheckSpec::drift).id("drift").label(tr("Drift")).tip(tr("How far the cut is expected to land off the print")).step(0.05));
    number(on(check, &CheckSpec::leastPpi).id("least-ppi").label(tr("Least resolution")).tip(tr("A picture with less prints soft")).step(10, 0).suffix(tr(" ppi")));
    auto* snap = new QCheckBox(tr("Snap to nodes, guides and edges"), this);
    snap->setObjectName("touch-snap");
    snap->setToolTip(tr("What is drawn or moved is drawn to them; not while Ctrl is held"));
    addWide(snap);
    keepShown(snap, {});
    connect(snap, &QCheckBox::toggled, this, [this](bool on) { setHand([on](Hand& hand) { hand.snaps = on; }); });
    refreshes_.push_back([this, snap] { snap->setChecked(desk_.hand().snaps); });
    endFold();
}

void TouchUpPanel::setHand(const std::function<void(Hand&)>& change)
{
    Hand hand = desk_.hand();
    change(hand);
    desk_.setHand(hand);
}

NumberField* TouchUpPanel::handField(const char* id, const QString& text, const QString& tip, Length Hand::*member, When when)
{
    auto* field = new NumberField(NumberField::Meaning::Length, this);
    auto* label = new ScrubLabel(text, field, this);
    field->setObjectName(QLatin1String(id));
    field->setAccessibleName(text);
    field->setToolTip(tip);
    field->setRange(0, 500);
    field->setStep(0.5);
    addRow(label, nullptr, field);
    const auto shown = [this, when] { return when(desk_.hand()); };
    keepShown(field, shown);
    keepShown(label, shown);
    connect(field, &NumberField::edited, this, [this, field, member] { setHand([&](Hand& hand) { hand.*member = field->length(); }); });
    refreshes_.push_back([this, field, member] {
        field->setUnit(desk_.unit());
        field->setLength(desk_.hand().*member);
    });
    return field;
}

void TouchUpPanel::handList(const char* id, const QString& text, const QStringList& choices, std::function<int(const Hand&)> get, std::function<void(Hand&, int)> set, When when)
{
    auto* label = new QLabel(text, this);
    const auto shown = [this, when] { return when(desk_.hand()); };
    constexpr int few = 2; // side by side
    if (choices.size() <= few) {
        auto* segments = new Segmented(choices, this);
        segments->setObjectName(QLatin1String(id));
        segments->setAccessibleName(text);
        addRow(label, segments, nullptr);
        keepShown(segments, shown);
        connect(segments, &Segmented::chosen, this, [this, set](int k) { setHand([&](Hand& hand) { set(hand, k); }); });
        refreshes_.push_back([this, segments, get] { segments->setCurrent(get(desk_.hand())); });
    } else {
        auto* box = new ChoiceBox(this);
        box->addItems(choices);
        box->setObjectName(QLatin1String(id));
        box->setAccessibleName(text);
        addRow(label, box, nullptr);
        keepShown(box, shown);
        connect(box, &QComboBox::activated, this, [this, set](int k) { setHand([&](Hand& hand) { set(hand, k); }); });
        refreshes_.push_back([this, box, get] { box->setCurrentIndex(get(desk_.hand())); });
    }
    keepShown(label, shown);
}

void TouchUpPanel::refreshRest()
{
    for (const auto& refresh : refreshes_)
        refresh();
    for (IconButton* button : forNodes_)
        button->setEnabled(std::holds_alternative<NodesSelected>(desk_.selection()));
    roundAll_->setEnabled(desk_.line() >= 0);
    if (const auto last = edits::lastLeg(desk_.hand().sketch)) {
        leg_->setUnit(desk_.unit());
        leg_->setLength(Length::mm(last->length));
        angle_->setNumber(last->angle);
    }
    note_->setText(noteFor(desk_.hand()));
    note_->setVisible(!note_->text().isEmpty());
}

} // namespace yokai
