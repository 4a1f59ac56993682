// Pictures from scanners and cameras in the window: scanned at true size, straightened by four corners or by the sheet's marks, cut where
// they lie. The scanner is SANE's own test device, whose grid looks the same at every resolution (sane-test(5)): squares of 10 mm (from memory).

#include "driver.h"

#include "device/scanner.h"
#include "photo.h"

#include <QCheckBox>
#include <QPointer>

using namespace yokai;
using namespace yokai::test;

class TestScans : public Driver {
    Q_OBJECT

    // SANE set up with nothing but its test device.
    void setUpSane(const QByteArray& picture, const QByteArray& more = {})
    {
        QDir().mkpath(dir_.filePath("sane"));
        write("sane/dll.conf", "test\n");
        write("sane/test.conf", "number_of_devices 1\nmode Gray\ndepth 8\nhand-scanner false\nthree-pass false\nresolution_min 1\nresolution_max 1200\nresolution_quant 1\n"
                                "resolution 50\ntest-picture \"" + picture + "\"\ntl-x 0\ntl-y 0\nbr-x 80\nbr-y 100\n" + more);
        qputenv("SANE_CONFIG_DIR", dir_.filePath("sane").toUtf8());
    }
    void write(const char* name, const QByteArray& text)
    {
        QFile f(dir_.filePath(name));
        QVERIFY(f.open(QIODevice::WriteOnly));
        f.write(text);
    }
    // Where a row of pixels goes from dark to light or back.
    static std::vector<int> edges(const Rgba8& p, int y)
    {
        std::vector<int> out;
        for (int x = 1; x < p.width(); ++x)
            if ((p.at(x, y).r < 128) != (p.at(x - 1, y).r < 128))
                out.push_back(x);
        return out;
    }

private slots:
    void initTestCase()
    {
        start();
        setUpSane("Grid");
    }
    void init() { open(); }
    void cleanup() { window_.reset(); }

    // Through the library: what there is, what it can, and a picture whose millimetres are true at any resolution, grey and in colour.
    void scansAtTrueSize()
    {
        const std::vector<ScannerFound> found = scanners();
        QCOMPARE(found.size(), std::size_t(1));
        QCOMPARE(found[0].name, std::string("test:0"));
        const ScannerFacts facts = factsOf("test:0");
        QVERIFY(facts.width >= 200 && facts.height >= 200 && facts.colour && facts.grey);
        QVERIFY(facts.least <= 75 && facts.most >= 1200);
        for (const double ppi : {150.0, 300.0, 600.0})
            for (const bool colour : {false, true}) {
                const Picture scan = scanned({"test:0", ppi, {20, 10, 90, 40}, colour});
                const SharedRgba pixels = decodePicture(scan);
                QVERIFY2(std::abs(scan.info.ppi - ppi) < 0.01, qPrintable(QString::number(scan.info.ppi)));
                QVERIFY(std::abs(pixels->width() / scan.info.ppi * 25.4 - 70) < 0.2);
                QVERIFY(std::abs(pixels->height() / scan.info.ppi * 25.4 - 30) < 0.2);
                const std::vector<int> at = edges(*pixels, pixels->height() / 4);
                QVERIFY2(at.size() >= 5, qPrintable(QString::number(at.size())));
                const double square = (at.back() - at.front()) / double(at.size() - 1) / scan.info.ppi * 25.4;
                QVERIFY2(std::abs(square - 10) < 0.05, qPrintable(QString::number(square)));
            }
    }

