// What findings are called and how they are said: one table for the window, which translates it,
// and for scripts.
#pragma once

#include "check/finding.h"

#include <string_view>

namespace yokai {

// What a finding's figures mean.
enum class Measure { Nothing, Length, Area, Ppi, Count, Parts };

// The step of the work in which it is mended.
enum class MendedIn { Artwork, Keep, CutLines, TouchUp, Bleed, Sheet, Cut };

struct FindingWords {
    std::string_view code;
    const char* title; // "Tight corner"
    MendedIn mendedIn;
    Measure value, limit;
    // With {piece}, {line}, {value} and {limit} in it: what, where, and what to do.
    const char* sentence;
    const char* atNothing = nullptr; // the sentence where the value is 0, and that says more than a figure
    const char* said(double of) const { return atNothing && of == 0 ? atNothing : sentence; }
};

// Of every code that a finding may bear.
const FindingWords& wordsOf(std::string_view code);

// Visits the sentence's text and the names in braces in turn: text(part), name("piece").
template <class OnText, class OnName> void eachPart(std::string_view sentence, OnText text, OnName name)
{
    while (!sentence.empty()) {
        const std::size_t open = sentence.find('{'), close = sentence.find('}', open);
        if (open == sentence.npos || close == sentence.npos)
            break;
        text(sentence.substr(0, open));
        name(sentence.substr(open + 1, close - open - 1));
        sentence.remove_prefix(close + 1);
    }
    text(sentence);
}

} // namespace yokai
