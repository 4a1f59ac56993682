#include "trail/panels.h"

#include "base/text.h"
#include "formats/format.h"
#include "theme/theme.h"
#include "words.h"

#include <QCheckBox>
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QMessageBox>
#include <QPushButton>
#include <QSettings>
#include <QStandardPaths>
#include <QToolButton>

namespace yokai {

namespace {

// What can be handed off: each a file of its own.
struct Wanted {
    const char* id;
    const char* title;
    const char* tip;
    const char* ending;
    Content content;
    bool atFirst; // ticked
};
constexpr Wanted offered[] = {
    {"hand-print", QT_TRANSLATE_NOOP("HandOff", "Print PDF"), QT_TRANSLATE_NOOP("HandOff", "Picture and marks, no lines; what is not kept stays clear"),
     "-print.pdf", Content::Print, true},
    {"hand-png", QT_TRANSLATE_NOOP("HandOff", "Print PNG"), QT_TRANSLATE_NOOP("HandOff", "The print as pixels, clear where nothing is printed"), "-print.png",
     Content::Print, false},
    {"hand-combined", QT_TRANSLATE_NOOP("HandOff", "Combined PDF"),
     QT_TRANSLATE_NOOP("HandOff", "Picture, marks and cut lines as hairlines in spot colours"), "-combined.pdf", Content::Both, true},
    {"hand-eps", QT_TRANSLATE_NOOP("HandOff", "Combined EPS"), QT_TRANSLATE_NOOP("HandOff", "The same for older programs; pictures are clipped to what is printed of them"),
     "-combined.eps", Content::Both, false},
    {"hand-svg", QT_TRANSLATE_NOOP("HandOff", "Cut SVG"), QT_TRANSLATE_NOOP("HandOff", "Cut lines and marks as curves"), "-cut.svg", Content::Cut, true},
    {"hand-dxf", QT_TRANSLATE_NOOP("HandOff", "Cut DXF"), QT_TRANSLATE_NOOP("HandOff", "Cut lines and marks as polylines within 0.005 mm"), "-cut.dxf",
     Content::Cut, true},
    {"hand-hpgl", QT_TRANSLATE_NOOP("HandOff", "Cut HPGL"), QT_TRANSLATE_NOOP("HandOff", "Cut lines alone, a pen for each kind"), "-cut.plt", Content::Cut, false}};

QString settingOf(const Wanted& wanted) { return QStringLiteral("hand-off/") + QLatin1String(wanted.id); }
QString said(const char* text) { return QCoreApplication::translate("HandOff", text); }

} // namespace

HandOffPanel::HandOffPanel(Desk& desk, QWidget* parent) : RowPanel(desk, parent)
{
    for (const Wanted& w : offered) {
        auto* box = new QCheckBox(said(w.title), this);
        box->setChecked(QSettings().value(settingOf(w), w.atFirst).toBool());
        box->setObjectName(QLatin1String(w.id));
        box->setToolTip(said(w.tip));
        connect(box, &QCheckBox::toggled, this, [this, &w](bool on) {
            QSettings().setValue(settingOf(w), on);
            refresh();
        });
        addWide(box);
        ticks_.push_back(box);
    }
    auto* row = new QWidget(this);
    auto* layout = new QHBoxLayout(row);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(4);
    folder_ = new TextField(row);
    folder_->setObjectName("hand-folder");
    folder_->setAccessibleName(tr("Folder"));
    folder_->setText(QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation));
    folder_->setModified(false);
    auto* browse = new QToolButton(row);
    browse->setIcon(theme::icon(QStringLiteral("folder"), theme::colours().inkSoft));
    browse->setAccessibleName(tr("Choose the folder"));
    layout->addWidget(folder_, 1);
    layout->addWidget(browse);
    auto* label = new QLabel(tr("Folder"), this);
    label->setToolTip(tr("Where the files go"));
    addRow(label, row, nullptr);
    write_ = new QPushButton(this);
    write_->setObjectName("hand-write");
    write_->setProperty("kind", "primary");
    addWide(write_);
    note_ = addNote();
    const Scope<HandOffSpec> handOff = [](Job& job) { return &job.handOff; };
    fold("files", tr("Lines, pixels, the printer's scale"));
    number(on(handOff, &HandOffSpec::hairline).id("hand-hairline").label(tr("Hairline")).tip(tr("How wide cut lines are in files; many machines cut what is 0.0254 mm")).step(0.01));
    number(on(handOff, &HandOffSpec::ppi).id("hand-ppi").label(tr("PNG")).tip(tr("The resolution of the print as pixels")).step(50).suffix(QStringLiteral(" ppi")));
    const QString percent = QStringLiteral(" %");
    number(on(handOff, &HandOffSpec::stretchX)
               .id("hand-stretch-x")
               .label(tr("Prints across"))
               .tip(tr("How wide the printer prints, of what it should be: measure a length on a print. Print files undo it"))
               .step(0.05)
               .suffix(percent));
    number(on(handOff, &HandOffSpec::stretchY)
               .id("hand-stretch-y")
               .label(tr("Prints along"))
               .tip(tr("How long the printer prints, of what it should be. Print files undo it"))
               .step(0.05)
               .suffix(percent));
    endFold();
    fold("spots", tr("Names of the spot colours"));
    for (const LineKind kind : lineKinds) {
        words(by<std::string>([kind](Job& job) { return std::optional<std::string>(job.handOff.spots.of(kind)); },
                              [kind](Job& job, const std::string& to) { job.handOff.spots.of(kind) = cleanText(to); })
                  .id(QStringLiteral("spot-") + QLatin1String(name(kind)))
                  .label(title(kind))
                  .tip(tr("What the shop asks this kind's spot colour to be called")));
    }
    endFold();
    connect(browse, &QToolButton::clicked, this, [this] {
        const QString chosen = QFileDialog::getExistingDirectory(window(), tr("Folder for the files"), folder_->text());
        if (!chosen.isEmpty())
            folder_->setText(chosen);
    });
    connect(write_, &QPushButton::clicked, this, &HandOffPanel::writeFiles);
}