    // The whole way: the command, the dialog, an area drawn on the glass; it is a piece at its size, and the recipe goes on from there.
    void scannedFromTheDialog()
    {
        window_->findChild<QAction*>("scan")->trigger();
        auto* dialog = window_->findChild<QDialog*>("scan", Qt::FindDirectChildrenOnly);
        QVERIFY(dialog && QTest::qWaitFor([&] { return dialog->findChild<QPushButton*>("scan-scan")->isEnabled(); }, 10'000));
        QCOMPARE(dialog->findChild<QComboBox*>("scan-scanner")->currentData().toString(), QString("test:0"));
        QCOMPARE(dialog->findChild<QComboBox*>("scan-ppi")->currentData().toDouble(), 300.0);
        QTest::mouseClick(dialog->findChild<QPushButton*>("scan-preview"), Qt::LeftButton);
        QVERIFY(QTest::qWaitFor([&] { return dialog->findChild<QLabel*>("scan-says")->text().startsWith("Draw"); }, 20'000));
        auto* glass = dialog->findChild<QWidget*>("scan-glass");
        const QPoint from(glass->width() / 4, glass->height() / 4), to(glass->width() / 2, glass->height() / 2);
        QTest::mousePress(glass, Qt::LeftButton, {}, from);
        QTest::mouseMove(glass, to);
        QTest::mouseRelease(glass, Qt::LeftButton, {}, to);
        auto* width = dialog->findChild<NumberField*>("scan-width");
        QVERIFY(width->length() > 10_mm && width->length().mm() < factsOf("test:0").width * 0.6);
        for (const auto& [name, text] : {std::pair("scan-left", "10"), {"scan-top", "10"}, {"scan-width", "2in"}, {"scan-height", "40"}}) {
            auto* field = dialog->findChild<QLineEdit*>(name);
            QTest::mouseClick(field, Qt::LeftButton);
            field->selectAll();
            QTest::keyClicks(field, text);
            QTest::keyClick(field, Qt::Key_Tab);
        }
        QTest::mouseClick(dialog->findChild<QPushButton*>("scan-scan"), Qt::LeftButton);
        QVERIFY(QTest::qWaitFor([&] { return !desk().job().pieces.empty(); }, 20'000));
        QVERIFY(settled());
        QVERIFY2(std::abs(piece().artwork.width() - 50.8) < 1, qPrintable(QString::number(piece().artwork.width())));
        QVERIFY(std::abs(piece().artwork.height() - 40) < 1);
        QCOMPARE(piece().artwork.picture.info.ppiFrom, PpiSource::File);
    }

    // Closed in the middle of a preview: at once, and a scanner can be asked again.
    void closedInTheMiddleOfAPreview()
    {
        for (int k = 0; k < 2; ++k) {
            window_->findChild<QAction*>("scan")->trigger();
            QPointer<QDialog> dialog = window_->findChild<QDialog*>("scan", Qt::FindDirectChildrenOnly);
            QVERIFY(QTest::qWaitFor([&] { return dialog->findChild<QPushButton*>("scan-preview")->isEnabled(); }, 10'000));
            QTest::mouseClick(dialog->findChild<QPushButton*>("scan-preview"), Qt::LeftButton);
            QTest::keyClick(dialog.data(), Qt::Key_Escape);
            QVERIFY(dialog.isNull() || !dialog->isVisible()); // what it is at ends after it
            QVERIFY(QTest::qWaitFor([&] { return dialog.isNull(); }, 10'000));
        }
        QVERIFY(desk().job().pieces.empty());
    }

    // What a scanner refuses is said in one line; a scan that takes long is stopped.
    void whatAScannerRefusesIsSaid()
    {
        try {
            scanned({"test:7", 300, {}, true});
            QFAIL("there is no such scanner");
        } catch (const Error& e) {
            QVERIFY2(QString(e.what()).contains("test:7") && QString(e.what()).contains("scan again"), e.what());
        }
        std::stop_source stop;
        std::thread later([&] {
            std::this_thread::sleep_for(std::chrono::milliseconds(30));
            stop.request_stop();
        });
        QVERIFY_EXCEPTION_THROWN(scanned({"test:0", 1200, {}, true}, {stop.get_token(), {}}), Cancelled);
        later.join();
        QVERIFY(decodePicture(scanned({"test:0", 75, {}, false}))->width() > 100); // it scans again
    }

    // Four corners dragged onto a sheet's in a photo, its sides typed: what lies on it has its true size; corners are dragged again from there.
    void tiltTakenOutByCorners()
    {
        // A sheet of 100 x 80 mm at a slant, with a dark square of 40 x 40 mm in its middle.
        QTransform slant;
        const QPolygonF sheet{QVector<QPointF>{{100, 80}, {520, 60}, {590, 400}, {60, 380}}};
        QVERIFY(QTransform::quadToQuad(QPolygonF{QVector<QPointF>{{0, 0}, {100, 0}, {100, 80}, {0, 80}}}, sheet, slant));
        drop({painted("slant.png", {660, 460}, 10'000, QColor(90, 84, 80), [&](QPainter& p) {
            p.setPen(Qt::NoPen);
            p.setBrush(QColor(244, 244, 240));
            p.drawPolygon(sheet);
            p.setBrush(QColor(30, 40, 90));
            p.setTransform(slant);
            p.drawRect(QRectF(30, 20, 40, 40));
        })});
        enter(Station::Artwork);
        window_->bench().setFocus();
        QTest::keyClick(&window_->bench(), Qt::Key_Q);
        QCOMPARE(int(desk().hand().hold), int(Hold::Tilt));
        for (int k = 0; k < 4; ++k) {
            const Affine toMm = result().sourceToMm;
            drag({q(toMm((*desk().hand().corners)[std::size_t(k)])), q(toMm({sheet[k].x(), sheet[k].y()}))});
        }
        type("artwork-tilt-across", "100");
        type("artwork-tilt-down", "80");
        QTest::mouseClick(find<QCheckBox>("artwork-lies"), Qt::LeftButton, {}, QPoint(8, 8));
        click("artwork-tilt-take");
        QVERIFY(piece().artwork.lies());
        QVERIFY(std::abs(piece().artwork.width() - 100) < 0.1 && std::abs(piece().artwork.height() - 80) < 0.1);
        QCOMPARE(desk().job().sheet.width(), 100.0);
        QCOMPARE(desk().job().sheet.height(), 80.0);
        const Rect kept = result().kept;
        QVERIFY2(std::abs(kept.width() - 40) < 0.6 && std::abs(kept.height() - 40) < 0.6 && distance(kept.centre(), {50, 40}) < 0.4,
                 qPrintable(QString("%1 x %2 at %3 %4").arg(kept.width()).arg(kept.height()).arg(kept.centre().x).arg(kept.centre().y)));
        QVERIFY(!find<QWidget>("artwork-width")->isVisible()); // as large as it lies
        // On the sheet no hand moves it.
        enter(Station::Sheet);
        const auto before = desk().shown()->derived.sheet.placements;
        QCOMPARE(before.size(), std::size_t(1));
        QVERIFY(!find<QWidget>("sheet-copies")->isVisible()); // there is the one
        drag({{50, 40}, {70, 50}});
        QVERIFY(before[0].toSheet == desk().shown()->derived.sheet.placements[0].toSheet && desk().job().placings.empty());
        // The corners are where they were put, and the picture as it came comes back.
        enter(Station::Artwork);
        click("artwork-tilt");
        QVERIFY(distance(result().sourceToMm((*desk().hand().corners)[2]), {100, 80}) < 0.1);
        click("artwork-tilt-leave");
        QVERIFY(!piece().artwork.tilt && std::abs(piece().artwork.width() - 66) < 1e-6);
        QTest::keyClick(&window_->bench(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(settled());
        QVERIFY(piece().artwork.lies());
    }

    // A telephone's photo of the printed sheet: its own marks straighten it, and say how well.
    void tiltTakenOutByMarks()
    {
        SheetSpec sheet;
        Shot shot;
        shot.tilt = 12;
        shot.tiltWay = 70;
        shot.width = 2400;
        shot.height = 1800;
        const Photo photo = photograph(marksOf(sheet), 210, 297, shot, 3);
        const QString file = dir_.filePath("photo.png");
        const Bytes png = encodePng(photo.picture);
        write("photo.png", QByteArray(reinterpret_cast<const char*>(png.data()), qsizetype(png.size())));
        drop({file});
        enter(Station::Artwork);
        click("artwork-tilt");
        click("artwork-tilt-marks");
        QVERIFY2(piece().artwork.lies(), qPrintable(notice()));
        QVERIFY2(notice().contains("Straightened by 5 marks"), qPrintable(notice()));
        const auto above = FromAbove::of(*piece().artwork.tilt, photo.picture.width(), photo.picture.height());
        const std::vector<Mark> design = marksOf(sheet);
        for (std::size_t k = 0; k < design.size(); ++k)
            QVERIFY(distance(above->toPlane()(above->fromPicture(photo.marks[k])), design[k].centre) < 0.15);
        // The stand-in's bed holds that sheet, with the marks it had: the cut finds them, and lands where the thing lies.
        enter(Station::Cut);
        QTest::mouseClick(find<QPushButton>("cut-run"), Qt::LeftButton);
        QVERIFY(QTest::qWaitFor([&] { return !desk().machining().busy() && desk().testCut() != nullptr; }, 60'000) || !notice().isEmpty());
        QVERIFY2(desk().testCut(), qPrintable(notice()));
        QVERIFY2(desk().testCut()->worst < 0.15, qPrintable(QString::number(desk().testCut()->worst)));
        // A picture without them is refused in words, and stays as it was.
        drop({square()});
        enter(Station::Artwork);
        click("artwork-tilt");
        click("artwork-tilt-marks");
        QVERIFY(!piece().artwork.tilt && !notice().isEmpty());
    }
};

DRIVEN_MAIN(TestScans)
#include "test_scans.moc"
