#include "formats/eps/eps.h"

#include "base/text.h"
#include "formats/page_content.h"
#include "outline/contour.h"

#include <zlib.h>

#include <algorithm>
#include <cmath>
#include <new>

namespace yokai {

namespace {

// A string of the language: its own signs are masked, and what is not ASCII is written by its number.
std::string stringOf(const std::string& text)
{
    std::string out = "(";
    for (const char c : cleanText(text)) {
        const auto code = static_cast<unsigned char>(c);
        if (c == '(' || c == ')' || c == '\\')
            out += std::string("\\") + c;
        else if (code < 32 || code > 126) {
            char octal[5];
            std::snprintf(octal, sizeof octal, "\\%03o", unsigned(code));
            out += octal;
        } else {
            out += c;
        }
    }
    return out + ")";
}

std::string ascii85(const Bytes& data)
{
    std::string out;
    std::size_t column = 0;
    const auto put = [&](char c) {
        out += c;
        if (++column % 78 == 0)
            out += '\n';
    };
    for (std::size_t k = 0; k < data.size(); k += 4) {
        const std::size_t count = std::min<std::size_t>(4, data.size() - k);
        std::uint32_t word = 0;
        for (std::size_t i = 0; i < 4; ++i)
            word = word << 8 | (i < count ? data[k + i] : 0);
        if (word == 0 && count == 4) {
            put('z');
            continue;
        }
        char digits[5];
        for (int i = 4; i >= 0; --i, word /= 85)
            digits[i] = char('!' + word % 85);
        for (std::size_t i = 0; i <= count; ++i)
            put(digits[i]);
    }
    return out + "~>\n";
}

Bytes packed(const Bytes& data)
{
    uLongf size = compressBound(uLong(data.size()));
    Bytes out(size);
    if (compress2(out.data(), &size, data.data(), uLong(data.size()), Z_DEFAULT_COMPRESSION) != Z_OK)
        throw std::bad_alloc();
    out.resize(size);
    return out;
}

// Kept whole by the interpreter, to be read again for each copy.
std::string storedStream(const std::string& name, const Bytes& data)
{
    return "/" + name + " currentfile << /Filter [/ASCII85Decode /FlateDecode] >> /ReusableStreamDecode filter\n" + ascii85(packed(data)) + "def\n";
}

Gray8 alphaOf(const Rgba8& pixels)
{
    Gray8 out(pixels.width(), pixels.height());
    std::transform(pixels.all().begin(), pixels.all().end(), out.all().begin(), [](Rgba c) { return c.a; });
    return out;
}

// Half clear within is mixed with white; at the rim, which is cut by the clip, the colours stay what they are.
Bytes coloursOf(const Rgba8& px)
{
    constexpr int half = 128;
    const auto clear = [&](int x, int y) { return x < 0 || y < 0 || x >= px.width() || y >= px.height() || px.at(x, y).a < half; };
    Bytes out;
    out.reserve(px.size() * 3);
    for (int y = 0; y < px.height(); ++y)
        for (int x = 0; x < px.width(); ++x) {
            const Rgba c = px.at(x, y);
            bool rim = false;
            if (c.a < 255)
                for (int j = -1; j <= 1; ++j)
                    for (int i = -1; i <= 1; ++i)
                        rim = rim || clear(x + i, y + j);
            const int a = rim ? 255 : c.a;
            for (const int v : {int(c.r), int(c.g), int(c.b)})
                out.push_back(std::uint8_t((v * a + 255 * (255 - a) + 127) / 255));
        }
    return out;
}

// The outline of what is printed, as procedures: an array of the language holds 65 535 things at most.
std::string clipOf(const std::string& name, const Rgba8& pixels, const Affine& toMm, const Work& work)
{
    constexpr std::size_t pointsAProcedure = 10'000;
    std::string out, names;
    std::size_t points = pointsAProcedure, procedures = 0;
    for (const Contour& c : traceEdge(alphaOf(pixels), work))
        for (std::size_t k = 0; k < c.points.size(); ++k) {
            if (points >= pointsAProcedure) {
                const std::string part = name + "." + std::to_string(++procedures);
                out += (procedures > 1 ? "} bind def\n/" : "/") + part + " {\n";
                names += part + " ";
                points = 0;
            }
            out += pair({c.points[k].x * toMm.a, c.points[k].y * toMm.d}) + (k == 0 ? "m" : "l") + (k + 1 == c.points.size() ? " h\n" : "\n");
            ++points;
        }
    if (procedures > 0)
        out += "} bind def\n";
    return out + "/" + name + " { newpath " + names + "eoclip newpath } bind def\n";
}

std::string matrix(const Affine& m)
{
    return "[" + plainNumber(m.a, 8) + " " + plainNumber(m.b, 8) + " " + plainNumber(m.c, 8) + " " + plainNumber(m.d, 8) + " " + figure(m.e) + " " + figure(m.f) + "] concat ";
}

std::string spaceOf(const std::string& name, const double (&ink)[4])
{
    std::string tint;
    for (int k = 0; k < 4; ++k)
        tint += k < 3 ? "dup " + plainNumber(ink[k], 3) + " mul exch " : plainNumber(ink[k], 3) + " mul ";
    return "[/Separation " + stringOf(name) + " cvn /DeviceCMYK {" + tint + "}] setcolorspace ";
}

void appendImage(std::string& out, const std::string& name, int width, int height, double wide, double high, const std::vector<Affine>& places, const std::string& space,
                 bool clipped, int components)
{
    const std::string decode = components == 3 ? "[0 1 0 1 0 1]" : "[0 1]";
    for (const Affine& place : places)
        out += "gsave " + matrix(place) + (clipped ? name + "c " : "") + space + figure(wide) + " " + figure(high) + " scale " + name + " 0 setfileposition << /ImageType 1 /Width " +
               std::to_string(width) + " /Height " + std::to_string(height) + " /BitsPerComponent 8 /Decode " + decode + " /ImageMatrix [" + std::to_string(width) + " 0 0 " +
               std::to_string(height) + " 0 0] /DataSource " + name + " /Interpolate true >> image grestore\n";
}

void addImages(std::string& out, const Drawing& d, const Work& work)
{
    constexpr double noInk[4] = {0, 0, 0, 0};
    for (std::size_t k = 0; k < d.white.size(); ++k) {
        const Plate& plate = *d.white[k].plate;
        const std::string name = "White" + std::to_string(k + 1);
        out += storedStream(name, {plate.tint->all().begin(), plate.tint->all().end()});
        appendImage(out, name, plate.tint->width(), plate.tint->height(), plate.width(), plate.height(), d.white[k].places, spaceOf(d.spots.white, noInk), false, 1);
    }
    for (std::size_t k = 0; k < d.images.size(); ++k) {
        work.report(double(k) / double(d.images.size()), "pictures");
        const PrintImage& image = d.images[k].image;
        const std::string name = "Picture" + std::to_string(k + 1);
        out += clipOf(name + "c", *image.pixels, image.toMm, work) + storedStream(name, coloursOf(*image.pixels));
        appendImage(out, name, image.pixels->width(), image.pixels->height(), image.width(), image.height(), d.images[k].places, "/DeviceRGB setcolorspace ", true, 3);
    }
}

// What something is, whatever its ink is called, for what makes a PDF of it: marked content (ISO 32000-1, 14.6).
std::string begun(const std::string& tag) { return "[/" + tag + " /BMC mark_\n"; }
constexpr const char* ended = "[/EMC mark_\n";

// In an ink of its own: a fill as its outline, all else as dense as it is burnt.
void addEngravings(std::string& out, const Drawing& d, const Work& work)
{
    const std::vector<DrawnEngraving> all = engravingsOnce(d);
    const std::string ink = spaceOf(d.spots.engrave, engraveInk);
    out += begun("Engrave");
    for (std::size_t k = 0; k < all.size(); ++k) {
        work.check();
        const Engraving& engraving = *all[k].of;
        if (!all[k].isFill()) {
            const std::string name = "Engrave" + std::to_string(k + 1);
            out += storedStream(name, {engraving.tone->all().begin(), engraving.tone->all().end()});
            appendImage(out, name, engraving.tone->width(), engraving.tone->height(), all[k].width(), all[k].height(), all[k].places, ink, false, 1);
            continue;
        }
        for (const Affine& at : all[k].places) {
            out += "gsave " + matrix(at) + ink + "1 setcolor newpath\n";
            for (const Polyline& ring : engraving.outline)
                appendPath(out, polygonPath(ring));
            out += "eofill grestore\n";
        }
    }
    out += ended;
}

void addMarks(std::string& out, const std::vector<Mark>& marks)
{
    if (marks.empty())
        return;
    out += "[/Separation /All /DeviceCMYK {dup dup dup}] setcolorspace 1 setcolor " + figure(marks.front().weight) + " setlinewidth\n";
    appendInk(out, marks, "stroke", "fill");
}

} // namespace

Bytes writeEps(const Drawing& d, Content content, const Work& work)
{
    const double wide = d.width * pointsPerMm, high = d.height * pointsPerMm;
    std::string body, inks, names;
    if (content != Content::Cut)
        addImages(body, d, work);
    if (content != Content::Cut && !d.white.empty()) {
        names += " " + stringOf(d.spots.white);
        inks += "%%+ 0 0 0 0 " + stringOf(d.spots.white) + "\n";
    }
    addMarks(body, marksFor(d, content));
    if (content != Content::Print && !d.engravings.empty()) {
        addEngravings(body, d, work);
        names += " " + stringOf(d.spots.engrave);
        inks += "%%+ 0 0 0 1 " + stringOf(d.spots.engrave) + "\n";
    }
    for (const LineKind cut : kindsOf(d.cuts)) {
        const LineKindFacts& kind = facts(cut);
        const std::string lines = content == Content::Print ? std::string() : strokedCuts(d, kind.kind, "stroke", work);
        if (lines.empty())
            continue;
        body += begun(kind.spot) + spaceOf(d.spots.of(kind.kind), kind.ink) + "1 setcolor " + figure(d.hairline) + " setlinewidth 1 setlinejoin\n" + lines + ended;
        names += " " + stringOf(d.spots.of(kind.kind));
        inks += "%%+";
        for (const double v : kind.ink)
            inks += " " + plainNumber(v, 3);
        inks += " " + stringOf(d.spots.of(kind.kind)) + "\n";
    }
    if (!inks.empty())
        inks.replace(0, 3, "%%CMYKCustomColor:");
    // In whole points that hold it all; what 63.5 mm is more than 180 points in binary is nothing.
    const auto whole = [](double points) { return std::to_string(int(std::ceil(points - 1e-6))); };
    std::string out = "%!PS-Adobe-3.0 EPSF-3.0\n%%Creator: Yokai\n%%Title: " + stringOf(d.title) + "\n%%LanguageLevel: 3\n%%BoundingBox: 0 0 " +
                      whole(wide) + " " + whole(high) + "\n%%HiResBoundingBox: 0 0 " + plainNumber(wide, 4) + " " +
                      plainNumber(high, 4) + "\n" + (names.empty() ? "" : "%%DocumentCustomColors:" + names + "\n") + inks +
                      "%%EndComments\n%%BeginProlog\n40 dict begin\n/m {moveto} bind def /l {lineto} bind def /c {curveto} bind def /h {closepath} bind def\n"
                      "/mark_ systemdict /pdfmark known {{pdfmark}} {{cleartomark}} ifelse bind def\n%%EndProlog\n"
                      "%%Page: 1 1\ngsave true setoverprint\n" +
                      matrix({pointsPerMm, 0, 0, -pointsPerMm, 0, high}) + "\n" + body + "grestore\nend\nshowpage\n%%EOF\n";
    return {out.begin(), out.end()};
}

} // namespace yokai
