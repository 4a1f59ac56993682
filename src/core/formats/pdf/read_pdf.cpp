#include "base/error.h"
#include "base/text.h"
#include "formats/cut_file.h"

#include <qpdf/QPDF.hh>
#include <qpdf/QPDFExc.hh>
#include <qpdf/QPDFPageDocumentHelper.hh>
#include <qpdf/QPDFPageObjectHelper.hh>

#include <array>
#include <cctype>
#include <cstdlib>
#include <set>

namespace yokai {

namespace {

using PdfObject = QPDFObjectHandle;

constexpr int deepestForm = 40;
constexpr std::size_t mostPaths = 1'000'000;

bool sameName(std::string_view a, std::string_view b)
{
    return std::equal(a.begin(), a.end(), b.begin(), b.end(),
                      [](char x, char y) { return std::tolower(static_cast<unsigned char>(x)) == std::tolower(static_cast<unsigned char>(y)); });
}

std::optional<LineKind> kindNamed(std::string_view name)
{
    for (const LineKindFacts& k : lineKindTable)
        if (sameName(name, k.spot) || sameName(name, k.svgGroup) || sameName(name, k.dxfLayer))
            return k.kind;
    return std::nullopt;
}

// By what a layer is for a finishing machine (ISO 19593-1, from memory).
std::optional<LineKind> kindOfStep(PdfObject group)
{
    if (!group.isDictionary() || !group.getKey("/GTS_Metadata").isDictionary())
        return std::nullopt;
    PdfObject type = group.getKey("/GTS_Metadata").getKey("/GTS_ProcStepsType");
    static constexpr std::pair<const char*, LineKind> steps[] = {
        {"/Cutting", LineKind::Through}, {"/PartialCutting", LineKind::Kiss}, {"/Perforating", LineKind::Perforate}, {"/Creasing", LineKind::Crease}};
    for (const auto& [name, kind] : steps)
        if (type.isName() && type.getName() == name)
            return kind;
    return std::nullopt;
}

// What a path has from its surroundings.
struct PdfState {
    Affine toMm;
    std::string ink;                     // the separation that strokes
    std::string fillInk;                 // and fills
    std::optional<std::array<int, 3>> rgb; // or the colour
};

struct PdfLayer {
    std::string name;
    std::optional<LineKind> step = std::nullopt;
    bool hidden = false;
    bool printed = false; // by us: a drawing's own paths are no lines to be cut
    bool engraved() const { return sameName(name, "engrave"); }
};

// By whom a layer is, and for what (ISO 32000-1, table 102).
bool isOurArtwork(PdfObject group)
{
    PdfObject usage = group.getKey("/Usage"), creator = usage.isDictionary() ? usage.getKey("/CreatorInfo") : PdfObject::newNull();
    return creator.isDictionary() && creator.getKey("/Creator").isString() && creator.getKey("/Creator").getUTF8Value() == "Yokai" && creator.getKey("/Subtype").isName() &&
           creator.getKey("/Subtype").getName() == "/Artwork";
}

// What all of a page's streams share.
struct PdfPage {
    CutFile& out;
    const Work& work;
    std::set<std::string> left;
    std::set<QPDFObjGen> hidden; // layers that are switched off
    std::vector<PdfLayer> layers;
};

class PdfReader : public PdfObject::ParserCallbacks {
public:
    PdfReader(PdfPage& page, PdfObject resources, const PdfState& state, int depth) : page_(page), resources_(std::move(resources)), state_(state), depth_(depth) {}
    void handleObject(PdfObject object) override
    {
        page_.work.check();
        if (object.isInlineImage()) {
            page_.left.insert("image");
        } else if (object.isOperator()) {
            run(object.getOperatorValue());
            operands_.clear();
        } else if (operands_.size() < 64) {
            operands_.push_back(object);
        }
    }
    void handleEOF() override {}

private:
    double number(std::size_t k) const { return k < operands_.size() && operands_[k].isNumber() ? operands_[k].getNumericValue() : 0; }
    Point place(std::size_t k) const { return state_.toMm({number(k), number(k + 1)}); }
    std::string nameAt(std::size_t k) const { return k < operands_.size() && operands_[k].isName() ? operands_[k].getName() : std::string(); }
    PdfObject resource(const char* of, const std::string& name) const
    {
        return resources_.isDictionary() && resources_.getKey(of).isDictionary() && !name.empty() ? resources_.getKey(of).getKey(name) : PdfObject::newNull();
    }
    void run(const std::string& op)
    {
        if (op == "q")
            saved_.push_back(state_);
        else if (op == "Q" && !saved_.empty()) {
            state_ = saved_.back();
            saved_.pop_back();
        } else if (op == "cm")
            state_.toMm = state_.toMm * Affine{number(0), number(1), number(2), number(3), number(4), number(5)};
        else if (op == "Do")
            draw(resource("/XObject", nameAt(0)));
        else if (op == "Tj" || op == "TJ" || op == "'" || op == "\"")
            page_.left.insert("text");
        else if (op == "sh")
            page_.left.insert("shading");
        else if (op == "BDC" || op == "BMC")
            begin();
        else if (op == "EMC") {
            if (!marked_.empty() && marked_.back())
                page_.layers.pop_back();
            if (!marked_.empty())
                marked_.pop_back();
        } else if (!colour(op) && !build(op))
            paint(op);
    }
    // Optional content is a layer, and so is what is marked by a kind's name, as in our EPS; other marked content is none.
    void begin()
    {
        const std::string tag = nameAt(0).empty() ? std::string() : nameAt(0).substr(1);
        PdfObject group = tag == "OC" ? resource("/Properties", nameAt(1)) : PdfObject::newNull();
        const bool named = kindNamed(tag) || PdfLayer{tag}.engraved();
        marked_.push_back(group.isDictionary() || named);
        if (named)
            page_.layers.push_back({tag});
        if (!group.isDictionary())
            return;
        PdfObject name = group.getKey("/Name");
        page_.layers.push_back({name.isString() ? name.getUTF8Value() : std::string(), kindOfStep(group), page_.hidden.count(group.getObjGen()) > 0, isOurArtwork(group)});
    }
    bool colour(const std::string& op)
    {
        const auto named = [&](const std::string& space) {
            PdfObject s = resource("/ColorSpace", space);
            return s.isArray() && s.getArrayNItems() > 1 && s.getArrayItem(0).isName() && s.getArrayItem(0).getName() == "/Separation" && s.getArrayItem(1).isName()
                       ? s.getArrayItem(1).getName().substr(1)
                       : std::string();
        };
        if (op == "CS") {
            state_.ink = named(nameAt(0));
            state_.rgb.reset();
        } else if (op == "cs")
            state_.fillInk = named(nameAt(0));
        else if (op == "RG" || ((op == "SC" || op == "SCN") && state_.ink.empty() && operands_.size() == 3)) {
            state_.ink.clear();
            state_.rgb = {int(std::lround(number(0) * 255)), int(std::lround(number(1) * 255)), int(std::lround(number(2) * 255))};
        } else if (op == "G" || op == "K") {
            state_.ink.clear();
            state_.rgb.reset();
        } else if (op == "rg" || op == "g" || op == "k")
            state_.fillInk.clear();
        else
            return false;
        return true;
    }
    bool build(const std::string& op)
    {
        if (op == "m") {
            begun_.push_back({});
            begun_.back().closed = false;
            begun_.back().start = place(0);
        } else if (op == "re") {
            Path box;
            const double x = number(0), y = number(1), w = number(2), h = number(3);
            box.start = state_.toMm({x, y});
            for (const Point p : {Point{x + w, y}, {x + w, y + h}, {x, y + h}, {x, y}})
                box.lineTo(state_.toMm(p));
            begun_.push_back(std::move(box));
        } else if (begun_.empty()) {
            return op == "l" || op == "c" || op == "v" || op == "y" || op == "h"; // of nothing
        } else if (op == "l") {
            if (distance(place(0), end()) > 0)
                open().lineTo(place(0));
        } else if (op == "c") {
            open().curveTo(place(0), place(2), place(4), true);
        } else if (op == "v") {
            open().curveTo(end(), place(0), place(2), true);
        } else if (op == "y") {
            open().curveTo(place(0), place(2), place(2), true);
        } else if (op == "h") {
            close();
        } else {
            return false;
        }
        return true;
    }
    Point end() const { return begun_.back().segments.empty() || begun_.back().closed ? begun_.back().start : begun_.back().segments.back().end; }
    // After a closing the next goes on from the start.
    Path& open()
    {
        if (begun_.back().closed) {
            const Point at = begun_.back().start;
            begun_.push_back({});
            begun_.back().closed = false;
            begun_.back().start = at;
        }
        return begun_.back();
    }
    void close()
    {
        Path& path = begun_.back();
        if (path.closed || path.segments.empty())
            return;
        if (distance(path.segments.back().end, path.start) > 0)
            path.lineTo(path.start);
        path.closed = true;
    }
    void paint(const std::string& op)
    {
        if (op == "s" || op == "b" || op == "b*")
            if (!begun_.empty())
                close();
        const bool strokes = op == "S" || op == "s" || op == "B" || op == "B*" || op == "b" || op == "b*", fills = op == "f" || op == "F" || op == "f*";
        if (strokes || fills)
            for (Path& path : begun_)
                add(std::move(path), strokes ? state_.ink : state_.fillInk, fills);
        if (strokes || fills || op == "n")
            begun_.clear();
    }
    bool noLines() const
    {
        return std::any_of(page_.layers.begin(), page_.layers.end(), [](const PdfLayer& layer) { return layer.printed || layer.engraved(); });
    }
    void add(Path path, const std::string& ink, bool filled)
    {
        if (path.segments.empty())
            return;
        if (sameName(ink, "engrave") || noLines())
            return;
        std::optional<LineKind> kind = kindNamed(ink);
        bool marks = ink == "All";
        for (const PdfLayer& layer : page_.layers) {
            if (layer.hidden) {
                page_.left.insert("layer '" + cleanText(layer.name) + "', which is switched off,");
                return;
            }
            marks = marks || sameName(layer.name, "marks");
            if (!kind)
                kind = kindNamed(layer.name);
            if (!kind)
                kind = layer.step;
        }
        if (marks)
            return addMark(page_.out.drawing.marks, path);
        if (filled && !path.closed) {
            if (distance(path.segments.back().end, path.start) > 0)
                path.lineTo(path.start);
            path.closed = true;
        }
        if (page_.out.drawing.cuts.size() >= mostPaths)
            throw Error(ErrorKind::Input, "there are over {} paths on the page; draw it more simply", std::to_string(mostPaths));
        CutItem item;
        item.kind = kind ? *kind : filled ? LineKind::Through : kindOfColour();
        item.path = std::move(path);
        page_.out.drawing.cuts.push_back(std::move(item));
    }
    LineKind kindOfColour() const
    {
        for (const LineKindFacts& k : lineKindTable) {
            const long hex = std::strtol(k.colour + 1, nullptr, 16);
            if (state_.rgb && std::abs((*state_.rgb)[0] - int(hex >> 16)) < 3 && std::abs((*state_.rgb)[1] - int(hex >> 8 & 255)) < 3 &&
                std::abs((*state_.rgb)[2] - int(hex & 255)) < 3)
                return k.kind;
        }
        return LineKind::Through;
    }
    void draw(PdfObject object)
    {
        if (!object.isStream() || noLines())
            return;
        PdfObject dict = object.getDict(), subtype = dict.getKey("/Subtype");
        if (!subtype.isName() || subtype.getName() != "/Form") {
            page_.left.insert("image");
            return;
        }
        if (depth_ >= deepestForm)
            return;
        PdfState state = state_;
        if (PdfObject m = dict.getKey("/Matrix"); m.isArray() && m.getArrayNItems() == 6) {
            double v[6] = {};
            for (int k = 0; k < 6; ++k)
                v[k] = m.getArrayItem(k).isNumber() ? m.getArrayItem(k).getNumericValue() : 0;
            state.toMm = state.toMm * Affine{v[0], v[1], v[2], v[3], v[4], v[5]};
        }
        PdfReader inner(page_, dict.getKey("/Resources").isDictionary() ? dict.getKey("/Resources") : resources_, state, depth_ + 1);
        const std::size_t layers = page_.layers.size();
        object.parseAsContents(&inner);
        page_.layers.resize(layers);
    }

