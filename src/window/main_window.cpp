#include "main_window.h"

#include "application.h"
#include "bench/bench.h"
#include "bench/chips.h"
#include "desk/findings.h"
#include "desk/machining.h"
#include "desk/operation_edits.h"
#include "desk/recent_jobs.h"
#include "formats/machine/own_files.h"
#include "header_bar.h"
#include "notice.h"
#include "side/side_list.h"
#include "status_strip.h"
#include "theme/ask.h"
#include "theme/theme.h"
#include "trail/print_dialog.h"
#include "trail/scan_dialog.h"
#include "trail/trail.h"
#include "words.h"

#include <QApplication>
#include <QClipboard>
#include <QCloseEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QMenu>
#include <QMimeData>
#include <QPainter>
#include <QProxyStyle>
#include <QPushButton>
#include <QScreen>
#include <QSettings>
#include <QTimer>
#include <QVBoxLayout>
#include <QElapsedTimer>

namespace yokai {

namespace {
// A menu of pictures.
class LargeIcons : public QProxyStyle {
public:
    int pixelMetric(PixelMetric metric, const QStyleOption* option, const QWidget* widget) const override
    {
        constexpr int side = 40;
        return metric == PM_SmallIconSize ? theme::px(side) : QProxyStyle::pixelMetric(metric, option, widget);
    }
};
} // namespace

MainWindow::MainWindow(QWidget* parent) : QWidget(parent), desk_(std::make_unique<Desk>()), menu_(new QMenu(this))
{
    setObjectName("main-window");
    setAcceptDrops(true);
    // The lists beside the bench, and some of it. A screen of 1920 x 1080 at 200 %, less frame and
    // taskbar, holds it; one of 1280 x 800 holds it at the largest text.
    constexpr int lists = 520, leastBench = 380, leastHeight = 480;
    setMinimumSize(theme::px(lists) + leastBench, leastHeight);
    resize(QSize(1280, 800).boundedTo(screen()->availableSize()));
    qRegisterMetaType<Picture>();
    files_ = std::make_unique<Files>(*desk_, [this](const Files::GoOn& goOn) { beforeLeaving(goOn); });
    recovery_ = std::make_unique<Recovery>(*desk_);
    newer_ = std::make_unique<NewerPictures>(*desk_);
    connect(files_.get(), &Files::pictureOpened, newer_.get(), &NewerPictures::cameFrom);
    connect(newer_.get(), &NewerPictures::offered, this, [this](const QString& name, const Picture& old, const Picture& newer) {
        notice_->offer(tr("'%1' was written anew.").arg(name), tr("Take the newer one"), [this, old, newer] { newer_->take(old, newer); }, [this, old] { return newer_->isUsed(old); });
    });
    commands_ = std::make_unique<Commands>(commandTable(), *menu_, *this);
    makeRecent();
    makeMachines();
    auto* header = header_ = new HeaderBar(*desk_, menu_, this);
    auto* chips = new Chips(*desk_, this);
    auto* strip = new StatusStrip(*desk_, this);
    trail_ = new Trail(*desk_, this);
    bench_ = new Bench(*desk_, this);
    notice_ = new Notice(bench_);
    layOut(header, chips, new SideList(*desk_, this), strip);

    connect(chips, &Chips::addWanted, this, &MainWindow::choosePictures);
    connect(bench_, &Bench::picturesWanted, this, &MainWindow::choosePictures);
    connect(bench_, &Bench::pointed, strip, &StatusStrip::showPointer);
    connect(bench_, &Bench::zoomed, strip, &StatusStrip::showZoom);
    connect(desk_.get(), &Desk::said, this, [this](const QString& text, int severity) { notice_->say(text, Severity(severity)); });
    if (auto* app = qobject_cast<Application*>(qApp))
        connect(app, &Application::failed, this, [this](const QString& text) { notice_->say(text, Severity::Error); });
    connect(desk_.get(), &Desk::jobChanged, this, [this] {
        setWindowTitle(QString::fromStdString(desk_->job().name) + QStringLiteral("[*] \u2014 Yokai"));
        setWindowModified(desk_->modified());
        commands_->refresh();
    });
    connect(&desk_->machining(), &Machining::changed, this, [this] { commands_->refresh(); }); // whether there is anything to hold or stop
    connect(header, &HeaderBar::findingsWanted, this, &MainWindow::showFirstFinding);
    commands_->refresh();
    bench_->setFocus();
    setWindowTitle(QStringLiteral("Yokai"));
    theme::setDark(QSettings().value("dark", false).toBool());
}

// All in the window looks at the desk, while it goes too: it goes first.
MainWindow::~MainWindow()
{
    hide(); // what has the focus loses it now
    qDeleteAll(findChildren<QWidget*>(QString(), Qt::FindDirectChildrenOnly));
}

void MainWindow::layOut(QWidget* header, QWidget* chips, QWidget* side, QWidget* strip)
{
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(0);
    layout->addWidget(header);
    auto* middle = new QHBoxLayout;
    middle->setSpacing(0);
    middle->addWidget(trail_);
    auto* centre = new QVBoxLayout;
    centre->setSpacing(0);
    centre->addWidget(chips);
    centre->addWidget(bench_, 1);
    middle->addLayout(centre, 1);
    middle->addWidget(side);
    layout->addLayout(middle, 1);
    layout->addWidget(strip);
}

void MainWindow::makeRecent()
{
    auto* recent = new QMenu(tr("Open a recent job"), menu_);
    recent->setObjectName("recent-jobs");
    auto* style = new LargeIcons;
    style->setParent(recent);
    recent->setStyle(style);
    menu_->insertMenu(commands_->action("add-pictures"), recent);
    const auto fill = [this, recent] {
        recent->clear();
        for (const RecentJob& job : recentJobs())
            recent->addAction(QIcon(QPixmap::fromImage(job.picture)), job.name + QStringLiteral("\t") + QFileInfo(job.path).fileName(), this, [this, path = job.path] { files_->open({path}); })
                ->setToolTip(job.path);
        recent->menuAction()->setEnabled(!recent->isEmpty());
    };
    connect(menu_, &QMenu::aboutToShow, recent, fill);
    // Once it is seen as it was read or saved.
    const auto note = [this, noted = Revision{}]() mutable {
        if (desk_->modified() || desk_->path().isEmpty() || !desk_->upToDate() || std::exchange(noted, desk_->revision()) == desk_->revision())
            return;
        noteRecent({desk_->path(), text(desk_->job().name), together(desk_->shown()->pictures)});
    };
    connect(desk_.get(), &Desk::shownChanged, this, note);
    connect(desk_.get(), &Desk::jobChanged, this, note);
}

// What new jobs are cut on.
void MainWindow::makeMachines()
{
    machines_ = new QMenu(tr("Machine for new jobs"), menu_);
    machines_->setObjectName("usual-machine");
    menu_->insertMenu(commands_->action("dark"), machines_);
    connect(machines_, &QMenu::aboutToShow, this, [this] {
        machines_->clear();
        const auto usual = edits::usualMachine();
        const auto add = [&](const QString& title, const QString& name) {
            QAction* action = machines_->addAction(title, this, [this, name] {
                const bool first = !edits::isMachineKnown();
                edits::noteMachine(name);
                // The first question is asked of what is being done: its answer is the open job's, too.
                if (first || (desk_->job().pieces.empty() && !desk_->modified())) {
                    QString doubt;
                    desk_->edit(tr("choose the machine"), [&](Job& job) { doubt = edits::putMachine(job, edits::usualMachine()); });
                    if (!doubt.isEmpty())
                        desk_->say(doubt, Severity::Warning);
                }
            });
            action->setCheckable(true);
            action->setChecked(usual ? text(usual->name) == name : name.isEmpty());
        };
        add(tr("None: files only"), {});
        for (const Machine& m : openShelf(ownFolder()).machines)
            add(text(m.name), text(m.name));
    });
}

void MainWindow::offerMachine()
{
    if (!edits::isMachineKnown())
        notice_->offer(
            tr("What do you cut with? It can be changed at any time under Cut."), tr("Choose the machine"), [this] { machines_->popup(bench_->mapToGlobal(bench_->rect().center())); },
            [] { return !edits::isMachineKnown(); });
}

void MainWindow::showFirstFinding()
{
    if (!desk_->shown() || desk_->shown()->derived.findings.empty())
        return;
    const Finding& f = desk_->shown()->derived.findings.front();
    for (std::size_t i = 0; i < desk_->job().pieces.size(); ++i)
        if (desk_->job().pieces[i].id == f.piece)
            desk_->setPiece(int(i));
    desk_->setStation(mendedAt(f));
    desk_->select(FindingSelected{f});
}

std::vector<Command> MainWindow::commandTable()
{
    const auto any = [this] { return !desk_->job().pieces.empty(); };
    std::vector<Command> table = {
        {"new", tr("New job"), {QKeySequence::New}, [this] { files_->newJob(); }, {}},
        {"open", tr("Open a job\u2026"), {QKeySequence::Open}, [this] { openJob(); }, {}},
        {"add-pictures", tr("Add pictures\u2026"), {Qt::CTRL | Qt::Key_I}, [this] { choosePictures(); }, {}},
        {"scan", tr("Scan\u2026"), {}, [this] { (new ScanDialog(*desk_, *files_, this))->open(); }, {}},
        {"paste",
         tr("Paste a picture"),
         {QKeySequence::Paste},
         [this] {
             if (!files_->open(*QApplication::clipboard()->mimeData()))
                 desk_->say(tr("There is no picture on the clipboard; copy one first."), Severity::Warning);
         },
         {},
         true,
         true},
        {"rename", tr("Rename the job"), {Qt::Key_F2}, [this] { header_->rename(); }, {}},
        {"save", tr("Save"), {QKeySequence::Save}, [this] { saveJob(); }, {}},
        {"save-as", tr("Save as\u2026"), {Qt::CTRL | Qt::SHIFT | Qt::Key_S}, [this] { saveJobAs(); }, {}},
        {"print", tr("Print\u2026"), {QKeySequence::Print},
         [this] {
             desk_->setStation(Station::HandOff); // where it is said why not, or what is still to come
             askAndPrint(*desk_, this);
         },
         [this] { return !desk_->job().pieces.empty(); }, true, true},
        {"undo", tr("Undo"), {Qt::CTRL | Qt::Key_Z}, [this] { desk_->undo(); }, [this] { return desk_->history().canUndo() || desk_->trying(); }},
        {"redo",
         tr("Redo"),
         {Qt::CTRL | Qt::SHIFT | Qt::Key_Z, Qt::CTRL | Qt::Key_Y},
         [this] { desk_->redo(); },
         [this] { return desk_->history().canRedo(); },
         true,
         true},
        {"duplicate", tr("Duplicate the piece"), {Qt::CTRL | Qt::Key_D}, [this] { desk_->duplicatePiece(); }, any},
        {"replace-picture", tr("Replace the picture\u2026"), {}, [this] { replacePicture(); }, any},
        {"remove", tr("Remove the piece"), {}, [this] { desk_->removePiece(desk_->piece()); }, any, true, true},
        {"fit", tr("Show all of it"), {Qt::CTRL | Qt::Key_0}, [this] { bench_->fit(); }, any},
        {"true-size", tr("True size"), {Qt::CTRL | Qt::SHIFT | Qt::Key_0}, [this] { bench_->trueSize(); }, any},
        {"dark",
         tr("Dark or light"),
         {Qt::CTRL | Qt::SHIFT | Qt::Key_D},
         [] {
             theme::setDark(!theme::isDark());
             QSettings().setValue("dark", theme::isDark());
         },
         {}},
        {"cut", tr("Cut"), {Qt::CTRL | Qt::Key_Return, Qt::CTRL | Qt::Key_Enter}, [this] {
             // The first press goes where it is seen what will be cut.
             if (desk_->station() != Station::Cut)
                 return desk_->setStation(Station::Cut);
             if (auto* run = findChild<QPushButton*>(QStringLiteral("cut-run")); run && run->isVisible() && run->isEnabled())
                 run->click();
         }, any},
        {"hold", tr("Hold the machine, or let it go on"), {Qt::CTRL | Qt::SHIFT | Qt::Key_H}, [this] {
             if (const auto& under = desk_->machining().onBed().under)
                 desk_->machining().setHeld(!under->held);
         }, [this] { return desk_->machining().onBed().under.has_value(); }, true, true},
        {"stop", tr("Stop the machine"), {Qt::Key_Pause, Qt::CTRL | Qt::Key_Period}, [this] { desk_->machining().stop(); }, [this] { return desk_->machining().busy(); }, true, true},
        {"keys", tr("Keys"), {Qt::Key_Question, Qt::Key_F1}, [this] { commands_->showKeys(this, keyHints()); }, {}, true, true},
        {"quit", tr("Quit"), {QKeySequence::Quit}, [this] { close(); }, {}},
    };
    static constexpr const char* ids[stationCount] = {"to-artwork", "to-keep", "to-cut-lines", "to-touch-up", "to-bleed", "to-sheet", "to-hand-off", "to-cut"};
    for (int i = 0; i < stationCount; ++i)
        table.push_back(
            {ids[i], title(Station(i)), {QKeySequence(Qt::CTRL | Qt::Key(Qt::Key_1 + i))}, [this, i] { desk_->setStation(Station(i)); }, {}, false});
    return table;
}

std::vector<KeyHint> MainWindow::keyHints() const
{
    return {{tr("Show all of it, on the bench"), QStringLiteral("F")},
            {tr("True size, on the bench"), QStringLiteral("T")},
            {tr("Zoom in or out"), tr("+ or \u2212, or the wheel")},
            {tr("Move the bench"), tr("Space and drag, or arrows")},
            {tr("Give up, or put down what is in hand"), tr("Esc")},
            {tr("Guide \u00b7 crop, at Artwork"), QStringLiteral("G \u00b7 C")},
            {tr("Measure \u00b7 take out tilt, at Artwork"), QStringLiteral("M \u00b7 Q")},
            {tr("Rub out \u00b7 bring back, at Keep"), QStringLiteral("R \u00b7 A")},
            {tr("Rub out an area \u00b7 pick, at Keep"), QStringLiteral("L \u00b7 P")},
            {tr("Only inside a box \u00b7 a lasso, at Keep"), QStringLiteral("X \u00b7 O")},
            {tr("Subject: its box \u00b7 is \u00b7 is not, at Keep"), QStringLiteral("U \u00b7 S \u00b7 N")},
            {tr("Node \u00b7 lasso, at Touch-up"), QStringLiteral("N \u00b7 L")},
            {tr("Stretch \u00b7 join \u00b7 smooth, at Touch-up"), QStringLiteral("S \u00b7 J \u00b7 U")},
            {tr("Simplify \u00b7 drop, at Touch-up"), QStringLiteral("M \u00b7 D")},
            {tr("Area added \u00b7 taken, at Touch-up"), QStringLiteral("A \u00b7 X")},
            {tr("Area beside \u00b7 kept, at Touch-up"), QStringLiteral("W \u00b7 Q")},
            {tr("Round \u00b7 tab \u00b7 hole \u00b7 guide, at Touch-up"), QStringLiteral("R \u00b7 E \u00b7 H \u00b7 G")},
            {tr("Turn \u00b7 mirror copies, at Sheet"), QStringLiteral("R \u00b7 M")},
            {tr("All copies of the sheet, at Sheet"), QKeySequence(QKeySequence::SelectAll).toString(QKeySequence::NativeText)},
            {tr("The sheet before \u00b7 after, at Sheet"), tr("PgUp \u00b7 PgDn")},
            {tr("Nudge nodes or copies"), tr("Arrows, Shift finer")},
            {tr("Move the head \u00b7 take the mark, at Cut by hand"), tr("Arrows \u00b7 Enter")},
            {tr("Move without snapping"), tr("Ctrl")},
            {tr("Brush smaller \u00b7 larger"), QStringLiteral("[ \u00b7 ]")},
            {tr("Keep or drop what is selected"), tr("Enter")},
            {tr("Take back a touch, an edit, a node, a guide"), tr("Delete")},
            {tr("See the bare picture, while held"), QStringLiteral("B")},
            {tr("See only what is kept, while held"), QStringLiteral("K")},
            {tr("Step a number"), tr("\u2191 \u2193, Shift finer")}};
}

void MainWindow::choosePictures()
{
    const QStringList files = QFileDialog::getOpenFileNames(this, tr("Add pictures or an order list"), QSettings().value("pictures").toString(),
                                                            pictureFiles() + tr(";;Order lists (*.csv);;All files (*)"));
    if (files.isEmpty())
        return;
    QSettings().setValue("pictures", QFileInfo(files.first()).absolutePath());
    files_->open(files);
}

void MainWindow::replacePicture()
{
    const QString file = QFileDialog::getOpenFileName(this, tr("A newer picture in its place"), QSettings().value("pictures").toString(),
                                                      pictureFiles() + tr(";;All files (*)"));
    if (!file.isEmpty())
        files_->replacePicture(file);
}

void MainWindow::openJob()
{
    const QString file = QFileDialog::getOpenFileName(this, tr("Open a job"), QSettings().value("jobs").toString(), tr("Yokai jobs (*.yokai)"));
    if (file.isEmpty())
        return;
    QSettings().setValue("jobs", QFileInfo(file).absolutePath());
    files_->open({file});
}

void MainWindow::saveJob(std::function<void()> after)
{
    if (desk_->path().isEmpty())
        saveJobAs(std::move(after));
    else
        files_->save(desk_->path(), std::move(after));
}

void MainWindow::saveJobAs(std::function<void()> after)
{
    QFileDialog dialog(this, tr("Save the job"), QSettings().value("jobs").toString(), tr("Yokai jobs (*.yokai)"));
    dialog.setObjectName("save-as");
    dialog.setAcceptMode(QFileDialog::AcceptSave);
    dialog.setDefaultSuffix(QStringLiteral("yokai")); // before it asks whether to replace
    dialog.selectFile(QString::fromStdString(desk_->job().name) + QStringLiteral(".yokai"));
    if (dialog.exec() != QDialog::Accepted || dialog.selectedFiles().isEmpty())
        return;
    const QString file = dialog.selectedFiles().first();
    QSettings().setValue("jobs", QFileInfo(file).absolutePath());
    files_->save(file, std::move(after));
}

void MainWindow::beforeLeaving(const std::function<void()>& goOn)
{
    bench_->giveUp();
    if (!desk_->modified()) {
        goOn();
        return;
    }
    enum Answer { Save, Discard, Back };
    switch (theme::ask(this, "not-saved", tr("Not saved"), tr("'%1' has changes that are not saved.").arg(QString::fromStdString(desk_->job().name)),
                       {tr("Save"), tr("Discard"), tr("Go back")}, Save, Back)) {
    case Save:
        saveJob(goOn);
        break;
    case Discard:
        goOn();
        break;
    default:
        break;
    }
}

void MainWindow::offerLeftWork()
{
    for (const LeftWork& work : Recovery::left()) {
        enum Answer { Open, Later, Drop };
        const int answer = theme::ask(this, "left-work", tr("Work that was not saved"),
                                      tr("'%1' has changes of %2 that were not saved.").arg(work.name.isEmpty() ? tr("A job") : work.name, work.when),
                                      {tr("Open it"), tr("Later"), tr("Throw it away")}, Open, Later,
                                      QPixmap::fromImage(work.picture));
        if (answer == Drop)
            Recovery::drop(work);
        if (answer == Open)
            return recovery_->takeUp(work); // what else is left comes with the next start
    }
}

void MainWindow::endNow(int signal)
{
    Machining& machining = desk_->machining();
    machining.stop();
    // The machine comes to rest within a second or two; a silent one is given up.
    constexpr int patienceMs = 10'000;
    QElapsedTimer waited;
    for (waited.start(); machining.busy() && waited.elapsed() < patienceMs;)
        QCoreApplication::processEvents(QEventLoop::ExcludeUserInputEvents | QEventLoop::WaitForMoreEvents, 50);
    recovery_->leave();
    leaving_ = true;
    constexpr int signalled = 128; // as shells have it
    QCoreApplication::exit(signalled + signal);
}

void MainWindow::closeEvent(QCloseEvent* event)
{
    if (desk_->machining().onBed().under) {
        enum Answer { Stop, Back };
        if (theme::ask(this, "still-cutting", tr("The machine is at it"), tr("Closing stops the machine, with the tool up. What is left is not cut."),
                       {tr("Stop and close"), tr("Go back")}, Back, Back) == Back) {
            event->ignore();
            return;
        }
        desk_->machining().stop();
    }
    if (leaving_ || !desk_->modified()) {
        event->accept();
        return;
    }
    event->ignore();
    beforeLeaving([this] {
        leaving_ = true;
        QMetaObject::invokeMethod(this, &QWidget::close, Qt::QueuedConnection); // a window that is closing does not close again
    });
}

// A window manager's frame is known only once the window is there; what of it would lie
// beyond the screen is taken off.
void MainWindow::fitScreen()
{
    const QRect there = screen()->availableGeometry(), framed = frameGeometry();
    const QSize frame = framed.size() - size();
    const QSize most = there.size() - frame;
    if (isMaximized() || isFullScreen() || most.isEmpty())
        return;
    if (width() > most.width() || height() > most.height())
        resize(size().boundedTo(most));
    const QRect now = frameGeometry();
    const QPoint at(std::clamp(now.x(), there.left(), std::max(there.left(), there.right() + 1 - now.width())),
                    std::clamp(now.y(), there.top(), std::max(there.top(), there.bottom() + 1 - now.height())));
    if (at != now.topLeft())
        move(at);
}

void MainWindow::showEvent(QShowEvent* event)
{
    QWidget::showEvent(event);
    // Managers differ in when they say how thick their frame is.
    for (const int ms : {0, 120, 400})
        QTimer::singleShot(ms, this, &MainWindow::fitScreen);
}

void MainWindow::resizeEvent(QResizeEvent*)
{
    if (notice_->isVisible())
        notice_->place();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event)
{
    if (Files::canOpen(*event->mimeData()))
        event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event)
{
    if (files_->open(*event->mimeData()))
        event->acceptProposedAction();
}

void MainWindow::paintEvent(QPaintEvent*)
{
    QPainter p(this);
    p.fillRect(rect(), theme::colours().paper);
}

} // namespace yokai
