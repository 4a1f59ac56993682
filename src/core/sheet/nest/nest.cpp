#include "sheet/nest/nest.h"

#include "sheet/nest/first_fit.h"

#include <chrono>
#include <cmath>
#include <numeric>

namespace yokai::nesting {

namespace {

// Places looked at in a second on one of two processors: less than what was measured, so that the time asked for is
// kept beside other work.
constexpr double placesASecond = 25e6;
constexpr int searches = 2;  // side by side, always as many: their number is part of the result
constexpr double epoch = 0.5; // seconds between comparing them

// What is still to be placed on a sheet, and what comes next.
class Demand {
public:
    explicit Demand(const std::vector<Ask>& asks) : asks_(&asks), placed_(asks.size()), hopeless_(asks.size()) {}
    void took(int what) { ++placed_[std::size_t(what)]; }
    void giveUp(std::size_t what) { hopeless_[what] = 1; } // it fits no empty sheet
    int placed(std::size_t what) const { return placed_[what]; }
    bool wants(std::size_t what) const
    {
        const Ask& ask = (*asks_)[what];
        if (hopeless_[what] || ask.body->rings().empty())
            return false;
        if (ask.copies)
            return placed_[what] < *ask.copies;
        // What is there as many times as fit goes by its share: none runs ahead by more than a round.
        return ask.share > 0 && placed_[what] < ask.share * (rounds() + 1);
    }
    // Of all that is wanted, by rounds; the largest first.
    std::vector<std::size_t> next() const
    {
        std::vector<std::size_t> out;
        for (std::size_t k = 0; k < asks_->size(); ++k)
            if (wants(k))
                out.push_back(k);
        const auto round = [&](std::size_t k) { return (*asks_)[k].copies ? -1 : placed_[k] / (*asks_)[k].share; };
        std::stable_sort(out.begin(), out.end(), [&](std::size_t a, std::size_t b) {
            return std::make_pair(round(a), -(*asks_)[a].body->area()) < std::make_pair(round(b), -(*asks_)[b].body->area());
        });
        return out;
    }

private:
    int rounds() const // that are full
    {
        int least = std::numeric_limits<int>::max();
        for (std::size_t k = 0; k < asks_->size(); ++k)
            if (const Ask& ask = (*asks_)[k]; !ask.copies && ask.share > 0 && !hopeless_[k] && !ask.body->rings().empty())
                least = std::min(least, placed_[k] / ask.share);
        return least;
    }
    const std::vector<Ask>* asks_;
    std::vector<int> placed_;
    std::vector<char> hopeless_;
};

struct Sheet {
    std::vector<Member> members; // what was there first
    Demand demand;
    double area = 0, depth = 0; // of what was placed; how far down it reaches
    bool betterThan(const Sheet& o) const { return area > o.area + 1e-6 || (area > o.area - 1e-6 && depth < o.depth - 1e-6); }
};

// One of those side by side: its random numbers, and what it has learned of each kind.
struct Searcher {
    Dice dice;
    std::vector<double> missing; // once it has grown, as a running mean
};

class Nester {
    using Clock = std::chrono::steady_clock;
    static constexpr double patience = 1.5, spare = 5; // times as long as asked, but as many seconds longer at least

public:
    Nester(const Nesting& in, const Work& work, const std::function<bool()>& enough)
        : in_(in), work_(work), enough_(enough), late_(Clock::now() + std::chrono::milliseconds(std::int64_t(std::max(in.seconds * patience, in.seconds + spare) * 1000)))
    {
    }

    bool fitsAtAll(std::size_t what) const; // on an empty sheet
    Sheet first(const Sheet& from) const;
    void improve(Sheet& sheet, double seconds, const std::function<void()>& better, const std::function<void(double)>& report);

private:
    void search(Sheet& sheet, std::uint64_t budget, Searcher& searcher) const;
    std::size_t likely(const std::vector<std::size_t>& wanted, Searcher& searcher) const;
    bool tryOneMore(Sheet& sheet, Crowd& crowd, Searcher& searcher) const;
    bool tryShorter(Sheet& sheet, Crowd& crowd, Dice& dice) const;
    void swap(Sheet& sheet, Crowd& crowd, Dice& dice) const;
    void shake(Sheet& sheet, Crowd& crowd, Dice& dice) const;
    void measure(Sheet& sheet, const Crowd& crowd) const;
    double cell() const; // of the raster for first places
    bool ended() const { return Clock::now() > late_ || (enough_ && enough_()); }

