#include "formats/machine/own_files.h"

#include "base/text.h"
#include "formats/project/json_fields.h"
#include "machine/library.h"

#include <cstdlib>

namespace yokai {

namespace {

using project::Json;

// What a machine and a material differ in.
template <class T> struct OwnKind;
template <> struct OwnKind<Machine> {
    static constexpr const char *key = "yokai_machine", *word = "machine", *folder = "machines";
    static std::vector<Machine> samples() { return sampleMachines(); }
};
template <> struct OwnKind<Material> {
    static constexpr const char *key = "yokai_material", *word = "material", *folder = "materials";
    static std::vector<Material> samples() { return sampleMaterials(); }
};
constexpr int ownVersion = 1;

template <class T> Bytes writeOwn(const T& value)
{
    Json json = {{OwnKind<T>::key, ownVersion}, {"length_unit", "mm"}};
    const project::Writer::Entry none = [](const Picture&) { return std::string(); };
    json.update(project::Writer(none, project::Lengths::Mm).json(value));
    const std::string text = json.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
    return {text.begin(), text.end()};
}

template <class T> T openOwn(const std::filesystem::path& path)
{
    const Bytes text = readFile(path);
    const auto fail = [&](const std::string& why) {
        return Error(ErrorKind::Input, "cannot read the {} '{}': {}; see the handbook for how one is written", OwnKind<T>::word, path.string(), cleanText(why));
    };
    try {
        const Json json = Json::parse(text.begin(), text.end());
        if (!json.is_object() || !json.contains(OwnKind<T>::key))
            throw fail(std::string("it has no \"") + OwnKind<T>::key + "\"");
        if (json.at(OwnKind<T>::key).template get<int>() > ownVersion)
            throw fail("a newer Yokai wrote it");
        const project::Reader::Open none = [](const std::string&, const std::string&, int) { return Picture{}; };
        T value;
        std::vector<std::string> leftOut;
        Json fields = json;
        fields.erase(OwnKind<T>::key);
        fields.erase("length_unit");
        project::Reader(none, &leftOut, project::Lengths::Mm).read(fields, value, "");
        if (!leftOut.empty()) // who wrote it by hand wants to know
            throw fail(leftOut.front());
        if (value.name.empty())
            value.name = path.stem().string();
        return value;
    } catch (const nlohmann::json::exception& e) {
        throw fail(e.what());
    } catch (const project::BadField& e) {
        throw fail(e.what());
    }
}

template <class T> std::vector<T> shelfOf(const std::filesystem::path& own)
{
    std::vector<T> out = OwnKind<T>::samples();
    std::error_code none;
    std::vector<std::filesystem::path> files;
    for (const auto& entry : std::filesystem::directory_iterator(own / OwnKind<T>::folder, none))
        if (entry.path().extension() == ".json")
            files.push_back(entry.path());
    std::sort(files.begin(), files.end());
    for (const auto& file : files)
        try {
            T value = openOwn<T>(file);
            const auto same = std::find_if(out.begin(), out.end(), [&](const T& other) { return other.name == value.name; });
            if (same == out.end())
                out.push_back(std::move(value));
            else
                *same = std::move(value);
        } catch (const Error&) {
            continue;
        }
    return out;
}

// What a name becomes as a file's: letters and digits, all else a line.
std::string fileNameOf(const std::string& name)
{
    std::string out;
    for (const char c : name)
        out += std::isalnum(static_cast<unsigned char>(c)) || (c & 0x80) ? c : '-';
    return out.substr(0, 100) + ".json";
}

template <class T> void keepOwn(const std::filesystem::path& own, const T& value)
{
    std::error_code error;
    std::filesystem::create_directories(own / OwnKind<T>::folder, error);
    if (error)
        throw Error(ErrorKind::Output, "cannot make the folder '{}': {}; check who may write there", (own / OwnKind<T>::folder).string(), error.message());
    writeFile(own / OwnKind<T>::folder / fileNameOf(value.name), writeOwn(value));
}

template <class T> void dropOwn(const std::filesystem::path& own, const std::string& name)
{
    std::error_code none;
    std::filesystem::remove(own / OwnKind<T>::folder / fileNameOf(name), none);
}

template <class T> T ownNamed(const std::string& nameOrFile, const std::filesystem::path& own)
{
    if (std::filesystem::path(nameOrFile).extension() == ".json")
        return openOwn<T>(nameOrFile);
    const std::vector<T> shelf = shelfOf<T>(own);
    // The whole name, or its first word where only one begins so.
    std::vector<const T*> begin;
    std::string names;
    for (const T& value : shelf) {
        if (value.name == nameOrFile)
            return value;
        if (value.name.starts_with(nameOrFile))
            begin.push_back(&value);
        names += (names.empty() ? "'" : ", '") + value.name + "'";
    }
    if (begin.size() == 1 && !nameOrFile.empty())
        return *begin.front();
    throw Error(ErrorKind::Usage, "there is no {} '{}'; there are {}, or name a .json file", OwnKind<T>::word, nameOrFile, names);
}

} // namespace

Bytes writeMachine(const Machine& machine) { return writeOwn(machine); }
Bytes writeMaterial(const Material& material) { return writeOwn(material); }
Machine openMachine(const std::filesystem::path& path) { return openOwn<Machine>(path); }
Material openMaterial(const std::filesystem::path& path) { return openOwn<Material>(path); }
OwnShelf openShelf(const std::filesystem::path& own) { return {shelfOf<Machine>(own), shelfOf<Material>(own)}; }
void keepMachine(const std::filesystem::path& own, const Machine& machine) { keepOwn(own, machine); }
void keepMaterial(const std::filesystem::path& own, const Material& material) { keepOwn(own, material); }
void dropMachine(const std::filesystem::path& own, const std::string& name) { dropOwn<Machine>(own, name); }
void dropMaterial(const std::filesystem::path& own, const std::string& name) { dropOwn<Material>(own, name); }
Machine machineNamed(const std::string& nameOrFile, const std::filesystem::path& own) { return ownNamed<Machine>(nameOrFile, own); }
Material materialNamed(const std::string& nameOrFile, const std::filesystem::path& own) { return ownNamed<Material>(nameOrFile, own); }

std::filesystem::path ownFolder()
{
    if (const char* data = std::getenv("XDG_DATA_HOME"); data && *data)
        return std::filesystem::path(data) / "yokai";
    const char* home = std::getenv("HOME");
    return std::filesystem::path(home ? home : ".") / ".local" / "share" / "yokai";
}

} // namespace yokai
