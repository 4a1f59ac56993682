// A program that was interrupted, read again: where among its lines a tool that stands still has got to, and what must be said
// before the rest of it. Only of programs as they are written here.
//
// Unit: mm as the machine counts; lines counted from 0.
#pragma once

#include "formats/program/program.h"

#include <optional>

namespace yokai {

// Where a machine stands, and whether its tool is down there, if it says so.
struct Stood {
    Point at;
    std::optional<bool> down;
    bool operator==(const Stood&) const = default;
};

// The first of the lines [from, to] that is not done, or done in part, by one that stands there after all of those before `from` are done
// and none from `to` on is begun. None where it cannot be told: it stands on no line's way, or on those of several.
std::optional<std::size_t> firstNotDone(const Program& program, std::size_t from, std::size_t to, const Stood& stood);

// Where a machine may be while it does some of the lines.
class Whereabouts {
public:
    Whereabouts(const std::vector<std::string>& lines, Dialect dialect);
    // Whether it may be there while it does one of the lines [from, to); `slack` mm about their boxes. Where a line's beginning is
    // not known, it may be anywhere.
    bool mayBeAt(Point at, std::size_t from, std::size_t to, double slack) const;
    std::optional<Point> after(std::size_t lines) const; // where it then stands
private:
    struct Way {
        Rect box = Rect::nothing(); // of its move
        std::optional<Point> end;   // where it stands then
        bool fromAnywhere = false;
    };
    std::vector<Way> ways_; // a line each
};

// The line after the next that moves.
std::size_t pastNextMove(const Program& program, std::size_t line);

// What is left of the program from a line on: units and ways of counting; the tool raised; where it stood, or where the line begins;
// within a path, that the tool goes down there. The lines that lead to it come first; there are `leading` of them.
struct Rest {
    std::vector<std::string> lines;
    std::size_t leading = 0;
};
Rest restOf(const Program& program, std::size_t line, std::optional<Point> stoodAt = {});

} // namespace yokai
