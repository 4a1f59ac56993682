// The head driven by hand.

#include "desk/machining_tasks.h"

#include <QThread>

#include <algorithm>

namespace yokai {

void Machining::jog(Point by)
{
    if (busy() && !jogging_)
        return;
    {
        const std::scoped_lock lock(jogs_->mutex);
        jogs_->steps.push_back(by);
    }
    jogs();
}

void Machining::jogWhile(Point towards)
{
    if (busy() && !jogging_)
        return;
    {
        const std::scoped_lock lock(jogs_->mutex);
        jogs_->towards = towards;
    }
    jogs();
}

void Machining::goTo(Point on)
{
    if (busy() && !jogging_)
        return;
    {
        const std::scoped_lock lock(jogs_->mutex);
        jogs_->to = on - eyeOffset();
    }
    jogs();
}

// Where the maker looks, from the tool: where there is a camera, by that.
Point Machining::eyeOffset() const
{
    const Machine machine = desk_.job().cut.plan.machine.value_or(Machine{});
    return machine.eye.kind == Eye::Camera ? Point{machine.eye.x.mm(), machine.eye.y.mm()} : Point{};
}

void Machining::endJog()
{
    const std::scoped_lock lock(jogs_->mutex);
    jogs_->towards.reset();
}

void Machining::jogs()
{
    if (busy())
        return; // what is under way takes it
    jogging_ = true;
    start(
        tr("Moving the head"), asked(false),
        [this, jogs = jogs_, there = there_](const Asked& with, MachineLine& line, const Work& work) -> QString {
            const Machine machine = with.port.isEmpty() ? machineOf(there->order) : with.machine();
            moveHead(line.reached(work), machine, *jogs, work);
            return {};
        },
        [this] {
            jogging_ = false;
            bool more = false;
            {
                const std::scoped_lock lock(jogs_->mutex);
                more = !jogs_->idle();
            }
            if (more)
                jogs();
        });
}

Head Machining::seen(SerialMachine& there, const Machine& machine, const Work& work)
{
    const MachineStatus status = there.status(work);
    const Head head{machine.bed.toMachine().inverse()(status.at), status.state};
    if (!status.placed) // it is busy, and says no more
        return head;
    post([this, head] {
        onBed_.head = head;
        emit headMoved();
    });
    return head;
}

// What is asked for, until nothing is.
void Machining::moveHead(SerialMachine& there, const Machine& machine, Jogs& jogs, const Work& work)
{
    constexpr double stepSpeed = 1800, heldSpeed = 3000; // mm/min
    constexpr int lookEveryMs = 40;
    const Affine toMachine = machine.bed.toMachine();
    const auto look = [&] { return seen(there, machine, work); };
    // The machine refuses to leave its bed; so near its edge it simply stops there.
    const auto onBed = [&](Point p) { return Point{std::clamp(p.x, 0.0, machine.bed.width.mm()), std::clamp(p.y, 0.0, machine.bed.depth.mm())}; };
    const auto send = [&](Point to, double speed) {
        there.jogTo(toMachine(to = onBed(to)), speed, work);
        return to;
    };
    const Head begins = look();
    if (begins.state != MachineState::Alarm)
        there.raiseTool(work);
    Point goal = begins.at;
    for (;;) {
        std::vector<Point> steps;
        std::optional<Point> to, towards;
        {
            const std::scoped_lock lock(jogs.mutex);
            steps.swap(jogs.steps);
            to.swap(jogs.to);
            towards = jogs.towards;
        }
        if (to)
            goal = send(*to, heldSpeed);
        for (const Point by : steps)
            goal = send(goal + by, stepSpeed);
        if (towards) {
            const double far = machine.bed.width.mm() + machine.bed.depth.mm();
            there.jogWhile(
                toMachine(onBed(goal + *towards * far)), heldSpeed,
                [&] {
                    QThread::msleep(lookEveryMs);
                    look();
                    const std::scoped_lock lock(jogs.mutex);
                    return jogs.towards == towards && !work.stop.stop_requested();
                },
                work);
        }
        Head head = look();
        while (head.state != MachineState::Idle && head.state != MachineState::Alarm) {
            QThread::msleep(lookEveryMs);
            head = look();
            const std::scoped_lock lock(jogs.mutex);
            if (!jogs.steps.empty())
                break;
        }
        if (towards)
            goal = head.at;
        if (head.state == MachineState::Alarm)
            throw Error(ErrorKind::Device, "the machine does not know where it is; find its corner first (Home)");
        const std::scoped_lock lock(jogs.mutex);
        if (jogs.idle() && head.state == MachineState::Idle)
            return;
    }
}

void Machining::home()
{
    if (busy())
        return;
    start(tr("Finding the machine's corner"), asked(false), [this, there = there_](const Asked& with, MachineLine& line, const Work& work) -> QString {
        SerialMachine& machine = line.reached(work);
        machine.home(work);
        seen(machine, with.port.isEmpty() ? machineOf(there->order) : with.machine(), work);
        return {};
    });
}

} // namespace yokai
