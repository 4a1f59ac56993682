#include "formats/project/project.h"

#include "base/error.h"
#include "base/text.h"
#include "formats/project/append.h"
#include "formats/project/json_fields.h"
#include "formats/project/upgrade.h"

#include <zip.h>
#include <zlib.h>

#include <algorithm>
#include <functional>
#include <map>
#include <memory>
#include <set>

namespace yokai {

namespace {

using project::Json;

constexpr std::size_t mostPictureBytes = std::size_t(1) << 30;
// What is packed may grow by so much when it is read, or the file is a trap: jobs shrink to
// a fifth at most, and pictures are stored as they came.
constexpr std::size_t growthAtStart = std::size_t(4) << 20, growthAByte = 40;

struct DiscardArchive {
    void operator()(zip_t* z) const { zip_discard(z); }
};
struct FreeSource {
    void operator()(zip_source_t* s) const { zip_source_free(s); }
};
using Archive = std::unique_ptr<zip_t, DiscardArchive>;
using Source = std::unique_ptr<zip_source_t, FreeSource>;

void add(zip_t* zip, const std::string& name, const void* data, std::size_t size, bool compress)
{
    Source source(zip_source_buffer(zip, data, size, 0));
    const zip_int64_t index = source ? zip_file_add(zip, name.c_str(), source.get(), ZIP_FL_ENC_UTF_8) : -1;
    if (index < 0)
        throw Error(ErrorKind::Output, "cannot pack the job: {}; make room in memory", zip_strerror(zip));
    source.release();
    zip_set_file_compression(zip, zip_uint64_t(index), compress ? ZIP_CM_DEFLATE : ZIP_CM_STORE, 0);
    zip_file_set_mtime(zip, zip_uint64_t(index), 315'532'800, 0); // one fixed time, so that the same job gives the same bytes
}

// Reads entries, and keeps count of how large they grow.
class Packed {
public:
    Packed(Archive archive, std::size_t fileBytes, const std::string& name)
        : zip_(std::move(archive)), most_(growthAtStart + growthAByte * fileBytes), name_(name)
    {}

