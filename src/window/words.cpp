#include "words.h"

#include "check/words.h"

#include <QCoreApplication>
#include <QLocale>
#include <QSettings>

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

QString refusal(const Derived& derived, const Job& job, Unit unit)
{
    const Finding* outside = refusal(derived.findings);
    return outside ? QCoreApplication::translate("Finding", "%1. Until then nothing is printed or cut.").arg(words(*outside, job, unit)) : QString();
}

QString pictureFiles()
{
    return QObject::tr("Pictures") + QStringLiteral(" (*.png *.jpg *.jpeg *.tif *.tiff *.webp *.heic *.heif *.avif *.bmp *.gif *.svg *.pdf *.eps *.dxf)");
}

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

QString unitsText(double unitsAnInch)
{
    return unitsAnInch == 1      ? QObject::tr("1 in")
           : unitsAnInch == 25.4 ? QObject::tr("1 mm")
                                 : QObject::tr("1/%1 in").arg(number(unitsAnInch, 0));
}

QString sizeText(double width, double height, Unit unit) { return exactText(width, unit, false) + QStringLiteral(" \u00d7 ") + exactText(height, unit); }

namespace {
bool& aMinute()
{
    static bool said = QSettings().value(QStringLiteral("speeds-a-minute"), false).toBool();
    return said;
}
} // namespace

SpeedUnit speedUnit(Unit unit)
{
    return aMinute() ? (unit == Unit::Inch ? SpeedUnit::InchPerMinute : SpeedUnit::MmPerMinute) : unit == Unit::Inch ? SpeedUnit::InchPerSecond : SpeedUnit::MmPerSecond;
}

QString speedText(Speed speed, Unit unit)
{
    const SpeedUnit in = speedUnit(unit);
    const double value = speed.in(in);
    const int decimals = std::abs(value - std::round(value)) < 1e-9 ? 0 : value < 10 ? 2 : 1;
    return number(value, decimals) + QLatin1Char(' ') + QString::fromUtf8(name(in));
}

void noteSpeedUnit(const QString& typed)
{
    const bool minute = typed.contains(QLatin1String("/min"));
    if (minute == aMinute() || !typed.contains(QLatin1Char('/')))
        return;
    aMinute() = minute;
    QSettings().setValue(QStringLiteral("speeds-a-minute"), minute);
}

QString timeText(double seconds)
{
    const int s = int(std::lround(seconds));
    if (s < 60)
        return QCoreApplication::translate("Words", "%1 s").arg(s);
    if (s < 3600)
        return QCoreApplication::translate("Words", "%1 min %2 s").arg(s / 60).arg(s % 60, 2, 10, QLatin1Char('0'));
    return QCoreApplication::translate("Words", "%1 h %2 min").arg(s / 3600).arg(s % 3600 / 60, 2, 10, QLatin1Char('0'));
}

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

QString figureText(double value, Measure measure, Unit unit)
{
    switch (measure) {
    case Measure::Nothing:
        return {};
    case Measure::Length:
        return exactText(value, unit);
    case Measure::Area:
        return areaText(value, unit);
    case Measure::Ppi:
        return Words::tr("%1 ppi").arg(number(value, 0));
    case Measure::Count:
        return number(value, 0);
    case Measure::Parts:
        return Words::tr("%n parts", nullptr, int(value));
    }
    return {};
}

QString title(const Finding& f) { return QCoreApplication::translate("Finding", wordsOf(f.code).title); }

QString figures(const Finding& f, Unit unit)
{
    const FindingWords& said = wordsOf(f.code);
    if (said.atNothing && f.value == 0)
        return Words::tr("sharp");
    const QString value = figureText(f.value, said.value, unit), limit = figureText(f.limit, said.limit, unit);
    if (value.isEmpty() || limit.isEmpty() || said.value != said.limit)
        return value;
    // One unit for both.
    const qsizetype cut = value.lastIndexOf(QLatin1Char(' '));
    return Words::tr("%1 of %2").arg(cut > 0 ? value.left(cut) : value, limit);
}

QString words(const Finding& f, const Job& job, Unit unit)
{
    if (f.error)
        return words(*f.error);
    const Piece* piece = find(job, f.piece);
    const LineSpec* line = piece ? find(*piece, f.line) : nullptr;
    const FindingWords& said = wordsOf(f.code);
    QString out;
    eachPart(
        QCoreApplication::translate("Finding", said.said(f.value)).toStdString(), [&](std::string_view part) { out += text(std::string(part)); },
        [&](std::string_view name) {
            out += name == "piece"   ? (piece ? text(piece->name) : QString())
                   : name == "line"  ? (line ? title(line->kind) : QString()).toLower()
                   : name == "value" ? figureText(f.value, said.value, unit)
                                     : figureText(f.limit, said.limit, unit);
        });
    return out.left(1).toUpper() + out.mid(1);
}

} // namespace yokai
