#include "bench/bench.h"

#include "desk/line_edits.h"
#include "desk/machining.h"
#include "theme/theme.h"

#include <QMouseEvent>
#include <QLocale>
#include <QNativeGestureEvent>
#include <QPainter>
#include <QScreen>
#include <QWheelEvent>

namespace yokai {

namespace {
int ruler() { return theme::px(22); }
} // namespace

Bench::Bench(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk)
{
    setObjectName("bench");
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Bench"));
    tools_ = makeTools(desk);
    for (const auto signal : {&Desk::jobChanged, &Desk::shownChanged, &Desk::viewChanged, &Desk::testCutChanged})
        connect(&desk, signal, this, &Bench::refresh);
    connect(&desk.machining(), &Machining::changed, this, &Bench::refresh);
    connect(&desk.machining(), &Machining::headMoved, this, [this] {
        if (desk_.station() == Station::Cut)
            refresh();
    });
    connect(&carried_, &CarriedImage::arrived, this, [this] { update(); });
    connect(&renderer_, &Renderer::drawn, this, [this](const QImage& image, const View& view, const Scene* drawn) {
        drawn_ = image;
        drawnView_ = view;
        drawnScene_ = drawn;
        update();
    });
}

Scene* Bench::scene()
{
    if (desk_.station() == Station::Cut && state_.bed.corners)
        return &photo_;
    if (desk_.station() == Station::Cut && BedScene::shows(state_))
        return &bed_;
    if (onSheet(desk_.station()))
        return &sheet_;
    if (desk_.station() == Station::Bleed && desk_.hand().hold == Hold::ShowCut)
        return &cutOff_;
    return &piece_;
}

void Bench::refresh()
{
    // Another thing to look at is shown whole; the same one stays where it is.
    state_ = BenchState::of(desk_);
    if (active_ && !active_->works())
        giveUp();
    Scene* now = scene();
    const QRectF extent = now->extent(state_);
    const PieceId uncropped = state_.shown ? state_.shown->uncropped : PieceId{};
    if (now != lastScene_ || (now == &piece_ && (desk_.piece() != lastPiece_ || uncropped != lastUncropped_)) || (lastExtent_.isEmpty() && !extent.isEmpty())) {
        lastScene_ = now;
        lastUncropped_ = uncropped;
        lastPiece_ = desk_.piece();
        lastExtent_ = extent;
        fit();
    } else if (fitted_ && extent.size() != lastExtent_.size() && now != &piece_) {
        lastExtent_ = extent;
        fit();
    }
    if (lastSelection_ != desk_.selection()) {
        lastSelection_ = desk_.selection();
        if (state_.finding && state_.shown->derived.findings[*state_.finding].line)
            lookAt(state_.shown->derived.findings[*state_.finding].at);
        // An edit is brought into view, no nearer.
        if (const auto* edit = std::get_if<EditSelected>(&lastSelection_); edit && desk_.station() == Station::TouchUp)
            for (const edits::EditOf& of : edits::allEdits(desk_))
                if (of.edit->id == edit->edit && of.outcome && !area().contains(view_.toScreen(q(of.outcome->at))))
                    pan(area().center() - view_.toScreen(q(of.outcome->at)));
    }
    redraw();
}

void Bench::lookAt(Point mm)
{
    constexpr double near = 24; // px a mm
    constexpr double margin = 60; // px
    if (view_.scale >= near && area().adjusted(margin, margin, -margin, -margin).contains(view_.toScreen(q(mm))))
        return;
    View v;
    v.scale = std::max(view_.scale, near);
    v.origin = area().center() - q(mm) * v.scale;
    fitted_ = false;
    setView(v);
}

void Bench::redraw()
{
    renderer_.draw({scene(), state_, view_, size(), devicePixelRatioF(), area(), theme::colours().surface});
    update();
}

QRectF Bench::area() const { return QRectF(rect()).adjusted(ruler(), ruler(), 0, 0); }

void Bench::setView(const View& view)
{
    view_ = view;
    emit zoomed(view_.scale / (scene()->inPixels() ? 1 : pixelsPerMm()));
    redraw();
}

void Bench::fit()
{
    const QRectF extent = scene()->extent(state_);
    fitted_ = true;
    if (extent.isEmpty() || area().width() < 50)
        return;
    const QRectF room = area().adjusted(36, 52, -36, -52);
    View v;
    v.scale = std::min(room.width() / extent.width(), room.height() / extent.height());
    v.origin = room.center() - extent.center() * v.scale;
    setView(v);
}

void Bench::zoomAt(QPointF screen, double factor)
{
    View v = view_;
    v.scale = std::clamp(v.scale * factor, 0.05, 2000.0);
    v.origin = screen - (screen - view_.origin) * (v.scale / view_.scale);
    fitted_ = false;
    setView(v);
}

void Bench::pan(QPointF by)
{
    View v = view_;
    v.origin += by;
    fitted_ = false;
    setView(v);
}

// What the screen says of itself, unless that is nonsense.
double Bench::pixelsPerMm() const
{
    const double dpi = screen() ? screen()->physicalDotsPerInch() : 0;
    const bool sensible = dpi > 40 && dpi < 1000;
    return (sensible ? dpi : double(logicalDpiX())) / 25.4;
}

void Bench::trueSize() { zoomAt(area().center(), pixelsPerMm() / view_.scale); }

void Bench::zoom(double factor) { zoomAt(area().center(), factor); }

void Bench::paintEvent(QPaintEvent*)
{
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.fillRect(rect(), theme::colours().surface);
    if (desk_.job().pieces.empty()) {
        paintEmpty(painter);
    } else if (!drawn_.isNull() && drawnScene_ == scene()) {
        painter.setClipRect(area());
        const double k = view_.scale / drawnView_.scale;
        const QPointF at = view_.origin - drawnView_.origin * k;
        if (k == 1)
            painter.drawImage(at, drawn_);
        else
            painter.drawImage(QRectF(at, QSizeF(drawn_.size()) / drawn_.devicePixelRatio() * k), drawn_);
        painter.setClipRect(area());
        carried_.paint(painter, view_);
        for (const auto& tool : tools_)
            if (showsWork() && tool->works()) {
                painter.save();
                tool->paint(painter, view_, pointer_);
                painter.restore();
            }
        painter.setClipping(false);
    }
    paintRulers(painter);
}

void Bench::paintEmpty(QPainter& painter)
{
    const auto& c = theme::colours();
    const QRectF room(area().center() - QPointF(theme::px(210), theme::px(110)), QSizeF(theme::px(420), theme::px(220)));
    painter.setPen(QPen(c.inkFaint, 1.4, Qt::DashLine));
    painter.setBrush(c.card);
    painter.drawRoundedRect(room, 8, 8);
    const QPointF top = room.center() - QPointF(0, 44);
    painter.setPen(QPen(c.accent, 2.4, Qt::SolidLine, Qt::RoundCap));
    painter.drawLine(top - QPointF(0, 16), top + QPointF(0, 16));
    painter.drawLine(top - QPointF(16, 0), top + QPointF(16, 0));
    painter.setPen(c.ink);
    painter.setFont(theme::font(17, QFont::DemiBold));
    painter.drawText(QRectF(room.left(), room.center().y() - 8, room.width(), theme::px(30)), Qt::AlignCenter, tr("Bring a picture in"));
    painter.setPen(c.inkSoft);
    painter.setFont(theme::font(13));
    painter.drawText(QRectF(room.left(), room.center().y() - 8 + theme::px(34), room.width(), theme::px(44)), Qt::AlignHCenter | Qt::AlignTop,
                     tr("Drop it here, paste it, or click to choose a file\nAny usual picture, a drawing as SVG or PDF, or an order list"));
}

void Bench::paintRulers(QPainter& painter)
{
    const auto& c = theme::colours();
    painter.fillRect(QRect(0, 0, width(), ruler()), c.strip);
    painter.fillRect(QRect(0, 0, ruler(), height()), c.strip);
    painter.setPen(QPen(c.line, 1));
    painter.drawLine(QPointF(ruler(), ruler() - 0.5), QPointF(width(), ruler() - 0.5));
    painter.drawLine(QPointF(ruler() - 0.5, ruler()), QPointF(ruler() - 0.5, height()));
    if (desk_.job().pieces.empty())
        return;
    // The coarsest division that leaves labels at least 56 px apart.
    const bool pixels = scene()->inPixels(), inch = desk_.unit() == Unit::Inch && !pixels;
    const double unitMm = inch ? 25.4 : 1;
    double step = inch ? 1.0 / 64 : 0.1;
    for (const double nice : inch ? std::vector<double>{1.0 / 64, 1.0 / 32, 1.0 / 16, 0.125, 0.25, 0.5, 1, 2, 5, 10}
                                  : std::vector<double>{0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000}) {
        step = nice;
        if (nice * unitMm * view_.scale >= 56)
            break;
    }
    const int parts = inch ? 4 : 5;
    painter.setFont(theme::font(10));
    const QColor tick = c.inkFaint;
    const auto label = [&](double v) { return QLocale().toString(std::abs(v) < 1e-9 ? 0.0 : v, 'g', 5); };
    const bool up = scene() == &bed_;
    for (const bool across : {true, false}) {
        const double origin = across ? view_.origin.x() : view_.origin.y();
        const double end = across ? width() : height(), small = step / parts * unitMm * view_.scale;
        const auto first = std::int64_t(std::ceil((ruler() - origin) / small));
        for (std::int64_t k = first; k * small + origin < end; ++k) {
            const double at = std::round(k * small + origin) + 0.5;
            const bool main = k % parts == 0;
            painter.setPen(QPen(tick, 1));
            const double from = main ? ruler() - 9 : ruler() - 4;
            if (across)
                painter.drawLine(QPointF(at, from), QPointF(at, ruler() - 1));
            else
                painter.drawLine(QPointF(from, at), QPointF(ruler() - 1, at));
            if (!main)
                continue;
            painter.setPen(c.inkSoft);
            const double value = double(k / parts) * step * (up && !across ? -1 : 1);
            if (across) {
                painter.drawText(QPointF(at + 3, theme::px(11)), label(value));
            } else {
                painter.save();
                painter.translate(theme::px(11), at - 3);
                painter.rotate(-90);
                painter.drawText(QPointF(0, 0), label(value));
                painter.restore();
            }
        }
    }
    painter.fillRect(QRect(0, 0, ruler(), ruler()), c.strip);
    painter.setPen(c.inkSoft);
    painter.drawText(QRect(0, 0, ruler(), ruler()), Qt::AlignCenter, pixels ? QStringLiteral("px") : inch ? QStringLiteral("in") : QStringLiteral("mm"));
    if (!pointer_.isNull()) {
        painter.setPen(QPen(c.accent, 1));
        painter.drawLine(QPointF(std::round(pointer_.x()) + 0.5, 0), QPointF(std::round(pointer_.x()) + 0.5, ruler()));
        painter.drawLine(QPointF(0, std::round(pointer_.y()) + 0.5), QPointF(ruler(), std::round(pointer_.y()) + 0.5));
    }
}

void Bench::resizeEvent(QResizeEvent*)
{
    if (fitted_)
        fit();
    redraw();
}

Pointer Bench::pointerOf(QPointF screen, Qt::MouseButton button, Qt::KeyboardModifiers modifiers) const
{
    const HitIndex* hit = state_.piece >= 0 && state_.shown ? state_.shown->hit(std::size_t(state_.piece), state_.layerId) : nullptr;
    const Pointer::Ruler ruled = screen.y() < ruler() ? Pointer::Ruler::Across : screen.x() < ruler() ? Pointer::Ruler::Down : Pointer::Ruler::None;
    return {screen, view_.toMm(screen), button, modifiers, 1 / view_.scale, hit, ruled};
}

void Bench::mousePressEvent(QMouseEvent* event)
{
    setFocus();
    if (held_ != Qt::NoButton)
        return; // one gesture at a time
    if (desk_.job().pieces.empty()) {
        if (event->button() == Qt::LeftButton)
            emit picturesWanted();
        return;
    }
    if (event->button() == Qt::MiddleButton || (space_ && event->button() == Qt::LeftButton)) {
        held_ = event->button();
        panning_ = event->position();
        setCursor(Qt::ClosedHandCursor);
        return;
    }
    const Pointer at = pointerOf(event->position(), event->button(), event->modifiers());
    for (const auto& tool : tools_)
        if (showsWork() && tool->works() && tool->press(at)) {
            active_ = tool.get();
            held_ = event->button();
            return;
        }
}

void Bench::mouseMoveEvent(QMouseEvent* event)
{
    pointer_ = event->position();
    const Pointer at = pointerOf(event->position(), held_, event->modifiers());
    if (panning_) {
        pan(event->position() - *panning_);
        panning_ = event->position();
    } else if (active_) {
        active_->move(at);
        if (const auto carried = active_->carried())
            carried_.carry(*carried, state_, view_, devicePixelRatioF(), area());
    } else {
        std::optional<Qt::CursorShape> shape;
        for (const auto& tool : tools_)
            if (!space_ && !shape && showsWork() && tool->works())
                shape = tool->hover(at);
        setCursor(space_ ? Qt::OpenHandCursor : shape.value_or(Qt::ArrowCursor));
    }
    QPointF mm = view_.toMm(event->position());
    if (scene() == &bed_)
        mm.setY(-mm.y());
    emit pointed(mm, !desk_.job().pieces.empty());
    update();
}

void Bench::mouseReleaseEvent(QMouseEvent* event)
{
    if (event->button() != held_)
        return;
    Tool* tool = std::exchange(active_, nullptr);
    held_ = Qt::NoButton;
    carried_.drop();
    if (panning_) {
        panning_.reset();
        setCursor(space_ ? Qt::OpenHandCursor : Qt::ArrowCursor);
    }
    if (tool)
        tool->release(pointerOf(event->position(), event->button(), event->modifiers()));
    update();
}

void Bench::giveUp()
{
    if (active_)
        active_->cancel();
    active_ = nullptr;
    carried_.drop();
    held_ = Qt::NoButton;
    panning_.reset();
    update();
}

void Bench::mouseDoubleClickEvent(QMouseEvent* event) { mousePressEvent(event); }

void Bench::wheelEvent(QWheelEvent* event)
{
    event->accept();
    if (desk_.job().pieces.empty())
        return;
    // Two fingers move, a wheel zooms; with Ctrl both zoom.
    if (!event->pixelDelta().isNull() && !(event->modifiers() & Qt::ControlModifier))
        pan(event->pixelDelta());
    else
        zoomAt(event->position(), std::pow(1.0015, event->angleDelta().y()));
}

bool Bench::event(QEvent* event)
{
    if (event->type() == QEvent::NativeGesture && !desk_.job().pieces.empty()) {
        const auto* gesture = static_cast<QNativeGestureEvent*>(event);
        if (gesture->gestureType() == Qt::ZoomNativeGesture) {
            zoomAt(gesture->position(), 1 + gesture->value());
            return true;
        }
    }
    return QWidget::event(event);
}

void Bench::focusOutEvent(QFocusEvent*)
{
    giveUp();
    space_ = false;
    desk_.setPeek(Peek::Nothing);
}

void Bench::changeEvent(QEvent* event)
{
    QWidget::changeEvent(event);
    if (event->type() == QEvent::PaletteChange || event->type() == QEvent::StyleChange)
        redraw(); // another theme
}

void Bench::leaveEvent(QEvent*)
{
    pointer_ = {};
    emit pointed({}, false);
    update();
}

} // namespace yokai
