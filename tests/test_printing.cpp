// Printing on a real queue: the system's own print server, started here, with a printer that makes PDF files
// (printer-driver-cups-pdf). What comes out of it is measured.

#include "driver.h"

#include "desk/printing.h"
#include "formats/pages/test_page.h"
#include "sheet/media.h"
#include "theme/number_field.h"

#include <QComboBox>
#include <QDir>
#include <QPrintDialog>
#include <QProcess>
#include <QPushButton>
#include <QRadioButton>
#include <QRegularExpression>
#include <QSpinBox>
#include <QStandardPaths>

#include <pwd.h>
#include <unistd.h>

using namespace yokai;
using namespace yokai::test;

namespace {

constexpr double pxAMm = 20; // of what is measured: 508 ppi

// Of all that is dark, mm.
Rect darkOf(const QImage& page, const QRect& within)
{
    Rect box = Rect::nothing();
    for (int y = within.top(); y <= within.bottom(); ++y)
        for (int x = within.left(); x <= within.right(); ++x)
            if (qGray(page.pixel(x, y)) < 128) {
                box.add(Point{x / pxAMm, y / pxAMm});
                box.add(Point{(x + 1) / pxAMm, (y + 1) / pxAMm});
            }
    return box;
}

} // namespace

// A server that is not root's cannot run it.
#define NEEDS_THE_PRINTER \
    if (::geteuid() != 0) \
    QSKIP("the PDF printer's driver works for root alone")

class TestPrinting : public Driver {
    Q_OBJECT
    QProcess server_;
    static QString out() { return QString::fromLocal8Bit(::getpwuid(::getuid())->pw_dir) + "/PDF"; } // where the printer puts its files
    QDateTime began_; // what lies there from before is not ours

