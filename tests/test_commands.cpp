// Every command by its keys and by the menu, every key of the bench, and the list that shows
// them: each does what it says, where there is something to do it to.
#include "driver.h"

#include <QAction>
#include <QDialog>
#include <QMenu>

#include <set>

using namespace yokai;
using namespace yokai::test;

class TestCommands : public Driver {
    Q_OBJECT

    QAction* action(const char* id) { return find<QAction>(id); }
    void press(const QKeySequence& keys)
    {
        const QKeyCombination first = keys[0];
        QTest::keyClick(QApplication::focusWidget() ? QApplication::focusWidget() : window_.get(), first.key(), first.keyboardModifiers());
        QTest::qWait(1);
    }
    void onBenchKey(Qt::Key key, Qt::KeyboardModifiers modifiers = {}) { QTest::keyClick(&window_->bench(), key, modifiers); }
    std::vector<QAction*> inMenu()
    {
        QMenu* menu = nullptr;
        for (QMenu* m : window_->findChildren<QMenu*>())
            if (m->actions().contains(action("save-as")))
                menu = m;
        emit menu->aboutToShow();
        std::vector<QAction*> out;
        for (QAction* a : menu->actions())
            if (!a->isSeparator() && !a->menu()) // the menu of recent jobs may have none
                out.push_back(a);
        return out;
    }

private slots:
    void initTestCase() { start(); }
    void init() { open(); }
    void cleanup() { window_.reset(); }

    // No two commands share keys, each in the menu says what it is, and what has nothing to do is greyed.
    void theTableIsWhole()
    {
        std::set<QString> keys, texts;
        for (QAction* a : window_->findChildren<QAction*>())
            for (const QKeySequence& k : a->shortcuts())
                QVERIFY2(keys.insert(k.toString()).second, qPrintable(k.toString()));
        const std::vector<QAction*> empty = inMenu();
        QVERIFY(empty.size() >= 14);
        for (QAction* a : empty) {
            QVERIFY(!a->text().isEmpty() && texts.insert(a->text()).second);
            const bool needsSomething = std::set<QString>{"undo", "redo", "duplicate", "replace-picture", "remove", "fit", "true-size", "print", "cut", "hold", "stop"}.contains(a->objectName());
            QVERIFY2(a->isEnabled() != needsSomething, qPrintable(a->objectName()));
        }
        drop({boxes()});
        for (QAction* a : inMenu())
            QVERIFY2(a->isEnabled() == !(std::set<QString>{"redo", "hold", "stop"}.contains(a->objectName())), qPrintable(a->objectName()));
    }

    void stationsByNumber()
    {
        drop({boxes()});
        for (int i = stationCount; i-- > 0;) {
            press(Qt::CTRL | Qt::Key(Qt::Key_1 + i));
            QCOMPARE(int(desk().station()), i);
        }
        // From within a field too.
        enter(Station::CutLines);
        find<QLineEdit>("line-offset")->setFocus();
        press(Qt::CTRL | Qt::Key_6);
        QCOMPARE(int(desk().station()), int(Station::Sheet));
    }

    void duplicatesAndRemoves()
    {
        drop({boxes()});
        press(Qt::CTRL | Qt::Key_D);
        QVERIFY(settled());
        QCOMPARE(desk().job().pieces.size(), std::size_t(2));
        const Piece first = desk().job().pieces[0], second = desk().job().pieces[1];
        QVERIFY(first.id != second.id && first.lines()[0].id != second.lines()[0].id);
        QVERIFY(first.artwork == second.artwork && first.keep() == second.keep());
        QCOMPARE(piece().id, second.id); // the new one is at hand
        type("line-offset", "5mm");
        QCOMPARE(desk().job().pieces[0].lines()[0].offset, first.lines()[0].offset);
        QCOMPARE(desk().job().pieces[1].lines()[0].offset, 5_mm);
        action("remove")->trigger();
        QVERIFY(settled());
        QCOMPARE(desk().job().pieces.size(), std::size_t(1));
        QCOMPARE(desk().job().pieces[0], first);
        press(Qt::CTRL | Qt::Key_Z);
        QVERIFY(settled());
        QCOMPARE(desk().job().pieces.size(), std::size_t(2));
        QCOMPARE(desk().job().pieces[1].id, second.id);
        press(Qt::CTRL | Qt::SHIFT | Qt::Key_Z);
        QVERIFY(settled());
        QCOMPARE(desk().job().pieces.size(), std::size_t(1));
    }

    void newStartsFromNothing()
    {
        drop({boxes()});
        answer("not-saved", "Discard");
        press(QKeySequence::New);
        QTRY_VERIFY(desk().job().pieces.empty());
        QVERIFY(answered_);
        QVERIFY(!desk().history().canUndo());
        QVERIFY(!desk().shown() || desk().shown()->derived.pieces.empty());
    }

