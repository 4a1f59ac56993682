#include "trail/panels.h"

#include "device/test_cut.h"

#include <QComboBox>
#include <QPushButton>

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
    addNote(tr("How the stand-in prints and loads the sheet:"));
    const auto number = [&](const QString& label, double least, double most, double step, int decimals, const QString& suffix, const QString& tip) {
        NumberField* f = addField(label, NumberField::Meaning::Number, tip);
        f->setRange(least, most);
        f->setStep(step);
        f->setDecimals(decimals);
        f->setSuffix(suffix);
        return f;
    };
    stretchX_ = number(tr("Stretch across"), 90, 110, 0.1, 2, QStringLiteral(" %"), tr("How much wider it prints"));
    stretchY_ = number(tr("Stretch along"), 90, 110, 0.1, 2, QStringLiteral(" %"), tr("How much longer it prints"));
    turn_ = number(tr("Turn"), -15, 15, 0.1, 2, QStringLiteral("\u00b0"), tr("How crookedly it is loaded"));
    turn_->setObjectName("standin-turn");
    skew_ = number(tr("Skew"), -5, 5, 0.05, 2, QStringLiteral("\u00b0"), tr("How far its corners are from square"));
    shiftX_ = addField(tr("Shift across"), NumberField::Meaning::Length, tr("How far to the side it lies"));
    shiftY_ = addField(tr("Shift along"), NumberField::Meaning::Length, tr("How far up it lies"));
    for (NumberField* f : {shiftX_, shiftY_})
        f->setRange(-10, 10);
    run_ = new QPushButton(tr("Try the cut"), this);
    run_->setObjectName("cut-run");
    run_->setProperty("kind", "primary");
    addWide(run_);

    const auto bindStandIn = [&](NumberField* field, auto apply) {
        connect(field, &NumberField::edited, this, [this, field, apply](bool settled) {
            studio_.edit(tr("change the stand-in"), [&](Job& job) { apply(job.cut.standIn, field); }, tr("change the stand-in"));
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
