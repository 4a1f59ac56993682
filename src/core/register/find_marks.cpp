#include "register/find_marks.h"

#include "base/error.h"
#include "base/length.h"
#include "base/remapped.h"
#include "register/candidates.h"
#include "register/centre.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace yokai {

namespace {

constexpr double sizeSlack = 0.3;  // of a mark's size: what tilt and blur may change of it
constexpr double looseShare = 0.1; // of a pair's distance: how far tilt may move the others
constexpr double sureMm = 0.35;    // from where the whole says a mark must be, it is that mark
constexpr std::size_t mostCandidates = 160, mostTries = 60;

cv::Mat greyOf(const Rgba8& picture)
{
    const cv::Mat rgba(picture.height(), picture.width(), CV_8UC4, const_cast<Rgba*>(picture.all().data()));
    cv::Mat grey;
    cv::cvtColor(rgba, grey, cv::COLOR_RGBA2GRAY);
    // What is clear shows the paper.
    for (int y = 0; y < grey.rows; ++y) {
        const Rgba* from = picture.row(y);
        unsigned char* to = grey.ptr(y);
        for (int x = 0; x < grey.cols; ++x)
            if (from[x].a != 255)
                to[x] = static_cast<unsigned char>((to[x] * from[x].a + 255 * (255 - from[x].a)) / 255);
    }
    return grey;
}

// Which candidate is which mark; -1: none.
struct Match {
    std::vector<int> of;
    Homography map;               // design to picture
    double worst = 0, square = 0; // mm
    int seen = 0;
};

double scaleAt(const Homography& map, Point p)
{
    constexpr double step = 1; // mm
    const Point at = map(p), x = map(p + Point{step, 0}) - at, y = map(p + Point{0, step}) - at;
    return std::sqrt(std::abs(cross(x, y)));
}

// How far the map is from what any camera of square pixels sees of a plane: with the best focal length between half the picture's
// longer side and none at all, by how much its two axes differ in length, or are off a right angle (Zhang 2000, section 2.3).
double unlikeACamera(const Homography& map, const Lens& lens)
{
    const double cx = lens.middle.x, cy = lens.middle.y;
    // Columns of the matrix, about the picture's middle.
    const double h1[] = {map.affine.a - cx * map.g, map.affine.b - cy * map.g, map.g}, h2[] = {map.affine.c - cx * map.h, map.affine.d - cy * map.h, map.h};
    double best = std::numeric_limits<double>::infinity();
    for (double focal = lens.half; focal < 200 * lens.half; focal *= 1.05) {
        const double f2 = focal * focal;
        const double xx = (h1[0] * h1[0] + h1[1] * h1[1]) / f2 + h1[2] * h1[2], yy = (h2[0] * h2[0] + h2[1] * h2[1]) / f2 + h2[2] * h2[2],
                     xy = (h1[0] * h2[0] + h1[1] * h2[1]) / f2 + h1[2] * h2[2];
        best = std::min(best, std::max(std::abs(std::sqrt(xx / yy) - 1), std::abs(xy) / std::sqrt(xx * yy)));
    }
    return best;
}

constexpr double cameraSlack = 0.012; // of a sheet's length: what stretch and a lens's bulge may do

class Matcher {
public:
    Matcher(std::span<const Mark> design, std::vector<Candidate> candidates, const Lens& lens, const Work& work)
        : design_(design), candidates_(std::move(candidates)), lens_(lens), work_(work)
    {}

    std::vector<Match> best()
    {
        std::vector<Match> tries = firstTries();
        std::vector<Match> out;
        for (Match& m : tries) {
            work_.check();
            // Four places anywhere have a map; only some lie as a camera sees a sheet.
            if (!refine(m) || (m.seen == 4 && unlikeACamera(m.map, lens_) > 1.5 * cameraSlack))
                continue;
            if (std::none_of(out.begin(), out.end(), [&](const Match& other) { return other.of == m.of; }))
                out.push_back(std::move(m));
        }
        std::sort(out.begin(), out.end(), [](const Match& a, const Match& b) { return a.seen != b.seen ? a.seen > b.seen : a.square < b.square; });
        return out;
    }
    const Candidate& candidate(int i) const { return candidates_[std::size_t(i)]; }

private:
    bool fits(const Candidate& c, const Mark& m, double scale) const { return c.style == m.style && std::abs(c.size / (m.diameter * scale) - 1) < sizeSlack; }

