// The real window, driven as a maker would: press, drag, type, and look at the job
// and at the files that come out.

#include "driver.h"
#include "formats/svg/svg.h"

#include <set>

using namespace yokai;
using namespace yokai::test;

class TestWindow : public Driver {
    Q_OBJECT

private slots:
    void initTestCase() { start(); }
    void init() { open(); }
    void cleanup() { close(); }

    // From dropping a picture to the files on the disk and the cut on the stand-in.
    void fromPictureToProvenCut()
    {
        drop({pictures_ + "umbrella-imp.png"});
        QCOMPARE(desk().job().pieces.size(), std::size_t(1));
        QCOMPARE(int(desk().station()), int(Station::CutLines));
        QCOMPARE(int(desk().layerResult()->coverage->rule), int(KeepRule::Alpha));

        enter(Station::Artwork);
        type("artwork-width", "1 1/2 in");
        QCOMPARE(desk().job().pieces[0].artwork.side, Length::inches(1.5));
        QVERIFY(std::abs(find<NumberField>("artwork-height")->length().mm() - 38.1 * 945 / 733) < 0.001);
        const std::size_t nodes = desk().layerResult()->lines[0].nodes;
        QTest::mouseClick(find<QPushButton>("unit-in"), Qt::LeftButton);
        QTest::mouseClick(find<QPushButton>("unit-mm"), Qt::LeftButton);
        QCOMPARE(desk().job().pieces[0].artwork.side, Length::inches(1.5)); // looking at it in mm changed nothing
        QCOMPARE(desk().layerResult()->lines[0].nodes, nodes);

        enter(Station::CutLines);
        type("line-offset", "1+0.25mm");
        QCOMPARE(desk().layerResult()->lines[0].offset, Length::mm(1.25));

        enter(Station::Sheet);
        type("sheet-copies", "6");
        QCOMPARE(desk().shown()->derived.sheet.placements.size(), std::size_t(6));

        enter(Station::HandOff);
        find<QLineEdit>("hand-folder")->setText(dir_.path());
        QTest::mouseClick(find<QPushButton>("hand-write"), Qt::LeftButton);
        QVERIFY(settled());
        QVERIFY2(notice().contains("Wrote"), qPrintable(notice()));
        const Ran same = run("/usr/bin/python3", {QFINDTESTDATA("reference/geometry.py"), dir_.filePath("umbrella-imp-cut.svg"),
                                                  dir_.filePath("umbrella-imp-cut.dxf"), dir_.filePath("umbrella-imp-combined.pdf")});
        QVERIFY2(same.code == 0 && same.out.startsWith("12 lines"), qPrintable(same.out + same.err)); // an outer line and an opening a copy
        QCOMPARE(run("qpdf", {"--check", dir_.filePath("umbrella-imp-print.pdf")}).code, 0);

        enter(Station::Cut);
        QTest::mouseClick(find<QPushButton>("cut-run"), Qt::LeftButton);
        QVERIFY(settled());
        QVERIFY2(desk().testCut(), qPrintable(notice()));
        const auto fitted = desk().testCut();
        QCOMPARE(int(fitted->fit->model), int(FitModel::Affine));
        QVERIFY(std::abs(fitted->fit->scaleX - desk().job().cut.standIn.stretchX) < 5e-4);
        QVERIFY(std::abs(fitted->fit->turn - desk().job().cut.standIn.turn) < 0.03);
        QVERIFY2(fitted->worst < 0.1, qPrintable(QString::number(fitted->worst)));
        auto* onOff = find<Segmented>("cut-fit");
        QTest::mouseClick(onOff, Qt::LeftButton, {}, QPoint(onOff->width() - 8, 10));
        QVERIFY(settled());
        QVERIFY(!desk().testCut()); // another job, not tried yet
        QTest::mouseClick(find<QPushButton>("cut-run"), Qt::LeftButton);
        QVERIFY(settled());
        QVERIFY(desk().testCut() && !desk().testCut()->fit);
        QVERIFY(desk().testCut()->worst > 20 * fitted->worst);
    }

