#include "trail/drawn_list.h"

#include "theme/theme.h"

#include <QKeyEvent>

#include <cmath>

namespace yokai {

namespace {
int listRowHeight() { return theme::px(28); }
} // namespace

DrawnList::DrawnList(const char* name, const QString& accessible, int signWidth, QWidget* parent) : QWidget(parent), signWidth_(signWidth)
{
    setObjectName(QLatin1String(name));
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::PointingHandCursor);
    setAccessibleName(accessible);
}

void DrawnList::refresh()
{
    updateGeometry();
    tellParts(this);
    update();
}

QSize DrawnList::sizeHint() const { return {120, std::max(1, int(rows().size())) * listRowHeight() + 2}; }
int DrawnList::indexAt(double y) const { return int(std::floor((y - 1) / listRowHeight())); }
double DrawnList::top(int index) const { return 1 + index * listRowHeight(); }
QRect DrawnList::row(int index) const { return {3, int(top(index)) + 2, width() - 6, listRowHeight() - 4}; }

std::vector<DrawnPart> DrawnList::drawnParts() const
{
    std::vector<DrawnPart> out;
    for (const ListRow& r : rows())
        out.push_back({r.name + QStringLiteral(", ") + r.figures, row(int(out.size())), QAccessible::ListItem, r.chosen});
    return out;
}

void DrawnList::paintEvent(QPaintEvent*)
{
    const auto& c = theme::colours();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(hasFocus() ? c.accent : c.line, 1));
    p.setBrush(c.field);
    p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4);
    const std::vector<ListRow> all = rows();
    if (all.empty()) {
        p.setPen(c.inkSoft);
        p.setFont(theme::font(12));
        p.drawText(rect().adjusted(10, 0, -4, 0), Qt::AlignLeft | Qt::AlignVCenter, wordsIfEmpty());
    }
    for (int k = 0; k < int(all.size()); ++k) {
        const ListRow& r = all[std::size_t(k)];
        const QRectF at = row(k);
        if (r.chosen) {
            p.setPen(Qt::NoPen);
            p.setBrush(c.accentSoft);
            p.drawRoundedRect(at, 3, 3);
        }
        const QRectF sign(at.left() + 7, at.top(), theme::px(signWidth_), at.height()), text = at.adjusted(7 + sign.width() + 8, 0, -8, 0);
        p.save();
        r.sign(p, sign);
        p.restore();
        p.setFont(theme::font(12));
        const double figures = p.fontMetrics().horizontalAdvance(r.figures);
        p.setPen(r.offered ? c.accent : r.chosen ? c.ink : c.inkSoft);
        p.drawText(text, Qt::AlignRight | Qt::AlignVCenter, r.figures);
        p.setPen(r.offered ? c.inkSoft : c.ink);
        p.setFont(theme::font(13, r.chosen ? QFont::Medium : QFont::Normal));
        p.drawText(text, Qt::AlignLeft | Qt::AlignVCenter, p.fontMetrics().elidedText(r.name, Qt::ElideRight, int(text.width() - figures - 8)));
    }
}

void DrawnList::mousePressEvent(QMouseEvent* event)
{
    if (event->button() == Qt::LeftButton)
        pressPart(indexAt(event->position().y()));
}

void DrawnList::keyPressEvent(QKeyEvent* event)
{
    const int by = event->key() == Qt::Key_Down ? 1 : event->key() == Qt::Key_Up ? -1 : 0;
    if (event->key() == Qt::Key_Delete)
        remove();
    else if (by != 0)
        step(by);
    else
        QWidget::keyPressEvent(event);
}

} // namespace yokai
