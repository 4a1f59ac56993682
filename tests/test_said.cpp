// What the window says: the trail's lines, the header, the side list, the strip and the notices
// give the figures of the result that is shown, in the unit that is chosen, and nothing stale.
#include "driver.h"

#include "desk/pictures.h"
#include "header_bar.h"
#include "notice.h"
#include "side/side_rows.h"
#include "status_strip.h"
#include "trail/trail.h"
#include "words.h"

#include <QAccessible>
#include <QRegularExpression>

using namespace yokai;
using namespace yokai::test;

class TestSaid : public Driver {
    Q_OBJECT

    QString line(Station s) { return window_->trail().cards()[std::size_t(s)]->accessibleDescription(); }
    QString strip()
    {
        QString out;
        for (const QLabel* l : window_->findChild<StatusStrip*>()->findChildren<QLabel*>())
            if (l->isVisible())
                out += l->text() + ' ';
        return out;
    }
    // Title and detail of each row of the side list, joined.
    QStringList side()
    {
        QStringList out;
        for (const SideRow& r : sideRows(desk()))
            out << r.title + ": " + r.detail;
        return out;
    }
    // All text that is on the screen now.
    QStringList everything()
    {
        QStringList out = side() << strip();
        for (const StationCard* card : window_->trail().cards())
            out << card->accessibleDescription();
        for (const QWidget* w : window_->findChildren<QWidget*>()) {
            if (!w->isVisible())
                continue;
            if (auto* l = qobject_cast<const QLabel*>(w))
                out << l->text();
            if (auto* e = qobject_cast<const QLineEdit*>(w); e && e->objectName() != "hand-folder")
                out << e->text();
            if (auto* drawn = dynamic_cast<const Drawn*>(w))
                for (const DrawnPart& part : drawn->drawnParts())
                    out << part.name;
        }
        return out;
    }
    const Finding* finding(std::string_view code)
    {
        for (const Finding& f : desk().shown()->derived.findings)
            if (f.code == code)
                return &f;
        return nullptr;
    }
    double length()
    {
        double sum = 0;
        for (const CutLine& l : layer().lines)
            sum += l.length;
        return sum;
    }

private slots:
    void initTestCase() { start(); }
    void init() { open(); }
    void cleanup() { close(); }

    void nothingIsSaidOfNothing()
    {
        QCOMPARE(line(Station::Artwork), QString("open, drop or paste; not begun"));
        for (int s = 1; s < stationCount; ++s)
            QCOMPARE(line(Station(s)), QString("; not begun"));
        QVERIFY(side().isEmpty());
        QVERIFY(!find<QPushButton>("next")->isVisible() && !find<QPushButton>("findings")->isVisible());
        QVERIFY(!strip().contains("cut"));
    }

    // Each station's line is what the result says, and follows it.
    void linesFollowTheResult()
    {
        drop({boxes()});
        QCOMPARE(line(Station::Artwork), QString("60.00 \u00d7 40.00 mm; fine"));
        QCOMPARE(line(Station::Keep), QString("2 parts; fine"));
        QCOMPARE(line(Station::CutLines), QString("1 line, %1; fine").arg(lengthText(length(), Unit::Mm)));
        QCOMPARE(line(Station::TouchUp), QString("%1 nodes, no edits; not begun").arg(layer().lines[0].nodes));
        QCOMPARE(line(Station::Bleed), QString("none, drifts %1; not begun").arg(lengthText(layer().driftAllowance(), Unit::Mm)));
        QCOMPARE(line(Station::HandOff), QString("print and cut files; not begun"));
        QCOMPARE(line(Station::Cut), QString("not tried yet; not begun"));
        QVERIFY(strip().contains(QString("cut %1").arg(lengthText(length(), Unit::Mm))) && strip().contains("drift allowance"));

        desk().editLayer("crumbs", [](Layer& l) { l.keep.smallestPart = 50; });
        QVERIFY(settled());
        QCOMPARE(line(Station::Keep), QString("1 part, 1 crumb; fine"));
        desk().editLayer("crumbs", [](Layer& l) { l.keep.smallestPart = 5000; });
        QVERIFY(settled());
        QCOMPARE(line(Station::Keep), QString("nothing is kept; has a fault"));
        desk().undo();
        desk().undo();
        QVERIFY(settled());
        QCOMPARE(line(Station::Keep), QString("2 parts; fine"));

        desk().editLayer("inwards", [](Layer& l) { l.lines[0].offset = -(4_mm); }); // the small box is 6 mm wide
        QVERIFY(settled());
        QVERIFY(finding("parts-vanished"));
        QVERIFY(line(Station::CutLines).endsWith("; has findings"));
        desk().editPiece("large", [](Piece& p) {
            p.artwork.sizeBy = SizeBy::Ppi;
            p.artwork.ppi = 40;
        });
        QVERIFY(settled());
        QVERIFY(line(Station::Artwork).startsWith("381.00 \u00d7 254.00 mm") && line(Station::Artwork).endsWith("; has findings"));
        QVERIFY(line(Station::Sheet).endsWith("; has findings") || line(Station::Sheet).endsWith("; has a fault")); // wider than the paper
    }

