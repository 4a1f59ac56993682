#include "engrave/scan.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace yokai {

namespace {

constexpr float leastStretch = 1e-3F; // mm: what figures of a program do not say

class Scanner {
public:
    Scanner(const Engraving& of, const Affine& toBed, double interval, const Work& work)
        : of_(of), interval_(of.spec.interval ? of.spec.interval->mm() : interval), back_(Affine::turn(of.spec.angle * std::numbers::pi / 180)),
          toLines_(back_.inverse() * toBed), work_(work)
    {
    }
    Scan scanned()
    {
        if (of_.spec.as == EngraveAs::Fill)
            fill();
        else
            greys();
        return std::move(out_);
    }

    Gray8 dots()
    {
        const cv::Mat grid = greyGrid();
        Gray8 out(grid.cols, grid.rows);
        for (int y = 0; y < grid.rows; ++y)
            std::copy(grid.ptr(y), grid.ptr(y) + grid.cols, out.row(y));
        return out;
    }

private:
    // Within the frame of the lines, which run along x: a row's stretches, from left to right.
    void addLine(double y, std::vector<Stretch>& row)
    {
        std::erase_if(row, [](const Stretch& s) { return s.power <= 0 || s.to - s.from < leastStretch; });
        if (row.empty())
            return;
        const bool turned = !of_.spec.oneWay && out_.lines.size() % 2 == 1;
        const float begin = row.front().from, end = row.back().to;
        ScanLine line;
        line.from = back_({turned ? end : begin, y});
        line.to = back_({turned ? begin : end, y});
        line.first = out_.stretches.size();
        line.count = row.size();
        if (turned)
            for (auto s = row.rbegin(); s != row.rend(); ++s)
                out_.stretches.push_back({end - s->to, end - s->from, s->power});
        else
            for (const Stretch& s : row)
                out_.stretches.push_back({s.from - begin, s.to - begin, s.power});
        out_.lines.push_back(line);
    }

    void fill()
    {
        struct Edge {
            Point low, high;
        };
        std::vector<Edge> edges;
        double bottom = 1e18;
        for (const Polyline& ring : of_.outline)
            for (std::size_t k = 0; k < ring.size(); ++k) {
                Point a = toLines_(ring[k]), b = toLines_(ring[(k + 1) % ring.size()]);
                if (a.y > b.y)
                    std::swap(a, b);
                bottom = std::min(bottom, a.y);
                if (a.y < b.y)
                    edges.push_back({a, b});
            }
        std::sort(edges.begin(), edges.end(), [](const Edge& a, const Edge& b) { return a.low.y < b.low.y; });
        std::vector<const Edge*> open;
        std::vector<double> crossings;
        std::vector<Stretch> row;
        std::size_t next = 0;
        for (long k = 0; next < edges.size() || !open.empty(); ++k) {
            if (k % 64 == 0)
                work_.check();
            const double y = bottom + (double(k) + 0.5) * interval_;
            while (next < edges.size() && edges[next].low.y <= y)
                open.push_back(&edges[next++]);
            std::erase_if(open, [y](const Edge* e) { return e->high.y <= y; });
            crossings.clear();
            for (const Edge* e : open)
                crossings.push_back(e->low.x + (e->high.x - e->low.x) * (y - e->low.y) / (e->high.y - e->low.y));
            std::sort(crossings.begin(), crossings.end());
            row.clear();
            for (std::size_t i = 0; i + 1 < crossings.size(); i += 2)
                row.push_back({float(crossings[i]), float(crossings[i + 1]), 1});
            addLine(y, row);
        }
    }

    // The tone on a grid of squares as wide as the lines are apart.
    cv::Mat onGrid(const Rect& box, int across, int down) const
    {
        const Gray8& tone = *of_.tone;
        cv::Mat whole(tone.height(), tone.width(), CV_8UC1, const_cast<std::uint8_t*>(tone.all().data()));
        // First made about as coarse as the grid, each pixel the mean of those it takes the place of.
        const double scale = std::sqrt(std::abs(toLines_.det())) / of_.pxPerMm; // mm of the bed a pixel
        double kx = 1, ky = 1;
        if (scale < interval_) {
            cv::Mat coarse;
            const cv::Size size(std::max(1, int(std::lround(whole.cols * scale / interval_))), std::max(1, int(std::lround(whole.rows * scale / interval_))));
            cv::resize(whole, coarse, size, 0, 0, cv::INTER_AREA);
            kx = double(size.width) / whole.cols;
            ky = double(size.height) / whole.rows;
            whole = coarse;
        }
        work_.check();
        // From the middle of a square to the tone's pixels; pixel centres lie half a pixel in.
        const Affine m = Affine::scale(of_.pxPerMm * kx, of_.pxPerMm * ky) * toLines_.inverse() * Affine::move(box.x0, box.y0) * Affine::scale(interval_, interval_) *
                         Affine::move(0.5, 0.5);
        const cv::Matx23d map(m.a, m.c, m.e - 0.5, m.b, m.d, m.f - 0.5);
        cv::Mat grid;
        cv::warpAffine(whole, grid, map, {across, down}, cv::INTER_LINEAR | cv::WARP_INVERSE_MAP, cv::BORDER_CONSTANT, cv::Scalar(0));
        return grid;
    }

