// The trail: the stations on their thread, the current one unfolded. All eight are always
// on the screen: the others take one line each, and the open panel scrolls by itself.
#pragma once

#include "desk/desk.h"
#include "trail/summary.h"

#include <QWidget>

class QLabel;
class QScrollArea;
class QVBoxLayout;

namespace yokai {

class RowPanel;

class StationCard : public QWidget {
    Q_OBJECT
public:
    StationCard(Station station, Desk& desk, QWidget* parent);
    void refresh();
    void refreshSummary();
    bool unfolded() const { return unfolded_; }
    RowPanel* panel() const { return panel_; }

protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override { fitLine(); }
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

private:
    void fitLine();
    void unfold();
    Station station_;
    Desk& desk_;
    QLabel *title_, *line_;
    QScrollArea* scroll_ = nullptr; // made, with its panel, when first unfolded
    RowPanel* panel_ = nullptr;
    Summary summary_;
    bool unfolded_ = false;
};

class Trail : public QWidget {
    Q_OBJECT
public:
    explicit Trail(Desk& desk, QWidget* parent = nullptr);
    const std::vector<StationCard*>& cards() const { return cards_; }

protected:
    void paintEvent(QPaintEvent* event) override;

private:
    void refresh();
    Desk& desk_;
    QVBoxLayout* layout_;
    std::vector<StationCard*> cards_;
};

} // namespace yokai
