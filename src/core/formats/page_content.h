// The operators of PDF's page content (ISO 32000-1, 8.5) that paths are written in; EPS defines the same letters. What
// strokes and fills is the language's own word. Private to the formats.
#pragma once

#include "formats/drawing.h"

#include <string>

namespace yokai {

constexpr double pointsPerMm = 72 / 25.4;

// A number of a text format: millimetres to a tenth of a micrometre.
std::string figure(double value);
std::string pair(Point p);
void appendPath(std::string& out, const Path& path);

// All that is cut of one kind; empty: nothing is.
std::string strokedCuts(const Drawing& drawing, LineKind kind, const char* stroke, const Work& work);
void appendInk(std::string& out, const std::vector<Mark>& marks, const char* stroke, const char* fill);

} // namespace yokai
