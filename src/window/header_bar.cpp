#include "header_bar.h"

#include "theme/theme.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QPainter>
#include <QPushButton>
#include <QToolButton>

namespace yokai {

HeaderBar::HeaderBar(Studio& studio, QMenu* menu, QWidget* parent) : QWidget(parent), studio_(studio)
{
    setFixedHeight(46);
    const QColor white = theme::colours().onHeader;
    setStyleSheet(QStringLiteral(R"(
QLabel { color: #ffffff; }
QLabel#job-name { font-size: 15px; font-weight: 600; }
QLabel#job-saved { color: #b9bbd3; font-size: 12px; }
QPushButton { background: transparent; color: #ffffff; border: 1px solid #5a5d83; border-radius: 4px; padding: 3px 12px; }
QPushButton:hover { border-color: #b9bbd3; }
QPushButton:focus, QToolButton:focus { border: 1px solid #ff9a76; }
QPushButton#findings { border-radius: 13px; min-height: 18px; }
QPushButton#unit-mm { border-top-right-radius: 0; border-bottom-right-radius: 0; padding: 3px 9px; }
QPushButton#unit-in { border-top-left-radius: 0; border-bottom-left-radius: 0; border-left: none; padding: 3px 9px; }
QPushButton#unit-mm:checked, QPushButton#unit-in:checked { background: #f7f3eb; color: #23264a; }
QPushButton#next { background: #d94a22; border-color: #d94a22; font-weight: 600; padding: 5px 14px; }
QPushButton#next:hover { background: #c23f1a; }
QToolButton { border: 1px solid transparent; padding: 3px; }
QToolButton:hover { border-color: #5a5d83; }
QToolButton::menu-indicator { image: none; }
)"));
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(10, 0, 14, 0);
    layout->setSpacing(8);
    auto* menuButton = new QToolButton(this);
    menuButton->setObjectName("menu");
    menuButton->setIcon(theme::icon(QStringLiteral("menu"), white));
    menuButton->setIconSize({20, 20});
    menuButton->setMenu(menu);
    menuButton->setPopupMode(QToolButton::InstantPopup);
    menuButton->setToolTip(tr("Job: new, open, save"));
    menuButton->setAccessibleName(tr("Job menu"));
    name_ = new QLabel(this);
    name_->setObjectName("job-name");
    saved_ = new QLabel(this);
    saved_->setObjectName("job-saved");
    findings_ = new QPushButton(this);
    findings_->setObjectName("findings");
    mm_ = new QPushButton(QStringLiteral("mm"), this);
    in_ = new QPushButton(QStringLiteral("in"), this);
    mm_->setObjectName("unit-mm");
    in_->setObjectName("unit-in");
    for (QPushButton* b : {mm_, in_}) {
        b->setCheckable(true);
        b->setToolTip(tr("The unit shown; stored lengths do not change"));
    }
    undo_ = new QToolButton(this);
    redo_ = new QToolButton(this);
    undo_->setObjectName("undo");
    redo_->setObjectName("redo");
    undo_->setIcon(theme::icon(QStringLiteral("undo"), white));
    redo_->setIcon(theme::icon(QStringLiteral("redo"), white));
    undo_->setAccessibleName(tr("Undo"));
    redo_->setAccessibleName(tr("Redo"));
    for (QToolButton* b : {undo_, redo_})
        b->setIconSize({20, 20});
    next_ = new QPushButton(this);
    next_->setObjectName("next");
    layout->addWidget(menuButton);
    layout->addWidget(name_);
    layout->addWidget(saved_);
    layout->addStretch(1);
    layout->addWidget(findings_);
    layout->addSpacing(4);
    auto* units = new QHBoxLayout;
    units->setSpacing(0);
    units->addWidget(mm_);
    units->addWidget(in_);
    layout->addLayout(units);
    layout->addWidget(undo_);
    layout->addWidget(redo_);
    layout->addWidget(next_);
    connect(undo_, &QToolButton::clicked, &studio, &Studio::undo);
    connect(redo_, &QToolButton::clicked, &studio, &Studio::redo);
    connect(mm_, &QPushButton::clicked, &studio, [&studio] { studio.setUnit(Unit::Mm); });
    connect(in_, &QPushButton::clicked, &studio, [&studio] { studio.setUnit(Unit::Inch); });
    connect(findings_, &QPushButton::clicked, this, &HeaderBar::findingsWanted);
    connect(next_, &QPushButton::clicked, &studio, [&studio] {
        if (const int next = int(studio.station()) + 1; next < stationCount)
            studio.setStation(Station(next));
    });
    for (const auto signal : {&Studio::jobChanged, &Studio::shownChanged, &Studio::viewChanged})
        connect(&studio, signal, this, &HeaderBar::refresh);
    refresh();
}

void HeaderBar::refresh()
{
    name_->setText(QFontMetrics(theme::font(15, QFont::DemiBold)).elidedText(QString::fromStdString(studio_.job().name), Qt::ElideRight, 260));
    saved_->setText(studio_.job().pieces.empty() && !studio_.modified() ? QString()
                    : studio_.modified()                                ? tr("not saved")
                    : studio_.path().isEmpty()                          ? tr("demo job")
                                                                        : tr("saved"));
    const std::size_t count = studio_.shown() ? studio_.shown()->derived.findings.size() : 0;
    findings_->setVisible(count > 0);
    findings_->setText(count == 1 ? tr("\u25b2 1 finding") : tr("\u25b2 %1 findings").arg(count));
    findings_->setToolTip(tr("Go to what may go wrong"));
    mm_->setChecked(studio_.unit() == Unit::Mm);
    in_->setChecked(studio_.unit() == Unit::Inch);
    undo_->setEnabled(studio_.canUndo());
    redo_->setEnabled(studio_.canRedo());
    undo_->setToolTip(studio_.canUndo() ? tr("Undo: %1").arg(studio_.undoText()) : tr("Nothing to undo"));
    redo_->setToolTip(studio_.canRedo() ? tr("Redo: %1").arg(studio_.redoText()) : tr("Nothing to redo"));
    const int next = int(studio_.station()) + 1;
    next_->setVisible(next < stationCount && !studio_.job().pieces.empty());
    if (next < stationCount)
        next_->setText(tr("Next: %1").arg(title(Station(next))));
}

void HeaderBar::paintEvent(QPaintEvent*)
{
    QPainter p(this);
    p.fillRect(rect(), theme::colours().header);
}

} // namespace yokai
