#include "formats/page_content.h"

#include "base/text.h"

namespace yokai {

std::string figure(double value) { return plainNumber(value, 4); }

std::string pair(Point p) { return figure(p.x) + " " + figure(p.y) + " "; }

void appendPath(std::string& out, const Path& path)
{
    out += pair(path.start) + "m\n";
    for (const Segment& s : path.segments)
        out += s.line ? pair(s.end) + "l\n" : pair(s.c1) + pair(s.c2) + pair(s.end) + "c\n";
    if (path.closed)
        out += "h\n";
}

std::string strokedCuts(const Drawing& drawing, LineKind kind, const char* stroke, const Work& work)
{
    std::string out;
    for (const CutItem& item : drawing.cuts)
        if (item.kind == kind) {
            work.check();
            for (const Path& path : cutsOf(item)) {
                appendPath(out, path);
                out += stroke;
                out += '\n';
            }
        }
    return out;
}

void appendInk(std::string& out, const std::vector<Mark>& marks, const char* stroke, const char* fill)
{
    for (const Mark& m : marks)
        for (const Path& path : inkOf(m)) {
            appendPath(out, path);
            out += path.closed ? fill : stroke;
            out += '\n';
        }
}

} // namespace yokai
