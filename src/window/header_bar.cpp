#include "header_bar.h"

#include "base/text.h"
#include "theme/number_field.h"
#include "theme/theme.h"
#include "words.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPainter>
#include <QPushButton>
#include <QToolButton>

namespace yokai {

// Over 60 lines: its widgets from left to right, one after another.
HeaderBar::HeaderBar(Desk& desk, QMenu* menu, QWidget* parent) : QWidget(parent), desk_(desk)
{
    setFixedHeight(theme::px(46));
    const QColor white = theme::colours().onHeader;
    setStyleSheet(theme::scaled(QStringLiteral(R"(
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
QLineEdit#job-new-name { font-size: 15px; font-weight: 600; padding: 2px 6px; }
QToolButton { border: 1px solid transparent; padding: 3px; }
QToolButton:hover { border-color: #5a5d83; }
QToolButton::menu-indicator { image: none; }
)")));
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(10, 0, 14, 0);
    layout->setSpacing(8);
    auto* menuButton = new QToolButton(this);
    menuButton->setObjectName("menu");
    menuButton->setIcon(theme::icon(QStringLiteral("menu"), white));
    menuButton->setIconSize({theme::px(20), theme::px(20)});
    menuButton->setMenu(menu);
    menuButton->setPopupMode(QToolButton::InstantPopup);
    menuButton->setToolTip(tr("Job: new, open, save"));
    menuButton->setAccessibleName(tr("Job menu"));
    name_ = new QLabel(this);
    name_->setObjectName("job-name");
    name_->setToolTip(tr("Press to rename the job"));
    name_->installEventFilter(this);
    newName_ = new TextField(this);
    newName_->setObjectName("job-new-name");
    newName_->setAccessibleName(tr("The job's name"));
    newName_->setFixedWidth(theme::px(260));
    newName_->installEventFilter(this);
    newName_->hide();
    connect(newName_, &QLineEdit::editingFinished, this, [this] { endRenaming(true); });
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
        b->setIconSize({theme::px(20), theme::px(20)});
    next_ = new QPushButton(this);
    next_->setObjectName("next");
    layout->addWidget(menuButton);
    layout->addWidget(name_);
    layout->addWidget(newName_);
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
    connect(undo_, &QToolButton::clicked, &desk, &Desk::undo);
    connect(redo_, &QToolButton::clicked, &desk, &Desk::redo);
    connect(mm_, &QPushButton::clicked, &desk, [&desk] { desk.setUnit(Unit::Mm); });
    connect(in_, &QPushButton::clicked, &desk, [&desk] { desk.setUnit(Unit::Inch); });
    connect(findings_, &QPushButton::clicked, this, &HeaderBar::findingsWanted);
    connect(next_, &QPushButton::clicked, &desk, [&desk] {
        if (const int next = int(desk.station()) + 1; next < stationCount)
            desk.setStation(Station(next));
    });
    for (const auto signal : {&Desk::jobChanged, &Desk::shownChanged, &Desk::viewChanged})
        connect(&desk, signal, this, &HeaderBar::refresh);
    refresh();
}

void HeaderBar::rename()
{
    newName_->setText(text(desk_.job().name));
    name_->hide();
    newName_->show();
    newName_->selectAll();
    newName_->setFocus();
}

void HeaderBar::endRenaming(bool take)
{
    if (newName_->isHidden())
        return;
    newName_->hide();
    name_->show();
    const std::string name = cleanText(newName_->text().trimmed().toStdString());
    if (take && !name.empty())
        desk_.edit(tr("rename the job"), [&](Job& job) { job.name = name; });
}

bool HeaderBar::eventFilter(QObject* watched, QEvent* event)
{
    if (watched == name_ && event->type() == QEvent::MouseButtonPress)
        rename();
    if (watched == newName_ && event->type() == QEvent::KeyPress && static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape) {
        endRenaming(false);
        return true;
    }
    return QWidget::eventFilter(watched, event);
}

void HeaderBar::refresh()
{
    name_->setText(QFontMetrics(theme::font(15, QFont::DemiBold)).elidedText(QString::fromStdString(desk_.job().name), Qt::ElideRight, theme::px(260)));
    saved_->setText(desk_.modified() ? tr("not saved") : desk_.path().isEmpty() ? QString() : tr("saved"));
    const std::size_t count = desk_.shown() ? desk_.shown()->derived.findings.size() : 0;
    findings_->setVisible(count > 0);
    findings_->setText(tr("\u25b2 %n findings", nullptr, int(count)));
    findings_->setToolTip(tr("Go to what may go wrong"));
    mm_->setChecked(desk_.unit() == Unit::Mm);
    in_->setChecked(desk_.unit() == Unit::Inch);
    undo_->setEnabled(desk_.history().canUndo());
    redo_->setEnabled(desk_.history().canRedo());
    undo_->setToolTip(desk_.history().canUndo() ? tr("Undo: %1").arg(desk_.history().undoText()) : tr("Nothing to undo"));
    redo_->setToolTip(desk_.history().canRedo() ? tr("Redo: %1").arg(desk_.history().redoText()) : tr("Nothing to redo"));
    const int next = int(desk_.station()) + 1;
    next_->setVisible(next < stationCount && !desk_.job().pieces.empty());
    if (next < stationCount)
        next_->setText(tr("Next: %1").arg(title(Station(next))));
}

void HeaderBar::paintEvent(QPaintEvent*)
{
    QPainter p(this);
    p.fillRect(rect(), theme::colours().header);
}

} // namespace yokai
