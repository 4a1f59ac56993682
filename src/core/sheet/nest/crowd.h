// Bodies on one sheet that push each other off where they are too near: from any heap of
// overlapping bodies to one in which all keep their gap, if there is such a one nearby.
//
// What is too near strains: half the square of how much is missing, along the outlines. The strain is
// relaxed for all bodies at once by the FIRE minimiser (Bitzek, Koskinen, Gaehler, Moseler and
// Gumbsch, "Structural relaxation made simple", Physical Review Letters 97, 2006); where it will not go,
// its pairs weigh more from round to round and the worst bodies look for another place, as in
// guided local search (Voudouris and Tsang 1999; on nesting: Egeblad, Nielsen and Odgaard 2007).
//
// Unit: mm on the sheet, y down.
#pragma once

#include "base/work.h"
#include "sheet/nest/body.h"
#include "sheet/spec.h"

#include <cstdint>
#include <vector>

namespace yokai::nesting {

// A small generator with a state of its own, so that the same seed does the same everywhere.
class Dice {
public:
    explicit Dice(std::uint64_t seed) : state_(seed) {}
    std::uint64_t next() // SplitMix64 (Steele, Lea and Flood 2014)
    {
        std::uint64_t z = (state_ += 0x9e3779b97f4a7c15ULL);
        z = (z ^ (z >> 30)) * 0xbf58476d1ce4e5b9ULL;
        z = (z ^ (z >> 27)) * 0x94d049bb133111ebULL;
        return z ^ (z >> 31);
    }
    double unit() { return double(next() >> 11) * 0x1p-53; }
    double between(double a, double b) { return a + (b - a) * unit(); }
    std::size_t below(std::size_t n) { return std::size_t(next() % n); }

private:
    std::uint64_t state_;
};

struct Member {
    const Body* body = nullptr;
    Pose pose;
    int what = -1;      // of the asked bodies; -1: it was there before
    bool fixed = false; // the hand's, and the marks' clear zones
    double gap = 0;     // it wants round its outline
    double size = 1;    // of itself: less while it grows into its place
};

struct Rules {
    Rect area; // within the margin
    Turns turns = Turns::Quarter;
    bool mirror = false;
    double upright = 0; // turns are counted from here
};

class Crowd {
public:
    explicit Crowd(const Rules& rules) : rules_(rules) {}

    std::vector<Member> members;
    const Rules& rules() const { return rules_; }
    void setArea(const Rect& area) { rules_.area = area; }
    std::uint64_t asked() const { return asked_; } // places looked at so far: how work is counted

    // Puts a body where it strains least of many places tried, all over or in a part of the sheet.
    void settle(std::size_t member, const Rect& within, int tries, Dice& dice);
    // Lets it grow into its place from a part of its size, the others giving way.
    void grow(std::size_t member, const Work& work);
    // Until nothing is too near; false: it did not get there in so many rounds.
    bool separate(int rounds, Dice& dice, const Work& work);
    // Drives what is free towards the upper end, as if the sheet stood on it, and relaxes.
    void pack(Point pull, int steps);
    // The last hundredths, by exact distances; false: something is still too near.
    bool makeExact(const Work& work);
    double worst() const { return worst_; } // the most that was missing when it was last relaxed, mm
    std::vector<std::size_t> mostStrained(std::size_t count) const; // at the last relaxing, the worst first
    Rect extent() const; // of what is free

private:
    // Bodies relax to a little more than their gap, so that what interpolation and the spacing of samples get wrong
    // does not need another round of it.
    static constexpr double allowance = 0.07, nearEnough = 0.06; // mm

    struct Placed { // what is asked of a pose again and again
        Affine map, back;
        Rect box;
    };
    struct Push {
        Point force;
        double torque = 0;
    };
    // What is known of two bodies holds until they have moved by what is clear between them; where they strain, by
    // little enough to leave it nearly so.
    struct Pair {
        std::size_t a = 0, b = 0; // a > b
        float weight = 1, strain = 0;
        float holds = 0; // mm of movement, from
        float moved = 0; // what its bodies had moved by when it was looked at, together
        float missing = 0; // the most
        Push one, other;
    };
    // A clear zone wants no gap but what is printed stays off it; a print does not cover its neighbour.
    double need(const Member& a, const Member& b) const { return std::max({std::min(a.gap, b.gap), a.body->reach(), b.body->reach()}); }
    void place(std::size_t k);
    double strainOf(std::size_t of, std::size_t in, double need, Push* onOf, Push* onIn, double* clear);
    double roughStrainOf(std::size_t of, std::size_t in, double need, double enough);
    void look(Pair& p);
    double strainAtEdge(std::size_t of, Push* on);
    double strainAt(std::size_t member, double enough);
    double roughStrainAt(std::size_t member, double enough);
    double relaxed(int steps, Point pull);
    double forces(std::vector<Push>& pushes, Point pull);
    Pose randomPose(const Body& body, const Rect& within, Dice& dice) const;
    double descend(std::size_t member, double least, Dice& dice);
    void weigh();
    Point backInside(std::size_t member) const;
    std::vector<std::pair<std::size_t, std::size_t>> near(double range) const;
    void forget(); // what is known of pairs
    void meet();   // finds the pairs anew, keeping what is known
    double weight(std::size_t a, std::size_t b) const;

    Rules rules_;
    std::vector<Placed> placed_;
    std::vector<Pair> pairs_;
    std::vector<std::vector<std::size_t>> pairsOf_; // each body's, among them
    std::vector<float> moved_; // of each body, any of its points, at most, since forget()
    std::vector<float> met_;   // how much of that before pairs were found last
    double worst_ = 0; // the most that is missing anywhere, mm
    std::uint64_t asked_ = 0;
};

} // namespace yokai::nesting