    const Nesting& in_;
    const Work& work_;
    const std::function<bool()>& enough_;
    Clock::time_point late_;
};

void Nester::measure(Sheet& sheet, const Crowd& crowd) const
{
    sheet.area = 0;
    for (const Member& m : sheet.members)
        sheet.area += m.what >= 0 ? m.body->area() : 0;
    sheet.depth = crowd.extent().y1;
}

// Coarse beside the bodies: what it wastes the crowd makes good sooner than a finer raster would.
double Nester::cell() const
{
    constexpr double finest = 0.4, coarsest = 2, across = 32, mostCells = 6e6;
    double area = 0;
    for (const Ask& ask : in_.asks)
        area += ask.body->area() / double(in_.asks.size());
    return std::max(std::clamp(std::sqrt(area) / across, finest, coarsest), std::sqrt(in_.rules.area.width() * in_.rules.area.height() / mostCells));
}

bool Nester::fitsAtAll(std::size_t what) const
{
    if (in_.asks[what].body->rings().empty())
        return false;
    FirstFit fit(in_.rules, cell());
    for (const Member& m : in_.there.empty() ? std::vector<Member>{} : in_.there.back())
        fit.block(m);
    return fit.place({in_.asks[what].body, {}, int(what), false, in_.gap}, work_).has_value();
}

Sheet Nester::first(const Sheet& from) const
{
    Sheet sheet = from;
    FirstFit fit(in_.rules, cell());
    for (const Member& m : sheet.members)
        fit.block(m);
    std::vector<char> full(in_.asks.size(), 0);
    for (bool more = true; more;) {
        more = false;
        for (const std::size_t what : sheet.demand.next()) {
            if (full[what])
                continue;
            Member m{in_.asks[what].body, {}, int(what), false, in_.gap};
            const auto pose = fit.place(m, work_);
            if (!pose) {
                full[what] = 1;
                continue;
            }
            m.pose = *pose;
            fit.block(m);
            sheet.members.push_back(m);
            sheet.demand.took(int(what));
            more = true;
            break;
        }
    }
    Crowd crowd(in_.rules);
    crowd.members = sheet.members;
    measure(sheet, crowd);
    return sheet;
}

// Mostly what is next by its share, unless another is known to fit better.
std::size_t Nester::likely(const std::vector<std::size_t>& wanted, Searcher& searcher) const
{
    Dice& dice = searcher.dice;
    const std::size_t next = wanted[std::min(dice.below(wanted.size()), dice.below(wanted.size()))];
    const std::size_t other = wanted[dice.below(wanted.size())];
    return searcher.missing[other] < searcher.missing[next] ? other : next;
}

bool Nester::tryOneMore(Sheet& sheet, Crowd& crowd, Searcher& searcher) const
{
    constexpr int tries = 200, rounds = 2, moves = 4;
    constexpr std::size_t pressed = 4;
    constexpr double seedling = 0.5;  // of its size, when it looks for a place
    constexpr double hopeless = 0.05; // of its radius: with as much missing once it has grown, few crowds come apart
    constexpr double fresh = 0.3;     // of the running mean
    Dice& dice = searcher.dice;
    const std::size_t what = likely(sheet.demand.next(), searcher);
    const Body& body = *in_.asks[what].body;
    crowd.members = sheet.members;
    const std::size_t newcomer = crowd.members.size();
    crowd.members.push_back({&body, {}, int(what), false, in_.gap, seedling});
    Rect within = in_.rules.area;
    if (dice.below(2) == 0) // where a shorter sheet has left room
        within.y0 = std::max(within.y0, sheet.depth - body.radius());
    crowd.settle(newcomer, within, tries, dice);
    crowd.grow(newcomer, work_);
    // One of those that are pressed most looks for another place and grows there, a few times over.
    const double least = hopeless * body.radius(), most = 2 * least;
    for (int k = 0; k < moves && crowd.worst() > least && crowd.worst() < most; ++k) {
        const auto strained = crowd.mostStrained(pressed);
        const std::size_t who = strained[dice.below(strained.size())];
        crowd.members[who].size = seedling;
        crowd.settle(who, in_.rules.area, tries, dice);
        crowd.grow(who, work_);
    }
    searcher.missing[what] += fresh * (crowd.worst() - searcher.missing[what]);
    if (crowd.worst() > least || !crowd.separate(rounds, dice, work_) || !crowd.makeExact(work_))
        return false;
    sheet.members = crowd.members;
    sheet.demand.took(int(what));
    measure(sheet, crowd);
    return true;
}

bool Nester::tryShorter(Sheet& sheet, Crowd& crowd, Dice& dice) const
{
    Rect area = in_.rules.area;
    if (!(sheet.depth > area.y0)) // nothing on it yet
        return false;
    area.y1 = sheet.depth - (sheet.depth - area.y0) * dice.between(0.002, 0.012);
    crowd.members = sheet.members;
    crowd.setArea(area);
    const bool fits = crowd.separate(1, dice, work_) && crowd.makeExact(work_);
    crowd.setArea(in_.rules.area);
    if (!fits)
        return false;
    sheet.members = crowd.members;
    measure(sheet, crowd);
    return true;
}

// Another sheet as good: its bodies driven to one side and apart again, so that its free places lie elsewhere.
void Nester::shake(Sheet& sheet, Crowd& crowd, Dice& dice) const
{
    constexpr double pull = 0.02;
    constexpr int steps = 60, rounds = 3;
    crowd.members = sheet.members;
    crowd.setArea({in_.rules.area.x0, in_.rules.area.y0, in_.rules.area.x1, sheet.depth});
    const double heading = dice.unit() * tau;
    crowd.pack(Point{std::cos(heading), std::sin(heading)} * pull, steps);
    if (crowd.separate(rounds, dice, work_) && crowd.makeExact(work_))
        sheet.members = crowd.members;
    crowd.setArea(in_.rules.area);
}

// Another sheet as good: bodies of different kinds in each other's places.
void Nester::swap(Sheet& sheet, Crowd& crowd, Dice& dice) const
{
    constexpr int rounds = 2;
    std::vector<std::size_t> firsts, others;
    for (std::size_t k = 0; k < sheet.members.size(); ++k)
        if (!sheet.members[k].fixed)
            firsts.push_back(k);
    if (firsts.empty())
        return;
    const std::size_t a = firsts[dice.below(firsts.size())];
    for (const std::size_t k : firsts)
        if (sheet.members[k].what != sheet.members[a].what)
            others.push_back(k);
    if (others.empty())
        return;
    const std::size_t b = others[dice.below(others.size())];
    crowd.members = sheet.members;
    std::swap(crowd.members[a].pose.at, crowd.members[b].pose.at);
    if (in_.rules.turns == Turns::Free)
        for (const std::size_t k : {a, b})
            crowd.members[k].pose.turn = dice.unit() * tau;
    if (crowd.separate(rounds, dice, work_) && crowd.makeExact(work_))
        sheet.members = crowd.members;
}

void Nester::search(Sheet& sheet, std::uint64_t budget, Searcher& searcher) const
{
    constexpr double shorterInstead = 0.08; // of the tries while more is wanted
    constexpr int fails = 8;               // before its bodies go elsewhere
    Dice& dice = searcher.dice;
    Crowd crowd(in_.rules);
    int failed = 0;
    constexpr std::uint64_t atLeast = 1000; // a try counts as, however little it looked at
    for (std::uint64_t tries = 0; crowd.asked() + tries * atLeast < budget && !ended(); ++tries) {
        const bool more = !sheet.demand.next().empty() && dice.unit() >= shorterInstead;
        if (more ? tryOneMore(sheet, crowd, searcher) : tryShorter(sheet, crowd, dice))
            failed = 0;
        else if (++failed % fails == 0)
            dice.below(2) == 0 ? swap(sheet, crowd, dice) : shake(sheet, crowd, dice);
    }
}

void Nester::improve(Sheet& sheet, double seconds, const std::function<void()>& better, const std::function<void(double)>& report)
{
    const int epochs = std::max(1, int(std::lround(seconds / epoch)));
    const auto budget = std::uint64_t(seconds / epochs * placesASecond);
    std::vector<Searcher> searchers;
    for (int s = 0; s < searches; ++s)
        searchers.push_back({Dice(in_.seed * 1000003 + std::uint64_t(s)), std::vector<double>(in_.asks.size())});
    for (int e = 0; e < epochs && !ended(); ++e) {
        report(double(e) / epochs);
        std::vector<Sheet> each(searches, sheet);
        parallelSlices(searches, 1, [&](int begin, int end) {
            for (int s = begin; s < end; ++s)
                search(each[std::size_t(s)], budget, searchers[std::size_t(s)]);
        });
        bool improved = false;
        for (Sheet& s : each)
            if (s.betterThan(sheet)) {
                improved = true;
                sheet = std::move(s);
            }
        if (!improved)
            sheet = std::move(each[std::size_t(e % searches)]); // as good, and shaken
        else if (better)
            better();
    }
}

// Sheets in their order, and what is wanted beyond them.
class Sheets {
public:
    Sheets(const Nesting& in, Nester& nester) : in_(in), nester_(nester), demand_(in.asks)
    {
        for (std::size_t k = 0; k < in.asks.size(); ++k)
            if (!nester.fitsAtAll(k))
                demand_.giveUp(k);
        fillFrom(0);
    }
    std::size_t count() const { return sheets_.size(); }
    Sheet& operator[](std::size_t s) { return sheets_[s]; }
    // Of what is still to be done, by how much lies on it.
    double shareOf(std::size_t s) const
    {
        double own = 0, all = 0;
        for (std::size_t k = s; k < sheets_.size(); ++k) {
            all += double(sheets_[k].members.size());
            own = k == s ? all : own;
        }
        return all > 0 ? own / all : 1;
    }

