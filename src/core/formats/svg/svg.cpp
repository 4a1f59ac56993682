#include "formats/svg/svg.h"

#include "artwork/artwork.h"
#include "base/text.h"
#include "formats/page_content.h"

#include <algorithm>
#include <iterator>
#include <map>

namespace yokai {

namespace {

std::string base64(const Bytes& data)
{
    static constexpr char digits[] = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    std::string out;
    out.reserve(data.size() * 4 / 3 + 4);
    for (std::size_t i = 0; i < data.size(); i += 3) {
        const std::uint32_t v = std::uint32_t(data[i]) << 16 | (i + 1 < data.size() ? data[i + 1] << 8 : 0) | (i + 2 < data.size() ? data[i + 2] : 0);
        out += digits[v >> 18];
        out += digits[v >> 12 & 63];
        out += i + 1 < data.size() ? digits[v >> 6 & 63] : '=';
        out += i + 2 < data.size() ? digits[v & 63] : '=';
    }
    return out;
}

void appendPathData(std::string& out, const Path& path)
{
    out += "M" + figure(path.start.x) + " " + figure(path.start.y);
    for (const Segment& s : path.segments) {
        if (s.line)
            out += "L" + figure(s.end.x) + " " + figure(s.end.y);
        else
            out += "C" + figure(s.c1.x) + " " + figure(s.c1.y) + " " + figure(s.c2.x) + " " + figure(s.c2.y) + " " + figure(s.end.x) + " " + figure(s.end.y);
    }
    if (path.closed)
        out += "Z";
}

// A picture to be used at several places.
std::string defined(const std::string& id, const Rgba8& pixels, double width, double height, const Work& work)
{
    return "<image id=\"" + id + "\" width=\"" + figure(width) + "\" height=\"" + figure(height) +
           "\" preserveAspectRatio=\"none\" xlink:href=\"data:image/png;base64," + base64(encodePng(pixels, work)) + "\"/>\n";
}

std::string used(const std::string& id, const std::vector<Affine>& places)
{
    std::string out;
    for (const Affine& m : places)
        out += "<use xlink:href=\"#" + id + "\" transform=\"matrix(" + plainNumber(m.a, 9) + " " + plainNumber(m.b, 9) + " " + plainNumber(m.c, 9) + " " +
               plainNumber(m.d, 9) + " " + figure(m.e) + " " + figure(m.f) + ")\"/>\n";
    return out;
}

// White as white, as dense as the plate is.
Rgba8 asWhite(const Gray8& tint)
{
    Rgba8 out(tint.width(), tint.height());
    std::transform(tint.all().begin(), tint.all().end(), out.all().begin(), [](std::uint8_t t) { return Rgba{255, 255, 255, t}; });
    return out;
}

std::string imagesOf(const Drawing& d, const Work& work)
{
    std::string definitions, white, pictures;
    for (std::size_t i = 0; i < d.white.size(); ++i) {
        const std::string id = "white-" + std::to_string(i + 1);
        definitions += defined(id, asWhite(*d.white[i].plate->tint), d.white[i].plate->width(), d.white[i].plate->height(), work);
        white += used(id, d.white[i].places);
    }
    for (std::size_t i = 0; i < d.images.size(); ++i) {
        const std::string id = "picture-" + std::to_string(i + 1);
        definitions += defined(id, *d.images[i].image.pixels, d.images[i].image.width(), d.images[i].image.height(), work);
        pictures += used(id, d.images[i].places);
    }
    std::string out;
    if (!definitions.empty())
        out += "<defs>\n" + definitions + "</defs>\n";
    if (!white.empty())
        out += "<g id=\"white\">\n" + white + "</g>\n";
    if (!pictures.empty())
        out += "<g id=\"pictures\">\n" + pictures + "</g>\n";
    return out;
}

void appendMarks(std::string& out, const std::vector<Mark>& marks)
{
    if (marks.empty())
        return;
    out += "<g id=\"marks\" fill=\"#000000\">\n";
    for (const Mark& m : marks) {
        if (m.style == MarkStyle::Dots) {
            out += "<circle cx=\"" + figure(m.centre.x) + "\" cy=\"" + figure(m.centre.y) + "\" r=\"" + figure(m.diameter / 2) + "\"/>\n";
            continue;
        }
        for (const Path& path : inkOf(m)) {
            out += "<path fill=\"none\" stroke=\"#000000\" stroke-width=\"" + figure(m.weight) + "\" d=\"";
            appendPathData(out, path);
            out += "\"/>\n";
        }
    }
    out += "</g>\n";
}

// What is burnt: a fill as its outline, all else as black, as dense as it is burnt. One that lies at several places is written once.
std::string engravingsOf(const Drawing& d, const Work& work)
{
    std::string definitions, group;
    const std::vector<DrawnEngraving> all = engravingsOnce(d);
    for (std::size_t k = 0; k < all.size(); ++k) {
        work.check();
        const std::string id = "burn-" + std::to_string(k + 1);
        if (all[k].isFill()) {
            definitions += "<path id=\"" + id + "\" d=\"";
            for (const Polyline& ring : all[k].of->outline)
                appendPathData(definitions, polygonPath(ring));
            definitions += "\"/>\n";
        } else {
            const Gray8& tone = *all[k].of->tone;
            Rgba8 burn(tone.width(), tone.height());
            std::transform(tone.all().begin(), tone.all().end(), burn.all().begin(), [](std::uint8_t t) { return Rgba{0, 0, 0, t}; });
            definitions += defined(id, burn, all[k].width(), all[k].height(), work);
        }
        group += used(id, all[k].places);
    }
    return group.empty() ? std::string() : "<defs>\n" + definitions + "</defs>\n<g id=\"engrave\" fill=\"#000000\" fill-rule=\"evenodd\">\n" + group + "</g>\n";
}

// A group a kind, of those cuts that are wanted.
template <class Wanted> std::string kindGroups(const Drawing& d, const std::string& ending, Wanted wanted, const Work& work)
{
    std::string out;
    for (const LineKind cut : kindsOf(d.cuts)) {
        const LineKindFacts& kind = facts(cut);
        std::string group;
        for (const CutItem& item : d.cuts)
            if (item.kind == kind.kind && wanted(item)) {
                work.check();
                for (const Path& path : cutsOf(item)) {
                    group += "<path d=\"";
                    appendPathData(group, path);
                    group += "\"/>\n";
                }
            }
        if (!group.empty())
            out += std::string("<g id=\"") + kind.svgGroup + ending + "\" fill=\"none\" stroke=\"" + kind.colour + "\" stroke-width=\"" + figure(d.hairline) + "\">\n" + group +
                   "</g>\n";
    }
    return out;
}

// Of layers a group each, from the bottom up, round those of its kinds; of one alone as of none.
std::string cutsIn(const Drawing& d, const Work& work)
{
    if (d.layers.size() < 2)
        return kindGroups(
            d, {}, [](const CutItem&) { return true; }, work);
    std::string out = kindGroups(
        d, {}, [&](const CutItem& item) { return std::none_of(d.layers.begin(), d.layers.end(), [&](const DrawnLayer& l) { return l.holds(item.line); }); }, work);
    for (std::size_t k = 0; k < d.layers.size(); ++k) {
        const std::string label = labelOf(d.layers, k), number = label.substr(0, label.find('-'));
        out += "<g id=\"layer-" + xmlText(label) + "\">\n<title>" + xmlText(d.layers[k].name) + "</title>\n" +
               kindGroups(
                   d, "-" + number, [&](const CutItem& item) { return d.layers[k].holds(item.line); }, work) +
               "</g>\n";
    }
    return out;
}

} // namespace

Bytes writeSvg(const Drawing& d, Content content, const Work& work)
{
    const std::string w = figure(d.width), h = figure(d.height);
    std::string out = "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n"
                      "<svg xmlns=\"http://www.w3.org/2000/svg\" xmlns:xlink=\"http://www.w3.org/1999/xlink\" version=\"1.1\" width=\"" +
                      w + "mm\" height=\"" + h + "mm\" viewBox=\"0 0 " + w + " " + h + "\">\n<title>" + xmlText(d.title) + "</title>\n";
    if (content != Content::Cut)
        out += imagesOf(d, work);
    appendMarks(out, marksFor(d, content));
    if (content != Content::Print)
        out += engravingsOf(d, work) + cutsIn(d, work);
    out += "</svg>\n";
    return {out.begin(), out.end()};
}

std::string svgOfShapes(const CutItems& items, double width, double height)
{
    std::string filled, drawn;
    for (const CutItem& item : items)
        appendPathData(item.path.closed ? filled : drawn, item.path);
    constexpr const char* fine = "0.25"; // mm: a narrow line of ISO 128-2 (from memory)
    const std::string w = figure(width), h = figure(height);
    std::string out = "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"" + w + "mm\" height=\"" + h + "mm\" viewBox=\"0 0 " + w + " " + h + "\">";
    if (!filled.empty())
        out += "<path fill-rule=\"evenodd\" d=\"" + filled + "\"/>";
    if (!drawn.empty())
        out += "<path fill=\"none\" stroke=\"black\" stroke-width=\"" + std::string(fine) + "\" d=\"" + drawn + "\"/>";
    return out + "</svg>";
}

} // namespace yokai
