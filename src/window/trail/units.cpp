#include "trail/units.h"

#include "words.h"

#include <QSignalBlocker>

#include <cmath>

namespace yokai {

void listUnits(ChoiceBox& box, const std::vector<double>& unitsAnInch, double taken, const std::function<QString(double)>& size)
{
    const QSignalBlocker quiet(box);
    box.clear();
    int chosen = -1;
    for (const double units : unitsAnInch) {
        box.addItem(QObject::tr("Unit %1: %2").arg(unitsText(units), size(units)), units);
        if (std::abs(units - taken) < 1e-6)
            chosen = box.count() - 1;
    }
    box.setCurrentIndex(chosen);
}

} // namespace yokai