    Bytes entry(const std::string& name)
    {
        zip_stat_t stat;
        if (zip_stat(zip_.get(), name.c_str(), 0, &stat) != 0)
            throw fail("'" + name + "' is missing in it");
        if (stat.size > mostPictureBytes || stat.size > most_)
            throw fail("'" + name + "' in it is too large");
        most_ -= std::size_t(stat.size);
        Bytes data(stat.size);
        zip_file_t* file = zip_fopen(zip_.get(), name.c_str(), 0);
        const zip_int64_t got = file ? zip_fread(file, data.data(), data.size()) : -1;
        // Reading to the end is what makes libzip compare the checksum.
        char more;
        const bool ended = file && zip_fread(file, &more, 1) == 0;
        if (file)
            zip_fclose(file);
        if (got != zip_int64_t(data.size()) || !ended)
            throw fail("'" + name + "' in it is damaged");
        return data;
    }
    Error fail(const std::string& why) const { return Error(ErrorKind::Input, "cannot open '{}': {}; open another copy of it", name_, why); }

private:
    Archive zip_;
    std::size_t most_;
    std::string name_;
};

// A placing of a piece that is gone means nothing; a piece without a layer has nothing to keep.
void mend(Job& job)
{
    for (std::size_t i = 0; i < job.pieces.size(); ++i) {
        const std::string where = "pieces[" + std::to_string(i) + "]";
        if (job.pieces[i].layers.empty())
            throw project::BadField(where + ".layers", "is empty");
        if (!job.pieces[i].artwork.picture.bytes)
            throw project::BadField(where + ".artwork.picture", "is missing");
    }
    std::erase_if(job.placings, [&](const Placing& p) { return !p.piece || !find(job, p.piece); });
    giveIds(job);
}

// What lies under a name; and what to say of it.
struct Entries {
    std::function<Bytes(const std::string& entry)> bytes;
    std::function<Error(const std::string& why)> fail;
};

Job read(const Entries& entries, const std::string& name, std::vector<std::string>* leftOut = nullptr)
{
    const Bytes text = entries.bytes("job.json");
    try {
        Json json = Json::parse(text.begin(), text.end());
        const int version = json.at("yokai").get<int>();
        if (version > project::formatVersion && !leftOut)
            throw Error(ErrorKind::Input, "cannot open '{}': it was saved by a newer Yokai (format {}); open it with that", name, std::to_string(version));
        project::upgrade(json, version);
        std::map<std::string, Picture> known;
        const project::Reader::Open open = [&](const std::string& entry, const std::string& fileName, int page) {
            auto at = known.find(entry);
            if (at == known.end())
                at = known.emplace(entry, pictureFromBytes(entries.bytes(entry), fileName)).first;
            Picture picture = page == 0 ? at->second : pageOf(at->second, page);
            picture.fileName = fileName;
            return picture;
        };
        Job job;
        project::Reader(open, leftOut).read(json, job, "");
        if (version < 2) // places by hand were parts of the picture
            for (Piece& piece : job.pieces)
                for (PartChoice& choice : piece.keep().byHand)
                    choice.at = {choice.at.x * piece.artwork.picture.info.width, choice.at.y * piece.artwork.picture.info.height};
        if (leftOut)
            std::erase_if(job.pieces, [&](const Piece& piece) {
                const bool empty = piece.layers.empty() || !piece.artwork.picture.bytes;
                if (empty)
                    leftOut->push_back("'" + cleanText(piece.name) + "' has no picture, or nothing is kept of it");
                return empty;
            });
        mend(job);
        return job;
    } catch (const nlohmann::json::exception& e) {
        throw entries.fail("its job.json is damaged (" + cleanText(e.what()) + ")");
    } catch (const project::BadField& e) {
        throw entries.fail("in its job.json, " + cleanText(e.what()));
    }
}

Job opened(zip_source_t* source, std::size_t size, const std::string& name, std::vector<std::string>* leftOut = nullptr)
{
    zip_error_t error;
    zip_error_init(&error);
    Archive zip(source ? zip_open_from_source(source, ZIP_RDONLY, &error) : nullptr);
    if (!zip) {
        if (source)
            zip_source_free(source);
        throw Error(ErrorKind::Input, "cannot open '{}': it is not a whole Yokai job; open another copy of it", name);
    }
    Packed packed(std::move(zip), size, name);
    return read({[&](const std::string& entry) { return packed.entry(entry); }, [&](const std::string& why) { return packed.fail(why); }}, name, leftOut);
}

// A file that was cut short: entry after entry by their own headers (APPNOTE 4.3.7), as far as they are whole.
std::map<std::string, Bytes> salvaged(const Bytes& file)
{
    std::map<std::string, Bytes> out;
    constexpr std::size_t header = 30;
    const auto number = [&](std::size_t at, int bytes) {
        std::size_t n = 0;
        for (int k = bytes - 1; k >= 0; --k)
            n = n << 8 | file[at + std::size_t(k)];
        return n;
    };
    constexpr std::size_t signature = 0x04034b50;
    std::size_t allowed = growthAtStart + growthAByte * file.size();
    for (std::size_t at = 0; at + header <= file.size() && number(at, 4) == signature;) {
        const std::size_t method = number(at + 8, 2), sum = number(at + 14, 4), packed = number(at + 18, 4), whole = number(at + 22, 4);
        const std::size_t nameLength = number(at + 26, 2), begin = at + header + nameLength + number(at + 28, 2);
        if (begin + packed > file.size() || whole > allowed)
            break;
        allowed -= whole;
        Bytes bytes(whole);
        bool good = method == 0 && packed == whole;
        if (good) {
            std::copy_n(file.begin() + std::ptrdiff_t(begin), whole, bytes.begin());
        } else if (method == Z_DEFLATED) {
            z_stream z{};
            good = inflateInit2(&z, -MAX_WBITS) == Z_OK;
            z.next_in = const_cast<unsigned char*>(file.data() + begin);
            z.avail_in = unsigned(packed);
            z.next_out = bytes.data();
            z.avail_out = unsigned(whole);
            good = good && inflate(&z, Z_FINISH) == Z_STREAM_END && z.avail_out == 0;
            inflateEnd(&z);
        }
        if (good && crc32(0, bytes.data(), unsigned(whole)) == sum)
            out.emplace(std::string(file.begin() + std::ptrdiff_t(at + header), file.begin() + std::ptrdiff_t(at + header + nameLength)), std::move(bytes));
        at = begin + packed;
    }
    return out;
}

// Text from a file name may be any bytes; what is not UTF-8 is replaced, not fatal.
std::string jsonOf(const Job& job, const project::Writer::Entry& entryOf)
{
    Json json = {{"yokai", project::formatVersion}, {"length_unit", "mm/360000"}};
    json.update(project::Writer(entryOf).json(job));
    return json.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

std::string nameOf(const Picture& picture) { return "picture-" + hexadecimal(picture.digest); }

} // namespace

namespace {

// A job's text, and the pictures it names. The same picture used twice is there once; its name says which it is.
struct Packing {
    std::string text;
    std::vector<std::pair<std::string, SharedBytes>> pictures;
    explicit Packing(const Job& job)
    {
        std::map<const Bytes*, std::string> known;
        std::map<Key, std::string> alike;
        text = jsonOf(job, [&](const Picture& picture) {
            std::string& entry = known[picture.bytes.get()];
            if (entry.empty())
                entry = alike[picture.digest];
            if (entry.empty()) {
                entry = alike[picture.digest] = "pictures/" + hexadecimal(picture.digest);
                pictures.emplace_back(entry, picture.bytes);
            }
            return entry;
        });
    }
};

// Opens the file, or what of it was there before a save that was broken off.
zip_source_t* sourceOf(const std::filesystem::path& path)
{
    if (zip_t* whole = zip_open(path.c_str(), ZIP_RDONLY, nullptr)) {
        zip_discard(whole);
        return zip_source_file_create(path.c_str(), 0, -1, nullptr);
    }
    const auto length = project::wholeLength(path);
    return zip_source_file_create(path.c_str(), 0, length ? zip_int64_t(*length) : -1, nullptr);
}

} // namespace

Bytes writeProject(const Job& job)
{
    const Packing packing(job);
    zip_error_t error;
    zip_error_init(&error);
    zip_source_t* memory = zip_source_buffer_create(nullptr, 0, 0, &error);
    if (!memory)
        throw Error(ErrorKind::Output, "cannot pack the job: not enough memory; close other programs");
    zip_source_keep(memory);
    const Source kept(memory);
    Archive zip(zip_open_from_source(memory, ZIP_CREATE | ZIP_TRUNCATE, &error));
    if (!zip) {
        zip_source_free(memory);
        throw Error(ErrorKind::Output, "cannot pack the job: not enough memory; close other programs");
    }
    add(zip.get(), "job.json", packing.text.data(), packing.text.size(), true);
    for (const auto& [name, bytes] : packing.pictures)
        add(zip.get(), name, bytes->data(), bytes->size(), false);
    if (zip_close(zip.get()) != 0)
        throw Error(ErrorKind::Output, "cannot pack the job: {}; make room in memory", zip_strerror(zip.get()));
    zip.release();
    zip_stat_t stat;
    zip_source_stat(kept.get(), &stat);
    Bytes out(stat.size);
    zip_source_open(kept.get());
    const zip_int64_t got = zip_source_read(kept.get(), out.data(), out.size());
    zip_source_close(kept.get());
    if (got != zip_int64_t(out.size()))
        throw Error(ErrorKind::Output, "cannot pack the job: it could not be read back; try again");
    return out;
}

Job readProject(const Bytes& bytes, const std::string& name)
{
    return opened(zip_source_buffer_create(bytes.data(), bytes.size(), 0, nullptr), bytes.size(), name);
}

void saveProject(const Job& job, const std::filesystem::path& path)
{
    const Packing packing(job);
    std::map<std::string, std::uint64_t> pictures;
    for (const auto& [name, bytes] : packing.pictures)
        pictures[name] = bytes->size();
    if (!project::appendJob(path, packing.text, pictures))
        writeFile(path, writeProject(job));
}

OpenedJob openWhatCanBe(const std::filesystem::path& path)
{
    const std::size_t size = readableSize(path);
    OpenedJob out;
    if (project::wholeLength(path)) {
        out.job = opened(sourceOf(path), size, path.string(), &out.leftOut);
        return out;
    }
    const auto entries = salvaged(readFile(path));
    const auto fail = [&](const std::string& why) { return Error(ErrorKind::Input, "cannot open '{}': {}; open another copy of it", path.string(), why); };
    if (!entries.contains("job.json"))
        throw fail("it is not a whole Yokai job");
    out.leftOut.push_back("the file is cut short");
    out.job = read({[&](const std::string& entry) {
                        const auto found = entries.find(entry);
                        if (found == entries.end())
                            throw fail("'" + entry + "' is missing in it");
                        return found->second;
                    },
                    fail},
                   path.string(), &out.leftOut);
    return out;
}

void keepWork(const Job& job, const std::filesystem::path& folder)
{
    std::set<std::string> used{"job.json"};
    const std::string text = jsonOf(job, [&](const Picture& picture) {
        // Pages of one file are told apart by their digest; its bytes are the same.
        const std::string name = nameOf(picture);
        std::error_code none;
        if (used.insert(name).second && std::filesystem::file_size(folder / name, none) != picture.bytes->size())
            writeFile(folder / name, *picture.bytes);
        return name;
    });
    writeFile(folder / "job.json", text);
    // What the job no longer has is dropped last: until now the job before was whole.
    std::error_code none;
    for (const auto& entry : std::filesystem::directory_iterator(folder, none))
        if (const std::string name = entry.path().filename().string(); name.starts_with("picture-") && !used.contains(name))
            std::filesystem::remove(entry.path(), none);
}

Job openWork(const std::filesystem::path& folder)
{
    const std::string name = folder.string();
    return read({[&](const std::string& entry) { return readFile(folder / std::filesystem::path(entry).filename(), mostPictureBytes); },
                 [&](const std::string& why) { return Error(ErrorKind::Input, "cannot open the work left in '{}': {}", name, why); }},
                name);
}

Job openProject(const std::filesystem::path& path)
{
    const std::size_t size = readableSize(path); // refuses folders, devices and what may not be read
    // Entry by entry from the disk: a job may be larger than memory would hold twice.
    return opened(sourceOf(path), size, path.string());
}

} // namespace yokai
