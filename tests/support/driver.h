// The real window, driven as a maker would: press, drag, type. What a test of the window
// derives from.
#pragma once

#include "bench/bench.h"
#include "bench/chips.h"
#include "desk/machining.h"
#include "formats/project/project.h"
#include "main_window.h"
#include "run.h"
#include "side/side_list.h"
#include "theme/controls.h"
#include "theme/theme.h"
#include "trail/trail.h"

#include "application.h"

#include <QApplication>
#include <QClipboard>
#include <QComboBox>
#include <QDropEvent>
#include <QElapsedTimer>
#include <QLabel>
#include <QLineEdit>
#include <QDialog>
#include <QMessageBox>
#include <QMimeData>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QSettings>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTest>
#include <QTimer>
#include <QToolButton>
#include <QWheelEvent>

#include <ctime>
#include <functional>
#include <utility>

namespace yokai::test {

// How long the window's thread was away at most between two events: by the clock, which a busy
// machine makes longer, and by what the thread itself worked, which it does not.
class Pauses {
public:
    struct Longest {
        qint64 clock = 0;  // ms
        double worked = 0; // ms
        // What is computed or waited for by mistake takes seconds on the pictures this is used with.
        bool fair() const { return clock > 0 && clock < 1'000 && worked < mostWorked; }
    };
#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__) || !defined(NDEBUG)
    static constexpr double mostWorked = 1'000;
#else
    static constexpr double mostWorked = 100; // ms: twice what the window allows itself, where another thread shares its core
#endif
    Pauses()
    {
        QObject::connect(&timer_, &QTimer::timeout, &timer_, [this] {
            longest_.clock = std::max(longest_.clock, since_.restart());
            const double now = worked();
            longest_.worked = std::max(longest_.worked, now - before_);
            before_ = now;
        });
        since_.start();
        before_ = worked();
        timer_.start(1);
    }
    Longest take()
    {
        QTest::qWait(50);
        return std::exchange(longest_, {});
    }

private:
    static double worked()
    {
        timespec t{};
        clock_gettime(CLOCK_THREAD_CPUTIME_ID, &t);
        return double(t.tv_sec) * 1e3 + double(t.tv_nsec) / 1e6;
    }
    QElapsedTimer since_;
    QTimer timer_;
    double before_ = 0;
    Longest longest_;
};

class Driver : public QObject {
    Q_OBJECT
protected:
    QTemporaryDir dir_;
    std::unique_ptr<MainWindow> window_;
    const QString pictures_ = QStringLiteral(YOKAI_DEMO_PICTURES "/");