    void draggingTheLineChangesTheOffset()
    {
        drop({pictures_ + "river-imp.png"});
        enter(Station::CutLines);
        Bench& bench = window_->bench();
        const LayerResult* r = desk().layerResult();
        // On the line at its rightmost place, pulled 1.5 mm outwards and back by undo.
        Point at;
        for (const Point p : flatten((*r->lines[0].paths)[0], 0.001))
            if (p.x > at.x)
                at = p;
        const auto screen = [&](double dx) { return bench.view().toScreen(QPointF(at.x + dx, at.y)).toPoint(); };
        QTest::mouseMove(&bench, screen(0));
        QTest::mousePress(&bench, Qt::LeftButton, {}, screen(0));
        for (double dx = 0.25; dx <= 1.5; dx += 0.25) {
            QMouseEvent move(QEvent::MouseMove, screen(dx), bench.mapToGlobal(screen(dx)), Qt::NoButton, Qt::LeftButton, {});
            QApplication::sendEvent(&bench, &move);
            QTest::qWait(15);
        }
        QTest::mouseRelease(&bench, Qt::LeftButton, {}, screen(1.5));
        QVERIFY(settled());
        const double now = desk().job().pieces[0].lines()[0].offset.mm();
        QVERIFY2(std::abs(now - 3.5) < 0.2, qPrintable(QString::number(now)));
        QCOMPARE(desk().layerResult()->lines[0].offset.mm(), now);
        QTest::mouseClick(find<QToolButton>("undo"), Qt::LeftButton);
        QCOMPARE(desk().job().pieces[0].lines()[0].offset, Length::mm(2)); // the whole drag is one step
        QTest::mouseClick(find<QToolButton>("redo"), Qt::LeftButton);
        QCOMPARE(desk().job().pieces[0].lines()[0].offset.mm(), now);
        QVERIFY(settled());
    }

    void artworkIsTurnedAndCropped()
    {
        drop({boxes(6)});
        enter(Station::Artwork);
        QCOMPARE(result().pxPerMm, 10.0);
        const Bytes before = writeProject(desk().job());
        // A guide along the dark box's upper side makes it level.
        click("artwork-guide");
        const double a = 6 * M_PI / 180;
        const auto askew = [&](double x, double y) { return QPointF(30 + x * std::cos(a) - y * std::sin(a), 20 + x * std::sin(a) + y * std::cos(a)); };
        drag({askew(-13, -10), askew(14, -10)});
        QVERIFY2(std::abs(piece().artwork.straighten + 6) < 0.5, qPrintable(QString::number(piece().artwork.straighten)));
        QCOMPARE(int(desk().hand().hold), int(Hold::Nothing));
        type("artwork-straighten", "-6");
        QCOMPARE(piece().artwork.straighten, -6.0);
        const Part& dark = layer().parts->all[0];
        QVERIFY(std::abs(dark.box.width() - 30) < 0.05 && std::abs(dark.box.height() - 20) < 0.05);
        // Cropped to what is kept with the margin, which changes no size.
        click("artwork-crop-kept");
        QVERIFY2(std::abs(result().width - (15 + 26 + 10)) < 0.15, qPrintable(QString::number(result().width)));
        QCOMPARE(result().pxPerMm, 10.0);
        // The frame's right side dragged inwards by 10 mm, on the whole picture.
        click("artwork-crop");
        QVERIFY(result().width > 60);
        const double width = piece().artwork.width();
        const Rect whole = piece().artwork.whole(), f = piece().artwork.frame();
        const QPointF right((f.x1 - whole.x0) / 10, ((f.y0 + f.y1) / 2 - whole.y0) / 10);
        drag({right, right - QPointF(10, 0)});
        click("artwork-crop");
        QVERIFY2(std::abs(result().width - (width - 10)) < 0.3, qPrintable(QString::number(result().width)));
        click("artwork-turn-right");
        QVERIFY(std::abs(result().height - (width - 10)) < 0.3);
        click("artwork-mirror");
        click("artwork-whole");
        QVERIFY(!piece().artwork.crop);
        type("artwork-straighten", "0");
        QCOMPARE(result().width, 40.0);
        // Sides apart: the picture is stretched.
        click("artwork-ratio");
        type("artwork-width", "50");
        QCOMPARE(result().width, 50.0);
        QCOMPARE(result().height, 60.0);
        while (desk().history().canUndo() && writeProject(desk().job()) != before)
            QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(writeProject(desk().job()), before);
        QVERIFY(settled());
    }