QString HandOffPanel::baseName() const
{
    QString base = QString::fromStdString(desk_.job().name).trimmed().toLower();
    for (QChar& c : base)
        if (!c.isLetterOrNumber())
            c = QLatin1Char('-');
    return base.isEmpty() ? QStringLiteral("sheet") : base;
}

std::vector<QString> HandOffPanel::wanted() const
{
    std::vector<QString> files;
    const QString base = QDir(folder_->text()).filePath(baseName());
    const int sheets = desk_.shown() ? desk_.shown()->derived.sheet.sheets : 1;
    for (int sheet = 0; sheet < sheets; ++sheet)
        for (std::size_t i = 0; i < ticks_.size(); ++i)
            if (ticks_[i]->isChecked()) {
                const std::filesystem::path file = (base + QLatin1String(offered[i].ending)).toStdString();
                files.push_back(QString::fromStdString(fileOfSheet(file, sheet, sheets).string()));
            }
    return files;
}

void HandOffPanel::refreshRest()
{
    const auto files = wanted();
    const Shown* shown = desk_.shown();
    const bool ready = shown && !shown->derived.sheet.placements.empty();
    note_->setText(shown ? refusal(shown->derived, shown->job, desk_.unit()) : QString());
    note_->setVisible(!note_->text().isEmpty());
    write_->setText(tr("Write %n files", nullptr, int(files.size())));
    write_->setEnabled(!files.empty() && ready && note_->text().isEmpty() && desk_.current() && !desk_.busy());
    QStringList names;
    for (const QString& f : files)
        names << QFileInfo(f).fileName();
    write_->setToolTip(ready ? names.join(QStringLiteral(", ")) : tr("There is nothing on the sheet yet"));
}

void HandOffPanel::writeFiles()
{
    if (!desk_.current() || refusal(desk_.shown()->derived.findings))
        return;
    const auto shown = desk_.sharedShown();
    const auto files = wanted();
    QStringList there;
    for (const QString& f : files)
        if (QFileInfo::exists(f))
            there << QFileInfo(f).fileName();
    if (!there.isEmpty()) {
        QMessageBox ask(QMessageBox::Question, tr("Replace files"), tr("%1 is there already.", nullptr, int(there.size())).arg(there.join(QStringLiteral(", "))),
                        QMessageBox::NoButton, window());
        ask.setObjectName("replace-files");
        QPushButton* replace = ask.addButton(tr("Replace"), QMessageBox::AcceptRole);
        ask.setDefaultButton(ask.addButton(tr("Go back"), QMessageBox::RejectRole));
        ask.exec();
        if (ask.clickedButton() != replace)
            return;
    }
    std::vector<std::pair<QString, Content>> wantedFiles; // sheet by sheet
    for (std::size_t k = 0; k < files.size();)
        for (std::size_t i = 0; i < ticks_.size(); ++i)
            if (ticks_[i]->isChecked())
                wantedFiles.emplace_back(files[k++], offered[i].content);
    const QString folder = QDir(folder_->text()).absolutePath();
    desk_.background().start(tr("Writing"), [shown, wantedFiles, folder](const Work& work) {
        const bool images = std::any_of(wantedFiles.begin(), wantedFiles.end(), [](const auto& f) { return f.second != Content::Cut; });
        // All are made before the first is written, so that a failure leaves none half done.
        std::vector<std::pair<QString, Bytes>> made;
        const int sheets = shown->derived.sheet.sheets;
        const std::size_t each = wantedFiles.size() / std::size_t(sheets);
        for (int sheet = 0; sheet < sheets; ++sheet) {
            const Drawing drawing = drawSheet(shown->job, shown->derived, sheet, images ? Content::Both : Content::Cut, work);
            for (std::size_t k = std::size_t(sheet) * each; k < (std::size_t(sheet) + 1) * each; ++k)
                made.emplace_back(wantedFiles[k].first, written(*formatOf(wantedFiles[k].first.toStdString()), drawing, wantedFiles[k].second, work));
        }
        QStringList names;
        for (const auto& [name, bytes] : made) {
            work.report(0.9, "files");
            writeFile(name.toStdString(), bytes);
            names << QFileInfo(name).fileName();
        }
        return HandOffPanel::tr("Wrote %1 to %2").arg(names.join(QStringLiteral(", ")), folder);
    });
}

} // namespace yokai
