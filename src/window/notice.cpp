#include "notice.h"

#include "theme/theme.h"

#include <QAccessible>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QToolButton>

#include <utility>

namespace yokai {

Notice::Notice(QWidget* parent) : QWidget(parent), text_(new QLabel(this)), press_(new QPushButton(this)), close_(new QToolButton(this))
{
    setObjectName("notice");
    setAttribute(Qt::WA_StyledBackground);
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(14, 6, 8, 6);
    text_->setWordWrap(true);
    text_->setObjectName("notice-text");
    text_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    layout->addWidget(text_, 1);
    press_->setObjectName("notice-press");
    press_->hide();
    layout->addWidget(press_, 0, Qt::AlignVCenter);
    connect(press_, &QPushButton::clicked, this, [this] {
        hide();
        if (const auto run = std::exchange(run_, {}))
            run();
    });
    close_->setIcon(theme::icon(QStringLiteral("close"), Qt::white));
    close_->setAccessibleName(tr("Dismiss"));
    layout->addWidget(close_, 0, Qt::AlignTop);
    connect(close_, &QToolButton::clicked, this, &QWidget::hide);
    timer_.setSingleShot(true);
    connect(&timer_, &QTimer::timeout, this, &QWidget::hide);
    hide();
}

void Notice::offer(const QString& text, const QString& press, std::function<void()> run)
{
    press_->setText(press);
    offered_ = std::move(run);
    say(text, Severity::Note);
    timer_.stop(); // it stays until it is answered
}

void Notice::say(const QString& text, Severity severity)
{
    run_ = std::exchange(offered_, {}); // what was offered before is so no more
    const QString ground = severity == Severity::Error     ? QStringLiteral("#8f2019")
                           : severity == Severity::Warning ? QStringLiteral("#7d4f00")
                                                           : QStringLiteral("#23264a");
    setStyleSheet(
        QStringLiteral("QWidget#notice { background: %1; border-radius: 6px; border: 1px solid rgba(255,255,255,60); } QLabel { color: white; } QPushButton#notice-press { background: transparent; color: white; border: 1px solid white; border-radius: 4px; padding: 3px 12px; }").arg(ground));
    text_->setText((severity == Severity::Error ? QStringLiteral("\u25b2  ") : QString()) + text.left(1).toUpper() + text.mid(1));
    setAccessibleName(text);
    press_->setVisible(bool(run_));
    place();
    show();
    raise();
    QAccessibleEvent announced(this, QAccessible::Alert);
    QAccessible::updateAccessibility(&announced);
    constexpr int readable = 6000; // ms
    if (severity == Severity::Note)
        timer_.start(readable);
    else
        timer_.stop();
}

void Notice::place()
{
    const int width = std::min(640, parentWidget()->width() - 80);
    text_->setFixedWidth(width - 60 - (press_->isHidden() ? 0 : press_->sizeHint().width() + 8));
    setFixedWidth(width);
    adjustSize();
    move((parentWidget()->width() - width) / 2, parentWidget()->height() - height() - 16);
}

} // namespace yokai
