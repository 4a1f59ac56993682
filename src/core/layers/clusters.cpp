#include "layers/clusters.h"

namespace yokai {

namespace {

// One for each of the cells of colour space that flat pixels fall into; of all opaque ones where nothing is flat.
std::vector<Cluster> cellsOf(const Rgba8& px, const Gray8& flat, const Work& work)
{
    constexpr int bits = 5;
    std::vector<std::array<std::uint64_t, 4>> cells;
    for (const bool flatOnly : {true, false}) {
        if (flatOnly && flat.empty())
            continue;
        cells.assign(std::size_t(1) << (3 * bits), {});
        std::uint64_t all = 0;
        for (int y = 0; y < px.height(); ++y) {
            if (y % 32 == 0)
                work.check();
            const Rgba* row = px.row(y);
            for (int x = 0, end = 0; x < px.width(); x = end) {
                const auto counts = [&](int at) { return flatOnly ? flat.at(at, y) != 0 : row[at].a >= opaque; };
                const Rgba c = row[x];
                end = x + 1;
                if (!counts(x))
                    continue;
                while (end < px.width() && row[end] == c && counts(end))
                    ++end;
                const auto n = std::uint64_t(end - x);
                auto& cell = cells[std::size_t((c.r >> 3) << 10 | (c.g >> 3) << 5 | (c.b >> 3))];
                cell[0] += n * c.r;
                cell[1] += n * c.g;
                cell[2] += n * c.b;
                cell[3] += n;
                all += n;
            }
        }
        if (all > 0)
            break;
    }
    std::vector<Cluster> out;
    for (const auto& cell : cells)
        if (cell[3] > 0) {
            Cluster c;
            c.weight = double(cell[3]);
            c.rgb = {double(cell[0]), double(cell[1]), double(cell[2])};
            c.middle = labOf(c.colour());
            out.push_back(c);
        }
    return out;
}

// Cells to the nearest larger one that is near enough, then the nearest two into one until none are too near; or until there are so many.
std::vector<Cluster> clustered(std::vector<Cluster> cells, const SplitSpec& spec, const Work& work)
{
    std::sort(cells.begin(), cells.end(), [](const Cluster& a, const Cluster& b) { return a.weight > b.weight; });
    double all = 0;
    for (const Cluster& c : cells)
        all += c.weight;
    std::vector<Cluster> out;
    std::size_t seen = 0;
    for (const Cluster& cell : cells) {
        if (seen++ % 64 == 0)
            work.check();
        Cluster* best = nullptr;
        double least = spec.merge / 2;
        for (Cluster& c : out)
            if (const double d = ciede2000(c.middle, cell.middle); d < least) {
                least = d;
                best = &c;
            }
        constexpr std::size_t most = 400; // beyond what anybody cuts: the rest are shades of these
        if (best)
            best->add(cell);
        else if (out.size() < most)
            out.push_back(cell);
    }
    const std::size_t wanted = spec.colours > 0 ? std::size_t(spec.colours) : 64;
    for (;;) {
        work.check();
        double least = 1e9;
        std::size_t a = 0, b = 0;
        for (std::size_t i = 0; i < out.size(); ++i)
            for (std::size_t j = i + 1; j < out.size(); ++j)
                if (const double d = ciede2000(out[i].middle, out[j].middle); d < least) {
                    least = d;
                    a = i;
                    b = j;
                }
        if (out.size() < 2 || (out.size() <= wanted && (least >= spec.merge || spec.colours > 0)))
            break;
        out[a].add(out[b]);
        out.erase(out.begin() + std::ptrdiff_t(b));
    }
    // A few stray pixels are no colour.
    constexpr double stray = 2e-5;
    if (spec.colours == 0)
        std::erase_if(out, [&](const Cluster& c) { return c.weight < std::max(4.0, stray * all) && out.size() > 1; });
    std::sort(out.begin(), out.end(), [](const Cluster& a, const Cluster& b) { return a.weight > b.weight; });
    return out;
}

// Each cell to the nearest middle, and each middle to its cells' mean, so often (Lloyd); those that get none stay away.
void settle(std::vector<Cluster>& middles, const std::vector<Cluster>& cells, int rounds, const Work& work)
{
    for (int round = 0; round < rounds; ++round) {
        std::vector<Cluster> next(middles.size());
        for (std::size_t k = 0; k < cells.size(); ++k) {
            if (k % 256 == 0)
                work.check();
            std::size_t best = 0;
            double least = 1e9;
            for (std::size_t m = 0; m < middles.size(); ++m)
                if (const double d = ciede2000(middles[m].middle, cells[k].middle); d < least) {
                    least = d;
                    best = m;
                }
            next[best].add(cells[k]);
        }
        std::erase_if(next, [](const Cluster& c) { return c.weight == 0; });
        middles = std::move(next);
    }
}

// A photo's: the two whose joining loses least (Ward), until there are so many.
std::vector<Cluster> reduced(const std::vector<Cluster>& cells, int wanted, const Work& work)
{
    constexpr std::size_t begin = 300; // middles, of the most frequent cells: beyond, a pair's loss is no news
    std::vector<Cluster> out = cells;
    std::sort(out.begin(), out.end(), [](const Cluster& a, const Cluster& b) { return a.weight > b.weight; });
    out.resize(std::min(out.size(), begin));
    settle(out, cells, 1, work);
    const auto loss = [](const Cluster& a, const Cluster& b) {
        const double L = a.middle.L - b.middle.L, x = a.middle.a - b.middle.a, y = a.middle.b - b.middle.b;
        return (L * L + x * x + y * y) * a.weight * b.weight / (a.weight + b.weight);
    };
    while (out.size() > std::size_t(wanted)) {
        work.check();
        std::pair<std::size_t, std::size_t> pair;
        double least = 1e300;
        for (std::size_t i = 0; i < out.size(); ++i)
            for (std::size_t j = i + 1; j < out.size(); ++j)
                if (const double l = loss(out[i], out[j]); l < least) {
                    least = l;
                    pair = {i, j};
                }
        out[pair.first].add(out[pair.second]);
        out.erase(out.begin() + std::ptrdiff_t(pair.second));
    }
    constexpr int rounds = 8;
    settle(out, cells, rounds, work);
    return out;
}

} // namespace

std::vector<Cluster> coloursOf(const Rgba8& px, const Gray8& flat, const SplitSpec& spec, const Work& work)
{
    constexpr int usual = 6; // of a photo
    const bool photo = spec.of == SplitOf::Photo;
    const std::vector<Cluster> cells = cellsOf(px, flat, work);
    std::vector<Cluster> out = photo ? reduced(cells, spec.colours > 0 ? spec.colours : usual, work) : clustered(cells, spec, work);
    if (spec.picked.empty() || out.empty())
        return out;
    for (const Rgba c : spec.picked) {
        Cluster one;
        one.weight = 1;
        one.rgb = {double(c.r), double(c.g), double(c.b)};
        one.middle = labOf(c);
        constexpr double same = 1; // CIEDE2000: what nobody tells apart
        if (std::none_of(out.begin(), out.end(), [&](const Cluster& known) { return ciede2000(known.middle, one.middle) < same; }))
            out.push_back(one);
    }
    settle(out, cells, 2, work);
    return out;
}

} // namespace yokai