    // In inches nothing on the screen is in mm, and the other way round, at any station, with findings too.
    void allInOneUnit()
    {
        drop({YOKAI_DEMO_JOB});
        desk().editPiece("much", [](Piece& p) {
            p.copies = 400;
            p.lines()[0].offset = -(9_mm);
            p.keep().touches.push_back({Touch::Kind::RubOut, false, 12, {{50, 50}, {70, 70}}, 0});
        });
        QVERIFY(settled());
        QVERIFY(desk().shown()->derived.findings.size() > 1);
        for (const Unit unit : {Unit::Inch, Unit::Mm}) {
            desk().setUnit(unit);
            const QRegularExpression other(unit == Unit::Inch ? "\\d\\s*(mm|cm)\\b" : "\\d\\s*in\\b");
            for (int s = 0; s < stationCount; ++s) {
                enter(Station(s));
                unfold();
                for (const QString& text : everything())
                    QVERIFY2(!text.contains(other), qPrintable(title(Station(s)) + ": " + text));
            }
        }
    }

    // The one press that goes on leads through all stations, and the findings' to where each is mended.
    void theHeaderLeadsOn()
    {
        drop({boxes()});
        enter(Station::Artwork);
        auto* next = find<QPushButton>("next");
        for (int s = 1; s < stationCount; ++s) {
            QCOMPARE(next->text(), "Next: " + title(Station(s)));
            QTest::mouseClick(next, Qt::LeftButton);
            QCOMPARE(int(desk().station()), s);
        }
        QVERIFY(!next->isVisible());

        auto* findings = find<QPushButton>("findings");
        QVERIFY(!findings->isVisible());
        const auto leadsTo = [&](const char* code, Station station) {
            QVERIFY(settled());
            QVERIFY2(finding(code) && findings->isVisible(), code);
            QCOMPARE(findings->text(),
                     tr("\u25b2 %1").arg(desk().shown()->derived.findings.size()) + (desk().shown()->derived.findings.size() == 1 ? " finding" : " findings"));
            QTest::mouseClick(findings, Qt::LeftButton);
            QCOMPARE(int(desk().station()), int(station));
            desk().undo();
            QVERIFY(settled() && !findings->isVisible());
        };
        desk().editLayer("inwards", [](Layer& l) { l.lines[0].offset = -(4_mm); });
        leadsTo("parts-vanished", Station::CutLines);
        desk().editLayer("nothing", [](Layer& l) { l.keep.smallestPart = 5000; });
        leadsTo("no-cut-line", Station::Keep);
        desk().edit("margins", [](Job& job) { job.sheet.margin = 100_mm; });
        leadsTo("does-not-fit", Station::Sheet);
        desk().editPiece("soft", [](Piece& p) {
            p.artwork.sizeBy = SizeBy::Ppi;
            p.artwork.ppi = 120;
        });
        leadsTo("low-resolution", Station::Artwork);
    }