    void keptByHand()
    {
        drop({boxes()});
        enter(Station::Keep);
        QCOMPARE(int(layer().coverage->rule), int(KeepRule::Paper));
        QVERIFY(std::abs(keptArea() - 636) < 1);
        // A stroke of 4 mm across the dark box cuts it in two.
        click("keep-rub-out");
        type("keep-brush", "4");
        drag({{30, 8}, {30, 32}});
        QVERIFY2(std::abs(keptArea() - (636 - 80)) < 1.5, qPrintable(QString::number(keptArea())));
        QCOMPARE(layer().parts->keptParts, 3);
        // Listed; taken back with Delete, had again by undo.
        auto* list = find<SideList>("side-list");
        QCOMPARE(list->model()->index(0, 0).data().toString(), QString("By hand"));
        QTest::mouseClick(list->viewport(), Qt::LeftButton, {}, list->visualRect(list->model()->index(1, 0)).center());
        QCOMPARE(desk().selectedTouch(), &piece().keep().touches[0]);
        QTest::keyClick(list, Qt::Key_Delete);
        QVERIFY(settled());
        QVERIFY(piece().keep().touches.empty() && std::abs(keptArea() - 636) < 1);
        QTest::mouseClick(find<QToolButton>("undo"), Qt::LeftButton);
        QVERIFY(settled());
        QCOMPARE(piece().keep().touches.size(), std::size_t(1));
        // The touch stays on what it was put on when the size changes and the picture turns.
        enter(Station::Artwork);
        type("artwork-width", "120");
        click("artwork-turn-right");
        QVERIFY2(std::abs(keptArea() - 4 * (636 - 80)) < 6, qPrintable(QString::number(keptArea())));
        for (int i = 0; i < 2; ++i)
            QTest::mouseClick(find<QToolButton>("undo"), Qt::LeftButton);
        enter(Station::Keep);
        // Brought back where it was rubbed out.
        click("keep-bring-back");
        drag({{30, 12}, {30, 28}});
        QCOMPARE(layer().parts->keptParts, 2);
        // The red box goes with one press.
        click("keep-rub-out-like");
        QTest::mouseClick(&window_->bench(), Qt::LeftButton, {}, onBench({7, 20}));
        QVERIFY(settled());
        QCOMPARE(layer().parts->keptParts, 1);
        // Only inside a box.
        click("keep-inside-box");
        drag({{20, 5}, {35, 35}});
        QVERIFY2(std::abs(result().kept.width() - 15) < 0.1, qPrintable(QString::number(result().kept.width())));
        click("keep-everywhere");
        QVERIFY(std::abs(result().kept.width() - 30) < 0.1);
        // Colours: the rule asks for one, and the press picks it.
        choose("keep-rule", 3);
        QCOMPARE(int(desk().hand().hold), int(Hold::Pick));
        QVERIFY(keptArea() < 90); // no colour keeps nothing; only what was brought back is left
        QTest::mouseClick(&window_->bench(), Qt::LeftButton, {}, onBench({20, 14}));
        QVERIFY(settled());
        QVERIFY(keptArea() > 500 && piece().keep().colours.size() == 1);
        QCOMPARE(piece().keep().colours[0].colour, (Rgba{30, 40, 90, 255}));
        QTest::mouseClick(find<Swatches>("keep-swatches"), Qt::LeftButton, {}, QPoint(8, 12));
        QVERIFY(settled());
        QVERIFY(piece().keep().colours.empty());
    }

    // Enclosing selects many, and one key keeps or drops them all; a held key shows something else.
    void enclosedAndPeeked()
    {
        drop({pictures_ + "moon-rabbit.png"});
        enter(Station::Keep);
        const int dropped = layer().parts->droppedParts, kept = layer().parts->keptParts;
        const double w = result().width, h = result().height;
        drag({{-0.5, -0.5}, {w + 0.5, h + 0.5}});
        QCOMPARE(desk().selectedParts().size(), layer().parts->all.size());
        QTest::keyClick(&window_->bench(), Qt::Key_Return);
        QVERIFY(settled());
        QCOMPARE(layer().parts->droppedParts, 0);
        QCOMPARE(layer().parts->keptParts, kept + dropped);
        QCOMPARE(desk().selectedParts().size(), layer().parts->all.size()); // found again in the new result
        QTest::mouseClick(find<QToolButton>("undo"), Qt::LeftButton);
        QVERIFY(settled());
        QCOMPARE(layer().parts->droppedParts, dropped);
        // The scene is drawn on a thread of its own and arrives when it is done.
        const auto look = [&] { return window_->bench().grab().toImage(); };
        QTest::keyClick(&window_->bench(), Qt::Key_Escape);
        QTest::qWait(400);
        const QImage plain = look();
        QTest::keyPress(&window_->bench(), Qt::Key_B);
        QCOMPARE(int(desk().peek()), int(Peek::Bare));
        QTRY_VERIFY(look() != plain);
        const QImage bare = look();
        QTest::keyRelease(&window_->bench(), Qt::Key_B);
        QTRY_COMPARE(look(), plain);
        QTest::keyPress(&window_->bench(), Qt::Key_K);
        QTRY_VERIFY(look() != plain);
        QVERIFY(look() != bare);
        QTest::keyRelease(&window_->bench(), Qt::Key_K);
        QTRY_COMPARE(look(), plain);
    }

