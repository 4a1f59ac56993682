// Each tool of the bench by real gestures: what it does where, that Esc in the middle leaves the
// job as it was, and that what is not its own passes it by.
#include "driver.h"

#include "desk/piece_edits.h"
#include "job/hit_index.h"

#include <numbers>
#include <random>

using namespace yokai;
using namespace yokai::test;

class TestTools : public Driver {
    Q_OBJECT

    struct Gesture {
        const char* name;
        Station station;
        Hold hold;
        QPointF from, to;
    };
    // On boxes(): the line of 2 mm runs 2 mm outside the dark box of 15..45 by 10..30 mm.
    static constexpr Gesture gestures[] = {
        {"line", Station::CutLines, Hold::Nothing, {47, 20}, {50, 20}},   {"brush", Station::Keep, Hold::RubOut, {20, 15}, {40, 25}},
        {"bring back", Station::Keep, Hold::BringBack, {46, 5}, {50, 9}}, {"inside box", Station::Keep, Hold::InsideBox, {12, 5}, {30, 35}},
        {"guide", Station::Artwork, Hold::Guide, {15, 10}, {45, 12}},     {"frame", Station::Artwork, Hold::Frame, {60, 20}, {50, 20}},
        {"enclose", Station::Keep, Hold::Nothing, {12, 5}, {48, 35}}};
    void mouse(QEvent::Type type, QPointF mm, Qt::MouseButton button, Qt::MouseButtons buttons)
    {
        Bench& bench = window_->bench();
        const QPoint at = onBench(mm);
        QMouseEvent event(type, at, bench.mapToGlobal(at), button, buttons, Qt::NoModifier);
        QApplication::sendEvent(&bench, &event);
    }
    void begin(const Gesture& g)
    {
        mouse(QEvent::MouseButtonPress, g.from, Qt::LeftButton, Qt::LeftButton);
        for (const double t : {0.3, 0.6, 1.0})
            mouse(QEvent::MouseMove, g.from + (g.to - g.from) * t, Qt::NoButton, Qt::LeftButton);
    }
    void end(const Gesture& g) { mouse(QEvent::MouseButtonRelease, g.to, Qt::LeftButton, Qt::NoButton); }
    void inHand(Hold hold)
    {
        if (desk().hand().hold != hold)
            desk().hold(hold);
        QVERIFY(settled());
    }
    void take(const Gesture& g)
    {
        enter(g.station);
        inHand(g.hold);
        window_->bench().setFocus();
        window_->bench().fit();
    }

private slots:
    void initTestCase() { start(); }
    void init() { open(); }
    void cleanup() { close(); }

