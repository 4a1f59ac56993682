#include "machine/patch.h"

#include "base/length.h"

#include <string_view>

namespace yokai {

namespace {

// Figures as a pen draws them, on a field of 2 by 4, y down: strokes of corner after corner.
std::vector<Polyline> strokesOf(char c)
{
    switch (c) {
    case '0':
        return {{{0, 0}, {2, 0}, {2, 4}, {0, 4}, {0, 0}}};
    case '1':
        return {{{0.4, 0.8}, {1.2, 0}, {1.2, 4}}};
    case '2':
        return {{{0, 0}, {2, 0}, {2, 2}, {0, 2}, {0, 4}, {2, 4}}};
    case '3':
        return {{{0, 0}, {2, 0}, {2, 4}, {0, 4}}, {{0.4, 2}, {2, 2}}};
    case '4':
        return {{{0, 0}, {0, 2}, {2, 2}}, {{2, 0}, {2, 4}}};
    case '5':
        return {{{2, 0}, {0, 0}, {0, 2}, {2, 2}, {2, 4}, {0, 4}}};
    case '6':
        return {{{2, 0}, {0, 0}, {0, 4}, {2, 4}, {2, 2}, {0, 2}}};
    case '7':
        return {{{0, 0}, {2, 0}, {0.8, 4}}};
    case '8':
        return {{{0, 0}, {2, 0}, {2, 4}, {0, 4}, {0, 0}}, {{0, 2}, {2, 2}}};
    case '9':
        return {{{2, 2}, {0, 2}, {0, 0}, {2, 0}, {2, 4}, {0, 4}}};
    case '.':
        return {{{0.9, 3.7}, {1.1, 4}}};
    default:
        return {};
    }
}

constexpr double unitOfFigures = 0.6; // mm: a figure is 1.2 by 2.4
constexpr double figurePitch = 3 * unitOfFigures;

constexpr LineId labels{1};

// A figure a mm or a percent needs no more.
std::string label(double value) { return plainNumber(value, value < 10 ? 1 : 0); }

void write(CutItems& items, std::string_view text, Point at)
{
    for (const char c : text) {
        for (const Polyline& stroke : strokesOf(c)) {
            CutItem item;
            item.line = labels;
            item.kind = LineKind::Kiss;
            item.path.closed = false;
            item.path.start = at + stroke.front() * unitOfFigures;
            for (std::size_t k = 1; k < stroke.size(); ++k)
                item.path.lineTo(at + stroke[k] * unitOfFigures);
            items.push_back(std::move(item));
        }
        at.x += figurePitch;
    }
}

Operation operationOf(Process process)
{
    for (const OperationFacts& o : operationTable)
        if (o.process == process)
            return o.operation;
    return Operation::OuterThrough;
}

} // namespace

Patch patchOf(const PatchSpec& spec, MachineKind kind, const Material& material)
{
    constexpr int most = 20;
    if (spec.columns < 1 || spec.rows < 1 || spec.columns > most || spec.rows > most || spec.slowest > spec.fastest || !(spec.least <= spec.most) || !(spec.least >= 0))
        throw Error(ErrorKind::Usage, "a test patch has 1 to 20 squares each way, and begins at less than it ends at");
    const bool laser = kind == MachineKind::Laser;
    const double side = spec.square.mm(), pitch = side + spec.gap.mm();
    constexpr std::size_t figures = 4; // room for "1000"
    const Point corner{figures * figurePitch + 2, 4 * unitOfFigures + 2};
    const auto between = [](double a, double b, int k, int n) { return n > 1 ? a + (b - a) * k / (n - 1) : a; };

    Patch out;
    out.width = corner.x + spec.columns * pitch;
    out.height = corner.y + spec.rows * pitch;
    // Light lines: as the material is engraved, or kissed by a blade.
    out.operations.push_back({laser ? Operation::Engrave : Operation::Kiss, "labels", {labels}});
    const auto speedAt = [&](int c) { return Speed{Length::mm(std::round(between(spec.slowest.perMinute.mm(), spec.fastest.perMinute.mm(), c, spec.columns)))}; };
    for (int c = 0; c < spec.columns; ++c)
        write(out.items, label(speedAt(c).mmPerSecond()), {corner.x + c * pitch, 0});
    std::uint32_t id = labels.n;
    for (int r = 0; r < spec.rows; ++r) {
        const double strength = std::round(between(spec.least, spec.most, r, spec.rows) * 10) / 10;
        write(out.items, label(strength), {0, corner.y + r * pitch + (side - 4 * unitOfFigures) / 2});
        for (int c = 0; c < spec.columns; ++c) {
            CutItem item;
            item.line = LineId{++id};
            item.kind = LineKind::Through;
            const Rect box{corner.x + c * pitch, corner.y + r * pitch, corner.x + c * pitch + side, corner.y + r * pitch + side};
            item.path.start = {box.x0, box.y0};
            for (const Point p : {Point{box.x1, box.y0}, Point{box.x1, box.y1}, Point{box.x0, box.y1}, Point{box.x0, box.y0}})
                item.path.lineTo(p);
            item.path.closed = true;
            ProcessSettings settings = material.of(spec.process);
            settings.speed = speedAt(c);
            (laser ? settings.power : settings.force) = strength;
            OperationStep step{operationOf(spec.process), "square", {item.line}};
            step.settings = settings;
            out.operations.push_back(step);
            out.settings.push_back(settings);
            out.squares.push_back(box);
            out.items.push_back(std::move(item));
        }
    }
    return out;
}

} // namespace yokai
