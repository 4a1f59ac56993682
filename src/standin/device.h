// The machine behind the line: its bed, its motors, its tool, and what goes wrong with it. What it is told, and how it answers, is for the
// language it speaks: one file a language. Requests of its own begin with $Y in each.
#pragma once

#include "bed.h"
#include "landing.h"
#include "link.h"
#include "motion.h"

#include "machine/machine.h"

#include <atomic>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace yokai::standin {

enum class FaultKind { Link, Garble, Stall, Slip, Anew };
struct Fault {
    FaultKind kind;
    std::size_t line = 0; // after so many lines were taken in
    double x = 0, y = 0;  // of a slip, mm; of a stall and a lost link x is for how long, seconds; 0: for good
};

struct DeviceSpec {
    Dialect dialect = Dialect::Gcode;
    double bedWidth = 305, bedDepth = 610;
    Affine toBed; // from what it counts
    Limits limits;
    bool byHeight = false; // the tool is lowered by Z
    double up = 2, down = 0; // of Z
    double toolSeconds = 0, bladeOffset = 0, beam = 0.1;
    double eyeX = 0, eyeY = 0; // from the tool
    Point offset;              // of G-code: where its own zero lies from where programs count
    double powerMost = 1000, forceMost = 500;
    double pace = 0; // times as fast as life; 0: as fast as can be
    std::vector<Fault> faults;
};

class Device {
public:
    Device(const DeviceSpec& spec, Bed& bed, Link& link) : spec_(spec), bed_(bed), link_(link), motors_(spec.limits)
    {
        motors_.putZ(spec.byHeight ? spec.up : 0);
    }
    virtual ~Device() = default;
    void serve(const std::atomic<bool>& over);
    // What it did: every cut, and how far it is from the lines it should lie on, where those are known; JSON.
    std::string report(const Lines* lines = nullptr) const;
    std::vector<unsigned char> picture() const { return bed_.cutSheet(cuts_, burns_, spec_.powerMost, spec_.beam); }

protected:
    // Whether there was more in it than what is heeded at once.
    virtual bool take(const std::string& bytes) = 0;
    // Of what was taken, one line; false: it waits for room, or for the motors to stop, or there is none. Sets `waits_`.
    virtual bool tryLine() = 0;
    // Switched off and on again.
    virtual void beginAnew() {}

    // Into the buffer, where there is room.
    void keep(char c, std::size_t size)
    {
        if (buffer_.size() < size)
            buffer_ += c;
        else
            ++lost_;
    }
    // An answer, spoilt or kept back where a fault has it so; after the line it is to.
    void answerLine(std::string said);
    std::string own(const std::string& request); // what follows $Y; gives the answer
    void go(double seconds);
    void tool(bool down, double power);
    bool reaches(Point counted) const
    {
        const Point p = spec_.toBed(counted);
        return p.x > -0.01 && p.y > -0.01 && p.x < spec_.bedWidth + 0.01 && p.y < spec_.bedDepth + 0.01;
    }

    DeviceSpec spec_;
    Bed& bed_;
    Link& link_;
    Motors motors_; // as it counts
    std::string buffer_;  // characters not yet taken in
    bool waits_ = false;  // a line waits for the motors
    bool stalled_ = false;
    double clock_ = 0; // seconds since it was reset
    Point target_;
    Point moved_; // what it takes for its zero, from where it had that, since it began anew
    bool down_ = false; // the tool
    bool onlyMoving_ = false; // a beam that burns only while it moves (M4)

private:
    void obey(const std::string& request);
    void moved(Point counted, double power);
    void lowerByHeight();
    void burnt(Point from, Point to, double power);
    void setOff(const Fault& fault);
    bool garbles_ = false;
    double stalledUntil_ = 0, pulledUntil_ = 0, wall_ = 0;
    std::size_t lines_ = 0, lost_ = 0; // taken in; characters that found no room
    std::string toSay_;     // of a request of its own
    Point tip_;
    Point heading_{1, 0};
    std::vector<Cut> cuts_;
    std::vector<Burn> burns_;
    Point was_; // on the bed, before the last of a move
};

// In the language of the machine.
std::unique_ptr<Device> deviceOf(const DeviceSpec& spec, Bed& bed, Link& link);

} // namespace yokai::standin
