// The command line of yokai-batch, read into plain values.
#pragma once

#include "formats/cut_file.h"
#include "formats/drawing.h"
#include "job/job.h"

#include <optional>
#include <string>
#include <vector>

namespace yokai::batch {

struct Options {
    std::string verb;
    std::vector<std::string> inputs;
    std::string width, height, ppi;
    std::string keep, level, smallestPart, openings;
    std::string bleed, bleedFrom, underprint;
    std::vector<std::string> lines;
    std::string smoothing, straighten, page, perforate, rectangle;
    bool mirror = false, lies = false;
    std::vector<std::string> tabs;
    std::string bridges;
    std::string tolerance, corners, join, roundInside, lineOpenings, crop, cropMargin;
    std::string paper, margin, copies, share, gap;
    std::string layout, turn, seconds, seed, columns, rows, gapDown, sheetMirror;
    std::string marks, markInset, markSize, markCount, markGap;
    bool landscape = false, nestMirror = false, trim = false, separate = false;
    std::string order, recipe;
    std::vector<std::string> spots;
    std::string fit, maxResidual, measured;
    std::string machine, kerf, bladeOffset, overcut, passes, feed, power, force, upi;
    std::string marksJob, marksOf, flatten;
    std::string engrave, interval, angle, overscan, burnLevel, curve, leastPower;
    bool oneWay = false, reverse = false;
    std::string colours, merge, speckle, spread, backing;
    bool photo = false;
    std::vector<std::string> drop;
    std::string port, find, sheetAt, layer, as;
    bool byOperation = false, sure = false;
    std::string toolRadius, leastNeck, leastGap, leastArea, leastLength, leastPpi, drift;
    std::vector<std::string> out;
    std::string print, cut, proof, report, hairline, stretch, printPpi, dxf;
    std::string material, maker, makerLogo;
    bool strict = false;

    // What is to be written: at least one file or the report, checked before any work.
    void requireOutput() const;
    bool asLines() const; // of drawings
};

// Reads the command line. A finished run (--help, --version) or wrong usage ends
// here with an exit code.
std::optional<int> readOptions(int argc, char** argv, Options& options);

// Each applies what was said and leaves the rest. Throws Error(Usage).
void applyTo(Piece& piece, const Options& options);
void applyTo(Job& job, const Options& options);
void applyTo(SheetSpec& sheet, const Options& options);
// A machine of its own is made, as large as the sheet, where only a tool's figures are given.
void applyTo(PlanSpec& plan, const Options& options, double sheetWidth, double sheetHeight);

Piece pieceOf(const std::string& path, const Options& options);
// A drawing whose own paths are wanted; what cannot come in is said.
CutFile drawingOf(const std::string& path, const Options& options);

} // namespace yokai::batch
