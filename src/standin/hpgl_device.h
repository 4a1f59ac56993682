// HPGL words, taken in as the motors have room; ESC.B, ESC.O and ESC.K out of turn, as plotters' interfacing manuals have them (from
// memory).
#pragma once

#include "device.h"

namespace yokai::standin {

class HpglDevice : public Device {
public:
    using Device::Device;

private:
    bool take(const std::string& bytes) override;
    bool tryLine() override;
    void outOfTurn(char request);
    std::string word(const std::string& name, const std::vector<double>& figures); // the answer, if it is one to answer
    void go(Point to);

    std::string escape_; // of what is out of turn, what has come of it
    double speed_ = 0;   // with the pen down, mm/s; 0: as fast as it goes
    double force_ = 0;   // gram
    int error_ = 0;      // the first that is not asked for yet
};

} // namespace yokai::standin
