// Marks found in pictures whose truth is known, and what must not be taken for them.

#include "base/error.h"
#include "photo.h"
#include "register/find_marks.h"
#include "sheet/sheet.h"

#include <QElapsedTimer>
#include <QTest>

#include <numbers>

using namespace yokai;
using namespace yokai::test;

namespace {

std::vector<Mark> marks(MarkStyle style, int count = 5)
{
    SheetSpec spec;
    spec.marks.style = style;
    spec.marks.count = count;
    return marksOf(spec);
}

double worstMm(const FoundMarks& found, const Photo& photo)
{
    double worst = 0;
    for (std::size_t k = 0; k < photo.marks.size(); ++k)
        if (found.px[k])
            worst = std::max(worst, distance(*found.px[k], photo.marks[k]) / photo.pxPerMm);
    return worst;
}

QString refusal(const Photo& photo, const std::vector<Mark>& design)
{
    try {
        findMarks(photo.picture, design);
    } catch (const Error& e) {
        return QString::fromUtf8(e.what());
    }
    return {};
}

} // namespace

class TestMarks : public QObject {
    Q_OBJECT
private slots:
    // Photos at a slant, any way up, in uneven light, out of focus, with noise and dust: found to 0.15 mm, numbered rightly, never wrong.
    void photosAreRead_data()
    {
        QTest::addColumn<int>("style");
        QTest::newRow("dots") << int(MarkStyle::Dots);
        QTest::newRow("crosses") << int(MarkStyle::Crosses);
        QTest::newRow("brackets") << int(MarkStyle::Brackets);
    }
    void photosAreRead()
    {
        QFETCH(int, style);
        std::mt19937 random(unsigned(style) * 77 + 5);
        const auto design = marks(MarkStyle(style));
        int found = 0;
        for (unsigned n = 0; n < 6; ++n) {
            const Photo photo = photograph(design, 210, 297, carelessShot(random, true), n);
            try {
                const FoundMarks f = findMarks(photo.picture, design);
                const double worst = worstMm(f, photo);
                QVERIFY2(worst < 0.15, qPrintable(QString("%1: %2 mm off").arg(n).arg(worst)));
                ++found;
            } catch (const Error& e) {
                qWarning() << n << e.what();
            }
        }
        QVERIFY2(found >= 5, qPrintable(QString::number(found)));
    }

    // Without tilt, light, noise: to a hundredth of a mm; the middle of a lens that bulges is taken out where marks are to spare.
    void scansAreReadExactly()
    {
        for (const MarkStyle style : {MarkStyle::Dots, MarkStyle::Crosses, MarkStyle::Brackets}) {
            const auto design = marks(style, 7);
            Shot shot;
            shot.turn = 0.7;
            const Photo photo = photograph(design, 210, 297, shot, 3);
            const FoundMarks f = findMarks(photo.picture, design);
            QVERIFY2(worstMm(f, photo) < 0.02, qPrintable(QString::number(worstMm(f, photo))));
            QVERIFY2(f.worst < 0.03, qPrintable(QString::number(f.worst)));
            for (std::size_t k = 0; k < design.size(); ++k)
                QVERIFY(distance(f.toDesign(*f.px[k]), design[k].centre) < 0.03);
        }
        const auto design = marks(MarkStyle::Dots, 8);
        Shot shot;
        shot.bulge = -0.05;
        const Photo photo = photograph(design, 210, 297, shot, 3);
        const FoundMarks f = findMarks(photo.picture, design);
        QVERIFY2(std::abs(f.lens.bulge + 0.05) < 0.01, qPrintable(QString::number(f.lens.bulge)));
        QVERIFY(f.worst < 0.05);
        // The straightened sheet has each mark where it was designed.
        const Rgba8 flat = flattened(photo.picture, f, 210, 297, 8);
        QCOMPARE(flat.width(), 1680);
        for (const Mark& m : design)
            QVERIFY(flat.row(int(m.centre.y * 8))[int(m.centre.x * 8)].r < 80);
        const FoundMarks again = findMarks(flat, design);
        for (std::size_t k = 0; k < design.size(); ++k)
            QVERIFY(distance(*again.px[k] * (1 / 8.0), design[k].centre) < 0.1);
    }