    void linesOfEveryKind()
    {
        drop({boxes()});
        enter(Station::CutLines);
        QCOMPARE(piece().lines().size(), std::size_t(1));
        type("line-offset", "5%"); // of the longer side of what is kept
        QVERIFY(piece().lines()[0].percent == 5.0);
        const double longer = result().kept.width();
        QVERIFY(std::abs(layer().lines[0].offset.mm() - 0.05 * longer) < 0.001);
        type("line-offset", "1.5mm");
        QVERIFY(!piece().lines()[0].percent);
        click("line-add");
        choose("line-kind", 2); // perforate
        type("line-gap", "1");
        choose("line-shape", 4); // a circle
        QCOMPARE(layer().lines[1].nodes, std::size_t(8));
        // Through the outer corners of both boxes: (x - 4)^2 + 3^2 = (45 - x)^2 + 10^2 gives x = 25.61.
        QVERIFY(std::abs(layer().lines[1].length - 2 * M_PI * (std::hypot(25.61 - 4, 3) + 0.5)) < 0.2);
        click("line-copy");
        choose("line-shape", 5); // a box round all lines
        Rect both = bounds(*layer().lines[0].paths);
        both.add(bounds(*layer().lines[1].paths));
        QVERIFY(std::abs(layer().lines[2].length - 2 * (both.width() + both.height()) - 8 * 0.5) < 0.001);
        QTest::mouseClick(find<QWidget>("line-rows"), Qt::LeftButton, {}, QPoint(60, 14));
        QCOMPARE(desk().line(), 0);
        click("line-clips");
        QVERIFY(piece().lines()[0].clipsPrint);
        // Printed up to the line: white surround, 1 mm outside the box, is printed; 2 mm is not.
        const auto printed = [&](double x, double y) { return int(layer().printed->at(int(x * 10), int(y * 10))); };
        QCOMPARE(printed(30, 9), 255);
        QCOMPARE(printed(30, 8), 0);
        click("line-clips");
        QCOMPARE(printed(30, 9), 0);
        // Inwards past half its width the red box is gone, and that is said.
        type("line-offset", "-4");
        QCOMPARE(layer().lines[0].lostParts, 1);
        QVERIFY(std::any_of(desk().shown()->derived.findings.begin(), desk().shown()->derived.findings.end(),
                            [](const Finding& f) { return f.code == "parts-vanished" && f.value == 1; }));
        QTest::mouseClick(find<QWidget>("line-rows"), Qt::LeftButton, {}, QPoint(60, 70));
        click("line-remove");
        QCOMPARE(piece().lines().size(), std::size_t(2));
        // The dashes are in the file: open paths of about 3 mm.
        const Bytes bytes = writeSvg(drawPiece(desk().job(), piece(), result()), Content::Cut);
        const std::string svg(bytes.begin(), bytes.end());
        const auto from = svg.find("cut-perforate");
        QVERIFY(from != std::string::npos);
        const auto count = std::count(svg.begin() + std::ptrdiff_t(from), svg.end(), 'M');
        QCOMPARE(int(count), int(std::lround(layer().lines[1].length / 4)));
        QVERIFY(svg.find('Z', from) == std::string::npos);
    }

    void everythingUndoes()
    {
        drop({pictures_ + "moon-rabbit.png", pictures_ + "kettle-badger.jpg"});
        QCOMPARE(desk().job().pieces.size(), std::size_t(2));
        const Bytes before = writeProject(desk().job());
        int steps = 0;
        enter(Station::Keep);
        type("keep-smallest", "20");
        ++steps;
        auto* openings = find<Segmented>("keep-openings");
        QTest::mouseClick(openings, Qt::LeftButton, {}, QPoint(openings->width() - 8, 10));
        ++steps;
        enter(Station::CutLines);
        QTest::mouseClick(find<QAbstractButton>("line-add"), Qt::LeftButton);
        ++steps;
        enter(Station::Sheet);
        type("sheet-gap", "5");
        ++steps;
        desk().removePiece(0);
        ++steps;
        QVERIFY(settled());
        const Bytes after = writeProject(desk().job());
        QVERIFY(after != before);
        for (int i = 0; i < steps; ++i)
            QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(writeProject(desk().job()), before);
        for (int i = 0; i < steps; ++i)
            QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
        QCOMPARE(writeProject(desk().job()), after);
        QVERIFY(settled());
    }

