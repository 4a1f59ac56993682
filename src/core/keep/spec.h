// What a maker decides about what is picture and what is paper.
//
// Places are in source pixels (see artwork/frame.h), so that they stay on what they
// were put on when the picture is cropped, turned or sized anew.
#pragma once

#include "base/fields.h"
#include "base/id.h"
#include "base/raster.h"

#include <optional>
#include <vector>

namespace yokai {

enum class KeepRule {
    Auto,   // the best of the others for this picture
    Alpha,  // what is opaque
    Paper,  // what differs from the paper's colours
    Dark,   // what is darker than the level
    Light,  // what is lighter
    Colour, // what is like one of the chosen colours
    Subject, // what stands out within a box, or is marked as picture
    All,    // the whole picture
};
constexpr std::array<Named<KeepRule>, 8> namesOf(KeepRule) // as in --keep
{
    return {{{KeepRule::Auto, "auto"},
             {KeepRule::Alpha, "alpha"},
             {KeepRule::Paper, "paper"},
             {KeepRule::Dark, "dark"},
             {KeepRule::Light, "light"},
             {KeepRule::Colour, "colour"},
             {KeepRule::Subject, "subject"},
             {KeepRule::All, "all"}}};
}

enum class Openings { Keep, Fill, Over };
constexpr std::array<Named<Openings>, 3> namesOf(Openings)
{
    return {{{Openings::Keep, "keep"}, {Openings::Fill, "fill"}, {Openings::Over, "over"}}};
}

inline constexpr double mostArea = 1e9;                       // mm2
inline constexpr AtMost mostByHand{100'000}, mostPlaces{1'000'000}; // of what one hand can do

struct PartChoice {
    Point at;
    bool keep = true; // an opening: stays open
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("at", self.at);
        visit("keep", self.keep);
    }
    bool operator==(const PartChoice&) const = default;
};

// A colour chosen by hand, and where, if it was picked from the picture.
struct Swatch {
    Rgba colour{0, 0, 0, 255}; // a job file has opaque colours alone
    std::optional<Point> at = std::nullopt;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("colour", self.colour);
        visit("at", self.at);
    }
    bool operator==(const Swatch&) const = default;
};

enum class TouchKind { RubOut, BringBack, RubOutLike };
constexpr std::array<Named<TouchKind>, 3> namesOf(TouchKind)
{
    return {{{TouchKind::RubOut, "rub-out"}, {TouchKind::BringBack, "bring-back"}, {TouchKind::RubOutLike, "rub-out-like"}}};
}

// Work by hand on what the rule kept. In the order it was done; the later wins.
struct Touch {
    using Kind = TouchKind;
    Kind kind = Kind::RubOut;
    bool square = false;       // the brush's tip
    double radius = 0;         // of the tip, source pixels; half the side of a square one
    std::vector<Point> points; // the brush's way; RubOutLike: the one place its area spreads from
    double tolerance = 10;     // RubOutLike: how unlike its colour may become, CIEDE2000
    EditId id = {};
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("id", self.id);
        visit("kind", self.kind);
        visit("square", self.square);
        visit("radius", self.radius, Within{0.0, 1e5});
        visit("tolerance", self.tolerance, Within{0.0, 100.0});
        visit("points", self.points, mostPlaces);
    }
    bool operator==(const Touch&) const = default;
};

using Ring = std::vector<Point>; // closed

// A stroke over a photo that says what is picture there, or what is not.
struct SubjectStroke {
    bool picture = true;
    double radius = 1; // source pixels
    std::vector<Point> points;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("picture", self.picture);
        visit("radius", self.radius, Within{0.0, 1e5});
        visit("points", self.points, mostPlaces);
    }
    bool operator==(const SubjectStroke&) const = default;
};

// Where the subject is to be looked for.
struct SubjectSpec {
    Ring box; // convex; empty: the whole picture
    std::vector<SubjectStroke> strokes; // the later wins
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("box", self.box, AtMost{16});
        visit("strokes", self.strokes, mostByHand);
    }
    bool operator==(const SubjectSpec&) const = default;
};

// How the pixels themselves are judged.
struct RuleSpec {
    KeepRule rule = KeepRule::Auto;
    // 0..100, absent: the rule's own. Alpha: percent of opacity. Paper and Colour:
    // CIEDE2000 difference. Dark and Light: lightness L*.
    std::optional<double> level;
    std::vector<Swatch> papers;      // empty: found by itself
    bool paperAnywhere = false;      // else only paper joined to the picture's edge is taken out
    std::vector<Swatch> colours;     // of the Colour rule
    bool oneArea = false;            // Colour: only the areas the colours were picked from
    SubjectSpec subject;             // of the Subject rule
    std::optional<Length> smoothing; // absent: as much as the picture needs
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("rule", self.rule);
        visit("level", self.level, Within{0.0, 100.0});
        visit("papers", self.papers, AtMost{1000});
        visit("paper_anywhere", self.paperAnywhere);
        visit("colours", self.colours, AtMost{1000});
        visit("one_area", self.oneArea);
        visit("subject", self.subject);
        visit("smoothing", self.smoothing, Within{0_mm, 10_mm});
    }
    bool operator==(const RuleSpec&) const = default;
};

// Which parts and openings stay.
struct PartsSpec {
    double smallestPart = 1.0; // mm2; smaller parts are dropped
    Openings openings = Openings::Keep;
    double openingsOver = 4.0; // mm2; with Over, openings up to this are filled
    // Parts and openings kept or dropped by hand, whatever the limits say. Each is known by
    // a place in it, so that it is found again after the edge has changed; later ones win.
    std::vector<PartChoice> byHand;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("smallest_part_mm2", self.smallestPart, Within{0.0, mostArea});
        visit("openings", self.openings);
        visit("openings_over_mm2", self.openingsOver, Within{0.0, mostArea});
        visit("by_hand", self.byHand, mostByHand);
    }
    bool operator==(const PartsSpec&) const = default;
};

struct KeepSpec : RuleSpec, PartsSpec {
    std::vector<Ring> onlyInside; // empty: everywhere
    std::vector<Touch> touches;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        RuleSpec::fields(self, visit);
        visit("only_inside", self.onlyInside, AtMost{10'000});
        visit("touches", self.touches, mostByHand);
        PartsSpec::fields(self, visit);
    }
    bool operator==(const KeepSpec&) const = default;
};

} // namespace yokai
