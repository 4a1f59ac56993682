// A recipe: all settings of a piece, to be put on another. The picture itself, its name, how many copies
// are wanted and what a hand did to that one picture are no part of it.
#pragma once

#include "job/job.h"

namespace yokai {

struct Recipe {
    std::string name;
    Piece settings; // its picture is of no account
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("name", self.name, AtMost{200});
        visit("settings", self.settings);
    }
    bool operator==(const Recipe&) const = default;
};

Recipe recipeOf(const Piece& piece, std::string name);

// What was set by hand on the piece: strokes, chosen parts, the crop, edits of its lines, guides.
enum class HandWork { Stays, Goes };
void apply(const Recipe& recipe, Piece& piece, HandWork handWork);

} // namespace yokai
