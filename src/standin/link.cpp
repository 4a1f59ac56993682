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
#include <utility>

namespace yokai::standin {

Link::Link(std::string name) : name_(std::move(name)) { open(); }

Link::~Link()
{
    close();
    if (!name_.empty())
        ::unlink(name_.c_str());
}

void Link::open()
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
    if (name_.empty())
        return;
    ::unlink(name_.c_str());
    if (::symlink(port_.c_str(), name_.c_str()) != 0)
        throw Error(ErrorKind::Device, "the stand-in cannot make '" + name_ + "': " + std::strerror(errno) + "; choose another name");
}

void Link::close()
{
    for (int* fd : {&fd_, &held_})
        if (*fd >= 0)
            ::close(std::exchange(*fd, -1));
}

void Link::pull()
{
    close();
    if (!name_.empty())
        ::unlink(name_.c_str());
}

void Link::plug() { open(); }

std::string Link::read(int milliseconds)
{
    if (fd_ < 0) {
        ::poll(nullptr, 0, milliseconds);
        return {};
    }
    pollfd wait{fd_, POLLIN, 0};
    if (::poll(&wait, 1, milliseconds) <= 0)
        return {};
    std::array<char, 4096> buffer;
    const ssize_t n = ::read(fd_, buffer.data(), buffer.size());
    return n > 0 ? std::string(buffer.data(), std::size_t(n)) : std::string();
}

void Link::write(const std::string& text)
{
    std::size_t done = 0;
    while (fd_ >= 0 && done < text.size()) {
        const ssize_t n = ::write(fd_, text.data() + done, text.size() - done);
        if (n < 0 && errno == EINTR)
            continue;
        if (n <= 0)
            return;
        done += std::size_t(n);
    }
}

} // namespace yokai::standin
