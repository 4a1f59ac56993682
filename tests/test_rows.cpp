// Every row of every panel, by its own control: set, saved, read and shown again; and every
// field gives Ctrl+Z back to the job.

#include "driver.h"
#include "job/colour_layers.h"
#include "trail/panels.h"
#include "trail/trail.h"

#include <QCheckBox>

using namespace yokai;
using namespace yokai::test;

class TestRows : public Driver {
    Q_OBJECT

    // Opens all folds and gives the rows that are there to be used.
    std::vector<const Row*> rows(Station s)
    {
        enter(s);
        RowPanel* panel = window_->trail().cards()[std::size_t(s)]->panel();
        for (Fold* fold : panel->findChildren<Fold*>())
            if (!fold->isHidden())
                fold->setChecked(true);
        panel->refresh();
        QTest::qWait(1);
        std::vector<const Row*> out;
        for (const Row& row : panel->rows())
            if (row.refresh && row.control->isVisibleTo(window_.get()) && row.control->isEnabled())
                out.push_back(&row);
        return out;
    }
    QString shownBy(const Row& row)
    {
        if (auto* edit = qobject_cast<QLineEdit*>(row.control))
            return edit->text();
        if (auto* box = qobject_cast<QComboBox*>(row.control))
            return box->currentText();
        if (auto* box = qobject_cast<QCheckBox*>(row.control))
            return box->isChecked() ? "on" : "off";
        if (auto* choice = qobject_cast<Segmented*>(row.control))
            return QString::number(choice->current());
        return {};
    }
    // Something else than it has, by keys and presses only.
    void change(const Row& row)
    {
        if (auto* field = qobject_cast<NumberField*>(row.control)) {
            QTest::mouseClick(field, Qt::LeftButton);
            const bool least = field->plain() <= 1;
            field->selectAll();
            QTest::keyClicks(field, row.id.contains("stretch") ? "101" : row.id == "hand-ppi" ? "200" : row.id == "hand-hairline" ? "0.1" : row.id.contains("ppi") || row.id.contains("reach") ? "300" : row.id.contains("mark-count") ? "7" : least ? "1.5" : "1");
            QTest::keyClick(field, Qt::Key_Return);
        } else if (auto* edit = qobject_cast<QLineEdit*>(row.control)) {
            QTest::mouseClick(edit, Qt::LeftButton);
            edit->selectAll();
            QTest::keyClicks(edit, row.id.contains("colour") || row.id.contains("stock") ? "#123456" : "Dieline");
            QTest::keyClick(edit, Qt::Key_Return);
        } else if (auto* box = qobject_cast<QComboBox*>(row.control)) {
            box->setFocus();
            QTest::keyClick(box, box->currentIndex() > 0 ? Qt::Key_Up : Qt::Key_Down);
        } else if (auto* choice = qobject_cast<Segmented*>(row.control)) {
            choice->setFocus();
            QTest::keyClick(choice, choice->current() > 0 ? Qt::Key_Left : Qt::Key_Right);
        } else {
            QTest::mouseClick(row.control, Qt::LeftButton, {}, QPoint(8, row.control->height() / 2));
        }
        QVERIFY(settled());
    }

private slots:
    void initTestCase() { start(); }
    void init()
    {
        open();
        drop({boxes()});
        desk().editLayer("many lines", [](Layer& l) {
            l.lines = {{LineKind::Through, 2_mm}, {LineKind::Perforate, 1_mm}};
            l.lines[1].gapLength = 1_mm;
        });
        QVERIFY(settled());
    }
    void cleanup() { window_.reset(); }

    void everyRowIsSetSavedReadAndShown_data()
    {
        QTest::addColumn<int>("station");
        QTest::addColumn<int>("line");
        for (int s = 0; s < stationCount; ++s)
            QTest::newRow(qPrintable(QString::number(s))) << s << 0;
        QTest::newRow("2, a perforated line") << 2 << 1;
        QTest::newRow("1, colour layers") << 1 << 2;
        QTest::newRow("4, engraved") << 4 << 3;
    }
    void everyRowIsSetSavedReadAndShown()
    {
        QFETCH(int, station);
        QFETCH(int, line);
        desk().setLine(line);
        if (line == 2) {
            desk().editPiece("colour layers", [](Piece& p) {
                StepCache cache;
                p.layers = colourLayers(*splitOf(p, cache), {});
            });
            QVERIFY(settled());
        }
        if (line == 3) {
            desk().editLayer("engrave", [](Layer& l) {
                l.engrave.emplace();
                l.engrave->as = EngraveAs::Grey;
            });
            QVERIFY(settled());
        }
        QStringList ids;
        for (const Row* row : rows(Station(station)))
            ids << row->id;
        QVERIFY(station == int(Station::TouchUp) || station == int(Station::Bleed) || ids.size() > 3);
        ids.removeAll(QString());
        for (const QString& id : ids) {
            const Row* row = nullptr;
            for (const Row* r : rows(Station(station)))
                if (r->id == id)
                    row = r;
            if (!row)
                continue; // hidden by what another was set to
            QVERIFY2(!row->control->accessibleName().isEmpty() || qobject_cast<QAbstractButton*>(row->control), qPrintable(id));
            const Job before = desk().job();
            const QString was = shownBy(*row);
            change(*row);
            QVERIFY2(!(desk().job() == before), qPrintable(id + " changes nothing"));
            const QString now = shownBy(*row);
            QVERIFY2(now != was, qPrintable(id + " still shows " + was));
            // Saved, and read into a window of its own, it shows the same.
            const Job back = readProject(writeProject(desk().job()), "job");
            QVERIFY2(back == desk().job(), qPrintable(id + " is not saved"));
            // One undo takes it back, with the focus where it is; and it shows that.
            QTest::keyClick(window_->focusWidget() ? window_->focusWidget() : window_.get(), Qt::Key_Z, Qt::ControlModifier);
            QVERIFY2(desk().job() == before, qPrintable(id + ": Ctrl+Z from its own control"));
            QVERIFY(settled());
            QCOMPARE(shownBy(*row), was);
            QTest::keyClick(window_->focusWidget() ? window_->focusWidget() : window_.get(), Qt::Key_Y, Qt::ControlModifier);
            QVERIFY2(desk().job() == back, qPrintable(id + ": Ctrl+Y"));
            QVERIFY(settled());
            QCOMPARE(shownBy(*row), now);
            QTest::keyClick(window_->focusWidget() ? window_->focusWidget() : window_.get(), Qt::Key_Z, Qt::ControlModifier);
            QVERIFY(settled());
        }
    }