    // Two marks far apart as any two candidates: what the others then have near them.
    std::vector<Match> firstTries()
    {
        double farthest = 0;
        for (const Mark& a : design_)
            for (const Mark& b : design_)
                farthest = std::max(farthest, distance(a.centre, b.centre));
        std::vector<Match> out;
        for (std::size_t i = 0; i < design_.size(); ++i)
            for (std::size_t j = i + 1; j < design_.size(); ++j) {
                if (distance(design_[i].centre, design_[j].centre) < 0.6 * farthest)
                    continue;
                for (int a = 0; a < int(candidates_.size()); ++a) {
                    work_.check();
                    for (int b = 0; b < int(candidates_.size()); ++b)
                        if (a != b)
                            tryPair(design_[i], design_[j], candidate(a), candidate(b), out);
                }
            }
        std::stable_sort(out.begin(), out.end(), [](const Match& x, const Match& y) { return x.seen != y.seen ? x.seen > y.seen : x.square < y.square; });
        // The same few may come by several pairs: distinct ones only.
        std::vector<Match> distinct;
        for (Match& m : out) {
            if (distinct.size() >= mostTries)
                break;
            if (std::none_of(distinct.begin(), distinct.end(), [&](const Match& d) { return d.of == m.of; }))
                distinct.push_back(std::move(m));
        }
        return distinct;
    }
    void tryPair(const Mark& i, const Mark& j, const Candidate& a, const Candidate& b, std::vector<Match>& out)
    {
        const Point way = j.centre - i.centre, there = b.at - a.at;
        const double scale = norm(there) / norm(way);
        if (!fits(a, i, scale) || !fits(b, j, scale))
            return;
        const double c = dot(way, there) / dot(way, way), s = cross(way, there) / dot(way, way);
        const Affine turn{c, s, -s, c, 0, 0};
        const Point moved = a.at - turn(i.centre);
        Match m;
        m.map.affine = {c, s, -s, c, moved.x, moved.y};
        assign(m, scale, looseShare * norm(there));
        if (m.seen >= std::min<int>(3, int(design_.size())))
            out.push_back(std::move(m));
    }
    // Each mark's nearest candidate that is like it, within reach; none twice.
    void assign(Match& m, double scale, double reach) const
    {
        m.of.assign(design_.size(), -1);
        m.seen = 0;
        m.square = m.worst = 0;
        std::vector<bool> taken(candidates_.size(), false);
        for (std::size_t k = 0; k < design_.size(); ++k) {
            const Point wanted = m.map(design_[k].centre);
            const double here = scale > 0 ? scale : scaleAt(m.map, design_[k].centre);
            int best = -1;
            double nearest = reach > 0 ? reach : -reach * here; // negative: in mm
            for (int i = 0; i < int(candidates_.size()); ++i)
                if (const double d = distance(candidate(i).at, wanted); d < nearest && !taken[std::size_t(i)] && fits(candidate(i), design_[k], here)) {
                    nearest = d;
                    best = i;
                }
            if (best < 0)
                continue;
            taken[std::size_t(best)] = true;
            m.of[k] = best;
            ++m.seen;
            m.square += nearest / here * (nearest / here);
            m.worst = std::max(m.worst, nearest / here);
        }
    }
    std::vector<MarkPair> pairs(const Match& m) const
    {
        std::vector<MarkPair> out;
        for (std::size_t k = 0; k < design_.size(); ++k)
            if (m.of[k] >= 0)
                out.push_back({design_[k].centre, candidate(m.of[k]).at});
        return out;
    }
    // The whole map from what is near, nearer and nearer.
    bool refine(Match& m) const
    {
        struct Stage {
            FitModel model;
            double reach; // mm
        };
        try {
            for (const Stage stage :
                 {Stage{FitModel::Affine, 12}, {FitModel::Affine, 12}, {FitModel::Projective, 6}, {FitModel::Projective, 3}, {FitModel::Projective, 3}}) {
                const auto found = pairs(m);
                if (int(found.size()) < 3)
                    return false;
                m.map = leastSquares(found, int(found.size()) >= marksNeeded(stage.model) ? stage.model : FitModel::Affine);
                assign(m, 0, -stage.reach);
            }
        } catch (const Error&) {
            return false;
        }
        return m.seen >= std::min<int>(3, int(design_.size())) && turnsNothingOver(m);
    }
    // No sheet is seen from behind, nor at such a slant that its far side is half as large.
    bool turnsNothingOver(const Match& m) const
    {
        double least = 1e18, most = 0;
        for (const Mark& k : design_) {
            const Point at = m.map(k.centre), x = m.map(k.centre + Point{1, 0}) - at, y = m.map(k.centre + Point{0, 1}) - at;
            if (cross(x, y) <= 0)
                return false;
            least = std::min({least, norm(x), norm(y)});
            most = std::max({most, norm(x), norm(y)});
        }
        constexpr double slant = 1.6; // what 20 to 30 degrees of tilt make of near and far, and of across and along
        return most < slant * least;
    }

