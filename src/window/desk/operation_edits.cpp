#include "desk/operation_edits.h"

#include "machine/eye_place.h"
#include "sheet/marks.h"

#include "desk/desk.h"
#include "formats/machine/own_files.h"
#include "words.h"

#include <QCoreApplication>
#include <QSettings>

#include <algorithm>

namespace yokai::edits {

namespace {

bool isOwn(const OperationStep& step) { return !step.name.empty(); }

} // namespace

int selectedOperation(const Desk& desk)
{
    const auto* selected = std::get_if<OperationSelected>(&desk.selection());
    return selected && selected->step < int(desk.job().cut.plan.operations.size()) ? selected->step : -1;
}

QString nameOf(const OperationStep& step)
{
    return step.name.empty() ? QCoreApplication::translate("Operation", facts(step.operation).title) : text(step.name);
}

ProcessSettings settingsOf(const Job& job, const OperationStep& step)
{
    const auto& material = job.cut.plan.material;
    return step.settings ? *step.settings : material ? material->of(facts(step.operation).process) : ProcessSettings{};
}

void moveOperation(Desk& desk, int by)
{
    const int at = selectedOperation(desk), to = at + by;
    if (at < 0 || to < 0 || to >= int(desk.job().cut.plan.operations.size()))
        return;
    desk.edit(Desk::tr("move an operation"), [&](Job& job) { std::swap(job.cut.plan.operations[std::size_t(at)], job.cut.plan.operations[std::size_t(to)]); });
    desk.select(OperationSelected{to});
}

void removeOperation(Desk& desk)
{
    const int at = selectedOperation(desk);
    if (at < 0 || !isOwn(desk.job().cut.plan.operations[std::size_t(at)]))
        return;
    desk.edit(Desk::tr("remove an operation"), [&](Job& job) { job.cut.plan.operations.erase(job.cut.plan.operations.begin() + at); });
    desk.select({});
}

QStringList operationsFor(const Desk& desk)
{
    QStringList out{Desk::tr("As its kind")};
    for (const OperationStep& step : desk.job().cut.plan.operations)
        if (isOwn(step))
            out << text(step.name);
    return out << Desk::tr("One of its own");
}

int operationOf(const Desk& desk, LineId line)
{
    int own = 0;
    for (const OperationStep& step : desk.job().cut.plan.operations) {
        own += isOwn(step);
        if (isOwn(step) && std::find(step.lines.begin(), step.lines.end(), line) != step.lines.end())
            return own;
    }
    return 0;
}

void putOn(Desk& desk, LineId line, int choice)
{
    if (!line || choice == operationOf(desk, line))
        return;
    desk.edit(Desk::tr("put a line on an operation"), [&](Job& job) {
        auto& steps = job.cut.plan.operations;
        for (OperationStep& step : steps)
            std::erase(step.lines, line);
        int own = 0;
        for (OperationStep& step : steps)
            if (isOwn(step) && ++own == choice) {
                step.lines.push_back(line);
                return;
            }
        if (choice == 0)
            return;
        // A new one, right before that of its kind.
        LineKind kind = LineKind::Through;
        for (const Piece& piece : job.pieces)
            if (const LineSpec* spec = find(piece, line))
                kind = spec->kind;
        const Operation as = yokai::operationOf(kind, false);
        const auto before = std::find_if(steps.begin(), steps.end(), [&](const OperationStep& s) { return s.operation == as && !isOwn(s); });
        OperationStep made{as, Desk::tr("%1, own %2").arg(QCoreApplication::translate("Operation", facts(as).title)).arg(own + 1).toStdString(), {line}};
        made.settings = settingsOf(job, made);
        steps.insert(before, made);
    });
}

QString putMachine(Job& job, const std::optional<Machine>& machine)
{
    PlanSpec& plan = job.cut.plan;
    // As before a machine without an eye was passed by.
    if (plan.machine && plan.machine->dialect == Dialect::Hpgl && job.cut.marksBy == MarksBy::Picture)
        job.cut.marksBy = MarksBy::Eye;
    plan.machine = machine;
    plan.sheetX = plan.sheetY = Length();
    if (!machine)
        return {};
    // HPGL has no words for an eye.
    if (machine->dialect == Dialect::Hpgl && job.cut.marksBy == MarksBy::Eye)
        job.cut.marksBy = MarksBy::Picture;
    if (machine->eye.kind == Eye::None)
        return {};
    const double width = job.sheet.width(), height = job.sheet.height();
    const bool mirrored = job.sheet.mirror == SheetMirror::Both || job.sheet.mirror == SheetMirror::Cut;
    std::vector<Point> marks;
    double size = 0;
    for (const Mark& m : marksOf(job.sheet)) {
        marks.push_back({mirrored ? width - m.centre.x : m.centre.x, height - m.centre.y});
        size = std::max(size, m.diameter);
    }
    const EyePlace place = placeForEye(*machine, width, height, marks, size);
    // To a whole millimetre, that it can be laid there by a rule; what is proposed is never nearer to the edge.
    plan.sheetX = Length::mm(std::ceil(place.corner.x - 1e-4));
    plan.sheetY = Length::mm(std::ceil(place.corner.y - 1e-4));
    if (place.seen == marks.size())
        return {};
    return Desk::tr("%1 reads %2 of %3 marks with its eye, wherever the sheet lies; use a smaller sheet, give the marks a larger inset, or find them in a picture or by hand.")
        .arg(text(machine->name))
        .arg(place.seen)
        .arg(marks.size());
}

void noteMachine(const QString& name) { QSettings().setValue("cut/machine", name); }

bool isMachineKnown() { return QSettings().contains("cut/machine"); }

std::optional<Machine> usualMachine()
{
    const QString name = QSettings().value("cut/machine").toString();
    for (const Machine& m : openShelf(ownFolder()).machines)
        if (!name.isEmpty() && text(m.name) == name)
            return m;
    return std::nullopt;
}

void keepInMaterial(Desk& desk)
{
    const int at = selectedOperation(desk);
    if (at < 0 || !desk.job().cut.plan.material)
        return;
    desk.edit(Desk::tr("keep in the material"), [&](Job& job) {
        OperationStep& step = job.cut.plan.operations[std::size_t(at)];
        job.cut.plan.material->of(facts(step.operation).process) = settingsOf(job, step);
        step.settings.reset();
    });
    try {
        keepMaterial(ownFolder(), *desk.job().cut.plan.material);
        desk.say(Desk::tr("'%1' is kept with these settings.").arg(text(desk.job().cut.plan.material->name)));
    } catch (const Error& e) {
        desk.say(words(e), Severity::Error);
    }
}

} // namespace yokai::edits
