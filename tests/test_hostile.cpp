// Input that means harm or is merely too much: one clear line, within bounds of memory
// and time, nothing half-written, and the files that were there still there.

#include "artwork/artwork.h"
#include "base/error.h"
#include "base/length.h"
#include "formats/project/project.h"
#include "run.h"

#include <QDir>
#include <QFileInfo>
#include <QTemporaryDir>
#include <QTest>

#include <algorithm>

using namespace yokai;
using namespace yokai::test;

namespace {

#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
constexpr bool memoryCanBeLimited = false; // a sanitizer lays its shadow over all the address space
#else
constexpr bool memoryCanBeLimited = true;
#endif

// A .yokai file whose job.json is `json`, packed as tightly as zip packs it.
void writeJob(const QString& file, const QString& pythonText)
{
    const Ran r = run("/usr/bin/python3", {"-c",
                                           "import sys, zipfile\n"
                                           "with zipfile.ZipFile(sys.argv[1], 'w', zipfile.ZIP_DEFLATED) as z:\n"
                                           "    z.writestr('mimetype', 'application/x-yokai')\n"
                                           "    z.writestr('job.json', " +
                                               pythonText + ")\n",
                                           file});
    QVERIFY2(r.code == 0, qPrintable(r.err));
}

} // namespace

class TestHostile : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    const QString picture_ = QStringLiteral(YOKAI_DEMO_PICTURES "/umbrella-imp.png");
    QString file(const QString& name) const { return dir_.filePath(name); }
    // `limits` as the shell's ulimit takes them.
    static Ran limited(const QString& limits, const QStringList& args)
    {
        return run("/bin/sh", QStringList{"-c", "trap '' XFSZ; ulimit " + limits + "; exec \"$@\"", "sh", YOKAI_BATCH} + args);
    }
    static bool oneLine(const Ran& r) { return r.err.count('\n') == 1 && r.err.endsWith('\n'); }

