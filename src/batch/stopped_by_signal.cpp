#include "stopped_by_signal.h"

#include <ctime>

namespace yokai::batch {

namespace {

sigset_t ending()
{
    sigset_t out;
    sigemptyset(&out);
    for (const int signal : {SIGINT, SIGTERM, SIGHUP})
        sigaddset(&out, signal);
    return out;
}

} // namespace

// Kept from every thread that begins later, and waited for by one of them.
StoppedBySignal::StoppedBySignal()
{
    const sigset_t all = ending();
    pthread_sigmask(SIG_BLOCK, &all, &before_);
    waits_ = std::jthread([this, all](std::stop_token over) {
        constexpr timespec look{0, 20'000'000}; // 20 ms
        while (!over.stop_requested())
            if (const int signal = sigtimedwait(&all, nullptr, &look); signal > 0) {
                which_ = signal;
                stop_.request_stop();
            }
    });
}

StoppedBySignal::~StoppedBySignal()
{
    waits_.request_stop();
    waits_.join();
    pthread_sigmask(SIG_SETMASK, &before_, nullptr);
}

} // namespace yokai::batch
