#include "formats/pdf/pdf.h"

#include "base/text.h"

#include <qpdf/Buffer.hh>
#include <qpdf/QPDF.hh>
#include <qpdf/QPDFObjectHandle.hh>
#include <qpdf/QPDFPageDocumentHelper.hh>
#include <qpdf/QPDFPageObjectHelper.hh>
#include <qpdf/QPDFWriter.hh>

#include <lcms2.h>
#include <zlib.h>

#include <algorithm>
#include <cmath>
#include <memory>
#include <new>
#include <optional>
#include <utility>
#include <vector>

namespace yokai {

namespace {

using Object = QPDFObjectHandle;
constexpr double pointsPerMm = 72 / 25.4;

// qpdf writes most bytes of a name safely by itself; a '#' it takes for an escape.
std::string nameText(const std::string& text)
{
    std::string out = "/";
    for (const char c : text)
        out += c == '#' ? std::string("#23") : std::string(1, c);
    return out;
}

Object separation(QPDF& pdf, const std::string& name, const double (&ink)[4])
{
    Object tint = Object::newDictionary();
    tint.replaceKey("/FunctionType", Object::newInteger(2));
    tint.replaceKey("/Domain", Object::newArray(std::vector{Object::newInteger(0), Object::newInteger(1)}));
    tint.replaceKey("/N", Object::newInteger(1));
    Object none = Object::newArray(), full = Object::newArray();
    for (const double v : ink) {
        none.appendItem(Object::newInteger(0));
        full.appendItem(Object::newReal(v, 2));
    }
    tint.replaceKey("/C0", none);
    tint.replaceKey("/C1", full);
    return pdf.makeIndirectObject(
        Object::newArray(std::vector{Object::newName("/Separation"), Object::newName(nameText(name)), Object::newName("/DeviceCMYK"), tint}));
}

// Rows of bytes packed as they come (zlib), so that the whole is never held unpacked and a
// stop is obeyed between two rows.
template <class Row> std::string deflated(int rows, std::size_t bytesARow, Row row, const Work& work)
{
    z_stream z{};
    if (deflateInit(&z, Z_DEFAULT_COMPRESSION) != Z_OK)
        throw std::bad_alloc();
    const struct End {
        z_stream& z;
        ~End() { deflateEnd(&z); }
    } end{z};
    std::string out;
    std::vector<unsigned char> line(bytesARow), buffer(std::size_t(1) << 16);
    for (int y = 0; y < rows; ++y) {
        work.check();
        row(y, line.data());
        z.next_in = line.data();
        z.avail_in = unsigned(line.size());
        do {
            z.next_out = buffer.data();
            z.avail_out = unsigned(buffer.size());
            deflate(&z, y + 1 == rows ? Z_FINISH : Z_NO_FLUSH);
            out.append(reinterpret_cast<const char*>(buffer.data()), buffer.size() - z.avail_out);
        } while (z.avail_out == 0);
    }
    return out;
}

Object imageStream(QPDF& pdf, int width, int height, const char* space, const std::string& packed)
{
    Object image = Object::newStream(&pdf, packed);
    Object dict = image.getDict();
    dict.replaceKey("/Type", Object::newName("/XObject"));
    dict.replaceKey("/Subtype", Object::newName("/Image"));
    dict.replaceKey("/Width", Object::newInteger(width));
    dict.replaceKey("/Height", Object::newInteger(height));
    dict.replaceKey("/ColorSpace", Object::newName(space));
    dict.replaceKey("/BitsPerComponent", Object::newInteger(8));
    dict.replaceKey("/Filter", Object::newName("/FlateDecode"));
    return image;
}

constexpr const char* deviceOf(int channels) { return channels == 1 ? "/DeviceGray" : channels == 3 ? "/DeviceRGB" : "/DeviceCMYK"; }

// By the profile the picture came with.
Object spaceOf(QPDF& pdf, int channels, const Bytes& profile)
{
    if (profile.empty())
        return Object::newName(deviceOf(channels));
    Object stream = Object::newStream(&pdf, std::string(profile.begin(), profile.end()));
    stream.getDict().replaceKey("/N", Object::newInteger(channels));
    stream.getDict().replaceKey("/Alternate", Object::newName(deviceOf(channels)));
    return pdf.makeIndirectObject(Object::newArray(std::vector{Object::newName("/ICCBased"), stream}));
}

Object packedImage(QPDF& pdf, const Rgba8& px, int channels, const Work& work)
{
    const auto w = std::size_t(px.width());
    return imageStream(pdf, px.width(), px.height(), deviceOf(channels),
                       deflated(
                           px.height(), std::size_t(channels) * w,
                           [&](int y, unsigned char* to) {
                               for (const Rgba *c = px.row(y), *last = c + w; c != last; ++c) {
                                   *to++ = c->r;
                                   *to++ = c->g;
                                   *to++ = c->b;
                                   if (channels == 4)
                                       *to++ = c->a;
                               }
                           },
                           work));
}

// A JPEG's own bytes. Programs that write the Adobe marker store inks the other way round (common practice).
Object jpegImage(QPDF& pdf, const Picture& picture)
{
    const JpegFacts jpeg = jpegFacts(picture);
    Object image = imageStream(pdf, picture.info.width, picture.info.height, deviceOf(jpeg.channels), std::string(picture.bytes->begin(), picture.bytes->end()));
    image.getDict().replaceKey("/Filter", Object::newName("/DCTDecode"));
    image.getDict().replaceKey("/ColorSpace", spaceOf(pdf, jpeg.channels, jpeg.profile));
    if (jpeg.inverted) {
        Object decode = Object::newArray();
        for (int k = 0; k < 2 * jpeg.channels; ++k)
            decode.appendItem(Object::newInteger(k % 2 ? 0 : 1));
        image.getDict().replaceKey("/Decode", decode);
    }
    return image;
}

Object imageOf(QPDF& pdf, const DrawnImage& drawn, const Work& work)
{
    const Rgba8& px = *drawn.image.pixels;
    const auto w = std::size_t(px.width());
    const std::string alpha = deflated(
        px.height(), w, [&](int y, unsigned char* to) { std::transform(px.row(y), px.row(y) + w, to, [](Rgba c) { return c.a; }); }, work);
    Object image;
    if (drawn.asItCame) {
        image = jpegImage(pdf, *drawn.asItCame);
    } else if (drawn.own) {
        image = packedImage(pdf, *drawn.own->pixels, drawn.own->channels, work);
        image.getDict().replaceKey("/ColorSpace", spaceOf(pdf, drawn.own->channels, drawn.own->profile));
    } else {
        image = packedImage(pdf, px, 3, work);
    }
    image.getDict().replaceKey("/SMask", imageStream(pdf, px.width(), px.height(), "/DeviceGray", alpha));
    return image;
}

void appendMark(std::string& out, const Mark& m)
{
    for (const Path& path : inkOf(m)) {
        appendPath(out, path);
        out += path.closed ? "f\n" : "S\n";
    }
}

// What a page is made of.
struct Page {
    explicit Page(QPDF& file) : pdf(file) {}
    QPDF& pdf;
    std::string content;
    Object images = Object::newDictionary(), spaces = Object::newDictionary(), layers = Object::newDictionary();
    std::vector<Object> groups; // the layers, in the order they lie
};

// What a layer is for a finishing machine, in the words of ISO 19593-1 (processing steps), from memory: the standard
// itself is not at hand.
struct Step {
    const char* group;
    const char* type; // null: it has none
};
Step stepOf(LineKind kind)
{
    switch (kind) {
    case LineKind::Through:
        return {"Structural", "Cutting"};
    case LineKind::Kiss:
        return {"Structural", "PartialCutting"};
    case LineKind::Perforate:
        return {"Structural", "Perforating"};
    case LineKind::Crease:
        return {"Structural", "Creasing"};
    }
    return {"Structural", nullptr};
}

// Puts what was added to the content since `from` on a layer of its own, which a reader can switch off.
void asLayer(Page& page, std::size_t from, const std::string& title, std::optional<Step> step = std::nullopt)
{
    if (page.content.size() == from)
        return;
    Object group = Object::newDictionary();
    group.replaceKey("/Type", Object::newName("/OCG"));
    group.replaceKey("/Name", Object::newUnicodeString(cleanText(title)));
    if (step) {
        Object metadata = Object::newDictionary();
        metadata.replaceKey("/GTS_ProcStepsGroup", Object::newName(std::string("/") + step->group));
        if (step->type)
            metadata.replaceKey("/GTS_ProcStepsType", Object::newName(std::string("/") + step->type));
        group.replaceKey("/GTS_Metadata", metadata);
    }
    page.groups.push_back(page.pdf.makeIndirectObject(group));
    const std::string name = "/Layer" + std::to_string(page.groups.size());
    page.layers.replaceKey(name, page.groups.back());
    page.content.insert(from, "/OC " + name + " BDC\n");
    page.content += "EMC\n";
}

void place(Page& page, const std::string& name, double width, double height, const std::vector<Affine>& places)
{
    for (const Affine& m : places) {
        const Affine t = m * Affine{width, 0, 0, -height, 0, height};
        page.content += "q " + plainNumber(t.a, 7) + " " + plainNumber(t.b, 7) + " " + plainNumber(t.c, 7) + " " + plainNumber(t.d, 7) + " " + figure(t.e) + " " +
                        figure(t.f) + " cm " + name + " Do Q\n";
    }
}

// White lies beneath.
void addWhite(Page& page, const Drawing& d, const Work& work)
{
    constexpr double noInk[4] = {0, 0, 0, 0}; // what it looks like where it is not known
    const std::size_t from = page.content.size();
    Object space;
    for (std::size_t i = 0; i < d.white.size(); ++i) {
        const Plate& plate = *d.white[i].plate;
        const auto w = std::size_t(plate.tint->width());
        const std::string tint = deflated(
            plate.tint->height(), w, [&](int y, unsigned char* to) { std::copy(plate.tint->row(y), plate.tint->row(y) + w, to); }, work);
        if (i == 0)
            space = separation(page.pdf, d.spots.white, noInk);
        Object image = imageStream(page.pdf, plate.tint->width(), plate.tint->height(), "/DeviceGray", tint);
        image.getDict().replaceKey("/ColorSpace", space);
        const std::string name = "/Wh" + std::to_string(i + 1);
        page.images.replaceKey(name, image);
        place(page, name, plate.width(), plate.height(), d.white[i].places);
    }
    asLayer(page, from, d.spots.white, Step{"White", nullptr});
}

// All that is printed over white, put together by itself and then multiplied onto the page: in process inks nothing
// lies there yet, and a spot ink that is not named is left as it is (ISO 32000-1, 11.7.4), where otherwise it would be
// knocked out.
void overWhite(Page& page, const Drawing& d, const std::string& pictures)
{
    Object group = Object::newDictionary();
    group.replaceKey("/S", Object::newName("/Transparency"));
    group.replaceKey("/CS", Object::newName("/DeviceRGB"));
    group.replaceKey("/I", Object::newBool(true));
    Object box = Object::newArray();
    for (const double v : {0.0, 0.0, d.width, d.height})
        box.appendItem(Object::newReal(v, 4));
    Object resources = Object::newDictionary();
    resources.replaceKey("/XObject", page.images.shallowCopy());
    Object form = Object::newStream(&page.pdf, pictures);
    form.getDict().replaceKey("/Type", Object::newName("/XObject"));
    form.getDict().replaceKey("/Subtype", Object::newName("/Form"));
    form.getDict().replaceKey("/BBox", box);
    form.getDict().replaceKey("/Group", group);
    form.getDict().replaceKey("/Resources", resources);
    page.images.replaceKey("/Pictures", form);
    page.content += "q /Multiply gs /Pictures Do Q\n";
}

void addImages(Page& page, const Drawing& d, const Work& work)
{
    std::string before;
    std::swap(before, page.content);
    for (std::size_t i = 0; i < d.images.size(); ++i) {
        const PrintImage& image = d.images[i].image;
        work.report(double(i) / double(d.images.size() + 1), "pictures");
        const std::string name = "/Im" + std::to_string(i + 1);
        page.images.replaceKey(name, imageOf(page.pdf, d.images[i], work));
        place(page, name, image.width(), image.height(), d.images[i].places);
    }
    std::string pictures = std::exchange(page.content, std::move(before));
    const std::size_t from = page.content.size();
    if (d.white.empty())
        page.content += pictures;
    else
        overWhite(page, d, pictures);
    asLayer(page, from, "Picture");
}

// On every plate there is (ISO 32000-1, 8.6.6.4).
void addMarks(Page& page, const std::vector<Mark>& marks)
{
    if (marks.empty())
        return;
    const std::size_t from = page.content.size();
    constexpr double inAll[4] = {1, 1, 1, 1};
    page.spaces.replaceKey("/CsAll", separation(page.pdf, "All", inAll));
    page.content += "q /CsAll cs 1 scn /CsAll CS 1 SCN " + figure(marks.front().weight) + " w\n";
    for (const Mark& m : marks)
        appendMark(page.content, m);
    page.content += "Q\n";
    asLayer(page, from, "Marks");
}

void addCuts(Page& page, const Drawing& d, const Work& work)
{
    for (const LineKindFacts& kind : lineKindTable) {
        std::string paths;
        for (const CutItem& item : d.cuts)
            if (item.kind == kind.kind) {
                work.check();
                for (const Path& path : cutsOf(item)) {
                    appendPath(paths, path);
                    paths += "S\n";
                }
            }
        if (paths.empty())
            continue;
        const std::string space = std::string("/Cs") + kind.name;
        page.spaces.replaceKey(space, separation(page.pdf, d.spots.of(kind.kind), kind.ink));
        const std::size_t from = page.content.size();
        page.content += "q /Overprint gs " + space + " CS 1 SCN " + figure(d.hairline) + " w 1 j\n" + paths + "Q\n";
        asLayer(page, from, d.spots.of(kind.kind), stepOf(kind.kind));
    }
}

Object resourcesOf(const Page& page)
{
    Object overprint = Object::newDictionary();
    overprint.replaceKey("/Type", Object::newName("/ExtGState"));
    overprint.replaceKey("/OP", Object::newBool(true));
    overprint.replaceKey("/op", Object::newBool(true));
    overprint.replaceKey("/OPM", Object::newInteger(1));
    Object states = Object::newDictionary();
    states.replaceKey("/Overprint", overprint);
    Object multiply = Object::newDictionary();
    multiply.replaceKey("/Type", Object::newName("/ExtGState"));
    multiply.replaceKey("/BM", Object::newName("/Multiply"));
    states.replaceKey("/Multiply", multiply);
    Object resources = Object::newDictionary();
    resources.replaceKey("/XObject", page.images);
    resources.replaceKey("/ColorSpace", page.spaces);
    resources.replaceKey("/ExtGState", states);
    resources.replaceKey("/Properties", page.layers);
    return resources;
}

// All layers are seen at first.
void listLayers(Page& page)
{
    if (page.groups.empty())
        return;
    Object seen = Object::newDictionary();
    seen.replaceKey("/Name", Object::newString("Yokai"));
    seen.replaceKey("/BaseState", Object::newName("/ON"));
    seen.replaceKey("/Order", Object::newArray(page.groups));
    Object all = Object::newDictionary();
    all.replaceKey("/OCGs", Object::newArray(page.groups));
    all.replaceKey("/D", seen);
    page.pdf.getRoot().replaceKey("/OCProperties", all);
}

// sRGB, in which what is written without a profile of its own is to be understood.
void addOutputIntent(QPDF& pdf)
{
    const std::unique_ptr<void, decltype(&cmsCloseProfile)> profile(cmsCreate_sRGBProfile(), cmsCloseProfile);
    cmsUInt32Number size = 0;
    if (!profile || !cmsSaveProfileToMem(profile.get(), nullptr, &size))
        throw std::bad_alloc();
    std::string bytes(size, 0);
    cmsSaveProfileToMem(profile.get(), bytes.data(), &size);
    // The day it was made and the digest over it are no part of what it says; the same job gives the same bytes.
    constexpr std::size_t date = 24, dateLength = 12, digest = 84, digestLength = 16;
    bytes.replace(date, dateLength, std::string("\x07\xea\0\x01\0\x01\0\0\0\0\0\0", dateLength));
    bytes.replace(digest, digestLength, std::string(digestLength, '\0'));
    Object stream = Object::newStream(&pdf, bytes);
    stream.getDict().replaceKey("/N", Object::newInteger(3));
    Object intent = Object::newDictionary();
    intent.replaceKey("/Type", Object::newName("/OutputIntent"));
    intent.replaceKey("/S", Object::newName("/GTS_PDFX"));
    intent.replaceKey("/OutputConditionIdentifier", Object::newString("sRGB"));
    intent.replaceKey("/RegistryName", Object::newString("http://www.color.org"));
    intent.replaceKey("/Info", Object::newString("sRGB IEC61966-2.1"));
    intent.replaceKey("/DestOutputProfile", stream);
    pdf.getRoot().replaceKey("/OutputIntents", Object::newArray(std::vector{pdf.makeIndirectObject(intent)}));
}

// How many 72nds of an inch the page's unit is: 1 unless the page is very long.
double userUnitOf(const Drawing& d)
{
    // A side has at most 14 400 units (ISO 32000-1, annex C); larger pages count in larger ones.
    constexpr double mostUnits = 14'400;
    return std::max(1.0, std::ceil(std::max(d.width, d.height) * pointsPerMm / mostUnits));
}

} // namespace

Bytes writePdf(const Drawing& d, Content wanted, const Work& work)
{
    QPDF pdf;
    pdf.emptyPDF();
    const double userUnit = userUnitOf(d), unitsPerMm = pointsPerMm / userUnit;
    Page made(pdf);
    // All content is in mm with y down; one matrix turns it into the page's units with y up.
    made.content = "q\n" + plainNumber(unitsPerMm, 9) + " 0 0 " + plainNumber(-unitsPerMm, 9) + " 0 " + figure(d.height * unitsPerMm) + " cm\n";
    if (wanted != Content::Cut) {
        addWhite(made, d, work);
        addImages(made, d, work);
    }
    addMarks(made, marksFor(d, wanted));
    if (wanted != Content::Print)
        addCuts(made, d, work);
    made.content += "Q\n";
    listLayers(made);
    if (wanted != Content::Cut)
        addOutputIntent(pdf);
    work.report(0.7, "pages");

    Object box = Object::newArray();
    for (const double v : {0.0, 0.0, d.width * unitsPerMm, d.height * unitsPerMm})
        box.appendItem(Object::newReal(v, 4));
    Object page = Object::newDictionary();
    page.replaceKey("/Type", Object::newName("/Page"));
    page.replaceKey("/MediaBox", box);
    page.replaceKey("/TrimBox", box.shallowCopy());
    page.replaceKey("/BleedBox", box.shallowCopy());
    if (userUnit > 1)
        page.replaceKey("/UserUnit", Object::newReal(userUnit, 0));
    page.replaceKey("/Resources", resourcesOf(made));
    page.replaceKey("/Contents", Object::newStream(&pdf, made.content));
    QPDFPageDocumentHelper(pdf).addPage(QPDFPageObjectHelper(pdf.makeIndirectObject(page)), false);
    Object info = Object::newDictionary();
    info.replaceKey("/Title", Object::newUnicodeString(cleanText(d.title)));
    info.replaceKey("/Creator", Object::newString("Yokai"));
    pdf.getTrailer().replaceKey("/Info", pdf.makeIndirectObject(info));

    QPDFWriter writer(pdf);
    writer.setMinimumPDFVersion("1.6");
    writer.setOutputMemory();
    writer.setDeterministicID(true);
    writer.write();
    const std::unique_ptr<Buffer> buffer(writer.getBuffer());
    work.report(1, "pages");
    return {buffer->getBuffer(), buffer->getBuffer() + buffer->getSize()};
}

} // namespace yokai
