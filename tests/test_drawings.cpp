// Drawings that are printed: kept as drawings in the print file, and nothing else on the paper than their pixels show.
#include "artwork/drawn_page.h"
#include "formats/cut_file.h"
#include "formats/drawing.h"
#include "formats/format.h"
#include "formats/pdf/pdf.h"
#include "run.h"

#include <opencv2/imgcodecs.hpp>
#include <opencv2/imgproc.hpp>

#include <QDir>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QTest>

#include <cmath>
#include <numbers>
#include <numeric>
#include <random>

using namespace yokai;
using namespace yokai::test;

namespace {

Bytes bytesOf(const std::string& text) { return {text.begin(), text.end()}; }

// A river creature with all that drawings have: a gradient, a hole, words, an edge that is soft.
std::string creature(const char* ground)
{
    return std::string("<svg xmlns='http://www.w3.org/2000/svg' width='60mm' height='40mm' viewBox='0 0 60 40'>"
                       "<defs><linearGradient id='g'><stop offset='0' stop-color='#c33'/><stop offset='1' stop-color='#36c'/></linearGradient></defs>"
                       "<rect width='60' height='40' fill='") +
           ground +
           "'/><path d='M6 20 A24 15 0 1 1 54 20 A24 15 0 1 1 6 20 Z M26 8 h8 v4 h-8 z' fill='url(#g)' fill-rule='evenodd'/>"
           "<circle cx='18' cy='16' r='4' fill='#fff'/><circle cx='18' cy='16' r='2'/><ellipse cx='40' cy='24' rx='6' ry='3' fill='#ff0' opacity='0.5'/>"
           "<text x='24' y='30' font-size='5' fill='#111'>Ferry</text></svg>";
}

// A page of PDF put together by hand; what reads it finds the objects by looking for them, as it must in files that are
// a little broken.
Bytes page(const std::string& content, const std::string& entries, const std::string& resources, const std::string& catalog = {}, const std::string& more = {})
{
    return bytesOf("%PDF-1.5\n1 0 obj\n<< /Type /Catalog /Pages 2 0 R " + catalog + " >>\nendobj\n2 0 obj\n<< /Type /Pages /Kids [3 0 R] /Count 1 /MediaBox [0 0 200 160] >>\nendobj\n" +
                   "3 0 obj\n<< /Type /Page /Parent 2 0 R /Contents 4 0 R /Resources << " + resources + " >> " + entries + " >>\nendobj\n4 0 obj\n<< /Length " +
                   std::to_string(content.size()) + " >>\nstream\n" + content + "\nendstream\nendobj\n" + more + "trailer\n<< /Root 1 0 R >>\n%%EOF\n");
}

const char* const inkOfGold = "/ColorSpace << /Gold [/Separation /Gold /DeviceCMYK << /FunctionType 2 /Domain [0 1] /N 1 /C0 [0 0 0 0] /C1 [0 0.2 0.7 0.1] >>] >>";

} // namespace

