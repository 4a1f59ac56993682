#include "sheet/sheet.h"

#include "base/error.h"

#include <cctype>
#include <limits>
#include <numbers>

namespace yokai {

std::span<const Media> knownMedia()
{
    const auto mm = [](const char* name, int w, int h) { return Media{name, Length::um(w * 1000LL), Length::um(h * 1000LL)}; };
    const auto inches = [](const char* name, double w, double h) { return Media{name, Length::inches(w), Length::inches(h)}; };
    static const std::vector<Media> all = {
        mm("A4", 210, 297),   mm("A3", 297, 420),  mm("A2", 420, 594),    mm("A1", 594, 841),   mm("A0", 841, 1189), mm("A5", 148, 210), mm("A6", 105, 148),
        mm("B5", 176, 250),   mm("B4", 250, 353),  mm("B3", 353, 500),    mm("B2", 500, 707),   mm("B1", 707, 1000), mm("B0", 1000, 1414), mm("B6", 125, 176),
        inches("Letter", 8.5, 11), inches("Legal", 8.5, 14), inches("Tabloid", 11, 17), inches("ANSI C", 17, 22), inches("ANSI D", 22, 34), inches("ANSI E", 34, 44),
        inches("Mat 12 x 12 in", 12, 12), inches("Mat 12 x 24 in", 12, 24),
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
            throw Error(ErrorKind::Usage, "the paper '{}' is out of range; use 10 mm to 5 m across and up to 50 m long", text);
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
    // Off the middle, so that a mirrored sheet shows; far enough from the sides and the diagonals of
    // the four to bear witness, near enough to the edge to leave the middle of the sheet alone.
    constexpr double across = 0.4, down = 0.15;
    marks.push_back({{in + across * (w - 2 * in), in + down * (h - 2 * in)}, d, true});
    return marks;
}

Affine toSheet(const Placing& placing, const Rect& box)
{
    const Point c = box.centre();
    Affine map = Affine::move(-c.x, -c.y);
    if (placing.mirror)
        map = Affine::scale(-1, 1) * map;
    if (placing.turn != 0)
        map = Affine::turn(placing.turn * std::numbers::pi / 180) * map;
    return Affine::move(placing.x.mm(), placing.y.mm()) * map;
}

namespace {

constexpr double slack = 1e-9;    // mm: what arithmetic may lose
constexpr double markClear = 2;   // mm of blank paper that a sensor wants round a mark
constexpr int mostCopies = 100'000;

Rect mapped(const Affine& map, const Rect& r)
{
    Rect out = Rect::nothing();
    for (const Point p : {Point{r.x0, r.y0}, Point{r.x1, r.y0}, Point{r.x0, r.y1}, Point{r.x1, r.y1}})
        out.add(map(p));
    return out;
}

void refuseWhatCannotBe(const SheetSpec& spec, const Rect& area, const std::vector<Mark>& marks)
{
    if (area.empty() || spec.margin < Length())
        throw Error(ErrorKind::Usage, "a margin of {} leaves nothing of the sheet; make it smaller", formatLength(spec.margin, Unit::Mm));
    if (spec.gap < Length())
        throw Error(ErrorKind::Usage, "a gap of {} makes pieces overlap; use 0 or more", formatLength(spec.gap, Unit::Mm));
    if (marks.empty())
        return;
    const double in = spec.markInset.mm(), d = spec.markDiameter.mm();
    constexpr double diametersBetween = 4; // marks nearer than this could be taken for one another
    if (in < d / 2 || 2 * in + diametersBetween * d > std::min(spec.width(), spec.height()))
        throw Error(ErrorKind::Usage, "a mark inset of {} does not leave five marks room on the sheet; use {} mm or more and less than half the sheet",
                    formatLength(spec.markInset, Unit::Mm), plainNumber(d / 2, 1));
}

// Fills rows from the top left of an area, round zones that stay clear.
class Rows {
public:
    Rows(const Rect& area, double gap, std::vector<Rect> clear) : area_(area), gap_(gap), clear_(std::move(clear)), x_(area.x0), y_(area.y0) {}

    // The next place for a box of this size, or nothing.
    std::optional<Point> next(double w, double h)
    {
        if (w > area_.width() + slack || h > area_.height() + slack)
            return std::nullopt;
        for (;;) {
            const Rect at{x_, y_, x_ + w, y_ + h};
            if (at.y1 > area_.y1 + slack)
                return std::nullopt;
            if (at.x1 > area_.x1 + slack) {
                nextRow();
                continue;
            }
            double shifted = x_;
            for (const Rect& zone : clear_)
                if (zone.overlaps(at))
                    shifted = std::max(shifted, zone.x1);
            if (shifted > x_) {
                x_ = shifted;
                continue;
            }
            rowHeight_ = std::max(rowHeight_, h);
            x_ += w + gap_;
            return Point{at.x0, at.y0};
        }
    }

private:
    void nextRow()
    {
        // A row that zones alone keep empty goes on just below the nearest of them.
        double down = y_ + rowHeight_ + gap_;
        if (rowHeight_ == 0) {
            down = std::numeric_limits<double>::infinity();
            for (const Rect& zone : clear_)
                if (zone.y1 > y_)
                    down = std::min(down, zone.y1);
        }
        y_ = down;
        x_ = area_.x0;
        rowHeight_ = 0;
    }

    Rect area_;
    double gap_;
    std::vector<Rect> clear_;
    double x_, y_, rowHeight_ = 0;
};

void fill(Layout& out, const SheetSpec& spec, std::span<const ToPlace> pieces, std::span<const Placing> byHand, const Work& work)
{
    const double margin = spec.margin.mm(), gap = spec.gap.mm();
    const Rect area{margin, margin, out.width - margin, out.height - margin};
    refuseWhatCannotBe(spec, area, out.marks = marksOf(spec));
    std::vector<Rect> clear;
    for (const Mark& m : out.marks)
        clear.push_back(Rect{m.centre.x, m.centre.y, m.centre.x, m.centre.y}.grown(m.diameter / 2 + markClear));
    double boxes = 0;
    const auto place = [&](std::size_t p, const Affine& map, PlacingId id) {
        out.placements.push_back({pieces[p].piece, p, out.placed[p]++, id, map});
        boxes += pieces[p].box.width() * pieces[p].box.height();
    };
    for (const Placing& placing : byHand)
        for (std::size_t p = 0; p < pieces.size(); ++p)
            if (pieces[p].piece == placing.piece && !pieces[p].box.empty() && out.placed[p] < pieces[p].copies.value_or(mostCopies)) {
                const Affine map = toSheet(placing, pieces[p].box);
                clear.push_back(mapped(map, pieces[p].box).grown(gap));
                place(p, map, placing.id);
            }
    Rows rows(area, gap, std::move(clear));
    for (std::size_t p = 0; p < pieces.size(); ++p) {
        const Rect& box = pieces[p].box;
        while (!box.empty() && out.placed[p] < pieces[p].copies.value_or(mostCopies)) {
            if ((out.placements.size() & 255) == 0)
                work.check();
            const auto at = rows.next(box.width(), box.height());
            if (!at)
                break;
            place(p, Affine::move(at->x - box.x0, at->y - box.y0), {});
        }
    }
    out.used = boxes / (out.width * out.height);
}

} // namespace

Layout layOut(const SheetSpec& spec, std::span<const ToPlace> pieces, std::span<const Placing> byHand, const Work& work)
{
    Layout out;
    out.width = spec.width();
    out.height = spec.height();
    for (const ToPlace& piece : pieces)
        out.asked.push_back(piece.copies);
    out.placed.assign(pieces.size(), 0);
    try {
        fill(out, spec, pieces, byHand, work);
    } catch (const Error& e) {
        out.marks.clear();
        out.problem = e;
    }
    return out;
}

} // namespace yokai
