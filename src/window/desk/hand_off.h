// The files that a job is handed off in: what each is, what it is called, and making them.
#pragma once

#include "desk/worker.h"
#include "formats/drawing.h"

#include <QString>

#include <optional>
#include <span>
#include <vector>

namespace yokai::handoff {

// One of what can be handed off.
struct Deliverable {
    const char* id;
    const char* title; // after translation, in the context HandOff
    const char* tip;
    const char* what; // "print": what a name says of it
    const char* ending;
    std::optional<Content> content; // none: the proof
    bool atFirst;                   // wanted, unless said otherwise
    bool pages;                     // all sheets are in one file
};
std::span<const Deliverable> deliverables();

struct File {
    QString path;
    const Deliverable* of;
    int sheet = 0; // -1: all
    int layer = -1; // of colour layers the one it is of; -1: all
};

// Cut files of colour layers are one a layer. By a pattern: {job}, {what}, {date} and {sheet} are filled in, and what no file's name may hold is left out. Where there are
// more sheets than one and the pattern does not say {sheet}, its number stands at the end.
QString usualNames();
QString nameOf(const QString& pattern, const QString& job, const Deliverable& of, int sheet, int sheets, const QString& layer = {});
std::vector<File> filesOf(const QString& folder, const QString& pattern, const QString& job, const std::vector<const Deliverable*>& wanted, int sheets,
                          const std::vector<DrawnLayer>& layers = {});

// Whose work it is, from the settings.
QString makerName();
QString makerLogo(); // a picture's path; empty: none
void setMaker(const QString& name, const QString& logo);

// All are made before the first is written, so that a failure leaves none half done. Throws Error(Output).
void write(const Shown& shown, const std::vector<File>& files, Unit unit, const Work& work);

} // namespace yokai::handoff
