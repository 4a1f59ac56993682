// How Yokai looks: warm paper, indigo ink, one persimmon accent, and a dark twin.
#pragma once

#include "job/job.h"

#include <QColor>
#include <QFont>
#include <QIcon>
#include <QPen>
#include <QString>

class QApplication;

namespace yokai::theme {

struct Colours {
    QColor ink, inkSoft, inkFaint;       // text: main, second, disabled
    QColor paper, panel, field, line;    // side areas, raised cards, input fields, hairlines
    QColor surface, hatch, card;         // the bench, the hatch over what is not kept, the picture's ground
    QColor contrast;                     // a ground that light and dark pictures stand out from
    QColor header, onHeader, headerSoft; // the bar at the top
    QColor accent, onAccent, accentSoft; // what to do next
    QColor fine, warning, fault;         // states, always with a shape
    QColor tag, onTag;                   // dimension tags
    QColor strip;                        // the status strip
    QColor link;                         // text that acts
};

void install(QApplication& app); // fonts, palette, style sheet and the system's text size
const Colours& colours();
bool isDark();
void setDark(bool dark);

// Text follows the system's text size, and what holds text grows with it. Sizes are said as they
// are where the system's text is of the usual size; px() is what they are here.
constexpr int usualText = 13, largestText = 22; // px
void setTextSize(int px);                       // kept within the two: smaller could not be read, larger leaves the work no room
int px(int usual);
QString scaled(const QString& styleSheet);
QFont font(int usualPx, int weight = QFont::Normal); // Inter with tabular figures
QIcon icon(const QString& name, const QColor& colour);
QPixmap pixmap(const QString& name, const QColor& colour, int size, qreal ratio);

// Line kinds differ by colour and by pattern.
QPen linePen(LineKind kind, qreal width = 2);
QColor lineColour(LineKind kind);

} // namespace yokai::theme
