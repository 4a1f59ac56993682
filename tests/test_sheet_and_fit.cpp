#include "base/error.h"
#include "machine/tool_path.h"
#include "register/fit.h"
#include "register/measured.h"
#include "sheet/sheet.h"

#include <QTest>

#include <numbers>

using namespace yokai;

namespace {

std::vector<MarkPair> marksThrough(const Affine& map, std::initializer_list<Point> points = {{12, 12}, {198, 12}, {198, 285}, {12, 285}, {24, 12}})
{
    std::vector<MarkPair> out;
    for (const Point p : points)
        out.push_back({p, map(p)});
    return out;
}

} // namespace

class TestSheetAndFit : public QObject {
    Q_OBJECT
private slots:
    // ISO 216: A0 has 1 m2 and sides as 1 : sqrt 2, each next size is half of it, rounded down to
    // a mm; ANSI/ASME Y14.1 A (Letter) is 8.5 x 11 in.
    void mediaSizes()
    {
        int w = 841, h = 1189;
        for (const char* name : {"A0", "A1", "A2", "A3", "A4", "A5", "A6"}) {
            const Media m = mediaFrom(name);
            QCOMPARE(m.width, Length::mm(w));
            QCOMPARE(m.height, Length::mm(h));
            const int half = h / 2;
            h = w;
            w = half;
        }
        QCOMPARE(mediaFrom("letter").width, Length::inches(8.5));
        QCOMPARE(mediaFrom("TABLOID").height, Length::inches(17));
        QCOMPARE(mediaFrom("8x10in").width, Length::inches(8));
        QCOMPARE(mediaFrom("100x150mm").height, Length::mm(150));
        for (const char* bad : {"A99", "x", "10x", "0x0mm", "-5x10mm", "1x1km"})
            QVERIFY_EXCEPTION_THROWN(mediaFrom(bad), Error);
    }

    void copiesStayClearOfEverything()
    {
        const SheetSpec spec;
        const ToPlace pieces[] = {{{-2, -3, 38, 27}, 7}, {{0, 0, 15, 60}, 5}, {{0, 0, 9, 9}, std::nullopt}};
        const Layout l = layOut(spec, pieces);
        QCOMPARE(l.placed[0], 7);
        QCOMPARE(l.placed[1], 5);
        QVERIFY(l.placed[2] > 100);
        QCOMPARE(l.marks.size(), std::size_t(5));
        std::vector<Rect> boxes;
        for (const Placement& p : l.placements) {
            const Rect b = pieces[p.piece].box.moved({p.toSheet.e, p.toSheet.f});
            QVERIFY(b.x0 > 10 - 1e-6 && b.y0 > 10 - 1e-6 && b.x1 < 200 + 1e-6 && b.y1 < 287 + 1e-6);
            for (const Mark& m : l.marks)
                QVERIFY(!b.overlaps(Rect{m.centre.x, m.centre.y, m.centre.x, m.centre.y}.grown(m.diameter / 2 + 1.9)));
            for (const Rect& other : boxes)
                QVERIFY(!b.grown(2.9).overlaps(other));
            boxes.push_back(b);
        }
        // No turn of the sheet by a right angle or a half maps the marks onto themselves.
        const Point a = l.marks[0].centre, e = l.marks[4].centre;
        QVERIFY(distance(a, e) > 8 && distance({210 - e.x, 297 - e.y}, l.marks[2].centre) > 5);
    }

    void sheetsThatCannotBe()
    {
        SheetSpec spec;
        spec.margin = Length::mm(120);
        QVERIFY_EXCEPTION_THROWN(layOut(spec, {}), Error);
        spec = {};
        spec.markInset = Length::mm(1);
        QVERIFY_EXCEPTION_THROWN(layOut(spec, {}), Error);
        const ToPlace large{{0, 0, 500, 10}, 3};
        QCOMPARE(layOut(SheetSpec{}, std::span(&large, 1)).placed[0], 0);
    }

