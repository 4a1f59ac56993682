#include "formats/svg/svg.h"

#include "artwork/artwork.h"
#include "base/text.h"

namespace yokai {

namespace {

std::string escaped(const std::string& text)
{
    std::string out;
    for (const char c : cleanText(text))
        switch (c) {
        case '&':
            out += "&amp;";
            break;
        case '<':
            out += "&lt;";
            break;
        case '>':
            out += "&gt;";
            break;
        case '"':
            out += "&quot;";
            break;
        default:
            out += c;
        }
    return out;
}

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

} // namespace

Bytes writeSvg(const Drawing& d, Content content, const Work& work)
{
    const std::string w = figure(d.width), h = figure(d.height);
    std::string out = "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n"
                      "<svg xmlns=\"http://www.w3.org/2000/svg\" xmlns:xlink=\"http://www.w3.org/1999/xlink\" version=\"1.1\" width=\"" +
                      w + "mm\" height=\"" + h + "mm\" viewBox=\"0 0 " + w + " " + h + "\">\n<title>" + escaped(d.title) + "</title>\n";
    if (content != Content::Cut && !d.images.empty()) {
        out += "<defs>\n";
        for (std::size_t i = 0; i < d.images.size(); ++i) {
            const PrintImage& image = d.images[i].image;
            out += "<image id=\"picture-" + std::to_string(i + 1) + "\" width=\"" + figure(image.width()) + "\" height=\"" + figure(image.height()) +
                   "\" preserveAspectRatio=\"none\" xlink:href=\"data:image/png;base64," + base64(encodePng(*image.pixels, work)) + "\"/>\n";
        }
        out += "</defs>\n<g id=\"pictures\">\n";
        for (std::size_t i = 0; i < d.images.size(); ++i)
            for (const Affine& m : d.images[i].places)
                out += "<use xlink:href=\"#picture-" + std::to_string(i + 1) + "\" transform=\"matrix(" + plainNumber(m.a, 9) + " " + plainNumber(m.b, 9) +
                       " " + plainNumber(m.c, 9) + " " + plainNumber(m.d, 9) + " " + figure(m.e) + " " + figure(m.f) + ")\"/>\n";
        out += "</g>\n";
    }
    if (!d.marks.empty()) {
        out += "<g id=\"marks\" fill=\"#000000\">\n";
        for (const Mark& m : d.marks)
            out += "<circle cx=\"" + figure(m.centre.x) + "\" cy=\"" + figure(m.centre.y) + "\" r=\"" + figure(m.diameter / 2) + "\"/>\n";
        out += "</g>\n";
    }
    if (content != Content::Print)
        for (const LineKindFacts& kind : lineKindTable) {
            std::string group;
            for (const CutItem& item : d.cuts)
                if (item.kind == kind.kind) {
                    work.check();
                    for (const Path& path : cutsOf(item)) {
                        group += "<path d=\"";
                        appendPathData(group, path);
                        group += "\"/>\n";
                    }
                }
            if (!group.empty())
                out +=
                    std::string("<g id=\"") + kind.svgGroup + "\" fill=\"none\" stroke=\"" + kind.colour + "\" stroke-width=\"0.0254\">\n" + group + "</g>\n";
        }
    out += "</svg>\n";
    return {out.begin(), out.end()};
}

} // namespace yokai