    void listAndBenchPointAtEachOther()
    {
        drop({pictures_ + "moon-rabbit.png"});
        enter(Station::Keep);
        auto* list = find<SideList>("side-list");
        QVERIFY(list->model()->rowCount() > 15);
        list->setCurrentIndex(list->model()->index(3, 0));
        QCOMPARE(desk().selectedParts(), std::vector{2});
        const Rect box = desk().layerResult()->parts->all[5].box;
        QTest::mouseClick(&window_->bench(), Qt::LeftButton, {}, window_->bench().view().toScreen(QPointF(box.centre().x, box.centre().y)).toPoint());
        QCOMPARE(desk().selectedParts(), std::vector{5});
        QCOMPARE(list->currentIndex().row(), 6);
        // A crumb kept by hand, and dropped again.
        const int kept = desk().layerResult()->parts->keptParts;
        QTest::keyClick(list, Qt::Key_Return);
        QVERIFY(settled());
        QCOMPARE(desk().layerResult()->parts->keptParts, kept + 1);
        QTest::mouseClick(find<QToolButton>("undo"), Qt::LeftButton);
        QVERIFY(settled());
        QCOMPARE(desk().layerResult()->parts->keptParts, kept);
    }

    void badInputLeavesTheJobAlone()
    {
        drop({pictures_ + "river-imp.png"});
        const Bytes before = writeProject(desk().job());
        write(dir_.filePath("empty.png"), {});
        write(dir_.filePath("text.jpg"), "not a picture");
        write(dir_.filePath("broken.yokai"), "PK broken");
        for (const char* name : {"empty.png", "text.jpg", "broken.yokai", "missing.png", "."}) {
            if (QByteArray(name) == "broken.yokai")
                answer("not-saved", "Discard");
            drop({dir_.filePath(QLatin1String(name))});
            QVERIFY2(notice().startsWith(QChar(0x25b2)) && notice().contains(';'), qPrintable(notice()));
            QCOMPARE(writeProject(desk().job()), before);
        }
        window_->activateWindow();
        QVERIFY(QTest::qWaitForWindowActive(window_.get()));
        enter(Station::CutLines);
        type("line-offset", "two bananas");
        QCOMPARE(writeProject(desk().job()), before);
        QVERIFY(find<QLineEdit>("line-offset")->property("bad").toBool());
        enter(Station::Keep);
        type("keep-smallest", "900000");
        QVERIFY(desk().currentResult()->problem);
        QVERIFY(desk().currentPicture()->working); // the picture is still there to be seen
        enter(Station::HandOff);
        QVERIFY(!find<QPushButton>("hand-write")->isEnabled());
        QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(settled());
        find<QLineEdit>("hand-folder")->setText(dir_.filePath("nowhere/at/all"));
        QTest::mouseClick(find<QPushButton>("hand-write"), Qt::LeftButton);
        QVERIFY(settled());
        QVERIFY2(notice().contains("folder exists"), qPrintable(notice()));
    }

    void savedJobsComeBack()
    {
        drop({YOKAI_DEMO_JOB});
        QCOMPARE(desk().job().pieces.size(), std::size_t(4));
        QVERIFY(!desk().modified());
        desk().edit("rename", [](Job& j) { j.name = "Second deck"; });
        QVERIFY(window_->isWindowModified());
        window_->files().save(dir_.filePath("second.yokai"));
        QVERIFY(settled());
        QVERIFY(!desk().modified());
        const Bytes saved = writeProject(desk().job());
        window_->files().newJob();
        QVERIFY(desk().job().pieces.empty());
        drop({dir_.filePath("second.yokai")});
        QCOMPARE(writeProject(desk().job()), saved);
    }

