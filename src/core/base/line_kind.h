// The kinds of line, and all that is settled about each, in one table: sheets, machines
// and every format take it from here.
#pragma once

#include "base/fields.h"

#include <array>
#include <cstdint>

namespace yokai {

enum class LineKind { Through, Kiss, Perforate, Crease };

struct LineKindFacts {
    LineKind kind;
    const char* name;     // "through": files and command lines
    const char* title;    // "Through": shown, after translation
    const char* spot;     // what its spot colour is called to begin with
    const char* svgGroup; // "cut-through"
    const char* dxfLayer; // "CUT_THROUGH"
    int pen;              // HPGL
    const char* colour;   // on the screen and in SVG
    int dxfColour;        // of the DXF colour table
    double ink[4];        // cyan, magenta, yellow, black: how its spot colour looks where there is no such plate
};

inline constexpr std::array<LineKindFacts, 4> lineKindTable = {{
    {LineKind::Through, "through", "Through", "Through", "cut-through", "CUT_THROUGH", 1, "#5b2fb8", 6, {0.75, 0.9, 0, 0}},
    {LineKind::Kiss, "kiss", "Kiss", "Kiss", "cut-kiss", "CUT_KISS", 2, "#0b8277", 4, {0.85, 0, 0.45, 0.1}},
    {LineKind::Perforate, "perforate", "Perforate", "Perforate", "cut-perforate", "CUT_PERFORATE", 3, "#8a3fd1", 200, {0.5, 0.75, 0, 0}},
    {LineKind::Crease, "crease", "Crease", "Crease", "crease", "CREASE", 4, "#b97a10", 30, {0, 0.4, 1, 0.15}},
}};

// How the spot colour of what is engraved looks where there is no such plate.
inline constexpr double engraveInk[4] = {0, 0, 0, 1};

constexpr const LineKindFacts& facts(LineKind kind) { return lineKindTable[std::size_t(kind)]; }

constexpr std::array<Named<LineKind>, 4> namesOf(LineKind)
{
    std::array<Named<LineKind>, 4> out{};
    for (std::size_t i = 0; i < out.size(); ++i)
        out[i] = {lineKindTable[i].kind, lineKindTable[i].name};
    return out;
}
inline constexpr LineKind lineKinds[] = {LineKind::Through, LineKind::Kiss, LineKind::Perforate, LineKind::Crease};

} // namespace yokai
