#include "desk/machining_tasks.h"

#include "formats/program/onto_print.h"
#include "machine/hazard.h"
#include "words.h"

#include <QApplication>
#include <QSerialPortInfo>
#include <QSettings>
#include <QWidget>
#include <QWindow>

#include <algorithm>

namespace yokai {

namespace {

// Whether a sheet that was printed and laid in for one is that of the other.
bool sameSheet(const Job& a, const Job& b)
{
    if (!(a.cut.standIn == b.cut.standIn && a.cut.plan.machine == b.cut.plan.machine && a.cut.plan.sheetX == b.cut.plan.sheetX &&
          a.cut.plan.sheetY == b.cut.plan.sheetY))
        return false;
    Job other = a;
    other.cut = b.cut;
    other.check = b.check;
    other.name = b.name;
    other.ids = b.ids;
    return other == b;
}

LineKind kindOf(Operation o)
{
    for (const LineKind kind : lineKinds)
        for (const bool inner : {false, true})
            if (operationOf(kind, inner) == o)
                return kind;
    return LineKind::Through;
}

} // namespace

std::shared_ptr<const Planned> drawn(Plan plan, const std::optional<Fit>& fit)
{
    constexpr double step = 0.1; // mm
    auto out = std::make_shared<Planned>();
    std::vector<Polyline> lines = cutsOf(plan, step);
    for (std::size_t k = 0; k < lines.size(); ++k)
        out->lines.push_back({kindOf(plan.steps[std::size_t(plan.runs[k].step)].operation), std::move(lines[k])});
    out->plan = std::move(plan);
    out->fit = fit;
    return out;
}

std::vector<MarkPair> OnBed::pairs() const
{
    std::vector<MarkPair> out;
    for (const MarkSeen& m : marks)
        if (m.measured)
            out.push_back({m.design, *m.measured});
    return out;
}

bool OnBed::measured() const
{
    return std::any_of(marks.begin(), marks.end(), [](const MarkSeen& m) { return m.measured.has_value(); });
}

MachineLine& Machining::There::reach(const Asked& asked, const Work& work, const std::function<void(BedPicture)>& seen)
{
    if (!asked.port.isEmpty()) {
        bed.reset();
        LinkSpec link = asked.machine().link;
        link.port = asked.port.toStdString();
        if (!line || !(line->link() == link) || line->dialect() != asked.machine().dialect)
            line = std::make_unique<MachineLine>(link, asked.machine());
        if (asked.shown)
            order = orderOf(asked.shown->job, asked.shown->derived, asked.sheet, work);
        return *line;
    }
    if (!asked.shown)
        throw Error(ErrorKind::Device, "the stand-in has no sheet yet; find the marks or cut first");
    if (!bed || asked.freshSheet || sheet != asked.sheet || !sameSheet(laid, asked.shown->job)) {
        line.reset();
        bed.reset();
        bed = std::make_unique<TestBed>(asked.shown->job, asked.shown->derived, asked.sheet, standInProgram(), work);
        line = std::make_unique<MachineLine>(bed->link(), machineOf(bed->order()));
        laid = asked.shown->job;
        sheet = asked.sheet;
        seen(bed->picture(*line, work));
    }
    order = bed->order();
    // What of the order does not lie in the sheet may have changed since.
    order.spec.useFit = asked.cut.useFit && asked.shown->derived.printed;
    order.spec.model = asked.cut.model;
    order.spec.maxResidual = asked.cut.maxResidual;
    order.spec.plan.material = asked.cut.plan.material;
    order.spec.plan.operations = asked.cut.plan.operations;
    order.spec.plan.byOperation = asked.cut.plan.byOperation;
    order.spec.plan.way = asked.cut.plan.way;
    return *line;
}

Machining::Machining(Desk& desk) : desk_(desk), there_(std::make_shared<There>())
{
    port_ = QSettings().value("cut/port").toString();
    line_.atEnd([there = there_] { there->close(); });
    connect(&line_, &Background::progressed, this, &Machining::progressed);
    connect(&line_, &Background::said, this, &Machining::said);
    connect(&line_, &Background::changed, this, &Machining::changed);
    for (const auto signal : {&Desk::jobChanged, &Desk::shownChanged, &Desk::viewChanged})
        connect(&desk, signal, this, &Machining::look);
    // A key that is held is let go in another window: whatever takes the focus ends a jog.
    connect(qApp, &QApplication::focusChanged, this, &Machining::endJog);
    connect(qApp, &QGuiApplication::focusWindowChanged, this, &Machining::endJog);
    connect(qApp, &QGuiApplication::applicationStateChanged, this, &Machining::endJog);
    connect(&planner_, &Background::changed, this, &Machining::look); // what was asked for meanwhile is planned when it has ended
    lookForLeft();
}

Machining::~Machining() = default;

void Machining::post(std::function<void()> change)
{
    QMetaObject::invokeMethod(this, std::move(change), Qt::QueuedConnection);
}

void Machining::setPort(const QString& port)
{
    if (port == port_ || busy())
        return;
    port_ = port;
    QSettings settings;
    settings.setValue("cut/port", port);
    if (QStringList used = settings.value("cut/ports").toStringList(); !port.isEmpty() && !used.contains(port)) {
        constexpr qsizetype most = 8;
        used.prepend(port);
        settings.setValue("cut/ports", used.mid(0, most));
    }
    onBed_.head.reset();
    onBed_.picture.reset();
    loading_ = loading();
    forgetMarks();
}

QStringList Machining::ports() const
{
    QStringList out;
    for (const QSerialPortInfo& info : QSerialPortInfo::availablePorts())
        out << info.systemLocation();
    for (const QString& used : QSettings().value("cut/ports").toStringList())
        if (!out.contains(used))
            out << used;
    if (!port_.isEmpty() && !out.contains(port_))
        out << port_;
    return out;
}

Machining::Loading Machining::loading() const
{
    const PlanSpec& plan = desk_.job().cut.plan;
    Loading out{desk_.sheet(), plan.machine, plan.sheetX, plan.sheetY, port_};
    if (out.machine) { // how fast it goes and with what moves no sheet
        out.machine->motion = {};
        out.machine->tool = {};
    }
    return out;
}

// Whether it is another sheet now than that of which something is known, or lies otherwise.
void Machining::look()
{
    if (const Loading now = loading(); !(now == loading_)) {
        loading_ = now;
        // What was seen of the bed is of what lay there then.
        onBed_.photo.reset();
        onBed_.corners.reset();
        onBed_.picture.reset();
        laidFor_.reset();
        forgetMarks();
    }
    const Shown* shown = desk_.shown();
    if (!shown && (onBed_.planned || !onBed_.planProblem.isEmpty() || !onBed_.marks.empty())) { // another job: nothing that is known is of it
        onBed_.planned.reset();
        onBed_.planProblem.clear();
        onBed_.marks.clear();
        fit();
        emit changed();
    }
    if (!shown || !desk_.upToDate())
        return;
    std::vector<MarkSeen> marks;
    for (const Mark& m : cutMarksOf(shown->job, shown->derived))
        marks.push_back({{m.centre.x, shown->derived.sheet.height - m.centre.y}, {}});
    const bool same = std::equal(marks.begin(), marks.end(), onBed_.marks.begin(), onBed_.marks.end(),
                                 [](const MarkSeen& a, const MarkSeen& b) { return a.design == b.design; });
    const bool otherSheet = port_.isEmpty() && onBed_.picture && laidFor_ && !sameSheet(*laidFor_, shown->job);
    if (!same || otherSheet) {
        onBed_.marks = std::move(marks);
        if (otherSheet) {
            onBed_.photo.reset();
            onBed_.picture.reset();
            laidFor_.reset();
        }
    }
    if (desk_.station() == Station::Cut)
        plan();
    if (marksOf_ != desk_.revision() || !same || otherSheet) {
        marksOf_ = desk_.revision();
        onBed_.stopped.reset();
        fit();
        emit changed();
    }
}

void Machining::fit()
{
    onBed_.fit.reset();
    onBed_.refusal.clear();
    onBed_.doubts.clear();
    const Shown* shown = desk_.shown();
    const std::vector<MarkPair> pairs = onBed_.pairs();
    if (!shown || pairs.size() < 2 || !usesFit())
        return;
    CutOrder order;
    order.spec = desk_.job().cut;
    order.sheet.width = shown->derived.sheet.width;
    order.sheet.height = shown->derived.sheet.height;
    try {
        const Fit fit = fitOf(order, pairs);
        onBed_.doubts = doubtsOf(fit, pairs.size(), desk_.job().check.drift.mm());
        onBed_.fit = fit;
    } catch (const Error& e) {
        onBed_.refusal = words(e);
    }
}

// In the background, for where the sheet should lie.
void Machining::plan()
{
    if (!desk_.current() || (plannedOf_ == desk_.revision() && plannedSheet_ == desk_.sheet()))
        return;
    planner_.stop();
    if (planner_.busy())
        return; // looked at again when it has ended
    plannedOf_ = desk_.revision();
    plannedSheet_ = desk_.sheet();
    const auto shown = desk_.sharedShown();
    auto made = std::make_shared<std::shared_ptr<const Planned>>();
    auto problem = std::make_shared<QString>();
    planner_.start(
        {},
        [shown, made, problem, sheet = plannedSheet_](const Work& work) -> QString {
            const CutOrder order = orderOf(shown->job, shown->derived, sheet, work);
            try {
                *made = drawn(planOfSheet(order.sheet, order.spec.plan, {}, work), {});
            } catch (const Error& e) { // said where the plan would stand
                *problem = words(e);
            }
            return {};
        },
        [this, made, problem, of = plannedOf_] {
            if (of == desk_.revision()) {
                onBed_.planned = *made;
                onBed_.planProblem = *problem;
            }
            emit changed();
        });
}

bool Machining::usesFit() const
{
    const Shown* shown = desk_.shown();
    return desk_.job().cut.useFit && (!shown || shown->derived.printed);
}

bool Machining::mayCut(QString* why) const
{
    const auto refused = [&](const QString& text) {
        if (why)
            *why = text;
        return false;
    };
    const Shown* shown = desk_.shown();
    if (!shown || shown->derived.sheet.placements.empty())
        return refused({});
    if (const QString text = yokai::refusal(shown->derived, shown->job, desk_.unit()); !text.isEmpty())
        return refused(text);
    const auto& machine = desk_.job().cut.plan.machine;
    const bool engraves = std::any_of(shown->derived.pieces.begin(), shown->derived.pieces.end(), [](const PieceResult& p) {
        return std::any_of(p.layers.begin(), p.layers.end(), [](const LayerResult& l) { return l.engraving != nullptr; });
    });
    const std::vector<DrawnLayer> layers = layersOf(shown->job, shown->derived);
    if (const std::string& wanted = desk_.job().cut.layer;
        !wanted.empty() && !layers.empty() && std::none_of(layers.begin(), layers.end(), [&](const DrawnLayer& l) { return l.name == wanted; }))
        return refused(tr("The layer “%1” that was to be cut is not there any more; choose another, or all at once.").arg(text(wanted)));
    if (engraves && machine && !canEngrave(*machine))
        return refused(tr("%1 cannot engrave: that takes a laser that is told its power in G-code. Choose another machine, or have the picture printed.").arg(text(machine->name)));
    if (const auto hazard = hazardOf(machine, desk_.job().cut.plan.material))
        return refused(words(*hazard));
    if (!port_.isEmpty() && !desk_.job().cut.plan.machine)
        return refused(tr("Choose the machine that is connected there: how large and how fast it is must be known."));
    return desk_.current() && !busy();
}

Machining::Asked Machining::asked(bool freshSheet)
{
    Asked out;
    if (desk_.upToDate())
        out.shown = desk_.sharedShown();
    out.cut = desk_.job().cut;
    out.cut.useFit = usesFit();
    out.sheet = desk_.sheet();
    out.port = port_;
    out.freshSheet = freshSheet && port_.isEmpty() && sheetCut_;
    out.fit = onBed_.fit;
    out.marks = onBed_.pairs();
    out.name = desk_.job().name;
    return out;
}

void Machining::start(const QString& what, const Asked& asked, std::function<QString(const Asked&, MachineLine&, const Work&)> task, std::function<void()> after)
{
    control_->hold = false; // one that was held and stopped is held no more
    line_.start(
        what,
        [this, asked, there = there_, task = std::move(task)](const Work& work) -> QString {
            MachineLine& line = there->reach(asked, work, [this, job = asked.shown ? asked.shown->job : Job{}](BedPicture picture) {
                post([this, job, picture = std::make_shared<const BedPicture>(std::move(picture))] {
                    onBed_.picture = picture;
                    laidFor_ = std::make_shared<const Job>(job);
                    sheetCut_ = false;
                    emit changed();
                });
            });
            try {
                return task(asked, line, work);
            } catch (const LinkLost&) {
                line.close();
                if (asked.port.isEmpty())
                    there->close(); // a new one is started when it is needed
                throw;
            }
        },
        std::move(after));
}

} // namespace yokai