    // One of seven is covered: the others are told, and it is left out. Too many covered, another sheet, a mirrored one, no sheet:
    // refused, with what to do.
    void whatCannotBeTrustedIsRefused()
    {
        const auto design = marks(MarkStyle::Dots, 7);
        Shot shot;
        shot.tilt = 8;
        shot.hidden = 1;
        const Photo covered = photograph(design, 210, 297, shot, 5);
        const FoundMarks f = findMarks(covered.picture, design);
        QVERIFY(!f.px[1] && f.px[0] && f.px[6]);
        QVERIFY(worstMm(f, covered) < 0.1);
        auto few = marks(MarkStyle::Dots, 4);
        QVERIFY(!refusal(photograph(few, 210, 297, shot, 5), few).isEmpty());
        // Marks as many, on other sheets.
        Shot plain;
        plain.tilt = 5;
        SheetSpec inner;
        inner.marks.inset = 30_mm;
        inner.marks.count = 7;
        QVERIFY(!refusal(photograph(marksOf(inner), 210, 297, plain, 6), design).isEmpty());
        SheetSpec letter;
        letter.media = mediaFrom("A3");
        QVERIFY(!refusal(photograph(marksOf(letter), 297, 420, plain, 6), marks(MarkStyle::Dots, 5)).isEmpty());
        QVERIFY(!refusal(photograph({}, 210, 297, plain, 7), design).isEmpty());
        // Seen from behind.
        std::vector<Mark> behind = design;
        for (Mark& m : behind)
            m.centre.x = 210 - m.centre.x;
        QVERIFY(!refusal(photograph(behind, 210, 297, plain, 8), design).isEmpty());
        QVERIFY(refusal(photograph(design, 210, 297, plain, 8), {}).contains("at least three"));
    }

    // With four the lesser turn is taken, with five the way up is known.
    void theWayUpIsTold()
    {
        for (const double turn : {0.0, 90.0, 180.0, 270.0}) {
            Shot shot;
            shot.turn = turn + 3;
            shot.tilt = 6;
            const auto five = marks(MarkStyle::Dots), four = marks(MarkStyle::Dots, 4);
            const Photo photo = photograph(five, 210, 297, shot, 11);
            QVERIFY(worstMm(findMarks(photo.picture, five), photo) < 0.15);
            const Photo other = photograph(four, 210, 297, shot, 11);
            const FoundMarks f = findMarks(other.picture, four);
            const double seen = distance(*f.px[0], other.marks[turn == 180 || turn == 270 ? 2 : 0]) / other.pxPerMm;
            if (turn == 0 || turn == 180)
                QVERIFY2(seen < 0.15, qPrintable(QString::number(seen)));
        }
    }

    // Crosses drawn by hand, of unequal strokes, and a disc: clicked near, their middles are found. Nothing on bare paper.
    void featuresAreFoundByHand()
    {
        Shot shot;
        shot.pictures = false;
        std::vector<Mark> all = marks(MarkStyle::Crosses, 4);
        all[1].style = MarkStyle::Dots;
        all[2].weight = 1.2;
        const Photo photo = photograph(all, 210, 297, shot, 2);
        for (std::size_t k = 0; k < all.size(); ++k) {
            const auto at = featureNear(photo.picture, photo.marks[k] + Point{14, -9}, 60);
            QVERIFY(at.has_value());
            QVERIFY2(distance(*at, photo.marks[k]) / photo.pxPerMm < 0.15,
                     qPrintable(QString("%1: %2").arg(k).arg(distance(*at, photo.marks[k]) / photo.pxPerMm)));
        }
        QVERIFY(!featureNear(photo.picture, mix(photo.marks[0], photo.marks[2], 0.5), 60));
        QVERIFY(!featureNear(photo.picture, {-500, -500}, 60));
        const auto loose = likelyMarks(photograph(marks(MarkStyle::Dots), 210, 297, shot, 2).picture);
        QCOMPARE(loose.size(), std::size_t(5));
    }
};

QTEST_GUILESS_MAIN(TestMarks)
#include "test_marks.moc"