    std::span<const Mark> design_;
    std::vector<Candidate> candidates_;
    const Lens& lens_;
    const Work& work_;
};

std::vector<Candidate> likeThe(std::span<const Mark> design, std::vector<Candidate> all)
{
    std::erase_if(all, [&](const Candidate& c) { return std::none_of(design.begin(), design.end(), [&](const Mark& m) { return m.style == c.style; }); });
    std::sort(all.begin(), all.end(), [](const Candidate& a, const Candidate& b) { return a.pure < b.pure; });
    all.resize(std::min(all.size(), mostCandidates));
    return all;
}

double turnOfMap(const Homography& map, Point about)
{
    const Point x = map(about + Point{1, 0}) - map(about);
    return std::atan2(x.y, x.x);
}

[[noreturn]] void refused(const std::string& pattern, const std::string& a = {}, const std::string& b = {}) { throw Error(ErrorKind::Fit, pattern, a, b); }

// Residuals of the map through the seen marks, and the map, for a lens.
struct Straightened {
    Homography map;
    std::vector<double> residuals;
    double rms = 0, worst = 0;
};
Straightened straightened(std::span<const Mark> design, const std::vector<std::optional<Point>>& px, const Lens& lens)
{
    std::vector<MarkPair> pairs;
    for (std::size_t k = 0; k < design.size(); ++k)
        if (px[k])
            pairs.push_back({design[k].centre, lens.straight(*px[k])});
    Straightened out;
    out.map = leastSquares(pairs, pairs.size() >= 4 ? FitModel::Projective : FitModel::Affine);
    for (std::size_t k = 0; k < design.size(); ++k) {
        const double r = px[k] ? distance(out.map(design[k].centre), lens.straight(*px[k])) / scaleAt(out.map, design[k].centre) : 0;
        out.residuals.push_back(r);
        out.worst = std::max(out.worst, r);
        out.rms += r * r;
    }
    out.rms = std::sqrt(out.rms / double(pairs.size()));
    return out;
}

// The bulge that leaves least, by halving the span that holds it; only where a number is to spare for it and it explains most of what
// was left.
Straightened withLens(std::span<const Mark> design, FoundMarks& found, int seen)
{
    Straightened plain = straightened(design, found.px, found.lens);
    constexpr double explainable = 0.03, most = 0.12; // mm left; bulge
    if (seen < 5 || plain.rms < explainable)
        return plain;
    double low = -most, high = most;
    const auto left = [&](double bulge) {
        Lens lens = found.lens;
        lens.bulge = bulge;
        return straightened(design, found.px, lens).rms;
    };
    for (int k = 0; k < 40; ++k) {
        const double a = low + (high - low) / 3, b = high - (high - low) / 3;
        (left(a) < left(b) ? high : low) = left(a) < left(b) ? b : a;
    }
    Lens lens = found.lens;
    lens.bulge = (low + high) / 2;
    Straightened better = straightened(design, found.px, lens);
    if (better.rms > plain.rms / 2)
        return plain;
    found.lens = lens;
    return better;
}

// Two ways to see the marks: told apart by what they leave; where nothing tells them apart, as with four, the lesser turn.
const Match& chosen(const std::vector<Match>& matches, std::span<const Mark> design)
{
    const Match* best = &matches.front();
    constexpr double alike = 0.5; // mm
    for (const Match& other : matches) {
        if (&other == best || other.seen < best->seen)
            continue;
        if (std::sqrt(other.square / other.seen) > std::max(3 * std::sqrt(best->square / best->seen), alike))
            continue;
        // The same shapes, otherwise named: a turn of the whole. Else there are two sheets, or things like marks.
        std::vector<int> a = best->of, b = other.of;
        std::sort(a.begin(), a.end());
        std::sort(b.begin(), b.end());
        if (a != b)
            refused("more than one set of shapes in the picture could be the marks; cover what is like a mark, or take the picture of the sheet alone");
        if (design.size() > 4 && best->seen == int(design.size()))
            refused("the marks could be seen more than one way up; take the picture so that all of them show");
        if (std::abs(turnOfMap(other.map, design[0].centre)) < std::abs(turnOfMap(best->map, design[0].centre)) - 1e-3)
            best = &other;
    }
    return *best;
}

// Of four marks that are seen.
bool trustworthy(std::span<const Mark> design, const FoundMarks& found, const Match& match, const Matcher& matcher, const Homography& map)
{
    constexpr double sizes = 0.12; // of a mark's: how well its size is read
    if (unlikeACamera(map, found.lens) > cameraSlack)
        return false;
    // Against each other: ink spreads alike on all.
    std::vector<double> size;
    for (std::size_t k = 0; k < design.size(); ++k)
        if (found.px[k])
            size.push_back(matcher.candidate(match.of[k]).size / (design[k].diameter * scaleAt(map, design[k].centre)));
    const auto [least, most] = std::minmax_element(size.begin(), size.end());
    return *most / *least < 1 + sizes;
}

// Which ways of turning a set of places over or round bring it onto itself: half round, left for right, upside down.
int samenessOf(const std::vector<Point>& places)
{
    constexpr double near = 3; // mm
    Rect box = Rect::nothing();
    for (const Point p : places)
        box.add(p);
    const Point c = box.centre() * 2;
    int out = 0;
    for (const int way : {1, 2, 4}) {
        const bool same = std::all_of(places.begin(), places.end(), [&](Point p) {
            const Point turned{way == 4 ? p.x : c.x - p.x, way == 2 ? p.y : c.y - p.y};
            return std::any_of(places.begin(), places.end(), [&](Point q) { return distance(turned, q) < near; });
        });
        out |= same ? way : 0;
    }
    return out;
}

// Whether those that are not seen are just those that tell the way up, or the front from the back.
bool missesTheWayUp(std::span<const Mark> design, const FoundMarks& found)
{
    std::vector<Point> all, seen;
    for (std::size_t k = 0; k < design.size(); ++k) {
        all.push_back(design[k].centre);
        if (found.px[k])
            seen.push_back(design[k].centre);
    }
    return (samenessOf(seen) & ~samenessOf(all)) != 0;
}

} // namespace

