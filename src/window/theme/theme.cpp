#include "theme/theme.h"

#include "theme/accessible.h"

#include <QApplication>
#include <QFile>
#include <QFontDatabase>
#include <QFontInfo>
#include <QPainter>
#include <QPalette>
#include <QPixmap>
#include <QRegularExpression>
#include <QStyleFactory>
#include <QSvgRenderer>
#include <QTranslator>
#include <QWidget>

#include <algorithm>
#include <atomic>

namespace yokai::theme {

namespace {

const Colours light = {
    .ink = "#23264a",
    .inkSoft = "#67625c",
    .inkFaint = "#8c857a",
    .paper = "#f7f3eb",
    .panel = "#ffffff",
    .field = "#ffffff",
    .line = "#d6cdbd",
    .surface = "#ddd6c8",
    .hatch = "#cfc8b9",
    .card = "#fbfaf6",
    .contrast = "#7f8fb0",
    .header = "#23264a",
    .onHeader = "#ffffff",
    .headerSoft = "#b9bbd3",
    .accent = "#d94a22",
    .onAccent = "#ffffff",
    .accentSoft = "#f6d9cc",
    .fine = "#3f7a4c",
    .warning = "#a96a00",
    .fault = "#b3261e",
    .tag = "#23264a",
    .onTag = "#ffffff",
    .strip = "#efe8da",
    .link = "#4b2aa8",
};

const Colours dark = {
    .ink = "#ece7dc",
    .inkSoft = "#b5aea3",
    .inkFaint = "#89837b",
    .paper = "#24232c",
    .panel = "#302f3b",
    .field = "#1c1b23",
    .line = "#45434f",
    .surface = "#191820",
    .hatch = "#4a4955",
    .card = "#34333d",
    .contrast = "#5a6a8c",
    .header = "#15151f",
    .onHeader = "#f4efe4",
    .headerSoft = "#a6a5bd",
    .accent = "#c8431d",
    .onAccent = "#ffffff",
    .accentSoft = "#57332a",
    .fine = "#7fc08c",
    .warning = "#e0a437",
    .fault = "#ff8a7d",
    .tag = "#f0eadd",
    .onTag = "#1d1c26",
    .strip = "#1f1e27",
    .link = "#b9a2ff",
};

// The bench is drawn on a thread of its own, which asks for both.
std::atomic<bool> darkNow = false;
std::atomic<int> text = usualText;

QString css(const QColor& c) { return c.name(); }

// Over 60 lines: one text.
QString styleSheet()
{
    const Colours& c = colours();
    QString s = QStringLiteral(R"(
QWidget { color: @ink; font-family: "Inter"; font-size: 13px; }
QToolTip { color: @onTag; background: @tag; border: none; padding: 4px 8px; }
QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; border: none; }
QScrollBar:vertical { background: transparent; width: 8px; margin: 0; }
QScrollBar::handle:vertical { background: @line; border-radius: 3px; min-height: 32px; margin: 0 1px; }
QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page { background: transparent; height: 0; width: 0; }
QScrollBar:horizontal { height: 0; }
QLineEdit { background: @field; border: 1px solid @line; border-radius: 4px; padding: 2px 6px; min-height: 18px; selection-background-color: @ink; selection-color: @paper; }
QLineEdit[tight="true"] { padding: 2px 3px; }
QLineEdit:focus { border: 1px solid @accent; }
QLineEdit[automatic="true"] { color: @inkSoft; font-style: italic; }
QLineEdit[bad="true"] { border: 1px solid @fault; }
QLineEdit:disabled { color: @inkFaint; background: transparent; }
QPushButton { background: @panel; border: 1px solid @line; border-radius: 4px; padding: 4px 10px; min-height: 18px; }
QPushButton:hover { border-color: @inkFaint; }
QPushButton:focus { border-color: @accent; }
QPushButton:pressed { background: @strip; }
QPushButton:disabled { color: @inkFaint; background: transparent; }
QPushButton[kind="primary"] { background: @accent; color: @onAccent; border: 1px solid @accent; font-weight: 600; }
QPushButton[kind="primary"]:hover { background: @accentDeep; }
QPushButton[kind="primary"]:disabled { background: @line; color: @inkFaint; border-color: @line; }
QPushButton[kind="link"] { background: transparent; border: none; color: @link; padding: 2px 0; font-weight: 600; text-align: left; }
QPushButton[kind="link"]:focus { text-decoration: underline; }
QToolButton { background: transparent; border: 1px solid transparent; border-radius: 4px; padding: 2px; }
QToolButton:hover { border-color: @line; }
QToolButton:focus { border-color: @accent; }
QCheckBox { spacing: 8px; }
QCheckBox::indicator { width: 14px; height: 14px; border: 1px solid @inkFaint; border-radius: 3px; background: @field; }
QCheckBox::indicator:checked { background: @ink; border-color: @ink; image: url(@tick); }
QCheckBox::indicator:focus { border-color: @accent; }
QComboBox { background: @field; border: 1px solid @line; border-radius: 4px; padding: 2px 2px 2px 6px; min-height: 18px; }
QComboBox:focus { border-color: @accent; }
QComboBox::drop-down { border: none; width: 16px; }
QComboBox::down-arrow { image: url(@down); width: 10px; height: 10px; }
QComboBox QAbstractItemView { background: @panel; border: 1px solid @line; selection-background-color: @strip; selection-color: @ink; outline: none; }
QMenu { background: @panel; border: 1px solid @line; padding: 4px; }
QMenu::item { padding: 5px 24px 5px 12px; border-radius: 3px; }
QMenu::item:selected { background: @strip; }
QMenu::item:disabled { color: @inkFaint; }
QMenu::separator { height: 1px; background: @line; margin: 4px 8px; }
QListView { background: transparent; border: none; outline: none; }
QLabel { background: transparent; }
QLabel[role="soft"] { color: @inkSoft; font-size: 12px; }
QLabel[role="section"] { color: @inkSoft; font-size: 12px; }
QLabel[role="title"] { font-size: 14px; font-weight: 600; }
QDialog, QMessageBox, QFileDialog { background: @paper; }
)");
    const std::pair<const char*, QString> names[] = {{"@onTag", css(c.onTag)},
                                                     {"@tag", css(c.tag)},
                                                     {"@inkSoft", css(c.inkSoft)},
                                                     {"@inkFaint", css(c.inkFaint)},
                                                     {"@ink", css(c.ink)},
                                                     {"@paper", css(c.paper)},
                                                     {"@panel", css(c.panel)},
                                                     {"@field", css(c.field)},
                                                     {"@line", css(c.line)},
                                                     {"@strip", css(c.strip)},
                                                     {"@onAccent", css(c.onAccent)},
                                                     {"@accentDeep", css(c.accent.darker(112))},
                                                     {"@accent", css(c.accent)},
                                                     {"@fault", css(c.fault)},
                                                     {"@tick", darkNow ? QStringLiteral(":/icons/tick-dark.svg") : QStringLiteral(":/icons/tick.svg")},
                                                     {"@down", darkNow ? QStringLiteral(":/icons/down-dark.svg") : QStringLiteral(":/icons/down.svg")},
                                                     {"@link", css(c.link)}};
    for (const auto& [name, value] : names)
        s.replace(QLatin1String(name), value);
    return scaled(s);
}

void apply()
{
    const Colours& c = colours();
    QPalette p;
    p.setColor(QPalette::Window, c.paper);
    p.setColor(QPalette::WindowText, c.ink);
    p.setColor(QPalette::Base, c.field);
    p.setColor(QPalette::Text, c.ink);
    p.setColor(QPalette::Button, c.panel);
    p.setColor(QPalette::ButtonText, c.ink);
    p.setColor(QPalette::Highlight, c.ink);
    p.setColor(QPalette::HighlightedText, c.paper);
    p.setColor(QPalette::PlaceholderText, c.inkFaint);
    p.setColor(QPalette::ToolTipBase, c.tag);
    p.setColor(QPalette::ToolTipText, c.onTag);
    qApp->setPalette(p);
    qApp->setStyleSheet(styleSheet());
    for (QWidget* w : QApplication::allWidgets())
        w->update();
}

} // namespace

