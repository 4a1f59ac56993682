#include "formats/pdf/pdf.h"

#include <qpdf/Buffer.hh>
#include <qpdf/QPDF.hh>
#include <qpdf/QPDFObjectHandle.hh>
#include <qpdf/QPDFPageDocumentHelper.hh>
#include <qpdf/QPDFPageObjectHelper.hh>
#include <qpdf/QPDFWriter.hh>

#include <array>

namespace yokai {

namespace {

using Object = QPDFObjectHandle;
constexpr double pointsPerMm = 72 / 25.4;

std::string number(double v) { return plainNumber(v, 4); }
std::string pair(Point p) { return number(p.x) + " " + number(p.y) + " "; }

// qpdf writes most bytes of a name safely by itself; a '#' it takes for an escape.
std::string nameText(const std::string& text)
{
    std::string out = "/";
    for (const char c : text)
        out += c == '#' ? std::string("#23") : std::string(1, c);
    return out;
}

Object separation(QPDF& pdf, const std::string& name, const std::array<double, 4>& ink)
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

std::array<double, 4> inkOf(LineKind kind)
{
    switch (kind) {
    case LineKind::Through:
        return {0.75, 0.9, 0, 0};
    case LineKind::Kiss:
        return {0.85, 0, 0.45, 0.1};
    case LineKind::Perforate:
        return {0.5, 0.75, 0, 0};
    case LineKind::Crease:
        return {0, 0.4, 1, 0.15};
    }
    return {0, 0, 0, 1};
}

Object imageStream(QPDF& pdf, int width, int height, const char* space, std::string&& data)
{
    Object image = Object::newStream(&pdf, data);
    Object dict = image.getDict();
    dict.replaceKey("/Type", Object::newName("/XObject"));
    dict.replaceKey("/Subtype", Object::newName("/Image"));
    dict.replaceKey("/Width", Object::newInteger(width));
    dict.replaceKey("/Height", Object::newInteger(height));
    dict.replaceKey("/ColorSpace", Object::newName(space));
    dict.replaceKey("/BitsPerComponent", Object::newInteger(8));
    return image;
}

Object imageOf(QPDF& pdf, const DrawnPicture& picture)
{
    const Rgba8& px = *picture.pixels;
    std::string colour(px.size() * 3, '\0'), alpha(px.size(), '\0');
    const auto opacity = picture.opacity->all();
    for (std::size_t i = 0; i < px.size(); ++i) {
        // Colours under full transparency are not anyone's business: they stay out of the file.
        if (opacity[i] == 0)
            continue;
        const Rgba c = px.all()[i];
        colour[3 * i] = char(c.r);
        colour[3 * i + 1] = char(c.g);
        colour[3 * i + 2] = char(c.b);
        alpha[i] = char(opacity[i]);
    }
    Object image = imageStream(pdf, px.width(), px.height(), "/DeviceRGB", std::move(colour));
    image.getDict().replaceKey("/SMask", imageStream(pdf, px.width(), px.height(), "/DeviceGray", std::move(alpha)));
    return image;
}

void appendPath(std::string& out, const Path& path)
{
    out += pair(path.start) + "m\n";
    for (const Segment& s : path.segments)
        out += s.line ? pair(s.end) + "l\n" : pair(s.c1) + pair(s.c2) + pair(s.end) + "c\n";
    if (path.closed)
        out += "h\n";
}

void appendDisc(std::string& out, const Mark& m)
{
    // Four cubics; the handle length is the usual 4/3 (sqrt 2 - 1).
    const double r = m.diameter / 2, k = r * 0.5522847498;
    const Point c = m.centre;
    Path path;
    path.start = {c.x + r, c.y};
    path.curveTo({c.x + r, c.y + k}, {c.x + k, c.y + r}, {c.x, c.y + r});
    path.curveTo({c.x - k, c.y + r}, {c.x - r, c.y + k}, {c.x - r, c.y});
    path.curveTo({c.x - r, c.y - k}, {c.x - k, c.y - r}, {c.x, c.y - r});
    path.curveTo({c.x + k, c.y - r}, {c.x + r, c.y - k}, path.start);
    appendPath(out, path);
    out += "f\n";
}

} // namespace

std::string spotName(LineKind kind, const std::string& throughSpot)
{
    switch (kind) {
    case LineKind::Through:
        return throughSpot;
    case LineKind::Kiss:
        return "CutKiss";
    case LineKind::Perforate:
        return "CutPerforate";
    case LineKind::Crease:
        return "Crease";
    }
    return throughSpot;
}

Bytes writePdf(const Drawing& d, const PdfOptions& options, const Work& work)
{
    QPDF pdf;
    pdf.emptyPDF();
    Object resources = Object::newDictionary(), images = Object::newDictionary(), spaces = Object::newDictionary();
    // All content is in mm with y down; one matrix turns it into points with y up.
    std::string content = "q\n" + plainNumber(pointsPerMm, 9) + " 0 0 " + plainNumber(-pointsPerMm, 9) + " 0 " + number(d.height * pointsPerMm) + " cm\n";
    if (options.content != Content::Cut)
        for (std::size_t i = 0; i < d.pictures.size(); ++i) {
            const DrawnPicture& picture = d.pictures[i];
            work.report(double(i) / double(d.pictures.size() + 1), "pictures");
            const std::string name = "/Im" + std::to_string(i + 1);
            images.replaceKey(name, imageOf(pdf, picture));
            for (const Affine& m : picture.places) {
                const Affine t = m * Affine{picture.width, 0, 0, -picture.height, 0, picture.height};
                content += "q " + plainNumber(t.a, 7) + " " + plainNumber(t.b, 7) + " " + plainNumber(t.c, 7) + " " + plainNumber(t.d, 7) + " " + number(t.e) +
                           " " + number(t.f) + " cm " + name + " Do Q\n";
            }
        }
    if (!d.marks.empty()) {
        content += "0 0 0 1 k\n";
        for (const Mark& m : d.marks)
            appendDisc(content, m);
    }
    if (options.content != Content::Print)
        for (const LineKind kind : lineKinds) {
            std::string paths;
            for (const DrawnLine& line : d.lines)
                if (line.kind == kind && !line.path.segments.empty()) {
                    appendPath(paths, line.path);
                    paths += "S\n";
                }
            if (paths.empty())
                continue;
            const std::string space = std::string("/Cs") + name(kind);
            spaces.replaceKey(space, separation(pdf, spotName(kind, options.throughSpot), inkOf(kind)));
            content += "q /Overprint gs " + space + " CS 1 SCN 0.0254 w 1 j\n" + paths + "Q\n";
        }
    content += "Q\n";
    work.report(0.7, "pages");

    Object overprint = Object::newDictionary();
    overprint.replaceKey("/Type", Object::newName("/ExtGState"));
    overprint.replaceKey("/OP", Object::newBool(true));
    overprint.replaceKey("/op", Object::newBool(true));
    overprint.replaceKey("/OPM", Object::newInteger(1));
    Object states = Object::newDictionary();
    states.replaceKey("/Overprint", overprint);
    resources.replaceKey("/XObject", images);
    resources.replaceKey("/ColorSpace", spaces);
    resources.replaceKey("/ExtGState", states);

    Object box = Object::newArray();
    for (const double v : {0.0, 0.0, d.width * pointsPerMm, d.height * pointsPerMm})
        box.appendItem(Object::newReal(v, 4));
    Object page = Object::newDictionary();
    page.replaceKey("/Type", Object::newName("/Page"));
    page.replaceKey("/MediaBox", box);
    page.replaceKey("/TrimBox", box.shallowCopy());
    page.replaceKey("/Resources", resources);
    page.replaceKey("/Contents", Object::newStream(&pdf, content));
    QPDFPageDocumentHelper(pdf).addPage(QPDFPageObjectHelper(pdf.makeIndirectObject(page)), false);
    Object info = Object::newDictionary();
    info.replaceKey("/Title", Object::newUnicodeString(d.title));
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
