// The window: header, trail, bench, side list and status strip around one Desk.
#pragma once

#include "commands.h"
#include "desk/desk.h"
#include "desk/files.h"
#include "desk/newer_pictures.h"
#include "desk/recovery.h"

#include <QWidget>

class QMenu;

namespace yokai {

class Bench;
class HeaderBar;
class Notice;
class Trail;

class MainWindow : public QWidget {
    Q_OBJECT
public:
    explicit MainWindow(QWidget* parent = nullptr);
    ~MainWindow() override;
    Desk& desk() { return *desk_; }
    Files& files() { return *files_; }
    void offerMachine();  // at the very first start
    void offerLeftWork(); // of a window that did not come to its end
    Bench& bench() { return *bench_; }
    Trail& trail() { return *trail_; }
    const Commands& commands() const { return *commands_; }

    // Told to end by the system: the machine is stopped, what is not saved is kept, and nothing is asked.
    void endNow(int signal);

public slots:
    void choosePictures();
    void replacePicture();
    void openJob();
    void saveJob(std::function<void()> after = {});
    void saveJobAs(std::function<void()> after = {});

protected:
    void paintEvent(QPaintEvent*) override;
    void showEvent(QShowEvent* event) override;
    void closeEvent(QCloseEvent* event) override;
    void resizeEvent(QResizeEvent*) override;
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;

private:
    void layOut(QWidget* header, QWidget* chips, QWidget* side, QWidget* strip);
    std::vector<Command> commandTable();
    std::vector<KeyHint> keyHints() const;
    // Save, discard, or go back where the job is not saved; goes on unless the maker goes back.
    void beforeLeaving(const std::function<void()>& goOn);
    void showFirstFinding();
    void makeRecent();
    void makeMachines();
    void fitScreen(); // frame included
    std::unique_ptr<Desk> desk_;
    std::unique_ptr<Files> files_;
    std::unique_ptr<Recovery> recovery_;
    std::unique_ptr<NewerPictures> newer_;
    std::unique_ptr<Commands> commands_;
    QMenu *menu_, *machines_ = nullptr;
    HeaderBar* header_ = nullptr;
    Bench* bench_;
    Trail* trail_;
    Notice* notice_;
    bool leaving_ = false; // asked already
};

} // namespace yokai
