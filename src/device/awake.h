// While it lives the computer does not go to sleep: a machine that is streamed to would stand in the middle of its cut. Asked of the
// system's login manager (org.freedesktop.login1, Inhibit); where there is none nothing is done.
#pragma once

#include <memory>

namespace yokai {

class Awake {
public:
    explicit Awake(const char* why); // shown by the system to whoever asks what keeps it awake
    ~Awake();
    Awake(const Awake&) = delete;
    Awake& operator=(const Awake&) = delete;

private:
    struct Held;
    std::unique_ptr<Held> held_;
};

} // namespace yokai