Point FoundMarks::toDesign(Point at) const { return toPicture.inverse()(lens.straight(at)); }

Corners4 FoundMarks::cornersOf(double width, double height) const
{
    Corners4 out{Point{0, 0}, {width, 0}, {width, height}, {0, height}};
    for (Point& p : out)
        p = lens.bent(toPicture(p));
    return out;
}

FoundMarks findMarks(const Rgba8& picture, std::span<const Mark> design, const Work& work)
{
    if (design.size() < 3)
        refused("the sheet has {} marks, and at least three are needed to find it in a picture; add marks", std::to_string(design.size()));
    const cv::Mat grey = greyOf(picture);
    work.report(0.1, "looking for marks");
    FoundMarks found;
    found.lens = {{picture.width() / 2.0, picture.height() / 2.0}, std::hypot(picture.width(), picture.height()) / 2, 0};
    Matcher matcher(design, likeThe(design, markCandidates(grey, work)), found.lens, work);
    work.report(0.5, "telling them apart");
    const std::vector<Match> matches = matcher.best();
    if (matches.empty())
        throw Error(ErrorKind::Input, "the sheet's marks are not seen in the picture; take it from above, with all {} marks in it and in even light",
                    std::to_string(design.size()));
    const Match& match = chosen(matches, design);
    int seen = 0;
    for (std::size_t k = 0; k < design.size(); ++k) {
        std::optional<Point> at;
        if (match.of[k] >= 0)
            at = exactCentre(grey, design[k], matcher.candidate(match.of[k]).at, match.map);
        found.px.push_back(at);
        seen += at.has_value();
    }
    const int needed = design.size() == 3 ? 3 : 4;
    if (seen < needed)
        refused("only {} of the {} marks are seen in the picture; take it so that all of them show", std::to_string(seen), std::to_string(design.size()));
    if (missesTheWayUp(design, found))
        refused("the mark that tells the way up is not seen in the picture; take it so that all of them show, from the printed side");
    Straightened flat = withLens(design, found, seen);
    // A map with eight numbers explains any four places: they must lie as a camera sees a sheet, and be as large as it says.
    if (seen == 4 && !trustworthy(design, found, match, matcher, flat.map))
        refused(seen == int(design.size()) ? "the {} shapes that look like the marks do not lie as a flat sheet's do; take the picture so that all marks show, "
                                             "with nothing like them beside"
                                           : "only {} of the {} marks are seen in the picture, too few to be sure; take it so that all of them show",
                std::to_string(seen), std::to_string(design.size()));
    if (flat.worst > sureMm)
        refused("the marks in the picture do not lie as those of this sheet do (one is {} mm off); check that it is this sheet, and that it lies flat",
                plainNumber(flat.worst, 2));
    found.toPicture = flat.map;
    found.residuals = std::move(flat.residuals);
    found.worst = flat.worst;
    Point middle;
    for (const Mark& m : design)
        middle = middle + m.centre * (1.0 / double(design.size()));
    found.pxPerMm = scaleAt(found.toPicture, middle);
    return found;
}