class TestDrawings : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    QString file(const QString& name) const { return dir_.filePath(name); }

    struct Made {
        Job job;
        Derived derived;
    };
    static Made made(Bytes bytes, const char* name, const std::function<void(Piece&)>& change = {})
    {
        Made out;
        Piece& piece = out.job.pieces.emplace_back();
        piece.artwork.picture = pictureFromBytes(std::move(bytes), name);
        if (change)
            change(piece);
        giveIds(out.job);
        StepCache cache;
        out.derived = derive(out.job, cache);
        return out;
    }
    static Drawing drawn(const Made& made) { return drawPiece(made.job, made.job.pieces[0], made.derived.pieces[0], Content::Print); }
    void save(const QString& name, const Drawing& drawing) const
    {
        const Bytes pdf = writePdf(drawing, Content::Print);
        write(file(name), {reinterpret_cast<const char*>(pdf.data()), qsizetype(pdf.size())});
    }
    // By poppler, over white.
    cv::Mat seen(const QString& name, int ppi, const QStringList& part = {}) const
    {
        const bool good = run("pdftocairo", QStringList{"-png", "-r", QString::number(ppi), "-singlefile"} + part + QStringList{file(name), file(name)}).code == 0;
        return good ? cv::imread(file(name + ".png").toStdString()) : cv::Mat();
    }
    // How far a file that was saved is off what its drawing is in pixels, which is saved beside it. Of another size: as far as can be.
    cv::Mat offItsPixels(const QString& name, Drawing drawing, int ppi) const
    {
        for (DrawnImage& image : drawing.images)
            image.vectors.reset();
        save("pixels.pdf", drawing);
        const cv::Mat a = seen(name, ppi), b = seen("pixels.pdf", ppi);
        cv::Mat off(100, 100, CV_8UC3, cv::Scalar::all(255));
        if (!a.empty() && a.size() == b.size())
            cv::absdiff(a, b, off);
        return off;
    }
    // By Ghostscript, a plate an ink; the names of those that are not process inks.
    QStringList separated(const QString& name) const
    {
        if (run("gs", {"-q", "-dBATCH", "-dNOPAUSE", "-dSAFER", "-sDEVICE=tiffsep", "-r300", "-sOutputFile=" + file(name) + ".tif", file(name)}).code != 0)
            return {"failed"};
        QStringList inks = QDir(dir_.path()).entryList({name + "(*).tif"});
        for (QString& ink : inks)
            ink = ink.mid(name.size() + 1).chopped(5);
        for (const char* process : {"Cyan", "Magenta", "Yellow", "Black"})
            if (!inks.removeOne(process))
                return {"failed"};
        return inks;
    }
    cv::Mat plate(const QString& name, const char* ink) const { return cv::imread((file(name) + "(" + ink + ").tif").toStdString(), cv::IMREAD_GRAYSCALE); }

