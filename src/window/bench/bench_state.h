// All that the bench draws, as one value that can be handed to another thread.
#pragma once

#include "desk/desk.h"
#include "desk/on_bed.h"
#include "touchup/snap.h"

namespace yokai {

struct BenchState {
    std::shared_ptr<const Shown> shown;
    std::shared_ptr<const TestCutResult> testCut;
    OnBed bed;
    Station station = Station::CutLines;
    int piece = -1; // its place in what is shown; -1: none, or its result is not there yet
    std::vector<int> selectedParts;
    std::optional<Touch> selectedTouch;
    std::vector<std::vector<Point>> inside; // the outlines of Keep, mm
    std::vector<Touch> marked;              // strokes that say what is subject, as those that bring back, and what is not; mm
    LayerId layerId; // the one worked on
    bool lifted = false; // it is shown lifted off the others
    LineId line;
    std::vector<std::size_t> findings;      // those to be seen here, in Derived::findings
    std::optional<std::size_t> finding;     // the one selected
    std::vector<Point> nodes; // those selected, mm
    std::vector<Point> handles; // of a single one: before it and after
    std::vector<std::pair<StraightGuide, bool>> guides; // and whether it is selected
    EditId edit; // the one selected
    int mark = -1;
    int sheet = 0; // the one looked at
    std::vector<CopiesSelected::Copy> copies; // those selected
    std::optional<SeparationSelected> separation; // shown by itself
    Peek peek = Peek::Nothing;
    Hold hold = Hold::Nothing;
    Point off; // how far the cut is shown off the print, mm
    Unit unit = Unit::Mm;

    static BenchState of(const Desk& desk);
    const PieceResult* result() const { return piece < 0 ? nullptr : &shown->derived.pieces[std::size_t(piece)]; }
    const Piece* spec() const { return piece < 0 ? nullptr : &shown->job.pieces[std::size_t(piece)]; }
    const LayerResult& layer() const { return result()->layer(layerId); } // of a result that there is
    const PiecePicture* picture() const { return piece < 0 ? nullptr : &shown->pictures[std::size_t(piece)]; }
};

} // namespace yokai
