#include "machine/sequence.h"

#include <map>

namespace yokai {

namespace {

double travelOf(const std::vector<Stop>& stops, const std::vector<Visit>& visits, Point from, Point home)
{
    double sum = 0;
    for (const Visit& v : visits) {
        const Entry& e = stops[std::size_t(v.stop)].entries[std::size_t(v.entry)];
        sum += distance(from, e.in);
        from = e.out;
    }
    return sum + distance(from, home);
}

// The entries that make the way shortest while the order stays: the best way to each entry of a stop, from those of the stop before
// (Bellman's dynamic programming).
void chooseEntries(const std::vector<Stop>& stops, std::vector<Visit>& visits, Point from, Point home)
{
    struct Best {
        double way;
        int before;
    };
    std::vector<std::vector<Best>> best(visits.size());
    for (std::size_t k = 0; k < visits.size(); ++k)
        for (const Entry& e : stops[std::size_t(visits[k].stop)].entries) {
            Best b{k == 0 ? distance(from, e.in) : std::numeric_limits<double>::infinity(), 0};
            if (k > 0) {
                const auto& before = stops[std::size_t(visits[k - 1].stop)].entries;
                for (int i = 0; i < int(before.size()); ++i)
                    if (const double way = best[k - 1][std::size_t(i)].way + distance(before[std::size_t(i)].out, e.in); way < b.way)
                        b = {way, i};
            }
            best[k].push_back(b);
        }
    int chosen = 0;
    const auto& last = stops[std::size_t(visits.back().stop)].entries;
    const auto whole = [&](int i) { return best.back()[std::size_t(i)].way + distance(last[std::size_t(i)].out, home); };
    for (int i = 1; i < int(last.size()); ++i)
        if (whole(i) < whole(chosen))
            chosen = i;
    for (std::size_t k = visits.size(); k-- > 0;) {
        visits[k].entry = chosen;
        chosen = best[k][std::size_t(chosen)].before;
    }
}

class Sequencer {
public:
    Sequencer(const std::vector<Stop>& stops, Point from, Point home, const Work& work) : stops_(stops), from_(from), home_(home), work_(work)
    {
        for (int i = 0; i < int(stops.size()); ++i)
            blocks_[{stops[std::size_t(i)].rank, stops[std::size_t(i)].block}][stops[std::size_t(i)].tier].push_back(i);
        for (const Stop& stop : stops) {
            Rect box = Rect::nothing();
            for (const Entry& e : stop.entries)
                box.add(e.in);
            places_.push_back({box.centre(), box.centre()});
        }
    }

    // From where each stop is entered and left now.
    std::vector<Visit> order() const
    {
        std::vector<Visit> out;
        Point at = from_;
        for (auto first = blocks_.begin(); first != blocks_.end();) {
            auto end = first;
            std::vector<const Tiers*> blocks;
            std::vector<Point> middles;
            for (; end != blocks_.end() && end->first.first == first->first.first; ++end) {
                blocks.push_back(&end->second);
                middles.push_back(
                    mix(places_[std::size_t(end->second.begin()->second.front())].in, places_[std::size_t(end->second.rbegin()->second.back())].out, 0.5));
            }
            for (const int b : shortRoute(middles, at, end == blocks_.end() ? home_ : middles.front(), work_))
                addBlock(*blocks[std::size_t(b)], at, out);
            first = end;
        }
        return out;
    }
    void enter(const std::vector<Visit>& visits)
    {
        for (const Visit& v : visits)
            places_[std::size_t(v.stop)] = stops_[std::size_t(v.stop)].entries[std::size_t(v.entry)];
    }

private:
    using Tiers = std::map<int, std::vector<int>>;
    void addBlock(const Tiers& tiers, Point& at, std::vector<Visit>& out) const
    {
        const bool whole = blocks_.size() == 1; // nothing comes after it but the way home
        for (auto tier = tiers.begin(); tier != tiers.end(); ++tier) {
            std::vector<Point> middles;
            for (const int s : tier->second)
                middles.push_back(mix(places_[std::size_t(s)].in, places_[std::size_t(s)].out, 0.5));
            const auto after = std::next(tier);
            const Point to = after != tiers.end() ? places_[std::size_t(after->second.front())].in : whole ? home_ : at;
            for (const int k : shortRoute(middles, at, to, work_))
                out.push_back({tier->second[std::size_t(k)], 0});
            at = places_[std::size_t(out.back().stop)].out;
        }
    }

    const std::vector<Stop>& stops_;
    Point from_, home_;
    const Work& work_;
    std::map<std::pair<int, int>, Tiers> blocks_;
    std::vector<Entry> places_;
};

} // namespace

std::vector<Visit> sequenceOf(const std::vector<Stop>& stops, Point from, Point home, const Work& work)
{
    if (stops.empty())
        return {};
    constexpr int rounds = 2; // of order and entries by turns: the second gains some per cent, a third little
    Sequencer sequencer(stops, from, home, work);
    std::vector<Visit> best;
    double shortest = std::numeric_limits<double>::infinity();
    for (int round = 0; round < rounds; ++round) {
        std::vector<Visit> visits = sequencer.order();
        chooseEntries(stops, visits, from, home);
        sequencer.enter(visits);
        if (const double travel = travelOf(stops, visits, from, home); travel < shortest) {
            shortest = travel;
            best = std::move(visits);
        }
    }
    return best;
}

} // namespace yokai
