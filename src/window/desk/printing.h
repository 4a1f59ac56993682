// What is printed from here: the sheets, and the page that measures a printer. How much each printer stretches is remembered under
// its name, and is the job's whenever something is printed on it.
#pragma once

#include "device/print_queue.h"

#include <QStringList>

namespace yokai {
class Desk;
}

namespace yokai::printing {

struct Scale { // percent of what it should be
    double across = 100, along = 100;
    bool operator==(const Scale&) const = default;
};

QStringList known(); // printers that were printed on from here
QString last();      // the one the job's scale is that of; empty: none yet
Scale scaleOf(const QString& printer);
void use(Desk& desk, const QString& printer);
void measured(const Scale& scale); // of the last one, from now on

struct Where {
    PrintOrder order; // what it is called and its paper are filled in here
    QString file;     // instead of a queue
};
// Whether there is anything to print, and it may be printed as it is.
bool mayPrint(const Desk& desk);
// Sheets `first` to `last`, from 0, in the background.
void print(Desk& desk, Where where, int first, int last);
void printTestPage(Desk& desk, Where where);

} // namespace yokai::printing
