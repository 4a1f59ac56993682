#include "trail/panels.h"

#include "desk/jogging.h"
#include "desk/machining.h"
#include "desk/operation_edits.h"
#include "formats/drawing.h"
#include "job/colour_layers.h"
#include "theme/ask.h"
#include "words.h"

#include <QCheckBox>
#include <QFileDialog>
#include <QStyle>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QPushButton>
#include <QSettings>
#include <QSignalBlocker>

namespace yokai {

namespace {
constexpr double jogSteps[] = {0.1, 0.5, 1, 10}; // mm; then: for as long as it is held
}

CutPanel::CutPanel(Desk& desk, QWidget* parent) : RowPanel(desk, parent)
{
    makeLayer();
    makeMachine();
    makeLink();
    makeFit();
    makeByHand();
    makePresses();
    makeOperation();
    makeMachineFold();
    makeMaterialFold();
    makeStandIn();
    for (const auto signal : {&Machining::changed, &Machining::headMoved})
        connect(&desk.machining(), signal, this, &CutPanel::refreshMachine);
}

// Colour layers are cut one by one, each from its own stock.
void CutPanel::makeLayer()
{
    layer_ = new ChoiceBox(this);
    layer_->setObjectName("cut-layer");
    layer_->setAccessibleName(tr("Layer"));
    layer_->setToolTip(tr("Of the colour layers the one that is cut now"));
    auto* label = new QLabel(tr("Layer"), this);
    label->setToolTip(layer_->toolTip());
    addRow(label, layer_, nullptr);
    const auto layered = [this] { return std::any_of(desk_.job().pieces.begin(), desk_.job().pieces.end(), isLayered); };
    keepShown(layer_, layered);
    keepShown(label, layered);
    connect(layer_, &ChoiceBox::activated, this, [this](int index) {
        const std::string name = index == 0 ? std::string() : layer_->itemText(index).toStdString();
        desk_.edit(tr("choose the layer that is cut"), [&](Job& job) { job.cut.layer = name; });
    });
}

// This computer's own: what port the machine is at.
void CutPanel::makeLink()
{
    port_ = new ChoiceBox(this);
    port_->setObjectName("cut-port");
    port_->setAccessibleName(tr("Link"));
    port_->setToolTip(tr("Where the machine is connected; the stand-in is a program that prints, loads and cuts as a machine does"));
    auto* label = new QLabel(tr("Link"), this);
    label->setToolTip(port_->toolTip());
    addRow(label, port_, nullptr);
    connect(port_, &ChoiceBox::activated, this, [this](int index) {
        if (index < port_->count() - 1) {
            desk_.machining().setPort(port_->itemData(index).toString());
            return;
        }
        bool taken = false;
        const QString typed = QInputDialog::getText(window(), tr("Another port"), tr("The port's name, as the system calls it:"), QLineEdit::Normal, desk_.machining().port(), &taken).trimmed();
        if (taken)
            desk_.machining().setPort(typed);
        refreshRest();
    });
}

void CutPanel::makeFit()
{
    const Scope<CutSpec> cut = [](Job& job) { return &job.cut; };
    const auto fitted = [this] { return desk_.machining().usesFit(); };
    choice(on(cut, &CutSpec::useFit)
               .id("cut-fit")
               .label(tr("Fit"))
               .tip(tr("Move the cut onto the print by its marks; off shows what happens without"))
               .of({{true, tr("On")}, {false, tr("Off")}})
               .when([this] { return !desk_.shown() || desk_.shown()->derived.printed; }));
    std::vector<std::pair<FitModel, QString>> models;
    for (const FitModel m : {FitModel::Auto, FitModel::Rigid, FitModel::Scaled, FitModel::Affine, FitModel::Projective})
        models.emplace_back(m, title(m));
    list(on(cut, &CutSpec::model)
             .id("cut-model")
             .label(tr("What the fit does"))
             .wide()
             .tip(tr("What the fit may do to the cut. In the mathematics' words: rigid, similarity, affine, projective"))
             .of(models)
             .when(fitted));
    choice(on(cut, &CutSpec::marksBy)
               .id("cut-marks-by")
               .label(tr("Marks by"))
               .tip(tr("The machine's own eye, a picture of its bed, or the head driven to each by hand"))
               .of({{MarksBy::Eye, tr("Eye")}, {MarksBy::Picture, tr("Picture")}, {MarksBy::Hand, tr("Hand")}})
               .when([this, fitted] { return fitted() && !plots(); }));
    // A machine that reads HPGL has no words for an eye.
    choice(by<MarksBy>([](Job& job) { return std::optional(job.cut.marksBy == MarksBy::Eye ? MarksBy::Picture : job.cut.marksBy); }, [](Job& job, const MarksBy& way) { job.cut.marksBy = way; })
               .id("cut-marks-by-sight")
               .label(tr("Marks by"))
               .tip(tr("A picture of the machine's bed, or the head driven to each by hand"))
               .of({{MarksBy::Picture, tr("Picture")}, {MarksBy::Hand, tr("Hand")}})
               .when([this, fitted] { return fitted() && plots(); }));
}

QPushButton* CutPanel::press(const char* id, const QString& text, const QString& tip, std::function<void()> run)
{
    auto* button = new QPushButton(text, this);
    button->setObjectName(QLatin1String(id));
    button->setToolTip(tip);
    connect(button, &QPushButton::clicked, this, std::move(run));
    return button;
}

QWidget* CutPanel::pair(QWidget* left, QWidget* right)
{
    auto* row = new QWidget(this);
    auto* layout = new QHBoxLayout(row);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(6);
    layout->addWidget(left, 1);
    layout->addWidget(right, 1);
    addWide(row);
    return row;
}

// The head driven to each mark; also on the bench, by the arrow keys.
void CutPanel::makeByHand()
{
    const auto byHand = [this] { return desk_.machining().usesFit() && desk_.job().cut.marksBy == MarksBy::Hand; };
    QStringList steps;
    for (const double mm : jogSteps)
        steps << yokai::number(mm, mm < 1 ? 1 : 0);
    steps << tr("held");
    steps_ = new Segmented(steps, this);
    steps_->setObjectName("jog-step");
    steps_->setAccessibleName(tr("Step"));
    steps_->setToolTip(tr("How far a press moves the head, mm; or for as long as it is held"));
    connect(steps_, &Segmented::chosen, this, [this](int index) {
        Hand hand = desk_.hand();
        hand.jog = index < int(std::size(jogSteps)) ? Length::mm(jogSteps[index]) : Length();
        desk_.setHand(hand);
    });
    const auto keep = [&](QWidget* group) {
        keepShown(group, byHand);
        if (QLabel* label = labelOf(group))
            keepShown(label, byHand);
    };
    auto* stepLabel = new QLabel(tr("Step"), this);
    addRow(stepLabel, steps_, nullptr);
    keepShown(steps_, byHand);
    keepShown(stepLabel, byHand);
    const auto arrow = [this](const char* icon, const QString& name, Point towards) {
        auto* button = new IconButton(QLatin1String(icon), name, name, this);
        button->setObjectName(QLatin1String(icon));
        connect(button, &IconButton::pressed, this, [this, towards] { edits::jogPressed(desk_, towards); });
        connect(button, &IconButton::released, this, [this] { desk_.machining().endJog(); });
        return button;
    };
    auto* home = new IconButton(QStringLiteral("jog-home"), tr("Home"), tr("The machine finds its corner"), this);
    home->setObjectName("jog-home");
    connect(home, &IconButton::clicked, this, [this] { desk_.machining().home(); });
    keep(addGroup(tr("Move"), {arrow("jog-left", tr("To the left"), {-1, 0}), arrow("jog-right", tr("To the right"), {1, 0}), arrow("jog-up", tr("Away"), {0, 1}),
                               arrow("jog-down", tr("Nearer"), {0, -1}), home},
                  tr("Moves the head; on the bench by the arrow keys")));
    take_ = press("mark-take", {}, tr("The mark is where the head is now (Enter, on the bench)"), [this] { edits::takeMark(desk_); });
    near_ = press("mark-near", tr("Go near"), tr("Drives the head to where the mark should be"), [this] { edits::goNearMark(desk_); });
    keepShown(pair(take_, near_), byHand);
}

void CutPanel::makePresses()
{
    find_ = press("cut-find", tr("Find marks"), tr("Looks for the sheet's marks where it should lie"), [this] { desk_.machining().findMarks(); });
    picture_ = press("cut-picture", tr("Open a picture\u2026"), tr("A photo or scan of the whole bed with the sheet on it"), [this] { openPicture(); });
    round_ = press("cut-round", tr("Run round"), tr("Once round all that will be cut, with the tool up"), [this] { desk_.machining().runRound(); });
    faint_ = press("cut-faint", tr("Faint pass"), tr("Along every line with next to no power; a blade stays up"), [this] { desk_.machining().faintPass(); });
    run_ = press("cut-run", tr("Cut"), {}, [this] { run(); });
    run_->setProperty("kind", "primary");
    corners_ = press("cut-corners", tr("Corners\u2026"), tr("Where the bed's four corners are in the picture"), [this] { desk_.machining().setCorners(); });
    keepShown(pair(picture_, corners_), [this] { return desk_.machining().usesFit() && desk_.job().cut.marksBy == MarksBy::Picture; });
    pair(find_, round_);
    pair(faint_, run_);
    note_ = addNote();
    goOn_ = press("cut-go-on", tr("Go on"), tr("From where it stopped; nothing is cut twice"), [this] { desk_.machining().goOn(); });
    goOn_->setProperty("kind", "primary");
    drop_ = press("cut-drop", tr("Forget it"), tr("What is left of it is not cut"), [this] { desk_.machining().dropLeft(); });
    keepShown(pair(goOn_, drop_), [this] { return desk_.machining().left().has_value() && !desk_.machining().busy(); });
}

void CutPanel::makeStandIn()
{
    const Scope<PlanSpec> plan = [](Job& job) { return &job.cut.plan; };
    const Scope<CutSpec> cut = [](Job& job) { return &job.cut; };
    const auto known = [this] { return desk_.job().cut.plan.machine.has_value(); };
    fold("cut-sheet", tr("Where the sheet lies"));
    number(on(plan, &PlanSpec::sheetX).id("cut-sheet-x").label(tr("Lies across")).tip(tr("From the bed's left edge to the sheet's, about")).when(known));
    number(on(plan, &PlanSpec::sheetY).id("cut-sheet-y").label(tr("Lies along")).tip(tr("From the bed's near edge to the sheet's, about")).when(known));
    number(on(cut, &CutSpec::maxResidual)
               .id("cut-residual")
               .label(tr("Residual"))
               .tip(tr("The largest allowed: a mark that stays farther off refuses the cut"))
               .step(0.05)
               .when([this] { return desk_.machining().usesFit(); }));
    endFold();
    fold("stand-in", tr("How the stand-in prints and loads"));
    const Scope<StandInSpec> standIn = [](Job& job) { return &job.cut.standIn; };
    tick(on(standIn, &StandInSpec::trueTime).id("standin-true-time").label(tr("In true time")).tip(tr("As slow as the machine is; else as fast as can be")));
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
    number(on(standIn, &StandInSpec::swell).id("standin-swell").label(tr("Swells by")).tip(tr("How far the paper comes out of shape, in waves as long as the sheet")).step(0.05));
    endFold();
}

void CutPanel::refreshRest()
{
    const Machining& machining = desk_.machining();
    refreshMachines();
    {
        const QSignalBlocker quiet(layer_);
        layer_->clear();
        layer_->addItem(tr("All at once"));
        if (const Shown* shown = desk_.shown())
            for (const DrawnLayer& layer : layersOf(shown->job, shown->derived))
                layer_->addItem(text(layer.name));
        layer_->setCurrentIndex(desk_.job().cut.layer.empty() ? 0 : layer_->findText(text(desk_.job().cut.layer), Qt::MatchExactly));
    }
    for (const auto& refresh : patchFields_)
        refresh();
    const int at = edits::selectedOperation(desk_);
    removeOperation_->setEnabled(at >= 0 && !desk_.job().cut.plan.operations[std::size_t(at)].name.empty());
    {
        const QSignalBlocker quiet(port_);
        port_->clear();
        port_->addItem(tr("Stand-in"), QString());
        for (const QString& port : machining.ports())
            port_->addItem(port, port);
        port_->addItem(tr("Another port\u2026"));
        port_->setCurrentIndex(std::max(0, port_->findData(machining.port())));
    }
    const auto step = std::find_if(std::begin(jogSteps), std::end(jogSteps), [this](double mm) { return desk_.hand().jog == Length::mm(mm); });
    steps_->setCurrent(int(step - std::begin(jogSteps)));
    refreshMachine();
}

// What changes while the machine is at it.
void CutPanel::refreshMachine()
{
    const Machining& machining = desk_.machining();
    const OnBed& bed = machining.onBed();
    QString why;
    const bool may = machining.mayCut(&why);
    if (why.isEmpty() && desk_.machining().usesFit())
        why = bed.refusal;
    if (bed.patch && why.isEmpty() && !bed.under)
        why = tr("Press the square that came out right.");
    if (const auto& left = machining.left(); left && !machining.busy()) {
        why = tr("A cut of '%1' stopped after %2 of %3 paths.").arg(text(left->name)).arg(left->runs).arg(left->program.done.size());
        if (!left->known)
            why += QLatin1Char(' ') + tr("Where it stopped is not known: look at the sheet before anything is cut.");
    }
    if (why.isEmpty())
        why = bed.planProblem;
    if (bed.corners && why.isEmpty())
        why = tr("Drag the four handles to the corners of the bed, then find the marks.");
    note_->setText(why);
    note_->setVisible(!why.isEmpty());
    const bool fits = !desk_.machining().usesFit() || bed.fit;
    run_->setText(machining.port().isEmpty() ? tr("Try the cut") : tr("Cut"));
    run_->setToolTip(machining.port().isEmpty() ? tr("Print on the stand-in, find the marks, fit, cut, and see where it landed") : tr("Finds the marks where that is still to be done, and cuts"));
    run_->setEnabled(may);
    // What is next is to finish what was begun.
    if (const QString kind = machining.left() ? QString() : QStringLiteral("primary"); run_->property("kind").toString() != kind) {
        run_->setProperty("kind", kind);
        run_->style()->unpolish(run_);
        run_->style()->polish(run_);
    }
    find_->setEnabled(may && desk_.machining().usesFit() && desk_.job().cut.marksBy != MarksBy::Hand);
    round_->setEnabled(may && fits);
    faint_->setEnabled(may && fits);
    picture_->setEnabled(may);
    patch_->setEnabled(may && desk_.job().cut.plan.material);
    corners_->setEnabled(may && bed.photo && !bed.corners);
    const int mark = edits::markToTake(desk_);
    take_->setText(mark < 0 ? tr("Take the mark") : tr("Take mark %1").arg(mark + 1));
    take_->setEnabled(mark >= 0 && bed.head && !bed.under);
    near_->setEnabled(mark >= 0 && !bed.under);
    goOn_->setEnabled(machining.left() && machining.left()->known);
    goOn_->parentWidget()->setVisible(machining.left().has_value() && !machining.busy());
}

void CutPanel::openPicture()
{
    const QString file = QFileDialog::getOpenFileName(window(), tr("A picture of the machine's bed"), QSettings().value("pictures").toString(),
                                                      pictureFiles() + tr(";;All files (*)"));
    if (!file.isEmpty())
        desk_.machining().openPhoto(file);
}

void CutPanel::run()
{
    const auto& left = desk_.machining().left();
    enum Again { Anew, Leave };
    const Revision of = desk_.revision();
    if (left && theme::ask(this, "cut-left", tr("'%1' is cut in part").arg(text(left->name)),
                           left->known ? tr("%1 of %2 paths are cut. Go on cuts what is left; a new cut forgets it, and cuts all from the beginning.").arg(left->runs).arg(left->program.done.size())
                                       : tr("%1 of %2 paths are surely cut, and where it stopped is not known. A new cut cuts all from the beginning; lay in a new sheet for it.")
                                             .arg(left->runs)
                                             .arg(left->program.done.size()),
                           {tr("Begin anew"), tr("Go back")}, Leave, Leave) != Anew)
        return;
    if (of != desk_.revision() || !desk_.machining().mayCut())
        return; // it is another job now than that which was asked about
    desk_.machining().cut([this](const QStringList& doubts) {
        enum Answer { Cut, Back };
        return theme::ask(this, "doubtful-fit", tr("Look at the fit first"), doubts.join(QLatin1Char('\n')),
                          {tr("Cut all the same"), tr("Go back")}, Back, Back) == Cut;
    });
}

} // namespace yokai
