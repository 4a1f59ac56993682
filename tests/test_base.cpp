#include "base/error.h"
#include "base/file.h"
#include "base/length.h"
#include "base/work.h"
#include "path/path.h"

#include <QDir>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>

#include <filesystem>
#include <numbers>
#include <sys/stat.h>

using namespace yokai;

class TestBase : public QObject {
    Q_OBJECT
private slots:
    // 1 in = 25.4 mm (international inch, 1959); the PostScript point is 1/72 in; the CSS px
    // 1/96 in (W3C CSS Values 3, section 6.2); HPGL counts 40 units a mm.
    void unitsAreWholeTicks()
    {
        QCOMPARE(Length::ticksPerInch * 10, Length::ticksPerMm * 254);
        QCOMPARE(Length::ticksPerInch % 72, 0);
        QCOMPARE(Length::ticksPerInch % 96, 0);
        QCOMPARE(Length::ticksPerInch % 64, 0);
        QCOMPARE(Length::ticksPerMm % 40, 0);
        QCOMPARE(parseLength("1in"), Length::mm(25.4));
        QCOMPARE(parseLength("72pt"), Length::inches(1));
    }

    void switchingTheUnitChangesNothing()
    {
        for (int n = 1; n < 640; ++n) {
            const Length l = Length::ticks(Length::ticksPerInch * n / 64);
            QCOMPARE(Length::mm(l.mm()), l);
            QCOMPARE(Length::inches(Length::mm(l.mm()).inches()), l);
        }
    }

    void lengthsAsTyped_data()
    {
        QTest::addColumn<QString>("text");
        QTest::addColumn<double>("mm");
        const std::pair<const char*, double> rows[] = {
            {"2mm", 2},       {"2", 2},       {"1/8in", 3.175},       {"1 1/2 in", 38.1}, {"2+0.5mm", 2.5}, {"0.2in", 5.08},   {"-1.5mm", -1.5}, {"3*2.5", 7.5},
            {"(1+1)*2mm", 4}, {"10cm/4", 25}, {"6pt", 6 * 25.4 / 72}, {"1/4\"", 6.35},    {"2,5mm", 2.5},   {"1in-0.4mm", 25}, {"20um", 0.02}};
        for (const auto& [text, mm] : rows)
            QTest::newRow(text) << QString::fromUtf8(text) << mm;
    }
    void lengthsAsTyped()
    {
        QFETCH(QString, text);
        QFETCH(double, mm);
        QVERIFY2(std::abs(parseLength(text.toStdString()).mm() - mm) < 1e-5, qPrintable(QString::number(parseLength(text.toStdString()).mm())));
    }

    void nonsenseIsRefused()
    {
        for (const char* text : {"", "mm", "2kg", "1/0", "2mm*3mm", "--", "1e99999", "(2", "2)", "nan", "inf", "99999999999mm", "1..2",
                                 "((((((((((((((((((((((((((((((((((((((((1"})
            QVERIFY_EXCEPTION_THROWN(parseLength(text), Error);
        for (const char* text : {"-1mm2", "", "mm2", "1cm2", "1..2", "1,2,3", "inf", "nan", "2 mm", "1e999"})
            QVERIFY_EXCEPTION_THROWN(parseArea(text), Error);
    }

    // A bare number is of the unit that is shown; what is written beside it counts.
    void areasAsTyped()
    {
        QCOMPARE(parseArea("2in2"), 2 * 645.16);
        QCOMPARE(parseArea("2"), 2.0);
        QCOMPARE(parseArea("2", Unit::Inch), 2 * 645.16);
        QCOMPARE(parseArea("2 mm\u00b2", Unit::Inch), 2.0);
        QCOMPARE(parseArea("0,5 in\u00b2"), 0.5 * 645.16);
    }

