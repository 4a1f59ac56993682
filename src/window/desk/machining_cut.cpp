// What is cut, tried, held, stopped and gone on with.

#include "desk/machining_tasks.h"

#include "desk/operation_edits.h"
#include "formats/machine/own_files.h"
#include "words.h"

#include <QCoreApplication>
#include <QElapsedTimer>
#include <QScopeGuard>
#include <QStandardPaths>

#include <algorithm>

namespace yokai {

namespace {

constexpr int seenEveryMs = 100; // how often the window hears of what goes on: the eye follows no faster
constexpr Speed roundSpeed = Speed::mmPerSecond(80); // of a look round the outside, for the eye to follow

std::filesystem::path cutFolder()
{
    return (QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation) + QStringLiteral("/cut")).toStdString();
}

} // namespace

// "Kiss · 12 of 24": how far it is within its operation.
QString Machining::atWhat(const Planned* planned, std::size_t runs, std::size_t of)
{
    if (!planned || runs >= planned->plan.runs.size())
        return tr("%1 of %2").arg(runs).arg(of);
    const auto& all = planned->plan.runs;
    const int step = all[runs].step;
    const auto isOf = [step](const ToolRun& run) { return run.step == step; };
    const auto before = std::count_if(all.begin(), all.begin() + std::ptrdiff_t(runs), isOf), whole = std::count_if(all.begin(), all.end(), isOf);
    const PlannedStep& is = planned->plan.steps[std::size_t(step)];
    return (is.name.empty() ? QCoreApplication::translate("Operation", facts(is.operation).title) : yokai::text(is.name)) + QStringLiteral(" \u00b7 ") +
           tr("%1 of %2").arg(before).arg(whole);
}

CutWatch Machining::watch(std::shared_ptr<const Planned> planned, const Program& program, const Work& work)
{
    struct Last {
        QElapsedTimer run, head;
    };
    auto last = std::make_shared<Last>();
    CutWatch out;
    const std::size_t of = program.done.size();
    const auto left = [program = &program](std::size_t runs) { return program->seconds - (runs > 0 ? program->doneBy[runs - 1] : 0); };
    out.run = [this, last, of, left, planned, &work, seconds = program.seconds](std::size_t runs) {
        if (runs < of && last->run.isValid() && last->run.elapsed() < seenEveryMs)
            return;
        last->run.start();
        const QString text = atWhat(planned.get(), runs, of) + QStringLiteral(" \u00b7 ") + tr("%1 left").arg(timeText(left(runs)));
        work.report(seconds > 0 ? 1 - left(runs) / seconds : 0, text.toStdString());
        post([this, runs, seconds = left(runs)] {
            if (onBed_.under) {
                onBed_.under->runs = runs;
                onBed_.under->left = seconds;
            }
            emit headMoved();
        });
    };
    out.at = [this, last](Point at, MachineState state) {
        if (last->head.isValid() && last->head.elapsed() < seenEveryMs)
            return;
        last->head.start();
        post([this, at, state] {
            onBed_.head = Head{at, state};
            emit headMoved();
        });
    };
    return out;
}

// From the first path, or from where it was left.
QString Machining::stream(MachineLine& line, CutRun& run, const Machine& machine, const Program& program, std::shared_ptr<const Planned> planned, const Work& work)
{
    const CutWatch watched = watch(planned, program, work);
    post([this, planned, runs = run.runsDone(), of = program.done.size(), seconds = program.seconds] {
        onBed_.under = Under{planned, runs, of, seconds, false};
        if (planned) // else the one that was stopped is gone on with
            onBed_.stopped.reset();
        emit changed();
    });
    struct Ended {
        Machining& of;
        ~Ended()
        {
            of.post([m = &of] {
                m->onBed_.under.reset();
                emit m->changed();
            });
        }
    } const ended{*this};
    const Work quiet{work.stop, {}}; // told in words of its own
    try {
        if (run.canGoOn())
            run.goOn(*control_, watchOf(run, machine, watched), quiet);
        else
            run.start(*control_, watchOf(run, machine, watched), quiet);
        seen(line.reached(work), machine, work);
        return {};
    } catch (const Cancelled&) {
        return tr("Stopped, with the tool up: %1 of %2 paths are done.").arg(run.runsDone()).arg(program.done.size());
    }
}

void Machining::runRound()
{
    if (!mayCut() || (usesFit() && !onBed_.fit))
        return;
    start(tr("Running round"), asked(false), [this, there = there_](const Asked& with, MachineLine& line, const Work& work) -> QString {
        const Plan plan = planFor(there->order, with.fit, work);
        const Program program = yokai::runRound(plan.machine, outsideOf(plan), roundSpeed);
        CutRun run(line, program);
        return stream(line, run, plan.machine, program, drawn(plan, with.fit), work);
    });
}

