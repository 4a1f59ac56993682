#include "base/error.h"
#include "base/length.h"
#include "machine/cutting_order.h"
#include "formats/dxf/dxf.h"
#include "formats/eps/eps.h"
#include "formats/format.h"
#include "formats/pages/proof.h"
#include "formats/pdf/pdf.h"
#include "formats/png/png.h"
#include "formats/project/project.h"
#include "formats/project/schema.h"
#include "formats/svg/svg.h"
#include "random_spec.h"
#include "run.h"
#include "touchup/outlines.h"

#include <opencv2/imgcodecs.hpp>
#include <opencv2/imgproc.hpp>
#include <QColorSpace>
#include <QDir>
#include <QFileInfo>
#include <QImage>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QTest>
#include <QXmlStreamReader>

#include <clocale>
#include <memory>
#include <random>

#include <lcms2.h>
#include <tiffio.h>

using namespace yokai;
using namespace yokai::test;

class TestFormats : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    Job job_;
    Derived derived_;
    Drawing drawing_;
    QString file(const char* name) const { return dir_.filePath(QLatin1String(name)); }
    // Fields of ink side by side, each so many pixels across.
    static void writeInks(const QString& path, const std::vector<Rgba>& inks, int side)
    {
        TIFF* tiff = TIFFOpen(path.toUtf8().constData(), "w");
        for (const auto& [tag, value] : {std::pair(TIFFTAG_IMAGEWIDTH, side * int(inks.size())), std::pair(TIFFTAG_IMAGELENGTH, side), std::pair(TIFFTAG_BITSPERSAMPLE, 8),
                                         std::pair(TIFFTAG_SAMPLESPERPIXEL, 4), std::pair(TIFFTAG_PHOTOMETRIC, PHOTOMETRIC_SEPARATED), std::pair(TIFFTAG_PLANARCONFIG, PLANARCONFIG_CONTIG),
                                         std::pair(TIFFTAG_ROWSPERSTRIP, side)})
            TIFFSetField(tiff, std::uint32_t(tag), value);
        std::vector<Rgba> row;
        for (const Rgba& ink : inks)
            row.insert(row.end(), std::size_t(side), ink);
        for (int y = 0; y < side; ++y)
            TIFFWriteScanline(tiff, row.data(), std::uint32_t(y), 0);
        TIFFClose(tiff);
    }
    static std::string jsonOfJob(const QString& path) 
    {
        const QString script = "import sys,zipfile\nsys.stdout.write(zipfile.ZipFile(sys.argv[1]).read('job.json').decode())";
        return run("/usr/bin/python3", {"-c", script, path}).out.toStdString();
    }
    static QByteArray bytes(const Bytes& b) { return {reinterpret_cast<const char*>(b.data()), qsizetype(b.size())}; }