    // The list gives the figures of what is shown: counted again here.
    void theSideListCounts()
    {
        drop({YOKAI_DEMO_JOB});
        enter(Station::CutLines);
        for (int k = 0; k < int(piece().lines().size()); ++k) {
            desk().setLine(k);
            const CutLine& l = layer().lines[std::size_t(k)];
            QVERIFY(side().contains(title(l.kind) + " line: "));
            QVERIFY(side().contains("Length: " + lengthText(l.length, Unit::Mm)));
            QVERIFY(side().contains(QString("Closed outlines: %1").arg(l.paths->size())));
            QVERIFY(side().contains("Encloses: " + areaText(l.area, Unit::Mm)));
            const Rect box = bounds(*l.paths);
            QVERIFY(side().contains("Size: " + sizeText(box.width(), box.height(), Unit::Mm)));
        }
        enter(Station::TouchUp);
        QCOMPARE(side().filter(QRegularExpression("^(Tab|Corner rounded|Stretch redrawn): ")).size(), int(piece().lines()[0].edits.size()));
        desk().editLayer("no edits", [](Layer& l) { l.lines[0].edits.clear(); }); // then how the lines were fitted
        QVERIFY(settled());
        for (const CutLine& l : layer().lines)
            QCOMPARE(side().filter(QString("%1 at %2: %3 nodes").arg(title(l.kind), exactText(l.offset.mm(), Unit::Mm)).arg(l.nodes)).size(), 1);
        enter(Station::Bleed);
        QCOMPARE(side().filter(lengthText(layer().driftAllowance(), Unit::Mm) + " to the picture").size(), 1);

        enter(Station::Sheet);
        const Layout& sheet = desk().shown()->derived.sheet;
        std::map<std::size_t, int> copies;
        std::map<LineKind, int> outlines;
        for (const Placement& p : sheet.placements) {
            ++copies[p.at];
            for (const LayerResult& l : desk().shown()->derived.pieces[p.at].layers)
                for (const CutLine& line : l.lines)
                    outlines[line.kind] += int(line.paths->size());
        }
        for (const auto& [at, count] : copies) {
            const Piece& p = desk().job().pieces[at];
            QCOMPARE(side().filter(QString("%1: %2 of %3").arg(QString::fromStdString(p.name)).arg(count).arg(*p.copies)).size(), 1);
        }
        QCOMPARE(side().filter(QString("%1 dots: ").arg(sheet.marks.size())).size(), 1);
        QVERIFY(line(Station::Sheet).startsWith(QString("A4, %1 pieces, %2 %").arg(sheet.placements.size()).arg(std::lround(sheet.usedOf(0) * 100))));
        enter(Station::HandOff);
        QVERIFY(!outlines.empty());
        for (const auto& [kind, count] : outlines)
            QCOMPARE(side().filter(QRegularExpression(QString("^%1, %2 outlines?: as the spot colour '%1'$").arg(title(kind)).arg(count))).size(), 1);
        QCOMPARE(side().filter(QString("%1 copies: on 210.00 \u00d7 297.00 mm").arg(sheet.placements.size())).size(), 1);
    }

    // Progress shows after half a second, with what stops it; what is stopped is said to be of before.
    void progressIsPatient()
    {
        drop({boxes()});
        auto* said = find<QLabel>("progress-text");
        auto* stop = find<QToolButton>("stop");
        QElapsedTimer since;
        std::atomic<bool> go = false;
        since.start();
        QVERIFY(desk().background().start("Waiting", [&](const Work& work) {
            while (!go) {
                work.report(0.25, "in vain");
                QThread::msleep(5);
            }
            return QString("Waited");
        }));
        while (since.elapsed() < 350) {
            QVERIFY(!said->isVisible() && !stop->isVisible());
            QTest::qWait(10);
        }
        QVERIFY(QTest::qWaitFor([&] { return said->isVisible() && stop->isVisible(); }, 2000));
        QVERIFY(since.elapsed() >= 450);
        QCOMPARE(said->text(), QString("Waiting \u00b7 in vain \u00b7 25 %"));
        // Meanwhile nothing else begins.
        QVERIFY(!desk().background().start("Other", [](const Work&) { return QString(); }));
        QVERIFY(notice().contains("Something else is still under way"));
        QTest::mouseClick(stop, Qt::LeftButton);
        QVERIFY(QTest::qWaitFor([&] { return !desk().busy() && !said->isVisible() && !stop->isVisible(); }, 5000));
        QCOMPARE(notice(), QString("Stopped; nothing was changed."));
        // Short work is not worth a word.
        go = true;
        QVERIFY(desk().background().start("Waiting", [](const Work&) { return QString(); }));
        QVERIFY(QTest::qWaitFor([&] { return !desk().busy(); }, 5000) && !said->isVisible());
    }

    // A notice is announced; an error stays until it is dismissed or something else is said.
    void noticesStay()
    {
        auto* box = find<Notice>("notice");
        QVERIFY(!box->isVisible());
        desk().say("cannot read it", Severity::Error);
        QVERIFY(box->isVisible() && notice() == QString("\u25b2  Cannot read it") && box->accessibleName() == "cannot read it");
        QVERIFY(window_->bench().rect().contains(box->geometry()));
        desk().say("read something else", Severity::Warning);
        QCOMPARE(notice(), QString("Read something else"));
        // What was covered before it could be read comes back.
        QTest::mouseClick(box->findChild<QToolButton*>(), Qt::LeftButton);
        QCOMPARE(notice(), QString("\u25b2  Cannot read it"));
        QTest::mouseClick(box->findChild<QToolButton*>(), Qt::LeftButton);
        QVERIFY(!box->isVisible());
        // A long one wraps and stays on the bench, also in a narrow window.
        window_->resize(window_->minimumSize());
        desk().say(QString("all that can be said about it ").repeated(12), Severity::Error);
        QTest::qWait(20);
        QVERIFY(window_->bench().rect().contains(box->geometry()));
        QVERIFY(find<QLabel>("notice-text")->height() >= 2 * find<QLabel>("notice-text")->fontMetrics().height());
    }

