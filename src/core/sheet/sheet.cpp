#include "sheet/sheet.h"

#include "sheet/grid.h"
#include "sheet/nested.h"

#include <algorithm>
#include <limits>
#include <numbers>

namespace yokai {

namespace {

constexpr int mostCopies = 100'000, mostSheets = 1000;

void refuseWhatCannotBe(const SheetSpec& spec, const Rect& area)
{
    if (area.empty() || spec.margin < Length())
        throw Error(ErrorKind::Usage, "a margin of {} leaves nothing of the sheet; make it smaller", formatLength(spec.margin, Unit::Mm));
    if (spec.gap < Length())
        throw Error(ErrorKind::Usage, "a gap of {} makes pieces overlap; use 0 or more", formatLength(spec.gap, Unit::Mm));
    if (spec.marks.style == MarkStyle::None || spec.marks.style == MarkStyle::InPicture)
        return;
    const double in = spec.marks.inset.mm(), d = spec.marks.size.mm();
    constexpr double diametersBetween = 4; // marks nearer than this could be taken for one another
    if (in < d / 2 || 2 * in + diametersBetween * d > std::min(spec.width(), spec.height()))
        throw Error(ErrorKind::Usage, "a mark inset of {} does not leave five marks room on the sheet; use {} mm or more and less than half the sheet",
                    formatLength(spec.marks.inset, Unit::Mm), plainNumber(d / 2, 1));
}

// Lays copies out in rows on one sheet after another.
class GridLayout {
public:
    GridLayout(Layout& out, const SheetSpec& spec, std::span<const ToPlace> pieces, const Work& work) : out_(out), spec_(spec), pieces_(pieces), work_(work)
    {
        for (const ToPlace& p : pieces_)
            steps_.push_back(spec.layout == LayoutKind::Stagger ? staggerStep(p, spec.gap.mm(), gapDown()) : 0);
        byHand_.assign(out.placements.begin(), out.placements.end());
        open();
    }

    void numbered(std::size_t p, int copies)
    {
        for (int k = 0; k < copies; ++k)
            if (!place(p)) {
                const bool fresh = fresh_;
                if ((fresh && sheet_ >= out_.sheets - 1) || sheet_ + 1 >= mostSheets)
                    return;
                ++sheet_;
                open();
                --k;
            }
    }

    // Those asked for as many times as fit: whole rounds by their shares, as many as there is room for, tidily one piece
    // after another; then what is left, a round at most.
    void fill(const std::vector<std::size_t>& which)
    {
        int rounds = 0;
        const auto fits = [&](int n) {
            const Rows rows = rows_;
            const StaggeredRows staggered = staggered_;
            const bool all = std::all_of(which.begin(), which.end(), [&](std::size_t p) {
                for (int k = 0; k < n * pieces_[p].share; ++k)
                    if (!next(p))
                        return false;
                return true;
            });
            rows_ = rows;
            staggered_ = staggered;
            return all;
        };
        int step = 1;
        while (step < mostCopies && fits(step))
            step *= 2;
        for (; step > 0; step /= 2)
            if (fits(rounds + step))
                rounds += step;
        for (const std::size_t p : which)
            for (int k = 0; k < rounds * pieces_[p].share; ++k)
                place(p);
        for (const std::size_t p : which)
            for (int k = 0; k < pieces_[p].share && place(p);)
                ++k;
    }

private:
    double gapDown() const { return spec_.grid.gapDown.value_or(spec_.gap).mm(); }
    GridGround ground() const
    {
        GridGround g{layoutArea(spec_), spec_.gap.mm(), gapDown(), spec_.grid.columns.value_or(0), spec_.grid.rows.value_or(0), {}};
        for (const Mark& m : out_.marks)
            if (isPrinted(m))
                g.clear.push_back(clearOf(m, spec_.marks.clear.mm()));
        for (const Placement& p : byHand_)
            if (p.sheet == sheet_)
                g.clear.push_back(mapped(p.toSheet, pieces_[p.at].box).grown(spec_.gap.mm()));
        return g;
    }
    void open()
    {
        rows_ = Rows(ground());
        staggered_ = StaggeredRows(ground());
        fresh_ = std::none_of(byHand_.begin(), byHand_.end(), [this](const Placement& p) { return p.sheet == sheet_; });
    }
    std::optional<Point> next(std::size_t p)
    {
        const Rect& box = pieces_[p].box;
        return spec_.layout == LayoutKind::Stagger ? staggered_.next(p, box.width(), box.height(), steps_[p]) : rows_.next(box.width(), box.height());
    }
    bool place(std::size_t p)
    {
        if ((out_.placements.size() & 255) == 0)
            work_.check();
        const auto at = next(p);
        if (!at)
            return false;
        const Rect& box = pieces_[p].box;
        out_.placements.push_back({pieces_[p].piece, p, out_.placed[p]++, {}, Affine::move(at->x - box.x0, at->y - box.y0), sheet_});
        out_.sheets = std::max(out_.sheets, sheet_ + 1);
        fresh_ = false;
        return true;
    }

