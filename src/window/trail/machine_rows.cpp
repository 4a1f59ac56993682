// The Cut station's folds: how the selected operation is done, the machine's and the material's own settings, and the test patch.

#include "desk/machining.h"
#include "desk/operation_edits.h"
#include "formats/machine/own_files.h"
#include "machine/hazard.h"
#include "trail/panels.h"
#include "trail/shelf.h"
#include "words.h"

#include <QCoreApplication>
#include <QFileDialog>
#include <QFileInfo>
#include <QLabel>
#include <QPushButton>
#include <QSettings>
#include <QSignalBlocker>

namespace yokai {

namespace {

template <class T> const T* named(const std::vector<T>& all, const QString& name)
{
    const auto found = std::find_if(all.begin(), all.end(), [&](const T& t) { return text(t.name) == name; });
    return found == all.end() ? nullptr : &*found;
}
template <class T> QStringList namesOf(const std::vector<T>& all)
{
    QStringList out;
    for (const T& t : all)
        out << text(t.name);
    return out;
}

const QString degree = QStringLiteral("\u00b0"), percentSign = QStringLiteral(" %"), gram = QStringLiteral(" g");

} // namespace

// The machine and the material are put into the job as they are: it is whole wherever it is opened.
void CutPanel::makeMachine()
{
    const auto box = [this](const char* id, const QString& what, const QString& tip) {
        auto* list = new ChoiceBox(this);
        list->setObjectName(QLatin1String(id));
        list->setAccessibleName(what);
        list->setToolTip(tip);
        addWide(list);
        return list;
    };
    readShelf();
    machines_ = box("cut-machine", tr("Machine"), tr("What cuts: its bed, how fast it goes, its blade or its beam"));
    connect(machines_, &ChoiceBox::activated, this, [this](int index) { useMachine(index == 0 ? QString() : machines_->itemText(index)); });
    materials_ = box("cut-material", tr("Material"), tr("What is cut: speed, power or force and passes of each operation"));
    connect(materials_, &ChoiceBox::activated, this, [this](int index) { useMaterial(index == 0 ? QString() : materials_->itemText(index)); });
}

void CutPanel::useMachine(const QString& name)
{
    const OwnShelf shelf = openShelf(ownFolder());
    const Machine* machine = named(shelf.machines, name);
    if (!machine && !name.isEmpty())
        return; // the job's own
    QString doubt;
    desk_.edit(tr("choose the machine"), [&](Job& job) { doubt = edits::putMachine(job, machine ? std::optional(*machine) : std::nullopt); });
    edits::noteMachine(name);
    if (!doubt.isEmpty())
        desk_.say(doubt, Severity::Warning);
}

void CutPanel::useMaterial(const QString& name)
{
    const OwnShelf shelf = openShelf(ownFolder());
    const Material* material = named(shelf.materials, name);
    if (!material && !name.isEmpty())
        return;
    desk_.edit(tr("choose the material"), [&](Job& job) { job.cut.plan.material = material ? std::optional(*material) : std::nullopt; });
}

// From the maker's folder; again after what changes it, not at every refresh.
void CutPanel::readShelf()
{
    const OwnShelf shelf = openShelf(ownFolder());
    machineNames_ = namesOf(shelf.machines);
    materialNames_ = namesOf(shelf.materials);
}

// The names there are, and the job's own where it is none of them.
void CutPanel::refreshMachines()
{
    const auto fill = [](ChoiceBox* box, const QString& none, QStringList names, const QString& own) {
        if (!own.isEmpty() && !names.contains(own))
            names << own;
        const QSignalBlocker quiet(box);
        box->clear();
        box->addItem(none);
        box->addItems(names);
        box->setCurrentIndex(own.isEmpty() ? 0 : int(names.indexOf(own)) + 1);
    };
    const PlanSpec& plan = desk_.job().cut.plan;
    fill(machines_, tr("No machine: sheet is bed"), machineNames_, plan.machine ? text(plan.machine->name) : QString());
    fill(materials_, tr("No material: usual settings"), materialNames_, plan.material ? text(plan.material->name) : QString());
}

// How what is selected in the side list is done.
void CutPanel::makeOperation()
{
    const auto step = [this](Job& job) -> OperationStep* {
        const int at = edits::selectedOperation(desk_);
        return at < 0 || at >= int(job.cut.plan.operations.size()) ? nullptr : &job.cut.plan.operations[std::size_t(at)];
    };
    const auto any = [this] { return edits::selectedOperation(desk_) >= 0; };
    const auto is = [this](MachineKind kind) {
        const auto& machine = desk_.job().cut.plan.machine;
        return edits::selectedOperation(desk_) >= 0 && (machine ? machine->kind : MachineKind::Cutter) == kind;
    };
    const auto cuts = [is] { return is(MachineKind::Cutter); };
    const auto burns = [is] { return is(MachineKind::Laser); };
    fold("cut-operation", tr("The selected operation"));
    operationNote_ = addNote(tr("Select an operation in the list to see and change how it is done."));
    keepShown(operationNote_, [any] { return !any(); });
    enum class Does { Cut, Guide, Off };
    choice(by<Does>(
               [step](Job& job) -> std::optional<Does> {
                   const OperationStep* s = step(job);
                   return s ? std::optional(!s->on ? Does::Off : s->guide ? Does::Guide : Does::Cut) : std::nullopt;
               },
               [step](Job& job, const Does& does) {
                   if (OperationStep* s = step(job)) {
                       s->on = does != Does::Off;
                       s->guide = does == Does::Guide;
                   }
               })
               .id("operation-does")
               .label(tr("Does"))
               .tip(tr("Guide only: its lines are shown and never cut"))
               .of({{Does::Cut, tr("Cut")}, {Does::Guide, tr("Guide")}, {Does::Off, tr("Off")}})
               .when(any));
    // Over what the material says; all of it is taken over with the first that is changed.
    const auto setting = [step]<class T>(T ProcessSettings::*member) {
        RowSpec<T> row;
        row.get = [step, member](Job& job) -> std::optional<T> {
            const OperationStep* s = step(job);
            return s && s->settings ? std::optional<T>((*s->settings).*member) : std::nullopt;
        };
        row.set = [step, member](Job& job, const T& value) {
            if (OperationStep* s = step(job)) {
                ProcessSettings now = edits::settingsOf(job, *s);
                now.*member = value;
                s->settings = now;
            }
        };
        row.reset = [step](Job& job) {
            if (OperationStep* s = step(job))
                s->settings.reset();
        };
        return row;
    };
    const auto found = [this]<class T>(T ProcessSettings::*member) {
        return std::function<std::optional<T>()>([this, member]() -> std::optional<T> {
            const int at = edits::selectedOperation(desk_);
            return at < 0 ? std::nullopt : std::optional<T>(edits::settingsOf(desk_.job(), desk_.job().cut.plan.operations[std::size_t(at)]).*member);
        });
    };
    const QString automatic = tr("As the material says");
    number(setting(&ProcessSettings::speed).id("operation-speed").label(tr("Speed")).tip(tr("Along its lines; mm/s, mm/min, in/s and in/min are understood")).automatic(automatic).otherwise(found(&ProcessSettings::speed)).when(any));
    number(setting(&ProcessSettings::power).id("operation-power").label(tr("Power")).tip(tr("Of all the beam can")).within(0, 100).step(1, 1).suffix(percentSign).automatic(automatic).otherwise(found(&ProcessSettings::power)).when(burns));
    number(setting(&ProcessSettings::force).id("operation-force").label(tr("Force")).tip(tr("On the blade")).within(0, 10'000).step(5, 0).suffix(gram).automatic(automatic).otherwise(found(&ProcessSettings::force)).when(cuts));
    number(setting(&ProcessSettings::passes).id("operation-passes").label(tr("Passes")).tip(tr("How often the same way is gone")).within(1, 100).automatic(automatic).otherwise(found(&ProcessSettings::passes)).when(any));
    number(setting(&ProcessSettings::bladeDepth).id("operation-depth").label(tr("Blade depth")).tip(tr("How far the blade stands out; set on the holder by hand")).within(0, 20).automatic(automatic).otherwise(found(&ProcessSettings::bladeDepth)).when(cuts));
    number(setting(&ProcessSettings::focus).id("operation-focus").label(tr("Focus offset")).tip(tr("The beam's focus above the surface, for a wider line")).within(-50, 50).automatic(automatic).otherwise(found(&ProcessSettings::focus)).when(burns));
    auto* earlier = press("operation-earlier", tr("Earlier"), tr("Done before the one above it"), [this] { edits::moveOperation(desk_, -1); });
    auto* later = press("operation-later", tr("Later"), tr("Done after the one below it"), [this] { edits::moveOperation(desk_, 1); });
    keepShown(pair(earlier, later), any);
    auto* keep = press("operation-keep", tr("Keep in material"), tr("The material has these settings from now on, in this job and in those to come"), [this] { edits::keepInMaterial(desk_); });
    removeOperation_ = press("operation-remove", tr("Remove"), tr("An operation of one's own; its lines are on their kind's again"), [this] { edits::removeOperation(desk_); });
    keepShown(pair(keep, removeOperation_), any);
    tick(on(Scope<PlanSpec>([](Job& job) { return &job.cut.plan; }), &PlanSpec::byOperation)
             .id("cut-by-operation")
             .label(tr("All of one operation first"))
             .tip(tr("Else each copy is done whole before the next")));
    endFold();
}

void CutPanel::makeMachineFold()
{
    const auto part = []<class S>(S Machine::*member) {
        return Scope<S>([member](Job& job) -> S* { return job.cut.plan.machine ? &((*job.cut.plan.machine).*member) : nullptr; });
    };
    const Scope<Machine> machine = [](Job& job) { return job.cut.plan.machine ? &*job.cut.plan.machine : nullptr; };
    const auto any = [this] { return desk_.job().cut.plan.machine.has_value(); };
    const auto laser = [this] { return desk_.job().cut.plan.machine && desk_.job().cut.plan.machine->kind == MachineKind::Laser; };
    const auto cutter = [this] { return desk_.job().cut.plan.machine && desk_.job().cut.plan.machine->kind == MachineKind::Cutter; };
    const auto eye = [this] { return desk_.job().cut.plan.machine && desk_.job().cut.plan.machine->eye.kind != Eye::None; };
    fold("cut-machine-fold", tr("The machine's own settings"));
    keepShown(addNote(tr("Choose the machine nearest to yours, change what differs, and keep it under a name of its own.")), [any] { return !any(); });
    words(on(machine, &Machine::name).id("machine-name").label(tr("Name")).tip(tr("Under which it is kept")).when(any));
    choice(on(machine, &Machine::kind).id("machine-kind").label(tr("Cuts with")).tip(tr("A blade that is drawn along, or a beam")).of({{MachineKind::Cutter, tr("Blade")}, {MachineKind::Laser, tr("Laser")}}).when(any));
    choice(on(machine, &Machine::dialect).id("machine-dialect").label(tr("Reads")).tip(tr("The language of its programs")).of({{Dialect::Gcode, tr("G-code")}, {Dialect::Hpgl, tr("HPGL")}}).when(any));
    number(on(part(&Machine::bed), &BedSpec::width).id("machine-width").label(tr("Bed across")).tip(tr("How far it reaches to the side")).step(10).when(any));
    number(on(part(&Machine::bed), &BedSpec::depth).id("machine-depth").label(tr("Bed along")).tip(tr("How far it reaches away from you")).step(10).when(any));
    list(on(part(&Machine::bed), &BedSpec::origin)
             .id("machine-origin")
             .label(tr("Counts from"))
             .tip(tr("The corner of the bed that is 0, 0 to the machine"))
             .of({{BedCorner::NearLeft, tr("Near left")}, {BedCorner::NearRight, tr("Near right")}, {BedCorner::FarLeft, tr("Far left")}, {BedCorner::FarRight, tr("Far right")}})
             .when(any));
    tick(on(part(&Machine::bed), &BedSpec::xLeft).id("machine-x-left").label(tr("X counts to the left")).tip(tr("Else to the right")).when(any));
    tick(on(part(&Machine::bed), &BedSpec::yNear).id("machine-y-near").label(tr("Y counts towards you")).tip(tr("Else away from you")).when(any));
    number(on(part(&Machine::motion), &MotionSpec::topSpeed).id("machine-top-speed").label(tr("Top speed")).tip(tr("With the tool up")).when(any));
    number(on(part(&Machine::motion), &MotionSpec::acceleration).id("machine-acceleration").label(tr("Acceleration")).tip(tr("In mm/s\u00b2; times are foretold by it")).step(100, 0).when(any));
    number(on(part(&Machine::tool), &ToolSpec::kerf).id("machine-kerf").label(tr("Kerf")).tip(tr("The width that the cut takes away: pieces come out true to size")).step(0.05).when(any));
    number(on(part(&Machine::tool), &ToolSpec::bladeOffset).id("machine-blade-offset").label(tr("Blade offset")).tip(tr("How far the tip trails behind the holder's middle")).step(0.05).when(cutter));
    number(on(part(&Machine::tool), &ToolSpec::swivelFrom).id("machine-swivel").label(tr("Swivel from")).tip(tr("At corners sharper than this the blade is turned on its tip")).step(5, 0).suffix(degree).when(cutter));
    number(on(part(&Machine::tool), &ToolSpec::overcut).id("machine-overcut").label(tr("Overcut")).tip(tr("Past the start of a closed line, so that it closes")).when(any));
    number(on(part(&Machine::tool), &ToolSpec::leadIn).id("machine-lead-in").label(tr("Lead-in")).tip(tr("Begins so far beside the line, in the waste")).when(any));
    number(on(part(&Machine::tool), &ToolSpec::leadOut).id("machine-lead-out").label(tr("Lead-out")).tip(tr("Ends so far beside the line, in the waste")).when(any));
    number(on(part(&Machine::tool), &ToolSpec::forceMost).id("machine-force").label(tr("Most force")).tip(tr("Of the blade")).step(10, 0).suffix(gram).when(cutter));
    number(on(part(&Machine::tool), &ToolSpec::powerMost).id("machine-power").label(tr("S of all power")).tip(tr("What the program says for all of the power, or of the force")).step(100, 0).when(any));
    choice(on(part(&Machine::tool), &ToolSpec::by).id("machine-tool-by").label(tr("Tool down by")).tip(tr("M3 and M5, or the height of Z")).of({{ToolBy::Spindle, tr("M3, M5")}, {ToolBy::Height, tr("Z")}}).when(any));
    tick(on(part(&Machine::tool), &ToolSpec::powerFollowsSpeed).id("machine-m4").label(tr("Power follows speed (M4)")).tip(tr("Less power where corners slow it down")).when(laser));
    tick(on(machine, &Machine::arcs).id("machine-arcs").label(tr("Knows arcs (G2, G3)")).tip(tr("Else curves go out as short lines")).when(any));
    tick(on(machine, &Machine::inches).id("machine-inches").label(tr("Program in inches")).tip(tr("G20 instead of G21")).when(any));
    choice(on(part(&Machine::eye), &EyeSpec::kind).id("machine-eye").label(tr("Eye")).tip(tr("What it finds marks with")).of({{Eye::None, tr("None")}, {Eye::Sensor, tr("Sensor")}, {Eye::Camera, tr("Camera")}}).when(any));
    number(on(part(&Machine::eye), &EyeSpec::x).id("machine-eye-x").label(tr("Eye across")).tip(tr("Where it looks, to the right of the tool")).when(eye));
    number(on(part(&Machine::eye), &EyeSpec::y).id("machine-eye-y").label(tr("Eye along")).tip(tr("Where it looks, beyond the tool")).when(eye));
    number(on(part(&Machine::link), &LinkSpec::baud).id("machine-baud").label(tr("Link speed")).tip(tr("In baud, as the machine's own papers say")).step(9600, 0).when(any));
    number(on(part(&Machine::link), &LinkSpec::buffer).id("machine-buffer").label(tr("Buffer")).tip(tr("Characters the machine takes in before it answers")).when(any));
    keepOwn<Machine>("machine", {tr("Import\u2026"), tr("Export\u2026"), tr("Keep"), tr("Forget")}, tr("Machines (*.json)"), [](Job& job) -> std::optional<Machine>& { return job.cut.plan.machine; }, openMachine, writeMachine, keepMachine, dropMachine);
    endFold();
}

void CutPanel::makeMaterialFold()
{
    const Scope<Material> material = [](Job& job) { return job.cut.plan.material ? &*job.cut.plan.material : nullptr; };
    const auto any = [this] { return desk_.job().cut.plan.material.has_value(); };
    fold("cut-material-fold", tr("The material's own settings"));
    keepShown(addNote(tr("Choose the material nearest to yours, change what differs, and keep it under a name of its own.")), [any] { return !any(); });
    words(on(material, &Material::name).id("material-name").label(tr("Name")).tip(tr("Under which it is kept")).when(any));
    number(on(material, &Material::thickness).id("material-thickness").label(tr("Thickness")).tip(tr("Of what is cut")).step(0.05).when(any));
    std::vector<std::pair<BurnHazard, QString>> hazards;
    for (const HazardFacts& h : hazardTable)
        hazards.emplace_back(h.hazard, QCoreApplication::translate("Hazard", h.title));
    list(on(material, &Material::hazard).id("material-hazard").label(tr("Burnt, it gives off")).tip(tr("What must not be burnt is refused to a laser, with the reason")).of(hazards).when(any));
    keepOwn<Material>("material", {tr("Import\u2026"), tr("Export\u2026"), tr("Keep"), tr("Forget")}, tr("Materials (*.json)"), [](Job& job) -> std::optional<Material>& { return job.cut.plan.material; }, openMaterial, writeMaterial, keepMaterial, dropMaterial);
    endFold();
    makePatch();
}

// To and from files, and the maker's own folder.
template <class T>
void CutPanel::keepOwn(const char* what, const QStringList& titles, const QString& filter, std::optional<T>& (*in)(Job&), T (*open)(const std::filesystem::path&),
                       Bytes (*write)(const T&), void (*keep)(const std::filesystem::path&, const T&), void (*drop)(const std::filesystem::path&, const std::string&))
{
    const auto id = [what](const char* does) { return QByteArray(what) + '-' + does; };
    const auto guarded = [this](const std::function<void()>& run) {
        try {
            run();
        } catch (const Error& e) {
            desk_.say(yokai::words(e), Severity::Error);
        }
        readShelf();
        refresh();
    };
    const auto now = [this, in] { return in(const_cast<Job&>(desk_.job())); };
    auto* import = press(id("import"), titles[0], tr("From a file"), [=, this] {
        const QString file = QFileDialog::getOpenFileName(window(), titles[0], QSettings().value("machines").toString(), filter);
        if (!file.isEmpty())
            guarded([&] {
                QSettings().setValue("machines", QFileInfo(file).absolutePath());
                const T opened = open(file.toStdString());
                keep(ownFolder(), opened);
                desk_.edit(tr("import"), [&](Job& job) { in(job) = opened; });
            });
    });
    auto* exported = press(id("export"), titles[1], tr("To a file, for others or for another computer"), [=, this] {
        if (!now())
            return;
        QFileDialog dialog(window(), titles[1], QSettings().value("machines").toString(), filter);
        dialog.setAcceptMode(QFileDialog::AcceptSave);
        dialog.setDefaultSuffix(QStringLiteral("json"));
        dialog.selectFile(text(now()->name) + QStringLiteral(".json"));
        if (dialog.exec() == QDialog::Accepted && !dialog.selectedFiles().isEmpty())
            guarded([&] { writeFile(dialog.selectedFiles().first().toStdString(), write(*now())); });
    });
    auto* kept = press(id("keep"), titles[2], tr("Under its name, for the jobs to come"), [=, this] {
        if (now())
            guarded([&] {
                keep(ownFolder(), *now());
                desk_.say(tr("Kept '%1'.").arg(text(now()->name)));
            });
    });
    auto* forgotten = press(id("forget"), titles[3], tr("Takes away what was kept under its name; the job still has it"), [=, this] {
        if (now())
            guarded([&] { drop(ownFolder(), now()->name); });
    });
    const auto any = [now] { return now().has_value(); };
    keepShown(pair(import, exported), {});
    keepShown(pair(kept, forgotten), any);
}

// Squares at speeds and powers of their own; the one that came out right is pressed on the bench.
void CutPanel::makePatch()
{
    fold("cut-patch", tr("Test patch"));
    keepShown(addNote(tr("A grid of squares, each at a speed and a strength of its own. Press the one that came out right: the material has its settings.")), {});
    const auto fieldOf = [this](const char* id, const QString& label, const QString& tip, NumberField::Meaning meaning, std::function<void(NumberField&, const PatchSpec&)> show, std::function<void(PatchSpec&, const NumberField&)> put) {
        auto* field = new NumberField(meaning, this);
        field->setObjectName(QLatin1String(id));
        field->setAccessibleName(label);
        field->setToolTip(tip);
        auto* scrub = new ScrubLabel(label, field, this);
        scrub->setToolTip(tip);
        addRow(scrub, nullptr, field);
        keepShown(field, {});
        keepShown(scrub, {});
        connect(field, &NumberField::edited, this, [this, field, put] {
            PatchSpec spec = desk_.machining().patchSpec();
            put(spec, *field);
            desk_.machining().setPatchSpec(spec);
            refreshMachine();
        });
        patchFields_.push_back([this, field, show] {
            field->setUnit(desk_.unit());
            show(*field, desk_.machining().patchSpec());
        });
        return field;
    };
    using Meaning = NumberField::Meaning;
    fieldOf("patch-slowest", tr("Slowest"), tr("Speed of the first column"), Meaning::Speed, [](NumberField& f, const PatchSpec& p) { f.setLength(p.slowest.perMinute); }, [](PatchSpec& p, const NumberField& f) { p.slowest = {f.length()}; })->setRange(1, 1e6);
    fieldOf("patch-fastest", tr("Fastest"), tr("Speed of the last column"), Meaning::Speed, [](NumberField& f, const PatchSpec& p) { f.setLength(p.fastest.perMinute); }, [](PatchSpec& p, const NumberField& f) { p.fastest = {f.length()}; })->setRange(1, 1e6);
    constexpr double mostForce = 10'000;
    fieldOf("patch-least", tr("From"), tr("Power or force of the first row"), Meaning::Number, [](NumberField& f, const PatchSpec& p) { f.setNumber(p.least); }, [](PatchSpec& p, const NumberField& f) { p.least = f.number(); })->setRange(0, mostForce);
    fieldOf("patch-most", tr("To"), tr("Power or force of the last row"), Meaning::Number, [](NumberField& f, const PatchSpec& p) { f.setNumber(p.most); }, [](PatchSpec& p, const NumberField& f) { p.most = f.number(); })->setRange(0, mostForce);
    for (const auto& [id, label, member] : {std::tuple("patch-columns", tr("Columns"), &PatchSpec::columns), std::tuple("patch-rows", tr("Rows"), &PatchSpec::rows)}) {
        auto* field = fieldOf(id, label, tr("Squares"), Meaning::Number, [member](NumberField& f, const PatchSpec& p) { f.setNumber(p.*member); }, [member](PatchSpec& p, const NumberField& f) { p.*member = int(std::lround(f.number())); });
        constexpr int most = 20;
        field->setRange(1, most);
        field->setStep(1);
        field->setDecimals(0);
    }
    patch_ = press("patch-cut", tr("Cut the patch"), tr("Where the sheet should lie; its settings go to the selected operation's, or to the through cut"), [this] { desk_.machining().cutPatch(); });
    auto* away = press("patch-away", tr("Put it away"), tr("Shows the sheet again"), [this] { desk_.machining().putPatchAway(); });
    keepShown(pair(patch_, away), {});
    endFold();
}

} // namespace yokai
