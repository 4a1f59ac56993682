#include "words.h"

#include <QCoreApplication>
#include <QLocale>

namespace yokai {

namespace {

struct Words {
    Q_DECLARE_TR_FUNCTIONS(Words)
};

QLocale plainLocale()
{
    QLocale locale;
    locale.setNumberOptions(QLocale::OmitGroupSeparator | QLocale::RejectGroupSeparator);
    return locale;
}

// Names that stand in a table of the core, for the translators.
[[maybe_unused]] const char* const titles[] = {QT_TRANSLATE_NOOP("LineKind", "Through"), QT_TRANSLATE_NOOP("LineKind", "Kiss"),
                                               QT_TRANSLATE_NOOP("LineKind", "Perforate"), QT_TRANSLATE_NOOP("LineKind", "Crease")};

} // namespace

QString text(const std::string& utf8) { return QString::fromUtf8(utf8.data(), qsizetype(utf8.size())); }

QString number(double value, int decimals) { return plainLocale().toString(value == 0 ? 0.0 : value, 'f', decimals); }

QString lengthText(double mm, Unit unit)
{
    if (unit == Unit::Inch)
        return number(mm / 25.4, mm < 254 ? 3 : 1) + QStringLiteral(" in");
    return number(mm, mm < 10 ? 2 : 1) + QStringLiteral(" mm");
}

QString exactText(double mm, Unit unit, bool withUnit)
{
    const QString figure = unit == Unit::Mm ? number(mm, 2) : number(mm / 25.4, 4);
    return withUnit ? figure + (unit == Unit::Mm ? QStringLiteral(" mm") : QStringLiteral(" in")) : figure;
}

QString areaText(double mm2, Unit unit)
{
    if (unit == Unit::Inch)
        return number(mm2 / mm2PerInch2, mm2 < 64.5 ? 4 : 2) + QStringLiteral(" in\u00b2");
    QString figure = number(mm2, mm2 < 1 ? 2 : mm2 < 100 ? 1 : 0);
    if (figure.size() > 4 && mm2 >= 100)
        figure.insert(figure.size() - 3, QChar(0x202f));
    return figure + QStringLiteral(" mm\u00b2");
}

QString exactAreaText(double mm2, Unit unit, int decimals)
{
    constexpr int more = 4; // places, for an in2 is some 645 mm2
    return unit == Unit::Inch ? number(mm2 / mm2PerInch2, decimals + more) + QStringLiteral(" in\u00b2") : number(mm2, decimals) + QStringLiteral(" mm\u00b2");
}

QString sizeText(double width, double height, Unit unit) { return exactText(width, unit, false) + QStringLiteral(" \u00d7 ") + exactText(height, unit); }

QString title(LineKind kind) { return QCoreApplication::translate("LineKind", facts(kind).title); }

QString title(FitModel model)
{
    switch (model) {
    case FitModel::Auto:
        return Words::tr("Chosen by itself");
    case FitModel::Rigid:
        return Words::tr("Moves and turns");
    case FitModel::Scaled:
        return Words::tr("Also sizes");
    case FitModel::Affine:
        return Words::tr("Also stretches and skews");
    case FitModel::Projective:
        return Words::tr("Also takes out tilt");
    }
    return {};
}

QString words(const Error& error)
{
    // Looked up as it stands, then filled in: its values are the same in every language.
    QString pattern = QCoreApplication::translate("Error", error.pattern().c_str());
    if (error.values().empty())
        return pattern;
    QString out;
    qsizetype from = 0;
    for (const std::string& value : error.values()) {
        const qsizetype at = pattern.indexOf(QLatin1String("{}"), from);
        if (at < 0)
            break;
        out += pattern.mid(from, at - from) + text(value);
        from = at + 2;
    }
    return out + pattern.mid(from).remove(QLatin1String("{}"));
}

QString words(const Finding& f, const Job& job, Unit unit)
{
    if (f.error)
        return words(*f.error);
    const Piece* piece = find(job, f.piece);
    const LineSpec* line = piece ? find(*piece, f.line) : nullptr;
    const QString name = piece ? text(piece->name) : QString();
    const int count = int(f.value);
    const QString which = Words::tr("The %1 line at %2").arg((line ? title(line->kind) : QString()).toLower(), exactText(f.limit, unit));
    if (f.code == "low-resolution")
        return Words::tr("'%1' has %2 ppi at this size; under %3 it prints soft").arg(name, number(f.value, 0), number(f.limit, 0));
    if (f.code == "line-vanished")
        return Words::tr("%1 leaves nothing of '%2'; use a smaller inward offset").arg(which, name);
    if (f.code == "parts-vanished")
        return Words::tr("%1 leaves nothing of %n parts of '%2'; use a smaller inward offset or drop them", nullptr, count).arg(which, name);
    if (f.code == "parts-split")
        return Words::tr("%1 splits %n parts of '%2'; use a smaller inward offset or join gaps", nullptr, count).arg(which, name);
    if (f.code == "does-not-fit")
        return Words::tr("%1 of %2 copies of '%3' fit on the sheet; use fewer, a smaller gap or a larger sheet").arg(count).arg(int(f.limit)).arg(name);
    return QString::fromUtf8(f.code.data(), qsizetype(f.code.size()));
}

} // namespace yokai
