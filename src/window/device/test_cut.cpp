#include "device/test_cut.h"

#include "device/serial_machine.h"
#include "formats/pdf/pdf.h"

#include <QCoreApplication>
#include <QFileInfo>
#include <QJsonArray>
#include <QJsonDocument>
#include <QProcess>
#include <QStandardPaths>
#include <QTemporaryDir>

namespace yokai {

namespace {

// The program, for as long as the try lasts; closing its input ends it.
class StandIn {
public:
    explicit StandIn(const QString& program)
    {
        process_.start(program, {});
        bool ready = !program.isEmpty() && process_.waitForStarted(10'000);
        // The line may have come while waiting for the start; only what is not there is waited for.
        while (ready && !process_.canReadLine())
            ready = process_.waitForReadyRead(10'000);
        if (!ready)
            throw Error(ErrorKind::Device, "the stand-in 'yokai-standin' does not start; install it beside Yokai");
        const QString line = QString::fromUtf8(process_.readLine()).trimmed();
        if (!line.startsWith(QLatin1String("PORT ")))
            throw Error(ErrorKind::Device, "the stand-in gives no serial line; install it anew");
        port_ = line.mid(5);
    }
    ~StandIn()
    {
        process_.closeWriteChannel();
        if (!process_.waitForFinished(2000))
            process_.kill();
        process_.waitForFinished(1000);
    }
    StandIn(const StandIn&) = delete;
    StandIn& operator=(const StandIn&) = delete;
    const QString& port() const { return port_; }

private:
    QProcess process_;
    QString port_;
};

std::vector<double> bracketed(const QStringList& answers, const QString& tag, qsizetype count)
{
    for (const QString& line : answers)
        if (line.startsWith(QLatin1Char('[') + tag + QLatin1Char(':')) && line.endsWith(QLatin1Char(']'))) {
            std::vector<double> out;
            bool ok = true;
            for (const QString& part : line.mid(tag.size() + 2).chopped(1).split(QLatin1Char(','))) {
                out.push_back(part.toDouble(&ok));
                if (!ok)
                    break;
            }
            if (ok && qsizetype(out.size()) == count)
                return out;
        }
    throw Error(ErrorKind::Device, "the machine's answer about {} makes no sense; try again", tag.toStdString());
}

QString number(double v) { return QString::number(v, 'f', 4); }

// Marks already found tell where the next one should be.
Point expected(const std::vector<MarkPair>& found, Point design)
{
    if (found.empty())
        return design;
    if (found.size() == 1)
        return design + (found[0].measured - found[0].design);
    return fitMarks(found, FitModel::Rigid).map(design);
}

// Has the sheet printed, as badly as the stand-in is set to.
void print(SerialMachine& machine, const StandInSpec& s, const QString& file, const Work& work)
{
    machine.ask(QStringLiteral("$D %1 %2 %3 %4 %5 %6")
                    .arg(s.stretchX, 0, 'f', 6)
                    .arg(s.stretchY, 0, 'f', 6)
                    .arg(s.turn, 0, 'f', 6)
                    .arg(s.skew, 0, 'f', 6)
                    .arg(number(s.shiftX.mm()), number(s.shiftY.mm())),
                work);
    work.report(0.1, "printing");
    machine.ask(QStringLiteral("$P ") + file, work, 120'000);
}

// How far each point of the strokes landed from where it should have, on the print as it truly lies.
void compare(const std::vector<Stroke>& design, const QJsonArray& cuts, const Affine& truth, TestCutResult& out)
{
    if (std::size_t(cuts.size()) != design.size())
        throw Error(ErrorKind::Device, "the machine made {} cuts of {}; try again", std::to_string(cuts.size()), std::to_string(design.size()));
    double sum = 0;
    std::size_t count = 0;
    std::vector<Stroke> ideal = design;
    for (std::size_t i = 0; i < design.size(); ++i) {
        Stroke landed;
        landed.kind = design[i].kind;
        landed.closed = design[i].closed;
        for (const QJsonValue& p : cuts[qsizetype(i)].toArray())
            landed.points.push_back({p[0].toDouble(), p[1].toDouble()});
        // The machine closes the stroke by going back to where it began.
        if (landed.points.size() != design[i].points.size() + (design[i].closed ? 1 : 0))
            throw Error(ErrorKind::Device, "the machine left a cut unfinished; try again");
        if (design[i].closed)
            landed.points.pop_back();
        for (std::size_t k = 0; k < landed.points.size(); ++k) {
            ideal[i].points[k] = truth(design[i].points[k]);
            const double miss = distance(landed.points[k], ideal[i].points[k]);
            sum += miss;
            ++count;
            if (miss > out.worst) {
                out.worst = miss;
                out.worstAt = landed.points[k];
                out.worstShouldBe = ideal[i].points[k];
            }
        }
        out.landed.push_back(std::move(landed));
    }
    out.mean = sum / double(std::max<std::size_t>(1, count));
    out.ideal = std::move(ideal);
}

// Takes the bed's picture and the cuts as they were made.
void look(SerialMachine& machine, const QTemporaryDir& scratch, const std::vector<Stroke>& design, TestCutResult& out, const Work& work)
{
    work.report(0.9, "looking at the sheet");
    const QString viewFile = scratch.filePath(QStringLiteral("bed.png")), cutFile = scratch.filePath(QStringLiteral("cut.json"));
    const auto view = bracketed(machine.ask(QStringLiteral("$V ") + viewFile, work, 60'000), QStringLiteral("VIEW"), 3);
    const auto t = bracketed(machine.ask(QStringLiteral("$T"), work), QStringLiteral("TRUE"), 6);
    machine.ask(QStringLiteral("$C ") + cutFile, work, 60'000);
    out.bed = QImage(viewFile).convertToFormat(QImage::Format_RGB32);
    out.bedCorner = {view[0], view[1]};
    out.bedPxPerMm = view[2];
    const Bytes cutBytes = readFile(cutFile.toStdString());
    const QJsonArray cuts = QJsonDocument::fromJson(QByteArray(reinterpret_cast<const char*>(cutBytes.data()), qsizetype(cutBytes.size()))).array();
    compare(design, cuts, {t[0], t[1], t[2], t[3], t[4], t[5]}, out);
}

} // namespace

QString standInProgram()
{
    const QString beside = QCoreApplication::applicationDirPath();
    for (const char* place : {"/yokai-standin", "/../yokai-standin", "/../src/yokai-standin", "/../../src/yokai-standin"})
        if (QFileInfo(beside + QLatin1String(place)).isExecutable())
            return QFileInfo(beside + QLatin1String(place)).canonicalFilePath();
    return QStandardPaths::findExecutable(QStringLiteral("yokai-standin"));
}

TestCutResult runTestCut(const Job& job, const Derived& derived, int sheet, const QString& standIn, const Work& work)
{
    if (job.sheet.mirror == SheetMirror::Print || job.sheet.mirror == SheetMirror::Cut)
        throw Error(ErrorKind::Fit, "print and cut are mirrored apart, so the sheet lies face down for the cut; the stand-in cuts only what lies face up");
    if (derived.sheet.on(sheet).empty())
        throw Error(ErrorKind::Input, "there is nothing on the sheet to cut; add a picture with a cut line");
    if (job.cut.useFit && derived.sheet.marks.empty())
        throw Error(ErrorKind::Fit, "the sheet has no marks to fit to; switch marks on under Sheet, or the fit off");
    const Drawing drawing = drawSheet(job, derived, sheet, Content::Both, work);
    const QTemporaryDir scratch;
    const QString printFile = scratch.filePath(QStringLiteral("print.pdf"));
    work.report(0.02, "printing");
    writeFile(printFile.toStdString(), writePdf(drawing, Content::Print, {work.stop, {}}));

    const StandIn program(standIn);
    SerialMachine machine(program.port());
    machine.ask(QStringLiteral("$I"), work);
    print(machine, job.cut.standIn, printFile, work);

    TestCutResult out;
    const Affine up{1, 0, 0, -1, 0, drawing.height};
    for (std::size_t i = 0; i < drawing.marks.size() && job.cut.useFit; ++i) {
        work.report(0.3 + 0.2 * double(i) / double(drawing.marks.size()), "reading the marks");
        const Point design = up(drawing.marks[i].centre), near = expected(out.marks, design);
        const auto at = bracketed(machine.ask(QStringLiteral("$M %1 %2 %3").arg(number(near.x), number(near.y), number(drawing.marks[i].diameter)), work),
                                  QStringLiteral("MARK"), 2);
        out.marks.push_back({design, {at[0], at[1]}});
    }
    std::vector<Stroke> strokes = strokesOf(drawing.cuts, drawing.height, work);
    const std::vector<Stroke> design = strokes;
    if (job.cut.useFit) {
        out.fit = fitMarks(out.marks, job.cut.model, job.cut.maxResidual.mm());
        requireResidual(*out.fit, job.cut.maxResidual.mm());
        strokes = moved(strokes, out.fit->map);
    }
    QStringList program_;
    for (const std::string& line : gcodeOf(strokes))
        program_ << QString::fromStdString(line);
    machine.stream(program_, work);

    look(machine, scratch, design, out, work);
    work.report(1, "done");
    return out;
}

} // namespace yokai