void install(QApplication& app)
{
    // English too has its plurals from a translation; another language lies over it.
    static QTranslator words;
    if (words.load(QStringLiteral(":/words/yokai_en.qm")))
        QApplication::installTranslator(&words);
    for (const char* face : {"Regular", "Medium", "SemiBold", "Bold"})
        QFontDatabase::addApplicationFont(QStringLiteral(":/fonts/Inter-%1.otf").arg(QLatin1String(face)));
    installAccessibility();
    app.setStyle(QStyleFactory::create(QStringLiteral("Fusion")));
    setTextSize(QFontInfo(QFontDatabase::systemFont(QFontDatabase::GeneralFont)).pixelSize());
}

const Colours& colours() { return darkNow ? dark : light; }
bool isDark() { return darkNow; }

void setDark(bool on)
{
    if (darkNow == on)
        return;
    darkNow = on;
    apply();
}

void setTextSize(int size)
{
    text = std::clamp(size, usualText, largestText);
    QApplication::setFont(font(usualText));
    apply();
}

int px(int usual) { return (usual * text + usualText / 2) / usualText; }

QString scaled(const QString& styleSheet)
{
    static const QRegularExpression size(QStringLiteral("\\b(\\d+)px"));
    QString out;
    qsizetype from = 0;
    for (const QRegularExpressionMatch& found : size.globalMatch(styleSheet)) {
        const int usual = found.captured(1).toInt();
        out += styleSheet.mid(from, found.capturedStart() - from) + QStringLiteral("%1px").arg(usual == 1 ? 1 : px(usual)); // hairlines stay
        from = found.capturedEnd();
    }
    return out + styleSheet.mid(from);
}