void Machining::faintPass()
{
    if (!mayCut() || (usesFit() && !onBed_.fit))
        return;
    start(tr("Faint pass"), asked(false), [this, there = there_](const Asked& with, MachineLine& line, const Work& work) -> QString {
        const Plan plan = planFor(there->order, with.fit, work);
        const Program program = programOf(plan, Trial::Faint);
        CutRun run(line, program);
        return stream(line, run, plan.machine, program, drawn(plan, with.fit), work);
    });
}

void Machining::cut(std::function<bool(const QStringList& doubts)> sure)
{
    if (!mayCut())
        return;
    const CutSpec& spec = desk_.job().cut;
    // On a port what was cut is forgotten when it is done (loading_); the simulator lays in a new sheet.
    if (usesFit() && (!onBed_.fit || (port_.isEmpty() && sheetCut_))) {
        if (!onBed_.refusal.isEmpty() && onBed_.measured() && !sheetCut_)
            emit said(onBed_.refusal, int(Severity::Error));
        else if (spec.marksBy != MarksBy::Eye)
            emit said(tr("The marks are not found yet; find two of them or more."), int(Severity::Warning));
        if (spec.marksBy != MarksBy::Eye || (!onBed_.refusal.isEmpty() && !sheetCut_))
            return;
        forgetMarks(); // they are found on the way
    } else if (!onBed_.doubts.empty()) {
        const Revision of = desk_.revision();
        const auto before = onBed_.pairs();
        if (!sure(doubtWords()))
            return;
        // While it was asked the job, the sheet or the marks may have become others.
        const auto now = onBed_.pairs();
        const bool same = std::equal(before.begin(), before.end(), now.begin(), now.end(), [](const MarkPair& a, const MarkPair& b) { return a.design == b.design && a.measured == b.measured; });
        if (of != desk_.revision() || !same || !onBed_.fit || !mayCut()) {
            emit said(tr("The job changed meanwhile; look at it, and cut again."), int(Severity::Warning));
            return;
        }
    }
    const Asked with = asked(true);
    if (!with.shown)
        return;
    auto result = std::make_shared<TestCutResult>();
    auto done = std::make_shared<bool>(false);
    std::filesystem::path folder;
    if (!port_.isEmpty() && lockFolder())
        folder = cutFolder();
    start(
        tr("Cutting"), with,
        [this, there = there_, result, done, folder](const Asked& asked, MachineLine& line, const Work& work) -> QString {
            CutDone cut;
            cut.marks = asked.marks;
            cut.fit = asked.cut.useFit ? asked.fit : std::nullopt;
            if (asked.cut.useFit && !cut.fit) {
                cut.marks = marksByEye(there->order, line, {seenMark(), {}, {}, {}, {}}, work);
                cut.fit = fitOf(there->order, cut.marks);
                if (!doubtsOf(*cut.fit, cut.marks.size(), asked.shown->job.check.drift.mm()).empty())
                    return tr("Look at the fit first; then cut.");
            }
            const auto planned = drawn(planFor(there->order, cut.fit, work), cut.fit);
            const Program program = programOf(planned->plan);
            if (!folder.empty()) {
                Machine machine = planned->plan.machine;
                machine.link = line.link();
                keepCut(folder, {asked.name, machine, program, 0});
            }
            CutRun run(line, program, folder.empty() ? folder : recordIn(folder));
            post([this] { sheetCut_ = true; });
            bool whole = false;
            // However it ends, what is left of it is offered here, too.
            const auto ended = qScopeGuard([&] {
                if (!folder.empty() && (whole || run.nothingBegun()))
                    forgetCut(folder);
                post([this, whole, planned, runs = run.runsDone(), all = program.done.size()] {
                    if (!whole)
                        onBed_.stopped = Under{planned, runs, all, 0, false};
                    lookForLeft();
                });
            });
            const QString stopped = stream(line, run, planned->plan.machine, program, planned, work);
            whole = stopped.isEmpty();
            // What is cut is cut: the next sheet lies otherwise.
            if (stopped.isEmpty() && !asked.port.isEmpty())
                post([this] { forgetMarks(); });
            if (!stopped.isEmpty() || !asked.port.isEmpty())
                return stopped.isEmpty() ? tr("Cut: %n paths in %1.", nullptr, int(program.done.size())).arg(timeText(program.seconds)) : stopped;
            work.report(0.99, "looking at the sheet");
            cut.plan = planned->plan;
            cut.runs = run.runsDone();
            *result = there->bed->landed(line, cut, work);
            *done = true;
            return {};
        },
        [this, result, done, of = with.shown->revision] {
            if (!*done)
                return;
            onBed_.picture = std::make_shared<const BedPicture>(result->bed);
            desk_.setTestCut(result, of);
        });
}