std::vector<LooseMark> likelyMarks(const Rgba8& picture, const Work& work)
{
    const cv::Mat grey = greyOf(picture);
    std::vector<Candidate> all = markCandidates(grey, work);
    // The most that are alike in style and size.
    std::vector<const Candidate*> best;
    for (const Candidate& c : all) {
        std::vector<const Candidate*> like;
        for (const Candidate& other : all)
            if (other.style == c.style && std::abs(other.size / c.size - 1) < 0.12)
                like.push_back(&other);
        const auto purer = [](const std::vector<const Candidate*>& list) {
            double sum = 0;
            for (const Candidate* l : list)
                sum += l->pure;
            return sum / double(list.size());
        };
        if (like.size() > best.size() || (like.size() == best.size() && !best.empty() && purer(like) < purer(best)))
            best = like;
    }
    std::vector<LooseMark> out;
    for (const Candidate* c : best) {
        Mark mark;
        mark.style = c->style;
        mark.diameter = c->size;
        Homography at;
        at.affine = Affine::move(c->at.x, c->at.y);
        const auto exact = c->style == MarkStyle::Dots ? exactCentre(grey, mark, c->at, at) : std::optional(c->at);
        out.push_back({c->style, exact.value_or(c->at), c->size});
    }
    return out;
}

Rgba8 flattened(const Rgba8& picture, const FoundMarks& found, double width, double height, double pxPerMm, const Work& work)
{
    const int w = std::max(1, int(std::lround(width * pxPerMm))), h = std::max(1, int(std::lround(height * pxPerMm)));
    return remapped(picture, w, h, [&](Point p) { return found.lens.bent(found.toPicture(p * (1 / pxPerMm))); }, Rgba{255, 255, 255, 255}, work);
}

} // namespace yokai
