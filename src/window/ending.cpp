#include "ending.h"

#include <QSocketNotifier>

#include <csignal>
#include <fcntl.h>
#include <unistd.h>

namespace yokai {

namespace {

constexpr int endingSignals[] = {SIGTERM, SIGHUP, SIGINT};
int endingPipe[2] = {-1, -1}; // a handler may do no more than write into it

void hearEnding(int signal)
{
    const auto byte = static_cast<unsigned char>(signal);
    [[maybe_unused]] const auto written = ::write(endingPipe[1], &byte, 1);
}

} // namespace

Ending::Ending(QObject* parent) : QObject(parent), notifier_(nullptr)
{
    if (::pipe2(endingPipe, O_CLOEXEC | O_NONBLOCK) != 0)
        return;
    notifier_ = new QSocketNotifier(endingPipe[0], QSocketNotifier::Read, this);
    connect(notifier_, &QSocketNotifier::activated, this, [this] {
        unsigned char signal = 0;
        if (::read(endingPipe[0], &signal, 1) == 1)
            emit told(signal);
    });
    for (const int signal : endingSignals) {
        struct sigaction action = {};
        action.sa_handler = hearEnding;
        action.sa_flags = SA_RESTART;
        ::sigaction(signal, &action, nullptr);
    }
}

Ending::~Ending()
{
    for (const int signal : endingSignals)
        std::signal(signal, SIG_DFL);
    delete notifier_;
    for (int& end : endingPipe) {
        ::close(end);
        end = -1;
    }
}

} // namespace yokai
