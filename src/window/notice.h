// A calm line over the bench: what happened, and what to do. Notes go by themselves; all
// are announced.
#pragma once

#include "check/finding.h"

#include <QTimer>
#include <QWidget>

#include <functional>

class QLabel;
class QPushButton;
class QToolButton;

namespace yokai {

class Notice : public QWidget {
    Q_OBJECT
public:
    explicit Notice(QWidget* parent);
    void say(const QString& text, Severity severity);
    // With a press that does it.
    void offer(const QString& text, const QString& press, std::function<void()> run);
    void place(); // after the parent has another size

private:
    QLabel* text_;
    QPushButton* press_;
    QToolButton* close_;
    std::function<void()> offered_, run_;
    QTimer timer_;
};

} // namespace yokai
