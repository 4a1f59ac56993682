// The trail: the stations on their thread, the current one unfolded.
#pragma once

#include "studio/studio.h"

#include <QScrollArea>

#include <optional>

class QLabel;

namespace yokai {

class Panel;

class StationCard : public QWidget {
    Q_OBJECT
public:
    StationCard(Station station, Studio& studio, QWidget* parent);
    void refresh();

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

private:
    Station station_;
    Studio& studio_;
    QLabel *title_, *line_;
    Panel* panel_ = nullptr; // made when first unfolded
    int state_ = 0;
};

class Trail : public QScrollArea {
    Q_OBJECT
public:
    explicit Trail(Studio& studio, QWidget* parent = nullptr);

protected:
    void paintEvent(QPaintEvent* event) override;

private:
    void refresh();
    Studio& studio_;
    std::vector<StationCard*> cards_;
    std::optional<Station> shown_; // last brought into sight
};

} // namespace yokai