    // A sheet that took one more leaves one too many on those after it, until they are filled anew.
    std::vector<Settled> all() const
    {
        std::vector<Settled> out;
        std::vector<int> placed(in_.asks.size());
        for (std::size_t s = 0; s < sheets_.size(); ++s)
            for (const Member& m : sheets_[s].members)
                if (m.what >= 0 && placed[std::size_t(m.what)]++ < in_.asks[std::size_t(m.what)].copies.value_or(std::numeric_limits<int>::max()))
                    out.push_back({m.what, int(s), m.pose});
        return out;
    }
    void refillAfter(std::size_t s)
    {
        demand_ = sheets_[s].demand;
        fillFrom(s + 1);
    }

private:
    std::vector<Member> there(std::size_t sheet) const { return in_.there.empty() ? std::vector<Member>{} : in_.there[std::min(sheet, in_.there.size() - 1)]; }
    // What fits as often as it will fills one sheet, or what others leave of the last.
    bool counted() const
    {
        for (std::size_t k = 0; k < in_.asks.size(); ++k)
            if (in_.asks[k].copies && demand_.wants(k))
                return true;
        return false;
    }
    void fillFrom(std::size_t at)
    {
        sheets_.erase(sheets_.begin() + std::ptrdiff_t(std::min(at, sheets_.size())), sheets_.end());
        while (int(sheets_.size()) < in_.mostSheets && !demand_.next().empty() && (sheets_.empty() || counted())) {
            Sheet sheet = nester_.first({there(sheets_.size()), demand_});
            const bool placed = sheet.area > 0;
            if (!placed && !sheets_.empty() && sheets_.size() >= in_.there.size())
                return;
            demand_ = sheet.demand;
            sheets_.push_back(std::move(sheet));
            if (!placed && sheets_.size() >= in_.there.size())
                return;
        }
    }

    const Nesting& in_;
    Nester& nester_;
    Demand demand_;
    std::vector<Sheet> sheets_;
};

} // namespace

std::vector<Settled> nest(const Nesting& in, const Work& work, const std::function<void(const std::vector<Settled>&)>& better, const std::function<bool()>& enough)
{
    Nester nester(in, work, enough);
    Sheets sheets(in, nester); // all roughly first: how many there are says how much work each may have
    const auto show = [&] {
        if (better)
            better(sheets.all());
    };
    show();
    double left = in.seconds;
    for (std::size_t s = 0; s < sheets.count(); ++s) {
        const double now = left * sheets.shareOf(s);
        left -= now;
        const double before = sheets[s].area;
        nester.improve(sheets[s], now, show, [&](double part) { work.report(1 - (left + now * (1 - part)) / std::max(in.seconds, 1e-9), "nesting"); });
        if (sheets[s].area > before) // what went in here is not wanted there
            sheets.refillAfter(s);
    }
    return sheets.all();
}

} // namespace yokai::nesting