    // A file that another program has locked, in either of the ways there are, is left as it is, and said to be; free again it is written.
    void lockedFilesAreLeft()
    {
        const QTemporaryDir dir;
        const QString file = dir.filePath("held.txt");
        for (const QString& way : {QStringLiteral("fcntl.flock(f, fcntl.LOCK_SH)"), QStringLiteral("fcntl.lockf(f, fcntl.LOCK_EX)")}) {
            writeFile(file.toStdString(), std::string_view("one"));
            QProcess holder;
            holder.start("/usr/bin/python3", {"-c", "import fcntl,sys\nf = open(sys.argv[1], 'r+')\n" + way + "\nprint('held', flush=True)\nsys.stdin.read()", file});
            QVERIFY(holder.waitForReadyRead());
            try {
                writeFile(file.toStdString(), std::string_view("two"));
                QFAIL("a locked file was written");
            } catch (const Error& e) {
                QVERIFY2(QString(e.what()).contains("has it locked"), e.what());
            }
            QCOMPARE(readFile(file.toStdString()), Bytes({'o', 'n', 'e'}));
            holder.closeWriteChannel();
            QVERIFY(holder.waitForFinished());
            writeFile(file.toStdString(), std::string_view("two"));
            QCOMPARE(readFile(file.toStdString()), Bytes({'t', 'w', 'o'}));
            QCOMPARE(QDir(dir.path()).entryList(QDir::Files | QDir::Hidden).size(), 1);
        }
    }

    // Nothing half-written, and a link or a file's rights survive.
    void filesAreWrittenWhole()
    {
        const QTemporaryDir dir;
        const std::filesystem::path folder = dir.path().toStdString(), file = folder / "a.txt";
        writeFile(file, std::string_view("one"));
        ::chmod(file.c_str(), 0640);
        std::filesystem::create_symlink(file, folder / "link");
        writeFile(folder / "link", std::string_view("two"));
        QVERIFY(std::filesystem::is_symlink(folder / "link"));
        QCOMPARE(readFile(file), Bytes({'t', 'w', 'o'}));
        struct stat info {};
        ::stat(file.c_str(), &info);
        QCOMPARE(info.st_mode & 0777, 0640u);
        QVERIFY_EXCEPTION_THROWN(writeFile(folder / "no" / "where", std::string_view("x")), Error);
        QVERIFY_EXCEPTION_THROWN(writeFile(folder, std::string_view("x")), Error);
        QVERIFY_EXCEPTION_THROWN(readFile(folder), Error);
        QVERIFY_EXCEPTION_THROWN(readFile("/dev/zero"), Error);
        int left = 0;
        for (const auto& entry : std::filesystem::directory_iterator(folder))
            left += entry.path().filename() != "a.txt" && entry.path().filename() != "link";
        QCOMPARE(left, 0);
    }

    void slicesCoverEverythingOnceAndPassErrorsOn()
    {
        std::vector<int> hits(1000, 0);
        parallelSlices(1000, 10, [&](int b, int e) {
            for (int i = b; i < e; ++i)
                ++hits[std::size_t(i)];
        });
        QVERIFY(std::all_of(hits.begin(), hits.end(), [](int h) { return h == 1; }));
        QVERIFY_EXCEPTION_THROWN(parallelSlices(100, 1,
                                                [](int, int e) {
                                                    if (e == 100)
                                                        throw Cancelled();
                                                }),
                                 Cancelled);
    }

    // A circle of four cubics with handles of 4/3 (sqrt 2 - 1): its area and length are known to differ
    // from the circle's by under 0.03 %.
    void pathsMeasureThemselves()
    {
        const double r = 10, k = r * 4.0 / 3 * (std::numbers::sqrt2 - 1);
        Path p;
        p.start = {r, 0};
        p.curveTo({r, k}, {k, r}, {0, r});
        p.curveTo({-k, r}, {-r, k}, {-r, 0});
        p.curveTo({-r, -k}, {-k, -r}, {0, -r});
        p.curveTo({k, -r}, {r, -k}, {r, 0});
        QVERIFY(std::abs(signedArea(p) / (std::numbers::pi * r * r) - 1) < 3e-4);
        QVERIFY(std::abs(length(p) / (2 * std::numbers::pi * r) - 1) < 3e-4);
        QVERIFY(std::abs(signedArea(flatten(p, 1e-4)) - signedArea(p)) < 0.01);
        const Rect b = bounds(p);
        QVERIFY(std::abs(b.x0 + r) < 1e-9 && std::abs(b.y1 - r) < 1e-9);
        QVERIFY(std::abs(signedArea(transformed(p, Affine::turn(0.7) * Affine::scale(2, -3))) + 6 * signedArea(p)) < 1e-6);
    }
};

QTEST_APPLESS_MAIN(TestBase)
#include "test_base.moc"
