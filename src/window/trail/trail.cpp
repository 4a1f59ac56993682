#include "trail/trail.h"

#include "desk/machining.h"
#include "theme/theme.h"
#include "trail/panels.h"

#include <QKeyEvent>
#include <QLabel>
#include <QPainter>
#include <QScrollArea>
#include <QVBoxLayout>

namespace yokai {

namespace {

constexpr int beadX = 24, cardLeft = 40, cardRight = 8;
// Where the panel's scroll bar comes when it is needed, so that nothing shifts.
int barRoom() { return theme::px(8); }
int beadY() { return theme::px(14); } // the middle of the title's line
int panelWidth() { return theme::px(238); }
int trailWidth() { return cardLeft + 10 + panelWidth() + barRoom() + cardRight; }

// As high as its panel, as long as there is room.
class PanelScroll : public QScrollArea {
public:
    using QScrollArea::QScrollArea;
    QSize sizeHint() const override
    {
        const QLayout* l = widget() ? widget()->layout() : nullptr;
        return {100, !l ? 0 : l->hasHeightForWidth() ? l->totalHeightForWidth(panelWidth()) : l->totalSizeHint().height()};
    }
    QSize minimumSizeHint() const override { return {100, 60}; }

protected:
    bool eventFilter(QObject* object, QEvent* event) override
    {
        if (object == widget() && event->type() == QEvent::LayoutRequest)
            updateGeometry();
        return QScrollArea::eventFilter(object, event);
    }
};

void drawState(QPainter& p, StationState state, QPointF bead, double r, bool current)
{
    const auto& c = theme::colours();
    const QColor fill = state == StationState::Found ? c.warning : state == StationState::Fault ? c.fault : c.fine;
    p.setPen(Qt::NoPen);
    p.setBrush(fill);
    switch (state) {
    case StationState::NotBegun:
        if (!current) {
            p.setPen(QPen(c.ink, 2));
            p.setBrush(c.paper);
            p.drawEllipse(bead, r - 0.5, r - 0.5);
        }
        break;
    case StationState::Found:
    case StationState::Fault: // a shape of its own, not only a colour
        p.drawPolygon(QPolygonF{bead + QPointF(0, -r * 1.15), bead + QPointF(r * 1.15, r * 0.85), bead + QPointF(-r * 1.15, r * 0.85)});
        break;
    case StationState::Working: // a ring half closed
        p.setPen(QPen(c.fine, current ? 1.8 : 3, Qt::SolidLine, Qt::FlatCap));
        p.setBrush(Qt::NoBrush);
        p.drawArc(QRectF(bead.x() - r + 1.5, bead.y() - r + 1.5, 2 * r - 3, 2 * r - 3), 0, 250 * 16);
        break;
    case StationState::Fine:
        p.drawEllipse(bead, r, r);
        break;
    }
}

} // namespace

StationCard::StationCard(Station station, Desk& desk, QWidget* parent) : QWidget(parent), station_(station), desk_(desk)
{
    setFocusPolicy(Qt::TabFocus);
    setObjectName(QStringLiteral("station-%1").arg(int(station)));
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(cardLeft + 10, 4, cardRight, 4);
    layout->setSpacing(2);
    auto* head = new QHBoxLayout;
    head->setSpacing(8);
    head->setContentsMargins(0, 0, barRoom(), 0);
    title_ = new QLabel(title(station), this);
    title_->setProperty("role", "title");
    line_ = new QLabel(this);
    line_->setProperty("role", "soft");
    line_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    line_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    head->addWidget(title_);
    head->addWidget(line_, 1);
    layout->addLayout(head);
}

void StationCard::unfold()
{
    panel_ = makePanel(station_, desk_, nullptr);
    scroll_ = new PanelScroll(this);
    scroll_->setFrameShape(QFrame::NoFrame);
    scroll_->setWidgetResizable(true);
    panel_->setFixedWidth(panelWidth());
    scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll_->setFocusPolicy(Qt::NoFocus);
    scroll_->setWidget(panel_);
    panel_->installEventFilter(scroll_);
    layout()->addWidget(scroll_);
}

void StationCard::fitLine() { line_->setText(line_->fontMetrics().elidedText(summary_.line, Qt::ElideRight, line_->width())); }

void StationCard::refresh()
{
    summary_ = summaryOf(desk_, station_);
    const bool current = desk_.station() == station_;
    unfolded_ = current && !desk_.job().pieces.empty(); // no dead controls in an empty job
    setAccessibleName(title(station_));
    setAccessibleDescription(summary_.line + QStringLiteral("; ") + stateText(summary_.state));
    line_->setToolTip(summary_.line);
    fitLine();
    if (unfolded_ && !panel_)
        unfold();
    if (panel_) {
        scroll_->setVisible(unfolded_);
        if (unfolded_)
            panel_->refresh();
    }
    setSizePolicy(QSizePolicy::Preferred, unfolded_ ? QSizePolicy::Maximum : QSizePolicy::Fixed);
    setCursor(current ? Qt::ArrowCursor : Qt::PointingHandCursor);
    update();
}

// For what changes many times a second.
void StationCard::refreshSummary()
{
    summary_ = summaryOf(desk_, station_);
    line_->setToolTip(summary_.line);
    fitLine();
    update();
}

void StationCard::paintEvent(QPaintEvent*)
{
    const auto& c = theme::colours();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const bool current = desk_.station() == station_;
    if (current || hasFocus()) {
        p.setPen(QPen(hasFocus() ? c.accent : c.line, 1));
        p.setBrush(current ? QBrush(c.panel) : QBrush(Qt::NoBrush));
        p.drawRoundedRect(QRectF(rect()).adjusted(cardLeft - 0.5, 0.5, -cardRight - 0.5, -0.5), 6, 6);
    }
    // The thread, and this station's bead on it.
    const QPointF bead(beadX, beadY());
    p.setPen(QPen(c.line, 2));
    const bool first = station_ == Station::Artwork, last = station_ == Station::Cut;
    p.drawLine(QPointF(beadX, first ? bead.y() : 0), QPointF(beadX, last ? bead.y() : height()));
    if (current) {
        // The state shows in the middle of the ring that says where one is.
        p.setPen(Qt::NoPen);
        p.setBrush(c.accentSoft);
        p.drawEllipse(bead, 11, 11);
        p.setPen(QPen(c.accent, 2.4));
        p.setBrush(c.paper);
        p.drawEllipse(bead, 7.5, 7.5);
    }
    drawState(p, summary_.state, bead, current ? 3.6 : 7, current);
}

void StationCard::mousePressEvent(QMouseEvent* event)
{
    if (event->button() == Qt::LeftButton)
        desk_.setStation(station_);
}

void StationCard::keyPressEvent(QKeyEvent* event)
{
    if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter || event->key() == Qt::Key_Space)
        desk_.setStation(station_);
    else
        QWidget::keyPressEvent(event);
}