    bool startServer()
    {
        const QString root = dir_.path();
        QFile::setPermissions(root, QFile::Permissions(0x7755)); // its filters run as another user
        for (const char* folder : {"etc", "cache", "spool", "tmp"})
            if (!QDir(root).mkpath(folder))
                return false;
        QFile::setPermissions(root + "/tmp", QFile::Permissions(0x7777));
        write(root + "/cupsd.conf", "LogLevel warn\nListen " + root.toUtf8() + "/socket\nBrowsing Off\nDefaultAuthType None\nWebInterface No\n"
                                    "<Location />\nOrder allow,deny\nAllow all\n</Location>\n<Policy default>\n<Limit All>\nOrder deny,allow\nAllow all\n</Limit>\n</Policy>\n");
        write(root + "/files.conf", QStringLiteral("ServerRoot %1/etc\nCacheDir %1/cache\nStateDir %1/etc\nRequestRoot %1/spool\nTempDir %1/tmp\nAccessLog %1/access\nErrorLog %1/error\nPageLog %1/page\n")
                                        .arg(root).toUtf8());
        qputenv("CUPS_SERVER", (root + "/socket").toUtf8());
        server_.start("/usr/sbin/cupsd", {"-f", "-c", root + "/cupsd.conf", "-s", root + "/files.conf"});
        return server_.waitForStarted() && QTest::qWaitFor([&] { return run("lpstat", {"-r"}).out.contains("is running"); }, 20'000) &&
               run("lpadmin", {"-p", "Tanuki", "-E", "-v", "cups-pdf:/", "-m", "lsb/usr/cups-pdf/CUPS-PDF_noopt.ppd"}).code == 0;
    }
    // The dialog that comes is answered as a person would: this printer, Print.
    void answerPrint(const QString& printer)
    {
        answered_ = false;
        auto* timer = new QTimer(window_.get());
        connect(timer, &QTimer::timeout, this, [this, timer, printer] {
            auto* dialog = qobject_cast<QPrintDialog*>(QApplication::activeModalWidget());
            if (!dialog)
                return;
            timer->stop();
            timer->deleteLater();
            auto* list = dialog->findChild<QComboBox*>("printers");
            list->setFocus();
            while (list->currentText() != printer && list->currentIndex() + 1 < list->count())
                QTest::keyClick(list, Qt::Key_Down);
            for (auto* button : dialog->findChildren<QPushButton*>())
                if (button->text().remove('&') == "Print" && list->currentText() == printer) {
                    answered_ = true;
                    return QTest::mouseClick(button, Qt::LeftButton);
                }
            dialog->reject();
        });
        timer->start(20);
    }
    // What the printer has made since, as pixels.
    QImage printed()
    {
        QStringList now;
        const auto arrived = [&] {
            now.clear();
            for (const QFileInfo& there : QDir(out()).entryInfoList({"*.pdf"}, QDir::Files))
                if (there.lastModified() >= began_)
                    now << there.fileName();
            return now.size() == 1 && run("lpstat", {"-o"}).out.isEmpty() && run("pdfinfo", {out() + "/" + now.first()}).code == 0;
        };
        if (!QTest::qWaitFor(arrived, 60'000))
            return {};
        const QString file = out() + "/" + now.first();
        name_ = now.first();
        run("pdftocairo", {"-png", "-r", QString::number(pxAMm * 25.4), "-singlefile", file, dir_.filePath("printed")});
        QFile::remove(file);
        return QImage(dir_.filePath("printed.png"));
    }
    QString name_;
    void severalSheets()
    {
        drop({square()});
        desk().edit("paper", [](Job& job) {
            job.sheet.media = mediaFrom("A5");
            job.pieces[0].copies = 30;
            job.handOff.stretchX = 101; // as it came with the job
        });
        QVERIFY(settled());
    }

private slots:
    void initTestCase()
    {
        start();
        if (::geteuid() == 0)
            QVERIFY2(startServer(), qPrintable(read(dir_.filePath("error"))));
        began_ = QDateTime::currentDateTime().addSecs(-1); // files' times are coarse
    }
    void init()
    {
        QSettings().clear();
        open();
    }
    void cleanup() { window_.reset(); }
    void cleanupTestCase()
    {
        server_.terminate();
        server_.waitForFinished();
        QDir().rmdir(out()); // stays where it holds anything
    }

    // The sheet comes out as large as it is, with the picture and the marks in their places and without a cut line. A printer that
    // was measured to stretch is given what makes its print come out true; that is remembered as its own.
    void whatIsPrintedIsTrue()
    {
        NEEDS_THE_PRINTER;
        drop({square()});
        desk().edit("paper", [](Job& job) {
            job.sheet.media = mediaFrom("A5");
            job.pieces[0].copies = 1;
        });
        QVERIFY(settled());
        const Layout& sheet = desk().shown()->derived.sheet;
        QVERIFY(!sheet.placements.empty() && sheet.marks.size() >= 4);
        answerPrint("Tanuki");
        QTest::keyClick(window_.get(), Qt::Key_P, Qt::ControlModifier);
        QVERIFY(answered_ && settled());
        const QImage page = printed();
        QVERIFY2(!page.isNull(), qPrintable(notice()));
        QVERIFY(name_.startsWith("square"));
        QVERIFY2(std::abs(page.width() / pxAMm - sheet.width) < 1 && std::abs(page.height() / pxAMm - sheet.height) < 1, qPrintable(QString::number(page.width() / pxAMm)));
        // Marks measured against each other: the server may set the page off by a fraction of a point, but no size may change.
        const auto find = [&](const Point& near, double reach) {
            return darkOf(page, QRect(QPoint(int((near.x - reach) * pxAMm), int((near.y - reach) * pxAMm)), QPoint(int((near.x + reach) * pxAMm), int((near.y + reach) * pxAMm))));
        };
        const auto middle = [](const Rect& r) { return Point{(r.x0 + r.x1) / 2, (r.y0 + r.y1) / 2}; };
        const Mark &first = sheet.marks.front(), &other = *std::max_element(sheet.marks.begin(), sheet.marks.end(), [&](const Mark& a, const Mark& b) {
            return distance(a.centre, first.centre) < distance(b.centre, first.centre);
        });
        const Point off = middle(find(first.centre, 4)) - first.centre;
        QVERIFY2(std::hypot(off.x, off.y) < 0.4, qPrintable(QString::number(std::hypot(off.x, off.y))));
        QVERIFY(distance(middle(find(other.centre, 4)) - other.centre, off) < 0.06);
        const Rect square = find(sheet.placements[0].toSheet({30, 30}), 22);
        constexpr double dot = 25.4 / 300; // of the server's filter, which makes pixels of what is partly clear
        QVERIFY2(std::abs(square.width() - 40) < 2 * dot && std::abs(square.height() - 40) < 2 * dot, qPrintable(QString::number(square.width())));
        QCOMPARE(printing::last(), QStringLiteral("Tanuki"));
    }

    // A sheet that lies across comes out as large, whichever way the printer takes its paper.
    void sheetsThatLieAcross()
    {
        NEEDS_THE_PRINTER;
        drop({square()});
        desk().edit("paper", [](Job& job) {
            job.sheet.media = mediaFrom("A5");
            job.sheet.landscape = true;
            job.pieces[0].copies = 1;
            job.sheet.marks.style = MarkStyle::None;
        });
        QVERIFY(settled());
        QVERIFY(desk().shown()->derived.sheet.width > desk().shown()->derived.sheet.height);
        printing::Where where;
        where.order.queue = "Tanuki";
        printing::print(desk(), where, 0, 0);
        QVERIFY(settled());
        const QImage page = printed();
        QVERIFY2(!page.isNull(), qPrintable(notice()));
        const double wide = page.width() / pxAMm, high = page.height() / pxAMm;
        QVERIFY2(std::abs(std::min(wide, high) - 148) < 1 && std::abs(std::max(wide, high) - 210) < 1, qPrintable(QStringLiteral("%1 x %2").arg(wide).arg(high)));
        const Rect ink = darkOf(page, page.rect());
        QVERIFY2(std::abs(ink.width() - 40) < 0.2 && std::abs(ink.height() - 40) < 0.2, qPrintable(QStringLiteral("%1 x %2").arg(ink.width()).arg(ink.height())));
    }

    void theScaleIsMeasured()
    {
        NEEDS_THE_PRINTER;
        drop({square()});
        desk().edit("paper", [](Job& job) { job.sheet.media = mediaFrom("A5"); });
        enter(Station::HandOff);
        unfold();
        answerPrint("Tanuki");
        QTest::mouseClick(find<QPushButton>("hand-test-page"), Qt::LeftButton);
        QVERIFY(answered_ && settled());
        const QImage page = printed();
        QVERIFY2(!page.isNull(), qPrintable(notice()));
        const SheetSpec& sheet = desk().job().sheet;
        const TestLines lines = testLinesOn(sheet.width(), sheet.height());
        // From the outer edge of its first tick to that of its last: the line and its weight.
        const int row = int(((sheet.height() - lines.along) / 2 - 3) * pxAMm);
        const Rect across = darkOf(page, QRect(0, row - 10, page.width(), 20));
        QVERIFY2(std::abs(across.width() - lines.across - 0.1) < 0.1, qPrintable(QString::number(across.width())));
        // This one prints 0.5 % too wide, by the ruler.
        type("hand-stretch-x", qPrintable(QString::number(lines.across * 1.005)));
        QVERIFY(settled());
        QVERIFY(std::abs(desk().job().handOff.stretchX - 100.5) < 0.01);
        QVERIFY(std::abs(printing::scaleOf("Tanuki").across - 100.5) < 0.01);
        // The next job is printed smaller on it, so that it comes out true.
        window_.reset();
        open();
        drop({square()});
        desk().edit("paper", [](Job& job) {
            job.sheet.media = mediaFrom("A5");
            job.pieces[0].copies = 1;
        });
        QVERIFY(settled());
        QCOMPARE(desk().job().handOff.stretchX, 100.0);
        answerPrint("Tanuki");
        QTest::keyClick(window_.get(), Qt::Key_P, Qt::ControlModifier);
        QVERIFY(answered_ && settled());
        const QImage smaller = printed();
        const Layout& laid = desk().shown()->derived.sheet;
        const Point middle = laid.placements[0].toSheet({30, 30});
        const Rect square = darkOf(smaller, QRect(QPoint(int((middle.x - 22) * pxAMm), int((middle.y - 22) * pxAMm)), QPoint(int((middle.x + 22) * pxAMm), int((middle.y + 22) * pxAMm))));
        QVERIFY2(std::abs(square.width() - 40 / 1.005) < 0.08 && std::abs(square.height() - 40) < 0.08, qPrintable(QString::number(square.width())));
        QVERIFY(std::abs(desk().job().handOff.stretchX - 100.5) < 0.01);
    }

    // Into a file where one is named instead of a printer, which then has no scale to mend; of several sheets those that are asked for.
    void aFileInsteadOfAPrinter()
    {
        severalSheets();
        const int sheets = desk().shown()->derived.sheet.sheets;
        QVERIFY(sheets >= 3);
        const QString path = dir_.filePath("some.pdf");
        printing::Where where;
        where.file = path;
        printing::print(desk(), where, 1, 2);
        QVERIFY(settled());
        QVERIFY2(notice().contains("some.pdf"), qPrintable(notice()));
        QVERIFY(run("pdfinfo", {path}).out.contains(QRegularExpression("Pages:\\s+2\\n")));
        const QString list = run("pdfimages", {"-list", path}).out;
        QVERIFY2(list.contains("image") && list.contains("smask"), qPrintable(list));
        QCOMPARE(desk().job().handOff.stretchX, 101.0); // a file is for whatever printer the job was made for
        QVERIFY(printing::last().isEmpty() && printing::known().isEmpty());
    }

    // Through the dialog, in its own words for pages: the second sheet alone.
    void oneOfSeveralSheets()
    {
        NEEDS_THE_PRINTER;
        severalSheets();
        answered_ = false;
        auto* timer = new QTimer(window_.get());
        connect(timer, &QTimer::timeout, this, [this, timer] {
            auto* dialog = qobject_cast<QPrintDialog*>(QApplication::activeModalWidget());
            if (!dialog)
                return;
            timer->stop();
            timer->deleteLater();
            dialog->findChild<QComboBox*>("printers")->setCurrentText("Tanuki");
            dialog->setPrintRange(QAbstractPrintDialog::PageRange);
            dialog->setFromTo(2, 2);
            dialog->findChild<QRadioButton*>("printRange")->setChecked(true);
            dialog->findChild<QSpinBox*>("from")->setValue(2);
            dialog->findChild<QSpinBox*>("to")->setValue(2);
            for (auto* button : dialog->findChildren<QPushButton*>())
                if (button->text().remove('&') == "Print") {
                    answered_ = true;
                    return QTest::mouseClick(button, Qt::LeftButton);
                }
        });
        timer->start(20);
        enter(Station::HandOff);
        QTest::mouseClick(find<QPushButton>("hand-print-now"), Qt::LeftButton);
        QVERIFY(answered_ && settled());
        QVERIFY2(notice().startsWith("1 sheet sent to Tanuki"), qPrintable(notice()));
        QVERIFY(!printed().isNull());
        // A scale that came with the job is not this printer's.
        QCOMPARE(desk().job().handOff.stretchX, 100.0);
        QVERIFY(printing::scaleOf("Tanuki") == printing::Scale());
    }

    // A queue that is gone is said to be, with what to do; nothing else happens.
    void aPrinterThatIsGoneIsSaid()
    {
        drop({square()});
        printing::Where where;
        where.order.queue = "Kappa";
        printing::print(desk(), where, 0, 0);
        QVERIFY(settled());
        QVERIFY2(notice().contains("cannot print on 'Kappa'") || notice().contains("annot print on 'Kappa'"), qPrintable(notice()));
    }
};

DRIVEN_MAIN(TestPrinting)
#include "test_printing.moc"