    // A line as it is: it stays when what it followed changes, goes along to another piece, and comes from a drawing.
    void linesAsDrawn()
    {
        drop({boxes()});
        enter(Station::CutLines);
        const double area = layer().lines[0].area;
        choose("line-shape", 6);
        QCOMPARE(piece().lines()[0].shape, LineShape::Drawn);
        QVERIFY(std::abs(layer().lines[0].area - area) < 1e-6 * area);
        QVERIFY(!find<QWidget>("line-offset")->isVisible()); // it has none
        click("line-take");
        desk().editLayer("openings", [](Layer& l) { l.keep.smallestPart = 100; }); // what it followed is less now
        QVERIFY(settled());
        QVERIFY(std::abs(layer().lines[0].area - area) < 1e-6 * area);
        drop({boxes()});
        QCOMPARE(desk().job().pieces.size(), std::size_t(2));
        enter(Station::CutLines);
        click("line-put");
        QCOMPARE(piece().lines().size(), std::size_t(2));
        QVERIFY(std::abs(layer().lines[1].area - area) < 1e-6 * area);
        QVERIFY(piece().lines()[0].id != piece().lines()[1].id);
        // From a drawing as large as the picture: at its own place.
        const QTemporaryDir dir;
        const QString file = dir.filePath("own.svg");
        QFile out(file);
        QVERIFY(out.open(QIODevice::WriteOnly));
        out.write(QString("<svg xmlns='http://www.w3.org/2000/svg' width='%1mm' height='%2mm' viewBox='0 0 %1 %2'><g id='cut-kiss'><rect x='12' y='9' width='20' height='10'/></g></svg>")
                      .arg(result().width, 0, 'f', 4).arg(result().height, 0, 'f', 4).toUtf8());
        out.close();
        std::vector<double> offered;
        const auto units = [&](const CutFile& asked) {
            offered = unitsFor(asked);
            return 72.0;
        };
        edits::openDrawing(desk(), file, units);
        QVERIFY(settled());
        QCOMPARE(piece().lines().size(), std::size_t(3));
        const Rect box = bounds(*layer().lines[2].paths);
        QVERIFY(layer().lines[2].kind == LineKind::Kiss && distance({box.x0, box.y0}, {12, 9}) < 0.01 && std::abs(box.width() - 20) < 0.01);
        // It is touched up as any other line, and the whole comes back from a file.
        const Job before = desk().job();
        const QString saved = dir.filePath("drawn.yokai");
        saveProject(before, saved.toStdString());
        QVERIFY(openProject(saved.toStdString()).pieces == before.pieces);
        QVERIFY(offered.empty()); // the file says its size
        // One that says none is asked for its unit, and is as large as that makes it; as artwork its unit is chosen with the size beside it.
        const QString bare = dir.filePath("bare.svg");
        QFile without(bare);
        QVERIFY(without.open(QIODevice::WriteOnly));
        without.write("<svg xmlns='http://www.w3.org/2000/svg' width='144' height='72'><rect width='144' height='72'/></svg>");
        without.close();
        edits::openDrawing(desk(), bare, units);
        QVERIFY(settled());
        QCOMPARE(offered, (std::vector{72.0, 90.0, 96.0}));
        QVERIFY(std::abs(bounds(*layer().lines.back().paths).width() - 50.8) < 0.01);
        const Point middle = bounds(*layer().lines.back().paths).centre();
        // And when that proves wrong, it is chosen otherwise: about the middle of the picture, where it was put.
        unfold();
        auto* its = find<QComboBox>("line-units");
        QVERIFY(its->isVisible() && its->currentText().contains("1/72 in") && its->itemText(2).contains("38.10"));
        choose("line-units", 2);
        const Rect now = bounds(*layer().lines.back().paths);
        QVERIFY2(std::abs(now.width() - 38.1) < 0.01 && distance(now.centre(), middle) < 0.01, qPrintable(QString::number(now.width())));
        choose("line-units", 0);
        QVERIFY(std::abs(bounds(*layer().lines.back().paths).width() - 50.8) < 0.01);
        while (piece().lines().size() > 3)
            QTest::keyClick(&window_->bench(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(settled());
        drop({bare});
        enter(Station::Artwork);
        auto* unit = find<QComboBox>("artwork-units");
        QVERIFY(unit->isVisible() && unit->currentText().contains("1/96 in") && unit->itemText(0).contains("50.80"));
        choose("artwork-units", 0);
        QVERIFY(std::abs(piece().artwork.width() - 50.8) < 0.01);
        desk().removePiece(desk().piece());
        QVERIFY(settled());
        edits::openDrawing(desk(), dir.filePath("none.svg"), units); // says so and changes nothing
        QVERIFY(settled());
        QVERIFY(desk().job().pieces == before.pieces);
    }

    // Several things in one scan: a press makes each a piece, straightened along its longest edge, at the scan's own scale.
    void severalThingsInOneScan()
    {
        QImage scan(1200, 800, QImage::Format_RGB32);
        scan.fill(QColor(250, 250, 248));
        scan.setDotsPerMeterX(int(300 / 0.0254));
        scan.setDotsPerMeterY(int(300 / 0.0254));
        {
            QPainter painter(&scan);
            painter.setRenderHint(QPainter::Antialiasing);
            const auto box = [&](QPointF at, double degrees, QSizeF size, QColor colour) {
                painter.save();
                painter.translate(at);
                painter.rotate(degrees);
                painter.fillRect(QRectF(QPointF(-size.width() / 2, -size.height() / 2), size), colour);
                painter.restore();
            };
            box({260, 240}, 17, {300, 180}, QColor(160, 30, 60));
            for (int k = 0; k < 40; ++k) // dust, which is dropped
                painter.fillRect(QRectF(30 + 29 * k, 12 + 9 * (k % 5), 3, 3), QColor(90, 90, 90));
            box({640, 300}, -8.5, {160, 340}, QColor(20, 90, 120));
            painter.setBrush(QColor(60, 130, 60));
            painter.setPen(Qt::NoPen);
            painter.drawEllipse(QPointF(880, 300), 120, 120); // no edge to straighten; so near to the next that it reaches into its frame
        }
        const QTemporaryDir dir;
        const QString file = dir.filePath("scan.png");
        QVERIFY(scan.save(file));
        drop({file});
        enter(Station::Artwork);
        const double mm = 25.4 / 300, all = keptArea();
        click("artwork-apart-level");
        QCOMPARE(desk().job().pieces.size(), std::size_t(3));
        // Largest first: the box of 340 x 160, the other, the disc; each alone in its frame and level.
        const QSizeF sizes[] = {{160 * mm, 340 * mm}, {300 * mm, 180 * mm}, {240 * mm, 240 * mm}};
        double sum = 0;
        for (int k = 0; k < 3; ++k) {
            desk().setPiece(k);
            QVERIFY(settled());
            const Rect kept = result().kept;
            QVERIFY2(std::abs(kept.width() - sizes[k].width()) < 0.15 && std::abs(kept.height() - sizes[k].height()) < 0.15,
                     qPrintable(QString("%1: %2 x %3").arg(k).arg(kept.width()).arg(kept.height())));
            QCOMPARE(layer().parts->keptParts, 1);
            sum += keptArea();
        }
        QVERIFY(std::abs(sum - all) < 0.005 * all);
        QVERIFY(!find<QWidget>("artwork-apart")->isVisible()); // there is one thing in each
        QTest::mouseClick(find<QToolButton>("undo"), Qt::LeftButton);
        QVERIFY(settled());
        QCOMPARE(desk().job().pieces.size(), std::size_t(1));
    }

    // A photo has no paper: a box says where the subject is, and strokes what belongs to it.
    void subjectInABox()
    {
        // 60 x 40 mm: an uneven ground, a shaded disc on it and a smaller one of another colour beside it.
        QImage photo(708, 472, QImage::Format_RGB32);
        std::mt19937 random(3);
        for (int y = 0; y < photo.height(); ++y)
            for (int x = 0; x < photo.width(); ++x) {
                const int noise = int(random() % 24) + x / 16 + y / 12;
                const bool disc = std::hypot(x - 250, y - 236) < 140, other = std::hypot(x - 460, y - 236) < 60;
                photo.setPixel(x, y, disc ? qRgb(200 - noise / 2, 60 + noise, 40) : other ? qRgb(40, 60 + noise, 170) : qRgb(90 + noise, 130 + noise, 70 + noise / 2));
            }
        const QTemporaryDir dir;
        const QString file = dir.filePath("subject.png");
        photo.setDotsPerMeterX(int(708 / 0.06));
        photo.setDotsPerMeterY(int(708 / 0.06));
        QVERIFY(photo.save(file));
        drop({file});
        enter(Station::Keep);
        const double pxPerMm = 11.8, disc = std::numbers::pi * 140 * 140 / (pxPerMm * pxPerMm), other = std::numbers::pi * 60 * 60 / (pxPerMm * pxPerMm);
        choose("keep-rule", 6);
        QCOMPARE(int(desk().hand().hold), int(Hold::SubjectBox)); // it asks for a box
        drag({{7, 6}, {36, 34}});
        QCOMPARE(piece().keep().rule, KeepRule::Subject);
        QVERIFY2(std::abs(keptArea() - disc) < 0.01 * disc, qPrintable(QString("%1 of %2").arg(keptArea()).arg(disc)));
        QVERIFY(!find<QWidget>("keep-level")->isVisible()); // it has none
        // A larger box may take in what is not wanted, or leave out what is: strokes say.
        QTest::keyClick(&window_->bench(), Qt::Key_U);
        drag({{4, 4}, {47, 36}});
        QTest::keyClick(&window_->bench(), Qt::Key_S);
        drag({{37.5, 20}, {40.5, 20}});
        QVERIFY2(std::abs(keptArea() - disc - other) < 0.01 * disc, qPrintable(QString("%1 of %2").arg(keptArea()).arg(disc + other)));
        QTest::keyClick(&window_->bench(), Qt::Key_N);
        drag({{37.5, 21}, {40.5, 19}});
        drag({{37.5, 19}, {40.5, 21}});
        QVERIFY2(std::abs(keptArea() - disc) < 0.01 * disc, qPrintable(QString("%1 of %2").arg(keptArea()).arg(disc)));
        QCOMPARE(piece().keep().subject.strokes.size(), std::size_t(3));
        click("keep-unmark");
        QVERIFY(piece().keep().subject.strokes.empty());
        // It stays where it is in the picture when that is turned, or cropped to nothing but it.
        const double before = keptArea();
        enter(Station::Artwork);
        click("artwork-crop-kept");
        QVERIFY(result().width < 50);
        QVERIFY2(std::abs(keptArea() - before) < 0.001 * before, qPrintable(QString("%1, before %2").arg(keptArea()).arg(before)));
        click("artwork-turn-right");
        QVERIFY2(std::abs(keptArea() - before) < 0.01 * before, qPrintable(QString("%1, before %2").arg(keptArea()).arg(before)));
    }

    // A bleed is seen where it will be printed, at its station, and is a step to undo.
    // The piece cut off its print: paper where the bleed does not reach, none where it does; the worst beside it.
    void aCutThatIsOffIsSeen()
    {
        drop({boxes()});
        enter(Station::Bleed);
        QTest::mouseClick(find<QAbstractButton>("bleed-show-cut"), Qt::LeftButton);
        type("cut-off-by", "3");
        type("cut-off-towards", "0"); // the cut lies to the right of where it should
        window_->bench().fit();
        const auto colourAt = [&](QPointF mm) {
            QTest::qWait(300);
            return window_->bench().grab().toImage().pixelColor(onBench(mm));
        };
        const Rect kept = result().kept; // the lines are 2 mm round it
        const QPointF right(kept.x1 + 1.6, 20), left(kept.x1 - 8, 20);
        QVERIFY(colourAt(right).lightness() > 240); // paper
        QVERIFY(colourAt(left).lightness() < 100);
        desk().editLayer("bleed", [](Layer& l) { l.bleed.distance = 6_mm; });
        QVERIFY(settled());
        QVERIFY(colourAt(right).lightness() < 100);
        QVERIFY(colourAt(QPointF(right.x() + result().box.width() + 12, 20)).lightness() < 100); // and the worst of many
        QTest::keyClick(&window_->bench(), Qt::Key_C);
        QCOMPARE(int(desk().hand().hold), int(Hold::Nothing));
    }

    void theBleedIsSeen()
    {
        drop({boxes()});
        enter(Station::Bleed);
        window_->bench().fit();
        const auto colourAt = [&](QPointF mm) {
            QTest::qWait(300); // the bench is drawn on a thread of its own
            return window_->bench().grab().toImage().pixelColor(onBench(mm));
        };
        const QColor dark(30, 40, 90);
        const auto near = [&](QColor c) { return std::abs(c.red() - dark.red()) + std::abs(c.green() - dark.green()) + std::abs(c.blue() - dark.blue()) < 30; };
        const QPointF beyond(30, 6.5); // 3.5 mm above the dark box
        QVERIFY(!near(colourAt(beyond)));
        type("bleed-distance", "4");
        QVERIFY(near(colourAt(beyond)));
        QVERIFY2(std::abs(layer().drift.paper - 2) < 0.02 && std::abs(layer().drift.artwork - 2) < 0.02, qPrintable(QString::number(layer().drift.paper)));
        // In one colour, typed; what is none leaves the one there was.
        auto* from = find<Segmented>("bleed-from");
        from->setFocus();
        QTest::keyClick(from, Qt::Key_Right);
        QTest::keyClick(from, Qt::Key_Right);
        QVERIFY(settled() && piece().bleed().from == BleedFrom::Colour);
        type("bleed-colour", "#ff0000");
        QCOMPARE(colourAt(beyond), QColor(255, 0, 0));
        type("bleed-colour", "reddish");
        QVERIFY((piece().bleed().colour == Rgba{255, 0, 0, 255}));
        // Or picked from the picture.
        QTest::keyClick(&window_->bench(), Qt::Key_P);
        QTest::mouseClick(&window_->bench(), Qt::LeftButton, {}, onBench(QPointF(7, 20))); // the red box
        QVERIFY(settled());
        QVERIFY(piece().bleed().colour.r > 180 && piece().bleed().colour.g < 60 && piece().bleed().from == BleedFrom::Colour);
        QTest::keyClick(&window_->bench(), Qt::Key_P);
        type("bleed-border", "1");
        type("border-colour", "#00ff00");
        QCOMPARE(colourAt(beyond), QColor(0, 255, 0)); // the bleed goes on in the border's colour
        while (desk().history().canUndo() && piece().bleed().distance > Length())
            desk().undo();
        QVERIFY(settled() && !near(colourAt(beyond)));
    }

    void gesturesChangeTheJobOnceOrNotAtAll_data()
    {
        QTest::addColumn<int>("which");
        for (int i = 0; i < int(std::size(gestures)); ++i)
            QTest::newRow(gestures[i].name) << i;
    }
    void gesturesChangeTheJobOnceOrNotAtAll()
    {
        QFETCH(int, which);
        const Gesture& g = gestures[which];
        const bool selects = QLatin1String(g.name) == QLatin1String("enclose");
        drop({boxes()});
        take(g);
        const Bytes before = writeProject(desk().job());
        const Revision revision = desk().history().revision();
        const auto was = [&] { return writeProject(desk().job()) == before && desk().history().revision() == revision; };

        // Given up with Esc: as if nothing had been.
        begin(g);
        QTest::keyClick(&window_->bench(), Qt::Key_Escape);
        end(g);
        QVERIFY(settled() && was());
        QVERIFY(desk().selectedParts().empty());

        // With the wrong button nothing begins.
        inHand(g.hold);
        mouse(QEvent::MouseButtonPress, g.from, Qt::RightButton, Qt::RightButton);
        mouse(QEvent::MouseMove, g.to, Qt::NoButton, Qt::RightButton);
        mouse(QEvent::MouseButtonRelease, g.to, Qt::RightButton, Qt::NoButton);
        QVERIFY(settled() && was());

        // Done: one step, which undo takes back whole.
        window_->bench().fit();
        inHand(g.hold);
        begin(g);
        end(g);
        QVERIFY(settled());
        if (selects) {
            QVERIFY(was());
            QCOMPARE(desk().selectedParts(), std::vector<int>{0});
            return;
        }
        QVERIFY(!was() && desk().history().canUndo());
        QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(settled() && was());
        QTest::keyClick(window_.get(), Qt::Key_Y, Qt::ControlModifier);
        QVERIFY(settled() && !was());
    }

    // Leaving a station in the middle of a gesture gives it up.
    void leavingGivesUp()
    {
        for (const Gesture& g : gestures) {
            drop({boxes()});
            take(g);
            const std::size_t pieces = desk().job().pieces.size();
            const Bytes before = writeProject(desk().job());
            begin(g);
            desk().setStation(Station::Sheet);
            end(g);
            QVERIFY(settled());
            QVERIFY2(writeProject(desk().job()) == before && desk().job().pieces.size() == pieces, g.name);
            desk().removePiece(0);
            QVERIFY(settled());
        }
    }

    // A size that cannot be leaves the tools at rest, and what a handler throws is said and ends nothing.
    void whatAHandlerThrowsIsSaid()
    {
        drop({painted("dot.png", {8, 8}, 1'000, Qt::transparent, [](QPainter& p) { p.fillRect(1, 1, 6, 6, Qt::black); })});
        enter(Station::Artwork);
        desk().editPiece("ppi", [](Piece& p) {
            p.artwork.sizeBy = SizeBy::Ppi;
            p.artwork.ppi = 20'000;
        });
        QVERIFY(settled());
        window_->bench().setFocus();
        QTest::keyClick(&window_->bench(), Qt::Key_C);
        for (int x = 100; x < 400; x += 50)
            QTest::mouseMove(&window_->bench(), QPoint(x, 200));
        QTest::mouseClick(&window_->bench(), Qt::LeftButton, {}, QPoint(300, 300));
        window_->grab();
        QVERIFY(settled());
        // Whatever a handler throws.
        QTimer::singleShot(0, window_.get(), [] { throw std::out_of_range("no library's words"); });
        QTRY_VERIFY2(notice().contains("The last step failed"), qPrintable(notice()));
        QVERIFY2(!notice().contains("library's words"), qPrintable(notice()));
        QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(settled());
        QVERIFY(desk().currentPiece()->artwork.hasScale());
    }

    // While the frame is set the whole picture is on the bench, wherever that was before, the size is the
    // frame's, and afterwards the piece is shown whole again.
    void theFrameIsSetOnAllOfThePicture()
    {
        drop({boxes()});
        enter(Station::Artwork);
        desk().editPiece("crop", [](Piece& p) { p.artwork.cropTo({25, 15, 35, 20}); });
        QVERIFY(settled());
        window_->bench().fit();
        const double close = window_->bench().view().scale;
        const auto seen = [&](const Rect& r) {
            const View& v = window_->bench().view();
            return QRectF(window_->bench().rect())
                .contains(QRectF(v.toScreen({r.x0, r.y0}), v.toScreen({r.x1, r.y1})).adjusted(-10, -10, 10, 34)); // with the tag of its size
        };
        const auto line = [&] { return window_->trail().cards()[0]->accessibleDescription(); };
        QVERIFY(line().startsWith("10.00 \u00d7 5.00 mm"));
        click("artwork-crop");
        QCOMPARE(result().width, 60.0);
        QVERIFY(seen({0, 0, 60, 40}) && window_->bench().view().scale < close / 3);
        QVERIFY2(line().startsWith("10.00 \u00d7 5.00 mm"), qPrintable(line()));
        click("artwork-crop");
        QCOMPARE(result().width, 10.0);
        QVERIFY(std::abs(window_->bench().view().scale - close) < 1e-9);
    }

    // A line is dragged to where the pointer is, also inwards through the edge.
    void linesGoWithThePointer()
    {
        drop({boxes()});
        take(gestures[0]);
        for (const double to : {49.0, 46.0, 44.5, 43.0, 47.0}) {
            const double at = 45 + piece().lines()[0].offset.mm();
            drag({{at, 20}, {to, 20}});
            const double pixel = 1 / window_->bench().view().scale;
            QVERIFY2(std::abs(piece().lines()[0].offset.mm() - (to - 45)) < 1.5 * pixel, qPrintable(QString::number(piece().lines()[0].offset.mm())));
            const double x1 = bounds(*layer().lines[0].paths).x1;
            QVERIFY(std::abs(x1 - 45 - piece().lines()[0].offset.mm()) < 0.03);
        }
        // Of several lines the one that was pressed, which is then the chosen one.
        desk().editLayer("lines", [](Layer& l) {
            l.lines.push_back({LineKind::Kiss, 5_mm});
            l.lines.push_back({LineKind::Perforate, 8_mm});
        });
        QVERIFY(settled());
        window_->bench().fit();
        drag({{50, 20}, {51, 20}});
        QCOMPARE(desk().line(), 1);
        QVERIFY(std::abs(piece().lines()[1].offset.mm() - 6) < 0.2 && piece().lines()[2].offset == 8_mm);
        drag({{53, 20}, {52, 20}});
        QCOMPARE(desk().line(), 2);
        QVERIFY(std::abs(piece().lines()[2].offset.mm() - 7) < 0.2);
    }

    // Any brush, anywhere, leaves what the stroke covers, by counting pixels.
    void brushesCoverTheirStroke()
    {
        drop({boxes()});
        enter(Station::Keep);
        std::mt19937 random(3);
        const auto real = [&](double least, double most) { return least + (most - least) * double(random() % 10'000) / 9'999; };
        for (int round = 0; round < 8; ++round) {
            const Length wide = Length::mm(real(0.6, 6));
            const bool square = round % 2;
            inHand(Hold::RubOut);
            Hand hand = desk().hand();
            hand.brush = wide;
            hand.square = square;
            desk().setHand(hand);
            window_->bench().fit();
            const std::vector<QPointF> way{{real(16, 44), real(11, 29)}, {real(16, 44), real(11, 29)}};
            const double before = keptArea();
            drag(way);
            QCOMPARE(piece().keep().touches.size(), std::size_t(1));
            const Touch& touch = piece().keep().touches[0];
            QVERIFY(touch.square == square && std::abs(2 * touch.radius - 10 * wide.mm()) < 1e-6); // px of the picture, 10 a mm
            // The same stroke over the dark box, sampled.
            const double r = wide.mm() / 2;
            int hits = 0;
            constexpr int fine = 4; // samples a pixel's side
            std::vector<Point> stops;
            for (const Point p : touch.points)
                stops.push_back(p * 0.1);
            for (int y = 0; y < 200 * fine; ++y)
                for (int x = 0; x < 300 * fine; ++x) {
                    const Point p{15 + (x + 0.5) / (10 * fine), 10 + (y + 0.5) / (10 * fine)};
                    bool in = false;
                    for (std::size_t k = 0; k < stops.size() && !in; ++k) {
                        const Point a = stops[k], d = stops[std::min(k + 1, stops.size() - 1)] - a;
                        if (!square) {
                            const double t = std::clamp(dot(p - a, d) / std::max(1e-12, dot(d, d)), 0.0, 1.0);
                            in = distance(p, a + d * t) < r;
                        } else {
                            // Where a square tip passes: somewhere along the way it lies over the place.
                            double from = 0, to = 1;
                            for (const auto& [at, go] : {std::pair(p.x - a.x, d.x), std::pair(p.y - a.y, d.y)}) {
                                if (std::abs(go) < 1e-12) {
                                    if (std::abs(at) >= r)
                                        to = -1;
                                    continue;
                                }
                                const auto [s, e] = std::minmax({(at - r) / go, (at + r) / go});
                                from = std::max(from, s);
                                to = std::min(to, e);
                            }
                            in = from <= to;
                        }
                    }
                    hits += in;
                }
            const double gone = before - keptArea(), should = hits / (100.0 * fine * fine);
            QVERIFY2(std::abs(gone - should) < 0.02 * should + 0.4,
                     qPrintable(QString("%1 brush of %2: %3, not %4").arg(square ? "square" : "round").arg(wide.mm()).arg(gone).arg(should)));
            desk().undo();
            QVERIFY(settled());
        }
    }

    // On the sheet a press chooses the piece whose shape lies there, whatever boxes overlap.
    void copiesAreChosenByTheirShape()
    {
        drop({YOKAI_DEMO_JOB});
        enter(Station::Sheet);
        window_->bench().fit();
        const auto shown = desk().sharedShown();
        const Layout& sheet = shown->derived.sheet;
        std::mt19937 random(9);
        int met = 0, missed = 0;
        for (int k = 0; k < 150; ++k) {
            const Point p{double(random() % unsigned(sheet.width * 10)) / 10, double(random() % unsigned(sheet.height * 10)) / 10};
            PieceId should;
            for (const Placement& place : sheet.placements)
                if (shown->covers(place.at, place.toSheet.inverse()(p)))
                    should = place.piece;
            desk().setPiece(k % 4);
            const PieceId before = desk().currentPiece()->id;
            const QPoint at = onBench({p.x, p.y});
            const QPointF back = window_->bench().view().toMm(at); // a pixel is a third of a mm
            PieceId there;
            for (const Placement& place : sheet.placements)
                if (shown->covers(place.at, place.toSheet.inverse()({back.x(), back.y()})))
                    there = place.piece;
            if (should != there)
                continue; // on a border
            QTest::mouseClick(&window_->bench(), Qt::LeftButton, {}, at);
            QVERIFY(desk().currentPiece()->id == (should ? should : before));
            ++(should ? met : missed);
        }
        QVERIFY(met > 15 && missed > 15);
        QVERIFY(!desk().modified()); // looking changes nothing
    }
};

DRIVEN_MAIN(TestTools)
#include "test_tools.moc"
