// Figures, errors and findings in words, in the window's language and with the locale's
// decimal sign.
#pragma once

#include "base/error.h"
#include "base/length.h"
#include "base/line_kind.h"
#include "base/speed.h"
#include "job/derived.h"

#include <QString>

namespace yokai {

QString number(double value, int decimals);                    // "2.50", with the locale's sign
QString lengthText(double mm, Unit unit);                      // "206.0 mm": as many decimals as mean something
QString exactText(double mm, Unit unit, bool withUnit = true); // "2.00 mm", "0.0787 in"
QString areaText(double mm2, Unit unit);                       // "2 410 mm²", "3.74 in²"
QString exactAreaText(double mm2, Unit unit, int decimals);    // as it is typed; `decimals` of mm2
QString unitsText(double unitsAnInch); // of one of them: "1 mm", "1 in", "1/72 in"
QString sizeText(double width, double height, Unit unit);      // "48.09 × 62.00 mm"
QString speedText(Speed speed, Unit unit);                     // "20 mm/s", or a minute where that was typed last
SpeedUnit speedUnit(Unit unit);                                // in which speeds are shown
void noteSpeedUnit(const QString& typed);                      // a second or a minute, as the maker types it
QString timeText(double seconds);                               // "52 s", "2 min 05 s", "1 h 03 min"
QString title(LineKind kind);                                  // "Through"
QString title(FitModel model);                                 // "Moves and turns"
QString words(const Error& error);
QString title(const Finding& finding);                         // "Tight corner"
QString figures(const Finding& finding, Unit unit);            // "0.11 of 0.25 mm"
QString words(const Finding& finding, const Job& job, Unit unit);
QString refusal(const Derived& derived, const Job& job, Unit unit); // why nothing may be printed or cut; empty: it may
QString pictureFiles();                                         // a file dialog's filter of all pictures that are read
QString text(const std::string& utf8);

} // namespace yokai