    void theBenchZoomsToThePointer()
    {
        drop({pictures_ + "river-imp.png"});
        Bench& bench = window_->bench();
        const QPoint at(300, 240);
        const QPointF before = bench.view().toMm(at);
        QWheelEvent wheel(at, bench.mapToGlobal(at), {}, QPoint(0, 360), Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase, false);
        const double scale = bench.view().scale;
        QApplication::sendEvent(&bench, &wheel);
        QVERIFY(bench.view().scale > 1.5 * scale);
        QVERIFY(QLineF(before, bench.view().toMm(at)).length() < 1e-6);
        // Space and drag moves what lies there along.
        QTest::keyPress(&bench, Qt::Key_Space);
        QTest::mousePress(&bench, Qt::LeftButton, {}, at);
        QMouseEvent move(QEvent::MouseMove, at + QPoint(60, -25), bench.mapToGlobal(at), Qt::NoButton, Qt::LeftButton, {});
        QApplication::sendEvent(&bench, &move);
        QTest::mouseRelease(&bench, Qt::LeftButton, {}, at + QPoint(60, -25));
        QTest::keyRelease(&bench, Qt::Key_Space);
        QVERIFY(QLineF(before, bench.view().toMm(at + QPoint(60, -25))).length() < 1e-6);
        QTest::keyClick(&bench, Qt::Key_F);
        QVERIFY(std::abs(bench.view().scale - scale) < 1e-9);
    }

    void numbersStepScrubAndScroll()
    {
        drop({pictures_ + "river-imp.png"});
        enter(Station::CutLines);
        auto* field = find<NumberField>("line-offset");
        const auto offset = [&] { return desk().job().pieces[0].lines()[0].offset; };
        QTest::mouseClick(field, Qt::LeftButton);
        QTest::keyClick(field, Qt::Key_Up);
        QCOMPARE(offset(), Length::um(2100));
        QTest::keyClick(field, Qt::Key_Down, Qt::ShiftModifier);
        QCOMPARE(offset(), Length::um(2090));
        QWheelEvent wheel(QPointF(9, 9), field->mapToGlobal(QPointF(9, 9)), {}, QPoint(0, -120), Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase, false);
        QApplication::sendEvent(field, &wheel);
        QCOMPARE(offset(), Length::um(2000));
        auto* slider = find<BeadSlider>("line-offset-slider");
        QTest::mouseClick(slider, Qt::LeftButton, {}, QPoint(slider->width() - 2, 12));
        QCOMPARE(offset(), Length::mm(10));
        ScrubLabel* label = nullptr;
        for (ScrubLabel* l : window_->findChildren<ScrubLabel*>())
            if (l->buddy() == field)
                label = l;
        QVERIFY(label);
        QTest::mousePress(label, Qt::LeftButton, {}, QPoint(5, 5));
        QMouseEvent move(QEvent::MouseMove, QPointF(-35, 5), label->mapToGlobal(QPointF(-35, 5)), Qt::NoButton, Qt::LeftButton, {});
        QApplication::sendEvent(label, &move);
        QTest::mouseRelease(label, Qt::LeftButton, {}, QPoint(-35, 5));
        QCOMPARE(offset(), Length::mm(8));
        QVERIFY(settled());
        QCOMPARE(desk().layerResult()->lines[0].offset, Length::mm(8));
    }

    // Areas are shown, typed and stepped in the unit that is chosen; what is stored is mm2.
    void areasInInches()
    {
        drop({boxes()});
        enter(Station::Keep);
        auto* crumbs = find<QLineEdit>("keep-smallest");
        const auto stored = [this] { return piece().keep().smallestPart; };
        QCOMPARE(crumbs->text(), QString("1.0 mm\u00b2"));
        desk().setUnit(Unit::Inch);
        QCOMPARE(crumbs->text(), QString("0.00155 in\u00b2"));
        QTest::mouseClick(crumbs, Qt::LeftButton);
        QTest::keyClick(window_.get(), Qt::Key_2, Qt::ControlModifier); // nothing typed: what is stored stays exactly as it is
        QCOMPARE(stored(), 1.0);
        type("keep-smallest", "0.1");
        QCOMPARE(stored(), 64.516);
        QCOMPARE(layer().parts->keptParts, 1); // the small box is 36 mm2
        type("keep-smallest", "30mm2");
        QCOMPARE(stored(), 30.0);
        QCOMPARE(crumbs->text(), QString("0.04650 in\u00b2"));
        QTest::keyClick(crumbs, Qt::Key_Up);
        QVERIFY(std::abs(stored() / 645.16 - 0.0466) < 1e-9); // on the next whole step of 0.0002 in2
        type("keep-smallest", "-1");
        QVERIFY(crumbs->property("bad").toBool() && crumbs->toolTip().contains("is not an area"));
        type("keep-smallest", "9999");
        QVERIFY(crumbs->property("bad").toBool() && crumbs->toolTip().contains("in\u00b2"));
        QTest::keyClick(crumbs, Qt::Key_Escape);
        desk().setUnit(Unit::Mm);
        QVERIFY(crumbs->text().endsWith(" mm\u00b2"));
    }

