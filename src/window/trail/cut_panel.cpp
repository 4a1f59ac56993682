#include "trail/panels.h"

#include "device/test_cut.h"
#include "formats/machine/own_files.h"
#include "words.h"

#include <QCheckBox>
#include <QLabel>
#include <QPushButton>

namespace yokai {

CutPanel::CutPanel(Desk& desk, QWidget* parent) : RowPanel(desk, parent)
{
    const Scope<CutSpec> cut = [](Job& job) { return &job.cut; };
    makeMachine();
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

// The machine and the material are put into the job as they are: it is whole wherever it is opened.
void CutPanel::makeMachine()
{
    const auto shelf = std::make_shared<OwnShelf>(openShelf(ownFolder()));
    std::vector<std::pair<std::string, QString>> machines = {{"", tr("No machine: sheet is bed")}}, materials = {{"", tr("No material: usual settings")}};
    for (const Machine& m : shelf->machines)
        machines.emplace_back(m.name, text(m.name));
    for (const Material& m : shelf->materials)
        materials.emplace_back(m.name, text(m.name));
    list(by<std::string>([](Job& job) { return std::optional(job.cut.plan.machine ? job.cut.plan.machine->name : std::string()); },
                         [shelf](Job& job, const std::string& name) {
                             const auto found = std::find_if(shelf->machines.begin(), shelf->machines.end(), [&](const Machine& m) { return m.name == name; });
                             PlanSpec& plan = job.cut.plan;
                             plan.machine = found == shelf->machines.end() ? std::nullopt : std::optional(*found);
                             // An eye beside the tool sees no mark that lies nearer to the bed's edge than itself.
                             constexpr Length roomForEye = 25_mm;
                             plan.sheetX = plan.sheetY = plan.machine && plan.machine->eye.kind != Eye::None ? roomForEye : Length();
                         })
             .id("cut-machine")
             .label(tr("Machine"))
             .wide()
             .tip(tr("What cuts: its bed, how fast it goes, its blade or its beam"))
             .of(machines));
    const Scope<PlanSpec> plan = [](Job& job) { return &job.cut.plan; };
    const auto known = [this] { return desk_.job().cut.plan.machine.has_value(); };
    number(on(plan, &PlanSpec::sheetX).id("cut-sheet-x").label(tr("Lies across")).tip(tr("From the bed's left edge to the sheet's, about")).when(known));
    number(on(plan, &PlanSpec::sheetY).id("cut-sheet-y").label(tr("Lies along")).tip(tr("From the bed's near edge to the sheet's, about")).when(known));
    list(by<std::string>([](Job& job) { return std::optional(job.cut.plan.material ? job.cut.plan.material->name : std::string()); },
                         [shelf](Job& job, const std::string& name) {
                             const auto found = std::find_if(shelf->materials.begin(), shelf->materials.end(), [&](const Material& m) { return m.name == name; });
                             job.cut.plan.material = found == shelf->materials.end() ? std::nullopt : std::optional(*found);
                         })
             .id("cut-material")
             .label(tr("Material"))
             .wide()
             .tip(tr("What is cut: speed, power or force and passes of each operation"))
             .of(materials));
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