    // What is typed and not taken is taken back first; then the job's own steps.
    void undoWithinAField()
    {
        enter(Station::CutLines);
        const Job before = desk().job();
        type("line-offset", "3");
        auto* field = find<NumberField>("line-offset");
        QTest::keyClicks(field, "77");
        QTest::keyClick(field, Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(field->text(), QString("3.00 mm"));
        QCOMPARE(desk().job().pieces[0].lines()[0].offset, 3_mm);
        QTest::keyClick(field, Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(desk().job() == before);
        QCOMPARE(field->text(), QString("2.00 mm"));
        QVERIFY(settled());
    }

    // Automatic values are shown as such, can be set, and be had back.
    void automaticIsReachable()
    {
        rows(Station::Keep);
        for (const char* id : {"keep-level", "keep-smoothing"}) {
            auto* field = find<NumberField>(id);
            QVERIFY(field->property("automatic").toBool());
            const QString found = field->text();
            type(id, "3");
            QVERIFY(!field->property("automatic").toBool());
            click(qPrintable(QString(id) + "-auto"));
            QVERIFY(field->property("automatic").toBool());
            QCOMPARE(field->text(), found);
        }
        QVERIFY(!piece().keep().level && !piece().keep().smoothing);
        rows(Station::Artwork);
        click("artwork-copies-auto");
        QVERIFY(!piece().copies);
        QVERIFY(desk().shown()->derived.sheet.placed[0] > 5);
        QCOMPARE(find<NumberField>("artwork-copies")->number(), double(desk().shown()->derived.sheet.placed[0]));
        type("artwork-copies", "2");
        QCOMPARE(piece().copies.value_or(0), 2);
        // The ratio of the sides, given up and had back, is a part of the job.
        click("artwork-ratio");
        type("artwork-width", "50");
        QCOMPARE(result().height, 40.0);
        click("artwork-ratio");
        QVERIFY(std::abs(result().height - 50.0 * 400 / 600) < 0.01);
    }

    // A sheet of its own size begins with the size there was, and takes what is typed, in either unit.
    void aSheetOfItsOwnSize()
    {
        enter(Station::Sheet);
        QVERIFY(!find<QLineEdit>("sheet-width")->isVisible());
        auto* media = find<QComboBox>("sheet-media");
        media->setFocus();
        QTest::keyClick(media, Qt::Key_End); // without going through the others
        QVERIFY(settled());
        QCOMPARE(desk().job().sheet.media.width, 210_mm);
        type("sheet-width", "13in");
        type("sheet-height", "2 m");
        QVERIFY(desk().job().sheet.media == (Media{"custom", Length::inches(13), 2000_mm}));
        QCOMPARE(desk().shown()->derived.sheet.height, 2000.0);
        media->setFocus();
        QTest::keyClick(media, Qt::Key_Home);
        QVERIFY(settled());
        QCOMPARE(desk().job().sheet.media.name, std::string("A4"));
        QVERIFY(!find<QLineEdit>("sheet-width")->isVisible());
    }

    // A wheel over a control that was not clicked scrolls the panel and changes nothing.
    void theWheelChangesNothingOnItsWay()
    {
        for (const Station s : {Station::Artwork, Station::Keep, Station::CutLines, Station::Sheet, Station::Cut}) {
            for (const Row* row : rows(s)) {
                window_->bench().setFocus();
                const Job before = desk().job();
                QList<QWidget*> all = row->control->findChildren<QWidget*>();
                all << row->control;
                for (QWidget* other : row->others)
                    all << other << other->findChildren<QWidget*>();
                for (QWidget* w : all) {
                    const QPointF at(w->width() / 2.0, w->height() / 2.0);
                    QWheelEvent wheel(at, w->mapToGlobal(at), {}, QPoint(0, -120), Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase, false);
                    QApplication::sendEvent(w, &wheel);
                }
                QVERIFY2(desk().job() == before, qPrintable(row->id));
            }
        }
    }

    // Folds remember how they were left.
    void foldsRemember()
    {
        enter(Station::CutLines);
        auto* fold = find<Fold>("fold-cut-lines");
        fold->setChecked(false);
        QVERIFY(!find<QWidget>("line-shape")->isVisible());
        QTest::mouseClick(fold, Qt::LeftButton);
        QVERIFY(find<QWidget>("line-shape")->isVisible());
        window_.reset();
        open();
        drop({boxes()});
        enter(Station::CutLines);
        QVERIFY(find<QWidget>("line-shape")->isVisible());
        QTest::mouseClick(find<Fold>("fold-cut-lines"), Qt::LeftButton);
    }
};

DRIVEN_MAIN(TestRows)
#include "test_rows.moc"