void Machining::cutPatch()
{
    const PlanSpec& plan = desk_.job().cut.plan;
    if (!mayCut() || !plan.material)
        return;
    auto made = std::make_shared<PatchOnBed>();
    made->spec = patchSpec_;
    if (const int at = edits::selectedOperation(desk_); at >= 0)
        made->spec.process = facts(plan.operations[std::size_t(at)].operation).process;
    try {
        made->patch = patchOf(made->spec, plan.machine ? plan.machine->kind : MachineKind::Cutter, *plan.material);
    } catch (const Error& e) {
        emit said(words(e), int(Severity::Error));
        return;
    }
    auto planned = std::make_shared<std::shared_ptr<const Planned>>();
    start(
        tr("Test patch"), asked(false),
        [this, there = there_, made, planned](const Asked&, MachineLine& line, const Work& work) -> QString {
            CutOrder order = there->order;
            order.sheet = {};
            order.sheet.width = made->patch.width;
            order.sheet.height = made->patch.height;
            order.sheet.cuts = made->patch.items;
            order.spec.plan.operations = made->patch.operations;
            made->corner = {order.spec.plan.sheetX.mm(), order.spec.plan.sheetY.mm()};
            *planned = drawn(planFor(order, std::nullopt, work), Fit{});
            const Program program = programOf((*planned)->plan);
            CutRun run(line, program);
            return stream(line, run, (*planned)->plan.machine, program, *planned, work);
        },
        [this, made, planned] {
            sheetCut_ = true;
            onBed_.patch = made;
            onBed_.patchPlanned = *planned;
            emit changed();
        });
}

void Machining::choosePatch(std::size_t square)
{
    if (!onBed_.patch || square >= onBed_.patch->patch.settings.size() || !desk_.job().cut.plan.material)
        return;
    const ProcessSettings settings = onBed_.patch->patch.settings[square];
    const Process process = onBed_.patch->spec.process;
    auto chosen = std::make_shared<PatchOnBed>(*onBed_.patch);
    chosen->chosen = square;
    desk_.edit(tr("take the test patch's settings"), [&](Job& job) {
        job.cut.plan.material->of(process) = settings;
        // What was said over the material's is what was in doubt.
        for (OperationStep& step : job.cut.plan.operations)
            if (facts(step.operation).process == process && step.name.empty())
                step.settings.reset();
    });
    onBed_.patch = chosen;
    try {
        keepMaterial(ownFolder(), *desk_.job().cut.plan.material);
    } catch (const Error& e) {
        emit said(words(e), int(Severity::Error));
    }
    const bool laser = desk_.job().cut.plan.machine && desk_.job().cut.plan.machine->kind == MachineKind::Laser;
    emit said(tr("'%1' is cut at %2 and %3 from now on.")
                  .arg(yokai::text(desk_.job().cut.plan.material->name), speedText(settings.speed, desk_.unit()),
                       laser ? tr("%1 %").arg(yokai::number(settings.power, 1)) : tr("%1 g").arg(yokai::number(settings.force, 0))),
              int(Severity::Note));
    emit changed();
}

void Machining::putPatchAway()
{
    onBed_.patch.reset();
    onBed_.patchPlanned.reset();
    emit changed();
}

void Machining::setHeld(bool held)
{
    control_->hold = held;
    if (onBed_.under)
        onBed_.under->held = held;
    emit changed();
}

bool Machining::lockFolder()
{
    if (lock_)
        return true;
    std::error_code error;
    std::filesystem::create_directories(cutFolder(), error);
    auto lock = std::make_unique<QLockFile>(QString::fromStdString((cutFolder() / "lock").string()));
    lock->setStaleLockTime(0); // only by whether its process lives
    if (!lock->tryLock(0))
        return false;
    lock_ = std::move(lock);
    return true;
}

// A cut in the folder is left, unless another window is at it.
void Machining::lookForLeft()
{
    left_.reset();
    std::error_code error;
    if (std::filesystem::exists(cutFolder() / "cut.json", error) && lockFolder())
        left_ = leftCut(cutFolder());
    emit changed();
}

void Machining::goOn()
{
    if (!left_ || !left_->known || busy())
        return;
    Asked with;
    with.cut.plan.machine = left_->machine;
    with.port = QString::fromStdString(left_->machine.link.port);
    start(
        tr("Cutting on"), with,
        [this, left = *left_](const Asked&, MachineLine& line, const Work& work) -> QString {
            CutRun run(line, left.program, recordIn(cutFolder()));
            const auto ended = qScopeGuard([this] {
                post([this] {
                    lookForLeft();
                    if (!left_)
                        onBed_.stopped.reset();
                });
            });
            const QString stopped = stream(line, run, left.machine, left.program, nullptr, work);
            if (stopped.isEmpty())
                forgetCut(cutFolder());
            return stopped.isEmpty() ? tr("Cut: %n paths in %1.", nullptr, int(left.program.done.size())).arg(timeText(left.program.seconds)) : stopped;
        },
        {});
}

void Machining::dropLeft()
{
    forgetCut(cutFolder());
    onBed_.stopped.reset();
    lookForLeft();
}

} // namespace yokai
