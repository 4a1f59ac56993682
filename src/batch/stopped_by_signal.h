// While a machine works for it, a program that is told to end stops the machine first: SIGINT, SIGTERM and SIGHUP ask for a stop
// instead of ending it at once.
#pragma once

#include <atomic>
#include <csignal>
#include <stop_token>
#include <thread>

namespace yokai::batch {

class StoppedBySignal {
public:
    StoppedBySignal();
    ~StoppedBySignal();
    StoppedBySignal(const StoppedBySignal&) = delete;
    StoppedBySignal& operator=(const StoppedBySignal&) = delete;
    std::stop_token token() const { return stop_.get_token(); }
    int which() const { return which_; } // 0: none came

private:
    std::stop_source stop_;
    std::atomic<int> which_ = 0;
    sigset_t before_;
    std::jthread waits_; // last: it uses all of the above
};

} // namespace yokai::batch