    Desk& desk() { return window_->desk(); }
    template <class T> T* find(const char* name)
    {
        T* found = window_->findChild<T*>(QLatin1String(name));
        if (!found)
            qFatal("no %s in the window", name);
        return found;
    }
    bool settled(int ms = 60'000)
    {
        return QTest::qWaitFor([this] { return !desk().busy() && !desk().machining().busy() && desk().upToDate() && (desk().shown() || desk().job().pieces.empty()); }, ms);
    }
    void drop(const QStringList& files)
    {
        QMimeData data;
        QList<QUrl> urls;
        for (const QString& f : files)
            urls << QUrl::fromLocalFile(f);
        data.setUrls(urls);
        QDragEnterEvent enter(QPoint(100, 100), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(window_.get(), &enter);
        QDropEvent event(QPointF(100, 100), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(window_.get(), &event);
        QVERIFY(event.isAccepted());
        QVERIFY(settled());
    }
    // What is done at the next question that is asked.
    void atQuestion(const char* question, const std::function<void(QDialog&)>& what)
    {
        auto* timer = new QTimer(window_.get());
        connect(timer, &QTimer::timeout, this, [this, timer, question, what] {
            auto* box = qobject_cast<QDialog*>(QApplication::activeModalWidget());
            if (!box || box->objectName() != QLatin1String(question))
                return;
            timer->stop();
            timer->deleteLater();
            answered_ = true;
            what(*box);
        });
        answered_ = false;
        timer->start(10);
    }
    void answer(const char* question, const char* button)
    {
        atQuestion(question, [button](QDialog& box) {
            for (QPushButton* b : box.findChildren<QPushButton*>())
                if (b->text() == QLatin1String(button))
                    return QTest::mouseClick(b, Qt::LeftButton);
            box.reject();
        });
    }
    bool answered_ = false;
    void type(const char* field, const char* text)
    {
        auto* edit = find<QLineEdit>(field);
        QTest::mouseClick(edit, Qt::LeftButton);
        edit->selectAll();
        QTest::keyClicks(edit, QLatin1String(text));
        QTest::keyClick(edit, Qt::Key_Return);
        QVERIFY(settled());
    }
    void enter(Station s)
    {
        QTest::mouseClick(window_->findChild<QWidget*>(QStringLiteral("station-%1").arg(int(s))), Qt::LeftButton, {}, QPoint(80, 16));
        QCOMPARE(int(desk().station()), int(s));
        QVERIFY(settled());
    }
    QPoint onBench(QPointF mm) { return window_->bench().view().toScreen(mm).toPoint(); }
    // Press, move in steps, release: mm on the piece.
    void drag(const std::vector<QPointF>& way, Qt::KeyboardModifiers keys = {})
    {
        Bench& bench = window_->bench();
        QTest::mousePress(&bench, Qt::LeftButton, keys, onBench(way.front()));
        for (std::size_t i = 1; i < way.size(); ++i)
            for (int k = 1; k <= 4; ++k) {
                const QPoint at = onBench(way[i - 1] + (way[i] - way[i - 1]) * k / 4.0);
                QMouseEvent move(QEvent::MouseMove, at, bench.mapToGlobal(at), Qt::NoButton, Qt::LeftButton, keys);
                QApplication::sendEvent(&bench, &move);
            }
        QTest::mouseRelease(&bench, Qt::LeftButton, keys, onBench(way.back()));
        QVERIFY(settled());
    }
    void click(const char* name)
    {
        QTest::mouseClick(find<QAbstractButton>(name), Qt::LeftButton);
        QVERIFY(settled());
    }
    void choose(const char* name, int index)
    {
        auto* box = find<QComboBox>(name);
        box->setFocus();
        while (box->currentIndex() != index)
            QTest::keyClick(box, box->currentIndex() < index ? Qt::Key_Down : Qt::Key_Up);
        QVERIFY(settled());
    }
    const Piece& piece() { return *desk().currentPiece(); }
    const PieceResult& result() { return *desk().currentResult(); }
    const LayerResult& layer() { return *desk().layerResult(); }
    double keptArea()
    {
        double sum = 0;
        for (const Part& p : layer().parts->all)
            if (!p.opening && p.kept)
                sum += p.area;
        return sum;
    }
    // A picture of 60 x 40 mm at 10 px a mm: a dark box of 30 x 20 mm in its middle, a small
    // red one at the left and, in `tilted`, all of it askew.
    QString boxes(double tilted = 0)
    {
        return painted(QStringLiteral("boxes-%1.png").arg(tilted), {600, 400}, 10'000, Qt::white, [tilted](QPainter& p) {
            p.translate(300, 200);
            p.rotate(tilted);
            p.fillRect(QRectF(-150, -100, 300, 200), QColor(30, 40, 90));
            p.fillRect(QRectF(-260, -30, 60, 60), QColor(200, 40, 30));
        });
    }
    // A black square of 40 mm on clear ground, 60 mm across.
    QString square()
    {
        return painted(QStringLiteral("square.png"), {600, 600}, 10'000, Qt::transparent, [](QPainter& p) { p.fillRect(100, 100, 400, 400, Qt::black); });
    }
    // A picture of that many pixels, and of so many a metre, drawn on the paper.
    QString painted(const QString& name, QSize size, int pixelsAMetre, QColor paper, const std::function<void(QPainter&)>& draw)
    {
        const QString file = dir_.filePath(name);
        if (QFile::exists(file))
            return file;
        QImage image(size, QImage::Format_ARGB32);
        image.fill(paper);
        image.setDotsPerMeterX(pixelsAMetre);
        image.setDotsPerMeterY(pixelsAMetre);
        QPainter p(&image);
        p.setRenderHint(QPainter::Antialiasing);
        draw(p);
        p.end();
        image.save(file);
        return file;
    }
    // Opens every fold of the station that is open.
    void unfold()
    {
        for (QAbstractButton* fold : window_->trail().findChildren<QAbstractButton*>())
            if (fold->objectName().startsWith("fold-") && fold->isVisible())
                fold->setChecked(true);
        QTest::qWait(20);
    }
    // A row of the side list.
    void select(const QString& beginning)
    {
        auto* list = window_->findChild<SideList*>();
        for (int k = 0; k < list->model()->rowCount(); ++k)
            if (const QModelIndex index = list->model()->index(k, 0); list->rowAt(index).title.startsWith(beginning)) {
                list->scrollTo(index);
                QTest::mouseClick(list->viewport(), Qt::LeftButton, {}, list->visualRect(index).center());
                return;
            }
        QFAIL(qPrintable("no row " + beginning));
    }
    QString notice() { return find<QLabel>("notice-text")->text(); }
    void start()
    {
        QStandardPaths::setTestModeEnabled(true);
        QApplication::setOrganizationName("yokai-test");
        QSettings().clear();
        theme::install(*qApp);
        theme::setTextSize(theme::usualText); // whatever this system's is
    }
    // The system's text sizes a test goes through, px.
    static void textSizes()
    {
        QTest::addColumn<int>("size");
        QTest::newRow("usual text") << theme::usualText;
        QTest::newRow("large text") << 17;
        QTest::newRow("largest text") << theme::largestText;
    }
    // A window opened where the system's text is of that size.
    void withTextOf(int size)
    {
        window_.reset();
        theme::setTextSize(size);
        open();
    }
    void close()
    {
        window_.reset();
        theme::setTextSize(theme::usualText);
    }
    void open()
    {
        window_ = std::make_unique<MainWindow>();
        window_->show();
        QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
        window_->activateWindow();
        QVERIFY(QTest::qWaitForWindowActive(window_.get()));
    }
};

} // namespace yokai::test

// As QTEST_MAIN has it, with the application that the program runs.
#define DRIVEN_MAIN(Test) \
    int main(int argc, char** argv) \
    { \
        yokai::Application app(argc, argv); \
        app.setAttribute(Qt::AA_Use96Dpi, true); \
        Test test; \
        QTEST_SET_MAIN_SOURCE_PATH \
        return QTest::qExec(&test, argc, argv); \
    }
