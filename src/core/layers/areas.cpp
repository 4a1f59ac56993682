#include "layers/areas.h"

#include <algorithm>
#include <cstring>
#include <numeric>

namespace yokai {

namespace {

class Unions {
public:
    int add()
    {
        parent_.push_back(int(parent_.size()));
        return parent_.back();
    }
    int root(int a)
    {
        while (parent_[std::size_t(a)] != a)
            a = parent_[std::size_t(a)] = parent_[std::size_t(parent_[std::size_t(a)])];
        return a;
    }
    void join(int a, int b)
    {
        a = root(a);
        b = root(b);
        parent_[std::size_t(std::max(a, b))] = std::min(a, b);
    }

private:
    std::vector<int> parent_;
};

// How long a row goes on as it begins: eight pixels at a time.
int runEnd(const std::uint8_t* row, int x, int width)
{
    const std::uint64_t same = row[x] * 0x0101010101010101ULL;
    int end = x + 1;
    for (std::uint64_t eight = 0; end + 8 <= width; end += 8) {
        std::memcpy(&eight, row + end, 8);
        if (eight != same)
            break;
    }
    while (end < width && row[end] == row[x])
        ++end;
    return end;
}

// Visits the runs of two rows that meet: both, and for how many pixels.
template <class F> void eachMeeting(const LabelAreas& areas, std::size_t y, F visit)
{
    std::size_t above = areas.rows[y - 1], below = areas.rows[y];
    while (above < areas.rows[y] && below < areas.rows[y + 1]) {
        const LabelRun &a = areas.runs[above], &b = areas.runs[below];
        const int shared = std::min(a.x1, b.x1) - std::max(a.x0, b.x0);
        if (shared > 0)
            visit(above, below, shared);
        if (a.x1 <= b.x1)
            ++above;
        if (b.x1 <= a.x1)
            ++below;
    }
}

void addBorder(std::vector<LabelArea>& all, int a, int b, int pixels)
{
    for (const auto& [own, other] : {std::pair(a, b), std::pair(b, a)}) {
        auto& beside = all[std::size_t(own)].beside;
        // Mostly the one met just before.
        const auto known = std::find_if(beside.rbegin(), beside.rend(), [other = other](const auto& n) { return n.first == other; });
        if (known == beside.rend())
            beside.emplace_back(other, pixels);
        else
            known->second += pixels;
    }
}

} // namespace

int LabelAreas::at(int x, int y) const
{
    const auto first = runs.begin() + std::ptrdiff_t(rows[std::size_t(y)]), last = runs.begin() + std::ptrdiff_t(rows[std::size_t(y) + 1]);
    return std::prev(std::upper_bound(first, last, x, [](int v, const LabelRun& r) { return v < r.x0; }))->area;
}

LabelAreas areasOf(const Raster<std::uint8_t>& label, const Work& work)
{
    const int w = label.width(), h = label.height();
    LabelAreas out;
    std::vector<std::uint8_t> labels; // of each run
    Unions unions;
    for (int y = 0; y < h; ++y) {
        if (y % 64 == 0)
            work.check();
        out.rows.push_back(out.runs.size());
        for (int x = 0; x < w;) {
            const int end = runEnd(label.row(y), x, w);
            out.runs.push_back({x, end, unions.add()});
            labels.push_back(label.at(x, y));
            x = end;
        }
        if (y > 0) {
            out.rows.push_back(out.runs.size());
            eachMeeting(out, std::size_t(y), [&](std::size_t a, std::size_t b, int) {
                if (labels[a] == labels[b])
                    unions.join(out.runs[a].area, out.runs[b].area);
            });
            out.rows.pop_back();
        }
    }
    out.rows.push_back(out.runs.size());
    std::vector<int> number(out.runs.size(), -1);
    for (std::size_t k = 0; k < out.runs.size(); ++k) {
        int& named = number[std::size_t(unions.root(out.runs[k].area))];
        if (named < 0) {
            named = int(out.all.size());
            out.all.push_back({labels[k], 0, false, {}});
        }
        out.runs[k].area = named;
        LabelArea& area = out.all[std::size_t(named)];
        area.pixels += std::size_t(out.runs[k].x1 - out.runs[k].x0);
        area.rim = area.rim || out.runs[k].x0 == 0 || out.runs[k].x1 == w || k < out.rows[1] || k >= out.rows[std::size_t(h) - 1];
    }
    for (int y = 0; y < h; ++y) {
        if (y % 64 == 0)
            work.check();
        for (std::size_t k = out.rows[std::size_t(y)] + 1; k < out.rows[std::size_t(y) + 1]; ++k)
            if (out.runs[k - 1].area != out.runs[k].area)
                addBorder(out.all, out.runs[k - 1].area, out.runs[k].area, 1);
        if (y > 0)
            eachMeeting(out, std::size_t(y), [&](std::size_t a, std::size_t b, int shared) {
                if (out.runs[a].area != out.runs[b].area)
                    addBorder(out.all, out.runs[a].area, out.runs[b].area, shared);
            });
    }
    return out;
}

} // namespace yokai
