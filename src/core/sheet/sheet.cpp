#include "sheet/sheet.h"

#include "base/error.h"

#include <cctype>

namespace yokai {

std::span<const Media> knownMedia()
{
    const auto mm = [](const char* name, int w, int h) { return Media{name, Length::um(w * 1000LL), Length::um(h * 1000LL)}; };
    static const std::vector<Media> all = {
        mm("A3", 297, 420),
        mm("A4", 210, 297),
        mm("A5", 148, 210),
        mm("A6", 105, 148),
        mm("A2", 420, 594),
        mm("A1", 594, 841),
        mm("A0", 841, 1189),
        mm("B4", 250, 353),
        mm("B5", 176, 250),
        mm("B3", 353, 500),
        {"Letter", Length::inches(8.5), Length::inches(11)},
        {"Legal", Length::inches(8.5), Length::inches(14)},
        {"Tabloid", Length::inches(11), Length::inches(17)},
    };
    return all;
}

Media mediaFrom(const std::string& text)
{
    const auto lower = [](std::string s) {
        for (char& c : s)
            c = char(std::tolower(static_cast<unsigned char>(c)));
        return s;
    };
    for (const Media& m : knownMedia())
        if (lower(m.name) == lower(text))
            return m;
    const auto fail = [&] { return Error(ErrorKind::Usage, "'" + text + "' is not a paper; use a name like A4 or Letter, or a size like 210x297mm"); };
    const std::size_t x = lower(text).find('x');
    if (x == std::string::npos || x == 0)
        throw fail();
    try {
        std::string first = text.substr(0, x), second = text.substr(x + 1);
        // "8x10in": the unit after the second counts for both.
        const auto bare = [](const std::string& s) { return s.find_first_not_of("0123456789., ") == std::string::npos; };
        if (bare(first))
            if (const std::size_t unitAt = second.find_last_of("0123456789"); unitAt != std::string::npos)
                first += second.substr(unitAt + 1);
        const Media m{"custom", parseLength(first), parseLength(second)};
        if (m.width < Length::mm(10) || m.height < Length::mm(10) || m.width > Length::mm(5000) || m.height > Length::mm(50'000))
            throw Error(ErrorKind::Usage, "the paper '" + text + "' is out of range; use 10 mm to 5 m across and up to 50 m long");
        return m;
    } catch (const Error& e) {
        if (std::string(e.what()).starts_with("the paper"))
            throw;
        throw fail();
    }
}

std::vector<Mark> marksOf(const SheetSpec& spec)
{
    std::vector<Mark> marks;
    if (spec.marks == MarkStyle::None)
        return marks;
    const double w = spec.width(), h = spec.height(), in = spec.markInset.mm(), d = spec.markDiameter.mm();
    for (const Point p : {Point{in, in}, {w - in, in}, {w - in, h - in}, {in, h - in}})
        marks.push_back({p, d, false});
    marks.push_back({{in + 2.4 * d, in}, d, true});
    return marks;
}

Layout layOut(const SheetSpec& spec, std::span<const ToPlace> pieces)
{
    Layout out;
    out.width = spec.width();
    out.height = spec.height();
    const double margin = spec.margin.mm(), gap = spec.gap.mm();
    const Rect area{margin, margin, out.width - margin, out.height - margin};
    if (area.empty() || margin < 0)
        throw Error(ErrorKind::Usage, "a margin of " + formatLength(spec.margin, Unit::Mm) + " leaves nothing of the sheet; make it smaller");
    if (gap < 0)
        throw Error(ErrorKind::Usage, "a gap of " + formatLength(spec.gap, Unit::Mm) + " makes pieces overlap; use 0 or more");
    out.marks = marksOf(spec);
    if (!out.marks.empty()) {
        const double in = spec.markInset.mm(), d = spec.markDiameter.mm();
        if (in < d / 2 || 2 * in + 4 * d > std::min(out.width, out.height))
            throw Error(ErrorKind::Usage, "a mark inset of " + formatLength(spec.markInset, Unit::Mm) + " does not leave five marks room on the sheet; use " +
                                              plainNumber(d / 2, 1) + " mm or more and less than half the sheet");
    }
    std::vector<Rect> keepClear;
    for (const Mark& m : out.marks) {
        const double r = m.diameter / 2 + 2; // a sensor wants blank paper round a mark
        keepClear.push_back({m.centre.x - r, m.centre.y - r, m.centre.x + r, m.centre.y + r});
    }
    double x = area.x0, y = area.y0, rowHeight = 0, boxes = 0;
    for (std::size_t p = 0; p < pieces.size(); ++p) {
        const ToPlace& piece = pieces[p];
        out.asked.push_back(piece.copies.value_or(-1));
        out.placed.push_back(0);
        const double w = piece.box.width(), h = piece.box.height();
        if (piece.box.empty())
            continue;
        constexpr int most = 100'000;
        bool room = w <= area.width() + 1e-9 && h <= area.height() + 1e-9;
        while (room && out.placed[p] < std::min(most, piece.copies.value_or(most))) {
            const Rect at{x, y, x + w, y + h};
            if (at.y1 > area.y1 + 1e-9) {
                room = false;
                break;
            }
            if (at.x1 > area.x1 + 1e-9) {
                // A row that marks alone keep empty goes on just below the nearest of them.
                double down = y + rowHeight + gap;
                if (rowHeight == 0) {
                    down = std::numeric_limits<double>::infinity();
                    for (const Rect& zone : keepClear)
                        if (zone.y1 > y)
                            down = std::min(down, zone.y1);
                }
                y = down;
                x = area.x0;
                rowHeight = 0;
                continue;
            }
            double shifted = x;
            for (const Rect& zone : keepClear)
                if (zone.overlaps(at))
                    shifted = std::max(shifted, zone.x1);
            if (shifted > x) {
                x = shifted;
                continue;
            }
            out.placements.push_back({int(p), Affine::move(x - piece.box.x0, y - piece.box.y0)});
            ++out.placed[p];
            boxes += w * h;
            rowHeight = std::max(rowHeight, h);
            x += w + gap;
        }
    }
    out.used = boxes / (out.width * out.height);
    return out;
}

} // namespace yokai
