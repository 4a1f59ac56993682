#include "link.h"

#include "base/error.h"

#include <array>
#include <cerrno>
#include <cstdlib>
#include <cstring>
#include <fcntl.h>
#include <poll.h>
#include <termios.h>
#include <unistd.h>

namespace yokai::standin {

Link::Link()
{
    fd_ = ::posix_openpt(O_RDWR | O_NOCTTY | O_CLOEXEC);
    std::array<char, 256> name{};
    if (fd_ < 0 || ::grantpt(fd_) != 0 || ::unlockpt(fd_) != 0 || ::ptsname_r(fd_, name.data(), name.size()) != 0)
        throw Error(ErrorKind::Device, std::string("the stand-in cannot open a serial line: ") + std::strerror(errno) + "; check /dev/pts");
    port_ = name.data();
    held_ = ::open(name.data(), O_RDWR | O_NOCTTY | O_CLOEXEC);
    termios settings{};
    if (held_ >= 0 && ::tcgetattr(held_, &settings) == 0) {
        ::cfmakeraw(&settings);
        ::tcsetattr(held_, TCSANOW, &settings);
    }
}

Link::~Link()
{
    for (const int fd : {fd_, held_})
        if (fd >= 0)
            ::close(fd);
}

bool Link::readLine(std::string& line)
{
    for (;;) {
        if (const auto end = pending_.find_first_of("\r\n"); end != std::string::npos) {
            line = pending_.substr(0, end);
            pending_.erase(0, end + 1);
            return true;
        }
        std::array<char, 4096> buffer;
        const ssize_t n = ::read(fd_, buffer.data(), buffer.size());
        if (n < 0 && errno == EINTR)
            continue;
        if (n <= 0)
            return false;
        pending_.append(buffer.data(), std::size_t(n));
    }
}

void Link::write(const std::string& text)
{
    std::size_t done = 0;
    while (done < text.size()) {
        const ssize_t n = ::write(fd_, text.data() + done, text.size() - done);
        if (n < 0 && errno == EINTR)
            continue;
        if (n <= 0)
            return;
        done += std::size_t(n);
    }
}

} // namespace yokai::standin
