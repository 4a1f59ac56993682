#include "desk/hand_off.h"

#include "formats/format.h"
#include "formats/pages/proof.h"

#include <QCoreApplication>
#include <QDate>
#include <QDir>
#include <QLocale>
#include <QSettings>

#include <algorithm>

namespace yokai::handoff {

std::span<const Deliverable> deliverables()
{
    static constexpr Deliverable all[] = {
        {"hand-print", QT_TRANSLATE_NOOP("HandOff", "Print PDF"), QT_TRANSLATE_NOOP("HandOff", "Picture and marks, no lines; what is not kept stays clear. A page a sheet"), "print",
         ".pdf", Content::Print, true, true},
        {"hand-png", QT_TRANSLATE_NOOP("HandOff", "Print PNG"), QT_TRANSLATE_NOOP("HandOff", "The print as pixels, clear where nothing is printed"), "print", ".png",
         Content::Print, false, false},
        {"hand-combined", QT_TRANSLATE_NOOP("HandOff", "Combined PDF"),
         QT_TRANSLATE_NOOP("HandOff", "Picture, marks and cut lines as hairlines in spot colours. A page a sheet"), "combined", ".pdf", Content::Both, true, true},
        {"hand-eps", QT_TRANSLATE_NOOP("HandOff", "Combined EPS"), QT_TRANSLATE_NOOP("HandOff", "The same for older programs; pictures are clipped to what is printed of them"),
         "combined", ".eps", Content::Both, false, false},
        {"hand-combined-svg", QT_TRANSLATE_NOOP("HandOff", "Combined SVG"), QT_TRANSLATE_NOOP("HandOff", "Picture, marks and cut lines, a layer each"), "combined", ".svg",
         Content::Both, false, false},
        {"hand-svg", QT_TRANSLATE_NOOP("HandOff", "Cut SVG"), QT_TRANSLATE_NOOP("HandOff", "Cut lines and marks as curves, without the picture"), "cut", ".svg", Content::Cut, true,
         false},
        {"hand-dxf", QT_TRANSLATE_NOOP("HandOff", "Cut DXF"), QT_TRANSLATE_NOOP("HandOff", "Cut lines and marks, a layer a kind"), "cut", ".dxf", Content::Cut, true, false},
        {"hand-hpgl", QT_TRANSLATE_NOOP("HandOff", "Cut HPGL"), QT_TRANSLATE_NOOP("HandOff", "Cut lines alone, a pen for each kind"), "cut", ".plt", Content::Cut, false, false},
        {"hand-proof", QT_TRANSLATE_NOOP("HandOff", "Proof PDF"), QT_TRANSLATE_NOOP("HandOff", "For the customer's yes: each piece with its lines, sizes and copies"), "proof",
         ".pdf", std::nullopt, false, true}};
    return all;
}

QString usualNames() { return QStringLiteral("{job}-{what}"); }

QString nameOf(const QString& pattern, const QString& job, const Deliverable& of, int sheet, int sheets, const QString& layer)
{
    QString name = pattern.trimmed().isEmpty() ? usualNames() : pattern.trimmed();
    const bool numbered = name.contains(QLatin1String("{sheet}"));
    QString plain = job.trimmed().toLower();
    for (QChar& c : plain)
        if (!c.isLetterOrNumber())
            c = QLatin1Char('-');
    name.replace(QLatin1String("{sheet}"), sheet < 0 ? QString() : QString::number(sheet + 1));
    const QString what = QLatin1String(of.what) + (layer.isEmpty() ? QString() : QLatin1Char('-') + layer);
    if (!layer.isEmpty() && !name.contains(QLatin1String("{what}")))
        name += QLatin1Char('-') + layer; // else all would be one file
    name.replace(QLatin1String("{what}"), what);
    name.replace(QLatin1String("{date}"), QDate::currentDate().toString(Qt::ISODate));
    name.replace(QLatin1String("{job}"), plain.isEmpty() ? QStringLiteral("sheet") : plain);
    name.removeIf([](QChar c) { return c == u'/' || c == u'\\' || c == u':' || !c.isPrint(); });
    while (name.startsWith(u'.'))
        name.remove(0, 1);
    while (name.endsWith(u'-') || name.endsWith(u' '))
        name.chop(1);
    constexpr int most = 200; // of the 255 bytes a name may have
    name.truncate(most);
    while (name.toUtf8().size() > most)
        name.chop(1);
    const QString file = (name.isEmpty() ? QStringLiteral("sheet") : name) + QLatin1String(of.ending);
    return numbered || sheet < 0 ? file : QString::fromStdString(fileOfSheet(file.toStdString(), sheet, sheets).string());
}

std::vector<File> filesOf(const QString& folder, const QString& pattern, const QString& job, const std::vector<const Deliverable*>& wanted, int sheets,
                          const std::vector<DrawnLayer>& layers)
{
    std::vector<File> out;
    const auto add = [&](const Deliverable& of, int sheet, int layer) {
        const QString label = layer < 0 ? QString() : QString::fromStdString(labelOf(layers, std::size_t(layer)));
        const QString path = QDir(folder).filePath(nameOf(pattern, job, of, sheet, sheets, label));
        // Two that a pattern calls alike are told apart by what they are.
        const bool taken = std::any_of(out.begin(), out.end(), [&](const File& f) { return f.path == path; });
        out.push_back({taken ? QDir(folder).filePath(nameOf(pattern + QStringLiteral("-{what}"), job, of, sheet, sheets, label)) : path, &of, sheet, layer});
    };
    for (const Deliverable* of : wanted)
        for (int sheet = of->pages ? -1 : 0; sheet < (of->pages ? 0 : sheets); ++sheet)
            if (of->content == Content::Cut && layers.size() > 1)
                for (int layer = 0; layer < int(layers.size()); ++layer)
                    add(*of, sheet, layer);
            else
                add(*of, sheet, -1);
    return out;
}

QString makerName() { return QSettings().value(QStringLiteral("maker/name")).toString(); }
QString makerLogo() { return QSettings().value(QStringLiteral("maker/logo")).toString(); }
void setMaker(const QString& name, const QString& logo)
{
    QSettings().setValue(QStringLiteral("maker/name"), name);
    QSettings().setValue(QStringLiteral("maker/logo"), logo);
}

namespace {

ProofFacts proofFacts(Unit unit)
{
    ProofFacts facts;
    facts.maker.name = makerName().toStdString();
    if (const QString logo = makerLogo(); !logo.isEmpty())
        facts.maker.logo = openPicture(logo.toStdString());
    facts.date = QLocale().toString(QDate::currentDate(), QLocale::LongFormat).toStdString();
    facts.unit = unit;
    facts.say = [](const char* words) { return QCoreApplication::translate("Proof", words).toStdString(); };
    return facts;
}

} // namespace

void write(const Shown& shown, const std::vector<File>& files, Unit unit, const Work& work)
{
    if (shown.derived.isBlank() && std::any_of(files.begin(), files.end(), [](const File& f) { return f.of->content == Content::Print; }))
        throw Error(ErrorKind::Usage, "nothing of this job is printed, so its print file would be blank; leave it out");
    const bool images = std::any_of(files.begin(), files.end(), [](const File& f) { return f.of->content && *f.of->content != Content::Cut; });
    const bool drawn = std::any_of(files.begin(), files.end(), [](const File& f) { return f.of->content.has_value(); });
    const std::vector<Drawing> sheets = drawn ? drawSheets(shown.job, shown.derived, images ? Content::Both : Content::Cut, work) : std::vector<Drawing>();
    std::vector<Bytes> made;
    for (const File& file : files) {
        work.report(double(made.size()) / double(files.size()), "files");
        if (!file.of->content)
            made.push_back(writeProof(shown.job, shown.derived, proofFacts(unit), Work{work.stop, {}}));
        else if (const Format& format = *formatOf(file.path.toStdString()); file.sheet < 0)
            made.push_back(writtenAsPages(format, sheets, *file.of->content, Work{work.stop, {}}));
        else if (const Drawing& sheet = sheets[std::size_t(file.sheet)]; file.layer >= 0)
            made.push_back(written(format, ofLayer(sheet, sheet.layers[std::size_t(file.layer)]), *file.of->content, Work{work.stop, {}}));
        else
            made.push_back(written(format, sheets[std::size_t(file.sheet)], *file.of->content, Work{work.stop, {}}));
    }
    for (std::size_t k = 0; k < files.size(); ++k)
        writeFile(files[k].path.toStdString(), made[k]);
}

} // namespace yokai::handoff
