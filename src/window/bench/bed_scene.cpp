#include "bench/paint.h"
#include "bench/scene.h"
#include "bench/sheet_view.h"
#include "device/eye.h"
#include "theme/theme.h"
#include "words.h"

#include <QPainter>
#include <QPainterPath>

namespace yokai {

namespace {

const BedPicture* pictureOf(const BenchState& state) { return state.testCut ? &state.testCut->bed : state.bed.picture.get(); }

QRectF extentOf(const BedPicture& p) { return {p.corner.x, -p.corner.y, p.image.width() / p.pxPerMm, p.image.height() / p.pxPerMm}; }

QRectF bedOf(const BenchState& state)
{
    const Shown* shown = state.shown.get();
    if (!shown || !shown->job.cut.plan.machine)
        return {};
    const BedSpec& bed = shown->job.cut.plan.machine->bed;
    return {0, -bed.depth.mm(), bed.width.mm(), bed.depth.mm()};
}

QTransform transformOf(const Homography& h)
{
    const Affine& a = h.affine;
    return {a.a, a.b, h.g, a.c, a.d, h.h, a.e, a.f, 1};
}

// From the sheet as designed, y up, to the bed: where the fit has it, or where it should lie.
QTransform ontoBed(const BenchState& state)
{
    if (state.bed.fit)
        return transformOf(state.bed.fit->map);
    const PlanSpec& plan = state.shown->job.cut.plan;
    return QTransform::fromTranslate(plan.sheetX.mm(), plan.sheetY.mm());
}

// The sheet's own view, by where it lies on the bed, for as long as this lives.
class SheetPainter {
public:
    SheetPainter(QPainter& painter, const BenchState& state, const View& view) : painter_(painter)
    {
        const double height = state.shown->derived.sheet.height;
        // Where the cut is mirrored the print lies so, too: in the file, or turned over.
        const SheetMirror mirror = state.shown->job.sheet.mirror;
        const QTransform asItLies = mirror == SheetMirror::Both || mirror == SheetMirror::Cut ? QTransform(-1, 0, 0, 1, state.shown->derived.sheet.width, 0) : QTransform();
        painter_.save();
        painter_.setWorldTransform(
            view.transform().inverted() * asItLies * QTransform(1, 0, 0, -1, 0, height) * ontoBed(state) * QTransform::fromScale(1, -1) * view.transform(), true);
    }
    ~SheetPainter() { painter_.restore(); }
    SheetPainter(const SheetPainter&) = delete;
    SheetPainter& operator=(const SheetPainter&) = delete;

private:
    QPainter& painter_;
};

void paintBed(QPainter& painter, const BenchState& state, const View& view)
{
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    if (const BedPicture* picture = pictureOf(state)) {
        painter.drawImage(view.toScreen(extentOf(*picture)), picture->image);
        return;
    }
    const QRectF bed = bedOf(state);
    painter.fillRect(view.toScreen(bed), QColor("#5f646d"));
    painter.setPen(QPen(QColor(255, 255, 255, 26), 1));
    constexpr int grid = 50; // mm
    for (double x = grid; x < bed.width(); x += grid)
        painter.drawLine(view.toScreen(QPointF(x, bed.top())), view.toScreen(QPointF(x, bed.bottom())));
    for (double y = grid; y < bed.height(); y += grid)
        painter.drawLine(view.toScreen(QPointF(0, -y)), view.toScreen(QPointF(bed.width(), -y)));
    const SheetPainter onSheet(painter, state, view);
    paintPrinted(painter, state, view);
}

// What is burnt: pale before, and full as far as the beam has come along its lines.
void paintBurnt(QPainter& painter, const BenchState& state, const View& view)
{
    const auto& pieces = state.shown->derived.pieces;
    const bool any = std::any_of(pieces.begin(), pieces.end(), [](const PieceResult& p) { return std::any_of(p.layers.begin(), p.layers.end(), [](const LayerResult& l) { return l.engraving != nullptr; }); });
    if (!any || state.testCut || state.bed.patch)
        return;
    constexpr double pale = 0.45;
    {
        const SheetPainter onSheet(painter, state, view);
        painter.setOpacity(pale);
        paintEngraved(painter, state, view);
    }
    const std::optional<Under>& under = state.bed.under && state.bed.under->planned ? state.bed.under : state.bed.stopped;
    if (!under || !under->planned)
        return;
    // Of each engraving the lines from the first to the last that is done.
    QPainterPath done;
    const Plan& plan = under->planned->plan;
    const double half = plan.steps.empty() ? 0 : 0.5 / std::max(0.1, plan.steps.front().settings.linesPerMm);
    for (std::size_t k = 0; k < std::min(under->runs, plan.runs.size()); ++k) {
        const ToolRun& run = plan.runs[k];
        if (!run.scan || (k + 1 < std::min(under->runs, plan.runs.size()) && plan.runs[k + 1].scan == run.scan && plan.runs[k + 1].line > run.line))
            continue; // the last of them says it for all
        Rect box = Rect::nothing();
        for (std::size_t line = 0; line <= run.line; ++line) {
            box.add(run.scan->lines[line].from);
            box.add(run.scan->lines[line].to);
        }
        box = box.grown(half);
        done.addRect(view.toScreen(QRectF(box.x0, -box.y1, box.width(), box.height())));
    }
    if (done.isEmpty())
        return;
    painter.save();
    painter.setClipPath(done);
    {
        const SheetPainter onSheet(painter, state, view);
        paintEngraved(painter, state, view);
    }
    painter.restore();
}

// What the tool will do; what it has done while it is at it is full, the rest pale.
void paintPlan(QPainter& painter, const BenchState& state, const QTransform& toScreen)
{
    // Gone on with, a cut is not known path by path: it stays as far as it came.
    const std::optional<Under> stopped = state.bed.patch ? std::nullopt : state.bed.stopped;
    const std::optional<Under>& under = state.bed.under && state.bed.under->planned ? state.bed.under : stopped;
    const std::shared_ptr<const Planned> planned = under ? under->planned : state.bed.under ? nullptr : state.bed.patch ? state.bed.patchPlanned : state.bed.planned;
    if (!planned || (state.testCut && !state.bed.patch))
        return;
    QTransform map = toScreen;
    if (!planned->fit) {
        const PlanSpec& spec = state.shown->job.cut.plan;
        // Without a machine the sheet is the bed; the stand-in lays it on one of its own.
        const Point corner = spec.machine ? Point{spec.sheetX.mm(), spec.sheetY.mm()} : Point{};
        if (!state.bed.fit && !spec.machine)
            return;
        map = QTransform::fromTranslate(-corner.x, -corner.y) * ontoBed(state) * toScreen;
    }
    const std::size_t done = under ? under->runs : planned->lines.size();
    for (const bool isDone : {false, true})
        for (const LineKind kind : lineKinds) {
            std::vector<Polyline> lines;
            for (std::size_t k = 0; k < planned->lines.size(); ++k)
                if (planned->lines[k].kind == kind && (k < done) == isDone)
                    lines.push_back(planned->lines[k].points);
            QColor colour = theme::lineColour(kind);
            if (!isDone)
                colour.setAlpha(90);
            if (!lines.empty())
                paint::outlines(painter, lines, {QPen(QColor(255, 255, 255, isDone ? 200 : 90), 3.4), QPen(colour, isDone ? 1.6 : 1.2)}, map);
        }
}

// The squares to be pressed, with what each was cut at under the chosen one.
void paintPatch(QPainter& painter, const PatchOnBed& patch, const View& view, Unit unit)
{
    for (std::size_t k = 0; k < patch.patch.squares.size(); ++k) {
        painter.setBrush(Qt::NoBrush); // tags have one
        const Rect s = patch.square(k);
        const QRectF box = view.toScreen(QRectF(s.x0, -s.y1, s.width(), s.height()));
        const bool chosen = patch.chosen == k;
        painter.setPen(QPen(chosen ? theme::colours().accent : QColor(255, 255, 255, 120), chosen ? 3 : 1));
        painter.drawRect(box.adjusted(-3, -3, 3, 3));
        if (chosen)
            paint::tag(painter, QPointF(box.center().x(), box.bottom() + 18), speedText(patch.patch.settings[k].speed, unit));
    }
}

void paintMark(QPainter& painter, const QPointF& middle, QPointF at, const QString& text, bool chosen, bool leftOut)
{
    const QColor colour = leftOut ? QColor("#b06a00") : theme::colours().accent;
    painter.setPen(QPen(QColor(255, 255, 255, 220), chosen ? 5.4 : 3.4));
    painter.setBrush(Qt::NoBrush);
    painter.drawEllipse(at, 14, 14);
    painter.setPen(QPen(colour, chosen ? 3 : 1.6));
    painter.drawEllipse(at, 14, 14);
    // Tags stand outside the sheet, where they cover nothing.
    const QPointF outward(at.x() > middle.x() ? 10 : -20, at.y() > middle.y() ? 27 : -27);
    paint::tag(painter, at + outward, text);
}

void paintMarks(QPainter& painter, const BenchState& state, const View& view, const QPointF& middle)
{
    for (std::size_t i = 0; i < state.bed.marks.size(); ++i) {
        const MarkSeen& mark = state.bed.marks[i];
        if (!mark.measured)
            continue;
        QString text = QString::number(i + 1);
        bool leftOut = false;
        if (state.bed.fit) {
            // Residuals are counted along those that were measured.
            const auto k = std::size_t(std::count_if(state.bed.marks.begin(), state.bed.marks.begin() + std::ptrdiff_t(i), [](const MarkSeen& m) { return m.measured.has_value(); }));
            text += QStringLiteral(" \u00b7 ") + number(state.bed.fit->residuals[k], 3);
            leftOut = std::find(state.bed.fit->leftOut.begin(), state.bed.fit->leftOut.end(), int(k)) != state.bed.fit->leftOut.end();
        }
        paintMark(painter, middle, view.toScreen(down(*mark.measured)), text, int(i) == state.mark, leftOut);
    }
}

// Where the next mark should be, by those that were taken: what is looked for there.
void paintNextMark(QPainter& painter, const BenchState& state, const View& view)
{
    const CutSpec& cut = state.shown->job.cut;
    const auto next = std::find_if(state.bed.marks.begin(), state.bed.marks.end(), [](const MarkSeen& m) { return !m.measured; });
    if (!cut.useFit || cut.marksBy == MarksBy::Eye || next == state.bed.marks.end())
        return;
    const QPointF at = view.toScreen(down(expectedPlace(state.bed.pairs(), next->design, {cut.plan.sheetX.mm(), cut.plan.sheetY.mm()})));
    painter.setBrush(Qt::NoBrush);
    for (const QPen& pen : {QPen(QColor(255, 255, 255, 220), 4), QPen(theme::colours().accent, 1.6, Qt::DashLine)}) {
        painter.setPen(pen);
        painter.drawEllipse(at, 18, 18);
    }
    paint::tag(painter, at + QPointF(0, 32), QString::number(next - state.bed.marks.begin() + 1));
}

// Where the cut landed, bold; where the print has its line, thin over it; and the worst place.
void paintLanded(QPainter& painter, const BenchState& state, const View& view, const QTransform& map, const QPointF& middle)
{
    const TestCutResult& cut = *state.testCut;
    paint::outlines(painter, cut.landed, {QPen(QColor(255, 255, 255, 200), 4), QPen(theme::lineColour(LineKind::Through), 1.8)}, map);
    paint::outlines(painter, cut.ideal, {QPen(QColor("#f2b632"), 1)}, map);
    for (std::size_t i = 0; i < cut.marks.size(); ++i)
        paintMark(painter, middle, view.toScreen(down(cut.marks[i].measured)),
                  QStringLiteral("%1 \u00b7 %2").arg(i + 1).arg(number(cut.fit ? cut.fit->residuals[i] : 0, 3)), int(i) == state.mark, false);
    // A small miss is drawn larger than it is only by its ring.
    const QPointF landed = view.toScreen(down(cut.worstAt)), wanted = view.toScreen(down(cut.worstShouldBe));
    constexpr double fair = 0.3; // mm
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(QColor(255, 255, 255, 230), 5));
    painter.drawEllipse(landed, 11, 11);
    painter.setPen(QPen(cut.worst > fair ? QColor("#c8231a") : QColor("#2f7a41"), 2.4));
    painter.drawEllipse(landed, 11, 11);
    painter.drawLine(wanted, landed);
    paint::tag(painter, landed + QPointF(0, landed.y() < middle.y() ? 28 : -28), QObject::tr("worst %1").arg(exactText(cut.worst, state.unit)));
}

} // namespace

