#include "trail/panels.h"

#include <QLabel>

#include <algorithm>

namespace yokai {

TouchUpPanel::TouchUpPanel(Desk& desk, QWidget* parent) : RowPanel(desk, parent)
{
    addGroup(tr("Outline"),
             {holder("touch", "add-node", Hold::AddNode, tr("Add a node"), tr("Press a line where a node should be (N)")),
              holder("touch", "add-area", Hold::AddArea, tr("Add an area"), tr("Draw round what the chosen line should enclose, too (A)")),
              holder("touch", "take-area", Hold::TakeArea, tr("Take an area away"), tr("Draw round what the chosen line should not enclose (X)")),
              holder("touch", "simplify", Hold::Simplify, tr("Simplify"), tr("Press an outline: as few nodes as the distance allows (M)")),
              holder("touch", "drop-path", Hold::DropPath, tr("Drop"), tr("Press an outline that is not wanted (D)"))},
             tr("With nothing in hand nodes are dragged, nudged by the arrow keys and taken out by Delete"));
    addGroup(tr("By hand"),
             {holder("touch", "straighten", Hold::Straighten, tr("Straighten"), tr("Drag along a line: what lies between becomes straight (S)")),
              holder("touch", "round-corner", Hold::RoundCorner, tr("Round a corner"), tr("Press a corner to round it (R)")),
              holder("touch", "tab", Hold::Tab, tr("Tab"), tr("Press a line: a tab with a hole to hang it by (E)")),
              holder("touch", "hole", Hold::Hole, tr("Hole"), tr("Press where a hole should be (H)"))},
             tr("Every edit is listed, keeps its place when a number changes, and can be taken back"));
    handField("touch-radius", tr("Radius"), tr("Of the corner"), &Hand::radius, {Hold::RoundCorner});
    handField("touch-simplify", tr("Stray at most"), tr("How far the outline may come away from where it was"), &Hand::simplify, {Hold::Simplify});
    handField("touch-tab", tr("Tab across"), tr("How wide the tab is"), &Hand::tab, {Hold::Tab});
    handField("touch-tab-hole", tr("Hole"), tr("How wide its hole is; 0 for none"), &Hand::tabHole, {Hold::Tab});
    handField("touch-hole", tr("Hole across"), tr("How wide the hole is"), &Hand::hole, {Hold::Hole});
    number(on(lineScope(), &LineSpec::bridges)
               .id("line-bridges")
               .label(tr("Bridges"))
               .tip(tr("Uncut stretches of each outline of the chosen line that hold the piece in its sheet"))
               .when([this] { return desk_.currentLine() && desk_.currentLine()->kind == LineKind::Through; }));
    number(on(lineScope(), &LineSpec::bridgeWidth)
               .id("bridge-width")
               .label(tr("Bridge width"))
               .tip(tr("How wide a bridge is"))
               .step(0.1)
               .when([this] { return desk_.currentLine() && desk_.currentLine()->kind == LineKind::Through && desk_.currentLine()->bridges > 0; }));
    note_ = addNote();
    const Scope<CheckSpec> check = [](Job& job) { return &job.check; };
    fold("limits", tr("What the tool can cut"));
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
    endFold();
}

NumberField* TouchUpPanel::handField(const char* id, const QString& text, const QString& tip, Length Hand::*member, std::initializer_list<Hold> holds)
{
    auto* field = new NumberField(NumberField::Meaning::Length, this);
    auto* label = new ScrubLabel(text, field, this);
    field->setObjectName(QLatin1String(id));
    field->setAccessibleName(text);
    field->setToolTip(tip);
    field->setRange(0, 500);
    field->setStep(0.5);
    addRow(label, nullptr, field);
    const auto held = [this, all = std::vector<Hold>(holds)] { return std::find(all.begin(), all.end(), desk_.hand().hold) != all.end(); };
    keepShown(field, held);
    keepShown(label, held);
    connect(field, &NumberField::edited, this, [this, field, member] {
        Hand hand = desk_.hand();
        hand.*member = field->length();
        desk_.setHand(hand);
    });
    handFields_.emplace_back(field, member);
    return field;
}

void TouchUpPanel::refreshRest()
{
    for (const auto& [field, member] : handFields_) {
        field->setUnit(desk_.unit());
        field->setLength(desk_.hand().*member);
    }
    const Hold hold = desk_.hand().hold;
    note_->setText(hold == Hold::Straighten    ? tr("Drag from one place of a line to another of the same outline.")
                   : hold == Hold::RoundCorner ? tr("Press a pointed node.")
                   : hold == Hold::Tab         ? tr("Press where the tab should stand.")
                   : hold == Hold::Hole        ? tr("Press where the hole's middle should be.")
                   : hold == Hold::DropPath    ? tr("Press the outline; all of it goes.")
                   : hold == Hold::Simplify    ? tr("Press the outline.")
                   : hold == Hold::AddNode     ? tr("Press the line where a node should be.")
                   : hold == Hold::AddArea     ? tr("Draw round an area; it joins what the chosen line encloses.")
                   : hold == Hold::TakeArea    ? tr("Draw round an area; the chosen line leaves it out.")
                   : hold == Hold::PlaceEdit   ? tr("Press where the edit should be.")
                                               : QString());
    note_->setVisible(!note_->text().isEmpty());
}

} // namespace yokai
