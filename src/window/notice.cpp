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
        const auto run = std::move(shown_.run);
        end();
        if (run)
            run();
    });
    close_->setIcon(theme::icon(QStringLiteral("close"), Qt::white));
    close_->setAccessibleName(tr("Dismiss"));
    layout->addWidget(close_, 0, Qt::AlignTop);
    connect(close_, &QToolButton::clicked, this, &Notice::end);
    timer_.setSingleShot(true);
    connect(&timer_, &QTimer::timeout, this, &Notice::end);
    hide();
}

void Notice::say(const QString& text, Severity severity) { take({text, severity, {}, {}, {}}); }

void Notice::offer(const QString& text, const QString& press, std::function<void()> run, std::function<bool()> holds)
{
    take({text, Severity::Note, press, std::move(run), std::move(holds)});
}

constexpr int readable = 6000; // ms

// The newest is seen first. What has a press comes back after it, and so does a fault that was not there long enough to be read.
void Notice::take(Said next)
{
    std::erase_if(covered_, [&](const Said& s) { return s.text == next.text; });
    const bool stays = !shown_.press.isEmpty() || (shown_.severity != Severity::Note && since_.elapsed() < readable);
    if (!isHidden() && stays && shown_.text != next.text)
        covered_.push_back(std::move(shown_));
    constexpr std::size_t most = 8;
    if (covered_.size() > most)
        covered_.erase(covered_.begin());
    present(std::move(next));
}

void Notice::end()
{
    hide();
    shown_ = {};
    while (!covered_.empty()) {
        Said next = std::move(covered_.back());
        covered_.pop_back();
        if (!next.holds || next.holds())
            return present(std::move(next));
    }
}

void Notice::present(Said next)
{
    shown_ = std::move(next);
    const QString& text = shown_.text;
    const Severity severity = shown_.severity;
    const QString ground = severity == Severity::Error     ? QStringLiteral("#8f2019")
                           : severity == Severity::Warning ? QStringLiteral("#7d4f00")
                                                           : QStringLiteral("#23264a");
    setStyleSheet(
        QStringLiteral("QWidget#notice { background: %1; border-radius: 6px; border: 1px solid rgba(255,255,255,60); } QLabel { color: white; } QPushButton#notice-press { background: transparent; color: white; border: 1px solid white; border-radius: 4px; padding: 3px 12px; }").arg(ground));
    text_->setText((severity == Severity::Error ? QStringLiteral("\u25b2  ") : QString()) + text.left(1).toUpper() + text.mid(1));
    setAccessibleName(text);
    press_->setText(shown_.press);
    press_->setVisible(!shown_.press.isEmpty());
    place();
    show();
    since_.start();
    raise();
    QAccessibleEvent announced(this, QAccessible::Alert);
    QAccessible::updateAccessibility(&announced);
    if (severity == Severity::Note && shown_.press.isEmpty())
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