    Layout& out_;
    const SheetSpec& spec_;
    std::span<const ToPlace> pieces_;
    const Work& work_;
    std::vector<double> steps_;
    std::vector<Placement> byHand_;
    int sheet_ = 0;
    bool fresh_ = true; // nothing lies on this sheet yet
    Rows rows_{GridGround{}};
    StaggeredRows staggered_{GridGround{}};
};

void putLying(Layout& out, std::span<const ToPlace> pieces)
{
    for (std::size_t p = 0; p < pieces.size(); ++p)
        if (pieces[p].lies && !pieces[p].box.empty())
            out.placements.push_back({pieces[p].piece, p, out.placed[p]++, {}, *pieces[p].lies, 0, true});
}

void putByHand(Layout& out, std::span<const ToPlace> pieces, std::span<const Placing> byHand)
{
    for (const Placing& placing : byHand)
        for (std::size_t p = 0; p < pieces.size(); ++p)
            if (pieces[p].piece == placing.piece && !pieces[p].lies && !pieces[p].box.empty() && out.placed[p] < pieces[p].copies.value_or(mostCopies)) {
                out.placements.push_back({pieces[p].piece, p, out.placed[p]++, placing.id, toSheet(placing, pieces[p].box), placing.sheet});
                out.sheets = std::max(out.sheets, placing.sheet + 1);
            }
}

// As it was kept. A file may say anything: what could not have been nested so is not taken.
bool putNested(Layout& out, const SheetSpec& spec, std::span<const ToPlace> pieces, const std::vector<std::optional<int>>& remaining, const Nested& nested)
{
    constexpr double exactly = 1e-6; // mm, and of a turn
    const Rect within = layoutArea(spec).grown(exactly);
    Layout with = out;
    for (const NestedCopy& copy : nested.copies) {
        const auto piece = std::find_if(pieces.begin(), pieces.end(), [&](const ToPlace& p) { return p.piece == copy.piece && !p.box.empty(); });
        const Affine map = copy.toSheet();
        const bool rigid = std::abs(norm(copy.across) - 1) < exactly && std::abs(norm(copy.down) - 1) < exactly && std::abs(dot(copy.across, copy.down)) < exactly;
        if (piece == pieces.end() || !rigid)
            return false;
        const auto p = std::size_t(piece - pieces.begin());
        Rect box = Rect::nothing();
        for (const Polyline& ring : piece->shape ? piece->shape->rings : std::vector<Polyline>{})
            for (const Point q : ring)
                box.add(map(q));
        if (!box.empty() && (!within.contains({box.x0, box.y0}) || !within.contains({box.x1, box.y1})))
            return false;
        with.placements.push_back({copy.piece, p, with.placed[p]++, {}, map, copy.sheet});
        with.sheets = std::max(with.sheets, copy.sheet + 1);
        if (remaining[p] && with.placed[p] - out.placed[p] > *remaining[p])
            return false;
    }
    out = std::move(with);
    return true;
}

void fill(Layout& out, const SheetSpec& spec, std::span<const ToPlace> pieces, const Work& work, const LayoutWatch& watch)
{
    std::vector<std::optional<int>> remaining;
    std::vector<std::size_t> fills;
    for (std::size_t p = 0; p < pieces.size(); ++p) {
        remaining.push_back(pieces[p].copies ? std::optional(*pieces[p].copies - out.placed[p]) : std::nullopt);
        if (!pieces[p].copies && !pieces[p].box.empty())
            fills.push_back(p);
    }
    if (spec.layout == LayoutKind::Nest) {
        if (watch.nested && putNested(out, spec, pieces, remaining, *watch.nested))
            return;
        if (watch.nests)
            nestInto(out, spec, pieces, remaining, work, watch);
        else
            out.waits = true;
        return;
    }
    GridLayout grid(out, spec, pieces, work);
    for (std::size_t p = 0; p < pieces.size(); ++p)
        if (remaining[p] && !pieces[p].box.empty())
            grid.numbered(p, *remaining[p]);
    if (!fills.empty())
        grid.fill(fills);
}

// Sheet by sheet, and how much of each lies within cut lines.
void finish(Layout& out, std::span<const ToPlace> pieces)
{
    std::stable_sort(out.placements.begin(), out.placements.end(), [](const Placement& a, const Placement& b) { return a.sheet < b.sheet; });
    out.used.assign(std::size_t(out.sheets), 0);
    for (const Placement& p : out.placements) {
        const ToPlace& piece = pieces[p.at];
        out.used[std::size_t(p.sheet)] += (piece.shape ? piece.shape->area : piece.box.width() * piece.box.height()) / (out.width * out.height);
    }
}

} // namespace

std::span<const Placement> Layout::on(int sheet) const
{
    const auto from = std::partition_point(placements.begin(), placements.end(), [&](const Placement& p) { return p.sheet < sheet; });
    const auto to = std::partition_point(from, placements.end(), [&](const Placement& p) { return p.sheet == sheet; });
    return {from, to};
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

Rect mapped(const Affine& map, const Rect& r)
{
    Rect out = Rect::nothing();
    for (const Point p : {Point{r.x0, r.y0}, Point{r.x1, r.y0}, Point{r.x0, r.y1}, Point{r.x1, r.y1}})
        out.add(map(p));
    return out;
}

double turnOf(const Affine& map)
{
    const double turn = (map.det() < 0 ? std::atan2(-map.b, -map.a) : std::atan2(map.b, map.a)) * 180 / std::numbers::pi;
    return std::abs(turn) < 1e-9 ? 0 : turn;
}

Rect layoutArea(const SheetSpec& spec)
{
    const double margin = spec.margin.mm(), far = std::numeric_limits<double>::infinity();
    return {margin, margin, std::min(spec.width() - margin, spec.reachAcross ? spec.reachAcross->mm() : far),
            std::min(spec.height() - margin, spec.reachDown ? spec.reachDown->mm() : far)};
}

Layout layOut(const SheetSpec& spec, std::span<const ToPlace> pieces, std::span<const Placing> byHand, const Work& work, const LayoutWatch& watch)
{
    Layout out;
    out.width = spec.width();
    out.height = spec.height();
    for (const ToPlace& piece : pieces)
        out.asked.push_back(piece.copies);
    out.placed.assign(pieces.size(), 0);
    try {
        refuseWhatCannotBe(spec, layoutArea(spec));
        out.marks = marksOf(spec);
        putLying(out, pieces);
        putByHand(out, pieces, byHand);
        LayoutWatch finished = watch;
        if (watch.better)
            finished.better = [&](const Layout& better) {
                Layout whole = better;
                finish(whole, pieces);
                watch.better(whole);
            };
        fill(out, spec, pieces, work, finished);
        finish(out, pieces);
    } catch (const Error& e) {
        out.marks.clear();
        out.placements.clear();
        out.problem = e;
    }
    return out;
}

} // namespace yokai