bool BedScene::shows(const BenchState& state)
{
    return state.testCut || state.bed.picture || state.bed.under || (state.shown && state.shown->job.cut.plan.machine);
}

QRectF BedScene::extent(const BenchState& state) const
{
    constexpr double round = 20; // mm about what is looked at
    if (state.bed.patch && state.shown) {
        const Rect patch{state.bed.patch->corner.x, state.bed.patch->corner.y, state.bed.patch->corner.x + state.bed.patch->patch.width,
                         state.bed.patch->corner.y + state.bed.patch->patch.height};
        return QRectF(patch.x0, -patch.y1, patch.width(), patch.height()).adjusted(-round, -round, round, round);
    }
    if (const BedPicture* picture = pictureOf(state); picture && !state.bed.photo)
        return extentOf(*picture);
    // Of a large bed, where the sheet lies on it.
    const QRectF bed = bedOf(state);
    if (!state.shown || bed.isEmpty())
        return bed;
    const Layout& sheet = state.shown->derived.sheet;
    const QRectF lies = (ontoBed(state) * QTransform::fromScale(1, -1)).mapRect(QRectF(0, 0, sheet.width, sheet.height));
    return lies.adjusted(-round, -round, round, round) & bed.adjusted(-round, -round, round, round);
}

void BedScene::paint(QPainter& painter, const BenchState& state, const View& view, const QRectF&) const
{
    if (!state.shown || extent(state).isEmpty())
        return;
    paintBed(painter, state, view);
    const QTransform map = QTransform::fromScale(1, -1) * view.transform();
    const QPointF middle = view.toScreen(extent(state).center());
    paintBurnt(painter, state, view);
    paintPlan(painter, state, map);
    if (state.bed.patch)
        paintPatch(painter, *state.bed.patch, view, state.unit);
    else if (state.testCut)
        paintLanded(painter, state, view, map, middle);
    else {
        paintMarks(painter, state, view, middle);
        paintNextMark(painter, state, view);
    }
}

} // namespace yokai
