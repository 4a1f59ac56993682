// From the parts to the fitted cut lines.
#pragma once

#include "job/step.h"
#include "outline/build.h"
#include "touchup/touch_up.h"

namespace yokai {

// What a step reads of paths.
template <class V> void visitPaths(const Paths& paths, V& visit)
{
    for (const Path& p : paths) {
        visit("closed", p.closed);
        visit("start", p.start);
        for (const Segment& s : p.segments) {
            visit("c1", s.c1);
            visit("c2", s.c2);
            visit("end", s.end);
        }
    }
}

// The edge that lines keep their distance from.
struct FieldIn {
    static constexpr const char* step = "field";
    static constexpr const char* time = "outline";
    using Out = DistanceField;
    Made<Parts> parts;
    double filled = -1; // openings up to this many square pixels are no edge
    double joinGap = 0; // px
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("parts", self.parts);
        visit("filled", self.filled);
        visit("join_gap", self.joinGap);
    }
    std::shared_ptr<const DistanceField> make(Run& run) const
    {
        auto plain = std::make_shared<const DistanceField>(filled < 0 ? parts->contours : withoutOpenings(parts->contours, filled, run.work()));
        return joinGap > 0 ? std::make_shared<const DistanceField>(joined(*plain, joinGap, run.work())) : plain;
    }
};

struct LevelIn {
    static constexpr const char* step = "level";
    static constexpr const char* time = "offset";
    using Out = LevelLines;
    Made<DistanceField> field;
    BuildSpec build;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("field", self.field);
        visit("build", self.build);
    }
    std::shared_ptr<const LevelLines> make(Run& run) const { return std::make_shared<const LevelLines>(buildLines(*field, build, run.work())); }
};

struct FitIn {
    static constexpr const char* step = "fit";
    static constexpr const char* time = "fit";
    using Out = Paths; // mm
    Made<LevelLines> lines;
    double tolerance = 0; // px
    double pxPerMm = 1;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("lines", self.lines);
        visit("tolerance", self.tolerance);
        visit("scale", self.pxPerMm);
    }
    std::shared_ptr<const Paths> make(Run& run) const
    {
        return std::make_shared<const Paths>(transformed(fitLines(*lines, tolerance, run.work()), Affine::scale(1 / pxPerMm, 1 / pxPerMm)));
    }
};

struct TouchUpIn {
    static constexpr const char* step = "touch-up";
    static constexpr const char* time = "touchup";
    using Out = TouchedUp;
    std::shared_ptr<const Paths> fitted;
    std::vector<Edit> edits;
    Affine sourceToMm;
    double offset = 0; // mm
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("edits", self.edits);
        visit("source_to_mm", self.sourceToMm);
        visit("offset", self.offset);
        visitPaths(*self.fitted, visit);
    }
    std::shared_ptr<const TouchedUp> make(Run& run) const
    {
        return std::make_shared<const TouchedUp>(touchUp(*fitted, edits, {sourceToMm, offset}, run.work()));
    }
};

// Where a line bounds the print, it is the picture itself that is printed up to it.
struct ClipIn {
    static constexpr const char* step = "clip";
    static constexpr const char* time = "keep";
    using Out = Gray8;
    Made<Framed> framed;
    std::shared_ptr<const Paths> paths; // mm
    double pxPerMm = 1;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("framed", self.framed);
        visit("scale", self.pxPerMm);
        visitPaths(*self.paths, visit);
    }
    std::shared_ptr<const Gray8> make(Run& run) const;
};

} // namespace yokai
