// The machine behind the line: what comes in is kept in a small buffer, lines of RS-274/NGC words are taken in one by one as the
// motors have room and answered by ok or error:n, and what may not wait (? ! ~ and reset) is heeded at once, as open-source motion
// firmware documents it. Requests of its own begin with $Y.
#pragma once

#include "bed.h"
#include "link.h"
#include "motion.h"

#include <atomic>
#include <map>
#include <optional>
#include <string>
#include <vector>

namespace yokai::standin {

enum class FaultKind { Link, Garble, Stall, Slip };
struct Fault {
    FaultKind kind;
    std::size_t line = 0; // after so many lines were taken in
    double x = 0, y = 0;  // of a slip, mm; of a stall and a lost link x is for how long, seconds; 0: for good
};

struct DeviceSpec {
    double bedWidth = 305, bedDepth = 610;
    Limits limits;
    double toolSeconds = 0, bladeOffset = 0;
    double eyeX = 0, eyeY = 0; // from the tool
    double powerMost = 1000;
    double pace = 0; // times as fast as life; 0: as fast as can be
    std::vector<Fault> faults;
};

class Device {
public:
    Device(const DeviceSpec& spec, Bed& bed, Link& link) : spec_(spec), bed_(bed), link_(link), motors_(spec.limits) {}
    void serve(const std::atomic<bool>& over);
    // What it did: every cut, how far off the print's lines it is thought to be told by who knows them; JSON.
    std::string report() const;
    std::vector<unsigned char> picture() const { return bed_.cutSheet(cuts_); }

private:
    enum class State { Idle, Run, Hold, Jog, Alarm };
    bool take(const std::string& bytes); // whether there was more in it than what is heeded at once
    void realtime(char c);
    bool tryLine(); // false: it waits for room, or for the motors to stop
    std::string answer(const std::string& line);
    std::string own(const std::string& request);
    std::string words(const std::string& line);
    std::string probe(Point to, bool away, double speed);
    std::string jog(const std::string& line);
    void go(double seconds);
    void moved(Point at);
    void tool(bool down, double power);
    void setOff(const Fault& fault);
    void reset();
    std::string status() const;
    State state() const;
    bool reaches(Point p) const { return p.x > -0.01 && p.y > -0.01 && p.x < spec_.bedWidth + 0.01 && p.y < spec_.bedDepth + 0.01; }

    DeviceSpec spec_;
    Bed& bed_;
    Link& link_;
    Motors motors_;
    std::string buffer_; // characters not yet taken in
    bool waits_ = false; // a line waits for the motors
    bool alarm_ = false, jogging_ = false, stalled_ = false, garbles_ = false;
    double stalledUntil_ = 0, pulledUntil_ = 0, wall_ = 0;
    double clock_ = 0; // seconds since it was reset
    std::size_t lines_ = 0, lost_ = 0; // taken in; characters that found no room
    // Of the words: what holds until it is said otherwise.
    int motion_ = 0;
    double feed_ = 0, unit_ = 1, power_ = 0;
    bool absolute_ = true;
    Point target_;
    // Of the tool.
    bool down_ = false;
    Point tip_;
    Point heading_{1, 0};
    std::vector<Cut> cuts_;
};

// G-code words of a line, in their order; comments left out. Nothing where it is not made of words.
std::optional<std::vector<std::pair<char, double>>> wordsIn(const std::string& line);

} // namespace yokai::standin
