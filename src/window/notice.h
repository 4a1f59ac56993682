// A calm line over the bench: what happened, and what to do. Notes go by themselves; all
// are announced.
#pragma once

#include "check/finding.h"

#include <QElapsedTimer>
#include <QTimer>
#include <QWidget>

#include <functional>
#include <vector>

class QLabel;
class QPushButton;
class QToolButton;

namespace yokai {

class Notice : public QWidget {
    Q_OBJECT
public:
    explicit Notice(QWidget* parent);
    void say(const QString& text, Severity severity);
    // With a press that does it. It stays until it is pressed or dismissed: what is said meanwhile is shown before it, and then it is back if it
    // still holds.
    void offer(const QString& text, const QString& press, std::function<void()> run, std::function<bool()> holds);
    void place(); // after the parent has another size

private:
    QLabel* text_;
    QPushButton* press_;
    QToolButton* close_;
    struct Said {
        QString text;
        Severity severity = Severity::Note;
        QString press; // empty: none
        std::function<void()> run;
        std::function<bool()> holds;
    };
    void take(Said next);
    void present(Said next);
    void end(); // what was covered is seen again
    Said shown_;
    std::vector<Said> covered_; // the newest last
    QTimer timer_;
    QElapsedTimer since_; // it is seen
};

} // namespace yokai
