#include "machine/route.h"

#include <numeric>
#include <random>

namespace yokai {

namespace {

// Stops by the cells of a grid they lie in.
class StopGrid {
public:
    explicit StopGrid(std::span<const Point> stops) : stops_(stops)
    {
        Rect box = Rect::nothing();
        for (const Point p : stops)
            box.add(p);
        constexpr double aCell = 3; // stops, or so
        corner_ = {box.x0, box.y0};
        cell_ = std::max({std::sqrt(std::max(box.width(), 1e-9) * std::max(box.height(), 1e-9) * aCell / double(stops.size())), box.width() / 2000,
                          box.height() / 2000, 1e-9});
        columns_ = int(box.width() / cell_) + 1;
        rows_ = int(box.height() / cell_) + 1;
        cells_.resize(std::size_t(columns_) * std::size_t(rows_));
        for (int i = 0; i < int(stops.size()); ++i)
            cells_[cellOf(stops[std::size_t(i)])].push_back(i);
    }
    void remove(int stop) { std::erase(cells_[cellOf(stops_[std::size_t(stop)])], stop); }

    // The nearest of those that are there, but for itself; fewer where there are fewer.
    std::vector<int> nearest(Point p, int self, std::size_t count) const
    {
        std::vector<std::pair<double, int>> found;
        const int x = columnOf(p), y = rowOf(p), farthest = std::max(columns_, rows_);
        for (int ring = 0; ring <= farthest; ++ring) {
            // What lies farther out is at least `ring - 1` cells away.
            if (found.size() >= count && found[count - 1].first <= (ring - 1) * cell_)
                break;
            ringOf(x, y, ring, [&](int stop) {
                if (stop != self)
                    found.emplace_back(distance(p, stops_[std::size_t(stop)]), stop);
            });
            std::sort(found.begin(), found.end());
        }
        std::vector<int> out;
        for (std::size_t k = 0; k < found.size() && k < count; ++k)
            out.push_back(found[k].second);
        return out;
    }

private:
    int columnOf(Point p) const { return std::clamp(int((p.x - corner_.x) / cell_), 0, columns_ - 1); }
    int rowOf(Point p) const { return std::clamp(int((p.y - corner_.y) / cell_), 0, rows_ - 1); }
    std::size_t cellOf(Point p) const { return std::size_t(rowOf(p)) * std::size_t(columns_) + std::size_t(columnOf(p)); }
    template <class F> void ringOf(int x, int y, int ring, F&& each) const
    {
        for (int j = y - ring; j <= y + ring; ++j) {
            if (j < 0 || j >= rows_)
                continue;
            const bool edge = j == y - ring || j == y + ring;
            for (int i = x - ring; i <= x + ring; i += edge ? 1 : std::max(1, 2 * ring))
                if (i >= 0 && i < columns_)
                    for (const int stop : cells_[std::size_t(j) * std::size_t(columns_) + std::size_t(i)])
                        each(stop);
        }
    }
    std::span<const Point> stops_;
    Point corner_;
    double cell_ = 1;
    int columns_ = 1, rows_ = 1;
    std::vector<std::vector<int>> cells_;
};

// The tour as an array: node 0 is where it begins, the last one where it ends; neither moves.
class Tour {
public:
    Tour(std::span<const Point> stops, Point from, Point to, const Work& work) : work_(work)
    {
        points_.assign(stops.begin(), stops.end());
        points_.push_back(from);
        points_.push_back(to);
        const int count = int(stops.size());
        StopGrid grid(stops);
        near_.resize(stops.size());
        for (int i = 0; i < count; ++i)
            near_[std::size_t(i)] = grid.nearest(stops[std::size_t(i)], i, 8);
        order_ = {count};
        for (Point at = from; int(order_.size()) <= count;) {
            const int next = grid.nearest(at, -1, 1).front();
            grid.remove(next);
            order_.push_back(next);
            at = stops[std::size_t(next)];
        }
        order_.push_back(count + 1);
        place_.resize(order_.size());
        for (int k = 0; k < int(order_.size()); ++k)
            place_[std::size_t(order_[std::size_t(k)])] = k;
        waiting_.resize(stops.size(), true);
        queue_.resize(stops.size());
        std::iota(queue_.begin(), queue_.end(), 0);
    }

    void improve()
    {
        while (!queue_.empty()) {
            const int stop = queue_.back();
            queue_.pop_back();
            waiting_[std::size_t(stop)] = false;
            if ((++looked_ & 1023) == 0)
                work_.check();
            while (twoOpt(stop) || orOpt(stop)) {
            }
        }
    }