    // Where the pointer is, in mm of the piece and in inches; nothing once it is gone.
    void theStripFollowsThePointer()
    {
        drop({boxes()});
        window_->bench().fit();
        const auto at = [&](QPointF mm) {
            QTest::mouseMove(&window_->bench(), onBench(mm));
            QTest::qWait(20);
            const QRegularExpressionMatch found = QRegularExpression("x (-?[\\d.]+)  y (-?[\\d.]+) (mm|in)").match(strip());
            return found.hasMatch() ? QPointF(found.captured(1).toDouble(), found.captured(2).toDouble()) : QPointF(-1, -1);
        };
        const double pixel = 1 / window_->bench().view().scale;
        for (const QPointF mm : {QPointF(30, 20), QPointF(3, 38), QPointF(57, 1)})
            QVERIFY(QLineF(at(mm), mm).length() < pixel + 0.1);
        desk().setUnit(Unit::Inch);
        QVERIFY(QLineF(at({50.8, 25.4}), {2, 1}).length() < pixel / 25.4 + 0.01);
        QEvent gone(QEvent::Leave);
        QApplication::sendEvent(&window_->bench(), &gone);
        QVERIFY(!strip().contains("x "));
    }

    // Whoever walks the window without seeing it finds each drawn part once, where it is, and back.
    void drawnPartsAreWalked()
    {
        drop({YOKAI_DEMO_JOB});
        int parts = 0;
        for (int s = 0; s < stationCount; ++s) {
            enter(Station(s));
            for (QWidget* w : window_->findChildren<QWidget*>()) {
                const auto* drawn = dynamic_cast<const Drawn*>(w);
                if (!drawn || !w->isVisible())
                    continue;
                QAccessibleInterface* whole = QAccessible::queryAccessibleInterface(w);
                const auto list = drawn->drawnParts();
                QVERIFY(whole && whole->childCount() >= int(list.size()));
                for (int i = 0; i < int(list.size()); ++i, ++parts) {
                    QAccessibleInterface* part = whole->child(i);
                    QVERIFY(part && part->isValid() && part == whole->child(i));
                    QCOMPARE(whole->indexOfChild(part), i);
                    QVERIFY(part->parent() == whole && part->childCount() == 0 && !part->child(0));
                    QCOMPARE(part->text(QAccessible::Name), list[std::size_t(i)].name);
                    QVERIFY(!part->text(QAccessible::Name).isEmpty());
                    QCOMPARE(part->rect(), QRect(w->mapToGlobal(list[std::size_t(i)].place.topLeft()), list[std::size_t(i)].place.size()));
                    const QPoint middle = part->rect().center();
                    QVERIFY(whole->childAt(middle.x(), middle.y()) == part);
                    const bool checks = part->role() == QAccessible::RadioButton;
                    QVERIFY((checks ? part->state().checked : part->state().selected) == list[std::size_t(i)].on && !part->state().disabled);
                    QCOMPARE(part->actionInterface()->actionNames(), QStringList{QAccessibleActionInterface::pressAction()});
                }
            }
        }
        QVERIFY(parts > 40);
    }

