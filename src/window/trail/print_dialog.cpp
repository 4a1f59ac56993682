#include "trail/print_dialog.h"

#include "desk/desk.h"
#include "desk/printing.h"

#include <QPrintDialog>
#include <QPrinter>

#include <optional>

namespace yokai {

namespace {

// Where to print as the dialog has it; which sheets is the printer's.
std::optional<printing::Where> asked(QPrinter& printer, const Desk& desk, QWidget* over, const QString& title)
{
    const SheetSpec& sheet = desk.job().sheet;
    printer.setDocName(title);
    printer.setPageSize(QPageSize(QSizeF(sheet.width(), sheet.height()), QPageSize::Millimeter, {}, QPageSize::FuzzyOrientationMatch));
    printer.setFullPage(true);
    if (const QString last = printing::last(); !last.isEmpty())
        printer.setPrinterName(last);
    QPrintDialog dialog(&printer, over);
    dialog.setObjectName("print");
    dialog.setWindowTitle(title);
    if (dialog.exec() != QDialog::Accepted)
        return std::nullopt;
    printing::Where where;
    if (printer.outputFormat() == QPrinter::PdfFormat)
        where.file = printer.outputFileName();
    where.order.queue = printer.printerName().toStdString();
    where.order.copies = printer.copyCount();
    where.order.colour = printer.colorMode() == QPrinter::Color;
    return where;
}

} // namespace

void askAndPrint(Desk& desk, QWidget* over)
{
    if (!printing::mayPrint(desk)) {
        if (desk.busy() || !desk.current())
            desk.say(QObject::tr("The sheet is still being made; print it once it is there."), Severity::Note);
        return; // else the panel says why
    }
    QPrinter printer(QPrinter::HighResolution);
    const int sheets = desk.shown()->derived.sheet.sheets;
    printer.setFromTo(1, sheets);
    const auto where = asked(printer, desk, over, QObject::tr("Print"));
    const bool some = printer.printRange() == QPrinter::PageRange;
    if (where)
        printing::print(desk, *where, some ? printer.fromPage() - 1 : 0, some ? printer.toPage() - 1 : sheets - 1);
}

void askAndPrintTestPage(Desk& desk, QWidget* over)
{
    QPrinter printer(QPrinter::HighResolution);
    if (const auto where = asked(printer, desk, over, QObject::tr("Test page")))
        printing::printTestPage(desk, *where);
}

} // namespace yokai
