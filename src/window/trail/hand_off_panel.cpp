#include "trail/panels.h"

#include "formats/dxf/dxf.h"
#include "formats/pdf/pdf.h"
#include "formats/svg/svg.h"
#include "theme/theme.h"

#include <QCheckBox>
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QPushButton>
#include <QStandardPaths>
#include <QToolButton>

namespace yokai {

HandOffPanel::HandOffPanel(Studio& studio, QWidget* parent) : Panel(studio, parent)
{
    const auto tick = [&](const QString& text, const char* name, const QString& tip) {
        auto* box = new QCheckBox(text, this);
        box->setChecked(true);
        box->setObjectName(QLatin1String(name));
        box->setToolTip(tip);
        connect(box, &QCheckBox::toggled, this, [this] { refresh(); });
        addWide(box);
        return box;
    };
    print_ = tick(tr("Print PDF"), "hand-print", tr("Picture and marks, no lines; what is not kept stays clear"));
    combined_ = tick(tr("Combined PDF"), "hand-combined", tr("Picture, marks and cut lines as hairlines in a spot colour"));
    svg_ = tick(tr("Cut SVG"), "hand-svg", tr("Cut lines and marks as curves"));
    dxf_ = tick(tr("Cut DXF"), "hand-dxf", tr("Cut lines and marks as polylines within 0.005 mm"));
    spot_ = new QLineEdit(this);
    spot_->setObjectName("hand-spot");
    addRow(tr("Spot"), spot_, tr("The name of the through line's spot colour, as the shop asks for it"));
    auto* row = new QWidget(this);
    auto* layout = new QHBoxLayout(row);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(4);
    folder_ = new QLineEdit(row);
    folder_->setObjectName("hand-folder");
    folder_->setAccessibleName(tr("Folder"));
    folder_->setText(QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation));
    auto* browse = new QToolButton(row);
    browse->setIcon(theme::icon(QStringLiteral("folder"), theme::colours().inkSoft));
    browse->setAccessibleName(tr("Choose the folder"));
    layout->addWidget(folder_, 1);
    layout->addWidget(browse);
    addRow(tr("Folder"), row, tr("Where the files go"));
    write_ = new QPushButton(this);
    write_->setObjectName("hand-write");
    write_->setProperty("kind", "primary");
    addWide(write_);
    connect(browse, &QToolButton::clicked, this, [this] {
        const QString chosen = QFileDialog::getExistingDirectory(window(), tr("Folder for the files"), folder_->text());
        if (!chosen.isEmpty())
            folder_->setText(chosen);
    });
    connect(spot_, &QLineEdit::editingFinished, this, [this] {
        const QString text = spot_->text().trimmed();
        if (text.isEmpty())
            refresh();
        else if (text.toStdString() != studio_.job().handOff.spot)
            studio_.edit(tr("change the spot colour"), [&](Job& job) { job.handOff.spot = text.toStdString(); });
    });
    connect(write_, &QPushButton::clicked, this, &HandOffPanel::writeFiles);
}

QString HandOffPanel::baseName() const
{
    QString base = QString::fromStdString(studio_.job().name).trimmed().toLower();
    for (QChar& c : base)
        if (!c.isLetterOrNumber())
            c = QLatin1Char('-');
    return base.isEmpty() ? QStringLiteral("sheet") : base;
}

void HandOffPanel::refresh()
{
    if (!spot_->hasFocus())
        spot_->setText(QString::fromStdString(studio_.job().handOff.spot));
    int count = 0;
    for (const QCheckBox* box : {print_, combined_, svg_, dxf_})
        count += box->isChecked();
    const Shown* shown = studio_.shown();
    const bool ready = shown && !shown->derived.sheet.placements.empty();
    write_->setText(count == 1 ? tr("Write 1 file") : tr("Write %1 files").arg(count));
    write_->setEnabled(count > 0 && ready && studio_.upToDate() && !studio_.busy());
    write_->setToolTip(ready ? tr("%1-print.pdf, %1-combined.pdf, %1-cut.svg, %1-cut.dxf").arg(baseName()) : tr("There is nothing on the sheet yet"));
}

void HandOffPanel::writeFiles()
{
    const auto shown = studio_.sharedShown();
    if (!shown)
        return;
    const QDir folder(folder_->text());
    const QString base = folder.filePath(baseName());
    const bool print = print_->isChecked(), combined = combined_->isChecked(), svg = svg_->isChecked(), dxf = dxf_->isChecked();
    studio_.background(tr("Writing"), [shown, base, folder, print, combined, svg, dxf](const Work& work) {
        const Drawing drawing = drawSheet(shown->job, shown->derived);
        const std::string spot = shown->job.handOff.spot;
        // All are made before the first is written, so that a failure leaves none half done.
        std::vector<std::pair<QString, Bytes>> files;
        if (print)
            files.emplace_back(base + QStringLiteral("-print.pdf"), writePdf(drawing, {Content::Print, spot}, work));
        if (combined)
            files.emplace_back(base + QStringLiteral("-combined.pdf"), writePdf(drawing, {Content::Both, spot}, work));
        const auto text = [&](const QString& name, const std::string& content) { files.emplace_back(name, Bytes(content.begin(), content.end())); };
        if (svg)
            text(base + QStringLiteral("-cut.svg"), writeSvg(drawing, Content::Cut));
        if (dxf)
            text(base + QStringLiteral("-cut.dxf"), writeDxf(drawing, Content::Cut));
        QStringList names;
        for (const auto& [name, bytes] : files) {
            work.report(0.9, "files");
            writeFile(name.toStdString(), bytes);
            names << QFileInfo(name).fileName();
        }
        return HandOffPanel::tr("Wrote %1 to %2").arg(names.join(QStringLiteral(", ")), folder.absolutePath());
    });
}

} // namespace yokai