    // The chips, the lines and the colours by mouse, keys and wheel.
    void drawnListsByHand()
    {
        drop({YOKAI_DEMO_JOB});
        auto* chips = find<Chips>("chips");
        const auto middle = [&](int i) { return chips->drawnParts()[std::size_t(i)].place.center(); };
        const int count = int(desk().job().pieces.size());
        for (int i = count; i-- > 0;) {
            QTest::mouseClick(chips, Qt::LeftButton, {}, middle(i));
            QCOMPARE(desk().piece(), i);
        }
        QTest::mouseClick(chips, Qt::RightButton, {}, middle(2)); // opens nothing here and chooses nothing
        QCOMPARE(desk().piece(), 0);
        for (const auto& [key, piece] :
             {std::pair(Qt::Key_Left, 0), {Qt::Key_Right, 1}, {Qt::Key_Right, 2}, {Qt::Key_Right, 3}, {Qt::Key_Right, 3}, {Qt::Key_Left, 2}}) {
            QTest::keyClick(chips, key);
            QCOMPARE(desk().piece(), piece);
        }
        bool asked = false;
        connect(
            chips, &Chips::addWanted, this, [&] { asked = true; }, Qt::DirectConnection);
        disconnect(chips, &Chips::addWanted, window_.get(), nullptr); // no dialog in a test
        QTest::mouseClick(chips, Qt::LeftButton, {}, middle(count));
        QVERIFY(std::exchange(asked, false));
        QTest::keyClick(chips, Qt::Key_Insert);
        QVERIFY(asked);
        QTest::keyClick(chips, Qt::Key_Delete);
        QCOMPARE(int(desk().job().pieces.size()), count - 1);
        desk().undo();
        QVERIFY(settled());
        // More than there is room for: the wheel moves them, and no farther than their end.
        desk().edit("many", [](Job& job) {
            for (int i = 0; i < 20; ++i) {
                job.pieces.push_back(job.pieces[0]);
                job.pieces.back().id = {};
            }
        });
        QVERIFY(settled());
        const auto wheel = [&](int turn) {
            QWheelEvent event(QPointF(50, 20), chips->mapToGlobal(QPointF(50, 20)), {}, {0, turn}, Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase, false);
            QApplication::sendEvent(chips, &event);
        };
        const int first = middle(0).x(), last = int(desk().job().pieces.size());
        QVERIFY(middle(last).x() > chips->width());
        for (int i = 0; i < 60; ++i)
            wheel(-120);
        QVERIFY(middle(last).x() < chips->width() && middle(last).x() > chips->width() / 2);
        QTest::mouseClick(chips, Qt::LeftButton, {}, middle(last - 1));
        QCOMPARE(desk().piece(), last - 1);
        for (int i = 0; i < 60; ++i)
            wheel(120);
        QCOMPARE(middle(0).x(), first);

        desk().setPiece(0);
        enter(Station::CutLines);
        auto* lines = find<QWidget>("line-rows");
        const int had = int(piece().lines().size());
        QVERIFY(had > 1);
        for (int i = 0; i < had; ++i) {
            QTest::mouseClick(lines, Qt::LeftButton, {}, dynamic_cast<Drawn*>(lines)->drawnParts()[std::size_t(i)].place.center());
            QCOMPARE(desk().line(), i);
        }
        QTest::keyClick(lines, Qt::Key_Up);
        QCOMPARE(desk().line(), had - 2);
        QTest::keyClick(lines, Qt::Key_Down);
        QCOMPARE(desk().line(), had - 1);
        QTest::keyClick(lines, Qt::Key_Delete);
        QVERIFY(settled());
        QCOMPARE(int(piece().lines().size()), had - 1);

        enter(Station::Keep);
        desk().editPiece("colours", [](Piece& p) {
            p.keep().rule = KeepRule::Colour;
            p.keep().colours = {{{200, 40, 30, 255}, {}}, {{30, 40, 90, 255}, {}}, {{250, 240, 220, 255}, {}}};
        });
        QVERIFY(settled());
        auto* swatches = find<Swatches>("keep-swatches");
        swatches->setFocus();
        QTest::keyClick(swatches, Qt::Key_Right);
        QTest::keyClick(swatches, Qt::Key_Delete); // the second
        QVERIFY(settled());
        QCOMPARE(piece().keep().colours.size(), std::size_t(2));
        QCOMPARE(piece().keep().colours[1].colour, (Rgba{250, 240, 220, 255}));
    }

    // Errors come whole: each value in its place, also where a translation has them elsewhere or not at all.
    void errorsAreFilledIn()
    {
        const Error plain(ErrorKind::Input, "a paper of {} by {} is too small for {}", "10", "20", "'Kettle {} badger'");
        QCOMPARE(words(plain), QString("a paper of 10 by 20 is too small for 'Kettle {} badger'"));
        QCOMPARE(words(Error(ErrorKind::Input, "nothing to fill in")), QString("nothing to fill in"));
        QCOMPARE(words(Error(ErrorKind::Input, "M\u00e4rchen: {}", "\u5996\u602a")), QString("M\u00e4rchen: \u5996\u602a"));
        QCOMPARE(QString::fromUtf8(plain.what()), words(plain));
    }
};

DRIVEN_MAIN(TestSaid)
#include "test_said.moc"
