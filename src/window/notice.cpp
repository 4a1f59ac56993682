#include "notice.h"

#include "theme/theme.h"

#include <QAccessible>
#include <QHBoxLayout>
#include <QLabel>
#include <QToolButton>

namespace yokai {

Notice::Notice(QWidget* parent) : QWidget(parent), text_(new QLabel(this)), close_(new QToolButton(this))
{
    setObjectName("notice");
    setAttribute(Qt::WA_StyledBackground);
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(14, 6, 8, 6);
    text_->setWordWrap(true);
    text_->setObjectName("notice-text");
    text_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    layout->addWidget(text_, 1);
    close_->setIcon(theme::icon(QStringLiteral("close"), Qt::white));
    close_->setAccessibleName(tr("Dismiss"));
    layout->addWidget(close_, 0, Qt::AlignTop);
    connect(close_, &QToolButton::clicked, this, &QWidget::hide);
    timer_.setSingleShot(true);
    connect(&timer_, &QTimer::timeout, this, &QWidget::hide);
    hide();
}

void Notice::say(const QString& text, Severity severity)
{
    const QString ground = severity == Severity::Error     ? QStringLiteral("#8f2019")
                           : severity == Severity::Warning ? QStringLiteral("#7d4f00")
                                                           : QStringLiteral("#23264a");
    setStyleSheet(
        QStringLiteral("QWidget#notice { background: %1; border-radius: 6px; border: 1px solid rgba(255,255,255,60); } QLabel { color: white; }").arg(ground));
    text_->setText((severity == Severity::Error ? QStringLiteral("\u25b2  ") : QString()) + text.left(1).toUpper() + text.mid(1));
    setAccessibleName(text);
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
    text_->setFixedWidth(width - 60);
    setFixedWidth(width);
    adjustSize();
    move((parentWidget()->width() - width) / 2, parentWidget()->height() - height() - 16);
}

} // namespace yokai
