// From the working copy to what is kept: the rule, the outlines it works inside of, work by
// hand, the edge, and its parts.
#pragma once

#include "job/step.h"
#include "job/steps/picture.h"
#include "keep/subject.h"

namespace yokai {

// In the whole picture, so that a crop takes nothing away of what it is told from; source pixels.
struct SubjectIn {
    static constexpr const char* step = "subject";
    static constexpr const char* time = "keep";
    using Out = Gray8;
    Later<SourceIn> source;
    SubjectSpec subject;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("source", self.source);
        visit("subject", self.subject);
    }
    std::shared_ptr<const Gray8> make(Run& run) const { return std::make_shared<const Gray8>(subjectOf(*source.get(run), subject, {}, run.work())); }
};

struct RuledIn {
    static constexpr const char* step = "ruled";
    static constexpr const char* time = "keep";
    using Out = Coverage;
    Made<Framed> framed;
    RuleSpec rule;
    bool lossy = false;
    double pxPerMm = 1; // for the smoothing, which is a length
    std::optional<Made<Gray8>> subject; // of that rule alone
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("framed", self.framed);
        visit("rule", self.rule);
        visit("lossy", self.lossy);
        const double scale = self.rule.smoothing ? self.pxPerMm : 0;
        visit("scale", scale);
        if (self.subject)
            visit("subject", *self.subject);
    }
    std::shared_ptr<const Coverage> make(Run& run) const
    {
        const KeepGround ground{framed->within.get(), framed->fromSource, pxPerMm, lossy, subject ? subject->value.get() : nullptr};
        return std::make_shared<const Coverage>(ruledCoverage(*framed->pixels, rule, ground, run.work()));
    }
};

struct InsideIn {
    static constexpr const char* step = "inside";
    static constexpr const char* time = "keep";
    using Out = Coverage;
    Made<Coverage> coverage;
    std::vector<Ring> outlines;
    Affine fromSource;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("coverage", self.coverage);
        visit("outlines", self.outlines);
        visit("from_source", self.fromSource);
    }
    std::shared_ptr<const Coverage> make(Run& run) const
    {
        return std::make_shared<const Coverage>(insideOnly(*coverage, outlines, KeepGround{nullptr, fromSource}, run.work()));
    }
};

// A new touch goes on from the ones before, as far as they are remembered; of a row of
// touches only the end is.
struct TouchedIn {
    static constexpr const char* step = "touched";
    static constexpr const char* time = "keep";
    using Out = Coverage;
    Made<Coverage> coverage;
    Made<Framed> framed; // whose pixels areas of like colour are found in
    std::vector<Touch> touches;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("coverage", self.coverage);
        visit("framed", self.framed);
        visit("touches", self.touches);
    }
    std::shared_ptr<const Coverage> make(Run& run) const
    {
        TouchedIn before = *this;
        std::shared_ptr<const Coverage> known;
        while (!known && !before.touches.empty()) {
            before.touches.pop_back();
            known = before.touches.empty() ? coverage.value : run.find<Coverage>(Run::keyOf(before));
        }
        Coverage out = *known;
        const KeepGround ground{framed->within.get(), framed->fromSource};
        for (std::size_t i = before.touches.size(); i < touches.size(); ++i)
            out = touched(out, touches[i], *framed->pixels, ground, run.work());
        return std::make_shared<const Coverage>(std::move(out));
    }
};

struct EdgeIn {
    static constexpr const char* step = "edge";
    static constexpr const char* time = "outline";
    using Out = Contours;
    Made<Coverage> coverage;
    template <class Self, class V> static void fields(Self& self, V& visit) { visit("coverage", self.coverage); }
    std::shared_ptr<const Contours> make(Run& run) const
    {
        // Smoothing past this blunts corners beyond what can be put back.
        constexpr double mostSoftness = 3;
        auto traced = std::make_shared<Contours>(traceEdge(*coverage->pixels, run.work()));
        sharpenCorners(*traced, std::min(mostSoftness, coverage->softness), run.work());
        return traced;
    }
};

struct PartsIn {
    static constexpr const char* step = "parts";
    static constexpr const char* time = "keep";
    using Out = Parts;
    Made<Contours> edge;
    PartsSpec parts;
    Affine fromSource;
    double pxPerMm = 1;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("edge", self.edge);
        visit("parts", self.parts);
        visit("from_source", self.fromSource);
        visit("scale", self.pxPerMm);
    }
    std::shared_ptr<const Parts> make(Run& run) const
    {
        return std::make_shared<const Parts>(partsOf(*edge, parts, fromSource, pxPerMm, run.work()));
    }
};

struct PrintedIn {
    static constexpr const char* step = "printed";
    static constexpr const char* time = "keep";
    using Out = Gray8;
    Made<Framed> framed;
    Made<Coverage> coverage;
    Made<Parts> parts;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("framed", self.framed);
        visit("coverage", self.coverage);
        visit("parts", self.parts);
    }
    std::shared_ptr<const Gray8> make(Run& run) const { return printedOf(*framed->pixels, *coverage, *parts, run.work()); }
};

} // namespace yokai
