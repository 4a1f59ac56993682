// The bar at the top: the job, its findings, the unit, undo and redo, and the one
// button for what comes next.
#pragma once

#include "desk/desk.h"

#include <QWidget>

class QLabel;
class QLineEdit;
class QMenu;
class QPushButton;
class QToolButton;

namespace yokai {

class HeaderBar : public QWidget {
    Q_OBJECT
public:
    HeaderBar(Desk& desk, QMenu* menu, QWidget* parent = nullptr);
    void rename(); // the job, where its name stands

signals:
    void findingsWanted();

protected:
    void paintEvent(QPaintEvent*) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    void refresh();
    void endRenaming(bool take);
    Desk& desk_;
    QLabel *name_, *saved_;
    QLineEdit* newName_;
    QPushButton *findings_, *mm_, *in_, *next_;
    QToolButton *undo_, *redo_;
};

} // namespace yokai
