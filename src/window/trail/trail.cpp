#include "trail/trail.h"

#include "theme/theme.h"
#include "trail/panels.h"
#include "trail/summary.h"

#include <QKeyEvent>
#include <QLabel>
#include <QPainter>
#include <QTimer>
#include <QVBoxLayout>

namespace yokai {

namespace {
constexpr int beadX = 24, cardLeft = 40;
}

StationCard::StationCard(Station station, Studio& studio, QWidget* parent) : QWidget(parent), station_(station), studio_(studio)
{
    setFocusPolicy(Qt::TabFocus);
    setCursor(Qt::PointingHandCursor);
    setAccessibleName(title(station));
    setObjectName(QStringLiteral("station-%1").arg(int(station)));
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(cardLeft + 10, 7, 22, 9);
    layout->setSpacing(1);
    title_ = new QLabel(title(station), this);
    title_->setProperty("role", "title");
    line_ = new QLabel(this);
    line_->setProperty("role", "soft");
    line_->setWordWrap(true);
    layout->addWidget(title_);
    layout->addWidget(line_);
}

void StationCard::refresh()
{
    const Summary summary = summaryOf(studio_, station_);
    const bool current = studio_.station() == station_;
    const bool unfolded = current && !studio_.job().pieces.empty(); // no dead controls in an empty job
    line_->setText(summary.line);
    line_->setVisible(!summary.line.isEmpty());
    state_ = int(summary.state);
    if (unfolded && !panel_) {
        panel_ = makePanel(station_, studio_, this);
        layout()->addWidget(panel_);
    }
    if (panel_) {
        panel_->setVisible(unfolded);
        if (unfolded)
            panel_->refresh();
    }
    setCursor(current ? Qt::ArrowCursor : Qt::PointingHandCursor);
    update();
}

void StationCard::paintEvent(QPaintEvent*)
{
    const auto& c = theme::colours();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const bool current = studio_.station() == station_;
    if (current) {
        p.setPen(QPen(c.line, 1));
        p.setBrush(c.panel);
        p.drawRoundedRect(QRectF(rect()).adjusted(cardLeft - 0.5, 0.5, -10.5, -0.5), 6, 6);
    } else if (hasFocus()) {
        p.setPen(QPen(c.accent, 1));
        p.setBrush(Qt::NoBrush);
        p.drawRoundedRect(QRectF(rect()).adjusted(cardLeft - 0.5, 0.5, -10.5, -0.5), 6, 6);
    }
    // The thread, and this station's bead on it.
    const QPointF bead(beadX, 17);
    p.setPen(QPen(c.line, 2));
    const bool first = station_ == Station::Artwork, last = station_ == Station::Cut;
    p.drawLine(QPointF(beadX, first ? bead.y() : 0), QPointF(beadX, last ? bead.y() : height()));
    const auto state = StationState(state_);
    QColor fill = state == StationState::Findings ? c.warning : state == StationState::Fault ? c.fault : c.fine;
    if (current) {
        p.setPen(Qt::NoPen);
        p.setBrush(c.accentSoft);
        p.drawEllipse(bead, 11, 11);
        fill = c.accent;
    }
    p.setPen(QPen(current ? c.accent : c.ink, 2));
    if (current || state != StationState::NotBegun)
        p.setPen(Qt::NoPen);
    p.setBrush(!current && state == StationState::NotBegun ? c.paper : fill);
    if (state == StationState::NotBegun && !current) {
        p.drawEllipse(bead, 6.5, 6.5);
    } else if (!current && (state == StationState::Findings || state == StationState::Fault)) {
        // A fault has a shape of its own, not only a colour.
        QPolygonF triangle{QPointF(bead.x(), bead.y() - 8), QPointF(bead.x() + 8, bead.y() + 6), QPointF(bead.x() - 8, bead.y() + 6)};
        p.drawPolygon(triangle);
    } else {
        p.drawEllipse(bead, 7.5, 7.5);
    }
}

void StationCard::mousePressEvent(QMouseEvent*) { studio_.setStation(station_); }

void StationCard::keyPressEvent(QKeyEvent* event)
{
    if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter || event->key() == Qt::Key_Space)
        studio_.setStation(station_);
    else
        QWidget::keyPressEvent(event);
}

Trail::Trail(Studio& studio, QWidget* parent) : QScrollArea(parent), studio_(studio)
{
    setFixedWidth(304);
    setAccessibleName(tr("Stations"));
    setWidgetResizable(true);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setFrameShape(QFrame::NoFrame);
    auto* content = new QWidget(this);
    auto* layout = new QVBoxLayout(content);
    layout->setContentsMargins(0, 12, 0, 12);
    layout->setSpacing(0);
    const auto group = [&](const QString& text) {
        auto* label = new QLabel(text, content);
        label->setProperty("role", "section");
        label->setContentsMargins(cardLeft + 10, 4, 0, 4);
        layout->addWidget(label);
    };
    for (int i = 0; i < stationCount; ++i) {
        if (i == 0)
            group(tr("This piece"));
        if (Station(i) == Station::Sheet)
            group(tr("Whole sheet"));
        auto* card = new StationCard(Station(i), studio, content);
        layout->addWidget(card);
        cards_.push_back(card);
    }
    layout->addStretch(1);
    setWidget(content);
    for (const auto signal : {&Studio::jobChanged, &Studio::shownChanged, &Studio::viewChanged, &Studio::workChanged, &Studio::testCutChanged})
        connect(&studio, signal, this, &Trail::refresh);
    refresh();
}

void Trail::refresh()
{
    for (StationCard* card : cards_)
        card->refresh();
    viewport()->update();
    if (shown_ == studio_.station())
        return;
    // Once the layout has unfolded it.
    shown_ = studio_.station();
    QTimer::singleShot(0, this, [this] {
        if (shown_)
            ensureWidgetVisible(cards_[std::size_t(*shown_)], 0, 8);
    });
}

void Trail::paintEvent(QPaintEvent* event)
{
    QPainter p(viewport());
    p.fillRect(viewport()->rect(), theme::colours().paper);
    // The thread runs on behind the group labels.
    p.setPen(QPen(theme::colours().line, 2));
    const int top = cards_.front()->mapTo(viewport(), QPoint(0, 17)).y(), bottom = cards_.back()->mapTo(viewport(), QPoint(0, 17)).y();
    p.drawLine(beadX, top, beadX, bottom);
    QScrollArea::paintEvent(event);
}

} // namespace yokai
