// Sheets: nesting, judged by GEOS (the geometry engine); rows, marks, cuts of their own, order lists and recipes.

#include "cut_order.h"
#include "base/error.h"
#include "formats/order/order.h"
#include "formats/project/project.h"
#include "formats/project/recipe_file.h"
#include "geos.h"
#include "machine/cut_item.h"
#include "run.h"
#include "shapes.h"
#include "formats/drawing.h"
#include "job/derive.h"
#include "sheet/extra_cuts.h"
#include "sheet/nest/first_fit.h"
#include "sheet/sheet.h"

#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QTemporaryDir>
#include <QTest>

#include <numbers>
#include <random>

using namespace yokai;
using namespace yokai::test;

namespace {

// As many points as a cut line has.
Polyline lobed(Point centre, double radius, double depth, int count)
{
    Polyline out;
    const Polyline fine = lobes(centre, radius, depth, count);
    for (std::size_t k = 0; k < fine.size(); k += 25)
        out.push_back(fine[k]);
    return out;
}

class Mix { // of made-up pieces
public:
    explicit Mix(unsigned seed) : random_(seed) {}
    double real(double least, double most) { return std::uniform_real_distribution<double>(least, most)(random_); }
    int whole(int least, int most) { return std::uniform_int_distribution<int>(least, most)(random_); }
    bool coin() { return whole(0, 1) == 1; }

    ToPlace piece(unsigned id)
    {
        auto shape = std::make_shared<PieceShape>();
        const Point at{real(-20, 40), real(-20, 40)};
        const double r = real(5, 16);
        switch (whole(0, 3)) {
        case 0:
            shape->rings = {star(at, r * real(0.3, 0.8), r, whole(3, 9), real(0, 6))};
            break;
        case 1:
            shape->rings = {lobed(at, r, real(0.05, 0.4) * r, whole(2, 7))};
            break;
        case 2: { // a ring: another may lie in it
            Polyline hole = lobed(at, r * 0.7, 0.1, 3);
            std::reverse(hole.begin(), hole.end());
            shape->rings = {lobed(at, r, 0.1, 3), hole};
            break;
        }
        default: {
            const double w = real(3, 30), h = real(3, 8);
            shape->rings = {{at, at + Point{w, 0}, at + Point{w, h}, at + Point{w * 0.3, h}, at + Point{w * 0.3, h * 2}, at + Point{0, h * 2}}};
        }
        }
        ToPlace out{PieceId{id}, Rect::nothing(), std::nullopt};
        for (const Polyline& ring : shape->rings) {
            out.box.add(bounds(ring));
            shape->area += signedArea(ring);
        }
        shape->reach = coin() ? real(0, 2) : 0;
        out.box = out.box.grown(shape->reach);
        if (coin())
            out.copies = whole(1, 6);
        else
            out.share = whole(1, 3);
        out.shape = shape;
        return out;
    }

private:
    std::mt19937 random_;
};

std::vector<Polyline> mappedRings(const Placement& p, const ToPlace& piece)
{
    std::vector<Polyline> out;
    for (Polyline ring : piece.shape->rings) {
        for (Point& point : ring)
            point = p.toSheet(point);
        if (p.toSheet.det() < 0)
            std::reverse(ring.begin(), ring.end());
        out.push_back(std::move(ring));
    }
    return out;
}

// Says what is wrong with a nested sheet; nothing: it is as it should be.
QString judged(const Geos& geos, const Layout& layout, const SheetSpec& spec, const std::vector<ToPlace>& pieces)
{
    constexpr double slack = 1e-6;
    const Rect area = layoutArea(spec);
    for (int s = 0; s < layout.sheets; ++s) {
        const auto on = layout.on(s);
        std::vector<Geos::Shape> regions;
        for (const Placement& p : on) {
            const std::vector<Polyline> rings = mappedRings(p, pieces[p.at]);
            regions.push_back(geos.region(rings));
            const double reach = pieces[p.at].shape->reach;
            Rect box = Rect::nothing();
            for (const Polyline& ring : rings)
                box.add(bounds(ring));
            if (!p.placing && (box.x0 < area.x0 + reach - slack || box.y0 < area.y0 + reach - slack || box.x1 > area.x1 - reach + slack || box.y1 > area.y1 - reach + slack))
                return "beyond the margin";
            for (const Mark& m : layout.marks)
                if (!p.placing && geos.distance(regions.back(), geos.polygon({{m.centre.x - m.diameter / 2, m.centre.y}, {m.centre.x, m.centre.y - m.diameter / 2}, {m.centre.x + m.diameter / 2, m.centre.y}, {m.centre.x, m.centre.y + m.diameter / 2}})) < reach)
                    return "on a mark";
        }
        for (std::size_t i = 0; i < on.size(); ++i)
            for (std::size_t k = 0; k < i; ++k) {
                const double need = std::max({spec.gap.mm(), pieces[on[i].at].shape->reach, pieces[on[k].at].shape->reach});
                if (on[i].placing && on[k].placing)
                    continue;
                if (const double d = geos.distance(regions[i], regions[k]); d < need - slack)
                    return QString("two copies %1 mm apart, of %2").arg(d).arg(need);
                if (geos.common(regions[i], regions[k]) > slack)
                    return "two copies overlap";
            }
    }
    return {};
}

SheetSpec nested(double w, double h)
{
    SheetSpec spec;
    spec.media = {"custom", Length::mm(w), Length::mm(h)};
    spec.margin = 5_mm;
    spec.gap = 2_mm;
    spec.layout = LayoutKind::Nest;
    spec.marks.style = MarkStyle::None;
    spec.nest.seconds = 0.05;
    return spec;
}

} // namespace