private slots:
    // However the drawing lies in its frame, the print file shows what its pixels would: the two are drawn by the same reader.
    void printsWhatItsPixelsShow_data()
    {
        QTest::addColumn<QByteArray>("ground");
        QTest::addColumn<std::function<void(Piece&)>>("change");
        QTest::addColumn<bool>("masked");
        using Change = std::function<void(Piece&)>;
        QTest::newRow("as it came") << QByteArray("none") << Change() << false;
        QTest::newRow("turned") << QByteArray("none") << Change([](Piece& p) { p.artwork.turnRight(); }) << false;
        QTest::newRow("mirrored, straightened, larger") << QByteArray("none") << Change([](Piece& p) {
            p.artwork.mirrorAcross();
            p.artwork.straightenTo(7);
            p.artwork.setWidth(90_mm);
        }) << false;
        QTest::newRow("cropped, its ratio not kept") << QByteArray("none") << Change([](Piece& p) {
            p.artwork.turnLeft();
            p.artwork.cropTo({5, 10, 35, 52});
            p.artwork.setWidth(50_mm, false);
        }) << false;
        QTest::newRow("on paper") << QByteArray("#fdf6e0") << Change() << true;
        QTest::newRow("on paper, turned and cropped") << QByteArray("#fdf6e0") << Change([](Piece& p) {
            p.artwork.straightenTo(-12);
            p.artwork.turnRight();
            p.artwork.cropTo({4, 6, 33, 50});
        }) << true;
        QTest::newRow("bled, on white, up to a line") << QByteArray("none") << Change([](Piece& p) {
            p.bleed().distance = 2_mm;
            p.underprint().on = true;
            p.lines() = {{LineKind::Through, -(1_mm)}};
            p.lines()[0].clipsPrint = true;
        }) << true;
    }
    void printsWhatItsPixelsShow()
    {
        QFETCH(QByteArray, ground);
        QFETCH(std::function<void(Piece&)>, change);
        QFETCH(bool, masked);
        const Made made = this->made(bytesOf(creature(ground.constData())), "creature.svg", change);
        Drawing drawing = drawn(made);
        const DrawnImage& picture = drawing.images.back(); // what bleeds lies beneath
        QVERIFY(picture.vectors);
        QCOMPARE(bool(picture.vectors->kept), masked);
        save("drawn.pdf", drawing);
        const cv::Mat off = offItsPixels("drawn.pdf", drawing, 150);
        const Ran check = run("qpdf", {"--check", file("drawn.pdf")});
        QVERIFY2(check.code == 0, qPrintable(check.err));
        const auto letters = [&](const char* name) { return run("pdftotext", {file(name), "-"}).out.count(QRegularExpression("[Fery]")); }; // mirrored they are no word
        QVERIFY(letters("drawn.pdf") == 5 && letters("pixels.pdf") == 0);
        QVERIFY(run("pdfimages", {"-list", file("pixels.pdf")}).out.contains("smask"));
        QCOMPARE(run("pdfimages", {"-list", file("drawn.pdf")}).out.count("rgb"), qsizetype(drawing.images.size() - 1));
        const double mean = cv::sum(cv::mean(off))[0] / 3;
        const int far = cv::countNonZero(cv::Mat(off.reshape(1) > 60));
        QVERIFY2(mean < 0.8 && far < 200, qPrintable(QStringLiteral("%1, %2 far off").arg(mean).arg(far))); // soft rims and words, which are drawn by another way
        QVERIFY(cv::mean(seen("pixels.pdf", 150))[0] < 235);
    }

    // A rim at 600 dots an inch is as sharp as the printer: of pixels it would be soft over two of theirs.
    void isSharpAtAnySize()
    {
        Drawing drawing = drawn(made(bytesOf("<svg xmlns='http://www.w3.org/2000/svg' width='20mm' height='20mm' viewBox='0 0 20 20'><circle cx='10' cy='10' r='8'/></svg>"), "disc.svg",
                                     [](Piece& p) { p.artwork.setWidth(600_mm); }));
        const auto soft = [&](const char* name) {
            save(name, drawing);
            const cv::Mat row = seen(name, 600, {"-y", "4700", "-H", "1"});
            int n = row.cols < 14'000 ? 1000 : 0;
            for (int x = 0; x < row.cols; ++x)
                n += row.at<cv::Vec3b>(x)[0] > 10 && row.at<cv::Vec3b>(x)[0] < 245;
            return n;
        };
        const int drawnSoft = soft("sharp.pdf");
        drawing.images[0].vectors.reset();
        const int pixelsSoft = soft("pixels.pdf");
        QVERIFY2(drawnSoft <= 2 && pixelsSoft > 6, qPrintable(QStringLiteral("%1 %2").arg(drawnSoft).arg(pixelsSoft)));
    }

    // What an SVG only points at is not there: no file reaches for another.
    void reachesForNoFile()
    {
        cv::imwrite(file("other.png").toStdString(), cv::Mat(40, 40, CV_8UC3, cv::Scalar(0, 0, 255)));
        const std::string name = file("other.png").toStdString();
        const Made made = this->made(bytesOf("<svg xmlns='http://www.w3.org/2000/svg' xmlns:xlink='http://www.w3.org/1999/xlink' width='30mm' height='20mm' viewBox='0 0 30 20'>"
                                             "<circle cx='10' cy='10' r='6'/><image x='18' y='4' width='10' height='10' xlink:href='file://" +
                                             name + "'/><image x='18' y='4' width='10' height='10' href='" + name + "'/></svg>"),
                                     "reaching.svg", [](Piece& p) { p.keep().rule = KeepRule::All; });
        save("reaching.pdf", drawn(made));
        QVERIFY(!run("pdfimages", {"-list", file("reaching.pdf")}).out.contains("rgb"));
        const cv::Mat page = seen("reaching.pdf", 100);
        QVERIFY(cv::mean(page)[0] < 250 && cv::mean(page)[0] == cv::mean(page)[2]); // the disc, and nothing red
    }

    // A drawing printed many times is in the file once.
    void isStoredOnce()
    {
        Made made = this->made(bytesOf(creature("none")), "creature.svg", [](Piece& p) { p.copies = 8; });
        save("one.pdf", drawn(made));
        const Drawing sheet = drawSheet(made.job, made.derived, 0, Content::Print);
        QCOMPARE(sheet.images[0].places.size(), std::size_t(made.derived.sheet.on(0).size()));
        QVERIFY(sheet.images[0].places.size() > 3);
        save("many.pdf", sheet);
        QVERIFY(read(file("many.pdf")).size() < read(file("one.pdf")).size() + 4000);
    }

    // A page of PDF comes in with its own inks, whatever part of it is seen and however it is turned there.
    void aPageKeepsItsInks()
    {
        const Bytes pdf = page("0 0 0 1 k 60 40 30 30 re f /Gold cs 1 scn 110 40 40 60 re f 1 0 0 0 k 0 0 20 20 re f", "/Rotate 90 /CropBox [40 20 180 140]", inkOfGold);
        const Made made = this->made(pdf, "page.pdf");
        Drawing drawing = drawn(made);
        QVERIFY(std::abs(drawing.width - 120 * 25.4 / 72) < 0.05 && std::abs(drawing.height - 140 * 25.4 / 72) < 0.05); // turned
        save("page.pdf", drawing);
        QCOMPARE(separated("page.pdf"), QStringList{"Gold"});
        const auto ink = [&](const char* of) {
            const cv::Mat p = plate("page.pdf", of);
            double sum = 0;
            for (int y = 0; y < p.rows; ++y)
                for (int x = 0; x < p.cols; ++x)
                    sum += (255 - p.at<uchar>(y, x)) / 255.0;
            return sum * 0.24 * 0.24; // square points
        };
        QVERIFY2(std::abs(ink("Gold") - 2400) < 60 && std::abs(ink("Black") - 900) < 40 && ink("Cyan") < 5 && ink("Magenta") < 5,
                 qPrintable(QStringLiteral("%1 %2 %3").arg(ink("Gold")).arg(ink("Black")).arg(ink("Cyan"))));
        const cv::Mat off = offItsPixels("page.pdf", drawing, 150);
        QVERIFY2(cv::countNonZero(cv::Mat(off.reshape(1) > 60)) < 40, qPrintable(QString::number(cv::countNonZero(cv::Mat(off.reshape(1) > 60)))));
    }

    // What a cutter would take for its own, and what a reader might show or not, is printed as it is seen, still as a drawing.
    void aPageIsRedrawnWhereItIsUnfit_data()
    {
        QTest::addColumn<QByteArray>("pdf");
        const auto bytes = [](const Bytes& b) { return QByteArray(reinterpret_cast<const char*>(b.data()), qsizetype(b.size())); };
        QTest::newRow("an ink named as a cut") << bytes(page("0 0 0 1 k 60 40 30 30 re f /Cut CS 1 SCN 3 w 100 40 40 60 re S", "",
                                                             "/ColorSpace << /Cut [/Separation /Kiss /DeviceRGB << /FunctionType 2 /Domain [0 1] /N 1 /C0 [1 1 1] /C1 [1 0 1] >>] >>"));
        QTest::newRow("a layer switched off") << bytes(page("0 0 0 1 k 60 40 30 30 re f /OC /L BDC 1 0 0 rg 100 40 40 60 re f EMC", "", "/Properties << /L 5 0 R >>",
                                                            "/OCProperties << /OCGs [5 0 R] /D << /OFF [5 0 R] >> >>", "5 0 obj\n<< /Type /OCG /Name (Notes) >>\nendobj\n"));
        QTest::newRow("something in another file") << bytes(page("0 0 0 1 k 60 40 30 30 re f q 40 0 0 60 100 40 cm /Im Do Q", "", "/XObject << /Im 5 0 R >>", "",
                                                                 "5 0 obj\n<< /Type /XObject /Subtype /Image /Width 1 /Height 1 /ColorSpace /DeviceGray /BitsPerComponent 8 /F (/tmp/Notes.raw) "
                                                                 "/Length 0 >>\nstream\n\nendstream\nendobj\n"));
        QTest::newRow("letters without their font") << bytes(page("BT /F 40 Tf 30 60 Td (Ferry) Tj ET", "", "/Font << /F << /Type /Font /Subtype /Type1 /BaseFont /Helvetica >> >>"));
        QTest::newRow("a note") << bytes(page("0 0 0 1 k 60 40 30 30 re f", "/Annots [<< /Type /Annot /Subtype /Square /Rect [100 40 140 100] /C [1 0 0] /F 4 /BS << /W 4 >> >>]", ""));
    }
    void aPageIsRedrawnWhereItIsUnfit()
    {
        QFETCH(QByteArray, pdf);
        const Drawing drawing = drawn(made(Bytes(pdf.begin(), pdf.end()), "page.pdf"));
        save("unfit.pdf", drawing);
        QVERIFY(drawing.images[0].vectors);
        QCOMPARE(separated("unfit.pdf"), QStringList{});
        QVERIFY(!run("qpdf", {"--qdf", "--object-streams=disable", file("unfit.pdf"), "-"}).bytes.contains("Notes"));
        QVERIFY(!run("pdffonts", {file("unfit.pdf")}).out.contains(QRegularExpression("\\sno +(yes|no) +(yes|no) "))); // each is in it
        QVERIFY(!run("pdfimages", {"-list", file("unfit.pdf")}).out.contains("rgb"));
        const cv::Mat off = offItsPixels("unfit.pdf", drawing, 300), page = seen("unfit.pdf", 300);
        QVERIFY2(cv::mean(off)[0] < 0.5 && cv::mean(page)[0] < 254, qPrintable(QStringLiteral("%1 of %2").arg(cv::mean(off)[0]).arg(cv::mean(page)[0])));
    }

    // Whatever of a page is damaged: it is printed as a drawing or in pixels, in a file that is sound. Most pages are taken as they are;
    // those with layers are drawn anew.
    void aDamagedPageIsPrintedAllTheSame()
    {
        const Made made = this->made(bytesOf(creature("none")), "creature.svg");
        Drawing drawing = drawn(made);
        const Bytes plain = *svgAsPdf(made.job.pieces[0].artwork.picture), layered = writePdf(drawing, Content::Print);
        std::mt19937 random(9);
        int asDrawings = 0;
        const int damaged = qEnvironmentVariableIntValue("YOKAI_DAMAGED") > 0 ? qEnvironmentVariableIntValue("YOKAI_DAMAGED") : 64;
        for (int k = 0; k < damaged; ++k) {
            Bytes bytes = k % 8 ? plain : layered;
            for (int n = 1 + int(random() % 12); n > 0; --n)
                bytes[random() % bytes.size()] = std::uint8_t(random());
            if (k % 7 == 0)
                bytes.resize(random() % bytes.size());
            Picture& picture = drawing.images[0].vectors->picture;
            picture.bytes = std::make_shared<const Bytes>(std::move(bytes));
            picture.info.format = PictureFormat::Pdf;
            save("damaged.pdf", drawing);
            const QByteArray out = read(file("damaged.pdf"));
            asDrawings += out.contains("/Drawing") || !out.contains("/SMask");
            if (k % 10 == 0)
                QVERIFY2(run("qpdf", {"--check", file("damaged.pdf")}).code != 2 && run("pdftocairo", {"-png", "-r", "30", "-singlefile", file("damaged.pdf"), file("damaged")}).code == 0, qPrintable(QString::number(k)));
        }
        QVERIFY2(asDrawings > damaged / 2, qPrintable(QString::number(asDrawings)));
    }

    // What is engraved is in an ink of its own, as large and as dense as it is burnt, beside the lines and not among them.
    void engravingHasItsInk_data()
    {
        QTest::addColumn<QString>("ending");
        QTest::addColumn<bool>("fill");
        for (const char* ending : {".pdf", ".eps"})
            for (const bool fill : {true, false})
                QTest::newRow(qPrintable(QLatin1String(ending) + (fill ? " fill" : " grey"))) << ending << fill;
    }
    void engravingHasItsInk()
    {
        QFETCH(QString, ending);
        QFETCH(bool, fill);
        // A grey disc of 20 mm: burnt wholly as a fill, else as dark as it is.
        Made made = this->made(bytesOf("<svg xmlns='http://www.w3.org/2000/svg' width='30mm' height='30mm' viewBox='0 0 30 30'><circle cx='15' cy='15' r='10' fill='#808080'/></svg>"), "disc.svg",
                               [&](Piece& p) {
                                   p.layers[0].engrave.emplace();
                                   p.layers[0].engrave->as = fill ? EngraveAs::Fill : EngraveAs::Grey;
                                   p.lines()[0].kind = LineKind::Kiss;
                               });
        made.job.handOff.spots.engrave = "Burn 1";
        made.job.handOff.spots.of(LineKind::Kiss) = "Half";
        const Drawing sheet = drawPiece(made.job, made.job.pieces[0], made.derived.pieces[0], Content::Cut);
        const Format& format = *formatOf(("x" + ending).toStdString());
        const Bytes cut = format.write(sheet, Content::Cut, {});
        const QString name = "burnt" + ending;
        write(file(name), {reinterpret_cast<const char*>(cut.data()), qsizetype(cut.size())});
        QCOMPARE(separated(name), (QStringList{"Burn 1", "Half"}));
        const cv::Mat burnt = plate(name, "Burn 1");
        double area = 0;
        for (int y = 0; y < burnt.rows; ++y)
            for (int x = 0; x < burnt.cols; ++x)
                area += (255 - burnt.at<uchar>(y, x)) / 255.0;
        area *= (25.4 / 300) * (25.4 / 300);
        double wanted = std::numbers::pi * 100;
        if (!fill) {
            const Gray8& tone = *sheet.engravings[0].of->tone;
            wanted = std::accumulate(tone.all().begin(), tone.all().end(), 0.0) / 255 / std::pow(sheet.engravings[0].of->pxPerMm, 2);
            QVERIFY(wanted > 100 && wanted < 260);
        }
        QVERIFY2(std::abs(area / wanted - 1) < 0.02, qPrintable(QStringLiteral("%1 of %2").arg(area).arg(wanted)));
        const CutFile back = openCutFile(file(name).toStdString());
        QCOMPARE(back.drawing.cuts.size(), sheet.cuts.size());
        for (const CutItem& item : back.drawing.cuts) // known for what they are, whatever their inks are called
            QCOMPARE(item.kind, LineKind::Kiss);
    }

    // Print and cut in one file, with a drawing in it: its own paths are not taken for lines when it is read again.
    void itsPathsAreNoLines()
    {
        const Made made = this->made(bytesOf(creature("none")), "creature.svg", [](Piece& p) { p.copies = 4; });
        const Drawing sheet = drawSheet(made.job, made.derived, 0);
        const CutFile back = readPdf(writePdf(sheet, Content::Both), "both.pdf");
        QCOMPARE(back.drawing.cuts.size(), sheet.cuts.size());
        QCOMPARE(back.drawing.marks.size(), sheet.marks.size());
        for (std::size_t k = 0; k < sheet.cuts.size(); ++k) {
            const Rect a = bounds(sheet.cuts[k].path), b = bounds(back.drawing.cuts[k].path);
            QVERIFY(distance({a.x0, a.y0}, {b.x0, b.y0}) < 0.01 && distance({a.x1, a.y1}, {b.x1, b.y1}) < 0.01);
        }
    }
};

QTEST_GUILESS_MAIN(TestDrawings)
#include "test_drawings.moc"
