#include "bench/chips.h"

#include "theme/theme.h"

#include <QContextMenuEvent>
#include <QHelpEvent>
#include <QMenu>
#include <QPainter>
#include <QToolTip>

namespace yokai {

Chips::Chips(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk)
{
    setObjectName("chips");
    setFixedHeight(theme::px(46));
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Pieces"));
    for (const auto signal : {&Desk::jobChanged, &Desk::shownChanged, &Desk::viewChanged})
        connect(&desk, signal, this, qOverload<>(&QWidget::update));
}

QString Chips::text(int index) const
{
    const Piece& p = desk_.job().pieces[std::size_t(index)];
    const QString name = QFontMetrics(theme::font(13)).elidedText(QString::fromStdString(p.name), Qt::ElideRight, theme::px(160));
    return name + QStringLiteral(" \u00d7") + (p.copies ? QString::number(*p.copies) : tr("fill"));
}

QRect Chips::chip(int index) const
{
    const QFontMetrics metrics(theme::font(13));
    int x = 14 - scroll_;
    const int count = int(desk_.job().pieces.size());
    for (int i = 0; i < index; ++i)
        x += metrics.horizontalAdvance(text(i)) + 54;
    return {x, theme::px(9), index < count ? metrics.horizontalAdvance(text(index)) + 46 : theme::px(34), theme::px(30)};
}

int Chips::at(QPoint p) const
{
    for (int i = 0; i <= int(desk_.job().pieces.size()); ++i)
        if (chip(i).contains(p))
            return i;
    return -1;
}

void Chips::paintEvent(QPaintEvent*)
{
    const auto& c = theme::colours();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), c.surface);
    const int count = int(desk_.job().pieces.size());
    const Shown* shown = desk_.shown();
    for (int i = 0; i <= count; ++i) {
        const QRectF box = QRectF(chip(i)).adjusted(0.5, 0.5, -0.5, -0.5);
        if (box.right() < 0 || box.left() > width())
            continue;
        const bool current = i == desk_.piece() && i < count;
        p.setPen(QPen(current ? (hasFocus() ? c.accent : c.ink) : c.line, current ? 1.4 : 1));
        p.setBrush(current ? c.panel : c.paper);
        p.drawRoundedRect(box, box.height() / 2, box.height() / 2);
        if (i == count) {
            p.setPen(QPen(c.ink, 1.6, Qt::SolidLine, Qt::RoundCap));
            p.drawLine(box.center() - QPointF(5, 0), box.center() + QPointF(5, 0));
            p.drawLine(box.center() - QPointF(0, 5), box.center() + QPointF(0, 5));
            continue;
        }
        const PieceResult* result = shown ? shown->derived.find(desk_.job().pieces[std::size_t(i)].id) : nullptr;
        if (result && !shown->pictures[std::size_t(result - shown->derived.pieces.data())].thumbnail.isNull()) {
            const QImage& t = shown->pictures[std::size_t(result - shown->derived.pieces.data())].thumbnail;
            QSizeF size = QSizeF(t.size()).scaled(22, 22, Qt::KeepAspectRatio);
            p.setRenderHint(QPainter::SmoothPixmapTransform);
            p.drawImage(QRectF(QPointF(box.left() + 19 - size.width() / 2, box.center().y() - size.height() / 2), size), t);
        }
        p.setPen(c.ink);
        p.setFont(theme::font(13, current ? QFont::Medium : QFont::Normal));
        p.drawText(box.adjusted(34, 0, -4, 0), Qt::AlignVCenter | Qt::AlignLeft, text(i));
    }
}

std::vector<DrawnPart> Chips::drawnParts() const
{
    std::vector<DrawnPart> out;
    const int count = int(desk_.job().pieces.size());
    for (int i = 0; i < count; ++i)
        out.push_back({text(i), chip(i), QAccessible::PageTab, i == desk_.piece()});
    out.push_back({tr("Add a picture"), chip(count), QAccessible::Button, false});
    return out;
}

void Chips::pressPart(int index)
{
    if (index == int(desk_.job().pieces.size()))
        emit addWanted();
    else if (index >= 0)
        desk_.setPiece(index);
}

void Chips::mousePressEvent(QMouseEvent* event)
{
    if (event->button() == Qt::LeftButton)
        pressPart(at(event->pos()));
}

void Chips::wheelEvent(QWheelEvent* event)
{
    const int end = chip(int(desk_.job().pieces.size())).right() + scroll_ + 14;
    scroll_ = std::clamp(scroll_ - (event->angleDelta().y() + event->angleDelta().x()) / 2, 0, std::max(0, end - width()));
    update();
}

void Chips::keyPressEvent(QKeyEvent* event)
{
    if (event->key() == Qt::Key_Right)
        desk_.setPiece(desk_.piece() + 1);
    else if (event->key() == Qt::Key_Left)
        desk_.setPiece(desk_.piece() - 1);
    else if (event->key() == Qt::Key_Plus || event->key() == Qt::Key_Insert)
        emit addWanted();
    else if (event->key() == Qt::Key_Delete)
        desk_.removePiece(desk_.piece());
    else
        QWidget::keyPressEvent(event);
}

void Chips::contextMenuEvent(QContextMenuEvent* event)
{
    const int i = at(event->pos());
    if (i < 0 || i >= int(desk_.job().pieces.size()))
        return;
    QMenu menu;
    menu.addAction(tr("Duplicate"), this, [this, i] {
        desk_.setPiece(i);
        desk_.duplicatePiece();
    });
    menu.addAction(tr("Remove from the job"), this, [this, i] { desk_.removePiece(i); });
    menu.exec(event->globalPos());
}

bool Chips::event(QEvent* event)
{
    if (event->type() == QEvent::ToolTip) {
        auto* help = static_cast<QHelpEvent*>(event);
        const int i = at(help->pos());
        if (i == int(desk_.job().pieces.size()))
            QToolTip::showText(help->globalPos(), tr("Add a picture"), this);
        else if (i >= 0)
            QToolTip::showText(help->globalPos(), QString::fromStdString(desk_.job().pieces[std::size_t(i)].artwork.picture.fileName), this);
        return true;
    }
    return QWidget::event(event);
}

} // namespace yokai