    // All that is burnt, in the frame of the lines.
    Rect boxOfLines() const
    {
        Rect box = Rect::nothing();
        for (const Point p : {Point{of_.box.x0, of_.box.y0}, Point{of_.box.x1, of_.box.y0}, Point{of_.box.x0, of_.box.y1}, Point{of_.box.x1, of_.box.y1}})
            box.add(toLines_(p));
        return box;
    }
    cv::Mat greyGrid() const
    {
        const Rect box = boxOfLines();
        if (box.empty())
            return {};
        cv::Mat grid = onGrid(box, std::max(1, int(std::ceil(box.width() / interval_))), std::max(1, int(std::ceil(box.height() / interval_))));
        makeDots(grid);
        return grid;
    }

    void greys()
    {
        const Rect box = boxOfLines();
        const cv::Mat grid = greyGrid();
        const int across = grid.cols, down = grid.rows;
        std::vector<Stretch> row;
        for (int y = 0; y < down; ++y) {
            if (y % 64 == 0)
                work_.check();
            row.clear();
            const std::uint8_t* at = grid.ptr(y);
            for (int x = 0, end = 0; x < across; x = end) {
                for (end = x + 1; end < across && at[end] == at[x];)
                    ++end;
                if (at[x] > 0)
                    row.push_back({float(box.x0 + x * interval_), float(box.x0 + end * interval_), powerOf(at[x])});
            }
            addLine(box.y0 + (y + 0.5) * interval_, row);
        }
    }

    float powerOf(std::uint8_t burn) const
    {
        const double least = of_.spec.leastPower / 100;
        return float(of_.spec.as == EngraveAs::Grey ? least + (1 - least) * burn / 255 : 1);
    }

    void makeDots(cv::Mat& grid) const
    {
        switch (of_.spec.as) {
        case EngraveAs::Fill:
            break;
        case EngraveAs::Threshold:
            cv::threshold(grid, grid, burntOver(of_.spec), 255, cv::THRESH_BINARY);
            break;
        case EngraveAs::Dither:
            dither(grid);
            break;
        case EngraveAs::Diffuse:
            diffuse(grid);
            break;
        case EngraveAs::Grey: {
            // In as many steps as a power is worth setting: equal neighbours are one stretch.
            constexpr int step = 4;
            grid.forEach<std::uint8_t>([](std::uint8_t& v, const int*) { v = std::uint8_t(std::min(255, (v + step / 2) / step * step)); });
            break;
        }
        }
    }

    static void dither(cv::Mat& grid)
    {
        const auto rank = [](int x, int y) { // of 64, by the bits of x and y interleaved
            int out = 0;
            for (int bit = 0; bit < 3; ++bit)
                out |= (((x ^ y) >> bit) & 1) << (5 - 2 * bit) | ((y >> bit) & 1) << (4 - 2 * bit);
            return out;
        };
        std::array<std::uint8_t, 64> least{};
        for (int y = 0; y < 8; ++y)
            for (int x = 0; x < 8; ++x)
                least[std::size_t(8 * y + x)] = std::uint8_t(std::lround((rank(x, y) + 0.5) / 64 * 255));
        grid.forEach<std::uint8_t>([&](std::uint8_t& v, const int* at) { v = v > least[std::size_t(8 * (at[0] & 7) + (at[1] & 7))] ? 255 : 0; });
    }

    void diffuse(cv::Mat& grid) const
    {
        std::vector<int> now(std::size_t(grid.cols) + 2, 0), next(now);
        for (int y = 0; y < grid.rows; ++y) {
            if (y % 64 == 0)
                work_.check();
            std::uint8_t* row = grid.ptr(y);
            const bool turned = y % 2 == 1;
            std::fill(next.begin(), next.end(), 0);
            for (int k = 0; k < grid.cols; ++k) {
                const int x = turned ? grid.cols - 1 - k : k, on = turned ? -1 : 1;
                // In sixteenths: nothing is lost to rounding. White stays white.
                const int wanted = 16 * row[x] + now[std::size_t(x + 1)];
                const bool burns = wanted >= 16 * 128;
                const int error = wanted - (burns ? 16 * 255 : 0);
                row[x] = burns ? 255 : 0;
                now[std::size_t(x + 1 + on)] += error * 7 / 16;
                next[std::size_t(x + 1 - on)] += error * 3 / 16;
                next[std::size_t(x + 1)] += error * 5 / 16;
                next[std::size_t(x + 1 + on)] += error - error * 7 / 16 - error * 3 / 16 - error * 5 / 16;
            }
            std::swap(now, next);
        }
    }

    const Engraving& of_;
    double interval_;
    Affine back_;    // from the frame of the lines to the bed
    Affine toLines_; // from the picture to that frame
    const Work& work_;
    Scan out_;
};

} // namespace

Gray8 dotsOf(const Engraving& engraving, double interval, const Work& work)
{
    Engraving upright = engraving;
    upright.spec.angle = 0;
    return Scanner(upright, {}, interval, work).dots();
}

Scan scanOf(const Engraving& engraving, const Affine& toBed, double interval, const Work& work) { return Scanner(engraving, toBed, interval, work).scanned(); }

} // namespace yokai
