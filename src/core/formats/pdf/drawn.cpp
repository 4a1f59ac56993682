#include "formats/pdf/drawn.h"

#include "artwork/drawn_page.h"
#include "base/error.h"
#include "base/line_kind.h"
#include "base/text.h"
#include "formats/outside.h"
#include "formats/pdf/objects.h"

#include <qpdf/QPDFMatrix.hh>
#include <qpdf/QPDFPageDocumentHelper.hh>
#include <qpdf/QPDFPageObjectHelper.hh>

#include <algorithm>
#include <map>
#include <set>
#include <string>
#include <vector>

namespace yokai::pdf {

using Object = QPDFObjectHandle;

namespace {

Object groupByItself()
{
    Object group = Object::newDictionary();
    group.replaceKey("/S", Object::newName("/Transparency"));
    group.replaceKey("/I", Object::newBool(true));
    return group;
}

Object boxOf(double width, double height)
{
    Object box = Object::newArray();
    for (const double v : {0.0, 0.0, width, height})
        box.appendItem(Object::newReal(v, 6));
    return box;
}

std::string matrixText(const Affine& m)
{
    std::string out;
    for (const double v : {m.a, m.b, m.c, m.d, m.e, m.f})
        out += plainNumber(v, 9) + " "; // a point is 0.35 mm: to a nanometre over any sheet
    return out;
}

// Whether anything on a page had better not come in as it is: a layer, which a reader may show or not and which belongs to
// the file it is of, an ink with a name that means something to a cutter or a printer of white, letters whose font is not there, or
// what lies in another file.
class Unfit {
public:
    explicit Unfit(const SpotNames& spots) : names_{"/All", "/" + spots.white, "/" + spots.engrave} // All: on every plate, the cut's too
    {
        for (const LineKindFacts& kind : lineKindTable)
            names_.insert({std::string("/") + kind.spot, "/" + spots.of(kind.kind)});
    }
    bool anyIn(Object object, int depth = 0)
    {
        constexpr int deepest = 60;
        if (object.isIndirect() && !seen_.insert(object.getObjGen()).second)
            return false;
        if (depth > deepest)
            return true; // not known, so rather not
        if (object.isArray()) {
            const auto items = object.getArrayAsVector();
            return isInk(items) || std::any_of(items.begin(), items.end(), [&](const Object& o) { return anyIn(o, depth + 1); });
        }
        if (!object.isDictionary() && !object.isStream())
            return false;
        const auto entries = (object.isStream() ? object.getDict() : object).getDictAsMap();
        const bool elsewhere = object.isStream() && (entries.count("/F") || entries.count("/Ref") || entries.count("/OPI"));
        return elsewhere || isLayer(entries) || lacksFont(entries) || std::any_of(entries.begin(), entries.end(), [&](const auto& entry) { return entry.first != "/Parent" && anyIn(entry.second, depth + 1); });
    }

private:
    bool isInk(const std::vector<Object>& items) const
    {
        if (items.size() < 2 || !isName(items[0], {"/Separation", "/DeviceN"}))
            return false;
        const auto inks = Object(items[1]).isArray() ? Object(items[1]).getArrayAsVector() : std::vector{items[1]};
        return std::any_of(inks.begin(), inks.end(), [&](const Object& ink) { return isName(ink, names_); });
    }
    static bool isLayer(const std::map<std::string, Object>& entries)
    {
        const auto type = entries.find("/Type");
        return type != entries.end() && isName(type->second, {"/OCG", "/OCMD"});
    }
    // ISO 32000-1, 9.8: without its file, whoever prints takes a font that he thinks is like it.
    static bool lacksFont(const std::map<std::string, Object>& entries)
    {
        const auto is = [&](const char* key, const std::set<std::string>& names) {
            const auto at = entries.find(key);
            return at != entries.end() && isName(at->second, names);
        };
        if (is("/Type", {"/FontDescriptor"}))
            return !entries.count("/FontFile") && !entries.count("/FontFile2") && !entries.count("/FontFile3");
        return is("/Type", {"/Font"}) && is("/Subtype", {"/Type1", "/MMType1", "/TrueType"}) && !entries.count("/FontDescriptor");
    }
    static bool isName(Object object, const std::set<std::string>& names) { return object.isName() && names.count(object.getName()) > 0; }
    std::set<std::string> names_;
    std::set<QPDFObjGen> seen_;
};

bool hasNotes(Object page)
{
    Object notes = page.getKey("/Annots");
    const auto all = notes.isArray() ? notes.getArrayAsVector() : std::vector<Object>{};
    return std::any_of(all.begin(), all.end(), [](Object note) {
        return note.isDictionary() && !(note.getKey("/Subtype").isName() && note.getKey("/Subtype").getName() == "/Link"); // of which nothing is printed
    });
}

// What a reader shows of it.
Rect seenOf(QPDFPageObjectHelper& page)
{
    const Object::Rectangle media = page.getMediaBox().getArrayAsRectangle(), crop = page.getCropBox().getArrayAsRectangle();
    return {std::max(media.llx, crop.llx), std::max(media.lly, crop.lly), std::min(media.urx, crop.urx), std::min(media.ury, crop.ury)};
}

struct Form {
    Object object;
    Rect box; // where it comes to lie
};

// A page as a form of another file. With names: only where nothing on it is unfit.
std::optional<Form> formOf(QPDF& to, const Bytes& bytes, int number, const SpotNames* spots)
{
    QPDF from;
    from.setSuppressWarnings(true);
    from.setImmediateCopyFrom(true); // it does not outlive this
    from.processMemoryFile("drawing", reinterpret_cast<const char*>(bytes.data()), bytes.size());
    QPDFPageDocumentHelper document(from);
    document.pushInheritedAttributesToPage();
    std::vector<QPDFPageObjectHelper> pages = document.getAllPages();
    if (number < 0 || number >= int(pages.size()))
        return std::nullopt;
    QPDFPageObjectHelper& page = pages[std::size_t(number)];
    if (spots && (hasNotes(page.getObjectHandle()) || Unfit(*spots).anyIn(page.getObjectHandle().getKey("/Resources"))))
        return std::nullopt;
    const Rect seen = seenOf(page);
    if (seen.empty())
        return std::nullopt;
    // Forms are made of what is left when a page is trimmed; a drawing is all that is seen.
    page.getObjectHandle().replaceKey("/TrimBox", Object::newFromRectangle({seen.x0, seen.y0, seen.x1, seen.y1}));
    Object form = to.copyForeignObject(page.getFormXObjectForPage());
    form.getDict().replaceKey("/Group", groupByItself());
    QPDFMatrix turn;
    if (form.getDict().getKey("/Matrix").isMatrix())
        turn = QPDFMatrix(form.getDict().getKey("/Matrix").getArrayAsMatrix());
    const Object::Rectangle box = turn.transformRectangle({seen.x0, seen.y0, seen.x1, seen.y1});
    return Form{form, {box.llx, box.lly, box.urx, box.ury}};
}

std::optional<Bytes> redrawnOf(const Picture& picture, const Work& work)
{
    if (picture.info.format != PictureFormat::Pdf)
        return svgAsPdf(picture, work);
    const std::string page = std::to_string(picture.info.page + 1);
    return pdfByProgram(
               *picture.bytes, ".pdf",
               [&page](const std::string& from, const std::string& to) -> std::vector<std::string> {
                   return {"pdftocairo", "-pdf", "-q", "-r", "600", "-f", page, "-l", page, from, to}; // 600 ppi of what has to be in pixels
               },
               work)
        .pdf;
}

std::optional<Form> asItIsOrRedrawn(QPDF& to, const DrawnVectors& drawn, const SpotNames& spots, const Work& work)
{
    if (drawn.picture.info.format == PictureFormat::Pdf)
        if (auto form = formOf(to, *drawn.picture.bytes, drawn.picture.info.page, &spots))
            return form;
    const std::optional<Bytes> redrawn = redrawnOf(drawn.picture, work);
    return redrawn ? formOf(to, *redrawn, 0, nullptr) : std::nullopt;
}

// A state in which only what is kept is seen.
Object stateOf(QPDF& pdf, const DrawnVectors& drawn, const Work& work)
{
    const Gray8& kept = *drawn.kept;
    const auto w = std::size_t(kept.width());
    Object images = Object::newDictionary(), resources = Object::newDictionary();
    images.replaceKey("/Kept", pdf.makeIndirectObject(imageStream(
                                   pdf, kept.width(), kept.height(), "/DeviceGray",
                                   deflated(kept.height(), w, [&](int y, unsigned char* to) { std::copy(kept.row(y), kept.row(y) + w, to); }, work))));
    resources.replaceKey("/XObject", images);
    Object form = Object::newStream(&pdf, matrixText({drawn.width, 0, 0, -drawn.height, 0, drawn.height}) + "cm /Kept Do\n");
    Object group = groupByItself();
    group.replaceKey("/CS", Object::newName("/DeviceGray"));
    form.getDict().replaceKey("/Type", Object::newName("/XObject"));
    form.getDict().replaceKey("/Subtype", Object::newName("/Form"));
    form.getDict().replaceKey("/BBox", boxOf(drawn.width, drawn.height));
    form.getDict().replaceKey("/Group", group);
    form.getDict().replaceKey("/Resources", resources);
    Object mask = Object::newDictionary();
    mask.replaceKey("/S", Object::newName("/Luminosity"));
    mask.replaceKey("/G", pdf.makeIndirectObject(form));
    Object state = Object::newDictionary();
    state.replaceKey("/SMask", mask);
    return state;
}

} // namespace

std::optional<Object> drawingOf(QPDF& pdf, const DrawnVectors& drawn, const SpotNames& spots, const Work& work)
{
    try {
        const std::optional<Form> page = asItIsOrRedrawn(pdf, drawn, spots, work);
        if (!page)
            return std::nullopt;
        Object forms = Object::newDictionary(), resources = Object::newDictionary();
        forms.replaceKey("/Drawing", page->object);
        resources.replaceKey("/XObject", forms);
        std::string content;
        if (drawn.kept) {
            Object states = Object::newDictionary();
            states.replaceKey("/Kept", stateOf(pdf, drawn, work));
            resources.replaceKey("/ExtGState", states);
            content = "/Kept gs ";
        }
        // From the page, whose lower left corner may lie anywhere, to the picture's pixels and so to mm in the frame.
        const Rect& box = page->box;
        const Affine toSource = Affine::scale(drawn.picture.info.width / box.width(), drawn.picture.info.height / box.height()) * Affine{1, 0, 0, -1, -box.x0, box.y1};
        content += "q " + matrixText(drawn.sourceToMm * toSource) + "cm /Drawing Do Q\n";
        Object form = Object::newStream(&pdf, content);
        Object toUnitSquare = Object::newArray();
        for (const double v : {1 / drawn.width, 0.0, 0.0, -1 / drawn.height, 0.0, 1.0})
            toUnitSquare.appendItem(Object::newReal(v, 12));
        form.getDict().replaceKey("/Type", Object::newName("/XObject"));
        form.getDict().replaceKey("/Subtype", Object::newName("/Form"));
        form.getDict().replaceKey("/BBox", boxOf(drawn.width, drawn.height));
        form.getDict().replaceKey("/Matrix", toUnitSquare);
        form.getDict().replaceKey("/Group", groupByItself());
        form.getDict().replaceKey("/Resources", resources);
        return form;
    } catch (const Error&) {
        throw;
    } catch (const Cancelled&) {
        throw;
    } catch (const std::exception&) { // qpdf's own: a renderer forgives what it does not, and there are the pixels
        return std::nullopt;
    }
}

} // namespace yokai::pdf
