// First places for bodies: on a raster of the sheet, each as far up as it goes, and as far left
// there. Cells that two bodies share are nearer than the gap allows; no two that share none are.
//
// Unit: mm on the sheet; cells within.
#pragma once

#include "sheet/nest/crowd.h"

#include <map>
#include <optional>
#include <tuple>

namespace yokai::nesting {

class FirstFit {
public:
    FirstFit(const Rules& rules, double cell);

    void block(const Member& member);
    // The place for this body whose lower end lies highest, of all turns tried.
    std::optional<Pose> place(const Member& member, const Work& work);

private:
    struct Run {
        int first, last;
    };
    struct Mask { // of a body as it is turned
        Pose pose;  // but for its place
        Point corner; // of the middle of its first cell from the body's middle
        std::vector<std::vector<Run>> rows;
        int least = 0, most = 0, top = 0, bottom = 0; // where its first cell may go
        double height = 0;                             // of the body itself below its middle
        int from = 0;                                  // rows above this are known to be full for it
    };
    struct Spot {
        int x, y;
    };
    Mask maskOf(const Member& member, const Pose& pose) const;
    std::vector<Mask>& masksOf(const Member& member);
    std::optional<Spot> find(Mask& mask, int below) const;
    Point at(const Mask& mask, Spot spot) const;

    Rules rules_;
    double cell_;
    Point origin_; // of the raster
    int columns_ = 0, rows_ = 0;
    std::size_t words_ = 0;
    std::vector<std::uint64_t> taken_;
    std::map<std::pair<const Body*, double>, std::vector<Mask>> masks_;
};

} // namespace yokai::nesting
