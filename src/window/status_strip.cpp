#include "status_strip.h"

#include "desk/machining.h"
#include "theme/theme.h"
#include "words.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QToolButton>

namespace yokai {

StatusStrip::StatusStrip(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk)
{
    setFixedHeight(theme::px(26));
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(14, 0, 14, 0);
    layout->setSpacing(22);
    const auto label = [&](int width) {
        auto* l = new QLabel(this);
        l->setFont(theme::font(12));
        l->setMinimumWidth(theme::px(width));
        layout->addWidget(l);
        return l;
    };
    figures_ = label(0);
    pointer_ = label(0); // after what always stands there, so that nothing jumps when it comes and goes
    layout->addStretch(1);
    progressText_ = label(0);
    progressText_->setObjectName("progress-text");
    hold_ = new QToolButton(this);
    hold_->setObjectName("hold");
    hold_->setStyleSheet(theme::scaled(QStringLiteral("QToolButton { padding: 0 6px; font-size: 12px; }")));
    layout->addWidget(hold_);
    connect(hold_, &QToolButton::clicked, this, [this] {
        if (const auto& under = desk_.machining().onBed().under)
            desk_.machining().setHeld(!under->held);
    });
    stop_ = new QToolButton(this);
    stop_->setObjectName("stop");
    stop_->setIcon(theme::icon(QStringLiteral("stop"), theme::colours().fault));
    stop_->setText(tr("Stop"));
    stop_->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
    stop_->setStyleSheet(theme::scaled(QStringLiteral("QToolButton { padding: 0 6px; font-size: 12px; }")));
    stop_->setToolTip(tr("Stop; what was there before stays"));
    layout->addWidget(stop_);
    resume_ = new QToolButton(this);
    resume_->setObjectName("resume");
    resume_->setText(tr("Go on"));
    resume_->setStyleSheet(theme::scaled(QStringLiteral("QToolButton { padding: 0 6px; font-size: 12px; }")));
    resume_->setToolTip(tr("Work out what was stopped"));
    layout->addWidget(resume_);
    connect(resume_, &QToolButton::clicked, &desk, &Desk::resume);
    connect(&desk, &Desk::workChanged, this, &StatusStrip::refresh);
    zoom_ = label(44);
    zoom_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    zoom_->setToolTip(tr("Size on screen beside true size"));
    connect(stop_, &QToolButton::clicked, this, [this] {
        if (machine_ >= 0)
            desk_.machining().stop();
        else
            desk_.stop();
    });
    connect(&desk, &Desk::progressed, this, [this](double fraction, const QString& step) { showProgress(fraction_, fraction, step); });
    connect(&desk.machining(), &Machining::progressed, this, [this](double fraction, const QString& step) { showProgress(machine_, fraction, step); });
    connect(&desk.machining(), &Machining::changed, this, &StatusStrip::refresh);
    for (const auto signal : {&Desk::jobChanged, &Desk::shownChanged, &Desk::viewChanged})
        connect(&desk, signal, this, &StatusStrip::refresh);
    patience_.setSingleShot(true);
    patience_.setInterval(500);
    connect(&patience_, &QTimer::timeout, this, [this] {
        stop_->setVisible(fraction() >= 0);
        progressText_->setVisible(fraction() >= 0);
    });
    hold_->hide();
    stop_->hide();
    progressText_->hide();
    refresh();
}

void StatusStrip::showPointer(QPointF mm, bool inside)
{
    if (!inside) {
        pointer_->clear();
        return;
    }
    const bool in = desk_.unit() == Unit::Inch;
    const double k = in ? 1 / 25.4 : 1;
    pointer_->setText(
        QStringLiteral("x %1  y %2 %3").arg(number(mm.x() * k, in ? 2 : 1), number(mm.y() * k, in ? 2 : 1), in ? QStringLiteral("in") : QStringLiteral("mm")));
}

void StatusStrip::showZoom(double ratio) { zoom_->setText(QStringLiteral("%1 %").arg(ratio * 100, 0, 'f', 0)); }

void StatusStrip::refresh()
{
    QStringList parts;
    const auto add = [](const std::vector<CutLine>& lines, double& cut, std::size_t& nodes) {
        for (const CutLine& l : lines) {
            cut += l.length;
            nodes += l.nodes;
        }
    };
    double cut = 0;
    std::size_t nodes = 0;
    if (onSheet(desk_.station())) {
        if (const Shown* shown = desk_.shown(); shown && !shown->derived.sheet.placements.empty()) {
            for (const Placement& p : shown->derived.sheet.placements)
                for (const LayerResult& layer : shown->derived.pieces[p.at].layers)
                    add(layer.lines, cut, nodes);
            parts << tr("cut %1").arg(lengthText(cut, desk_.unit())) << tr("%n nodes", nullptr, int(nodes));
        }
    } else if (const LayerResult* r = desk_.layerResult(); r && !r->lines.empty()) {
        add(r->lines, cut, nodes);
        parts << tr("cut %1").arg(lengthText(cut, desk_.unit())) << tr("%n nodes", nullptr, int(nodes));
        if (r->isPrinted)
            parts << tr("drift allowance %1").arg(lengthText(r->driftAllowance(), desk_.unit()));
    }
    const auto& under = desk_.machining().onBed().under;
    hold_->setVisible(under.has_value());
    hold_->setText(under && under->held ? tr("Resume") : tr("Hold"));
    hold_->setToolTip(under && under->held ? tr("The machine goes on where it stands") : tr("The machine stands still until it is told to go on"));
    const bool stalled = desk_.stalled() && desk_.currentPiece();
    if (stalled)
        parts.prepend(tr("\u25b2 Stopped: these figures are of before"));
    resume_->setVisible(stalled);
    figures_->setText(parts.join(QStringLiteral("      ")));
}

void StatusStrip::showProgress(double& of, double fraction, const QString& step)
{
    of = fraction;
    if (this->fraction() < 0) {
        patience_.stop();
        stop_->hide();
        progressText_->hide();
        update();
        return;
    }
    if (&of == &fraction_ && machine_ >= 0)
        return;
    if (fraction >= 0)
        progressText_->setText(QStringLiteral("%1 \u00b7 %2 %").arg(step).arg(fraction * 100, 0, 'f', 0));
    if (!stop_->isVisible() && !patience_.isActive())
        patience_.start();
    update();
}

void StatusStrip::paintEvent(QPaintEvent*)
{
    const auto& c = theme::colours();
    QPainter p(this);
    p.fillRect(rect(), c.strip);
    p.setPen(QPen(c.line, 1));
    p.drawLine(QPointF(0, 0.5), QPointF(width(), 0.5));
    if (fraction() >= 0 && stop_->isVisible())
        p.fillRect(QRectF(0, 0, width() * fraction(), 2), c.accent);
}

} // namespace yokai
