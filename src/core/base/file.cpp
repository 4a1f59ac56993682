#include "base/file.h"

#include "base/error.h"

#include <cerrno>
#include <cstdlib>
#include <cstring>
#include <fcntl.h>
#include <fstream>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>
#include <utility>

namespace yokai {

namespace {

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
    Descriptor(Descriptor&& o) noexcept : fd_(std::exchange(o.fd_, -1)) {}
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

namespace {

Error unreadable(const std::filesystem::path& path, const std::string& why, const std::string& remedy)
{
    return Error(ErrorKind::Input, "cannot read '{}': {}; {}", path.string(), why, remedy);
}

// Open for reading, with its size. Refuses folders and devices.
Descriptor opened(const std::filesystem::path& path, std::size_t& size)
{
    // O_NONBLOCK so that a pipe nobody writes to is refused rather than waited for.
    Descriptor file(::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK));
    if (file.get() < 0)
        throw unreadable(path, std::strerror(errno), errno == ENOENT ? "check the name" : "check that you may read it");
    struct stat info {};
    if (::fstat(file.get(), &info) != 0)
        throw unreadable(path, std::strerror(errno), "check the disk");
    if (S_ISDIR(info.st_mode))
        throw unreadable(path, "it is a folder", "name a file in it");
    if (!S_ISREG(info.st_mode))
        throw unreadable(path, "it is not an ordinary file", "copy it to a file first");
    size = std::size_t(info.st_size);
    return file;
}

// The rights a new file gets: the process's mask, read where the kernel says it, since asking
// for it by umask() would change it under every other thread's feet.
mode_t newFileMode()
{
    constexpr mode_t all = 0666, usualMask = 022;
    std::ifstream status("/proc/self/status");
    for (std::string line; std::getline(status, line);)
        if (line.starts_with("Umask:"))
            return all & ~mode_t(std::strtoul(line.c_str() + 6, nullptr, 8));
    return all & ~usualMask;
}

// A name of our own beside the target, however long the target's own name is.
std::string partName(const std::filesystem::path& target)
{
    constexpr std::size_t mostOfName = 200; // of the 255 bytes a name may have
    return (target.parent_path() / (target.filename().string().substr(0, mostOfName) + ".part-XXXXXX")).string();
}

} // namespace

std::size_t readableSize(const std::filesystem::path& path)
{
    std::size_t size = 0;
    opened(path, size);
    return size;
}

Bytes readFile(const std::filesystem::path& path, std::size_t most)
{
    std::size_t size = 0;
    const Descriptor file = opened(path, size);
    if (size > most)
        throw unreadable(path, "it is larger than " + std::to_string(most >> 20) + " MB", "make it smaller first");
    Bytes data(size);
    std::size_t done = 0;
    while (done < data.size()) {
        const ssize_t n = ::read(file.get(), data.data() + done, data.size() - done);
        if (n < 0 && errno == EINTR)
            continue;
        if (n < 0)
            throw unreadable(path, std::strerror(errno), "check the disk");
        if (n == 0)
            break;
        done += std::size_t(n);
    }
    data.resize(done);
    return data;
}

void lockToWrite(int descriptor, const std::filesystem::path& path)
{
    struct flock record {};
    record.l_type = F_WRLCK;
    record.l_whence = SEEK_SET;
    const bool records = ::fcntl(descriptor, F_GETLK, &record) == 0 && record.l_type != F_UNLCK;
    if (records || (::flock(descriptor, LOCK_EX | LOCK_NB) != 0 && errno == EWOULDBLOCK))
        throw Error(ErrorKind::Output, "cannot write '{}': another program has it locked; close it there or save under another name", path.string());
}

void writeFile(const std::filesystem::path& path, std::span<const unsigned char> data)
{
    const auto fail = [&](int code) {
        std::string remedy = "check that the folder exists and that you may write there";
        if (code == ENOSPC || code == EDQUOT)
            remedy = "make room on the disk or choose another folder";
        else if (code == EISDIR)
            remedy = "choose a file name, not a folder";
        else if (code == ENAMETOOLONG)
            remedy = "choose a shorter name";
        return Error(ErrorKind::Output, "cannot write '{}': {}; {}", path.string(), std::strerror(code), remedy);
    };
    std::error_code ec;
    if (std::filesystem::is_directory(path, ec))
        throw fail(EISDIR);
    // Through a link, the file it points to is replaced, not the link.
    std::filesystem::path target = path;
    if (std::filesystem::is_symlink(path, ec))
        if (auto real = std::filesystem::canonical(path, ec); !ec)
            target = real;
    mode_t mode = 0;
    const Descriptor old(::open(target.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK));
    struct stat info {};
    if (::stat(target.c_str(), &info) == 0) {
        if (!S_ISREG(info.st_mode))
            throw fail(EINVAL);
        if (::access(target.c_str(), W_OK) != 0)
            throw fail(errno);
        if (old.get() >= 0)
            lockToWrite(old.get(), path);
        mode = info.st_mode & 07777;
    } else if (errno == ENAMETOOLONG) {
        throw fail(errno);
    } else {
        mode = newFileMode();
    }
    std::string name = partName(target);
    Descriptor file(::mkstemp(name.data()));
    if (file.get() < 0)
        throw fail(errno);
    const auto giveUp = [&](int code) {
        ::unlink(name.c_str());
        return fail(code);
    };
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
    // The name itself is on the disk only when its folder is. Some file systems cannot; the file is whole all the same.
    const Descriptor folder(::open(target.has_parent_path() ? target.parent_path().c_str() : ".", O_RDONLY | O_DIRECTORY | O_CLOEXEC));
    if (folder.get() >= 0)
        ::fsync(folder.get());
}

void writeFile(const std::filesystem::path& path, std::string_view text)
{
    writeFile(path, std::span(reinterpret_cast<const unsigned char*>(text.data()), text.size()));
}

} // namespace yokai
