// The system's own dialog, for what is printed from here.
#pragma once

class QWidget;

namespace yokai {

class Desk;

void askAndPrint(Desk& desk, QWidget* over);
void askAndPrintTestPage(Desk& desk, QWidget* over);

} // namespace yokai