    PdfPage& page_;
    mutable PdfObject resources_;
    PdfState state_;
    int depth_;
    std::vector<PdfState> saved_;
    mutable std::vector<PdfObject> operands_; // qpdf asks by functions that are not const
    std::vector<bool> marked_; // of each marked content, whether it is a layer
    Paths begun_;
};

std::array<double, 4> boxOf(PdfObject box)
{
    std::array<double, 4> v{};
    for (int k = 0; k < 4 && box.isArray() && box.getArrayNItems() == 4; ++k)
        v[std::size_t(k)] = box.getArrayItem(k).isNumber() ? box.getArrayItem(k).getNumericValue() : 0;
    return {std::min(v[0], v[2]), std::min(v[1], v[3]), std::max(v[0], v[2]), std::max(v[1], v[3])};
}

// From the page's units to mm, y down, as it is seen; its size is put into the drawing.
Affine pageToMm(QPDFPageObjectHelper& page, Drawing& drawing)
{
    const auto b = boxOf(page.getCropBox());
    PdfObject unit = page.getObjectHandle().getKey("/UserUnit");
    const double k = 25.4 / 72 * (unit.isNumber() && unit.getNumericValue() > 0 ? unit.getNumericValue() : 1);
    const double w = (b[2] - b[0]) * k, h = (b[3] - b[1]) * k;
    PdfObject turned = page.getAttribute("/Rotate", false);
    const int quarters = turned.isInteger() ? int(((turned.getIntValue() / 90) % 4 + 4) % 4) : 0; // clockwise
    const Affine upright = Affine{k, 0, 0, -k, -b[0] * k, b[3] * k};
    drawing.width = quarters % 2 ? h : w;
    drawing.height = quarters % 2 ? w : h;
    switch (quarters) {
    case 1:
        return Affine{0, 1, -1, 0, h, 0} * upright;
    case 2:
        return Affine{-1, 0, 0, -1, w, h} * upright;
    case 3:
        return Affine{0, -1, 1, 0, 0, w} * upright;
    default:
        return upright;
    }
}

std::set<QPDFObjGen> switchedOff(QPDF& pdf)
{
    std::set<QPDFObjGen> out;
    PdfObject properties = pdf.getRoot().getKey("/OCProperties");
    if (!properties.isDictionary() || !properties.getKey("/D").isDictionary() || !properties.getKey("/D").getKey("/OFF").isArray())
        return out;
    for (PdfObject group : properties.getKey("/D").getKey("/OFF").aitems())
        out.insert(group.getObjGen());
    return out;
}

} // namespace

CutFile readPdf(const Bytes& bytes, const std::string& name, int number, const Work& work)
{
    CutFile out;
    out.unitsAnInch = 72;
    try {
        QPDF pdf;
        pdf.setSuppressWarnings(true);
        pdf.processMemoryFile(name.c_str(), reinterpret_cast<const char*>(bytes.data()), bytes.size());
        std::vector<QPDFPageObjectHelper> pages = QPDFPageDocumentHelper(pdf).getAllPages();
        if (pages.empty())
            throw Error(ErrorKind::Input, "'{}' has no page; save it again as PDF", name);
        if (number < 0 || number >= int(pages.size()))
            throw Error(ErrorKind::Input, "'{}' has {} pages, and page {} is asked for; choose one of them", name, std::to_string(pages.size()), std::to_string(number + 1));
        QPDFPageObjectHelper& wanted = pages[std::size_t(number)];
        PdfPage page{out, work, {}, switchedOff(pdf), {}};
        PdfState state;
        state.toMm = pageToMm(wanted, out.drawing);
        if (!(out.drawing.width > 0 && out.drawing.height > 0))
            throw Error(ErrorKind::Input, "the page of '{}' has no size that makes sense; save it again as PDF", name);
        PdfReader reader(page, wanted.getAttribute("/Resources", false), state, 0);
        wanted.parseContents(&reader);
        out.pages = int(pages.size());
        out.leftOut.assign(page.left.begin(), page.left.end());
        keepWithinReason(out, name);
    } catch (const Error&) {
        throw;
    } catch (const std::exception& e) { // qpdf's own, and what the standard library throws beneath it
        throw Error(ErrorKind::Input, "cannot read '{}': {}; save it again as PDF", name, cleanText(e.what()));
    }
    return out;
}

} // namespace yokai