class TestSheets : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    QString file(const QString& name) const { return dir_.filePath(name); }
    static Ran batch(const QStringList& args) { return run(YOKAI_BATCH, args); }
    static QString errorOf(const std::function<void()>& f)
    {
        try {
            f();
        } catch (const Error& e) {
            return e.what();
        }
        return {};
    }

private slots:
    // 500 mixes of stars, lobes, rings and angles with and without bleed, numbered and by shares, turned and turned over, round marks and
    // what a hand has put there, on as many sheets as it takes.
    void nothingOverlaps()
    {
        const Geos geos;
        int copies = 0, sheets = 0, inOpenings = 0;
        for (unsigned seed = 1; seed <= 500; ++seed) {
            Mix mix(seed);
            SheetSpec spec = nested(mix.real(60, 110), mix.real(60, 110));
            spec.gap = Length::mm(mix.real(0, 3));
            spec.nest.turns = Turns(mix.whole(0, 2));
            spec.nest.mirror = mix.coin();
            spec.nest.openings = mix.coin();
            spec.nest.seed = int(seed);
            spec.nest.seconds = seed % 10 == 0 ? 0.3 : 0.03;
            if (mix.coin()) {
                spec.marks.style = MarkStyle::Dots;
                spec.marks.inset = 8_mm;
                spec.marks.size = 3_mm;
            }
            std::vector<ToPlace> pieces;
            for (int k = mix.whole(1, 4); k > 0; --k)
                pieces.push_back(mix.piece(unsigned(k)));
            std::vector<Placing> byHand;
            if (mix.coin())
                byHand.push_back({PlacingId{1}, pieces[0].piece, mix.whole(0, 1), Length::mm(spec.width() / 2), Length::mm(spec.height() / 2), mix.real(-180, 180), mix.coin()});
            const Layout layout = layOut(spec, pieces, byHand);
            QVERIFY2(!layout.problem, qPrintable(QString::number(seed)));
            const QString wrong = judged(geos, layout, spec, pieces);
            QVERIFY2(wrong.isEmpty(), qPrintable(QString("mix %1: %2").arg(seed).arg(wrong)));
            for (std::size_t p = 0; p < pieces.size(); ++p) // each fits an empty sheet, so all that are asked for lie somewhere
                QVERIFY2(!pieces[p].copies || layout.placed[p] == *pieces[p].copies, qPrintable(QString("mix %1: %2 of %3").arg(seed).arg(layout.placed[p]).arg(*pieces[p].copies)));
            for (const Placement& a : layout.placements)
                for (const Placement& b : layout.placements)
                    inOpenings += a.sheet == b.sheet && pieces[a.at].shape->rings.size() > 1 && &a != &b &&
                                  contains(mappedRings(a, pieces[a.at])[1], b.toSheet(pieces[b.at].box.centre()));
            copies += int(layout.placements.size());
            sheets += layout.sheets;
        }
        QVERIFY2(copies > 3000 && sheets > 600, qPrintable(QString("%1 copies on %2 sheets").arg(copies).arg(sheets)));
        QVERIFY2(inOpenings > 10, qPrintable(QString::number(inOpenings)));
    }

    // Shares hold to a round; the same seed gives the same sheet, another one another; more time never a worse one.
    void nestingIsRepeatable()
    {
        Mix mix(77);
        std::vector<ToPlace> pieces;
        for (unsigned k = 1; k <= 4; ++k) {
            pieces.push_back(mix.piece(k));
            pieces.back().copies.reset();
            pieces.back().share = k == 1 ? 2 : 1;
        }
        SheetSpec spec = nested(160, 200);
        spec.nest.turns = Turns::Free;
        spec.nest.seconds = 1;
        const Layout once = layOut(spec, pieces), again = layOut(spec, pieces);
        QCOMPARE(once.placements.size(), again.placements.size());
        for (std::size_t k = 0; k < once.placements.size(); ++k)
            QVERIFY(once.placements[k].toSheet == again.placements[k].toSheet && once.placements[k].at == again.placements[k].at);
        QCOMPARE(once.sheets, 1);
        int rounds = 1000;
        for (std::size_t p = 0; p < pieces.size(); ++p)
            rounds = std::min(rounds, once.placed[p] / pieces[p].share);
        QVERIFY(rounds > 2);
        for (std::size_t p = 0; p < pieces.size(); ++p)
            QVERIFY(once.placed[p] <= (rounds + 1) * pieces[p].share);
        SheetSpec other = spec;
        other.nest.seed = 2;
        const Layout another = layOut(other, pieces);
        QVERIFY(!(another.placements[0].toSheet == once.placements[0].toSheet && another.placements.back().toSheet == once.placements.back().toSheet));
        SheetSpec hasty = spec;
        hasty.nest.seconds = 0;
        QVERIFY(layOut(hasty, pieces).usedOf(0) <= once.usedOf(0));
        SheetSpec rows = spec;
        rows.layout = LayoutKind::Grid;
        const double inRows = layOut(rows, pieces).usedOf(0);
        QVERIFY2(once.usedOf(0) > 1.2 * inRows, qPrintable(QString("%1 nested, %2 in rows").arg(once.usedOf(0)).arg(inRows)));
    }

    // Whoever looks on is shown better and better sheets, each sound; and may have enough.
    void betterSheetsAreShown()
    {
        const Geos geos;
        Mix mix(5);
        std::vector<ToPlace> pieces{mix.piece(1), mix.piece(2)};
        for (ToPlace& p : pieces)
            p.copies.reset();
        SheetSpec spec = nested(120, 120);
        spec.nest.turns = Turns::Free;
        spec.nest.seconds = 60; // nobody waits that long
        std::vector<double> used;
        LayoutWatch watch;
        watch.better = [&](const Layout& layout) {
            QCOMPARE(judged(geos, layout, spec, pieces), QString());
            used.push_back(layout.usedOf(0));
        };
        watch.enough = [&] { return used.size() >= 3; };
        const Layout layout = layOut(spec, pieces, {}, {}, watch);
        QVERIFY(used.size() >= 3 && std::is_sorted(used.begin(), used.end()) && used.back() > used.front());
        QVERIFY(layout.usedOf(0) >= used[2]);
        // Put off, only what a hand has placed is there, and it says so.
        const Placing byHand{PlacingId{9}, pieces[0].piece, 0, 60_mm, 60_mm};
        const Layout waits = layOut(spec, pieces, std::span(&byHand, 1), {}, {false, {}, {}});
        QVERIFY(waits.waits && waits.placements.size() == 1 && waits.placements[0].placing == byHand.id);
        // A stop is obeyed.
        std::stop_source stop;
        stop.request_stop();
        QVERIFY_EXCEPTION_THROWN(layOut(spec, pieces, {}, Work{stop.get_token(), {}}), Cancelled);
    }

    // What nesting knows of a shape: distances within what interpolation leaves, exact ones as GEOS has them, none from far away.
    void bodiesKnowTheirDistances()
    {
        const Geos geos;
        std::mt19937 random(3);
        const auto real = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
        for (int shape = 0; shape < 12; ++shape) {
            const std::vector<Polyline> rings{shape % 2 ? star({30, -7}, 8, 20, 3 + shape, 0.4) : lobed({4, 50}, 18, 4, 2 + shape)};
            const nesting::Body body(rings, 0, 5);
            const Geos::Shape region = geos.polygon(rings[0]);
            QVERIFY(std::abs(body.area() - geos.area(region)) < 1e-6);
            for (int k = 0; k < 300; ++k) {
                const Point p{real(-24, 24), real(-24, 24)};
                nesting::Body::Reading reading{};
                const bool near = body.read(p, reading);
                const double away = geos.distanceTo(region, p + body.middle());
                QVERIFY(near || away > 3);
                if (near && away > 0)
                    QVERIFY2(std::abs(reading.away - away) < 0.25 && norm(reading.slope) < 1.2, qPrintable(QString("%1 %2").arg(reading.away).arg(away)));
                if (near && away == 0)
                    QVERIFY(reading.away < 0.25);
            }
            // Every place along the outline is near a sample, every sample on it and in its group's disc.
            for (const nesting::Body::Group& g : body.groups())
                for (std::size_t k = g.first; k < g.first + g.count; ++k)
                    QVERIFY(distance(g.at, body.samples()[k]) <= g.radius + 1e-9 && std::abs(body.edge().distanceTo(body.samples()[k])) < 1e-6);
            double farthest = 0;
            for (const Point p : body.rings()[0]) {
                double nearest = 1e9;
                for (const Point sample : body.samples())
                    nearest = std::min(nearest, distance(p, sample));
                farthest = std::max(farthest, nearest);
            }
            QVERIFY2(farthest < std::max(1.6, body.outline() / 80), qPrintable(QString::number(farthest)));
        }
        // Two of them, turned and turned over: as far apart as GEOS says, to the last digit.
        const std::vector<Polyline> one{star({}, 8, 20, 5, 0.4)}, two{lobed({}, 12, 3, 3)};
        const nesting::Body a(one, 0, 8), b(two, 0, 8);
        int told = 0;
        for (int k = 0; k < 200; ++k) {
            const nesting::Pose first{{real(-5, 5), 0}, real(0, 6), k % 3 == 0}, second{{real(20, 40), real(-10, 10)}, real(0, 6), k % 2 == 0};
            const auto placed = [&](const nesting::Body& body, const nesting::Pose& pose) {
                Polyline out;
                for (const Point p : body.rings()[0])
                    out.push_back(pose.map()(p));
                return geos.polygon(out);
            };
            const double truth = geos.distance(placed(a, first), placed(b, second));
            nesting::Apart apart;
            const bool near = nesting::apart(a, first, b, second, 6, apart);
            if (truth > 0)
                QCOMPARE(near, truth < 6);
            if (near && truth > 0) {
                ++told;
                QVERIFY2(std::abs(apart.distance - truth) < 1e-9, qPrintable(QString("%1 %2").arg(apart.distance).arg(truth)));
                // Moved along the way it says they are farther apart.
                nesting::Pose moved = first;
                moved.at = moved.at + apart.way * 0.01;
                nesting::Apart later;
                QVERIFY(!nesting::apart(a, moved, b, second, 7, later) || later.distance > apart.distance);
            }
            if (truth == 0)
                QVERIFY(near && apart.distance <= 0);
        }
        QVERIFY(told > 40);
    }

    // A heap of discs comes apart where there is room, and says so where there is none; fixed ones stay; exact to the end.
    void heapsComeApart()
    {
        Polyline round;
        for (int k = 0; k < 120; ++k)
            round.push_back(Point{5 * std::cos(k * std::numbers::pi / 60), 5 * std::sin(k * std::numbers::pi / 60)});
        const nesting::Body disc({round}, 0, 4);
        for (const int count : {9, 30}) {
            nesting::Crowd crowd({{0, 0, 60, 60}, Turns::Free});
            nesting::Dice dice(7);
            for (int k = 0; k < count; ++k)
                crowd.members.push_back({&disc, {{dice.between(5, 55), dice.between(5, 55)}, 0, false}, 0, k == 0, 1});
            crowd.members[0].pose.at = {30, 30};
            const bool apart = crowd.separate(12, dice, {}) && crowd.makeExact({});
            QCOMPARE(apart, count == 9); // 30 of 11 mm want more than 60 x 60 mm
            QVERIFY(crowd.members[0].pose.at == (Point{30, 30}));
            if (!apart)
                continue;
            for (std::size_t i = 0; i < crowd.members.size(); ++i) {
                const Point at = crowd.members[i].pose.at;
                QVERIFY(at.x >= 5 - 1e-6 && at.y >= 5 - 1e-6 && at.x <= 55 + 1e-6 && at.y <= 55 + 1e-6);
                for (std::size_t k = 0; k < i; ++k)
                    QVERIFY(distance(at, crowd.members[k].pose.at) > 11 - 0.02); // chords of a hundred-and-twenty-gon
            }
        }
        // One grows into a gap that is wide enough for it, the others giving way.
        nesting::Crowd crowd({{0, 0, 44, 12}, Turns::None});
        for (const double x : {6.0, 15.0, 34.0})
            crowd.members.push_back({&disc, {{x, 6}, 0, false}, 0, false, 0});
        crowd.members.push_back({&disc, {{24.5, 6}, 0, false}, 0, false, 0, 0.3});
        crowd.grow(3, {});
        nesting::Dice dice(1);
        QVERIFY(crowd.separate(3, dice, {}) && crowd.makeExact({}) && crowd.members[3].size == 1);
        for (const nesting::Member& m : crowd.members)
            QCOMPARE(m.pose.turn, 0.0);
    }

    // First places lie as far up as they go, in an opening where there is one, and nothing shares a cell with what was there.
    void firstPlacesAreFree()
    {
        const Geos geos;
        Polyline hole = lobed({}, 14, 0.1, 3);
        std::reverse(hole.begin(), hole.end());
        const nesting::Body ring({lobed({}, 18, 0.1, 3), hole}, 0, 6), small({star({}, 4, 6, 5, 0)}, 0, 6);
        nesting::FirstFit fit({{0, 0, 60, 90}, Turns::Quarter}, 0.5);
        std::vector<nesting::Member> placed;
        for (int k = 0; k < 30; ++k) {
            nesting::Member m{k < 2 ? &ring : &small, {}, k, false, 1};
            const auto pose = fit.place(m, {});
            if (!pose)
                break;
            m.pose = *pose;
            fit.block(m);
            placed.push_back(m);
        }
        QVERIFY2(placed.size() > 12 && placed.size() < 30, qPrintable(QString::number(placed.size())));
        int within = 0;
        for (std::size_t i = 0; i < placed.size(); ++i) {
            within += i > 1 && distance(placed[i].pose.at, placed[0].pose.at) < 9;
            for (std::size_t k = 0; k < i; ++k) {
                nesting::Apart apart;
                QVERIFY(!nesting::apart(*placed[i].body, placed[i].pose, *placed[k].body, placed[k].pose, 1, apart));
            }
        }
        QVERIFY(within >= 1);
        const nesting::Body huge({lobed({}, 40, 0.1, 3)}, 0, 6);
        QVERIFY(!fit.place({&huge, {}, 0, false, 1}, {}));
    }

    // Cuts between copies and of the sheet come after the copies; a copy's own box goes with it.
    void extraCutsComeLast()
    {
        Job job = openProject(YOKAI_DEMO_JOB);
        job.sheet.cuts.separate = job.sheet.cuts.trim = job.sheet.cuts.boxEach = true;
        job.sheet.cuts.boxKind = LineKind::Kiss;
        StepCache cache;
        const Derived d = derive(job, cache, {}, Want::Lines);
        CutItems items = drawSheet(job, d, 0, Content::Cut).cuts;
        items = inCuttingOrder(items);
        std::size_t last = 0, first = items.size();
        int boxes = 0;
        for (std::size_t k = 0; k < items.size(); ++k) {
            const bool own = bool(items[k].piece);
            const bool ofSheet = !own && items[k].copy == int(d.sheet.placements.size());
            boxes += !own && !ofSheet;
            if (own)
                last = k;
            if (ofSheet)
                first = std::min(first, k);
        }
        QVERIFY(first > last);
        QCOMPARE(boxes, int(d.sheet.placements.size()));
    }

    // A row set off by half a step lies closer where the pieces are round: at sin 60 degrees of the pitch, as discs do.
    void staggeredRowsInterlock()
    {
        auto disc = std::make_shared<PieceShape>();
        Polyline round;
        for (int k = 0; k < 360; ++k)
            round.push_back(Point{10 * std::cos(k * std::numbers::pi / 180), 10 * std::sin(k * std::numbers::pi / 180)});
        disc->rings = {round};
        disc->area = signedArea(round);
        SheetSpec spec;
        spec.layout = LayoutKind::Stagger;
        spec.marks.style = MarkStyle::None;
        spec.gap = 2_mm;
        const ToPlace piece{PieceId{1}, {-10, -10, 10, 10}, std::nullopt, 1, disc};
        const Layout layout = layOut(spec, std::span(&piece, 1));
        const int across = int((190 + 2) / 22.0), offAcross = int((190 - 11 + 2) / 22.0);
        const double pitch = layout.placements[std::size_t(across)].toSheet.f - layout.placements[0].toSheet.f;
        QVERIFY2(pitch >= 22 * std::sin(std::numbers::pi / 3) && pitch < 22 * std::sin(std::numbers::pi / 3) + 0.15, qPrintable(QString::number(pitch)));
        QVERIFY(std::abs(layout.placements[std::size_t(across)].toSheet.e - layout.placements[0].toSheet.e - 11) < 1e-9);
        const int rows = int((277 - 20) / pitch) + 1;
        QCOMPARE(layout.placed[0], (rows + 1) / 2 * across + rows / 2 * offAcross);
        double nearest = 1e9;
        for (std::size_t i = 0; i < layout.placements.size(); ++i)
            for (std::size_t k = 0; k < i; ++k)
                nearest = std::min(nearest, std::hypot(layout.placements[i].toSheet.e - layout.placements[k].toSheet.e, layout.placements[i].toSheet.f - layout.placements[k].toSheet.f));
        QVERIFY(nearest > 22 - 0.01);
        // Columns and rows as asked.
        spec.grid.columns = 3;
        spec.grid.rows = 2;
        for (const LayoutKind kind : {LayoutKind::Grid, LayoutKind::Stagger}) {
            spec.layout = kind;
            QCOMPARE(layOut(spec, std::span(&piece, 1)).placed[0], 6);
        }
    }

    // A mix by ratio in rows: whole rounds, then what is left, a round at most.
    void aMixByRatio()
    {
        SheetSpec spec;
        const ToPlace pieces[] = {{PieceId{1}, {0, 0, 30, 20}, std::nullopt, 3}, {PieceId{2}, {0, 0, 20, 30}, std::nullopt, 1}, {PieceId{3}, {0, 0, 15, 15}, 2}};
        const Layout layout = layOut(spec, pieces);
        QCOMPARE(layout.placed[2], 2);
        const int rounds = std::min(layout.placed[0] / 3, layout.placed[1]);
        QVERIFY(rounds > 3);
        QVERIFY(layout.placed[0] <= 3 * (rounds + 1) && layout.placed[1] <= rounds + 1);
    }

    // Every count and style: where they should be, told apart as they should, and doubted where they should be.
    void marksOfAllKinds()
    {
        SheetSpec spec;
        spec.printMargin = 4_mm;
        for (const MarkStyle style : {MarkStyle::Dots, MarkStyle::Crosses, MarkStyle::Brackets})
            for (int count = 3; count <= 8; ++count) {
                spec.marks.style = style;
                spec.marks.count = count;
                const std::vector<Mark> marks = marksOf(spec);
                QCOMPARE(int(marks.size()), count);
                QCOMPARE(std::count_if(marks.begin(), marks.end(), [](const Mark& m) { return m.orientation; }), count > 4 ? 1 : 0);
                for (const Mark& m : marks) {
                    QVERIFY(clearOf(m, 0).x0 > 0 && clearOf(m, 0).x1 < 210);
                    const Paths ink = inkOf(m);
                    QCOMPARE(ink.size(), m.style == MarkStyle::Crosses ? 2u : 1u);
                    // A bracket's arms point into the sheet, from the place that is measured.
                    if (m.style == MarkStyle::Brackets)
                        QVERIFY(ink[0].segments[0].end == m.centre && Rect({0, 0, 210, 297}).grown(-12).contains(ink[0].start));
                }
                const auto doubts = doubtsOf(spec, marks);
                QCOMPARE(doubts.size(), count == 3 ? 1u : 0u);
                QVERIFY(doubts.empty() || doubts[0].why == MarkDoubt::NoneToSpare);
                // None of the turns of the sheet by a right angle or a half, nor turned over, maps five and more onto themselves.
                if (count > 4)
                    for (const Affine& turn : {Affine{-1, 0, 0, -1, 210, 297}, Affine{-1, 0, 0, 1, 210, 0}, Affine{1, 0, 0, -1, 0, 297}})
                        QVERIFY(!std::all_of(marks.begin(), marks.end(), [&](const Mark& m) {
                            return std::any_of(marks.begin(), marks.end(), [&](const Mark& o) { return distance(turn(m.centre), o.centre) < 1; });
                        }));
            }
        // Bands along a roll: a pair at least every so far, to both ends.
        spec.media = {"custom", 600_mm, 3000_mm};
        spec.marks.bandGap = 400_mm;
        std::vector<Mark> marks = marksOf(spec);
        QCOMPARE(marks.size(), 2u * 9 + 1);
        for (std::size_t k = 2; k < 18; k += 2)
            QVERIFY(marks[k].centre.y - marks[k - 2].centre.y <= 400 && marks[k].centre.y == marks[k + 1].centre.y);
        QVERIFY(std::abs(marks[17].centre.y - 2988) < 1e-9);
        // By hand in a line, too close, and off the print.
        spec = {};
        spec.marks.places = {{20_mm, 20_mm}, {60_mm, 21_mm}, {100_mm, 20_mm}, {107_mm, 20_mm}, {2_mm, 20_mm}};
        marks = marksOf(spec);
        QCOMPARE(marks[2].centre, (Point{100, 20}));
        std::vector<MarkDoubt> whys;
        for (const DoubtedMark& d : doubtsOf(spec, marks))
            whys.push_back(d.why);
        QCOMPARE(whys, (std::vector{MarkDoubt::OutsidePrint, MarkDoubt::TooClose, MarkDoubt::InLine}));
    }

    // Straight cuts that part all boxes of a grid: one fewer than rows, and one fewer than columns in each; none goes through a box.
    void extraCutsPartTheCopies()
    {
        const ToPlace pieces[] = {{PieceId{1}, {0, 0, 30, 20}, 11}};
        SheetSpec spec;
        spec.cuts.separate = spec.cuts.boxEach = spec.cuts.boxAll = spec.cuts.trim = spec.cuts.notch = spec.cuts.slit = true;
        const Layout layout = layOut(spec, pieces);
        const Rect boxes[] = {pieces[0].box};
        const ExtraCutsMade made = extraCuts(spec, layout, 0, boxes);
        const auto& cuts = made.cuts;
        QCOMPARE(made.together, std::size_t(0));
        int straight = 0, boxed = 0, slits = 0;
        for (const ExtraCut& cut : cuts) {
            const Rect at = bounds(flatten(cut.path, 0.01));
            boxed += cut.path.closed && cut.copy.has_value();
            slits += !cut.path.closed && cut.copy.has_value();
            if (!cut.path.closed && !cut.copy && (at.width() == 0 || at.height() == 0)) {
                ++straight;
                for (const Placement& p : layout.placements)
                    QVERIFY(!at.grown(1e-9).overlaps(mapped(p.toSheet, boxes[0])));
            }
        }
        QCOMPARE(boxed, 11);
        QCOMPARE(slits, 11);
        const int across = 5, rows = 3; // of 30 mm and the gap on 190
        // One that would run over the fifth mark stops before it, and goes on behind.
        const int asked = rows - 1 + 2 * (across - 1) + (11 - 2 * across - 1);
        QVERIFY2(straight == asked || straight == asked + 1, qPrintable(QString::number(straight)));
        // What cannot be parted by straight cuts from side to side stays together.
        QCOMPARE(partingCuts({0, 0, 30, 30}, {{0, 0, 20, 10}, {20, 0, 30, 20}, {10, 20, 30, 30}, {0, 10, 10, 30}, {11, 11, 19, 19}}).cuts.size(), std::size_t(0));
        QCOMPARE(partingCuts({0, 0, 30, 30}, {{0, 0, 20, 10}, {20, 0, 30, 20}, {10, 20, 30, 30}, {0, 10, 10, 30}, {11, 11, 19, 19}}).together, std::size_t(5));
        // Within the margin, also where a box is wider than the sheet has room for; and clear of marks, or said.
        SheetSpec small;
        small.media = {"custom", 100_mm, 100_mm};
        small.margin = 1_mm;
        small.marks.style = MarkStyle::None;
        small.cuts.boxAll = small.cuts.boxEach = true;
        small.cuts.boxGap = 5_mm;
        const ToPlace wide[] = {{PieceId{1}, {0, 0, 96, 20}, 3}};
        const Rect wideBox[] = {wide[0].box};
        for (const ExtraCut& cut : extraCuts(small, layOut(small, wide), 0, wideBox).cuts) {
            const Rect at = bounds(cut.path);
            QVERIFY2(at.x0 >= 1 - 1e-9 && at.y0 >= 1 - 1e-9 && at.x1 <= 99 + 1e-9 && at.y1 <= 99 + 1e-9, qPrintable(QString("%1 %2 %3 %4").arg(at.x0).arg(at.y0).arg(at.x1).arg(at.y1)));
        }
        SheetSpec marked = spec;
        marked.cuts = {};
        marked.cuts.separate = true;
        marked.marks.count = 8; // in the middle of the long sides, too
        const Layout between = layOut(marked, pieces);
        for (const ExtraCut& cut : extraCuts(marked, between, 0, boxes).cuts)
            for (const Mark& mark : between.marks)
                QVERIFY(nearestPlace({cut.path}, mark.centre)->away > clearOf(mark) - 1e-6);
    }

    // Fields in quotes, semicolons, columns in another order, a mark at the file's beginning; bad rows by their line.
    void orderListsAreRead()
    {
        const auto rows = readOrder("\xef\xbb\xbf" "copies;file;width\r\n12;\"a;b \"\"c\"\".png\";2,5in\r\n\r\n;d.png;\r\n", "o.csv");
        QCOMPARE(rows.size(), 2u);
        QCOMPARE(rows[0].file, std::string("a;b \"c\".png"));
        QVERIFY(rows[0].copies == 12 && rows[0].width == Length::inches(2.5) && !rows[0].height && rows[0].line == 2);
        QVERIFY(!rows[1].copies && rows[1].line == 4);
        QCOMPARE(readOrder("x.png,3,40,,r.yokai", "o.csv")[0].recipe, std::string("r.yokai"));
        for (const auto& [csv, line] : {std::pair("file,copies\na.png,many\n", "line 2"), {"a.png,1\nb.png,0\n", "line 2"}, {"a.png\n,4\n", "line 2"}, {"file,size\n", "line 1"},
                                        {"a.png,1,40cm,2,3,4\n", "line 1"}, {"a.png,1,2parsecs\n", "line 1"}, {"a.png\n\"b.png\n", "line 2"}, {"", "no rows"}, {"a.png,1,0.1mm", "line 1"}}) {
            const QString said = errorOf([&] { readOrder(csv, "o.csv"); });
            QVERIFY2(said.contains(line) && said.contains("o.csv"), qPrintable(QString(csv) + ": " + said));
        }
    }

    // From a list to sheets: the pictures' sizes and counts, a recipe for one of them, as many sheets as it takes.
    void anOrderFillsSheets()
    {
        Job job = openProject(YOKAI_DEMO_JOB);
        job.pieces.erase(job.pieces.begin() + 1, job.pieces.end());
        job.pieces[0].lines() = {{LineKind::Kiss, 1500_um}, {LineKind::Through, 4_mm}};
        job.pieces[0].keep().touches.clear();
        saveProject(job, file("recipe.yokai").toStdString());
        const QString pictures = QStringLiteral(YOKAI_DEMO_PICTURES);
        QVERIFY(QFile::copy(pictures + "/river-imp.png", file("imp, river.png")));
        write(file("order.csv"), QByteArray("file,copies,width,height,recipe\n\"imp, river.png\",70,30mm,,recipe.yokai\n" + (pictures + "/umbrella-imp.png").toUtf8() + ",9,,1in,\n"));
        const Ran r = batch({"sheet", "--order", file("order.csv"), "--cut", file("cut.svg"), "--print", file("print.pdf"), "--report", file("r.json"), "--mark-count", "8", "--marks", "brackets"});
        QVERIFY2(r.code == 0, qPrintable(r.err));
        const QJsonObject report = QJsonDocument::fromJson(read(file("r.json"))).object();
        const QJsonArray sheets = report["sheets"].toArray();
        QVERIFY(sheets.size() > 1);
        int copies = 0, placements = 0;
        for (int s = 0; s < sheets.size(); ++s) {
            copies += sheets[s]["copies"].toInt();
            placements += int(sheets[s]["placements"].toArray().size());
            QCOMPARE(sheets[s]["marks_mm"].toArray().size(), 8);
            QVERIFY(QFile::exists(file(QString("cut-%1.svg").arg(s + 1))) && QFile::exists(file(QString("print-%1.pdf").arg(s + 1))));
        }
        QVERIFY(copies == 79 && placements == 79 && !QFile::exists(file("cut.svg")));
        QCOMPARE(report["sheet"], sheets[0]);
        const QJsonArray pieces = report["pieces"].toArray();
        QCOMPARE(pieces[0]["artwork"]["size_mm"][0].toDouble(), 30.0);
        QCOMPARE(pieces[0]["lines"].toArray().size(), 2);
        QVERIFY(std::abs(pieces[1]["artwork"]["size_mm"][1].toDouble() - 25.4) < 1e-6);
        QCOMPARE(pieces[1]["lines"].toArray().size(), 1);
        // A row that names no picture is named by its line, and nothing is written.
        write(file("bad.csv"), QByteArray("imp, river.png\n"));
        const Ran bad = batch({"sheet", "--order", file("bad.csv"), "--cut", file("never.svg")});
        QVERIFY2(bad.code == 3 && bad.err.contains("line 1 of 'bad.csv'") && bad.err.count('\n') == 1 && !QFile::exists(file("never.svg")), qPrintable(bad.err));
        write(file("bad.csv"), QByteArray("\"imp, river.png\"\nmissing.png,2\n"));
        const Ran missing = batch({"sheet", "--order", file("bad.csv"), "--cut", file("never.svg")});
        QVERIFY2(missing.code == 3 && missing.err.contains("line 2 of 'bad.csv'"), qPrintable(missing.err));
    }

    // A recipe puts all settings on another picture; what a hand did to that one stays or goes as asked; it survives its file.
    void recipesCarrySettings()
    {
        const Job job = openProject(YOKAI_DEMO_JOB);
        Piece from = job.pieces[0], to = job.pieces[1];
        from.lines() = {{LineKind::Kiss, 1_mm}, {LineKind::Through, 3_mm}};
        from.lines()[0].joinGap = 2_mm;
        from.bleed().distance = 2500_um;
        from.keep().smallestPart = 7;
        from.keep().touches = {Touch{}};
        from.artwork.setWidth(44_mm);
        to.lines() = {{LineKind::Through, 1_mm}};
        to.lines()[0].edits = {Edit{}};
        to.keep().touches = {Touch{}, Touch{}};
        to.guides = {Guide{GuideId{3}, {1, 1}, {2, 2}}};
        const Recipe recipe = recipeOf(from, "stickers");
        QVERIFY(recipe.settings.keep().touches.empty() && !recipe.settings.artwork.picture.bytes);
        write(file("stickers.json"), QByteArray(reinterpret_cast<const char*>(writeRecipe(recipe).data()), qsizetype(writeRecipe(recipe).size())));
        const Recipe back = openRecipe(file("stickers.json").toStdString());
        QVERIFY(back == recipe);
        for (const HandWork work : {HandWork::Stays, HandWork::Goes}) {
            Piece piece = to;
            apply(back, piece, work);
            const bool stays = work == HandWork::Stays;
            QVERIFY(piece.name == to.name && piece.id == to.id && piece.copies == to.copies && piece.artwork.picture.digest == to.artwork.picture.digest);
            QVERIFY(piece.lines().size() == 2 && piece.lines()[0].joinGap == 2_mm && piece.bleed().distance == 2500_um && piece.keep().smallestPart == 7);
            QCOMPARE(piece.artwork.width(), 44.0);
            QCOMPARE(piece.keep().touches.size(), stays ? 2u : 0u);
            QCOMPARE(piece.lines()[1].edits.size(), stays ? 1u : 0u); // of the through line, wherever it stands
            QCOMPARE(piece.lines()[1].id, to.lines()[0].id);
            QCOMPARE(piece.guides.size(), stays ? 1u : 0u);
        }
        write(file("broken.json"), "{\"yokai_recipe\": 1, \"settings\": 7}");
        QVERIFY(errorOf([&] { openRecipe(file("broken.json").toStdString()); }).contains("broken.json"));
    }

    // How copies were nested is saved with the job and taken as it is; not when anything it hangs on was changed, nor what
    // could not have been nested so.
    void aNestedSheetIsKept()
    {
        Job job = openProject(YOKAI_DEMO_JOB);
        job.sheet.layout = LayoutKind::Nest;
        job.sheet.nest.seconds = 1;
        StepCache cache;
        const Derived derived = derive(job, cache, {}, Want::Lines);
        QVERIFY(!derived.sheet.placements.empty());
        job.nested = nestedOf(derived);
        const Job back = readProject(writeProject(job), "job");
        QVERIFY(back.nested == job.nested);
        const auto opened = [&](const Job& as) { // nothing is nested for it
            StepCache fresh;
            Watch watch;
            watch.nests = false;
            return derive(as, fresh, {}, Want::Lines, watch);
        };
        const Derived again = opened(back);
        QVERIFY(!again.sheet.waits && again.sheet.used == derived.sheet.used && again.sheet.placed == derived.sheet.placed);
        for (std::size_t k = 0; k < derived.sheet.placements.size(); ++k)
            QVERIFY(again.sheet.placements[k].toSheet == derived.sheet.placements[k].toSheet && again.sheet.placements[k].at == derived.sheet.placements[k].at);
        Job other = back;
        other.sheet.gap = Length::mm(other.sheet.gap.mm() + 0.01);
        QVERIFY(opened(other).sheet.waits);
        other = back;
        other.pieces[0].lines()[0].offset = Length::mm(other.pieces[0].lines()[0].offset.mm() + 0.01);
        QVERIFY(opened(other).sheet.waits);
        const auto tampered = [&](const std::function<void(Nested&)>& with) {
            Job bad = back;
            with(*bad.nested);
            return opened(bad).sheet.waits;
        };
        QVERIFY(!tampered([](Nested&) {}));
        QVERIFY(tampered([](Nested& n) { n.copies[0].at.x += 300; }));
        QVERIFY(tampered([](Nested& n) { n.copies[0].across = n.copies[0].across * 1.01; }));
        QVERIFY(tampered([](Nested& n) { n.copies[0].piece = PieceId{4000}; }));
        QVERIFY(tampered([](Nested& n) { n.copies.insert(n.copies.end(), 500, n.copies[0]); }));
    }

    // Mirrored sheets: print and cut together, or apart; the marks go with each.
    void mirroredSheets()
    {
        const auto marksIn = [&](const QStringList& more) {
            const Ran r = batch(QStringList{"sheet", QStringLiteral(YOKAI_DEMO_PICTURES) + "/river-imp.png", "--width", "40mm", "--copies", "1", "--cut", file("c.svg"), "--print", file("p.svg" "x"), "--report", "-"} + more);
            return r.code;
        };
        QCOMPARE(marksIn({}), 2); // not a print format
        const auto paths = [&](const QString& name) { return QString::fromUtf8(read(file(name))).section("id=\"cut-through\"", 1).section("d=\"M", 1).section(' ', 0, 1); };
        const auto written = [&](const QString& mirror) {
            const Ran r = batch(QStringList{"sheet", QStringLiteral(YOKAI_DEMO_PICTURES) + "/river-imp.png", "--width", "40mm", "--copies", "1", "--cut", file("c.svg"), "--report", file("r.json")} +
                                (mirror.isEmpty() ? QStringList{} : QStringList{mirror}));
            return r.code == 0 ? paths("c.svg").split(' ').value(0).split(',').value(0).toDouble() : -1.0;
        };
        const double plain = written({});
        QVERIFY(plain > 0 && plain < 60);
        QVERIFY(std::abs(written("--sheet-mirror") - (210 - plain)) < 1e-3);
        QVERIFY(std::abs(QJsonDocument::fromJson(read(file("r.json")))["sheet"]["marks_mm"][0][0].toDouble() - 198) < 1e-6);
        QVERIFY(std::abs(written("--sheet-mirror=print") - plain) < 1e-3);
        QVERIFY(std::abs(QJsonDocument::fromJson(read(file("r.json")))["sheet"]["marks_mm"][0][0].toDouble() - 12) < 1e-6);
    }
};

QTEST_GUILESS_MAIN(TestSheets)
#include "test_sheets.moc"
