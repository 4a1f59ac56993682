// The window: header, trail, bench, side list and status strip around one Studio.
#pragma once

#include "studio/studio.h"

#include <QWidget>

class QLabel;
class QMenu;

namespace yokai {

class Bench;
class Notice;

class MainWindow : public QWidget {
    Q_OBJECT
public:
    explicit MainWindow(QWidget* parent = nullptr);
    ~MainWindow() override;
    Studio& studio() { return *studio_; }
    Bench& bench() { return *bench_; }

public slots:
    void choosePictures();
    void openJob();
    bool saveJob();
    bool saveJobAs();

protected:
    void paintEvent(QPaintEvent*) override;
    void closeEvent(QCloseEvent* event) override;
    void resizeEvent(QResizeEvent*) override;
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;

private:
    void makeMenu();
    bool mayLeave();
    void showKeys();
    std::unique_ptr<Studio> studio_;
    QMenu* menu_;
    Bench* bench_;
    Notice* notice_;
};

} // namespace yokai
