// What is printed beyond the kept edge, and how far a cut may land off it.
#pragma once

#include "bleed/bleed.h"
#include "bleed/drift.h"
#include "job/derived.h"
#include "job/steps/lines.h"

#include <algorithm>

namespace yokai {

using SharedPrint = std::shared_ptr<const PrintImage>;

// The edge of a print that a line bounds.
struct ClipEdgeIn {
    static constexpr const char* step = "clip edge";
    static constexpr const char* time = "bleed";
    using Out = DistanceField; // px
    std::shared_ptr<const Paths> paths; // mm
    double pxPerMm = 1;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("scale", self.pxPerMm);
        visitPaths(*self.paths, visit);
    }
    std::shared_ptr<const DistanceField> make(Run&) const
    {
        constexpr double flatness = 0.02; // px
        Contours edge;
        for (const Path& path : *paths)
            if (path.closed) {
                Contour& c = edge.emplace_back();
                c.points = flatten(transformed(path, Affine::scale(pxPerMm, pxPerMm)), flatness);
                c.area = signedArea(c.points);
            }
        return std::make_shared<const DistanceField>(std::move(edge));
    }
};

struct BleedIn {
    static constexpr const char* step = "bleed";
    static constexpr const char* time = "bleed";
    using Out = PrintImage;
    Made<DistanceField> edge; // of all that is kept
    Made<Framed> framed;
    Made<Gray8> printed;
    BleedSpec bleed;
    double pxPerMm = 1;
    bool lossy = false;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("edge", self.edge);
        visit("framed", self.framed);
        visit("printed", self.printed);
        visit("bleed", self.bleed);
        visit("scale", self.pxPerMm);
        visit("lossy", self.lossy);
    }
    std::shared_ptr<const PrintImage> make(Run& run) const { return bleedOf(*edge, {*framed->pixels, *printed, pxPerMm, lossy}, bleed, run.work()); }
};

struct UnderprintIn {
    static constexpr const char* step = "underprint";
    static constexpr const char* time = "bleed";
    using Out = Plate;
    BleedIn print; // what it lies beneath
    SharedPrint bled;
    UnderprintSpec underprint;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        BleedIn::fields(self.print, visit); // what bleeds follows from it
        visit("underprint", self.underprint);
    }
    std::shared_ptr<const Plate> make(Run& run) const
    {
        auto plate = underprintOf(*print.edge, {*print.framed->pixels, *print.printed, print.pxPerMm, print.lossy}, print.bleed, bled.get(), underprint, run.work());
        return plate ? plate : std::make_shared<const Plate>(Plate{std::make_shared<const Gray8>(1, 1, std::uint8_t(0)), {}});
    }
};

struct DriftIn {
    static constexpr const char* step = "drift";
    static constexpr const char* time = "bleed";
    using Out = Drift;
    Made<DistanceField> edge;
    std::shared_ptr<const Paths> paths; // mm
    std::vector<BarePlace> bare;             // where paper is meant to show
    double reach = 0;                   // of the print beyond the edge, mm
    Border border = Border::Wanted;
    double pxPerMm = 1;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("edge", self.edge);
        visit("reach", self.reach);
        visit("border", self.border);
        for (const BarePlace& disc : self.bare) {
            visit("centre", disc.centre);
            visit("radius", disc.radius);
        }
        visit("scale", self.pxPerMm);
        visitPaths(*self.paths, visit);
    }
    std::shared_ptr<const Drift> make(Run& run) const
    {
        Contours print;
        for (LevelLine& line : edge->at(reach * pxPerMm, 0, run.work())) {
            Contour& c = print.emplace_back();
            c.area = signedArea(line.points);
            c.points = std::move(line.points);
        }
        return std::make_shared<const Drift>(driftOf(*paths, KeptEdge(edge->contours(), pxPerMm), KeptEdge(print, pxPerMm), border,
                                                     [&](Point p) { return std::any_of(bare.begin(), bare.end(), [&](const BarePlace& d) { return d.holds(p); }); }, run.work()));
    }
};

} // namespace yokai
