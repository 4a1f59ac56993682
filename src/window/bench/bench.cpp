#include "bench/bench.h"

#include "device/test_cut.h"
#include "studio/piece_edits.h"
#include "theme/theme.h"

#include <QDragEnterEvent>
#include <QKeyEvent>
#include <QMimeData>
#include <QPainter>
#include <QWheelEvent>

namespace yokai {

namespace {
constexpr int ruler = 22;
}

Bench::Bench(Studio& studio, QWidget* parent) : QWidget(parent), studio_(studio)
{
    setObjectName("bench");
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setAcceptDrops(true);
    setAccessibleName(tr("Bench"));
    tools_.push_back(std::make_unique<PanTool>(studio));
    tools_.push_back(std::make_unique<GuideTool>(studio));
    tools_.push_back(std::make_unique<FrameTool>(studio));
    tools_.push_back(std::make_unique<InsideTool>(studio));
    tools_.push_back(std::make_unique<BrushTool>(studio));
    tools_.push_back(std::make_unique<SelectTool>(studio));
    tools_.push_back(std::make_unique<OffsetTool>(studio));
    for (const auto signal : {&Studio::jobChanged, &Studio::shownChanged, &Studio::viewChanged, &Studio::testCutChanged})
        connect(&studio, signal, this, &Bench::refresh);
    connect(&renderer_, &Renderer::drawn, this, [this](const QImage& image, const View& view, const Scene* drawn) {
        drawn_ = image;
        drawnView_ = view;
        drawnScene_ = drawn;
        update();
    });
}

Scene* Bench::scene()
{
    if (studio_.station() == Station::Cut && studio_.testCut())
        return &bed_;
    if (onSheet(studio_.station()))
        return &sheet_;
    return &piece_;
}

void Bench::refresh()
{
    // Another thing to look at is shown whole; the same one stays where it is.
    state_ = BenchState::of(studio_);
    Scene* now = scene();
    const QRectF extent = now->extent(state_);
    if (now != lastScene_ || (now == &piece_ && studio_.piece() != lastPiece_) || (lastExtent_.isEmpty() && !extent.isEmpty())) {
        lastScene_ = now;
        lastPiece_ = studio_.piece();
        lastExtent_ = extent;
        fit();
    } else if (fitted_ && extent.size() != lastExtent_.size() && now != &piece_) {
        lastExtent_ = extent;
        fit();
    }
    redraw();
}

void Bench::redraw()
{
    renderer_.draw({scene(), state_, view_, size(), devicePixelRatioF(), area()});
    update();
}

QRectF Bench::area() const { return QRectF(rect()).adjusted(ruler, ruler, 0, 0); }

void Bench::setView(const View& view)
{
    view_ = view;
    emit zoomed(view_.scale / (logicalDpiX() / 25.4));
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

void Bench::zoom(double factor) { zoomAt(area().center(), factor); }

void Bench::paintEvent(QPaintEvent*)
{
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.fillRect(rect(), theme::colours().surface);
    if (studio_.job().pieces.empty()) {
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
        if (scene() == &piece_ && studio_.currentResult())
            for (const auto& tool : tools_) {
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
    const QRectF room(area().center() - QPointF(210, 110), QSizeF(420, 220));
    painter.setPen(QPen(c.inkFaint, 1.4, Qt::DashLine));
    painter.setBrush(c.card);
    painter.drawRoundedRect(room, 8, 8);
    const QPointF top = room.center() - QPointF(0, 44);
    painter.setPen(QPen(c.accent, 2.4, Qt::SolidLine, Qt::RoundCap));
    painter.drawLine(top - QPointF(0, 16), top + QPointF(0, 16));
    painter.drawLine(top - QPointF(16, 0), top + QPointF(16, 0));
    painter.setPen(c.ink);
    painter.setFont(theme::font(17, QFont::DemiBold));
    painter.drawText(QRectF(room.left(), room.center().y() - 8, room.width(), 30), Qt::AlignCenter, tr("Bring a picture in"));
    painter.setPen(c.inkSoft);
    painter.setFont(theme::font(13));
    painter.drawText(QRectF(room.left(), room.center().y() + 26, room.width(), 44), Qt::AlignHCenter | Qt::AlignTop,
                     tr("Drop it here, paste it, or click to choose a file\nPNG, JPEG, TIFF, WebP, BMP or GIF"));
}

void Bench::paintRulers(QPainter& painter)
{
    const auto& c = theme::colours();
    painter.fillRect(QRect(0, 0, width(), ruler), c.strip);
    painter.fillRect(QRect(0, 0, ruler, height()), c.strip);
    painter.setPen(QPen(c.line, 1));
    painter.drawLine(QPointF(ruler, ruler - 0.5), QPointF(width(), ruler - 0.5));
    painter.drawLine(QPointF(ruler - 0.5, ruler), QPointF(ruler - 0.5, height()));
    if (studio_.job().pieces.empty())
        return;
    // The coarsest division that leaves labels at least 56 px apart.
    const bool inch = studio_.unit() == Unit::Inch;
    const double unitMm = inch ? 25.4 : 1;
    double step = inch ? 1.0 / 64 : 0.1;
    for (const double nice : inch ? std::vector<double>{1.0 / 64, 1.0 / 32, 1.0 / 16, 0.125, 0.25, 0.5, 1, 2, 5, 10}
                                  : std::vector<double>{0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500}) {
        step = nice;
        if (nice * unitMm * view_.scale >= 56)
            break;
    }
    const int parts = inch ? 4 : 5;
    painter.setFont(theme::font(10));
    const QColor tick = c.inkFaint;
    const auto label = [&](double v) { return QString::number(std::abs(v) < 1e-9 ? 0.0 : v, 'g', 5); };
    const bool up = scene() == &bed_;
    for (const bool across : {true, false}) {
        const double origin = across ? view_.origin.x() : view_.origin.y();
        const double end = across ? width() : height(), small = step / parts * unitMm * view_.scale;
        const auto first = std::int64_t(std::ceil((ruler - origin) / small));
        for (std::int64_t k = first; k * small + origin < end; ++k) {
            const double at = std::round(k * small + origin) + 0.5;
            const bool main = k % parts == 0;
            painter.setPen(QPen(tick, 1));
            const double from = main ? ruler - 9 : ruler - 4;
            if (across)
                painter.drawLine(QPointF(at, from), QPointF(at, ruler - 1));
            else
                painter.drawLine(QPointF(from, at), QPointF(ruler - 1, at));
            if (!main)
                continue;
            painter.setPen(c.inkSoft);
            const double value = double(k / parts) * step * (up && !across ? -1 : 1);
            if (across) {
                painter.drawText(QPointF(at + 3, 11), label(value));
            } else {
                painter.save();
                painter.translate(11, at - 3);
                painter.rotate(-90);
                painter.drawText(QPointF(0, 0), label(value));
                painter.restore();
            }
        }
    }
    painter.fillRect(QRect(0, 0, ruler, ruler), c.strip);
    painter.setPen(c.inkSoft);
    painter.drawText(QRect(0, 0, ruler, ruler), Qt::AlignCenter, inch ? QStringLiteral("in") : QStringLiteral("mm"));
    if (!pointer_.isNull()) {
        painter.setPen(QPen(c.accent, 1));
        painter.drawLine(QPointF(std::round(pointer_.x()) + 0.5, 0), QPointF(std::round(pointer_.x()) + 0.5, ruler));
        painter.drawLine(QPointF(0, std::round(pointer_.y()) + 0.5), QPointF(ruler, std::round(pointer_.y()) + 0.5));
    }
}

void Bench::resizeEvent(QResizeEvent*)
{
    if (fitted_)
        fit();
    redraw();
}

void Bench::mousePressEvent(QMouseEvent* event)
{
    setFocus();
    if (studio_.job().pieces.empty()) {
        if (event->button() == Qt::LeftButton)
            QMetaObject::invokeMethod(window(), "choosePictures", Qt::QueuedConnection);
        return;
    }
    for (const auto& tool : tools_)
        if (tool->press(event, view_, space_)) {
            active_ = tool.get();
            return;
        }
    if (event->button() == Qt::LeftButton)
        scene()->press(view_.toMm(event->position()), view_, state_, studio_);
}

void Bench::mouseMoveEvent(QMouseEvent* event)
{
    pointer_ = event->position();
    if (active_) {
        const QPointF before = view_.origin;
        active_->move(event, view_);
        if (view_.origin != before) {
            fitted_ = false;
            redraw();
        }
    } else {
        Qt::CursorShape shape = Qt::ArrowCursor;
        for (const auto& tool : tools_)
            if (const auto wanted = tool->hover(event->position(), view_, event->modifiers(), space_)) {
                shape = *wanted;
                break;
            }
        setCursor(shape);
    }
    QPointF mm = view_.toMm(event->position());
    if (scene() == &bed_)
        mm.setY(-mm.y());
    emit pointed(mm, !studio_.job().pieces.empty());
    update();
}

void Bench::mouseReleaseEvent(QMouseEvent* event)
{
    if (active_)
        active_->release(event);
    active_ = nullptr;
}

void Bench::mouseDoubleClickEvent(QMouseEvent* event) { mousePressEvent(event); }

void Bench::wheelEvent(QWheelEvent* event)
{
    if (studio_.job().pieces.empty())
        return;
    zoomAt(event->position(), std::pow(1.0015, event->angleDelta().y()));
    event->accept();
}

void Bench::keyPressEvent(QKeyEvent* event)
{
    if (event->key() == Qt::Key_Space && !event->isAutoRepeat()) {
        space_ = true;
        setCursor(Qt::OpenHandCursor);
    } else if (event->key() == Qt::Key_F) {
        fit();
    } else if ((event->key() == Qt::Key_B || event->key() == Qt::Key_K) && event->modifiers() == Qt::NoModifier) {
        studio_.setPeek(event->key() == Qt::Key_B ? Peek::Bare : Peek::KeptAlone);
    } else if (event->key() == Qt::Key_Escape && studio_.hand().hold != Hold::Nothing) {
        studio_.hold(studio_.hand().hold);
    } else if (event->key() == Qt::Key_Escape) {
        studio_.selectParts({});
    } else if ((event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) && studio_.station() == Station::Keep) {
        edits::toggleParts(studio_, studio_.selectedParts());
    } else if (event->key() == Qt::Key_Plus || event->key() == Qt::Key_Equal) {
        zoom(1.25);
    } else if (event->key() == Qt::Key_Minus) {
        zoom(0.8);
    } else {
        QWidget::keyPressEvent(event);
    }
}

void Bench::keyReleaseEvent(QKeyEvent* event)
{
    if (event->key() == Qt::Key_Space && !event->isAutoRepeat()) {
        space_ = false;
        setCursor(Qt::ArrowCursor);
    }
    if ((event->key() == Qt::Key_B || event->key() == Qt::Key_K) && !event->isAutoRepeat())
        studio_.setPeek(Peek::Nothing);
    QWidget::keyReleaseEvent(event);
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

void Bench::dragEnterEvent(QDragEnterEvent* event)
{
    if (studio_.canOpen(*event->mimeData()))
        event->acceptProposedAction();
}

void Bench::dropEvent(QDropEvent* event)
{
    if (studio_.openMime(*event->mimeData()))
        event->acceptProposedAction();
}

} // namespace yokai
