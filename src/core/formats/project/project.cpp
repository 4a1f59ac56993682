#include "formats/project/project.h"

#include "base/error.h"

#include <nlohmann/json.hpp>
#include <zip.h>

#include <map>
#include <memory>

namespace yokai {

namespace {

using Json = nlohmann::ordered_json;
constexpr int formatVersion = 2; // 1 had places as parts of the picture and one setting for all lines
constexpr std::size_t mostPictureBytes = std::size_t(1) << 30;

Json colourJson(Rgba c) { return Json::array({c.r, c.g, c.b}); }
Rgba colourFrom(const Json& j) { return {j.at(0).get<std::uint8_t>(), j.at(1).get<std::uint8_t>(), j.at(2).get<std::uint8_t>(), 255}; }

Length length(const Json& j, const char* key)
{
    const auto ticks = j.at(key).get<std::int64_t>();
    if (std::abs(double(ticks)) > 1e7 * double(Length::ticksPerMm))
        throw std::out_of_range(std::string(key) + " is out of range");
    return Length::ticks(ticks);
}

double number(const Json& j, const char* key, double least, double most)
{
    const double v = j.at(key).get<double>();
    if (!(v >= least && v <= most))
        throw std::out_of_range(std::string(key) + " is out of range");
    return v;
}

template <class E, std::size_t N> E choice(const Json& j, const char* key, const std::pair<const char*, E> (&names)[N])
{
    const auto text = j.at(key).get<std::string>();
    for (const auto& [name, value] : names)
        if (text == name)
            return value;
    throw std::out_of_range(std::string(key) + " has the unknown value '" + text + "'");
}

template <class E, std::size_t N> const char* nameOf(E value, const std::pair<const char*, E> (&names)[N])
{
    for (const auto& [name, v] : names)
        if (v == value)
            return name;
    return names[0].first;
}

constexpr std::pair<const char*, SizeBy> sizeNames[] = {
    {"file", SizeBy::File}, {"width", SizeBy::Width}, {"height", SizeBy::Height}, {"both", SizeBy::Both}, {"ppi", SizeBy::Ppi}};
constexpr std::pair<const char*, Openings> openingNames[] = {{"keep", Openings::Keep}, {"fill", Openings::Fill}, {"over", Openings::Over}};
constexpr std::pair<const char*, LineKind> kindNames[] = {
    {"through", LineKind::Through}, {"kiss", LineKind::Kiss}, {"perforate", LineKind::Perforate}, {"crease", LineKind::Crease}};
constexpr std::pair<const char*, Corners> cornerNames[] = {{"round", Corners::Round}, {"sharp", Corners::Sharp}, {"flat", Corners::Flat}};
constexpr std::pair<const char*, LineShape> shapeNames[] = {{"outline", LineShape::Outline},        {"box", LineShape::Box},
                                                            {"rounded-box", LineShape::RoundedBox}, {"ellipse", LineShape::Ellipse},
                                                            {"circle", LineShape::Circle},          {"box-round-all", LineShape::BoxRoundAll}};
constexpr std::pair<const char*, Touch::Kind> touchNames[] = {
    {"rub-out", Touch::Kind::RubOut}, {"bring-back", Touch::Kind::BringBack}, {"rub-out-like", Touch::Kind::RubOutLike}};
constexpr std::pair<const char*, MarkStyle> markNames[] = {{"none", MarkStyle::None}, {"dots", MarkStyle::Dots}};

Json placesJson(const std::vector<Point>& points)
{
    Json out = Json::array();
    for (const Point p : points)
        out.push_back({p.x, p.y});
    return out;
}

Point placeFrom(const Json& j)
{
    const Point p{j.at(0).get<double>(), j.at(1).get<double>()};
    if (!(std::abs(p.x) < 1e6 && std::abs(p.y) < 1e6))
        throw std::out_of_range("a place is out of range");
    return p;
}

std::vector<Point> placesFrom(const Json& j)
{
    std::vector<Point> out;
    for (const Json& p : j)
        out.push_back(placeFrom(p));
    return out;
}

Json swatchesJson(const std::vector<Swatch>& swatches)
{
    Json out = Json::array();
    for (const Swatch& s : swatches)
        out.push_back({{"colour", colourJson(s.colour)}, {"at", s.at ? placesJson({*s.at})[0] : Json()}});
    return out;
}

std::vector<Swatch> swatchesFrom(const Json& j)
{
    std::vector<Swatch> out;
    for (const Json& s : j)
        out.push_back({colourFrom(s.at("colour")), s.at("at").is_null() ? std::nullopt : std::optional(placeFrom(s.at("at")))});
    return out;
}

Json artworkJson(const ArtworkSpec& a, const std::string& entry)
{
    Json out = {{"picture", entry},
                {"file_name", a.picture.fileName},
                {"page", a.picture.info.page},
                {"size_by", nameOf(a.sizeBy, sizeNames)},
                {"side", a.side.ticks()},
                {"side_px", a.sidePx},
                {"down", a.down.ticks()},
                {"down_px", a.downPx},
                {"ppi", a.ppi},
                {"quarters", a.quarters},
                {"mirror", a.mirror},
                {"straighten_deg", a.straighten}};
    out["crop"] = a.crop ? Json{a.crop->x0, a.crop->y0, a.crop->x1, a.crop->y1} : Json();
    return out;
}

Json keepJson(const KeepSpec& k)
{
    Json out = {{"rule", name(k.rule)},
                {"level", k.level ? Json(*k.level) : Json()},
                {"papers", swatchesJson(k.papers)},
                {"paper_anywhere", k.paperAnywhere},
                {"colours", swatchesJson(k.colours)},
                {"one_area", k.oneArea},
                {"smoothing", k.smoothing ? Json(k.smoothing->ticks()) : Json()},
                {"only_inside", Json::array()},
                {"touches", Json::array()},
                {"smallest_part_mm2", k.smallestPart},
                {"openings", nameOf(k.openings, openingNames)},
                {"openings_over_mm2", k.openingsOver},
                {"by_hand", Json::array()}};
    for (const auto& outline : k.onlyInside)
        out["only_inside"].push_back(placesJson(outline));
    for (const Touch& t : k.touches)
        out["touches"].push_back(
            {{"kind", nameOf(t.kind, touchNames)}, {"square", t.square}, {"radius", t.radius}, {"tolerance", t.tolerance}, {"points", placesJson(t.points)}});
    for (const PartChoice& c : k.byHand)
        out["by_hand"].push_back({{"at", {c.at.x, c.at.y}}, {"keep", c.keep}});
    return out;
}

Json lineJson(const LineSpec& l)
{
    return {{"kind", name(l.kind)},
            {"offset", l.offset.ticks()},
            {"percent", l.percent ? Json(*l.percent) : Json()},
            {"shape", name(l.shape)},
            {"corners", name(l.corners)},
            {"sharp_limit", l.sharpLimit},
            {"openings", nameOf(l.openings, openingNames)},
            {"openings_over_mm2", l.openingsOver},
            {"join_gap", l.joinGap.ticks()},
            {"round_inside", l.roundInside.ticks()},
            {"smallest_notch_mm2", l.smallestNotch},
            {"tolerance", l.tolerance.ticks()},
            {"box_radius", l.boxRadius.ticks()},
            {"cut_length", l.cutLength.ticks()},
            {"gap_length", l.gapLength.ticks()},
            {"clips_print", l.clipsPrint}};
}

Json pieceJson(const Piece& p, const std::string& entry)
{
    Json lines = Json::array();
    for (const LineSpec& l : p.cutLines.lines)
        lines.push_back(lineJson(l));
    return {{"name", p.name},
            {"copies", p.copies ? Json(*p.copies) : Json("fill")},
            {"artwork", artworkJson(p.artwork, entry)},
            {"keep", keepJson(p.keep)},
            {"cut_lines", {{"lines", lines}}}};
}

Json jobJson(const Job& job, const std::vector<std::string>& entries)
{
    Json pieces = Json::array();
    for (std::size_t i = 0; i < job.pieces.size(); ++i)
        pieces.push_back(pieceJson(job.pieces[i], entries[i]));
    const SheetSpec& s = job.sheet;
    const StandInSpec& m = job.cut.standIn;
    return {
        {"yokai", formatVersion},
        {"length_unit", "mm/360000"},
        {"name", job.name},
        {"pieces", pieces},
        {"sheet",
         {{"media", s.media.name},
          {"width", s.media.width.ticks()},
          {"height", s.media.height.ticks()},
          {"landscape", s.landscape},
          {"margin", s.margin.ticks()},
          {"gap", s.gap.ticks()},
          {"marks", nameOf(s.marks, markNames)},
          {"mark_inset", s.markInset.ticks()},
          {"mark_diameter", s.markDiameter.ticks()}}},
        {"hand_off", {{"spot", job.handOff.spot}}},
        {"cut",
         {{"use_fit", job.cut.useFit},
          {"fit", name(job.cut.model)},
          {"max_residual", job.cut.maxResidual.ticks()},
          {"stand_in", {{"stretch", {m.stretchX, m.stretchY}}, {"turn_deg", m.turn}, {"skew_deg", m.skew}, {"shift", {m.shiftX.ticks(), m.shiftY.ticks()}}}}}}};
}

ArtworkSpec artworkFrom(const Json& a, const std::map<std::string, Picture>& pictures, int version)
{
    ArtworkSpec out;
    const auto found = pictures.find(a.at("picture").get<std::string>());
    if (found == pictures.end())
        throw std::out_of_range("the picture '" + a.at("picture").get<std::string>() + "' is missing");
    out.picture = found->second;
    out.picture.fileName = a.at("file_name").get<std::string>();
    out.sizeBy = choice(a, "size_by", sizeNames);
    out.side = length(a, "side");
    out.ppi = number(a, "ppi", 0, 100'000);
    if (version < 2)
        return out;
    if (const int page = int(number(a, "page", 0, 10'000)); page != out.picture.info.page)
        out.picture = pageOf(out.picture, page);
    out.sidePx = number(a, "side_px", 0, 1e6);
    out.down = length(a, "down");
    out.downPx = number(a, "down_px", 0, 1e6);
    out.quarters = int(number(a, "quarters", 0, 3));
    out.mirror = a.at("mirror").get<bool>();
    out.straighten = number(a, "straighten_deg", -45, 45);
    if (const Json& c = a.at("crop"); !c.is_null()) {
        const Point from = placeFrom(c), to{c.at(2).get<double>(), c.at(3).get<double>()};
        out.crop = Rect{from.x, from.y, to.x, to.y};
        if (out.crop->empty())
            throw std::out_of_range("the crop is empty");
    }
    return out;
}

KeepSpec keepFrom(const Json& k, const PictureInfo& picture, int version)
{
    KeepSpec out;
    const auto rule = keepRuleFrom(k.at("rule").get<std::string>());
    if (!rule)
        throw std::out_of_range("the keep rule is unknown");
    out.rule = *rule;
    if (!k.at("level").is_null())
        out.level = number(k, "level", 0, 100);
    out.smallestPart = number(k, "smallest_part_mm2", 0, 1e9);
    out.openings = choice(k, "openings", openingNames);
    out.openingsOver = number(k, "openings_over_mm2", 0, 1e9);
    for (const Json& h : k.at("by_hand"))
        out.byHand.push_back({placeFrom(h.at("at")), h.at("keep").get<bool>()});
    if (version < 2) {
        if (!k.at("paper").is_null())
            out.papers.push_back({colourFrom(k.at("paper")), {}});
        if (out.rule == KeepRule::Colour)
            out.colours.push_back({colourFrom(k.at("colour")), {}});
        for (PartChoice& c : out.byHand)
            c.at = {c.at.x * picture.width, c.at.y * picture.height};
        return out;
    }
    out.papers = swatchesFrom(k.at("papers"));
    out.paperAnywhere = k.at("paper_anywhere").get<bool>();
    out.colours = swatchesFrom(k.at("colours"));
    out.oneArea = k.at("one_area").get<bool>();
    if (!k.at("smoothing").is_null())
        out.smoothing = length(k, "smoothing");
    for (const Json& outline : k.at("only_inside"))
        out.onlyInside.push_back(placesFrom(outline));
    for (const Json& t : k.at("touches"))
        out.touches.push_back({choice(t, "kind", touchNames), t.at("square").get<bool>(), number(t, "radius", 0, 1e5), placesFrom(t.at("points")),
                               number(t, "tolerance", 0, 100)});
    return out;
}

LineSpec lineFrom(const Json& l)
{
    LineSpec out;
    out.kind = choice(l, "kind", kindNames);
    out.offset = length(l, "offset");
    if (!l.at("percent").is_null())
        out.percent = number(l, "percent", -100, 1000);
    out.shape = choice(l, "shape", shapeNames);
    out.corners = choice(l, "corners", cornerNames);
    out.sharpLimit = number(l, "sharp_limit", 1, 100);
    out.openings = choice(l, "openings", openingNames);
    out.openingsOver = number(l, "openings_over_mm2", 0, 1e9);
    out.joinGap = length(l, "join_gap");
    out.roundInside = length(l, "round_inside");
    out.smallestNotch = number(l, "smallest_notch_mm2", 0, 1e9);
    out.tolerance = length(l, "tolerance");
    out.boxRadius = length(l, "box_radius");
    out.cutLength = length(l, "cut_length");
    out.gapLength = length(l, "gap_length");
    out.clipsPrint = l.at("clips_print").get<bool>();
    return out;
}

Piece pieceFrom(const Json& j, const std::map<std::string, Picture>& pictures, int version)
{
    Piece p;
    p.name = j.at("name").get<std::string>();
    if (j.at("copies").is_string())
        p.copies.reset();
    else
        p.copies = int(number(j, "copies", 0, 100'000));
    p.artwork = artworkFrom(j.at("artwork"), pictures, version);
    p.keep = keepFrom(j.at("keep"), p.artwork.picture.info, version);
    const Json& c = j.at("cut_lines");
    p.cutLines.lines.clear();
    for (const Json& l : c.at("lines")) {
        if (version >= 2) {
            p.cutLines.lines.push_back(lineFrom(l));
            continue;
        }
        LineSpec line;
        line.kind = choice(l, "kind", kindNames);
        line.offset = length(l, "offset");
        line.tolerance = length(c, "tolerance");
        line.corners = choice(c, "corners", cornerNames);
        line.joinGap = length(c, "join_gap");
        line.roundInside = length(c, "round_inside");
        line.smallestNotch = number(c, "smallest_notch_mm2", 0, 1e9);
        p.cutLines.lines.push_back(line);
    }
    return p;
}

Job jobFrom(const Json& j, const std::map<std::string, Picture>& pictures, int version)
{
    Job job;
    job.name = j.at("name").get<std::string>();
    for (const Json& p : j.at("pieces"))
        job.pieces.push_back(pieceFrom(p, pictures, version));
    const Json& s = j.at("sheet");
    job.sheet.media = {s.at("media").get<std::string>(), length(s, "width"), length(s, "height")};
    job.sheet.landscape = s.at("landscape").get<bool>();
    job.sheet.margin = length(s, "margin");
    job.sheet.gap = length(s, "gap");
    job.sheet.marks = choice(s, "marks", markNames);
    job.sheet.markInset = length(s, "mark_inset");
    job.sheet.markDiameter = length(s, "mark_diameter");
    job.handOff.spot = j.at("hand_off").at("spot").get<std::string>();
    const Json& c = j.at("cut");
    job.cut.useFit = c.at("use_fit").get<bool>();
    const auto model = fitModelFrom(c.at("fit").get<std::string>());
    if (!model)
        throw std::out_of_range("the fit is unknown");
    job.cut.model = *model;
    job.cut.maxResidual = length(c, "max_residual");
    const Json& m = c.at("stand_in");
    job.cut.standIn.stretchX = m.at("stretch").at(0).get<double>();
    job.cut.standIn.stretchY = m.at("stretch").at(1).get<double>();
    job.cut.standIn.turn = number(m, "turn_deg", -360, 360);
    job.cut.standIn.skew = number(m, "skew_deg", -45, 45);
    job.cut.standIn.shiftX = Length::ticks(m.at("shift").at(0).get<std::int64_t>());
    job.cut.standIn.shiftY = Length::ticks(m.at("shift").at(1).get<std::int64_t>());
    return job;
}

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
        throw Error(ErrorKind::Output, std::string("cannot pack the job: ") + zip_strerror(zip) + "; make room in memory");
    source.release();
    zip_set_file_compression(zip, zip_uint64_t(index), compress ? ZIP_CM_DEFLATE : ZIP_CM_STORE, 0);
    zip_file_set_mtime(zip, zip_uint64_t(index), 315'532'800, 0); // one fixed time, so that the same job gives the same bytes
}

} // namespace

Bytes writeProject(const Job& job)
{
    // The same picture used twice is stored once.
    std::map<std::uint64_t, std::string> entryOf;
    std::vector<std::string> entries;
    std::vector<std::pair<std::string, SharedBytes>> pictures;
    for (const Piece& p : job.pieces) {
        std::string& entry = entryOf[p.artwork.picture.digest];
        if (entry.empty()) {
            entry = "pictures/" + std::to_string(pictures.size() + 1);
            pictures.emplace_back(entry, p.artwork.picture.bytes);
        }
        entries.push_back(entry);
    }
    // Text from a file name may be any bytes; what is not UTF-8 is replaced, not fatal.
    const std::string json = jobJson(job, entries).dump(1, ' ', false, Json::error_handler_t::replace) + "\n";

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
    add(zip.get(), "job.json", json.data(), json.size(), true);
    for (const auto& [name, bytes] : pictures)
        add(zip.get(), name, bytes->data(), bytes->size(), false);
    if (zip_close(zip.get()) != 0)
        throw Error(ErrorKind::Output, std::string("cannot pack the job: ") + zip_strerror(zip.get()) + "; make room in memory");
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
    const auto fail = [&](const std::string& why) { return Error(ErrorKind::Input, "cannot open '" + name + "': " + why); };
    zip_error_t error;
    zip_error_init(&error);
    zip_source_t* source = zip_source_buffer_create(bytes.data(), bytes.size(), 0, &error);
    Archive zip(source ? zip_open_from_source(source, ZIP_RDONLY, &error) : nullptr);
    if (!zip) {
        if (source)
            zip_source_free(source);
        throw fail("it is not a whole Yokai job; open another copy of it");
    }
    const auto entry = [&](const std::string& entryName) -> Bytes {
        zip_stat_t stat;
        if (zip_stat(zip.get(), entryName.c_str(), 0, &stat) != 0)
            throw fail("'" + entryName + "' is missing in it; open another copy of it");
        if (stat.size > mostPictureBytes)
            throw fail("'" + entryName + "' in it is too large; open another copy of it");
        Bytes data(stat.size);
        zip_file_t* file = zip_fopen(zip.get(), entryName.c_str(), 0);
        const zip_int64_t got = file ? zip_fread(file, data.data(), data.size()) : -1;
        // Reading to the end is what makes libzip compare the checksum.
        char more;
        const bool ended = file && zip_fread(file, &more, 1) == 0;
        if (file)
            zip_fclose(file);
        if (got != zip_int64_t(data.size()) || !ended)
            throw fail("'" + entryName + "' in it is damaged; open another copy of it");
        return data;
    };
    const Bytes text = entry("job.json");
    try {
        const Json json = Json::parse(text.begin(), text.end());
        const int version = json.at("yokai").get<int>();
        if (version > formatVersion)
            throw fail("it was saved by a newer Yokai (format " + std::to_string(version) + "); open it with that");
        std::map<std::string, Picture> pictures;
        for (const Json& p : json.at("pieces")) {
            const auto picture = p.at("artwork").at("picture").get<std::string>();
            if (!pictures.contains(picture))
                pictures[picture] = pictureFromBytes(entry(picture), p.at("artwork").at("file_name").get<std::string>());
        }
        return jobFrom(json, pictures, version);
    } catch (const nlohmann::json::exception& e) {
        throw fail("its job.json is damaged (" + std::string(e.what()) + "); open another copy of it");
    } catch (const std::out_of_range& e) {
        throw fail(std::string(e.what()) + "; open another copy of it");
    }
}

void saveProject(const Job& job, const std::filesystem::path& path) { writeFile(path, writeProject(job)); }

Job openProject(const std::filesystem::path& path) { return readProject(readFile(path), path.string()); }

} // namespace yokai
