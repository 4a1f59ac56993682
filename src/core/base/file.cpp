#include "base/file.h"

#include "base/error.h"

#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

namespace yokai {

namespace {

std::string quoted(const std::filesystem::path& path) { return "'" + path.string() + "'"; }

class Descriptor {
public:
    explicit Descriptor(int fd) : fd_(fd) {}
    ~Descriptor()
    {
        if (fd_ >= 0)
            ::close(fd_);
    }
    Descriptor(const Descriptor&) = delete;
    Descriptor& operator=(const Descriptor&) = delete;
    int get() const { return fd_; }
    int close()
    {
        const int result = ::close(fd_);
        fd_ = -1;
        return result;
    }

private:
    int fd_;
};

} // namespace

Bytes readFile(const std::filesystem::path& path, std::size_t most)
{
    const auto fail = [&](const std::string& why, const std::string& remedy) -> Error {
        return Error(ErrorKind::Input, "cannot read " + quoted(path) + ": " + why + "; " + remedy);
    };
    // O_NONBLOCK so that a pipe nobody writes to is refused rather than waited for.
    Descriptor file(::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK));
    if (file.get() < 0)
        throw fail(std::strerror(errno), errno == ENOENT ? "check the name" : "check that you may read it");
    struct stat info {};
    if (::fstat(file.get(), &info) != 0)
        throw fail(std::strerror(errno), "check the disk");
    if (S_ISDIR(info.st_mode))
        throw fail("it is a folder", "name a file in it");
    if (!S_ISREG(info.st_mode))
        throw fail("it is not an ordinary file", "copy it to a file first");
    if (std::size_t(info.st_size) > most)
        throw fail("it is larger than " + std::to_string(most >> 20) + " MB", "make it smaller first");
    Bytes data(std::size_t(info.st_size));
    std::size_t done = 0;
    while (done < data.size()) {
        const ssize_t n = ::read(file.get(), data.data() + done, data.size() - done);
        if (n < 0 && errno == EINTR)
            continue;
        if (n < 0)
            throw fail(std::strerror(errno), "check the disk");
        if (n == 0)
            break;
        done += std::size_t(n);
    }
    data.resize(done);
    return data;
}

void writeFile(const std::filesystem::path& path, std::span<const unsigned char> data)
{
    const auto fail = [&](int code) {
        std::string remedy = "check that the folder exists and that you may write there";
        if (code == ENOSPC || code == EDQUOT)
            remedy = "make room on the disk or choose another folder";
        else if (code == EISDIR)
            remedy = "choose a file name, not a folder";
        return Error(ErrorKind::Output, "cannot write " + quoted(path) + ": " + std::strerror(code) + "; " + remedy);
    };
    std::error_code ec;
    if (std::filesystem::is_directory(path, ec))
        throw fail(EISDIR);
    // Through a link, the file it points to is replaced, not the link.
    std::filesystem::path target = path;
    if (std::filesystem::is_symlink(path, ec))
        if (auto real = std::filesystem::canonical(path, ec); !ec)
            target = real;
    mode_t mode = 0666;
    bool keepMode = false;
    struct stat info {};
    if (::stat(target.c_str(), &info) == 0) {
        if (!S_ISREG(info.st_mode))
            throw fail(EINVAL);
        if (::access(target.c_str(), W_OK) != 0)
            throw fail(errno);
        mode = info.st_mode & 07777;
        keepMode = true;
    }
    std::string name = target.string() + ".part-XXXXXX";
    Descriptor file(::mkstemp(name.data()));
    if (file.get() < 0)
        throw fail(errno);
    const auto giveUp = [&](int code) {
        ::unlink(name.c_str());
        return fail(code);
    };
    if (!keepMode) {
        const mode_t mask = ::umask(0);
        ::umask(mask);
        mode &= ~mask;
    }
    ::fchmod(file.get(), mode);
    std::size_t done = 0;
    while (done < data.size()) {
        const ssize_t n = ::write(file.get(), data.data() + done, data.size() - done);
        if (n < 0 && errno == EINTR)
            continue;
        if (n < 0)
            throw giveUp(errno);
        done += std::size_t(n);
    }
    if (::fsync(file.get()) != 0 || file.close() != 0 || ::rename(name.c_str(), target.c_str()) != 0)
        throw giveUp(errno);
}

void writeFile(const std::filesystem::path& path, std::string_view text)
{
    writeFile(path, std::span(reinterpret_cast<const unsigned char*>(text.data()), text.size()));
}

} // namespace yokai
