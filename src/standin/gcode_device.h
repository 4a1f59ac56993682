// Lines of RS-274/NGC words, taken in one by one as the motors have room and answered by ok or error:n; what may not wait (? ! ~ and
// reset) is heeded at once, as open-source motion firmware documents it.
#pragma once

#include "device.h"

namespace yokai::standin {

class GcodeDevice : public Device {
public:
    using Device::Device;

private:
    enum class State { Idle, Run, Hold, Jog, Alarm };
    bool take(const std::string& bytes) override;
    bool tryLine() override;
    void realtime(char c);
    std::string answer(const std::string& line);
    std::string words(const std::string& line);
    std::string probe(Point to, bool away, double speed);
    std::string jog(const std::string& line);
    void reset();
    void forget();
    void beginAnew() override;
    void greet();
    std::string status();
    std::string offsetNow();
    State state() const;

    bool alarm_ = false, jogging_ = false;
    int asked_ = 0; // for its state
    // Of the words: what holds until it is said otherwise.
    int motion_ = 0;
    double targetZ_ = motors_.z();
    double feed_ = 0, unit_ = 1, power_ = 0;
    bool absolute_ = true;
    bool scans_ = false; // power is said with the moves
};

// G-code words of a line, in their order; comments left out. Nothing where it is not made of words.
std::optional<std::vector<std::pair<char, double>>> wordsIn(const std::string& line);

} // namespace yokai::standin
