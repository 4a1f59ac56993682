#include "trail/panels.h"

#include "device/test_cut.h"
#include "words.h"

#include <QCheckBox>
#include <QLabel>
#include <QPushButton>

namespace yokai {

CutPanel::CutPanel(Desk& desk, QWidget* parent) : RowPanel(desk, parent)
{
    const Scope<CutSpec> cut = [](Job& job) { return &job.cut; };
    const Scope<StandInSpec> standIn = [](Job& job) { return &job.cut.standIn; };
    choice(on(cut, &CutSpec::useFit)
               .id("cut-fit")
               .label(tr("Fit"))
               .tip(tr("Move the cut onto the print by its marks; off shows what happens without"))
               .of({{true, tr("On")}, {false, tr("Off")}}));
    std::vector<std::pair<FitModel, QString>> models;
    for (const FitModel m : {FitModel::Auto, FitModel::Rigid, FitModel::Scaled, FitModel::Affine, FitModel::Projective})
        models.emplace_back(m, title(m));
    const auto fitted = [this] { return desk_.job().cut.useFit; };
    list(on(cut, &CutSpec::model)
             .id("cut-model")
             .label(tr("What the fit does"))
             .wide()
             .tip(tr("What the fit may do to the cut. In the mathematics' words: rigid, similarity, affine, projective"))
             .of(models)
             .when(fitted));
    number(on(cut, &CutSpec::maxResidual)
               .id("cut-residual")
               .label(tr("Residual"))
               .tip(tr("The largest allowed: a mark that stays farther off refuses the cut"))
               .step(0.05)
               .when(fitted));
    run_ = new QPushButton(tr("Try the cut"), this);
    run_->setObjectName("cut-run");
    run_->setProperty("kind", "primary");
    addWide(run_);
    note_ = addNote();
    connect(run_, &QPushButton::clicked, this, &CutPanel::run);

    fold("stand-in", tr("How the stand-in prints and loads"));
    const auto stretch = [&](double StandInSpec::*member, const char* id, const QString& label, const QString& tip) {
        number(by<double>([member](Job& job) { return std::optional<double>(job.cut.standIn.*member * 100); },
                          [member](Job& job, const double& percent) { job.cut.standIn.*member = percent / 100; })
                   .id(id)
                   .label(label)
                   .tip(tip)
                   .within(90, 110)
                   .step(0.1)
                   .suffix(QStringLiteral(" %")));
    };
    stretch(&StandInSpec::stretchX, "standin-stretch-x", tr("Prints across"), tr("How wide it prints, of what it should be"));
    stretch(&StandInSpec::stretchY, "standin-stretch-y", tr("Prints along"), tr("How long it prints, of what it should be"));
    const QString degree = QStringLiteral("\u00b0");
    number(on(standIn, &StandInSpec::turn).id("standin-turn").label(tr("Turned by")).tip(tr("How crookedly the sheet lies")).suffix(degree));
    number(on(standIn, &StandInSpec::skew).id("standin-skew").label(tr("Skewed by")).tip(tr("How far from square it prints")).step(0.05).suffix(degree));
    number(on(standIn, &StandInSpec::shiftX).id("standin-shift-x").label(tr("Off across")).tip(tr("How far off the sheet lies")));
    number(on(standIn, &StandInSpec::shiftY).id("standin-shift-y").label(tr("Off along")).tip(tr("How far off the sheet lies")));
    endFold();
}

void CutPanel::refreshRest()
{
    const Shown* shown = desk_.shown();
    note_->setText(shown ? refusal(shown->derived, shown->job, desk_.unit()) : QString());
    note_->setVisible(!note_->text().isEmpty());
    run_->setEnabled(shown && note_->text().isEmpty() && !shown->derived.sheet.placements.empty() && desk_.current() && !desk_.busy());
    run_->setToolTip(tr("Print on the stand-in, read the marks, fit, cut, and see where it landed"));
}

void CutPanel::run()
{
    if (!desk_.current() || refusal(desk_.shown()->derived.findings))
        return;
    const auto shown = desk_.sharedShown();
    auto result = std::make_shared<TestCutResult>();
    const int sheet = desk_.sheet();
    desk_.background().start(
        tr("Stand-in"),
        [shown, result, sheet](const Work& work) -> QString {
            *result = runTestCut(shown->job, shown->derived, sheet, standInProgram(), work);
            return {};
        },
        [this, shown, result] { desk_.setTestCut(result, shown->revision); });
}

} // namespace yokai