    void nothingOnTheClipboardIsSaid()
    {
        QApplication::clipboard()->setText("no picture");
        press(QKeySequence::Paste);
        QVERIFY2(notice().contains("no picture on the clipboard"), qPrintable(notice()));
        QVERIFY(desk().job().pieces.empty());
    }

    void darkIsRemembered()
    {
        const bool before = theme::isDark();
        press(Qt::CTRL | Qt::SHIFT | Qt::Key_D);
        QCOMPARE(theme::isDark(), !before);
        QCOMPARE(QSettings().value("dark").toBool(), !before);
        press(Qt::CTRL | Qt::SHIFT | Qt::Key_D);
        QCOMPARE(theme::isDark(), before);
    }

    // All of it, true size, in and out about the middle, and along; by the bench's own keys.
    void theBenchMoves()
    {
        drop({boxes()});
        Bench& bench = window_->bench();
        bench.setFocus();
        const double whole = bench.view().scale;
        const QPointF centre = bench.view().toScreen(QPointF(30, 20)); // of what is shown whole
        onBenchKey(Qt::Key_Plus);
        const double larger = bench.view().scale;
        QVERIFY(larger > whole * 1.05);
        QVERIFY((bench.view().toScreen(QPointF(30, 20)) - centre).manhattanLength() < 8);
        onBenchKey(Qt::Key_Minus);
        QVERIFY(std::abs(bench.view().scale - whole) < 1e-6 * whole);
        const QPointF at = bench.view().origin;
        onBenchKey(Qt::Key_Left);
        QVERIFY(bench.view().origin.x() > at.x() && bench.view().origin.y() == at.y());
        onBenchKey(Qt::Key_Right);
        onBenchKey(Qt::Key_Up);
        QVERIFY(bench.view().origin.x() == at.x() && bench.view().origin.y() > at.y());
        onBenchKey(Qt::Key_T);
        const double truly = bench.view().scale;
        onBenchKey(Qt::Key_F);
        QVERIFY(std::abs(bench.view().scale - whole) < 1e-6 * whole && truly != whole);
        action("true-size")->trigger();
        QCOMPARE(bench.view().scale, truly);
        press(Qt::CTRL | Qt::Key_0);
        QVERIFY(std::abs(bench.view().scale - whole) < 1e-6 * whole);
    }

    // What is taken in hand by a key is put down by Esc, by the key's own station only.
    void toolsByTheirKeys()
    {
        drop({boxes()});
        enter(Station::Keep);
        window_->bench().setFocus();
        for (const auto& [key, hold] : {std::pair(Qt::Key_R, Hold::RubOut), {Qt::Key_A, Hold::BringBack}, {Qt::Key_L, Hold::RubOutLike}, {Qt::Key_P, Hold::Pick},
                                        {Qt::Key_X, Hold::InsideBox}, {Qt::Key_O, Hold::InsideLasso}}) {
            onBenchKey(key);
            QCOMPARE(int(desk().hand().hold), int(hold));
            onBenchKey(Qt::Key_Escape);
            QCOMPARE(int(desk().hand().hold), int(Hold::Nothing));
        }
        onBenchKey(Qt::Key_R);
        const Length brush = desk().hand().brush;
        onBenchKey(Qt::Key_BracketRight);
        QVERIFY(desk().hand().brush > brush);
        onBenchKey(Qt::Key_BracketLeft);
        QVERIFY(std::abs((desk().hand().brush - brush).mm()) < 0.01);
        onBenchKey(Qt::Key_Escape);
        QTest::keyPress(&window_->bench(), Qt::Key_B);
        QCOMPARE(int(desk().peek()), int(Peek::Bare));
        QTest::keyRelease(&window_->bench(), Qt::Key_B);
        QVERIFY(desk().peek() != Peek::Bare);
        enter(Station::CutLines);
        window_->bench().setFocus();
        onBenchKey(Qt::Key_R); // not here
        QCOMPARE(int(desk().hand().hold), int(Hold::Nothing));
    }

    // The list names every command that has keys, shows no text cut off, and closes.
    void theListOfKeysIsWhole()
    {
        bool seen = false;
        QTimer::singleShot(50, this, [&] {
            auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget());
            QVERIFY(dialog && dialog->objectName() == "keys");
            QStringList texts;
            for (const QLabel* l : dialog->findChildren<QLabel*>()) {
                texts << l->text();
                QVERIFY2(l->width() >= l->sizeHint().width(), qPrintable(l->text()));
            }
            for (QAction* a : window_->findChildren<QAction*>())
                if (!a->shortcuts().isEmpty() && !a->objectName().isEmpty())
                    QVERIFY2(texts.contains(QString(a->text()).remove(QChar(0x2026))), qPrintable(a->text()));
            seen = true;
            QTest::keyClick(dialog, Qt::Key_Escape);
        });
        press(Qt::Key_F1);
        QVERIFY(seen && !QApplication::activeModalWidget());
    }
};

DRIVEN_MAIN(TestCommands)
#include "test_commands.moc"
