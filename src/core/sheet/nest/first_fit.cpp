#include "sheet/nest/first_fit.h"

#include <bit>
#include <cmath>
#include <numbers>

namespace yokai::nesting {

namespace {

constexpr int turnsTried = 12; // of a free body

using Words = std::vector<std::uint64_t>;

// out |= row shifted down by `by`
void addShifted(Words& out, const std::uint64_t* row, std::size_t words, int by)
{
    if (by < 0) {
        const std::size_t skip = std::size_t(-by) / 64, bits = std::size_t(-by) % 64;
        for (std::size_t k = skip; k < words; ++k)
            out[k] |= (row[k - skip] << bits) | (bits && k > skip ? row[k - skip - 1] >> (64 - bits) : 0);
        return;
    }
    const std::size_t skip = std::size_t(by) / 64, bits = std::size_t(by) % 64;
    for (std::size_t k = 0; k + skip < words; ++k)
        out[k] |= (row[k + skip] >> bits) | (bits && k + skip + 1 < words ? row[k + skip + 1] << (64 - bits) : 0);
}

} // namespace

FirstFit::FirstFit(const Rules& rules, double cell) : rules_(rules), cell_(cell)
{
    // Masks stand out beyond the margin by the gap they keep.
    constexpr double beyond = 30; // mm
    const int pad = int(beyond / cell);
    origin_ = {rules.area.x0 - pad * cell, rules.area.y0 - pad * cell};
    columns_ = int(std::ceil(rules.area.width() / cell)) + 2 * pad;
    rows_ = int(std::ceil(rules.area.height() / cell)) + 2 * pad;
    words_ = std::size_t(columns_ + 63) / 64;
    taken_.assign(words_ * std::size_t(rows_), 0);
}

FirstFit::Mask FirstFit::maskOf(const Member& member, const Pose& pose) const
{
    Mask mask;
    mask.pose = pose;
    mask.pose.at = {};
    const Affine map = mask.pose.map(), back = map.inverse();
    const Body& body = *member.body;
    // Half the gap each; half a cell's diagonal more, and what is apart in cells is apart in mm.
    const double around = std::max(member.gap / 2, body.reach()) + cell_ * std::numbers::sqrt2 / 2;
    Rect box = Rect::nothing();
    for (const Polyline& ring : body.rings())
        for (const Point p : ring)
            box.add(map(p));
    const Rect cells = box.grown(around + cell_);
    mask.corner = {cells.x0 + cell_ / 2, cells.y0 + cell_ / 2};
    const int w = int(std::ceil(cells.width() / cell_)), h = int(std::ceil(cells.height() / cell_));
    mask.rows.resize(std::size_t(h));
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x) {
            Body::Reading r;
            if (!body.read(back(mask.corner + Point{x * cell_, y * cell_}), r) || r.away >= around)
                continue;
            std::vector<Run>& runs = mask.rows[std::size_t(y)];
            if (!runs.empty() && runs.back().last == x - 1)
                runs.back().last = x;
            else
                runs.push_back({x, x});
        }
    const Rect within = rules_.area.grown(-body.reach());
    const auto first = [&](double least, double corner, double from) { return int(std::ceil((least + corner - from) / cell_ - 0.5 - 1e-9)); };
    const auto last = [&](double most, double corner, double from) { return int(std::floor((most + corner - from) / cell_ - 0.5 + 1e-9)); };
    mask.least = std::max(0, first(within.x0 - box.x0, mask.corner.x, origin_.x));
    mask.top = std::max(0, first(within.y0 - box.y0, mask.corner.y, origin_.y));
    mask.most = std::min(columns_ - w, last(within.x1 - box.x1, mask.corner.x, origin_.x));
    mask.bottom = std::min(rows_ - h, last(within.y1 - box.y1, mask.corner.y, origin_.y));
    mask.height = box.y1;
    mask.from = mask.top;
    return mask;
}

Point FirstFit::at(const Mask& mask, Spot spot) const
{
    return {origin_.x + (spot.x + 0.5) * cell_ - mask.corner.x, origin_.y + (spot.y + 0.5) * cell_ - mask.corner.y};
}