    // Breaks three nearby ties, swaps what lies between them, mends, and takes it back if it got no shorter.
    void shake(std::mt19937& random)
    {
        constexpr int reach = 50; // stops: what is broken together lies near one another
        const int last = int(order_.size()) - 2;
        if (last < 8)
            return;
        const int span = std::min(reach, last);
        const int begin = 1 + int(random() % unsigned(last - span + 1));
        int cuts[3];
        for (int& c : cuts)
            c = begin + int(random() % unsigned(span));
        std::sort(std::begin(cuts), std::end(cuts));
        const auto [i, j, k] = std::tuple(cuts[0], cuts[1], cuts[2]);
        if (i == j || j == k)
            return;
        log_.clear();
        logging_ = true;
        saved_ = 0;
        const double change = between(at(i - 1), at(j)) + between(at(k - 1), at(i)) + between(at(j - 1), at(k)) - between(at(i - 1), at(i)) -
                              between(at(j - 1), at(j)) - between(at(k - 1), at(k));
        swap(i, j, k);
        for (const int place : {i - 1, i, j - 1, j, k - 1, k, i + k - j, i + k - j - 1})
            wake(at(place));
        saved_ -= change;
        improve();
        logging_ = false;
        if (saved_ < 1e-9)
            for (auto undo = log_.rbegin(); undo != log_.rend(); ++undo)
                reverse(undo->first, undo->second);
    }
    std::vector<int> order() const { return {order_.begin() + 1, order_.end() - 1}; }

private:
    int at(int place) const { return order_[std::size_t(place)]; }
    double between(int a, int b) const { return distance(points_[std::size_t(a)], points_[std::size_t(b)]); }
    void wake(int stop)
    {
        if (std::size_t(stop) >= near_.size() || waiting_[std::size_t(stop)])
            return;
        waiting_[std::size_t(stop)] = true;
        queue_.push_back(stop);
    }
    void reverse(int first, int last)
    {
        if (logging_)
            log_.emplace_back(first, last);
        for (; first < last; ++first, --last) {
            std::swap(order_[std::size_t(first)], order_[std::size_t(last)]);
            place_[std::size_t(at(first))] = first;
            place_[std::size_t(at(last))] = last;
        }
        if (first == last)
            place_[std::size_t(at(first))] = first;
    }
    // What lies from i to j and what lies from j to k change places.
    void swap(int i, int j, int k)
    {
        reverse(i, j - 1);
        reverse(j, k - 1);
        reverse(i, k - 1);
    }

    // Two ties replaced, what lies between them turned round.
    bool twoOpt(int a)
    {
        for (const bool after : {true, false}) {
            const int i = place_[std::size_t(a)], next = after ? i + 1 : i - 1;
            const double tie = between(a, at(next));
            for (const int c : near_[std::size_t(a)]) {
                const double nearer = between(a, c);
                if (nearer >= tie)
                    break;
                const int j = place_[std::size_t(c)], beyond = after ? j + 1 : j - 1;
                const double saved = tie + between(c, at(beyond)) - nearer - between(at(next), at(beyond));
                if (saved < 1e-9)
                    continue;
                const int first = after ? std::min(i, j) + 1 : std::min(i, j), last = after ? std::max(i, j) : std::max(i, j) - 1;
                for (const int stop : {a, c, at(next), at(beyond)})
                    wake(stop);
                saved_ += saved;
                reverse(first, last);
                return true;
            }
        }
        return false;
    }

    // A few that follow each other put between two others, either way round.
    bool orOpt(int a)
    {
        for (int length = 1; length <= 3; ++length)
            for (const bool ahead : {true, false}) {
                const int i = place_[std::size_t(a)], first = ahead ? i : i - length + 1, last = first + length - 1;
                if (first < 1 || last > int(order_.size()) - 2)
                    continue;
                const int other = ahead ? at(last) : at(first); // the end that is not `a`
                const double freed = between(at(first - 1), at(first)) + between(at(last), at(last + 1)) - between(at(first - 1), at(last + 1));
                for (const int c : near_[std::size_t(a)]) {
                    const double nearer = between(a, c);
                    if (nearer >= freed)
                        break;
                    const int j = place_[std::size_t(c)];
                    if (j >= first && j <= last)
                        continue;
                    for (const int d : {j - 1, j + 1}) { // `a` comes next to c, the other end next to d
                        if (d < 0 || d >= int(order_.size()) || (d >= first && d <= last))
                            continue;
                        const double saved = freed + between(c, at(d)) - nearer - between(other, at(d));
                        if (saved < 1e-9)
                            continue;
                        for (const int stop : {a, other, c, at(d), at(first - 1), at(last + 1)})
                            wake(stop);
                        saved_ += saved;
                        put(first, last, std::min(j, d), ahead != (d > j));
                        return true;
                    }
                }
            }
        return false;
    }

    // The run first..last is put after the place `after`, turned round if asked.
    void put(int first, int last, int after, bool turned)
    {
        const int length = last - first + 1;
        int begin = first;
        if (after >= last) {
            reverse(first, last);
            reverse(last + 1, after);
            reverse(first, after);
            begin = after - length + 1;
        } else {
            reverse(first, last);
            reverse(after + 1, first - 1);
            reverse(after + 1, last);
            begin = after + 1;
        }
        if (turned)
            reverse(begin, begin + length - 1);
    }

    const Work& work_;
    std::vector<Point> points_; // the stops, then where the tour begins and ends
    std::vector<int> order_, place_;
    std::vector<std::vector<int>> near_;
    std::vector<char> waiting_;
    std::vector<int> queue_;
    std::vector<std::pair<int, int>> log_;
    bool logging_ = false;
    double saved_ = 0;
    unsigned looked_ = 0;
};

} // namespace

std::vector<int> shortRoute(std::span<const Point> stops, Point from, Point to, const Work& work)
{
    if (stops.empty())
        return {};
    Tour tour(stops, from, to, work);
    tour.improve();
    // A break and its mending take some microseconds; reversals grow with the number of stops.
    constexpr int shakesAStop = 20, mostShakes = 20'000;
    std::mt19937 random(20261127);
    const int shakes = std::min(mostShakes, shakesAStop * int(stops.size()));
    for (int k = 0; k < shakes; ++k) {
        if ((k & 255) == 0)
            work.check();
        tour.shake(random);
    }
    return tour.order();
}

} // namespace yokai