    void fitsGiveBackWhatWasDone()
    {
        const double turn = 0.8 * std::numbers::pi / 180, skew = 0.3 * std::numbers::pi / 180;
        const Affine rigid = Affine::move(3, -2) * Affine::turn(turn);
        const Affine scaled = rigid * Affine::scale(1.01, 1.01);
        const Affine affine = rigid * Affine{1.004, 0, 0.997 * std::sin(skew), 0.997 * std::cos(skew), 0, 0};
        for (const auto& [map, model] : {std::pair(rigid, FitModel::Rigid), {scaled, FitModel::Scaled}, {affine, FitModel::Affine}}) {
            const auto marks = marksThrough(map);
            const Fit fit = fitMarks(marks);
            QCOMPARE(int(fit.model), int(model));
            QVERIFY(fit.worst < 1e-9);
            QVERIFY(std::abs(fit.turn - 0.8) < 1e-6);
            const Point p{77, 141};
            QVERIFY(distance(fit.map(p), map(p)) < 1e-9);
        }
        const Fit fit = fitMarks(marksThrough(affine));
        QVERIFY(std::abs(fit.skew - 0.3) < 1e-6 && std::abs(fit.scaleX - 1.004) < 1e-9 && std::abs(fit.scaleY - 0.997) < 1e-9);
    }

    void badMarksAreRefused()
    {
        const auto refused = [](std::vector<MarkPair> marks, FitModel model = FitModel::Auto) {
            try {
                fitMarks(marks, model);
            } catch (const Error& e) {
                return e.kind() == ErrorKind::Fit;
            }
            return false;
        };
        QVERIFY(refused({}));
        QVERIFY(refused(marksThrough({}, {{1, 1}})));
        QVERIFY(refused(marksThrough({}, {{1, 1}, {1, 1}})));
        QVERIFY(refused(marksThrough({}, {{1, 1}, {2, 2}, {3, 3}}), FitModel::Affine));
        QVERIFY(refused(marksThrough({}, {{1, 1}, {9, 1}}), FitModel::Affine));
        QVERIFY(refused(marksThrough({-1, 0, 0, 1, 0, 0}), FitModel::Affine)); // mirrored
        auto marks = marksThrough({});
        marks[1].measured.x = std::nan("");
        QVERIFY(refused(marks));
        marks = marksThrough({});
        marks[2].measured.y += 4;
        const Fit fit = fitMarks(marks, FitModel::Rigid);
        QVERIFY_EXCEPTION_THROWN(requireResidual(fit, 0.3), Error);
        requireResidual(fit, 5);
        for (const char* text : {"", "{", "[]", "{\"marks\":[]}", "{\"marks\":[{\"design_mm\":[1],\"measured_mm\":[1,2]}]}",
                                 "{\"marks\":[{\"design_mm\":[1,\"a\"],\"measured_mm\":[1,2]}]}"}) {
            const std::string_view t = text;
            QVERIFY_EXCEPTION_THROWN(readMeasured(Bytes(t.begin(), t.end()), "m.json"), Error);
        }
    }

    // Common practice: openings before what is round them, kiss before through.
    void innerGoesFirst()
    {
        Drawing d;
        d.width = d.height = 100;
        const auto square = [](double x, double s, bool hole) {
            Polyline p = {{x, x}, {x + s, x}, {x + s, x + s}, {x, x + s}};
            if (hole)
                std::reverse(p.begin(), p.end());
            return polygonPath(p);
        };
        d.lines = {{LineKind::Through, square(10, 40, false)}, {LineKind::Through, square(20, 10, true)}, {LineKind::Kiss, square(12, 36, false)}};
        const auto strokes = strokesOf(d);
        QCOMPARE(strokes.size(), std::size_t(3));
        QCOMPARE(int(strokes[0].kind), int(LineKind::Kiss));
        QVERIFY(bounds(strokes[1].points).width() < 11);
        QVERIFY(bounds(strokes[2].points).width() > 39);
        QVERIFY(std::abs(bounds(strokes[1].points).y1 - 80) < 1e-9); // y up
        const auto lines = gcodeOf(strokes);
        QCOMPARE(std::count(lines.begin(), lines.end(), "M3"), 3);
        QCOMPARE(lines[0], std::string("G21"));
        QCOMPARE(lines[1], std::string("G90"));
    }
};

QTEST_APPLESS_MAIN(TestSheetAndFit)
#include "test_sheet_and_fit.moc"
