#include "formats/project/append.h"

#include "base/error.h"

#include <zlib.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

namespace yokai::project {

namespace {

constexpr std::uint64_t large = std::uint64_t(16) << 20;     // under it a file is written anew in no time
constexpr std::uint64_t mostLength = 0xffffffff;             // beyond it the lists are of another kind
constexpr std::size_t endLength = 22, entryLength = 46;
constexpr std::uint32_t endSign = 0x06054b50, entrySign = 0x02014b50, headerSign = 0x04034b50;

class File {
public:
    File(const std::filesystem::path& path, int flags) : fd_(::open(path.c_str(), flags | O_CLOEXEC)) {}
    ~File()
    {
        if (fd_ >= 0)
            ::close(fd_);
    }
    File(const File&) = delete;
    File& operator=(const File&) = delete;
    explicit operator bool() const { return fd_ >= 0; }
    int get() const { return fd_; }
    std::uint64_t length() const
    {
        struct stat info {};
        return ::fstat(fd_, &info) == 0 && S_ISREG(info.st_mode) ? std::uint64_t(info.st_size) : 0;
    }
    Bytes read(std::uint64_t at, std::uint64_t length) const // shorter where the file ends
    {
        Bytes out(length);
        std::size_t done = 0;
        while (done < out.size()) {
            const ssize_t n = ::pread(fd_, out.data() + done, out.size() - done, off_t(at + done));
            if (n < 0 && errno == EINTR)
                continue;
            if (n <= 0)
                break;
            done += std::size_t(n);
        }
        out.resize(done);
        return out;
    }

private:
    int fd_;
};

std::uint32_t number(const Bytes& b, std::size_t at, int bytes)
{
    std::uint32_t n = 0;
    for (int k = bytes - 1; k >= 0; --k)
        n = n << 8 | b[at + std::size_t(k)];
    return n;
}
void put(Bytes& out, std::uint64_t n, int bytes)
{
    for (int k = 0; k < bytes; ++k)
        out.push_back(static_cast<unsigned char>(n >> (8 * k)));
}

struct Listed {
    Bytes record; // as it stands in the list
    std::uint64_t packed = 0, whole = 0;
};
struct Listing {
    std::uint64_t end = 0; // of all of it
    std::map<std::string, Listed> entries;
};

std::optional<Listing> listingAt(const File& file, std::uint64_t endAt)
{
    const Bytes end = file.read(endAt, endLength);
    if (end.size() < endLength || number(end, 0, 4) != endSign || number(end, 20, 2) != 0)
        return std::nullopt;
    const std::size_t count = number(end, 10, 2), size = number(end, 12, 4), from = number(end, 16, 4);
    if (number(end, 4, 4) != 0 || from + size != endAt)
        return std::nullopt;
    const Bytes list = file.read(from, size);
    Listing out;
    out.end = endAt + endLength;
    std::size_t at = 0;
    for (std::size_t k = 0; k < count; ++k) {
        if (at + entryLength > list.size() || number(list, at, 4) != entrySign)
            return std::nullopt;
        const std::size_t nameLength = number(list, at + 28, 2), length = entryLength + nameLength + number(list, at + 30, 2) + number(list, at + 32, 2);
        if (at + length > list.size())
            return std::nullopt;
        Listed listed;
        listed.record.assign(list.begin() + std::ptrdiff_t(at), list.begin() + std::ptrdiff_t(at + length));
        listed.packed = number(list, at + 20, 4);
        listed.whole = number(list, at + 24, 4);
        out.entries[std::string(list.begin() + std::ptrdiff_t(at + entryLength), list.begin() + std::ptrdiff_t(at + entryLength + nameLength))] = std::move(listed);
        at += length;
    }
    return at == list.size() ? std::optional(out) : std::nullopt;
}

// Backwards from the end, a stretch at a time.
std::optional<Listing> lastListing(const File& file)
{
    constexpr std::uint64_t stretch = 1 << 20, furthest = std::uint64_t(256) << 20;
    const std::uint64_t length = file.length();
    if (length < endLength || length > mostLength)
        return std::nullopt;
    for (std::uint64_t end = length; end >= endLength && length - end < furthest;) {
        const std::uint64_t begin = end > stretch ? end - stretch : 0;
        const Bytes part = file.read(begin, end - begin);
        for (std::size_t k = part.size() >= 4 ? part.size() - 3 : 0; k-- > 0;)
            if (number(part, k, 4) == endSign)
                if (auto listing = listingAt(file, begin + k))
                    return listing;
        if (begin == 0)
            break;
        end = begin + 3; // a sign may lie across
    }
    return std::nullopt;
}

Bytes packedJson(const std::string& json)
{
    z_stream z{};
    if (deflateInit2(&z, Z_DEFAULT_COMPRESSION, Z_DEFLATED, -MAX_WBITS, 8, Z_DEFAULT_STRATEGY) != Z_OK)
        throw std::bad_alloc();
    Bytes out(deflateBound(&z, uLong(json.size())));
    z.next_in = reinterpret_cast<Bytef*>(const_cast<char*>(json.data()));
    z.avail_in = unsigned(json.size());
    z.next_out = out.data();
    z.avail_out = unsigned(out.size());
    deflate(&z, Z_FINISH);
    out.resize(z.total_out);
    deflateEnd(&z);
    return out;
}

// What an entry's header and its record in the list have in common.
void putFacts(Bytes& out, const std::string& json, const Bytes& packed, std::size_t nameLength)
{
    put(out, 20, 2);         // version needed
    put(out, 0, 2);          // no flags
    put(out, Z_DEFLATED, 2);
    put(out, 0, 2);          // one fixed time, as in a file that is written whole: 1 January 1980
    put(out, 33, 2);
    put(out, crc32(0, reinterpret_cast<const Bytef*>(json.data()), unsigned(json.size())), 4);
    put(out, packed.size(), 4);
    put(out, json.size(), 4);
    put(out, nameLength, 2);
    put(out, 0, 2); // no extra field
}

// What is to stand from `begin` on: the entry, the list, its end.
Bytes tailOf(const Listing& old, std::uint64_t begin, const std::string& json, const std::map<std::string, std::uint64_t>& pictures)
{
    const std::string name = "job.json";
    const Bytes packed = packedJson(json);
    Bytes out;
    put(out, headerSign, 4);
    putFacts(out, json, packed, name.size());
    out.insert(out.end(), name.begin(), name.end());
    out.insert(out.end(), packed.begin(), packed.end());
    const std::uint64_t list = begin + out.size();
    put(out, entrySign, 4);
    put(out, 20, 2); // made by
    putFacts(out, json, packed, name.size());
    put(out, 0, 2); // no comment
    put(out, 0, 2); // first disk
    put(out, 0, 2);
    put(out, 0, 4);
    put(out, begin, 4);
    out.insert(out.end(), name.begin(), name.end());
    for (const auto& [picture, size] : pictures)
        out.insert(out.end(), old.entries.at(picture).record.begin(), old.entries.at(picture).record.end());
    const std::uint64_t listLength = begin + out.size() - list;
    put(out, endSign, 4);
    put(out, 0, 4);
    put(out, pictures.size() + 1, 2);
    put(out, pictures.size() + 1, 2);
    put(out, listLength, 4);
    put(out, list, 4);
    put(out, 0, 2);
    return out;
}

} // namespace

std::optional<std::uint64_t> wholeLength(const std::filesystem::path& path)
{
    const File file(path, O_RDONLY);
    const auto listing = file ? lastListing(file) : std::nullopt;
    return listing ? std::optional(listing->end) : std::nullopt;
}

bool appendJob(const std::filesystem::path& path, const std::string& json, const std::map<std::string, std::uint64_t>& pictures)
{
    const File file(path, O_RDWR);
    if (!file || file.length() < large)
        return false;
    lockToWrite(file.get(), path);
    const auto old = lastListing(file);
    if (!old)
        return false;
    std::uint64_t used = 0;
    for (const auto& [name, size] : pictures) {
        const auto there = old->entries.find(name);
        if (there == old->entries.end() || there->second.whole != size || there->second.packed != size)
            return false;
        used += size;
    }
    constexpr std::uint64_t roomy = 4; // a quarter of it may be no longer used
    const Bytes tail = tailOf(*old, old->end, json, pictures);
    if (old->end - std::min(old->end, used) > old->end / roomy || old->end + tail.size() > mostLength)
        return false;
    const auto giveUp = [&](int code) {
        (void)!::ftruncate(file.get(), off_t(old->end));
        return Error(ErrorKind::Output, "cannot write '{}': {}; make room on the disk or choose another folder", path.string(), std::strerror(code));
    };
    // What a save that was broken off left behind goes first.
    if (::ftruncate(file.get(), off_t(old->end)) != 0)
        throw giveUp(errno);
    for (std::size_t done = 0; done < tail.size();) {
        const ssize_t n = ::pwrite(file.get(), tail.data() + done, tail.size() - done, off_t(old->end + done));
        if (n < 0 && errno == EINTR)
            continue;
        if (n <= 0)
            throw giveUp(n < 0 ? errno : ENOSPC);
        done += std::size_t(n);
    }
    if (::fsync(file.get()) != 0)
        throw giveUp(errno);
    return true;
}

} // namespace yokai::project
