// A calm line over the bench: what happened, and what to do. Notes go by themselves; all
// are announced.
#pragma once

#include "check/finding.h"

#include <QTimer>
#include <QWidget>

class QLabel;
class QToolButton;

namespace yokai {

class Notice : public QWidget {
    Q_OBJECT
public:
    explicit Notice(QWidget* parent);
    void say(const QString& text, Severity severity);
    void place(); // after the parent has another size

private:
    QLabel* text_;
    QToolButton* close_;
    QTimer timer_;
};

} // namespace yokai