Trail::Trail(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk), layout_(new QVBoxLayout(this))
{
    setFixedWidth(trailWidth());
    setAccessibleName(tr("Stations"));
    layout_->setContentsMargins(0, 6, 0, 8);
    layout_->setSpacing(0);
    const auto group = [&](const QString& text) {
        auto* label = new QLabel(text, this);
        label->setProperty("role", "section");
        label->setContentsMargins(cardLeft + 10, 2, 0, 2);
        layout_->addWidget(label);
    };
    for (int i = 0; i < stationCount; ++i) {
        if (i == 0)
            group(tr("This piece"));
        if (Station(i) == Station::Sheet)
            group(tr("Whole sheet"));
        auto* card = new StationCard(Station(i), desk, this);
        layout_->addWidget(card);
        cards_.push_back(card);
    }
    layout_->addStretch(0);
    for (const auto signal : {&Desk::jobChanged, &Desk::shownChanged, &Desk::viewChanged, &Desk::workChanged, &Desk::testCutChanged})
        connect(&desk, signal, this, &Trail::refresh);
    connect(&desk.machining(), &Machining::changed, this, &Trail::refresh);
    connect(&desk.machining(), &Machining::headMoved, cards_.back(), &StationCard::refreshSummary);
    refresh();
}

void Trail::refresh()
{
    for (StationCard* card : cards_)
        card->refresh();
    update();
}

void Trail::paintEvent(QPaintEvent*)
{
    QPainter p(this);
    p.fillRect(rect(), theme::colours().paper);
    // The thread runs on behind the group labels.
    p.setPen(QPen(theme::colours().line, 2));
    p.drawLine(beadX, cards_.front()->y() + beadY(), beadX, cards_.back()->y() + beadY());
}

} // namespace yokai
