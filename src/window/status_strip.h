// The strip at the bottom: where the pointer is, the figures that matter, and any
// long work with its stop button.
#pragma once

#include "desk/desk.h"

#include <QElapsedTimer>
#include <QTimer>
#include <QWidget>

class QLabel;
class QProgressBar;
class QToolButton;

namespace yokai {

class StatusStrip : public QWidget {
    Q_OBJECT
public:
    explicit StatusStrip(Desk& desk, QWidget* parent = nullptr);
    void showPointer(QPointF mm, bool inside);
    void showZoom(double ratio);

protected:
    void paintEvent(QPaintEvent*) override;

private:
    void refresh();
    void showProgress(double& of, double fraction, const QString& step);
    double fraction() const { return machine_ >= 0 ? machine_ : fraction_; } // what is shown: the machine goes first
    Desk& desk_;
    QLabel *pointer_, *figures_, *progressText_, *zoom_;
    QToolButton *hold_, *stop_, *resume_;
    double fraction_ = -1, machine_ = -1;
    QTimer patience_; // short work is not worth a flicker
};

} // namespace yokai