QFont font(int usualPx, int weight)
{
    QFont f(QStringLiteral("Inter"));
    f.setPixelSize(px(usualPx));
    f.setWeight(QFont::Weight(weight));
    return f;
}

QPixmap pixmap(const QString& name, const QColor& colour, int size, qreal ratio)
{
    QFile file(QStringLiteral(":/icons/%1.svg").arg(name));
    if (!file.open(QIODevice::ReadOnly))
        return {};
    QByteArray svg = file.readAll();
    svg.replace("#000", colour.name().toUtf8());
    QSvgRenderer renderer(svg);
    QPixmap out(QSize(size, size) * ratio);
    out.setDevicePixelRatio(ratio);
    out.fill(Qt::transparent);
    QPainter painter(&out);
    renderer.render(&painter, QRectF(0, 0, size, size));
    return out;
}

QIcon icon(const QString& name, const QColor& colour)
{
    QIcon out;
    for (const qreal ratio : {1.0, 2.0, 3.0})
        out.addPixmap(pixmap(name, colour, px(20), ratio));
    QColor faded = colour;
    faded.setAlphaF(0.35f);
    QPixmap dim = pixmap(name, colour, px(20), 2);
    QPixmap disabled(dim.size());
    disabled.setDevicePixelRatio(2);
    disabled.fill(Qt::transparent);
    QPainter painter(&disabled);
    painter.setOpacity(0.35);
    painter.drawPixmap(0, 0, dim);
    painter.end();
    out.addPixmap(disabled, QIcon::Disabled);
    return out;
}

QColor lineColour(LineKind kind) { return QColor(QLatin1String(facts(kind).colour)); }

QPen linePen(LineKind kind, qreal width)
{
    QPen pen(lineColour(kind), kind == LineKind::Kiss ? width * 0.7 : width);
    pen.setJoinStyle(Qt::RoundJoin);
    pen.setCapStyle(Qt::FlatCap);
    if (kind == LineKind::Perforate)
        pen.setDashPattern({5, 3});
    if (kind == LineKind::Crease)
        pen.setDashPattern({1.2, 2.4});
    return pen;
}

} // namespace yokai::theme
