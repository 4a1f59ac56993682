// The operations of the cut: their order, what is done with each, how, and which lines are on it.
#pragma once

#include "base/id.h"
#include "machine/machine.h"

#include <QString>
#include <QStringList>

#include <optional>

namespace yokai {
class Desk;
struct Job;
}

namespace yokai::edits {

int selectedOperation(const Desk& desk); // its place; -1: none
QString nameOf(const OperationStep& step);
// What holds for it now: its own settings, the material's, or the usual ones.
ProcessSettings settingsOf(const Job& job, const OperationStep& step);
void moveOperation(Desk& desk, int by); // the selected one, and stays selected
void removeOperation(Desk& desk);       // one of one's own: its lines are on their kind's again
// A line's operation: 0 its kind's, 1.. those of one's own in their order; the last a new one.
QStringList operationsFor(const Desk& desk);
int operationOf(const Desk& desk, LineId line);
void putOn(Desk& desk, LineId line, int choice);
// The machine a job is cut on, and the sheet where its eye reaches the marks; else what to say of that.
QString putMachine(Job& job, const std::optional<Machine>& machine);
void noteMachine(const QString& name);
std::optional<Machine> usualMachine(); // what was noted last, where it is still there
bool isMachineKnown();                 // whether anything was ever noted, be it none
// What holds becomes the material's own, in the job and among those that are kept.
void keepInMaterial(Desk& desk);

} // namespace yokai::edits
