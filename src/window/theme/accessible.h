// What a control that we draw ourselves is made of, for those who do not see it: its parts
// with their names, places, roles and states, reachable and pressable like any widget.
#pragma once

#include <QAccessible>
#include <QRect>
#include <QString>

#include <vector>

class QWidget;

namespace yokai {

struct DrawnPart {
    QString name;
    QRect place; // in the widget
    QAccessible::Role role = QAccessible::Button;
    bool on = false; // checked, or selected
};

// A widget that draws its parts mixes this in.
class Drawn {
public:
    virtual ~Drawn() = default;
    virtual QAccessible::Role drawnRole() const { return QAccessible::Grouping; }
    virtual std::vector<DrawnPart> drawnParts() const = 0;
    virtual void pressPart(int index) = 0;
};

void installAccessibility();   // once, before the first window
void tellParts(QWidget* drawn); // their states are other than before

} // namespace yokai
