#include "trail/panels.h"

#include "base/text.h"
#include "desk/printing.h"
#include "formats/pages/test_page.h"
#include "formats/project/spec_text.h"
#include "theme/ask.h"
#include "trail/print_dialog.h"
#include "words.h"

#include <QCheckBox>
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QSettings>
#include <QStandardPaths>

namespace yokai {

namespace {

const Scope<HandOffSpec> handOff = [](Job& job) { return &job.handOff; };

QString wantedKey(const handoff::Deliverable& of) { return QStringLiteral("hand-off/") + QLatin1String(of.id); }
QString said(const char* text) { return QCoreApplication::translate("HandOff", text); }

} // namespace

HandOffPanel::HandOffPanel(Desk& desk, QWidget* parent) : RowPanel(desk, parent)
{
    makeTicks();
    makeWhere();
    makeFiles();
    makePrinter();
    makeProof();
    makeNames();
    makeKept();
}

// A field for what is the maker's own and no job's.
TextField* HandOffPanel::setting(const char* id, const QString& label, const QString& tip, const QString& value, std::function<void(const QString&)> put)
{
    auto* field = new TextField(this);
    field->setObjectName(QLatin1String(id));
    field->setAccessibleName(label);
    field->setToolTip(tip);
    field->setText(value);
    field->setModified(false);
    connect(field, &QLineEdit::editingFinished, this, [this, field, put = std::move(put)] {
        put(field->text().trimmed());
        refresh();
    });
    return field;
}

QWidget* HandOffPanel::withButton(QWidget* field, const char* id, const QString& what, std::function<void()> press)
{
    auto* row = new QWidget(this);
    auto* layout = new QHBoxLayout(row);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(4);
    auto* button = new IconButton(QStringLiteral("folder"), what, what, row);
    button->setObjectName(QLatin1String(id));
    layout->addWidget(field, 1);
    layout->addWidget(button);
    connect(button, &IconButton::clicked, this, std::move(press));
    return row;
}

void HandOffPanel::makeTicks()
{
    for (const handoff::Deliverable& of : handoff::deliverables()) {
        auto* box = new QCheckBox(said(of.title), this);
        box->setChecked(QSettings().value(wantedKey(of), of.atFirst).toBool());
        box->setObjectName(QLatin1String(of.id));
        box->setToolTip(said(of.tip));
        connect(box, &QCheckBox::toggled, this, [this, &of](bool on) {
            QSettings().setValue(wantedKey(of), on);
            refresh();
        });
        addWide(box);
        ticks_.push_back(box);
    }
}

void HandOffPanel::makeWhere()
{
    const auto labelled = [this](const QString& text, const QString& tip, QWidget* control) {
        auto* label = new QLabel(text, this);
        label->setToolTip(tip);
        addRow(label, control, nullptr);
    };
    folder_ = setting("hand-folder", tr("Folder"), tr("Where the files go"), {}, [](const QString&) {});
    propose();
    labelled(tr("Folder"), folder_->toolTip(), withButton(folder_, "hand-folder-choose", tr("Choose the folder"), [this] {
                 const QString chosen = QFileDialog::getExistingDirectory(window(), tr("Folder for the files"), folder_->text());
                 if (!chosen.isEmpty())
                     folder_->setText(chosen);
                 refresh();
             }));
    names_ = setting("hand-names", tr("Names"), tr("What the files are called: {job}, {what}, {sheet} and {date} are filled in"),
                     QSettings().value("hand-off/names", handoff::usualNames()).toString(), [](const QString& text) { QSettings().setValue("hand-off/names", text); });
    labelled(tr("Names"), names_->toolTip(), names_);
    auto* row = new QWidget(this);
    auto* layout = new QHBoxLayout(row);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(8);
    write_ = new QPushButton(row);
    write_->setObjectName("hand-write");
    write_->setProperty("kind", "primary");
    print_ = new QPushButton(tr("Print…"), row);
    print_->setObjectName("hand-print-now");
    print_->setToolTip(tr("Picture and marks, without cut lines, at 100 %"));
    layout->addWidget(write_, 1);
    layout->addWidget(print_);
    addWide(row);
    note_ = addNote();
    connect(write_, &QPushButton::clicked, this, &HandOffPanel::writeFiles);
    connect(print_, &QPushButton::clicked, this, [this] { askAndPrint(desk_, window()); });
}

void HandOffPanel::makeFiles()
{
    fold("files", tr("Lines, curves, pixels"));
    number(on(handOff, &HandOffSpec::hairline).id("hand-hairline").label(tr("Hairline")).tip(tr("How wide cut lines are in files; many machines cut what is 0.0254 mm")).step(0.01));
    list(on(handOff, &HandOffSpec::dxf)
             .id("hand-dxf-curves")
             .label(tr("DXF curves"))
             .tip(tr("What a reader of DXF takes"))
             .of({{DxfCurves::Arcs, tr("Arcs and lines")}, {DxfCurves::R12, tr("Short lines (R12)")}, {DxfCurves::Splines, tr("Splines")}}));
    number(on(handOff, &HandOffSpec::ppi).id("hand-ppi").label(tr("PNG")).tip(tr("The resolution of the print as pixels")).step(50).suffix(QStringLiteral(" ppi")));
    endFold();
}

// The printer's scale is typed as what was measured of the test page's lines.
void HandOffPanel::makePrinter()
{
    fold("printer", tr("The printer's scale"));
    printersLabel_ = new QLabel(tr("Printer"), this);
    printers_ = new ChoiceBox(this);
    printers_->setObjectName("hand-printer");
    printers_->setAccessibleName(tr("Printer"));
    printers_->setToolTip(tr("Each printer's scale is remembered"));
    addRow(printersLabel_, printers_, nullptr);
    connect(printers_, &ChoiceBox::activated, this, [this] { printing::use(desk_, printers_->currentText()); });
    auto* page = new QPushButton(tr("Print a test page…"), this);
    page->setObjectName("hand-test-page");
    addWide(page);
    connect(page, &QPushButton::clicked, this, [this] { askAndPrintTestPage(desk_, window()); });
    testNote_ = addNote();
    const auto measured = [this](double HandOffSpec::*scale, double TestLines::*line) {
        auto spec = by<Length>(
            [scale, line](Job& job) { return std::optional(Length::mm(testLinesOn(job.sheet.width(), job.sheet.height()).*line * job.handOff.*scale / 100)); },
            [scale, line](Job& job, const Length& length) {
                const Limits most = limitsOf(scale);
                job.handOff.*scale = std::clamp(length.mm() / testLinesOn(job.sheet.width(), job.sheet.height()).*line * 100, most.least, most.most);
                printing::measured({job.handOff.stretchX, job.handOff.stretchY});
            });
        spec.limits = {0, 20'000, true};
        return spec;
    };
    number(measured(&HandOffSpec::stretchX, &TestLines::across).id("hand-stretch-x").label(tr("Across")).tip(tr("How long the line across the test page came out")).step(0.1));
    number(measured(&HandOffSpec::stretchY, &TestLines::along).id("hand-stretch-y").label(tr("Along")).tip(tr("How long the line along the test page came out")).step(0.1));
    choice(on(handOff, &HandOffSpec::stretchIn)
               .id("hand-stretch-in")
               .label(tr("Made good"))
               .tip(tr("The print is made as much smaller or larger, or the cut follows it"))
               .of({{StretchIn::Print, tr("In the print")}, {StretchIn::Cut, tr("In the cut")}}));
    for (QWidget* control : std::initializer_list<QWidget*>{printersLabel_, printers_})
        keepShown(control, [] { return !printing::known().isEmpty(); });
    for (QWidget* control : std::initializer_list<QWidget*>{page, testNote_})
        keepShown(control, {});
    endFold();
}

void HandOffPanel::makeProof()
{
    fold("proof", tr("Proof"));
    const auto keep = [this](const QString&) { handoff::setMaker(maker_->text().trimmed(), logo_->text().trimmed()); };
    maker_ = setting("hand-maker", tr("Maker"), tr("Your name, on every proof"), handoff::makerName(), keep);
    logo_ = setting("hand-logo", tr("Logo"), tr("A picture beside your name"), handoff::makerLogo(), keep);
    QWidget* logo = withButton(logo_, "hand-logo-choose", tr("Choose the logo"), [this, keep] {
        const QString chosen = QFileDialog::getOpenFileName(window(), tr("Your logo"), logo_->text(), pictureFiles());
        if (!chosen.isEmpty())
            logo_->setText(chosen);
        keep({});
    });
    auto* makerLabel = new QLabel(tr("Maker"), this);
    auto* logoLabel = new QLabel(tr("Logo"), this);
    addRow(makerLabel, maker_, nullptr);
    addRow(logoLabel, logo, nullptr);
    words(by<std::string>([](Job& job) { return std::optional(job.handOff.material); }, [](Job& job, const std::string& to) { job.handOff.material = cleanText(to); })
              .id("hand-material")
              .label(tr("Material"))
              .tip(tr("What it is made of, as the proof says it")));
    for (QWidget* control : std::initializer_list<QWidget*>{makerLabel, maker_, logoLabel, logo})
        keepShown(control, {});
    endFold();
}

void HandOffPanel::makeNames()
{
    fold("spots", tr("Names of the spot colours"));
    for (const LineKind kind : lineKinds) {
        words(by<std::string>([kind](Job& job) { return std::optional<std::string>(job.handOff.spots.of(kind)); },
                              [kind](Job& job, const std::string& to) { job.handOff.spots.of(kind) = cleanText(to); })
                  .id(QStringLiteral("spot-") + QLatin1String(name(kind)))
                  .label(title(kind))
                  .tip(tr("What the shop asks this kind's spot colour to be called")));
    }
    words(by<std::string>([](Job& job) { return std::optional<std::string>(job.handOff.spots.white); },
                          [](Job& job, const std::string& to) { job.handOff.spots.white = cleanText(to); })
              .id("spot-white")
              .label(tr("White"))
              .tip(tr("What the shop asks the underprint's spot colour to be called")));
    words(by<std::string>([](Job& job) { return std::optional<std::string>(job.handOff.spots.engrave); },
                          [](Job& job, const std::string& to) { job.handOff.spots.engrave = cleanText(to); })
              .id("spot-engrave")
              .label(tr("Engraving"))
              .tip(tr("What the shop asks the spot colour of what is engraved to be called")));
    shelf(
        "kept-spots", tr("Kept names"), [this] { return QStringList{QString::fromStdString(specText(desk_.job().handOff.spots))}; },
        [this](const QString& name, const QStringList& kept) {
            const auto spots = specFromText<SpotNames>(kept.value(0).toStdString());
            if (spots)
                desk_.edit(tr("use %1").arg(name), [&](Job& job) { job.handOff.spots = *spots; });
            return spots.has_value();
        });
    endFold();
}

// All of it under a name, for a shop or a machine: which files, what they are called, and all that is set above but what is the
// printer's or the job's own.
void HandOffPanel::makeKept()
{
    fold("hand-kept", tr("Kept settings"));
    shelf(
        "kept-hand-off", tr("Kept settings"),
        [this] {
            QStringList ticked;
            for (const QCheckBox* box : ticks_)
                if (box->isChecked())
                    ticked << box->objectName();
            return QStringList{QString::fromStdString(specText(desk_.job().handOff)), names_->text(), ticked.join(u' ')};
        },
        [this](const QString& name, const QStringList& kept) {
            const auto spec = specFromText<HandOffSpec>(kept.value(0).toStdString());
            if (!spec)
                return false;
            names_->setText(kept.value(1));
            QSettings().setValue("hand-off/names", names_->text());
            const QStringList ticked = kept.value(2).split(u' ');
            for (QCheckBox* box : ticks_)
                box->setChecked(ticked.contains(box->objectName()));
            desk_.edit(tr("use %1").arg(name), [&](Job& job) {
                HandOffSpec now = *spec;
                now.stretchX = job.handOff.stretchX;
                now.stretchY = job.handOff.stretchY;
                now.stretchIn = job.handOff.stretchIn;
                now.material = job.handOff.material;
                job.handOff = now;
            });
            return true;
        });
    endFold();
}

std::vector<handoff::File> HandOffPanel::wanted() const
{
    std::vector<const handoff::Deliverable*> ticked;
    const auto all = handoff::deliverables();
    for (std::size_t i = 0; i < ticks_.size(); ++i)
        if (ticks_[i]->isChecked())
            ticked.push_back(&all[i]);
    const int sheets = desk_.shown() ? desk_.shown()->derived.sheet.sheets : 1;
    return handoff::filesOf(folder_->text(), names_->text(), QString::fromStdString(desk_.job().name), ticked, sheets,
                            desk_.shown() ? layersOf(desk_.shown()->job, desk_.shown()->derived) : std::vector<DrawnLayer>());
}

// The job's folder; of one that is not saved the last picture's; else one that is made for it.
void HandOffPanel::propose()
{
    const QString pictures = QSettings().value("pictures").toString();
    const QString now = !desk_.path().isEmpty()                                ? QFileInfo(desk_.path()).absolutePath()
                        : !pictures.isEmpty() && QFileInfo(pictures).isWritable() ? pictures
                                                                               : QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation);
    if (folder_->text() == proposed_)
        folder_->setText(now);
    proposed_ = now;
}

void HandOffPanel::refreshRest()
{
    propose();
    const auto files = wanted();
    const Shown* shown = desk_.shown();
    const bool ready = shown && !shown->derived.sheet.placements.empty();
    note_->setText(shown ? refusal(shown->derived, shown->job, desk_.unit()) : QString());
    note_->setVisible(!note_->text().isEmpty());
    write_->setText(tr("Write %n files", nullptr, int(files.size())));
    write_->setEnabled(!files.empty() && ready && note_->text().isEmpty() && desk_.current() && !desk_.busy());
    print_->setEnabled(printing::mayPrint(desk_));
    QStringList names;
    for (const handoff::File& f : files)
        names << QFileInfo(f.path).fileName();
    write_->setToolTip(ready ? names.join(QStringLiteral(", ")) : tr("There is nothing on the sheet yet"));
    const QStringList printers = printing::known();
    if (printers_->count() != printers.size()) {
        printers_->clear();
        printers_->addItems(printers);
    }
    printers_->setCurrentText(printing::last());
    const SheetSpec& sheet = desk_.job().sheet;
    const TestLines lines = testLinesOn(sheet.width(), sheet.height());
    testNote_->setText(tr("Its lines are %1 across and %2 along; type what you measure.").arg(exactText(lines.across, desk_.unit()), exactText(lines.along, desk_.unit())));
}

void HandOffPanel::writeFiles()
{
    if (!desk_.current() || refusal(desk_.shown()->derived.findings))
        return;
    const auto files = wanted();
    QStringList there;
    for (const handoff::File& f : files)
        if (QFileInfo::exists(f.path))
            there << QFileInfo(f.path).fileName();
    if (!there.isEmpty()) {
        enum Answer { Replace, Back };
        const QString text = tr("%1 is there already.", nullptr, int(there.size())).arg(there.join(QStringLiteral(", ")));
        if (theme::ask(window(), "replace-files", tr("Replace files"), text, {tr("Replace"), tr("Go back")}, Back, Back) != Replace)
            return;
    }
    const QString folder = QDir(folder_->text()).absolutePath();
    if (folder_->text() == proposed_)
        QDir().mkpath(folder); // where that cannot be, writing says so
    desk_.background().start(tr("Writing"), [shown = desk_.sharedShown(), files, folder, unit = desk_.unit()](const Work& work) {
        handoff::write(*shown, files, unit, work);
        QStringList names;
        for (const handoff::File& f : files)
            names << QFileInfo(f.path).fileName();
        return HandOffPanel::tr("Wrote %1 to %2").arg(names.join(QStringLiteral(", ")), folder);
    });
}

} // namespace yokai
