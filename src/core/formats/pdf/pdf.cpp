#include "formats/pdf/pdf.h"

#include "base/text.h"
#include "formats/page_content.h"
#include "formats/pdf/drawn.h"
#include "formats/pdf/objects.h"

#include <qpdf/Buffer.hh>
#include <qpdf/QPDFPageDocumentHelper.hh>
#include <qpdf/QPDFPageObjectHelper.hh>
#include <qpdf/QPDFWriter.hh>

#include <algorithm>
#include <cmath>
#include <map>
#include <memory>
#include <optional>
#include <utility>
#include <vector>

namespace yokai {

namespace {

using Object = QPDFObjectHandle;

// What the pages of a file share: each made once.
struct Book {
    QPDF pdf;
    std::map<const void*, Object> images; // by their pixels
    std::map<std::string, Object> inks;   // by their names
    std::vector<std::pair<std::string, Object>> layers;

    Object ink(const std::string& name, const double (&process)[4])
    {
        const auto there = inks.find(name);
        return there != inks.end() ? there->second : inks.emplace(name, pdf::separation(pdf, name, process)).first->second;
    }
    template <class Make> Object image(const void* pixels, Make make)
    {
        const auto there = images.find(pixels);
        return there != images.end() ? there->second : images.emplace(pixels, pdf.makeIndirectObject(make())).first->second;
    }
};

struct Page {
    explicit Page(Book& of) : book(of) {}
    Book& book;
    std::string content;
    Object images = Object::newDictionary(), spaces = Object::newDictionary(), layers = Object::newDictionary();
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

constexpr const char* pictureLayer = "Picture";
constexpr const char* engraveLayer = "Engrave";

// Whose it is, and that it is nothing to be worked on (ISO 32000-1, table 102): where it holds a drawing, that is how its paths are
// told from those that are cut.
Object artworkByUs()
{
    Object creator = Object::newDictionary(), usage = Object::newDictionary();
    creator.replaceKey("/Creator", Object::newString("Yokai"));
    creator.replaceKey("/Subtype", Object::newName("/Artwork"));
    usage.replaceKey("/CreatorInfo", creator);
    return usage;
}

// A layer, which a reader can switch off; the same on every page.
std::size_t layerOf(Book& book, const std::string& title, const std::optional<Step>& step)
{
    for (std::size_t k = 0; k < book.layers.size(); ++k)
        if (book.layers[k].first == title)
            return k;
    Object group = Object::newDictionary();
    group.replaceKey("/Type", Object::newName("/OCG"));
    group.replaceKey("/Name", Object::newUnicodeString(cleanText(title)));
    if (title == pictureLayer)
        group.replaceKey("/Usage", artworkByUs());
    if (step) {
        Object metadata = Object::newDictionary();
        metadata.replaceKey("/GTS_ProcStepsGroup", Object::newName(std::string("/") + step->group));
        if (step->type)
            metadata.replaceKey("/GTS_ProcStepsType", Object::newName(std::string("/") + step->type));
        group.replaceKey("/GTS_Metadata", metadata);
    }
    book.layers.emplace_back(title, book.pdf.makeIndirectObject(group));
    return book.layers.size() - 1;
}

// Puts what was added to the content since `from` on a layer.
void asLayer(Page& page, std::size_t from, const std::string& title, const std::optional<Step>& step = std::nullopt)
{
    if (page.content.size() == from)
        return;
    const std::size_t layer = layerOf(page.book, title, step);
    const std::string name = "/Layer" + std::to_string(layer + 1);
    page.layers.replaceKey(name, page.book.layers[layer].second);
    page.content.insert(from, "/OC " + name + " BDC\n");
    page.content += "EMC\n";
}

// In mm, y down.
void placeForm(Page& page, const std::string& name, const std::vector<Affine>& places)
{
    for (const Affine& t : places)
        page.content += "q " + plainNumber(t.a, 7) + " " + plainNumber(t.b, 7) + " " + plainNumber(t.c, 7) + " " + plainNumber(t.d, 7) + " " + figure(t.e) + " " + figure(t.f) +
                        " cm " + name + " Do Q\n";
}

// What fills the unit square.
void place(Page& page, const std::string& name, double width, double height, std::vector<Affine> places)
{
    for (Affine& m : places)
        m = m * Affine{width, 0, 0, -height, 0, height};
    placeForm(page, name, places);
}

Object tintImage(Book& book, const Gray8& tint, const Object& ink, const Work& work)
{
    const auto w = std::size_t(tint.width());
    Object image = pdf::imageStream(book.pdf, tint.width(), tint.height(), "/DeviceGray",
                                    pdf::deflated(tint.height(), w, [&](int y, unsigned char* to) { std::copy(tint.row(y), tint.row(y) + w, to); }, work));
    image.getDict().replaceKey("/ColorSpace", ink);
    return image;
}

// White lies beneath.
void addWhite(Page& page, const Drawing& d, const Work& work)
{
    const std::size_t from = page.content.size();
    constexpr double noInk[4] = {0, 0, 0, 0}; // what it looks like where it is not known
    for (std::size_t i = 0; i < d.white.size(); ++i) {
        const Plate& plate = *d.white[i].plate;
        const std::string name = "/Wh" + std::to_string(i + 1);
        page.images.replaceKey(name, page.book.image(plate.tint.get(), [&] { return tintImage(page.book, *plate.tint, page.book.ink(d.spots.white, noInk), work); }));
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
    Object form = Object::newStream(&page.book.pdf, pictures);
    form.getDict().replaceKey("/Type", Object::newName("/XObject"));
    form.getDict().replaceKey("/Subtype", Object::newName("/Form"));
    form.getDict().replaceKey("/BBox", box);
    form.getDict().replaceKey("/Group", group);
    form.getDict().replaceKey("/Resources", resources);
    page.images.replaceKey("/Pictures", form);
    page.content += "q /Multiply gs /Pictures Do Q\n";
}

Object pictureOf(QPDF& pdf, const DrawnImage& picture, const SpotNames& spots, const Work& work)
{
    if (picture.vectors)
        if (const std::optional<Object> form = pdf::drawingOf(pdf, *picture.vectors, spots, work))
            return *form;
    return pdf::imageOf(pdf, picture, work);
}

void addImages(Page& page, const Drawing& d, const Work& work)
{
    std::string before;
    std::swap(before, page.content);
    for (std::size_t i = 0; i < d.images.size(); ++i) {
        const PrintImage& image = d.images[i].image;
        work.report(double(i) / double(d.images.size() + 1), "pictures");
        const std::string name = "/Im" + std::to_string(i + 1);
        page.images.replaceKey(name, page.book.image(image.pixels.get(), [&] { return pictureOf(page.book.pdf, d.images[i], d.spots, work); }));
        place(page, name, image.width(), image.height(), d.images[i].places);
    }
    std::string pictures = std::exchange(page.content, std::move(before));
    const std::size_t from = page.content.size();
    if (d.white.empty())
        page.content += pictures;
    else
        overWhite(page, d, pictures);
    asLayer(page, from, pictureLayer);
}

// On every plate there is (ISO 32000-1, 8.6.6.4).
void addMarks(Page& page, const std::vector<Mark>& marks)
{
    if (marks.empty())
        return;
    const std::size_t from = page.content.size();
    constexpr double inAll[4] = {1, 1, 1, 1};
    page.spaces.replaceKey("/CsAll", page.book.ink("All", inAll));
    page.content += "q /CsAll cs 1 scn /CsAll CS 1 SCN " + figure(marks.front().weight) + " w\n";
    appendInk(page.content, marks, "S", "f");
    page.content += "Q\n";
    asLayer(page, from, "Marks");
}

// An outline that is filled, in the ink of whatever draws it.
Object fillForm(QPDF& pdf, const Engraving& engraving)
{
    std::string content;
    for (const Polyline& ring : engraving.outline)
        appendPath(content, polygonPath(ring));
    Object form = Object::newStream(&pdf, content + "f*\n"), box = Object::newArray();
    for (const double v : {engraving.box.x0, engraving.box.y0, engraving.box.x1, engraving.box.y1})
        box.appendItem(Object::newReal(v, 4));
    form.getDict().replaceKey("/Type", Object::newName("/XObject"));
    form.getDict().replaceKey("/Subtype", Object::newName("/Form"));
    form.getDict().replaceKey("/BBox", box);
    return form;
}

// In an ink of its own: a fill as its outline, all else as dense as it is burnt.
void addEngravings(Page& page, const Drawing& d, const Work& work)
{
    const std::vector<DrawnEngraving> all = engravingsOnce(d);
    if (all.empty())
        return;
    const std::size_t from = page.content.size();
    const Object ink = page.book.ink(d.spots.engrave, engraveInk);
    page.spaces.replaceKey("/CsEngrave", ink);
    page.content += "q /Overprint gs /CsEngrave cs 1 scn\n";
    for (std::size_t i = 0; i < all.size(); ++i) {
        const std::string name = "/En" + std::to_string(i + 1);
        const Engraving& engraving = *all[i].of;
        page.images.replaceKey(name, page.book.image(&engraving, [&] {
            return all[i].isFill() ? fillForm(page.book.pdf, engraving) : tintImage(page.book, *engraving.tone, ink, work);
        }));
        if (!all[i].isFill())
            place(page, name, all[i].width(), all[i].height(), all[i].places);
        else
            placeForm(page, name, all[i].places);
    }
    page.content += "Q\n";
    asLayer(page, from, engraveLayer);
}

// All on the layers of their kinds; where there are colour layers, on those.
void addCuts(Page& page, const Drawing& d, const std::optional<std::string>& layer, const Work& work)
{
    for (const LineKind cut : kindsOf(d.cuts)) {
        const LineKindFacts& kind = facts(cut);
        const std::string paths = strokedCuts(d, kind.kind, "S", work);
        if (paths.empty())
            continue;
        const std::string space = std::string("/Cs") + kind.name;
        page.spaces.replaceKey(space, page.book.ink(d.spots.of(kind.kind), kind.ink));
        const std::size_t from = page.content.size();
        page.content += "q /Overprint gs " + space + " CS 1 SCN " + figure(d.hairline) + " w 1 j\n" + paths + "Q\n";
        asLayer(page, from, layer ? *layer + " " + d.spots.of(kind.kind) : d.spots.of(kind.kind), stepOf(kind.kind));
    }
}

void addCuts(Page& page, const Drawing& d, const Work& work)
{
    if (d.layers.size() < 2)
        return addCuts(page, d, std::nullopt, work);
    Drawing part = d;
    part.images.clear();
    part.white.clear();
    const auto inNone = [&](const CutItem& item) { return std::none_of(d.layers.begin(), d.layers.end(), [&](const DrawnLayer& l) { return l.holds(item.line); }); };
    std::erase_if(part.cuts, [&](const CutItem& item) { return !inNone(item); });
    addCuts(page, part, std::nullopt, work);
    for (std::size_t k = 0; k < d.layers.size(); ++k) {
        part.cuts = d.cuts;
        std::erase_if(part.cuts, [&](const CutItem& item) { return !d.layers[k].holds(item.line); });
        addCuts(page, part, labelOf(d.layers, k), work);
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
void listLayers(Book& book)
{
    if (book.layers.empty())
        return;
    std::vector<Object> groups;
    for (const auto& [title, group] : book.layers)
        groups.push_back(group);
    Object seen = Object::newDictionary();
    seen.replaceKey("/Name", Object::newString("Yokai"));
    seen.replaceKey("/BaseState", Object::newName("/ON"));
    seen.replaceKey("/Order", Object::newArray(groups));
    Object all = Object::newDictionary();
    all.replaceKey("/OCGs", Object::newArray(groups));
    all.replaceKey("/D", seen);
    book.pdf.getRoot().replaceKey("/OCProperties", all);
}

// How many 72nds of an inch the page's unit is: 1 unless the page is very long.
double userUnitOf(const Drawing& d)
{
    // A side has at most 14 400 units (ISO 32000-1, annex C); larger pages count in larger ones.
    constexpr double mostUnits = 14'400;
    return std::max(1.0, std::ceil(std::max(d.width, d.height) * pointsPerMm / mostUnits));
}

// All content is in mm with y down; one matrix turns it into the page's units with y up.
void addPage(Book& book, const Drawing& d, Content wanted, const Work& work)
{
    const double userUnit = userUnitOf(d), unitsPerMm = pointsPerMm / userUnit;
    Page made(book);
    made.content = "q\n" + plainNumber(unitsPerMm, 9) + " 0 0 " + plainNumber(-unitsPerMm, 9) + " 0 " + figure(d.height * unitsPerMm) + " cm\n";
    if (wanted != Content::Cut) {
        addWhite(made, d, work);
        addImages(made, d, work);
    }
    addMarks(made, marksFor(d, wanted));
    if (wanted != Content::Print) {
        addEngravings(made, d, work);
        addCuts(made, d, work);
    }
    made.content += "Q\n";
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
    page.replaceKey("/Contents", Object::newStream(&book.pdf, made.content));
    QPDFPageDocumentHelper(book.pdf).addPage(QPDFPageObjectHelper(book.pdf.makeIndirectObject(page)), false);
}

} // namespace

Bytes writePdfOfAll(std::span<const Drawing> sheets, Content wanted, const Work& work)
{
    Book book;
    book.pdf.emptyPDF();
    for (const Drawing& d : sheets)
        addPage(book, d, wanted, work);
    listLayers(book);
    if (wanted != Content::Cut)
        book.pdf.getRoot().replaceKey("/OutputIntents", Object::newArray(std::vector{pdf::outputIntent(book.pdf)}));
    pdf::addMetadata(book.pdf, sheets.empty() ? std::string() : sheets.front().title);
    work.report(0.7, "pages");

    QPDFWriter writer(book.pdf);
    writer.setMinimumPDFVersion("1.6");
    writer.setOutputMemory();
    writer.setDeterministicID(true);
    writer.write();
    const std::unique_ptr<Buffer> buffer(writer.getBuffer());
    work.report(1, "pages");
    return {buffer->getBuffer(), buffer->getBuffer() + buffer->getSize()};
}

Bytes writePdf(const Drawing& d, Content wanted, const Work& work) { return writePdfOfAll(std::span(&d, 1), wanted, work); }

} // namespace yokai
