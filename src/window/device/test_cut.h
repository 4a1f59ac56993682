// A whole try on the stand-in: print, load crookedly, find the marks, fit, cut, and see where the cut landed on the print.
#pragma once

#include "device/cut_on_machine.h"
#include "device/stand_in.h"
#include "job/derive.h"

#include <QImage>
#include <QTemporaryDir>

#include <optional>

namespace yokai {

// The bed as a camera over it sees it.
struct BedPicture {
    QImage image;
    Point corner; // of its top-left pixel
    double pxPerMm = 1;
};

// Unit: mm on the bed, y up.
struct TestCutResult {
    BedPicture bed;
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

// Whether the cut is to be fitted to marks: as the job says, where there is a print to fit to.
inline bool usesFit(const Job& job, const Derived& derived) { return job.cut.useFit && derived.printed; }

// A sheet of a job on its way to a machine: what to cut, and the marks as they are printed.
CutOrder orderOf(const Job& job, const Derived& derived, int sheet, const Work& work);

// The stand-in with a sheet printed and loaded as the job says. Lives on one thread.
class TestBed {
public:
    // Throws Error or Cancelled. `standIn` is the program to start.
    TestBed(const Job& job, const Derived& derived, int sheet, const QString& standIn, const Work& work);
    const CutOrder& order() const { return order_; }
    LinkSpec link() const;
    BedPicture picture(MachineLine& line, const Work& work) const;
    // What came of a cut that was made there.
    TestCutResult landed(MachineLine& line, const CutDone& done, const Work& work) const;

private:
    QTemporaryDir scratch_;
    CutOrder order_;
    bool printed_ = true;
    std::unique_ptr<StandIn> there_;
};

// All of it in a row. Throws Error or Cancelled.
TestCutResult runTestCut(const Job& job, const Derived& derived, int sheet, const QString& standIn, const Work& work);

// The stand-in beside the running program, or the installed one.
QString standInProgram();

} // namespace yokai
