#include "trail/panels.h"

#include "device/test_cut.h"

#include <QComboBox>
#include <QPushButton>

#include <tuple>

namespace yokai {

namespace {
constexpr FitModel offered[] = {FitModel::Auto, FitModel::Rigid, FitModel::Scaled, FitModel::Affine, FitModel::Projective};
}

CutPanel::CutPanel(Studio& studio, QWidget* parent) : Panel(studio, parent)
{
    useFit_ = new Segmented({tr("On"), tr("Off")}, this);
    useFit_->setObjectName("cut-fit");
    addRow(tr("Fit"), useFit_, tr("Move the cut onto the print by its marks; off shows what happens without"));
    model_ = new QComboBox(this);
    for (const QString& text : {tr("Chosen by itself"), tr("Rigid"), tr("Scaled"), tr("Affine"), tr("Projective")})
        model_->addItem(text);
    addRow(tr("Allowing"), model_, tr("What the fit may do: turn and shift, scale, stretch and skew, or tilt"));
    run_ = new QPushButton(tr("Try the cut"), this);
    run_->setObjectName("cut-run");
    run_->setProperty("kind", "primary");
    addWide(run_);
    addNote(tr("How the stand-in prints and loads the sheet:"));
    std::tie(stretchX_, stretchY_) = addPair(tr("Stretch %"), NumberField::Meaning::Number, tr("across"), tr("along"), tr("How much larger it prints"));
    std::tie(turn_, skew_) =
        addPair(tr("Turn, skew"), NumberField::Meaning::Number, tr("turn"), tr("skew"), tr("How crookedly it lies, and how far from square it is"));
    std::tie(shiftX_, shiftY_) = addPair(tr("Shift"), NumberField::Meaning::Length, tr("across"), tr("along"), tr("How far off it lies"));
    const auto shape = [](NumberField* f, double least, double most, double step, const QString& suffix) {
        f->setRange(least, most);
        f->setStep(step);
        f->setSuffix(suffix);
    };
    for (NumberField* f : {stretchX_, stretchY_})
        shape(f, 90, 110, 0.1, {});
    shape(turn_, -15, 15, 0.1, QStringLiteral("\u00b0"));
    shape(skew_, -5, 5, 0.05, QStringLiteral("\u00b0"));
    for (NumberField* f : {shiftX_, shiftY_})
        f->setRange(-10, 10);
    turn_->setObjectName("standin-turn");

    const auto bindStandIn = [&](NumberField* field, auto apply) {
        connect(field, &NumberField::edited, this, [this, field, apply](bool settled) {
            studio_.edit(
                tr("change the stand-in"), [&](Job& job) { apply(job.cut.standIn, field); }, tr("change the stand-in"));
            if (settled)
                studio_.settle();
        });
    };
    bindStandIn(stretchX_, [](StandInSpec& s, NumberField* f) { s.stretchX = f->number() / 100; });
    bindStandIn(stretchY_, [](StandInSpec& s, NumberField* f) { s.stretchY = f->number() / 100; });
    bindStandIn(turn_, [](StandInSpec& s, NumberField* f) { s.turn = f->number(); });
    bindStandIn(skew_, [](StandInSpec& s, NumberField* f) { s.skew = f->number(); });
    bindStandIn(shiftX_, [](StandInSpec& s, NumberField* f) { s.shiftX = f->length(); });
    bindStandIn(shiftY_, [](StandInSpec& s, NumberField* f) { s.shiftY = f->length(); });
    connect(useFit_, &Segmented::chosen, this, [this](int index) {
        studio_.edit(index == 0 ? tr("switch the fit on") : tr("switch the fit off"), [&](Job& job) { job.cut.useFit = index == 0; });
    });
    connect(model_, &QComboBox::activated, this, [this](int index) { studio_.edit(tr("change the fit"), [&](Job& job) { job.cut.model = offered[index]; }); });
    connect(run_, &QPushButton::clicked, this, &CutPanel::run);
}

void CutPanel::refresh()
{
    const CutSpec& c = studio_.job().cut;
    useFit_->setCurrent(c.useFit ? 0 : 1);
    for (int i = 0; i < int(std::size(offered)); ++i)
        if (offered[i] == c.model)
            model_->setCurrentIndex(i);
    model_->setEnabled(c.useFit);
    stretchX_->setNumber(c.standIn.stretchX * 100);
    stretchY_->setNumber(c.standIn.stretchY * 100);
    turn_->setNumber(c.standIn.turn);
    skew_->setNumber(c.standIn.skew);
    for (NumberField* f : {shiftX_, shiftY_})
        f->setUnit(studio_.unit());
    shiftX_->setLength(c.standIn.shiftX);
    shiftY_->setLength(c.standIn.shiftY);
    const Shown* shown = studio_.shown();
    run_->setEnabled(shown && !shown->derived.sheet.placements.empty() && studio_.upToDate() && !studio_.busy());
    run_->setToolTip(tr("Print on the stand-in, read the marks, fit, cut, and see where it landed"));
}

void CutPanel::run()
{
    const auto shown = studio_.sharedShown();
    if (!shown)
        return;
    auto result = std::make_shared<TestCutResult>();
    studio_.background(
        tr("Stand-in"),
        [shown, result](const Work& work) -> QString {
            *result = runTestCut(shown->job, shown->derived, standInProgram(), work);
            return {};
        },
        [this, result] { studio_.setTestCut(result); });
}

} // namespace yokai