    void cornersJoinsAndRadiiReachTheLine()
    {
        drop({pictures_ + "umbrella-imp.png"});
        enter(Station::CutLines);
        const double round = desk().layerResult()->lines[0].area;
        auto* corners = find<Segmented>("line-corners");
        corners->setFocus();
        QTest::keyClick(corners, Qt::Key_Right);
        QVERIFY(settled());
        QVERIFY(desk().layerResult()->lines[0].area > round + 5); // tips drawn out
        QTest::keyClick(corners, Qt::Key_Right);
        QVERIFY(settled());
        QVERIFY(desk().layerResult()->lines[0].area < round - 5); // tips cut flat
        QTest::keyClick(corners, Qt::Key_Left);
        QTest::keyClick(corners, Qt::Key_Left);
        type("round-inside", "1.5mm");
        QVERIFY(desk().layerResult()->lines[0].area > round + 5); // inside corners filled
        type("join-gap", "8mm");
        QCOMPARE(desk().layerResult()->lines[0].paths->size(), std::size_t(1)); // the crook has closed
    }

    void pastingAPicture()
    {
        QImage image(300, 200, QImage::Format_ARGB32);
        image.fill(Qt::white);
        for (int y = 60; y < 140; ++y)
            for (int x = 80; x < 220; ++x)
                image.setPixelColor(x, y, Qt::darkBlue);
        QApplication::clipboard()->setImage(image);
        QTest::keyClick(window_.get(), Qt::Key_V, Qt::ControlModifier);
        QVERIFY(QTest::qWaitFor([&] { return !desk().job().pieces.empty(); }, 5000));
        QVERIFY(settled());
        QCOMPARE(int(desk().layerResult()->coverage->rule), int(KeepRule::Paper));
        QCOMPARE(desk().layerResult()->parts->keptParts, 1);
        QCOMPARE(desk().job().pieces[0].artwork.picture.info.ppi, 300.0);
    }

    void controlsAreNamedAndWhole_data() { textSizes(); }
    // At every station and in both units, where the system's text is of the usual size or
    // larger: what takes the keyboard says what it is, and no text is cut off.
    void controlsAreNamedAndWhole()
    {
        QFETCH(int, size);
        withTextOf(size);
        drop({YOKAI_DEMO_JOB});
        window_->resize(1280, 800);
        QStringList bad;
        for (const Unit unit : {Unit::Mm, Unit::Inch}) {
            desk().setUnit(unit);
            for (int s = 0; s < stationCount; ++s) {
                for (const KeepRule rule : {KeepRule::Auto, KeepRule::Colour}) {
                    desk().setPiece(1);
                    enter(Station(s));
                    desk().editPiece("rule", [&](Piece& p) {
                        p.keep().rule = rule;
                        p.keep().colours = {{{90, 60, 40, 255}, {}}};
                    });
                    QVERIFY(settled());
                    QTest::qWait(30);
                    for (QWidget* w : window_->findChildren<QWidget*>()) {
                        if (!w->isVisibleTo(window_.get()) || w->objectName().startsWith("qt_"))
                            continue;
                        const QString where = title(Station(s)) + ": " + w->metaObject()->className() + " '" + w->objectName() + "' ";
                        auto* button = qobject_cast<QAbstractButton*>(w);
                        auto* label = qobject_cast<QLabel*>(w);
                        auto* box = qobject_cast<QComboBox*>(w);
                        if ((w->focusPolicy() & Qt::TabFocus) && w->accessibleName().isEmpty() && (!button || button->text().isEmpty()))
                            bad << where + "has no name";
                        if (label && !label->wordWrap() && !label->text().isEmpty() && label->textFormat() != Qt::RichText &&
                            label->width() + 1 < label->sizeHint().width())
                            bad << where + "cuts '" + label->text() + "'";
                        if (button && !button->text().isEmpty() && button->width() + 1 < button->minimumSizeHint().width())
                            bad << where + "cuts '" + button->text() + "'";
                        if (box)
                            for (int i = 0; i < box->count(); ++i)
                                if (box->fontMetrics().horizontalAdvance(box->itemText(i)) + 26 > box->width())
                                    bad << where + "cuts '" + box->itemText(i) + "'";
                        if (auto* scroll = qobject_cast<QScrollArea*>(w); scroll && scroll->widget()->width() > scroll->viewport()->width())
                            bad << where + "is cut off by its scroll bar";
                        if (auto* edit = qobject_cast<QLineEdit*>(w))
                            if (edit->fontMetrics().horizontalAdvance(edit->displayText()) + 8 > edit->width() && edit->isEnabled() &&
                                edit->objectName() != "hand-folder")
                                bad << where + "cuts '" + edit->displayText() + "'";
                    }
                }
            }
        }
        bad.removeDuplicates();
        QVERIFY2(bad.isEmpty(), qPrintable(bad.join('\n')));
    }

