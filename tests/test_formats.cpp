#include "base/error.h"
#include "formats/dxf/dxf.h"
#include "formats/pdf/pdf.h"
#include "formats/project/project.h"
#include "formats/svg/svg.h"
#include "run.h"

#include <opencv2/imgcodecs.hpp>
#include <opencv2/imgproc.hpp>
#include <QDir>
#include <QFileInfo>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QTest>

using namespace yokai;
using namespace yokai::test;

class TestFormats : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    Job job_;
    Derived derived_;
    Drawing drawing_;
    QString file(const char* name) const { return dir_.filePath(QLatin1String(name)); }
    static QByteArray bytes(const Bytes& b) { return {reinterpret_cast<const char*>(b.data()), qsizetype(b.size())}; }

private slots:
    void initTestCase()
    {
        job_ = openProject(YOKAI_DEMO_JOB);
        StepCache cache;
        derived_ = derive(job_, cache);
        drawing_ = drawSheet(job_, derived_);
        QVERIFY(drawing_.cuts.size() > 13);
        write(file("print.pdf"), bytes(writePdf(drawing_, Content::Print)));
        drawing_.spots.of(LineKind::Through) = "Die Line #1";
        write(file("both.pdf"), bytes(writePdf(drawing_, Content::Both)));
        write(file("cut.svg"), bytes(writeSvg(drawing_, Content::Cut)));
        write(file("cut.dxf"), bytes(writeDxf(drawing_, Content::Cut)));
    }

    void otherReadersSeeTheSameLines()
    {
        const Ran r = run("/usr/bin/python3", {QFINDTESTDATA("reference/geometry.py"), file("cut.svg"), file("cut.dxf"), file("both.pdf")});
        QVERIFY2(r.code == 0, qPrintable(r.out + r.err));
        qInfo().noquote() << r.out.trimmed();
    }

    void pdfIsWellFormed()
    {
        for (const char* name : {"print.pdf", "both.pdf"}) {
            const Ran check = run("qpdf", {"--check", file(name)});
            QVERIFY2(check.code == 0, qPrintable(check.err));
            // A4 in points, as poppler sees the page.
            const Ran info = run("pdfinfo", {file(name)});
            QVERIFY2(info.out.contains(QRegularExpression("Page size:\\s+595\\.2\\d* x 841\\.8\\d* pts \\(A4\\)")), qPrintable(info.out));
        }
    }

    // Ghostscript's separations: the named plate holds the lines, and without it the process
    // plates are those of the print file, which has no such plate.
    void spotPlateHoldsOnlyTheLines()
    {
        for (const char* name : {"print", "both"})
            QVERIFY(
                run("gs", {"-q", "-dBATCH", "-dNOPAUSE", "-dSAFER", "-sDEVICE=tiffsep", "-r100", "-sOutputFile=" + file(name) + ".tif", file(name) + ".pdf"})
                    .code == 0);
        const auto plate = [&](const char* name, const QString& ink) {
            return cv::imread((file(name) + "(" + ink + ").tif").toStdString(), cv::IMREAD_GRAYSCALE);
        };
        const QStringList spots = QDir(dir_.path()).entryList({"print(*).tif"});
        QCOMPARE(spots.size(), 4); // cyan, magenta, yellow, black: no spot
        const cv::Mat through = plate("both", "Die Line #1");
        QVERIFY2(!through.empty(), qPrintable(QDir(dir_.path()).entryList({"both*"}).join(' ')));
        QVERIFY(cv::countNonZero(through < 250) > 2000);
        QVERIFY(cv::countNonZero(plate("both", "Kiss") < 250) > 500);
        for (const char* ink : {"Cyan", "Magenta", "Yellow", "Black"}) {
            const cv::Mat a = plate("print", ink), b = plate("both", ink);
            QVERIFY(!a.empty() && a.size() == b.size());
            QCOMPARE(cv::countNonZero(a != b), 0);
        }
        // Marks are on the black plate where the layout says.
        const cv::Mat black = plate("print", "Black");
        for (const Mark& m : drawing_.marks)
            QVERIFY(black.at<unsigned char>(int(m.centre.y * 100 / 25.4), int(m.centre.x * 100 / 25.4)) < 40);
    }

    void whatIsNotKeptIsClear()
    {
        // poppler over a coloured page: the paper shows between picture and line.
        QVERIFY(run("pdftocairo", {"-png", "-transp", "-r", "100", "-singlefile", file("print.pdf"), file("print")}).code == 0);
        const cv::Mat page = cv::imread(file("print.png").toStdString(), cv::IMREAD_UNCHANGED);
        QCOMPARE(page.channels(), 4);
        const Placement& badger = derived_.sheet.placements[4]; // a JPEG on white
        QCOMPARE(badger.at, std::size_t(1));
        const Point corner = badger.toSheet({0.5, 0.5}), middle = badger.toSheet({25, 30});
        const auto alpha = [&](Point p) { return page.at<cv::Vec4b>(int(p.y * 100 / 25.4), int(p.x * 100 / 25.4))[3]; };
        QCOMPARE(int(alpha(corner)), 0);
        QCOMPARE(int(alpha(middle)), 255);
    }

    void svgIsDrawnAtItsSize()
    {
        // librsvg at ten pixels a mm.
        QVERIFY(run("rsvg-convert", {"--dpi-x", "254", "--dpi-y", "254", "-o", file("cut.png"), file("cut.svg")}).code == 0);
        const cv::Mat image = cv::imread(file("cut.png").toStdString(), cv::IMREAD_UNCHANGED);
        QCOMPARE(image.cols, 2100);
        QCOMPARE(image.rows, 2970);
        cv::Mat alpha;
        cv::extractChannel(image, alpha, 3);
        for (const CutItem& item : drawing_.cuts) {
            const Point p = dashesOf(item).front().segments[0].end;
            const cv::Rect near = cv::Rect(int(p.x * 10) - 1, int(p.y * 10) - 1, 3, 3);
            QVERIFY(cv::countNonZero(alpha(near)) > 0);
        }
    }

    void jobComesBackAsItWas()
    {
        job_.pieces[0].lines().push_back({LineKind::Perforate, Length::ticks(Length::ticksPerInch / 8)});
        job_.pieces[1].copies.reset();
        job_.pieces[2].keep().papers = {{{1, 2, 3, 255}, {}}};
        job_.pieces[1].artwork.turnRight();
        job_.pieces[1].artwork.straightenTo(-1.25);
        job_.pieces[1].artwork.cropTo({3, 4, 30, 40});
        job_.pieces[1].keep().touches = {{Touch::Kind::BringBack, true, 12.5, {{3, 4}, {5, 6.25}}}};
        job_.pieces[1].keep().onlyInside = {{{0, 0}, {100, 0}, {50, 80}}};
        job_.pieces[1].keep().smoothing = Length::um(120);
        job_.pieces[0].lines()[0].percent = 2.5;
        job_.pieces[0].lines()[0].shape = LineShape::RoundedBox;
        giveIds(job_);
        job_.pieces[2].name = "na\xC3\xAFve <&> \"quoted\"";
        const Bytes once = writeProject(job_);
        const Job back = readProject(once, "job");
        QCOMPARE(writeProject(back), once);
        QCOMPARE(back.pieces[0].lines().back().offset, Length::inches(0.125));
        QVERIFY(!back.pieces[1].copies);
        QVERIFY(back.pieces[1].keep().touches == job_.pieces[1].keep().touches);
        QCOMPARE(back.pieces[1].artwork.straighten, -1.25);
        QCOMPARE(back.pieces[1].artwork.width(), job_.pieces[1].artwork.width());
        QCOMPARE(*back.pieces[0].artwork.picture.bytes, *job_.pieces[0].artwork.picture.bytes);
        QCOMPARE(back.pieces[2].name, job_.pieces[2].name);
    }

    void damagedJobsAreRefused()
    {
        const Bytes good = writeProject(job_);
        int refused = 0, tried = 0;
        const auto attempt = [&](Bytes b) {
            ++tried;
            try {
                readProject(b, "job.yokai");
            } catch (const Error& e) {
                refused += e.kind() == ErrorKind::Input && std::string(e.what()).find("job.yokai") != std::string::npos;
            }
        };
        attempt({});
        attempt({'P', 'K'});
        attempt(Bytes(good.begin(), good.begin() + std::ptrdiff_t(good.size() / 2)));
        Bytes picture = good;
        for (std::size_t i = picture.size() / 2; i < picture.size() / 2 + 4000; ++i)
            picture[i] ^= 0x55;
        attempt(picture);
        QCOMPARE(refused, tried);
    }
};

QTEST_GUILESS_MAIN(TestFormats)
#include "test_formats.moc"