std::vector<FirstFit::Mask>& FirstFit::masksOf(const Member& member)
{
    std::vector<Mask>& masks = masks_[{member.body, member.gap}];
    if (!masks.empty())
        return masks;
    constexpr std::size_t remembered = 100; // bodies: of more, each is seldom met again
    if (masks_.size() > remembered) {
        masks_.clear();
        return masksOf(member);
    }
    const int turns = rules_.turns == Turns::Free ? turnsTried : rules_.turns == Turns::Quarter ? 4 : 1;
    for (int mirror = 0; mirror <= int(rules_.mirror); ++mirror)
        for (int k = 0; k < turns; ++k)
            masks.push_back(maskOf(member, {{}, rules_.upright + tau * k / turns, mirror == 1}));
    return masks;
}

void FirstFit::block(const Member& member)
{
    const Mask mask = maskOf(member, member.pose);
    // Onto the raster's cells: the nearest place of the mask, a cell wider for what that is off.
    const int x0 = int(std::floor((member.pose.at.x + mask.corner.x - origin_.x) / cell_)), y0 = int(std::floor((member.pose.at.y + mask.corner.y - origin_.y) / cell_));
    for (std::size_t y = 0; y < mask.rows.size(); ++y)
        for (const Run& run : mask.rows[y])
            for (int row = y0 + int(y); row <= y0 + int(y) + 1; ++row)
                for (int x = x0 + run.first; x <= x0 + run.last + 1; ++x)
                    if (row >= 0 && row < rows_ && x >= 0 && x < columns_)
                        taken_[std::size_t(row) * words_ + std::size_t(x) / 64] |= std::uint64_t(1) << (x % 64);
}

std::optional<FirstFit::Spot> FirstFit::find(Mask& mask, int below) const
{
    Words full(words_), spread(words_), more(words_);
    for (int y = mask.from; y <= std::min(mask.bottom, below); ++y) {
        std::fill(full.begin(), full.end(), 0);
        for (std::size_t r = 0; r < mask.rows.size(); ++r) {
            const std::uint64_t* row = taken_.data() + (std::size_t(y) + r) * words_;
            if (std::all_of(row, row + words_, [](std::uint64_t w) { return w == 0; }))
                continue;
            for (const Run& run : mask.rows[r]) {
                // Doubling: what a run of so many cells would touch.
                std::copy(row, row + words_, spread.begin());
                int reached = 1;
                for (const int wanted = run.last - run.first + 1; reached < wanted;) {
                    const int by = std::min(reached, wanted - reached);
                    more = spread;
                    addShifted(spread, more.data(), words_, by);
                    reached += by;
                }
                addShifted(full, spread.data(), words_, run.first);
            }
        }
        for (int x = mask.least; x <= mask.most;) {
            const std::uint64_t free = ~full[std::size_t(x) / 64] >> (x % 64);
            if (free == 0) {
                x += 64 - x % 64;
                continue;
            }
            x += std::countr_zero(free);
            if (x <= mask.most) {
                mask.from = y; // what is above stays full
                return Spot{x, y};
            }
        }
        mask.from = y + 1;
    }
    return std::nullopt;
}

std::optional<Pose> FirstFit::place(const Member& member, const Work& work)
{
    std::optional<Pose> best;
    double lowest = std::numeric_limits<double>::infinity();
    for (Mask& mask : masksOf(member)) {
        work.check();
        // Not below where it would be worse than the best so far.
        const double room = (lowest - mask.height + mask.corner.y - origin_.y) / cell_ - 0.5;
        const int below = room < rows_ ? int(std::ceil(room)) : rows_;
        const auto spot = find(mask, below);
        if (!spot)
            continue;
        const Point middle = at(mask, *spot);
        if (const double end = middle.y + mask.height; end < lowest) {
            lowest = end;
            best = mask.pose;
            best->at = middle;
        }
    }
    return best;
}

} // namespace yokai::nesting
