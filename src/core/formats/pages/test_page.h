// A page that measures a printer: two lines of known length, to be printed at 100 % and held against a ruler. What they have become
// says by how much the printer stretches.
#pragma once

#include "base/file.h"
#include "base/length.h"

#include <functional>
#include <string>

namespace yokai {

// How long its lines are on a sheet of this size, mm: whole centimetres, with room for what a printer cannot reach.
struct TestLines {
    double across = 0, along = 0;
};
TestLines testLinesOn(double width, double height);

// `say` puts its few words into the reader's language.
Bytes writeTestPage(double width, double height, Unit unit, const std::function<std::string(const char*)>& say);

} // namespace yokai
