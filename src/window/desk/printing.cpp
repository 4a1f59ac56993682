#include "desk/printing.h"

#include "desk/desk.h"
#include "formats/format.h"
#include "formats/pages/test_page.h"
#include "formats/pdf/pdf.h"

#include <QCoreApplication>
#include <QFileInfo>
#include <QSettings>

namespace yokai::printing {

namespace {

// A printer's name may hold what a setting's may not.
QString keyOf(const QString& printer)
{
    return printer.isEmpty() ? QStringLiteral("printer-unnamed") : QStringLiteral("printers/") + QString::fromLatin1(printer.toUtf8().toPercentEncoding());
}

const QString unnamed; // no printer has such a name

// The same words as this room's, wherever they are asked for.
struct Said {
    Q_DECLARE_TR_FUNCTIONS(Printing)
};

void keep(const QString& printer, const Scale& scale)
{
    QSettings settings;
    settings.setValue(keyOf(printer) + QStringLiteral("/across"), scale.across);
    settings.setValue(keyOf(printer) + QStringLiteral("/along"), scale.along);
}

void send(const Where& where, const Bytes& pdf)
{
    if (where.file.isEmpty())
        sendToQueue(where.order, pdf);
    else
        writeFile(where.file.toStdString(), pdf);
}

} // namespace

QStringList known()
{
    QSettings settings;
    settings.beginGroup(QStringLiteral("printers"));
    QStringList out;
    for (const QString& key : settings.childGroups())
        out << QString::fromUtf8(QByteArray::fromPercentEncoding(key.toLatin1()));
    return out;
}

QString last() { return QSettings().value(QStringLiteral("printer")).toString(); }

Scale scaleOf(const QString& printer)
{
    const QSettings settings;
    return {settings.value(keyOf(printer) + QStringLiteral("/across"), 100.0).toDouble(), settings.value(keyOf(printer) + QStringLiteral("/along"), 100.0).toDouble()};
}

void use(Desk& desk, const QString& printer)
{
    // What was typed here while no printer was named is the first one's; what came with a job is another maker's.
    if (!known().contains(printer))
        keep(printer, last().isEmpty() ? scaleOf(unnamed) : Scale{});
    QSettings().setValue(QStringLiteral("printer"), printer);
    const Scale scale = scaleOf(printer);
    const HandOffSpec& now = desk.job().handOff;
    if (scale == Scale{now.stretchX, now.stretchY})
        return;
    desk.edit(Said::tr("the printer"), [&](Job& job) {
        job.handOff.stretchX = scale.across;
        job.handOff.stretchY = scale.along;
    });
}

void measured(const Scale& scale) { keep(last().isEmpty() ? unnamed : last(), scale); }

bool mayPrint(const Desk& desk) { return desk.current() && !desk.shown()->derived.sheet.waits && !desk.shown()->derived.sheet.placements.empty() && !refusal(desk.shown()->derived.findings) && !desk.background().busy(); }

void print(Desk& desk, Where where, int first, int last)
{
    if (!mayPrint(desk))
        return;
    const auto& placed = desk.shown()->derived.sheet.placements;
    if (std::all_of(placed.begin(), placed.end(), [](const Placement& p) { return p.lies; }))
        return desk.say(Said::tr("Nothing is printed: all that is cut lies on the sheet already."));
    const auto shown = desk.sharedShown();
    Job job = shown->job;
    if (where.file.isEmpty()) {
        use(desk, QString::fromStdString(where.order.queue));
        job.handOff = desk.job().handOff; // the printer's scale with it
    }
    const Layout& sheet = shown->derived.sheet;
    where.order.title = job.name;
    where.order.width = sheet.width;
    where.order.height = sheet.height;
    desk.background().start(Said::tr("Printing"), [shown, job, where, first, last](const Work& work) {
        std::vector<Drawing> sheets = drawSheets(job, shown->derived, Content::Print, work);
        const int count = int(sheets.size()), from = std::clamp(first, 0, count - 1), to = std::clamp(last, from, count - 1);
        const std::vector<Drawing> wanted(sheets.begin() + from, sheets.begin() + to + 1);
        send(where, writtenAsPages(*formatOf("sheets.pdf"), wanted, Content::Print, work));
        return where.file.isEmpty() ? Said::tr("%n sheets sent to %1", nullptr, to - from + 1).arg(QString::fromStdString(where.order.queue))
                                    : Said::tr("Wrote %1").arg(QFileInfo(where.file).fileName());
    });
}

void printTestPage(Desk& desk, Where where)
{
    const SheetSpec& sheet = desk.job().sheet;
    where.order.title = Said::tr("Test page").toStdString();
    where.order.width = sheet.width();
    where.order.height = sheet.height();
    if (where.file.isEmpty())
        use(desk, QString::fromStdString(where.order.queue));
    desk.background().start(Said::tr("Printing"), [where, unit = desk.unit()](const Work&) {
        const auto say = [](const char* words) { return QCoreApplication::translate("TestPage", words).toStdString(); };
        send(where, writeTestPage(where.order.width, where.order.height, unit, say));
        return Said::tr("The test page was sent to %1").arg(where.file.isEmpty() ? QString::fromStdString(where.order.queue) : QFileInfo(where.file).fileName());
    });
}

} // namespace yokai
