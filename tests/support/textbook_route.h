// A short way round many stops as the textbooks have it, to measure another by: nearest neighbours, then every pair of ways exchanged
// until none helps (Croes, "A method for solving traveling-salesman problems", Operations Research 6, 1958).
#pragma once

#include "base/geometry.h"

#include <algorithm>
#include <vector>

namespace yokai::test {

// From (0, 0) past all and back.
inline double lengthOfRoute(const std::vector<Point>& stops, const std::vector<int>& order)
{
    double sum = distance({}, stops[std::size_t(order.front())]) + distance(stops[std::size_t(order.back())], {});
    for (std::size_t k = 1; k < order.size(); ++k)
        sum += distance(stops[std::size_t(order[k - 1])], stops[std::size_t(order[k])]);
    return sum;
}

inline std::vector<int> textbookRoute(const std::vector<Point>& stops)
{
    const int count = int(stops.size());
    std::vector<int> tour;
    std::vector<bool> used(stops.size(), false);
    Point at;
    while (int(tour.size()) < count) {
        int best = -1;
        for (int i = 0; i < count; ++i)
            if (!used[std::size_t(i)] && (best < 0 || distance(at, stops[std::size_t(i)]) < distance(at, stops[std::size_t(best)])))
                best = i;
        used[std::size_t(best)] = true;
        tour.push_back(best);
        at = stops[std::size_t(best)];
    }
    const auto place = [&](int k) { return k < 0 || k >= count ? Point{} : stops[std::size_t(tour[std::size_t(k)])]; };
    for (bool better = true; better;) {
        better = false;
        for (int i = 0; i < count; ++i)
            for (int j = i + 1; j < count; ++j)
                if (distance(place(i - 1), place(j)) + distance(place(i), place(j + 1)) < distance(place(i - 1), place(i)) + distance(place(j), place(j + 1)) - 1e-9) {
                    std::reverse(tour.begin() + i, tour.begin() + j + 1);
                    better = true;
                }
    }
    return tour;
}

} // namespace yokai::test
