// The stand-in's own motors: a short queue of moves, each begun and ended no faster than the one beside it allows, gone along
// in small steps of time. It shares nothing with the time the core foretells, so that the one can be checked against the other.
//
// Unit: mm, seconds.
#pragma once

#include "base/geometry.h"

#include <cmath>
#include <deque>
#include <functional>

namespace yokai::standin {

struct Limits {
    double acceleration = 1000, cornerDeviation = 0.01, topSpeed = 200;
};

struct Block {
    Point from, to, centre;
    double fromZ = 0, toZ = 0;
    double sweep = 0; // radians about the centre, positive to the left; 0: straight
    double speed = 0; // asked for
    int line = 0;     // of the program; 0: none
    double power = -1; // of the tool along it, where a line says it with the move; below 0: as it is
    double length() const { return sweep == 0 ? std::hypot(distance(from, to), toZ - fromZ) : std::abs(sweep) * distance(from, centre); }
    Point at(double along) const;
    Point heading(double along) const;
};

class Motors {
public:
    explicit Motors(const Limits& limits) : limits_(limits) {}
    bool full() const { return queue_.size() >= most; }
    bool idle() const { return queue_.empty(); }
    std::size_t free() const { return most - queue_.size(); }
    void add(Block block);
    // On by so many seconds at most; less, if the queue ends before. What it took.
    double step(double seconds, const std::function<void(Point, double power)>& moved);
    void hold(bool on) { held_ = on; }
    bool held() const { return held_; }
    bool still() const { return speed_ == 0; }
    void drop(); // where it stands, at once
    Point at() const { return at_; }
    double z() const { return z_; } // as queued moves have brought it there, no sooner
    void put(Point at) { at_ = at; }
    void putZ(double z) { z_ = z; }
    double speed() const { return speed_; }
    int lastLine() const { return lastLine_; } // that was finished
    void finished(int line) { lastLine_ = line; }

private:
    static constexpr std::size_t most = 16; // moves that fit into its memory
    struct Queued {
        Block block;
        double entry = 0, exit = 0, most = 0; // squares of speeds
        double entryMost = 0;
    };
    void plan();
    Limits limits_;
    std::deque<Queued> queue_;
    Point at_;
    double z_ = 0;
    double along_ = 0, speed_ = 0;
    bool held_ = false;
    int lastLine_ = 0;
};

} // namespace yokai::standin