    // Tab reaches every control of the trail that is shown, and comes back round.
    void theKeyboardReachesEverything()
    {
        drop({YOKAI_DEMO_JOB});
        for (const Station s : {Station::Artwork, Station::Keep, Station::CutLines}) {
            enter(s);
            QVERIFY(settled());
            std::set<QWidget*> wanted, reached;
            for (QWidget* w : window_->findChildren<QWidget*>())
                if (w->isVisibleTo(window_.get()) && w->isEnabled() && (w->focusPolicy() & Qt::TabFocus) && !w->focusProxy())
                    wanted.insert(w);
            window_->activateWindow();
            window_->bench().setFocus();
            for (std::size_t i = 0; i < 2 * wanted.size() + 20; ++i) {
                if (QWidget* now = window_->focusWidget())
                    reached.insert(now);
                QTest::keyClick(window_->focusWidget() ? window_->focusWidget() : window_.get(), Qt::Key_Tab);
            }
            for (QWidget* w : wanted)
                QVERIFY2(reached.contains(w),
                         qPrintable(title(s) + ": Tab does not reach " + w->metaObject()->className() + " '" + w->objectName() + "' " + w->accessibleName()));
        }
    }

    // The window's thread stays free while a heavy job is worked on.
    // 5 000 crumbs on an A4 scan: listed, ringed, chosen all at once and kept by hand.
    void thousandsOfCrumbsStayFluid()
    {
        drop({painted("crumbs.png", {2480, 3508}, 11811, Qt::transparent, [](QPainter& p) {
            p.setBrush(QColor(40, 60, 120));
            p.drawEllipse(QPointF(1240, 1754), 400, 300);
            for (int i = 0; i < 5200; ++i)
                p.drawEllipse(QPointF(30 + (i % 65) * 37.4, 30 + double(i / 65) * 42.9), 3 + i % 3, 3);
        })});
        QVERIFY(layer().parts->droppedParts > 4500);
        Pauses pauses;
        const auto step = [&](const char* what) {
            QTest::qWait(300);
            const Pauses::Longest longest = pauses.take();
            qInfo("%s: longest pause %lld ms, %.1f ms of work", what, longest.clock, longest.worked);
            QVERIFY2(longest.fair(), what);
        };
        enter(Station::Keep);
        step("entering Keep");
        for (int i = 0; i < 12; ++i) {
            QTest::mouseClick(&window_->bench(), Qt::LeftButton, {}, onBench(QPointF(2.54 + i * 3.17, 2.54)));
            QTest::qWait(20);
        }
        step("touching crumbs");
        QTest::keyClick(find<SideList>("side-list"), Qt::Key_A, Qt::ControlModifier);
        QVERIFY(desk().selectedParts().size() > 4500);
        step("choosing all");
        QTest::keyClick(&window_->bench(), Qt::Key_Return);
        QVERIFY(settled());
        QCOMPARE(layer().parts->droppedParts, 0);
        step("keeping all");
        QTest::mouseClick(find<QToolButton>("undo"), Qt::LeftButton);
        QVERIFY(settled());
        step("taking it back");
        QVERIFY(layer().parts->droppedParts > 4500);
    }

    void theThreadStaysFree()
    {
        drop({painted("big.png", {2480, 3508}, 11811, Qt::transparent, [](QPainter& p) {
            p.setBrush(QColor(51, 102, 153));
            for (int y = 200; y < 3508; y += 400)
                for (int x = 200; x < 2480; x += 400)
                    p.drawEllipse(QPointF(x, y), 150, 150);
        })});
        Pauses pauses;
        for (int i = 0; i < 25; ++i) {
            desk().editPiece(
                "slide", [&](Piece& p) { p.lines()[0].offset = Length::um(1000 + 40 * i); }, "slide");
            QTest::qWait(16);
        }
        QVERIFY(settled());
        const Pauses::Longest longest = pauses.take();
        qInfo("longest pause of the window's thread: %lld ms, %.1f ms of work", longest.clock, longest.worked);
        QVERIFY(longest.fair());
        QVERIFY(desk().shown()->derived.pieces[0].layer().lines[0].offset == Length::um(1960));
    }
};

DRIVEN_MAIN(TestWindow)
#include "test_window.moc"
