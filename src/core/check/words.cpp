#include "check/words.h"

#include <algorithm>
#include <iterator>

namespace yokai {

namespace {

using enum Measure;

constexpr FindingWords allWords[] = {
    {"no-cut-line", "No cut line", MendedIn::Keep, Nothing, Nothing, "'{piece}' has no cut line"},
    {"sheet", "No sheet", MendedIn::Sheet, Nothing, Nothing, "the sheet cannot be filled"},
    {"low-resolution", "Low resolution", MendedIn::Artwork, Ppi, Ppi, "'{piece}' has {value} at this size; under {limit} it prints soft"},
    {"line-vanished", "Nothing left", MendedIn::CutLines, Nothing, Length, "the {line} line at {limit} leaves nothing of '{piece}'; use a smaller inward offset"},
    {"parts-vanished", "Parts lost", MendedIn::CutLines, Parts, Length,
     "the {line} line at {limit} leaves nothing of {value} of '{piece}'; use a smaller inward offset or drop them"},
    {"parts-split", "Parts split", MendedIn::CutLines, Parts, Length, "the {line} line at {limit} splits {value} of '{piece}'; use a smaller inward offset or join gaps"},
    {"does-not-fit", "Does not fit", MendedIn::Sheet, Count, Count,
     "{value} of {limit} copies of '{piece}' fit on the sheet; use fewer, a smaller gap or a larger sheet"},
    {"outside-reach", "Outside the margin", MendedIn::Sheet, Length, Nothing, "a copy of '{piece}' reaches {value} beyond the sheet's margin or the machine's reach; move it in or use a larger sheet"},
    {"copies-close", "Copies too close", MendedIn::Sheet, Length, Length, "a copy of '{piece}' placed by hand is {value} from another, under {limit}; move it away",
     "a copy of '{piece}' placed by hand lies on another; move it away"},
    {"mark-outside-print", "Mark not printed", MendedIn::Sheet, Length, Nothing, "a mark reaches {value} into the margin that the printer leaves blank; give the marks a larger inset"},
    {"marks-close", "Marks too close", MendedIn::Sheet, Length, Length, "two marks are {value} apart, under {limit}; one could be taken for the other: move them apart"},
    {"marks-in-line", "Marks in a line", MendedIn::Sheet, Length, Length, "no mark lies farther than {value} off a line through the others; {limit} would tell how the sheet is turned"},
    {"no-mark-to-spare", "No mark to spare", MendedIn::Sheet, Count, Count, "with {value} marks a bad reading of one does not show; use {limit} or more"},
    {"lost-edit", "Edit without a place", MendedIn::TouchUp, Nothing, Nothing,
     "an edit by hand no longer fits the {line} line of '{piece}'; place it again or drop it"},
    {"tight-corner", "Tight corner", MendedIn::TouchUp, Length, Length,
     "the {line} line of '{piece}' turns in with a radius of {value}; the tool follows {limit}; round the corner",
     "the {line} line of '{piece}' has a sharp inside corner; the tool follows a radius of {limit}; round the corner"},
    {"thin-neck", "Thin neck", MendedIn::TouchUp, Length, Length, "what stays of '{piece}' inside its {line} line is {value} wide, under {limit}; widen the neck"},
    {"narrow-gap", "Narrow gap", MendedIn::TouchUp, Length, Length,
     "what falls out between two cuts of '{piece}' at its {line} line is {value} wide, under {limit}; close the gap or move them apart"},
    {"small-part", "Small part", MendedIn::TouchUp, Area, Area, "the {line} line of '{piece}' cuts out {value}, under {limit}; drop the part or join it to another"},
    {"small-opening", "Small opening", MendedIn::TouchUp, Area, Area, "the {line} line of '{piece}' opens {value}, under {limit}; close the opening"},
    {"short-path", "Short line", MendedIn::TouchUp, Length, Length, "a {line} line of '{piece}' is {value} long, under {limit}; drop it"},
    {"needless-nodes", "Needless nodes", MendedIn::TouchUp, Count, Nothing, "the {line} line of '{piece}' has {value} nodes more than its tolerance needs; simplify it"},
    {"lumpy", "Lumpy line", MendedIn::TouchUp, Length, Nothing, "the {line} line of '{piece}' swings to and fro by {value}, faster than the tool follows; smooth it"},
    {"crossing", "Lines cross", MendedIn::TouchUp, Nothing, Nothing, "the {line} line of '{piece}' crosses itself or another; move it or take one away"},
    {"doubled", "Cut twice", MendedIn::TouchUp, Length, Nothing, "{value} of the {line} line of '{piece}' lie on another cut; take one away"},
    {"open-line", "Open line", MendedIn::TouchUp, Length, Nothing, "the {line} line of '{piece}' does not close: its ends are {value} apart; join them"},
    {"cuts-artwork", "Cuts the artwork", MendedIn::CutLines, Length, Length,
     "the {line} line of '{piece}' runs {value} deep through what is kept, {limit} of it meant; move it outwards"},
    {"shows-paper", "Shows paper", MendedIn::CutLines, Length, Length,
     "a drift of {limit} would show paper at the {line} line of '{piece}': {value} of bleed is missing; add bleed or move the line in or out"},
    {"kind-order", "Outside the through line", MendedIn::CutLines, Length, Nothing,
     "the {line} line of '{piece}' runs {value} outside its through line; move it in or the through line out"},
    {"kerf-loss", "Lost in the kerf", MendedIn::CutLines, Length, Length,
     "the beam's width of {limit} swallows a place of the {line} line of '{piece}' that is {value} wide: it is not cut as drawn; widen it, or use a narrower beam"},
    {"material-hazard", "Must not be burnt", MendedIn::Cut, Nothing, Nothing, "the material must not be burnt; choose another, or cut it with a blade"},
    {"copies-not-parted", "Copies not parted", MendedIn::Sheet, Count, Nothing,
     "{value} copies lie so that no straight cut parts them; lay them out in rows, or switch the cuts between copies off"},
    {"feature-off", "Mark off its feature", MendedIn::Sheet, Length, Length,
     "a mark lies {value} off the feature of the picture that it is, over {limit}; drag it there, or delete it and press near the feature"},
    {"cut-on-mark", "Cut on a mark", MendedIn::Sheet, Length, Nothing, "an extra cut runs {value} too near to a mark; move the mark, or switch that cut off"},
    {"near-crumb", "Nearly a crumb", MendedIn::Keep, Area, Area, "a part of '{piece}' has {value}, near the {limit} that are kept; look whether it is wanted"},
};

} // namespace

const FindingWords& wordsOf(std::string_view code)
{
    static constexpr FindingWords unknown{"", "Finding", MendedIn::TouchUp, Nothing, Nothing, "'{piece}' needs a look"};
    const auto found = std::find_if(std::begin(allWords), std::end(allWords), [&](const FindingWords& w) { return w.code == code; });
    return found == std::end(allWords) ? unknown : *found;
}

} // namespace yokai