private slots:
    void initTestCase()
    {
        job_ = openProject(YOKAI_DEMO_JOB);
        StepCache cache;
        derived_ = derive(job_, cache);
        drawing_ = drawSheet(job_, derived_, 0);
        QVERIFY(drawing_.cuts.size() > 13);
        write(file("print.pdf"), bytes(writePdf(drawing_, Content::Print)));
        drawing_.spots.of(LineKind::Through) = "Die Line #1";
        write(file("both.pdf"), bytes(writePdf(drawing_, Content::Both)));
        write(file("cut.svg"), bytes(writeSvg(drawing_, Content::Cut)));
        write(file("cut.dxf"), bytes(writeDxf(drawing_, Content::Cut)));
    }

    // Each format, read by somebody else's reader, against the lines that were derived, of every
    // kind; the perforation as the dashes it asks for.
    void otherReadersSeeTheSameLines()
    {
        Job job = job_;
        std::vector<LineSpec>& lines = job.pieces[0].lines();
        lines.push_back({LineKind::Perforate, 3_mm});
        lines.back().cutLength = 3_mm;
        lines.back().gapLength = 1_mm;
        lines.push_back({LineKind::Crease, -(1_mm)});
        giveIds(job);
        StepCache cache;
        const Derived d = derive(job, cache);
        QJsonObject truth;
        for (const LineKind kind : lineKinds) {
            QJsonArray shapes;
            for (const Placement& copy : d.sheet.on(0))
                for (const CutLine& line : d.pieces[copy.at].layer().lines)
                    for (const Path& path : line.kind == kind ? *line.paths : Paths())
                        // As the bridges leave it; the perforation's dashes are compared with the whole.
                        for (const Path& cut : kind == LineKind::Perforate ? Paths{path} : broken(path, breaksOf(line, path))) {
                            QJsonArray points;
                            Polyline flat = flatten(cut, 1e-3);
                            if (cut.closed)
                                flat.push_back(flat.front());
                            for (const Point p : flat)
                                points.append(QJsonArray{copy.toSheet(p).x, copy.toSheet(p).y});
                            shapes.append(points);
                        }
            QVERIFY(!shapes.isEmpty());
            truth[QLatin1String(name(kind))] = QJsonArray{shapes, kind == LineKind::Perforate ? 0.75 : 1};
        }
        write(file("truth.json"), QJsonDocument(truth).toJson());
        Drawing drawing = drawSheet(job, d, 0);
        for (const Format& format : formats())
            write(file("kinds") + format.extension, bytes(written(format, drawing, Content::Both)));
        QStringList dxfs{file("kinds.dxf")};
        for (const DxfCurves curves : {DxfCurves::R12, DxfCurves::Splines}) {
            drawing.dxf = curves;
            dxfs << file(name(curves)) + ".dxf";
            write(dxfs.back(), bytes(writeDxf(drawing, Content::Both)));
        }
        const Ran r = run("/usr/bin/python3", {QFINDTESTDATA("reference/geometry.py"), file("kinds.svg"), dxfs.join(","), file("kinds.pdf"), file("truth.json"), file("kinds.eps"), file("kinds.plt")});
        QVERIFY2(r.code == 0, qPrintable(r.out + r.err));
        qInfo().noquote() << r.out.trimmed();
    }

    // A locale that writes decimals with a comma changes no byte of any file, and nothing read.
    void decimalCommasChangeNothing()
    {
        QVERIFY(run("localedef", {"-i", "de_DE", "-f", "UTF-8", file("de_DE.UTF-8")}).code == 0);
        const auto all = [&] {
            std::vector<Bytes> made;
            for (const Format& format : formats())
                made.push_back(format.write(drawing_, Content::Both, {}));
            made.push_back(writeProject(job_));
            return made;
        };
        const std::vector<Bytes> before = all();
        const QByteArray was = qgetenv("LOCPATH");
        qputenv("LOCPATH", dir_.path().toUtf8());
        QVERIFY(setlocale(LC_ALL, "de_DE.UTF-8"));
        char comma[8] = {};
        std::snprintf(comma, sizeof comma, "%.1f", 1.5);
        const std::vector<Bytes> after = all();
        const Job read = readProject(after.back(), "job");
        const Length typed = parseLength("2.5mm");
        setlocale(LC_ALL, "C");
        was.isEmpty() ? qunsetenv("LOCPATH") : qputenv("LOCPATH", was);
        QCOMPARE(comma, "1,5"); // it was in force
        for (std::size_t i = 0; i < before.size(); ++i)
            QVERIFY2(before[i] == after[i], i < formats().size() ? formats()[i].extension : "job");
        QVERIFY(read == readProject(before.back(), "job"));
        QCOMPARE(typed, Length::um(2500));
    }

    // A name out of another time's encoding, with characters XML cannot hold, leaves XML that parses.
    void titlesAreXml()
    {
        Drawing drawing = drawing_;
        drawing.title = "caf\xE9 \x01 <&> \xF0\x9F\xA6\x8A";
        const Bytes svg = writeSvg(drawing, Content::Cut);
        QXmlStreamReader xml(bytes(svg));
        QString title;
        while (!xml.atEnd())
            if (xml.readNext() == QXmlStreamReader::StartElement && xml.name() == u"title")
                title = xml.readElementText();
        QVERIFY2(!xml.hasError(), qPrintable(xml.errorString()));
        QVERIFY2(title.startsWith("caf") && title.contains("<&>") && title.contains(QString::fromUtf8("\xF0\x9F\xA6\x8A")), qPrintable(title));
    }

    // ISO 32000-1, 14.11.2 and table 30: a page is at most 14 400 units long; UserUnit makes them larger.
    void longMediaHaveLargerUnits()
    {
        Drawing drawing = drawing_;
        drawing.height = 7'000;
        write(file("long.pdf"), bytes(writePdf(drawing, Content::Cut)));
        QVERIFY(run("qpdf", {"--check", file("long.pdf")}).code == 0);
        const QString page = run("qpdf", {"--qdf", "--object-streams=disable", file("long.pdf"), "-"}).out;
        const auto box = QRegularExpression("/MediaBox \\[\\s*\\S+\\s+\\S+\\s+(\\S+)\\s+(\\S+)\\s*\\]").match(page);
        const auto unit = QRegularExpression("/UserUnit (\\S+)").match(page);
        QVERIFY(box.hasMatch() && unit.hasMatch());
        QVERIFY(box.captured(2).toDouble() <= 14'400);
        QVERIFY(std::abs(box.captured(2).toDouble() * unit.captured(1).toDouble() * 25.4 / 72 - 7'000) < 0.01);
        QVERIFY(std::abs(box.captured(1).toDouble() * unit.captured(1).toDouble() * 25.4 / 72 - drawing.width) < 0.01);
    }

    // A yellow sticker on clear, drawn by poppler much smaller than it is: no pixel of its rim is
    // darker than the yellow laid over white.
    void theRimIsNotDark()
    {
        Rgba8 px(900, 900, {0, 0, 0, 0}); // black under the transparency, as pictures come
        for (int y = 0; y < 900; ++y)
            for (int x = 0; x < 900; ++x)
                if (std::hypot(x - 450.0, y - 450.0) < 400)
                    px.at(x, y) = {255, 225, 0, 255};
        Job job;
        job.pieces.emplace_back();
        job.pieces[0].artwork.picture = pictureFromBytes(encodePng(px), "yellow.png");
        giveIds(job);
        StepCache cache;
        const Derived d = derive(job, cache);
        write(file("yellow.pdf"), bytes(writePdf(drawPiece(job, job.pieces[0], d.pieces[0], Content::Print), Content::Print)));
        QVERIFY(run("pdftocairo", {"-png", "-r", "72", "-singlefile", file("yellow.pdf"), file("yellow")}).code == 0);
        const cv::Mat page = cv::imread(file("yellow.png").toStdString());
        QVERIFY(page.cols > 150);
        int darkest = 255, yellow = 0;
        for (int y = 0; y < page.rows; ++y)
            for (int x = 0; x < page.cols; ++x) {
                const cv::Vec3b c = page.at<cv::Vec3b>(y, x); // blue, green, red
                darkest = std::min({darkest, int(c[1]), int(c[2])});
                yellow += c[0] < 20;
            }
        QVERIFY(yellow > 10'000);
        QVERIFY2(darkest >= 220, qPrintable(QString::number(darkest)));
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

    // Ghostscript's separations of PDF and EPS: a named plate holds its lines and the marks, as where nothing else was
    // written, and without it the process plates are those of the print file, which has no such plate.
    void spotPlateHoldsOnlyTheLines_data()
    {
        QTest::addColumn<QString>("ending");
        for (const char* ending : {".pdf", ".eps"})
            QTest::newRow(ending) << ending;
    }
    void spotPlateHoldsOnlyTheLines()
    {
        QFETCH(QString, ending);
        const Format& format = *formatOf(("x" + ending).toStdString());
        const QString of = ending.mid(1) + "-";
        const auto plate = [&](const char* name, const QString& ink) {
            return cv::imread(dir_.filePath(of + name + "(" + ink + ").tif").toStdString(), cv::IMREAD_GRAYSCALE);
        };
        for (const auto& [name, content] : {std::pair("print", Content::Print), std::pair("cut", Content::Cut), std::pair("both", Content::Both)}) {
            const QString path = dir_.filePath(of + name);
            write(path + ending, bytes(format.write(drawing_, content, {})));
            QVERIFY(run("gs", {"-q", "-dBATCH", "-dNOPAUSE", "-dSAFER", "-dEPSCrop", "-sDEVICE=tiffsep", "-r100", "-sOutputFile=" + path + ".tif", path + ending}).code == 0);
        }
        QCOMPARE(QDir(dir_.path()).entryList({of + "print(*).tif"}).size(), 4); // cyan, magenta, yellow, black: no spot
        for (const char* spot : {"Die Line #1", "Kiss", "Perforate"}) {
            const cv::Mat both = plate("both", spot), cut = plate("cut", spot);
            QVERIFY2(!both.empty(), qPrintable(QDir(dir_.path()).entryList({of + "both*"}).join(' ')));
            QVERIFY(cv::countNonZero(both < 250) > 500);
            QVERIFY(both.size() == cut.size() && cv::countNonZero(both != cut) == 0);
        }
        for (const char* ink : {"Cyan", "Magenta", "Yellow", "Black"}) {
            const cv::Mat a = plate("print", ink), b = plate("both", ink);
            QVERIFY(!a.empty() && a.size() == b.size());
            QCOMPARE(cv::countNonZero(a != b), 0);
            // Marks are on every plate where the layout says.
            for (const Mark& m : drawing_.marks)
                QVERIFY(a.at<unsigned char>(int(m.centre.y * 100 / 25.4), int(m.centre.x * 100 / 25.4)) < 40);
        }
    }

    // The print as pixels is what poppler makes of the print PDF, at the resolution it says; the EPS as well, which has no soft rim.
    void pixelsAreThePage()
    {
        Drawing drawing = drawing_;
        drawing.ppi = 120;
        write(file("page.png"), bytes(writePng(drawing, Content::Print)));
        write(file("page.eps"), bytes(writeEps(drawing, Content::Print)));
        const cv::Mat png = cv::imread(file("page.png").toStdString(), cv::IMREAD_UNCHANGED);
        QCOMPARE(readPictureInfo(readFile(file("page.png").toStdString()), "page").ppi, 120.0);
        QVERIFY(png.channels() == 4 && png.cols == int(std::lround(drawing.width * 120 / 25.4)) && png.rows == int(std::lround(drawing.height * 120 / 25.4)));
        cv::Mat onWhite(png.size(), CV_8UC3);
        for (int y = 0; y < png.rows; ++y)
            for (int x = 0; x < png.cols; ++x)
                for (int c = 0; c < 3; ++c) {
                    const cv::Vec4b p = png.at<cv::Vec4b>(y, x);
                    onWhite.at<cv::Vec3b>(y, x)[c] = uchar((p[c] * p[3] + 255 * (255 - p[3])) / 255);
                }
        QVERIFY(run("pdftocairo", {"-png", "-r", "120", "-singlefile", file("print.pdf"), file("poppler")}).code == 0);
        QVERIFY(run("gs", {"-q", "-dBATCH", "-dNOPAUSE", "-dSAFER", "-dEPSCrop", "-sDEVICE=png16m", "-r120", "-dGraphicsAlphaBits=4", "-sOutputFile=" + file("ghost.png"), file("page.eps")}).code == 0);
        for (const auto& [name, most] : {std::pair("poppler.png", 1.0), std::pair("ghost.png", 2.0)}) {
            const cv::Mat other = cv::imread(file(name).toStdString());
            QVERIFY(std::abs(other.cols - png.cols) <= 1 && std::abs(other.rows - png.rows) <= 1);
            const cv::Rect both(0, 0, std::min(other.cols, png.cols), std::min(other.rows, png.rows));
            cv::Mat off;
            cv::absdiff(onWhite(both), other(both), off);
            const cv::Scalar mean = cv::mean(off);
            QVERIFY2((mean[0] + mean[1] + mean[2]) / 3 < most, qPrintable(QStringLiteral("%1: %2 %3 %4").arg(name).arg(mean[0]).arg(mean[1]).arg(mean[2])));
        }
        drawing.ppi = 2400;
        QVERIFY_EXCEPTION_THROWN(writePng(drawing, Content::Print), Error);
    }

    // A job of several sheets is one file with a page each; what lies on all of them is in it once, layers too. Each page shows what its sheet's own file does.
    void sheetsArePages()
    {
        Job job = job_;
        job.pieces.resize(1);
        job.pieces[0].copies = 60;
        StepCache cache;
        const Derived d = derive(job, cache);
        QVERIFY(d.sheet.sheets >= 3);
        const std::vector<Drawing> sheets = drawSheets(job, d);
        QVERIFY(sheets[0].images[0].image.pixels == sheets[1].images[0].image.pixels);
        const Format& pdf = *formatOf("x.pdf");
        write(file("pages.pdf"), bytes(writtenAsPages(pdf, sheets, Content::Both)));
        write(file("one.pdf"), bytes(written(pdf, sheets[0], Content::Both)));
        const auto images = [&](const char* name) {
            return run("qpdf", {"--json", file(name)}).out.count("\"/Subtype\": \"/Image\"");
        };
        QVERIFY(images("one.pdf") >= 2);
        QCOMPARE(images("pages.pdf"), images("one.pdf"));
        const auto text = run("qpdf", {"--json", file("pages.pdf")}).out;
        QCOMPARE(text.count("\"/OCG\""), run("qpdf", {"--json", file("one.pdf")}).out.count("\"/OCG\""));
        for (int k = 0; k < d.sheet.sheets; ++k) {
            const QString alone = file("alone.pdf");
            write(alone, bytes(written(pdf, drawSheet(job, d, k), Content::Both)));
            const QString page = QString::number(k + 1);
            QVERIFY(run("pdftocairo", {"-png", "-r", "50", "-singlefile", "-f", page, "-l", page, file("pages.pdf"), file("page-of-all")}).code == 0);
            QVERIFY(run("pdftocairo", {"-png", "-r", "50", "-singlefile", alone, file("page-alone")}).code == 0);
            QCOMPARE(read(file("page-of-all.png")), read(file("page-alone.png")));
        }
        QVERIFY(run("pdfinfo", {file("pages.pdf")}).out.contains(QRegularExpression(QStringLiteral("Pages:\\s+%1\\n").arg(d.sheet.sheets))));
    }

    // What PDF/X-4 asks of a file's structure (ISO 15930-7, from memory: the standard itself is not at hand). What no test here can
    // tell: whether the printing condition it names is the press's own. It names sRGB, and does not claim to be PDF/X.
    void theStructureIsSound()
    {
        const Ran shown = run("qpdf", {"--json", file("both.pdf")});
        QVERIFY(shown.code == 0);
        const QJsonObject objects = QJsonDocument::fromJson(shown.out.toUtf8()).object()["qpdf"].toArray()[1].toObject();
        const auto value = [&](const QString& reference) { return objects["obj:" + reference].toObject(); };
        QJsonObject root, page;
        int fonts = 0, actions = 0, alternates = 0;
        for (const QJsonValue& each : objects) {
            const QJsonObject o = each.toObject(), dict = o["value"].isObject() ? o["value"].toObject() : o["stream"].toObject()["dict"].toObject();
            root = dict["/Type"] == "/Catalog" ? dict : root;
            page = dict["/Type"] == "/Page" ? dict : page;
            fonts += dict["/Type"] == "/Font";
            actions += dict.contains("/AA") || dict.contains("/JavaScript") || dict.contains("/OpenAction");
            alternates += dict.contains("/Alternates") || dict.contains("/OPI") || dict["/Subtype"] == "/PS" || dict["/Filter"] == "/LZWDecode" || dict.contains("/TR");
        }
        QVERIFY(!root.isEmpty() && !page.isEmpty() && fonts + actions + alternates == 0);
        QVERIFY(read(file("both.pdf")).startsWith("%PDF-1.6"));
        // Boxes: what is trimmed lies in what bleeds lies in the sheet.
        QVERIFY(page["/TrimBox"] == page["/MediaBox"] && page["/BleedBox"] == page["/MediaBox"]);
        const QJsonObject trailer = objects["trailer"]["value"].toObject();
        QVERIFY(trailer["/ID"].toArray().size() == 2 && !trailer.contains("/Encrypt"));
        // The output intent carries its profile, of three channels.
        const QJsonObject intent = value(root["/OutputIntents"].toArray()[0].toString())["value"].toObject();
        QCOMPARE(intent["/S"].toString(), QStringLiteral("/GTS_PDFX"));
        QCOMPARE(value(intent["/DestOutputProfile"].toString())["stream"].toObject()["dict"].toObject()["/N"].toInt(), 3);
        // Layers have names, and none is switched by itself.
        const QJsonObject layers = root["/OCProperties"].toObject();
        QVERIFY(layers["/D"].toObject().contains("/Name") && !layers["/D"].toObject().contains("/AS"));
        for (const QJsonValue& layer : layers["/OCGs"].toArray())
            QVERIFY(!value(layer.toString())["value"].toObject()["/Name"].toString().isEmpty());
        // The facts stand twice, and alike.
        const QJsonObject info = value(trailer["/Info"].toString())["value"].toObject();
        QCOMPARE(info["/Trapped"].toString(), QStringLiteral("/False"));
        const QString xmp = run("qpdf", {"--show-object=" + root["/Metadata"].toString().section(' ', 0, 0), "--raw-stream-data", file("both.pdf")}).out;
        QXmlStreamReader xml(xmp);
        QString title, trapped;
        while (!xml.atEnd())
            if (xml.readNext() == QXmlStreamReader::StartElement) {
                if (xml.name() == u"li")
                    title = xml.readElementText();
                else if (xml.name() == u"Trapped")
                    trapped = xml.readElementText();
            }
        QVERIFY2(!xml.hasError(), qPrintable(xml.errorString()));
        QCOMPARE("u:" + title, info["/Title"].toString());
        QCOMPARE("/" + trapped, info["/Trapped"].toString());
    }

    // A picture in wider colours than sRGB keeps its numbers and its profile in the file.
    void profilesAreKept()
    {
        const std::unique_ptr<void, decltype(&cmsCloseProfile)> wide([] {
            const cmsCIExyY white{0.3127, 0.3290, 1};
            const cmsCIExyYTRIPLE corners{{0.64, 0.33, 1}, {0.21, 0.71, 1}, {0.15, 0.06, 1}}; // Adobe RGB (1998), 4.3.1.1
            cmsToneCurve* curve = cmsBuildGamma(nullptr, 563.0 / 256);
            cmsToneCurve* curves[] = {curve, curve, curve};
            cmsHPROFILE profile = cmsCreateRGBProfile(&white, &corners, curves);
            cmsFreeToneCurve(curve);
            return profile;
        }(), cmsCloseProfile);
        cmsUInt32Number size = 0;
        QVERIFY(cmsSaveProfileToMem(wide.get(), nullptr, &size));
        Bytes profile(size);
        cmsSaveProfileToMem(wide.get(), profile.data(), &size);
        QImage image(120, 80, QImage::Format_RGB32);
        image.fill(QColor(10, 240, 30));
        image.setColorSpace(QColorSpace::fromIccProfile(bytes(profile)));
        QVERIFY(image.save(file("wide.png"), "PNG"));
        Job job;
        job.pieces.emplace_back();
        job.pieces[0].artwork.picture = openPicture(file("wide.png").toStdString());
        job.pieces[0].artwork.setWidth(60_mm);
        job.pieces[0].keep().rule = KeepRule::All;
        giveIds(job);
        StepCache cache;
        const Derived d = derive(job, cache);
        write(file("wide.pdf"), bytes(writePdf(drawSheet(job, d, 0), Content::Print)));
        const QString list = run("pdfimages", {"-list", file("wide.pdf")}).out;
        QVERIFY2(list.contains(QRegularExpression("image +\\d+ +\\d+ +icc +3")), qPrintable(list));
        const QString object = QRegularExpression("icc +3.* (\\d+)  0 +\\d+ +\\d+ ").match(list).captured(1);
        const Ran pixels = run("qpdf", {"--show-object=" + object, "--filtered-stream-data", file("wide.pdf")});
        QVERIFY2(pixels.code == 0 && pixels.bytes.startsWith(QByteArray("\x0a\xf0\x1e\x0a\xf0\x1e", 6)), qPrintable(list));
        QCOMPARE(run("qpdf", {"--json", "--json-stream-data=inline", file("wide.pdf")}).out.count(QString::fromLatin1(bytes(profile).toBase64().first(200))), 1);
    }

    // The proof says of each piece what it is called, how large, how many; and what its lines mean, whose work it is and of what.
    // Its lines lie where the picture says: read back by poppler at the scale it states.
    void theProofSaysWhatIsMade()
    {
        Job job = job_;
        job.handOff.material = "Matte film <white> & clear";
        ProofFacts of;
        of.maker.name = "Café 船 Ferry Nine"; // a script that the shipped font lacks
        of.maker.logo = job.pieces[0].artwork.picture;
        of.date = "2026-11-27";
        write(file("proof.pdf"), bytes(writeProof(job, derived_, of)));
        QVERIFY(run("qpdf", {"--check", file("proof.pdf")}).code == 0);
        const QString said = run("pdftotext", {"-layout", file("proof.pdf"), "-"}).out;
        for (std::size_t k = 0; k < job.pieces.size(); ++k) {
            QVERIFY2(said.contains(QString::fromStdString(job.pieces[k].name)), qPrintable(said));
            QVERIFY2(said.contains(QStringLiteral("%1 copies").arg(derived_.sheet.placed[k])), qPrintable(said));
            QVERIFY2(said.contains(QString::fromStdString(formatMm(derived_.pieces[k].width, Unit::Mm, false))), qPrintable(said));
            std::map<LineKind, Rect> boxes; // how large each kind is stands there whole, however many there are
            for (const CutLine& line : derived_.pieces[k].layer().lines)
                if (!line.paths->empty())
                    boxes.try_emplace(line.kind, Rect::nothing()).first->second.add(bounds(*line.paths));
            for (const auto& [kind, box] : boxes)
                QVERIFY2(said.contains(QString::fromStdString(facts(kind).title) + " " + QString::fromStdString(formatMm(box.width(), Unit::Mm, false) + " × " + formatMm(box.height(), Unit::Mm))),
                         qPrintable(said));
        }
        QVERIFY2(!said.contains(QChar(0x2026)), qPrintable(said)); // nothing is cut short
        for (const QString& word : {QStringLiteral("Café"), QStringLiteral("Matte film <white> & clear"), QStringLiteral("2026-11-27"), QStringLiteral("Through"),
                                    QStringLiteral("Kiss"), QStringLiteral("Approved by")})
            QVERIFY2(said.contains(word), qPrintable(word + "\n" + said));
        const QString fonts = run("pdffonts", {file("proof.pdf")}).out;
        QVERIFY2(fonts.contains("Inter-Regular") && !fonts.contains(QRegularExpression(" no +(yes|no) +(yes|no) +\\d")), qPrintable(fonts)); // all are in the file
        // A square of 40 mm with its line 5 mm round it, on a page by itself: shown at its true size, so it measures so.
        Rgba8 px(400, 400, {200, 30, 30, 255});
        Job square;
        square.pieces.emplace_back();
        square.pieces[0].artwork.picture = pictureFromBytes(encodePng(px), "square.png");
        square.pieces[0].artwork.setWidth(40_mm);
        square.pieces[0].keep().rule = KeepRule::All;
        square.pieces[0].lines() = {{LineKind::Through, 5_mm}};
        giveIds(square);
        StepCache cache;
        const Derived d = derive(square, cache);
        write(file("square.pdf"), bytes(writeProof(square, d, {})));
        QVERIFY(run("pdftocairo", {"-png", "-r", "254", "-singlefile", file("square.pdf"), file("square")}).code == 0); // 10 px a mm
        const cv::Mat page = cv::imread(file("square.png").toStdString());
        cv::Mat red, violet;
        cv::inRange(page, cv::Scalar(20, 20, 190), cv::Scalar(40, 40, 210), red);
        const cv::Rect printed = cv::boundingRect(red);
        QVERIFY2(std::abs(printed.width - 400) <= 1 && std::abs(printed.height - 400) <= 1, qPrintable(QString::number(printed.width)));
        cv::inRange(page, cv::Scalar(160, 30, 70), cv::Scalar(200, 60, 110), violet);
        violet(cv::Rect(0, page.rows * 3 / 4, page.cols, page.rows / 4)) = 0; // the legend's
        const cv::Rect line = cv::boundingRect(violet);
        QVERIFY2(std::abs(line.width - 504) <= 2 && std::abs(line.x + line.width / 2 - printed.x - 200) <= 1, qPrintable(QString::number(line.width)));
    }

    // Many pieces go on as many proof pages as it takes, each on one of them and once; the legend and the room to sign are on the last.
    // One that cannot be cut is left out; an empty job gives a page all the same.
    void theProofTakesAsManyPages()
    {
        Job job;
        for (int k = 0; k < 9; ++k) {
            Piece piece = job_.pieces[std::size_t(k) % 2];
            piece.name = "Piece number " + std::string(1, char('A' + k));
            piece.copies = 1;
            job.pieces.push_back(piece);
        }
        job.pieces[4].keep().smallestPart = 1e6; // nothing is kept of it
        giveIds(job);
        StepCache cache;
        const Derived d = derive(job, cache);
        QVERIFY(d.pieces[4].problem);
        write(file("many.pdf"), bytes(writeProof(job, d, {})));
        QVERIFY(run("pdfinfo", {file("many.pdf")}).out.contains(QRegularExpression("Pages:\\s+2\\n")));
        QStringList pages;
        for (int page = 1; page <= 2; ++page)
            pages << run("pdftotext", {"-layout", "-f", QString::number(page), "-l", QString::number(page), file("many.pdf"), "-"}).out;
        for (std::size_t k = 0; k < job.pieces.size(); ++k)
            QCOMPARE(pages.join(' ').count(QString::fromStdString(job.pieces[k].name)), k == 4 ? 0 : 1);
        QVERIFY(pages[0].contains("Piece number A") && !pages[0].contains("Approved by") && !pages[0].contains("Piece number I"));
        QVERIFY(pages[1].contains("Approved by") && pages[1].contains("8 copies on one sheet of"));
        Job none;
        StepCache other;
        write(file("none.pdf"), bytes(writeProof(none, derive(none, other), {})));
        QVERIFY(run("pdftotext", {file("none.pdf"), "-"}).out.contains("Proof"));
        std::stop_source stop;
        stop.request_stop();
        QVERIFY_EXCEPTION_THROWN(writeProof(job, d, {}, Work{stop.get_token(), {}}), Cancelled);
    }

    // A JPEG to which nothing was done goes into the file as it came, byte for byte, once, and with its profile; cropped it
    // is packed anew. A picture in colours of another profile keeps them, and that.
    void picturesKeepTheirOwn()
    {
        const auto made = [&](const Job& job, const char* name) {
            StepCache cache;
            const Derived d = derive(job, cache);
            write(file(name), bytes(writePdf(drawSheet(job, d, 0), Content::Print)));
            return run("pdfimages", {"-list", file(name)}).out;
        };
        Job job = job_;
        std::erase_if(job.pieces, [](const Piece& p) { return p.artwork.picture.info.format != PictureFormat::Jpeg; });
        QCOMPARE(job.pieces.size(), 1u);
        Piece& badger = job.pieces[0];
        QVERIFY(!made(job, "cropped.pdf").contains("jpeg")); // as the demo has it
        badger.artwork.crop.reset();
        badger.copies = 4;
        const QString list = made(job, "whole.pdf");
        QVERIFY2(list.count("jpeg") == 4 && list.contains(QRegularExpression("image +\\d+ +\\d+ +rgb +3")), qPrintable(list));
        QVERIFY(run("pdfimages", {"-j", "-f", "1", "-l", "1", file("whole.pdf"), file("out")}).code == 0);
        QCOMPARE(read(file("out-000.jpg")), bytes(*badger.artwork.picture.bytes));
        const QByteArray whole = read(file("whole.pdf"));
        QVERIFY(whole.size() < 1.1 * double(badger.artwork.picture.bytes->size()) + 200'000);
        // Four inks, as they are: no plate has what another should have.
        const std::vector<Rgba> inks{{255, 0, 0, 0}, {0, 255, 0, 0}, {0, 0, 255, 0}, {0, 0, 0, 255}, {128, 64, 32, 16}};
        writeInks(file("inks.tif"), inks, 60);
        Job four;
        Piece piece;
        piece.artwork.picture = openPicture(file("inks.tif").toStdString());
        piece.keep().rule = KeepRule::All;
        piece.artwork.setWidth(50_mm);
        four.pieces = {piece};
        four.sheet.marks.style = MarkStyle::None;
        giveIds(four);
        const QString four4 = made(four, "inks.pdf");
        QVERIFY2(four4.contains(QRegularExpression("image +\\d+ +\\d+ +cmyk +4")), qPrintable(four4));
        QVERIFY(run("gs", {"-q", "-dBATCH", "-dNOPAUSE", "-dSAFER", "-sDEVICE=tiffsep", "-r100", "-sOutputFile=" + file("plates.tif"), file("inks.pdf")}).code == 0);
        StepCache cache;
        const Derived d = derive(four, cache);
        const char* plates[] = {"Cyan", "Magenta", "Yellow", "Black"};
        for (std::size_t k = 0; k < inks.size(); ++k) {
            const Point middle = d.sheet.placements[0].toSheet({(double(k) + 0.5) * 50 / double(inks.size()), 5}) * (100 / 25.4);
            const int wanted[] = {inks[k].r, inks[k].g, inks[k].b, inks[k].a};
            for (int plate = 0; plate < 4; ++plate) {
                const cv::Mat ink = cv::imread((file("plates") + "(" + plates[plate] + ").tif").toStdString(), cv::IMREAD_GRAYSCALE);
                QVERIFY(!ink.empty());
                QVERIFY2(std::abs(255 - ink.at<uchar>(int(middle.y), int(middle.x)) - wanted[plate]) < 4, qPrintable(QStringLiteral("%1 %2").arg(k).arg(plate)));
            }
        }
    }

    // A printer that prints 1 % too wide and 0.5 % too short is given files that undo it about the sheet's middle; the cut stays.
    void theStretchIsUndone()
    {
        Job job = job_;
        job.handOff.stretchX = 101;
        job.handOff.stretchY = 99.5;
        const Drawing drawing = drawSheet(job, derived_, 0), printed = forContent(drawing, Content::Print);
        const auto asPrinted = [&](Point p) { return Point{drawing.width / 2 + (p.x - drawing.width / 2) * 1.01, drawing.height / 2 + (p.y - drawing.height / 2) * 0.995}; };
        for (std::size_t k = 0; k < drawing.marks.size(); ++k)
            QVERIFY(distance(asPrinted(printed.marks[k].centre), drawing.marks[k].centre) < 1e-9);
        for (std::size_t k = 0; k < drawing.images.size(); ++k)
            for (std::size_t p = 0; p < drawing.images[k].places.size(); ++p)
                QVERIFY(distance(asPrinted(printed.images[k].places[p](Point{7, 3})), drawing.images[k].places[p](Point{7, 3})) < 1e-9);
        const Format& svg = *formatOf("x.svg");
        QCOMPARE(bytes(written(svg, drawing, Content::Print)), bytes(svg.write(printed, Content::Print, {})));
        Drawing ordered = drawing;
        ordered.cuts = orderedForCutting(drawing.cuts, drawing.plan.operations, false);
        QCOMPARE(bytes(written(svg, drawing, Content::Cut)), bytes(svg.write(ordered, Content::Cut, {})));
        QVERIFY(written(svg, drawing, Content::Print) != written(svg, drawing, Content::Cut));
        // Or the cut follows it, and the print is as it is.
        job.handOff.stretchIn = StretchIn::Cut;
        const Drawing other = drawSheet(job, derived_, 0), cut = forContent(other, Content::Cut);
        QCOMPARE(bytes(written(svg, other, Content::Print)), bytes(svg.write(other, Content::Print, {})));
        QVERIFY(distance(cut.cuts[0].path.start, asPrinted(other.cuts[0].path.start)) < 1e-9 && distance(cut.marks[0].centre, asPrinted(other.marks[0].centre)) < 1e-9);
    }

    // An underprint by Ghostscript's separations: its plate is as large as the line that far inside the print, and under the
    // picture, which leaves it as it is; the process plates are those without it.
    void whiteLiesBeneath()
    {
        Job job = job_;
        job.pieces.resize(1);
        Piece& imp = job.pieces[0];
        imp.copies = 1;
        imp.lines() = {{LineKind::Through, 2700_um}};
        imp.lines()[0].tolerance = 5_um;
        imp.bleed().distance = 3_mm;
        job.sheet.marks.style = MarkStyle::None;
        job.handOff.spots.white = "White #2";
        StepCache cache;
        const auto separated = [&](const char* name) {
            giveIds(job);
            const Derived d = derive(job, cache);
            write(file(name) + ".pdf", bytes(writePdf(drawSheet(job, d, 0), Content::Print)));
            const bool good = run("gs", {"-q", "-dBATCH", "-dNOPAUSE", "-dSAFER", "-sDEVICE=tiffsep", "-r200", "-sOutputFile=" + file(name) + ".tif", file(name) + ".pdf"}).code == 0;
            return good ? d.pieces[0].layer().lines[0].area : 0.0;
        };
        const auto plate = [&](const char* name, const char* ink) { return cv::imread((file(name) + "(" + ink + ").tif").toStdString(), cv::IMREAD_GRAYSCALE); };
        separated("without");
        imp.underprint().on = true;
        imp.underprint().choke = 300_um;
        const double wanted = separated("under"); // mm2 within the line at 2.7 mm, which is the print's 3 less the choke
        const cv::Mat white = plate("under", "White #2");
        QVERIFY2(!white.empty(), qPrintable(QDir(dir_.path()).entryList({"under*"}).join(' ')));
        double ink = 0;
        for (int y = 0; y < white.rows; ++y)
            for (int x = 0; x < white.cols; ++x)
                ink += (255 - white.at<uchar>(y, x)) / 255.0;
        ink *= (25.4 / 200) * (25.4 / 200);
        QVERIFY2(std::abs(ink / wanted - 1) < 0.01, qPrintable(QStringLiteral("%1 of %2 mm2").arg(ink).arg(wanted)));
        for (const char* process : {"Cyan", "Magenta", "Yellow", "Black"}) {
            const cv::Mat a = plate("without", process), b = plate("under", process);
            QVERIFY(!a.empty() && a.size() == b.size());
            cv::Mat off;
            cv::absdiff(a, b, off);
            QVERIFY(cv::countNonZero(off > 8) < 20 && cv::countNonZero(off > 40) == 0); // a pixel of a rim or so, put together in another order
        }
        // Only where the picture is light: its eye, and not its dark tip.
        imp.underprint().where = UnderprintWhere::Light;
        imp.underprint().lightFrom = 60;
        imp.underprint().lightFull = 80;
        separated("light");
        const cv::Mat light = plate("light", "White #2");
        const Derived d = derive(job, cache);
        const auto at = [&](Point mm) {
            const Point p = d.sheet.placements[0].toSheet(mm) * (200 / 25.4);
            return light.at<uchar>(int(p.y), int(p.x));
        };
        QVERIFY2(at({18.5, 16}) < 20 && at({23, 2.5}) > 240, qPrintable(QStringLiteral("%1 %2").arg(at({18.5, 16})).arg(at({23, 2.5}))));
        const QByteArray svg = bytes(writeSvg(drawSheet(job, d, 0), Content::Print));
        QVERIFY(svg.contains("<g id=\"white\">") && svg.indexOf("<g id=\"white\">") < svg.indexOf("<g id=\"pictures\">"));
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
            const Point p = cutsOf(item).front().segments[0].end;
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

    // Jobs as earlier versions wrote them: the demo's in format 2, and the same said in format 1.
    void jobsOfFormerFormatsOpen_data()
    {
        QTest::addColumn<int>("format");
        QTest::newRow("1") << 1;
        QTest::newRow("2") << 2;
    }
    void jobsOfFormerFormatsOpen()
    {
        QFETCH(int, format);
        const Ran packed = run("/usr/bin/python3", {QFINDTESTDATA("reference/former_job.py"), QFINDTESTDATA("reference/job-2.json"), YOKAI_DEMO_PICTURES,
                                                    QString::number(format), file("former.yokai")});
        QVERIFY2(packed.code == 0, qPrintable(packed.err));
        Job job = openProject(file("former.yokai").toStdString());
        const Job now = openProject(YOKAI_DEMO_JOB);
        QCOMPARE(job.name, now.name);
        QCOMPARE(job.pieces.size(), now.pieces.size());
        QCOMPARE(job.sheet.media, now.sheet.media);
        for (std::size_t i = 0; i < job.pieces.size(); ++i) {
            const Piece &a = job.pieces[i], &b = now.pieces[i];
            QCOMPARE(a.name, b.name);
            QCOMPARE(a.copies, b.copies);
            QCOMPARE(a.artwork.width(), b.artwork.width());
            QCOMPARE(a.artwork.crop, b.artwork.crop);
            QVERIFY(a.id && a.layers.size() == 1 && a.layers[0].id);
            QVERIFY(a.keep() == b.keep());
            QCOMPARE(a.lines().size(), b.lines().size());
            for (std::size_t k = 0; k < a.lines().size(); ++k) {
                QCOMPARE(a.lines()[k].offset, b.lines()[k].offset);
                QCOMPARE(int(a.lines()[k].kind), int(b.lines()[k].kind));
                // Where notches under 4 mm2 were closed, openings over that now stay; as in the demo's job of today.
                QCOMPARE(int(a.lines()[k].openings), int(b.lines()[k].openings));
                QCOMPARE(a.lines()[k].openingsOver, b.lines()[k].openingsOver);
            }
        }
        StepCache cache;
        const Derived d = derive(job, cache);
        QCOMPARE(d.sheet.placements.size(), derived_.sheet.placements.size());
        QCOMPARE(writeProject(readProject(writeProject(job), "job")), writeProject(job));
    }

    // Areas were held by their corners once, and what was simplified by one place.
    void editsOfFormat3AreRead()
    {
        const Ran packed = run("/usr/bin/python3", {QFINDTESTDATA("reference/former_edits.py"), QStringLiteral(YOKAI_DEMO_JOB), file("third.yokai")});
        QVERIFY2(packed.code == 0, qPrintable(packed.err));
        const Job job = openProject(file("third.yokai").toStdString());
        const std::vector<Edit>& edits = job.pieces[0].lines()[0].edits;
        QCOMPARE(edits.size(), std::size_t(2));
        QVERIFY(edits[0].shape.empty() && edits[0].outlines.size() == 1);
        const Path area = curvesOf(edits[0].outlines[0]);
        QVERIFY(area.segments.size() == 3 && area.segments[0].line && std::abs(std::abs(signedArea(area)) - 1800) < 1e-9);
        QVERIFY(edits[1].to == edits[1].from);
        StepCache cache;
        QVERIFY(derive(job, cache, {}, Want::Lines).pieces[0].layer().lines[0].edits.size() == 2);
    }

    // A large job saves what has changed behind what is there; broken off anywhere in between it opens as it was, and is saved
    // again; a picture that is gone makes it be written whole once it weighs too much.
    void largeJobsSaveWhatChanged()
    {
        Job job = job_;
        cv::Mat noise(1700, 1700, CV_8UC3);
        cv::randu(noise, 0, 256);
        for (int k = 0; k < 3; ++k) {
            noise.at<cv::Vec3b>(0, 0)[0] = uchar(k);
            const QString name = file("large") + QString::number(k) + ".bmp";
            cv::imwrite(name.toStdString(), noise);
            job.pieces[std::size_t(k)].artwork.picture = openPicture(name.toStdString());
        }
        const auto path = std::filesystem::path(file("large.yokai").toStdString());
        saveProject(job, path);
        const QByteArray first = read(file("large.yokai"));
        QCOMPARE(first, bytes(writeProject(job)));
        const Job before = job;
        job.sheet.gap = 4_mm;
        job.name = "changed";
        saveProject(job, path);
        const QByteArray second = read(file("large.yokai"));
        QVERIFY(second.startsWith(first) && second.size() - first.size() < 20'000);
        QVERIFY(openProject(path) == job);
        const Ran zip = run("/usr/bin/python3", {"-c", "import sys,zipfile\nz=zipfile.ZipFile(sys.argv[1]);sys.exit(str(z.testzip()) if z.testzip() else len(z.namelist())-5)", file("large.yokai")});
        QVERIFY2(zip.code == 0, qPrintable(zip.err)); // to others it is a ZIP like any other
        std::mt19937 random(5);
        for (int k = 0; k < 40; ++k) {
            const qsizetype cut = first.size() + 1 + qsizetype(random() % unsigned(second.size() - first.size() - 1));
            write(file("broken.yokai"), second.left(cut));
            const auto broken = std::filesystem::path(file("broken.yokai").toStdString());
            QVERIFY(openProject(broken) == before);
            QVERIFY(openWhatCanBe(broken).leftOut.empty() && openWhatCanBe(broken).job == before);
            if (k < 5) {
                saveProject(job, broken);
                QVERIFY(openProject(broken) == job && read(file("broken.yokai")) == second);
            }
        }
        job.pieces[0].artwork.picture = job.pieces[1].artwork.picture; // a third of it is used no more
        saveProject(job, path);
        QCOMPARE(read(file("large.yokai")), bytes(writeProject(job)));
        QVERIFY(openProject(path) == job);
    }

    // The schema in docs/ is the one that follows from the lists of fields, and what is written holds to it, by somebody else's
    // validator: the demo's jobs, those of former formats once saved again, and random ones.
    void jobsHoldToTheirSchema()
    {
        QCOMPARE(read(QFINDTESTDATA("../docs/job.schema.json")), QByteArray::fromStdString(jobSchema()));
        struct Draw {
            std::mt19937 random{11};
            int whole(int least, int most) { return std::uniform_int_distribution<int>(least, most)(random); }
            double real(double least, double most) { return std::uniform_real_distribution<double>(least, most)(random); }
        } draw;
        QVERIFY(QDir(dir_.path()).mkpath("schema"));
        write(file("schema/demo.yokai"), bytes(writeProject(job_)));
        for (int k = 0; k < 25; ++k)
            write(file("schema/") + QString::number(k) + ".yokai", bytes(writeProject(randomJob(draw, job_.pieces[0].artwork.picture))));
        const QString script = "import json,sys,zipfile,glob,jsonschema\n"
                               "schema=json.load(open(sys.argv[1]));jsonschema.Draft202012Validator.check_schema(schema)\n"
                               "v=jsonschema.Draft202012Validator(schema);n=0\n"
                               "for f in sorted(glob.glob(sys.argv[2]+'/*.yokai')):\n"
                               "  job=json.loads(zipfile.ZipFile(f).read('job.json'))\n"
                               "  for e in v.iter_errors(job): sys.exit(f+' '+'/'.join(map(str,e.path))+' '+e.message[:200])\n"
                               "  n+=1\n"
                               "job['sheet']['gap']='wide'\n"
                               "sys.exit(None if n==26 and not v.is_valid(job) else 'a bad job is valid')\n";
        const Ran r = run("/usr/bin/python3", {"-c", script, QFINDTESTDATA("../docs/job.schema.json"), file("schema")});
        QVERIFY2(r.code == 0, qPrintable(r.err));
    }

    // A job of a newer format, damaged or cut short opens as far as it can be understood, and says what was left out; a reader
    // that must have all of it refuses.
    void jobsOpenAsFarAsTheyCan()
    {
        const auto made = [&](const char* name, const std::function<void(QJsonObject&)>& change, const QStringList& without = {}) {
            const QString folder = file("unpacked");
            QDir(folder).removeRecursively();
            const QString script = "import json,sys,zipfile\nz=zipfile.ZipFile(sys.argv[1]);o=zipfile.ZipFile(sys.argv[2],'w')\n"
                                   "for n in z.namelist():\n  if n not in sys.argv[4:]: o.writestr(n, open(sys.argv[3],'rb').read() if n=='job.json' else z.read(n))\n";
            write(file("whole.yokai"), bytes(writeProject(job_)));
            QJsonObject json = QJsonDocument::fromJson(QByteArray::fromStdString(jsonOfJob(file("whole.yokai")))).object();
            change(json);
            write(file("job.json"), QJsonDocument(json).toJson());
            [&] { QVERIFY(run("/usr/bin/python3", QStringList{"-c", script, file("whole.yokai"), file(name), file("job.json")} + without).code == 0); }();
            return std::filesystem::path(file(name).toStdString());
        };
        // Whole, nothing is left out.
        const auto whole = made("same.yokai", [](QJsonObject&) {});
        QVERIFY(openWhatCanBe(whole).leftOut.empty() && openWhatCanBe(whole).job == openProject(whole));
        const auto newer = made("newer.yokai", [](QJsonObject& json) {
            json["yokai"] = 99;
            json["hologram"] = QJsonObject{{"on", true}};
            QJsonObject sheet = json["sheet"].toObject();
            sheet["layout"] = "spiral";
            json["sheet"] = sheet;
        });
        QVERIFY_EXCEPTION_THROWN(openProject(newer), Error);
        const OpenedJob understood = openWhatCanBe(newer);
        QCOMPARE(understood.leftOut.size(), std::size_t(2));
        QVERIFY2(understood.leftOut[0].starts_with("sheet.layout has the unknown value 'spiral'") && understood.leftOut[1] == "hologram is not known",
                 (understood.leftOut[0] + " " + understood.leftOut[1]).c_str());
        QVERIFY(understood.job.pieces == job_.pieces && understood.job.sheet.gap == job_.sheet.gap && understood.job.sheet.layout == SheetSpec{}.layout);
        // A picture that is missing takes its piece along, and what was placed of it.
        const auto less = made("less.yokai", [](QJsonObject&) {}, {QString::fromStdString("pictures/" + hexadecimal(job_.pieces[1].artwork.picture.digest))});
        QVERIFY_EXCEPTION_THROWN(openProject(less), Error);
        const OpenedJob without = openWhatCanBe(less);
        QVERIFY(without.leftOut.size() == 1 && without.leftOut[0].find("pieces[1].artwork.picture cannot be read") == 0);
        QVERIFY(without.job.pieces.size() == job_.pieces.size() - 1 && without.job.pieces[1] == job_.pieces[2]);
        // Cut short anywhere, what lies before is there.
        const Bytes good = writeProject(job_);
        std::size_t most = 0;
        for (const double part : {0.3, 0.6, 0.9, 0.999}) {
            write(file("short.yokai"), bytes(good).left(qsizetype(double(good.size()) * part)));
            const OpenedJob some = openWhatCanBe(file("short.yokai").toStdString());
            QVERIFY(some.leftOut[0] == "the file is cut short" && some.leftOut.size() == 1 + job_.pieces.size() - some.job.pieces.size());
            QVERIFY(some.job.pieces.size() >= most);
            most = some.job.pieces.size();
        }
        QCOMPARE(most, job_.pieces.size());
        write(file("none.yokai"), bytes(good).left(100));
        QVERIFY_EXCEPTION_THROWN(openWhatCanBe(file("none.yokai").toStdString()), Error);
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
