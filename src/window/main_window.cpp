#include "main_window.h"

#include "bench/bench.h"
#include "bench/chips.h"
#include "header_bar.h"
#include "side/side_list.h"
#include "status_strip.h"
#include "theme/theme.h"
#include "trail/trail.h"

#include <QApplication>
#include <QClipboard>
#include <QCloseEvent>
#include <QDialog>
#include <QFileDialog>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QPainter>
#include <QSettings>
#include <QTimer>
#include <QToolButton>
#include <QVBoxLayout>

namespace yokai {

// A calm line over the bench: what happened, and what to do. Notes go by themselves.
class Notice : public QWidget {
public:
    explicit Notice(QWidget* parent) : QWidget(parent), text_(new QLabel(this)), close_(new QToolButton(this))
    {
        setObjectName("notice");
        setAttribute(Qt::WA_StyledBackground);
        auto* layout = new QHBoxLayout(this);
        layout->setContentsMargins(14, 6, 8, 6);
        text_->setWordWrap(true);
        text_->setObjectName("notice-text");
        text_->setTextInteractionFlags(Qt::TextSelectableByMouse);
        layout->addWidget(text_, 1);
        close_->setIcon(theme::icon(QStringLiteral("close"), Qt::white));
        close_->setAccessibleName(QObject::tr("Dismiss"));
        layout->addWidget(close_, 0, Qt::AlignTop);
        QObject::connect(close_, &QToolButton::clicked, this, &QWidget::hide);
        timer_.setSingleShot(true);
        QObject::connect(&timer_, &QTimer::timeout, this, &QWidget::hide);
        hide();
    }
    void say(const QString& text, Severity severity)
    {
        const QString ground = severity == Severity::Error     ? QStringLiteral("#8f2019")
                               : severity == Severity::Warning ? QStringLiteral("#7d4f00")
                                                               : QStringLiteral("#23264a");
        setStyleSheet(QStringLiteral("QWidget#notice { background: %1; border-radius: 6px; border: 1px solid rgba(255,255,255,60); } QLabel { color: white; }")
                          .arg(ground));
        // What went wrong first, what to do on a line of its own.
        text_->setText((severity == Severity::Error ? QStringLiteral("\u25b2  ") : QString()) + text.left(1).toUpper() + text.mid(1));
        place();
        show();
        raise();
        if (severity == Severity::Note)
            timer_.start(6000);
        else
            timer_.stop();
    }
    void place()
    {
        const int width = std::min(640, parentWidget()->width() - 80);
        text_->setFixedWidth(width - 60);
        setFixedWidth(width);
        adjustSize();
        move((parentWidget()->width() - width) / 2, parentWidget()->height() - height() - 16);
    }

private:
    QLabel* text_;
    QToolButton* close_;
    QTimer timer_;
};

MainWindow::MainWindow(QWidget* parent) : QWidget(parent), studio_(std::make_unique<Studio>()), menu_(new QMenu(this))
{
    setObjectName("main-window");
    setAcceptDrops(true);
    setMinimumSize(960, 620);
    resize(1280, 800);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(0);
    auto* header = new HeaderBar(*studio_, menu_, this);
    layout->addWidget(header);
    auto* middle = new QHBoxLayout;
    middle->setSpacing(0);
    middle->addWidget(new Trail(*studio_, this));
    auto* centre = new QVBoxLayout;
    centre->setSpacing(0);
    auto* chips = new Chips(*studio_, this);
    bench_ = new Bench(*studio_, this);
    centre->addWidget(chips);
    centre->addWidget(bench_, 1);
    middle->addLayout(centre, 1);
    middle->addWidget(new SideList(*studio_, this));
    layout->addLayout(middle, 1);
    auto* strip = new StatusStrip(*studio_, this);
    layout->addWidget(strip);
    notice_ = new Notice(bench_);

    connect(chips, &Chips::addWanted, this, &MainWindow::choosePictures);
    connect(bench_, &Bench::pointed, strip, &StatusStrip::showPointer);
    connect(bench_, &Bench::zoomed, strip, &StatusStrip::showZoom);
    connect(studio_.get(), &Studio::said, this, [this](const QString& text, int severity) { notice_->say(text, Severity(severity)); });
    connect(studio_.get(), &Studio::jobChanged, this, [this] {
        setWindowTitle(QString::fromStdString(studio_->job().name) + QStringLiteral("[*] \u2014 Yokai"));
        setWindowModified(studio_->modified());
    });
    connect(header, &HeaderBar::findingsWanted, this, [this] {
        for (const Finding& f : studio_->shown()->derived.findings) {
            if (f.piece >= 0)
                studio_->setPiece(f.piece);
            studio_->setStation(f.code == "does-not-fit" || f.code == "sheet" ? Station::Sheet
                                : f.code == "low-resolution"                  ? Station::Artwork
                                : f.code == "line-vanished"                   ? Station::CutLines
                                                                              : Station::Keep);
            break;
        }
    });
    makeMenu();
    bench_->setFocus();
    setWindowTitle(QStringLiteral("Yokai"));
    theme::setDark(QSettings().value("dark", false).toBool());
}

MainWindow::~MainWindow() = default;

void MainWindow::makeMenu()
{
    const auto add = [&](const QString& text, const QKeySequence& keys, auto slot) {
        QAction* action = menu_->addAction(text, this, slot);
        action->setShortcut(keys);
        action->setShortcutContext(Qt::WindowShortcut);
        addAction(action);
        return action;
    };
    add(tr("New job"), QKeySequence::New, [this] {
        if (mayLeave())
            studio_->newJob();
    });
    add(tr("Open a job\u2026"), QKeySequence::Open, &MainWindow::openJob);
    add(tr("Add pictures\u2026"), QKeySequence(Qt::CTRL | Qt::Key_I), &MainWindow::choosePictures);
    add(tr("Paste a picture"), QKeySequence::Paste, [this] {
        if (!studio_->openMime(*QApplication::clipboard()->mimeData()))
            studio_->say(tr("There is no picture on the clipboard; copy one first."), Severity::Warning);
    });
    menu_->addSeparator();
    add(tr("Save"), QKeySequence::Save, &MainWindow::saveJob);
    add(tr("Save as\u2026"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_S), &MainWindow::saveJobAs);
    menu_->addSeparator();
    add(tr("Undo"), QKeySequence::Undo, [this] { studio_->undo(); });
    add(tr("Redo"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Z), [this] { studio_->redo(); });
    menu_->addSeparator();
    add(tr("Show all of it"), QKeySequence(Qt::CTRL | Qt::Key_0), [this] { bench_->fit(); });
    add(tr("Dark or light"), QKeySequence(Qt::CTRL | Qt::Key_D), [] {
        theme::setDark(!theme::isDark());
        QSettings().setValue("dark", theme::isDark());
    });
    add(tr("Keys"), QKeySequence(Qt::Key_Question), &MainWindow::showKeys);
    menu_->addSeparator();
    add(tr("Quit"), QKeySequence::Quit, [this] { close(); });
    for (int i = 0; i < stationCount; ++i) {
        auto* action = new QAction(title(Station(i)), this);
        action->setShortcut(QKeySequence(Qt::CTRL | Qt::Key(Qt::Key_1 + i)));
        connect(action, &QAction::triggered, this, [this, i] { studio_->setStation(Station(i)); });
        addAction(action);
    }
}

void MainWindow::showKeys()
{
    QDialog dialog(this);
    dialog.setWindowTitle(tr("Keys"));
    auto* grid = new QGridLayout(&dialog);
    grid->setContentsMargins(24, 20, 24, 20);
    grid->setHorizontalSpacing(32);
    grid->setVerticalSpacing(6);
    std::vector<std::pair<QString, QString>> rows;
    for (const QAction* a : actions())
        if (!a->shortcut().isEmpty())
            rows.emplace_back(a->text().remove(QChar(0x2026)), a->shortcut().toString(QKeySequence::NativeText));
    for (const auto& [what, keys] : {std::pair(tr("Show all of it, on the bench"), QStringLiteral("F")),
                                     {tr("Zoom in or out"), tr("+ or \u2212, or the wheel")},
                                     {tr("Move the bench"), tr("Space and drag, or middle button")},
                                     {tr("Put down what is in hand"), tr("Esc")},
                                     {tr("Keep or drop what is selected"), tr("Enter")},
                                     {tr("Take back a touch, or a line"), tr("Delete")},
                                     {tr("See the bare picture, while held"), QStringLiteral("B")},
                                     {tr("See only what is kept, while held"), QStringLiteral("K")},
                                     {tr("Step a number"), tr("\u2191 \u2193, Shift finer")}})
        rows.emplace_back(what, keys);
    const std::size_t half = (rows.size() + 1) / 2;
    for (std::size_t i = 0; i < rows.size(); ++i) {
        auto* keys = new QLabel(rows[i].second, &dialog);
        keys->setProperty("role", "soft");
        const int column = i < half ? 0 : 2;
        grid->addWidget(new QLabel(rows[i].first, &dialog), int(i % half), column);
        grid->addWidget(keys, int(i % half), column + 1);
    }
    dialog.exec();
}

void MainWindow::choosePictures()
{
    const QStringList files = QFileDialog::getOpenFileNames(this, tr("Add pictures"), QSettings().value("pictures").toString(),
                                                            tr("Pictures (*.png *.jpg *.jpeg *.tif *.tiff *.webp *.bmp *.gif);;All files (*)"));
    if (files.isEmpty())
        return;
    QSettings().setValue("pictures", QFileInfo(files.first()).absolutePath());
    studio_->openPaths(files);
}

void MainWindow::openJob()
{
    if (!mayLeave())
        return;
    const QString file = QFileDialog::getOpenFileName(this, tr("Open a job"), QSettings().value("jobs").toString(), tr("Yokai jobs (*.yokai)"));
    if (file.isEmpty())
        return;
    QSettings().setValue("jobs", QFileInfo(file).absolutePath());
    studio_->openPaths({file});
}

bool MainWindow::saveJob()
{
    if (studio_->path().isEmpty())
        return saveJobAs();
    studio_->save(studio_->path());
    return true;
}

bool MainWindow::saveJobAs()
{
    const QString folder = QSettings().value("jobs").toString();
    QString file = QFileDialog::getSaveFileName(this, tr("Save the job"),
                                                folder + QLatin1Char('/') + QString::fromStdString(studio_->job().name) + QStringLiteral(".yokai"),
                                                tr("Yokai jobs (*.yokai)"));
    if (file.isEmpty())
        return false;
    if (!file.endsWith(QLatin1String(".yokai")))
        file += QStringLiteral(".yokai");
    QSettings().setValue("jobs", QFileInfo(file).absolutePath());
    studio_->save(file);
    return true;
}

bool MainWindow::mayLeave()
{
    if (!studio_->modified() || studio_->job().pieces.empty())
        return true;
    const auto answer = QMessageBox::question(this, tr("Not saved"),
                                              tr("'%1' has changes that are not saved. Leave them behind?").arg(QString::fromStdString(studio_->job().name)),
                                              QMessageBox::Discard | QMessageBox::Cancel, QMessageBox::Cancel);
    return answer == QMessageBox::Discard;
}

void MainWindow::closeEvent(QCloseEvent* event)
{
    if (mayLeave())
        event->accept();
    else
        event->ignore();
}

void MainWindow::resizeEvent(QResizeEvent*)
{
    if (notice_->isVisible())
        notice_->place();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event)
{
    if (studio_->canOpen(*event->mimeData()))
        event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event)
{
    if (studio_->openMime(*event->mimeData()))
        event->acceptProposedAction();
}

void MainWindow::paintEvent(QPaintEvent*)
{
    QPainter p(this);
    p.fillRect(rect(), theme::colours().paper);
}

} // namespace yokai