private slots:
    // The disk fills up in the middle of a file: it is said, and what was there is whole.
    void aFullDiskReplacesNothing()
    {
        for (const char* name : {"out.svg", "out.pdf", "out.dxf"}) {
            write(file(name), "before");
            const Ran r = limited("-f 8", {"sheet", picture_, "--copies", "12", "--out", file(name)}); // 8 blocks of 512 bytes
            QVERIFY2(r.code == 4, qPrintable(QString("%1 ended with %2: %3").arg(name).arg(r.code).arg(r.err)));
            QVERIFY2(oneLine(r) && r.err.contains(';'), qPrintable(r.err));
            QCOMPARE(read(file(name)), QByteArray("before"));
        }
        QCOMPARE(QDir(dir_.path()).entryList(QDir::Files).size(), 3); // nothing half-written lies beside them
    }

    // Memory runs out somewhere: whatever step or library it is, it ends as an error in words.
    void noMemoryIsAnError()
    {
        if (!memoryCanBeLimited)
            QSKIP("memory cannot be limited beside a sanitizer");
        Rgba8 px(9'000, 9'000, {250, 250, 250, 255});
        for (int y = 1'000; y < 8'000; ++y)
            for (int x = 1'000 + y % 50; x < 8'000; ++x)
                px.at(x, y) = {40, 60, 120, 255};
        const Bytes png = encodePng(px);
        write(file("large.png"), QByteArray(reinterpret_cast<const char*>(png.data()), qsizetype(png.size())));
        int refused = 0;
        for (const int megabytes : {430, 600, 900, 1300, 2000}) {
            const Ran r = limited(QStringLiteral("-v %1").arg(megabytes * 1024), {"outline", file("large.png"), "--out", file("large.svg")});
            QVERIFY2(r.code == 0 || r.code == 1 || r.code == 3 || r.code == 4, qPrintable(QString("at %1 MB ended with %2: %3").arg(megabytes).arg(r.code).arg(r.err)));
            if (r.code == 0)
                continue;
            ++refused;
            QVERIFY2(oneLine(r) && r.err.contains("memory"), qPrintable(r.err));
            QVERIFY(!QFileInfo::exists(file("large.svg")));
        }
        QVERIFY(refused > 0);
    }

    // Small files that unpack to very much.
    void jobsThatSwellAreRefused()
    {
        if (!memoryCanBeLimited)
            QSKIP("memory cannot be limited beside a sanitizer");
        const std::pair<const char*, const char*> all[] = {
            {"swells", "' ' * (1 << 30)"},
            {"pieces", "'{\"yokai\": 3, \"pieces\": [' + ','.join(['{}'] * 1000000) + ']}'"},
            {"lines", "'{\"yokai\": 3, \"pieces\": [{\"layers\": [{\"cut_lines\": [' + ','.join(['{}'] * 1000000) + ']}]}]}'"},
            {"touches", "'{\"yokai\": 3, \"pieces\": [{\"layers\": [{\"keep\": {\"touches\": [{\"points\": [' + ','.join(['[1,1]'] * 9000000) + ']}]}}]}]}'"},
            {"deep", "'[' * 10000000"},
            {"name", "'{\"yokai\": 3, \"name\": \"' + 'x' * 100000000 + '\"}'"}};
        for (const auto& [name, text] : all) {
            const QString job = file(QString(name) + ".yokai");
            writeJob(job, text);
            const Ran r = limited("-v 700000", {"sheet", job, "--out", file("never.svg")});
            QVERIFY2(r.code == 3, qPrintable(QString("%1 ended with %2: %3").arg(name).arg(r.code).arg(r.err)));
            QVERIFY2(oneLine(r) && r.err.contains(QString(name) + ".yokai") && !r.err.contains("not enough memory"), qPrintable(r.err));
        }
        QVERIFY(!QFileInfo::exists(file("never.svg")));
    }

    // What is out of range is named with its place and its range.
    void numbersOutOfRangeAreNamed_data()
    {
        QTest::addColumn<QString>("json");
        QTest::addColumn<QString>("names");
        const auto row = [](const char* json, const char* names) { QTest::newRow(names) << QString(json) << QString(names); };
        row(R"({"yokai": 3, "pieces": [{"copies": -4}]})", "copies");
        row(R"({"yokai": 3, "pieces": [{"layers": [{"cut_lines": [{"offset": 99999999999999}]}]}]})", "offset");
        row(R"({"yokai": 3, "pieces": [{"layers": [{"cut_lines": [{"kind": "wiggly"}]}]}]})", "kind");
        row(R"({"yokai": 3, "pieces": [{"layers": [{"keep": {"level": 1e300}}]}]})", "level");
        row(R"({"yokai": 3, "sheet": {"gap": "wide"}})", "gap");
        row(R"({"yokai": 3, "cut": {"max_residual": -1}})", "max_residual");
    }
    void numbersOutOfRangeAreNamed()
    {
        QFETCH(QString, json);
        QFETCH(QString, names);
        writeJob(file("range.yokai"), "'" + json + "'");
        try {
            openProject(file("range.yokai").toStdString());
            QFAIL("it was read");
        } catch (const Error& e) {
            QVERIFY2(std::string_view(e.what()).find(names.toStdString()) != std::string_view::npos, e.what());
        }
    }

    void lengthsThatNest()
    {
        for (const char* bit : {"-", "(", "+", "1+", "1*", "2mm-"})
            for (const int times : {2'000, 120'000}) {
                std::string text;
                for (int i = 0; i < times; ++i)
                    text += bit;
                QVERIFY_EXCEPTION_THROWN(parseLength(text), Error);
            }
        // Each term has its own unit; one without takes the next that is given.
        QVERIFY(std::abs(parseLength("2+3mm+1in").mm() - 30.4) < 1e-6);
    }

    // As long as file systems allow: 255 bytes.
    void longNames()
    {
        const QString name = file(QString(250 - 4, QLatin1Char('n')) + ".svg");
        const Ran r = run(YOKAI_BATCH, {"outline", picture_, "--out", name});
        QVERIFY2(r.code == 0, qPrintable(r.err));
        QVERIFY(read(name).endsWith("</svg>\n"));
    }
};

QTEST_GUILESS_MAIN(TestHostile)
#include "test_hostile.moc"
