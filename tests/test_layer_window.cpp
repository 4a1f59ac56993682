// Colour layers in the window: told apart, picked, merged, moved, dropped and seen; and what of them goes to files and to a machine.

#include "driver.h"

#include "job/colour_layers.h"
#include "keep/colour.h"

#include <QCheckBox>
#include <QDir>

using namespace yokai;
using namespace yokai::test;

class TestLayerWindow : public Driver {
    Q_OBJECT

    // 80 mm across: a dark blue disc, a yellow moon, an orange owl with two white eyes and a smaller one below.
    QString owl()
    {
        return painted("owl.png", {800, 800}, 10'000, Qt::transparent, [](QPainter& p) {
            p.setPen(Qt::NoPen);
            const auto disc = [&](QColor c, double x, double y, double r) {
                p.setBrush(c);
                p.drawEllipse(QPointF(x, y) * 10, r * 10, r * 10);
            };
            disc({40, 56, 120}, 40, 40, 38);
            disc({244, 224, 150}, 58, 22, 10);
            disc({226, 110, 50}, 36, 44, 20);
            disc({238, 128, 70}, 36, 58, 4); // hardly another orange
            disc({252, 250, 244}, 30, 38, 5);
            disc({252, 250, 244}, 42, 38, 5);
        });
    }
    void openOwl()
    {
        drop({owl()});
        enter(Station::Keep);
        auto* madeOf = find<Segmented>("keep-made-of");
        madeOf->setFocus();
        QTest::keyClick(madeOf, Qt::Key_Right);
        QVERIFY(QTest::qWaitFor([this] { return piece().layers.size() > 1; }, 10'000));
        QVERIFY(settled());
    }
    QStringList names() // from the bottom up
    {
        QStringList out;
        for (const Layer& l : piece().layers)
            out << QString::fromStdString(l.name);
        return out;
    }
    QWidget& rows() { return *find<QWidget>("layer-rows"); }
    // Where a row of the list is, counted from the top.
    QPoint rowAt(int index)
    {
        const auto parts = dynamic_cast<Drawn&>(rows()).drawnParts();
        return parts.at(std::size_t(index)).place.center();
    }
    double areaOf(const QString& name)
    {
        for (const Layer& l : piece().layers)
            if (QString::fromStdString(l.name) == name) {
                double area = 0;
                for (const CutLine& line : result().layer(l.id).lines)
                    area += line.area;
                return area;
            }
        return -1;
    }
    void pickAt(QPointF mm)
    {
        if (desk().hand().hold != Hold::PickLayer)
            click("keep-pick-layer");
        QTest::mouseClick(&window_->bench(), Qt::LeftButton, {}, onBench(mm));
        QVERIFY(settled());
    }

private slots:
    void initTestCase() { start(); }
    void init() { open(); }
    void cleanup() { close(); }

    // By one press a layer a colour, the largest at the bottom; each is chosen, moved, merged, dropped and renamed by hand, and taken back.
    void layersAreWorkedOn()
    {
        openOwl();
        QCOMPARE(names(), QStringList({"dark blue", "orange", "yellow", "white"}));
        constexpr double pi = 3.14159265358979;
        QVERIFY(std::abs(areaOf("white") - 2 * pi * 25) < 0.5);
        // A press chooses one; Alt with an arrow moves it, and so does a drag.
        QTest::mouseClick(&rows(), Qt::LeftButton, {}, rowAt(2));
        QCOMPARE(QString::fromStdString(desk().currentLayer()->name), QString("orange"));
        QTest::keyClick(&rows(), Qt::Key_Up, Qt::AltModifier);
        QVERIFY(settled());
        QCOMPARE(names(), QStringList({"dark blue", "yellow", "orange", "white"}));
        QTest::mousePress(&rows(), Qt::LeftButton, {}, rowAt(0));
        for (const int y : {rowAt(1).y(), rowAt(3).y(), rowAt(3).y() + 12}) {
            const QPoint at(rowAt(0).x(), y);
            QMouseEvent move(QEvent::MouseMove, at, rows().mapToGlobal(at), Qt::NoButton, Qt::LeftButton, Qt::NoModifier);
            QApplication::sendEvent(&rows(), &move);
        }
        QTest::mouseRelease(&rows(), Qt::LeftButton, {}, QPoint(rowAt(0).x(), rowAt(3).y() + 12));
        QVERIFY(settled());
        QCOMPARE(names(), QStringList({"white", "dark blue", "yellow", "orange"}));
        // What lies under others, and is not seen, is cut all the same.
        QVERIFY(std::abs(areaOf("white") - 2 * pi * 25) < 0.5);
        QTest::keyClick(&rows(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(settled());
        QCOMPARE(names(), QStringList({"dark blue", "yellow", "orange", "white"}));
        // Merged into the one below; the stock is the lower one's.
        QTest::mouseClick(&rows(), Qt::LeftButton, {}, rowAt(0));
        const double orange = areaOf("orange");
        QTest::keyClick(&rows(), Qt::Key_M);
        QVERIFY(settled());
        QCOMPARE(names(), QStringList({"dark blue", "yellow", "orange"}));
        QVERIFY(areaOf("orange") > orange - 0.5); // its eyes were closed before, as they were covered
        QVERIFY(ciede2000(labOf(*stockOf(piece().layers[2])), labOf({226, 110, 50, 255})) < 3);
        type("layer-name", "Plumage");
        type("layer-stock", "#336699");
        QCOMPARE(names().last(), QString("Plumage"));
        QCOMPARE(stockOf(piece().layers[2])->b, std::uint8_t(0x99));
        type("layer-stock", "no colour");
        QCOMPARE(stockOf(piece().layers[2])->b, std::uint8_t(0x99));
        // Dropped, its colours are in no layer, which the list says; a press there brings one back.
        QTest::keyClick(&rows(), Qt::Key_Delete);
        QVERIFY(settled());
        QCOMPARE(names(), QStringList({"dark blue", "yellow"}));
        const auto parts = dynamic_cast<Drawn&>(rows()).drawnParts();
        QCOMPARE(parts.size(), std::size_t(4));
        QVERIFY(parts[2].name.contains("in no layer"));
        QTest::mouseClick(&rows(), Qt::LeftButton, {}, rowAt(2));
        QVERIFY(settled());
        QCOMPARE(names(), QStringList({"dark blue", "yellow", "orange"}));
        // A backing lies beneath, with its border round everything.
        click("layer-backing");
        QCOMPARE(names().first(), QString("backing"));
        QVERIFY(std::abs(areaOf("backing") - pi * 40 * 40) < 6);
        // Saved and read again, all is as it was.
        QVERIFY(readProject(writeProject(desk().job()), "job") == desk().job());
        auto* madeOf = find<Segmented>("keep-made-of");
        madeOf->setFocus();
        QTest::keyClick(madeOf, Qt::Key_Left);
        QVERIFY(settled());
        QCOMPARE(piece().layers.size(), std::size_t(1));
        QVERIFY(!piece().layers[0].ofColours);
    }

    // A press in the picture: a colour that was made one with its like, or one area alone, is a layer of its own.
    void layersArePicked()
    {
        openOwl();
        const double orange = areaOf("orange");
        pickAt({36, 58});
        QCOMPARE(names().size(), qsizetype(5));
        QVERIFY2(std::abs(areaOf(names().last()) - 3.14159 * 16) < 1.5, qPrintable(QString::number(areaOf(names().last()))));
        QVERIFY(std::abs(areaOf("orange") - orange) < 1.5); // it goes on beneath
        // Only here: one of the two eyes.
        auto* where = find<Segmented>("keep-pick-where");
        where->setFocus();
        QTest::keyClick(where, Qt::Key_Right);
        pickAt({30, 38});
        QCOMPARE(names().size(), qsizetype(6));
        for (const QString& name : {names().last(), QString("white")})
            QVERIFY2(std::abs(areaOf(name) - 3.14159 * 25) < 0.4, qPrintable(QString("%1: %2").arg(name).arg(areaOf(name))));
        // What is a layer already is said, and beside the picture nothing is.
        pickAt({30, 38});
        QVERIFY(notice().contains("already"));
        pickAt({1, 1});
        QVERIFY(notice().contains("Nothing is there"));
        QCOMPARE(names().size(), qsizetype(6));
        // A colour takes no part in the order: whatever lies where, each place of the picture is in one layer.
        double all = 0;
        for (Layer l : piece().layers)
            all += areaOf(QString::fromStdString(l.name));
        desk().editPiece("open", [](Piece& p) {
            for (Layer& l : p.layers)
                l.ofColours->closeCovered = false;
        });
        QVERIFY(settled());
        all = 0;
        for (const QString& name : names())
            all += areaOf(name);
        QVERIFY2(std::abs(all - 3.14159265 * 38 * 38) < 2, qPrintable(QString::number(all)));
    }

    // The stack is seen as it will lie; lifted off, what lies beneath a layer is seen in its place. Under a layer another goes on as far as it spreads.
    void theStackIsSeen()
    {
        openOwl();
        QTest::mouseClick(&rows(), Qt::LeftButton, {}, rowAt(1)); // the moon
        QCOMPARE(QString::fromStdString(desk().currentLayer()->name), QString("yellow"));
        const auto seen = [&](QPointF mm) {
            QTest::qWait(300);
            const QColor c = window_->bench().grab().toImage().pixelColor(onBench(mm));
            return Rgba{std::uint8_t(c.red()), std::uint8_t(c.green()), std::uint8_t(c.blue()), 255};
        };
        const auto is = [](Rgba a, Rgba b) { return ciede2000(labOf(a), labOf(b)) < 4; };
        QVERIFY(is(seen({58, 24}), {244, 224, 150, 255}));
        click("layer-lift");
        QVERIFY(is(seen({54, 26}), {40, 56, 120, 255})); // the blue is closed beneath it
        QVERIFY(is(seen({62, 18}), {244, 224, 150, 255})); // lifted up and to the right
        click("layer-lift");
        // With its openings open, it spreads under as far as is typed.
        QTest::mouseClick(&rows(), Qt::LeftButton, {}, rowAt(3));
        QTest::mouseClick(find<QCheckBox>("layer-close-covered"), Qt::LeftButton, {}, QPoint(8, 8));
        QVERIFY(settled());
        const double before = areaOf("dark blue");
        type("layer-spread", "1.5");
        const double ring = 3.14159265 * (2 * 10 * 1.5 - 1.5 * 1.5 + 2 * 20 * 1.5 - 1.5 * 1.5);
        QVERIFY2(std::abs(areaOf("dark blue") - before - ring) < 0.06 * ring, qPrintable(QString("%1 of %2").arg(areaOf("dark blue") - before).arg(ring)));
    }

    // What is of a known length is drawn along and typed: the picture is as large as that makes it, however it is turned; one step to undo.
    void sizedByALength()
    {
        drop({boxes()}); // the dark box is 30 mm wide
        enter(Station::Artwork);
        window_->bench().setFocus();
        QTest::keyClick(&window_->bench(), Qt::Key_M);
        QCOMPARE(int(desk().hand().hold), int(Hold::Measure));
        drag({{15, 20}, {45, 20}});
        QVERIFY(find<QLineEdit>("artwork-measured")->isVisible());
        QCOMPARE(find<QLineEdit>("artwork-measured")->text(), QString("30.00 mm"));
        type("artwork-measured", "4in");
        QVERIFY2(std::abs(piece().artwork.width() - 60 * 101.6 / 30) < 0.02, qPrintable(QString::number(piece().artwork.width())));
        QCOMPARE(find<QLineEdit>("artwork-measured")->text(), QString("101.60 mm"));
        QVERIFY(std::abs(result().kept.width() / piece().artwork.width() - (45 - 4.0) / 60) < 0.01); // all of it grew alike
        QTest::keyClick(&window_->bench(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(settled());
        QVERIFY(std::abs(piece().artwork.width() - 60) < 1e-6);
        QTest::keyClick(&window_->bench(), Qt::Key_M); // put down
        QVERIFY(!desk().hand().measured && !find<QLineEdit>("artwork-measured")->isVisible());
    }

    // Engraved instead of printed: seen on the stock of the material that is chosen; refused by what is no laser; done before the cut.
    void engravedInTheWindow()
    {
        drop({boxes()});
        enter(Station::Bleed);
        auto* is = find<Segmented>("picture-is");
        is->setFocus();
        QTest::keyClick(is, Qt::Key_Right);
        QVERIFY(settled());
        QVERIFY(piece().layers[0].engrave && !find<QWidget>("bleed-distance")->isVisible());
        const auto seen = [&](QPointF mm) {
            QTest::qWait(300);
            return window_->bench().grab().toImage().pixelColor(onBench(mm));
        };
        desk().edit("birch", [](Job& job) {
            job.cut.plan.material = Material{};
            job.cut.plan.material->colour = {222, 190, 140, 255};
            job.cut.plan.machine = Machine{};
            job.cut.plan.machine->kind = MachineKind::Laser;
        });
        QVERIFY(settled());
        QVERIFY(seen({30, 20}).lightness() < 90);                      // burnt
        QVERIFY(std::abs(seen({30, 8.8}).red() - 222) < 12);           // stock, within the line
        choose("engrave-as", 1);
        QCOMPARE(int(piece().layers[0].engrave->as), int(EngraveAs::Threshold));
        QVERIFY(seen({30, 20}).lightness() < 90);
        type("engrave-level", "5"); // darker than anything is
        QVERIFY(seen({30, 20}).lightness() > 150);
        QTest::mouseClick(find<QCheckBox>("engrave-reverse"), Qt::LeftButton, {}, QPoint(8, 8));
        choose("engrave-as", 0);
        QVERIFY(seen({30, 20}).lightness() > 150);
        QVERIFY(seen({30, 8.8}).lightness() < 90);
        // By one press a plain one beside the reversed, and the other way round.
        click("engrave-beside");
        QCOMPARE(desk().job().pieces.size(), std::size_t(2));
        QVERIFY(!piece().layers[0].engrave->reverse && desk().job().pieces[0].layers[0].engrave->reverse && piece().name != desk().job().pieces[0].name);
        // A border line burns the edge wholly, where nothing else is dark enough.
        choose("engrave-as", 1);
        type("engrave-level", "5");
        QVERIFY(seen({15.5, 20}).lightness() > 150);
        type("engrave-border", "1");
        QVERIFY(seen({15.5, 20}).lightness() < 90);
        QVERIFY(seen({17, 20}).lightness() > 150);
        QTest::keyClick(&window_->bench(), Qt::Key_Z, Qt::ControlModifier);
        desk().removePiece(1);
        QVERIFY(settled());
        // It is in the cut files, in an ink of its own, and nothing of it is printed; chosen it is shown by itself.
        enter(Station::HandOff);
        const auto titles = [&] {
            QStringList out;
            auto* list = window_->findChild<SideList*>();
            for (int k = 0; k < list->model()->rowCount(); ++k)
                out << list->rowAt(list->model()->index(k, 0)).title;
            return out;
        };
        QVERIFY2(titles().contains("1 engraved copy") && !titles().contains("1 copy"), qPrintable(titles().join('|')));
        select("1 engraved");
        QCOMPARE(std::get<SeparationSelected>(desk().selection()).of, SeparationSelected::Of::Engraving);
        enter(Station::Cut);
        QVERIFY(QTest::qWaitFor([&] { return desk().machining().onBed().planned != nullptr; }, 20'000));
        const Plan& plan = desk().machining().onBed().planned->plan;
        QVERIFY(plan.runs.size() > 50 && plan.runs.front().scan && !plan.runs.back().scan);
        // Unless it is told otherwise: made the last operation, it is burnt when all is cut.
        select("Engrave");
        for (int k = 0; k < 5; ++k)
            click("operation-later");
        QCOMPARE(int(desk().job().cut.plan.operations.back().operation), int(Operation::Engrave));
        QVERIFY(QTest::qWaitFor([&] { return desk().machining().onBed().planned && !desk().machining().onBed().planned->plan.runs.front().scan; }, 20'000));
        QVERIFY(desk().machining().onBed().planned->plan.runs.back().scan);
        for (int k = 0; k < 5; ++k)
            click("operation-earlier");
        QVERIFY(QTest::qWaitFor([&] { return desk().machining().onBed().planned && desk().machining().onBed().planned->plan.runs.front().scan; }, 20'000));
        desk().edit("blade", [](Job& job) { job.cut.plan.machine->kind = MachineKind::Cutter; });
        QVERIFY(settled());
        QString why;
        QVERIFY(!desk().machining().mayCut(&why) && why.contains("cannot engrave"));
        // The print has nothing of it.
        QVERIFY(!layer().isPrinted);
        QVERIFY(readProject(writeProject(desk().job()), "job") == desk().job());
    }

    // A file a layer, with the same marks; the machine cuts the one layer that is chosen.
    void layersGoOutOneByOne()
    {
        openOwl();
        click("layer-backing");
        enter(Station::HandOff);
        const QString folder = dir_.filePath("handed");
        QDir().mkpath(folder);
        find<QLineEdit>("hand-folder")->setText(folder);
        for (const char* id : {"hand-print", "hand-combined", "hand-dxf"})
            if (find<QCheckBox>(id)->isChecked())
                QTest::mouseClick(find<QCheckBox>(id), Qt::LeftButton, {}, QPoint(8, 8));
        click("hand-write");
        QVERIFY(QTest::qWaitFor([&] { return QDir(folder).entryList({"*.svg"}).size() == 5; }, 10'000));
        QVERIFY(settled());
        QByteArray marks;
        for (const QString& file : QDir(folder).entryList({"*.svg"}, QDir::Files, QDir::Name)) {
            const QByteArray svg = read(QDir(folder).filePath(file));
            const qsizetype from = svg.indexOf("id=\"marks\""), end = svg.indexOf("</g>", from);
            QVERIFY2(file.contains(QRegularExpression("-cut-0[1-5]-")) && from > 0, qPrintable(file));
            QVERIFY(marks.isEmpty() || svg.mid(from, end - from) == marks);
            marks = svg.mid(from, end - from);
        }
        enter(Station::Cut);
        QVERIFY(QTest::qWaitFor([&] { return desk().machining().onBed().planned != nullptr; }, 20'000));
        const auto cutLength = [&] {
            double sum = 0;
            for (const PlannedStep& s : desk().machining().onBed().planned->plan.steps)
                sum += s.cut;
            return sum;
        };
        const double all = cutLength();
        choose("cut-layer", 4); // from the bottom: backing, dark blue, orange, yellow, white
        QVERIFY(QTest::qWaitFor([&] { return desk().machining().onBed().planned && cutLength() < 0.5 * all; }, 20'000));
        QCOMPARE(desk().job().cut.layer, std::string("yellow"));
        QVERIFY2(std::abs(cutLength() - 2 * 3.14159 * 10) < 3, qPrintable(QString::number(cutLength())));
        // Renamed it stays chosen; dropped, nothing is cut in its stead.
        enter(Station::Keep);
        QTest::mouseClick(&rows(), Qt::LeftButton, {}, rowAt(1));
        QCOMPARE(QString::fromStdString(desk().currentLayer()->name), QString("yellow"));
        type("layer-name", "Moon");
        QCOMPARE(desk().job().cut.layer, std::string("Moon"));
        QTest::keyClick(&rows(), Qt::Key_Delete);
        QVERIFY(settled());
        enter(Station::Cut);
        QString why;
        QVERIFY(!desk().machining().mayCut(&why) && why.contains("Moon"));
        choose("cut-layer", 0);
        QVERIFY(desk().machining().mayCut(&why));
    }
};

DRIVEN_MAIN(TestLayerWindow)
#include "test_layer_window.moc"
