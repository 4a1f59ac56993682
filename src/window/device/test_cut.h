// A whole try on the stand-in: print, load crookedly, find the marks, fit, cut, and see where the cut landed on the print.
#pragma once

#include "device/cut_on_machine.h"
#include "job/derive.h"

#include <QImage>

#include <optional>

namespace yokai {

// Unit: mm on the bed, y up.
struct TestCutResult {
    QImage bed;      // what the camera saw
    Point bedCorner; // of its top-left pixel
    double bedPxPerMm = 1;
    std::vector<MarkPair> marks; // designed on the sheet (y up), measured on the bed
    std::optional<Fit> fit;      // absent with the fit switched off
    std::vector<Polyline> landed; // the cuts as the machine made them
    double worst = 0, mean = 0;   // how far they lie from where the print has its lines
    Point worstAt;
    Point worstShouldBe;
    std::vector<Polyline> ideal; // where the print has its lines
    std::vector<PlannedStep> steps; // in the order they were done
    double planned = 0, took = 0; // seconds
};

// Throws Error or Cancelled. `standIn` is the program to start.
TestCutResult runTestCut(const Job& job, const Derived& derived, int sheet, const QString& standIn, const Work& work);

// The stand-in beside the running program, or the installed one.
QString standInProgram();

} // namespace yokai
