// What to scan: from which scanner, how fine, and which part of its glass, drawn on a quick look at it.
#pragma once

#include "desk/background.h"
#include "device/scanner.h"

#include <QDialog>
#include <QImage>

class QLabel;
class QPushButton;

namespace yokai {

class ChoiceBox;
class Desk;
class Files;
class NumberField;
class Segmented;

class ScanDialog : public QDialog {
    Q_OBJECT
public:
    ScanDialog(Desk& desk, Files& files, QWidget* over);

private:
    class Glass; // the picture of it, and the area drawn on it
    QWidget* makeRows();
    void look();    // for scanners
    void choose();  // the one that is listed
    void preview();
    void scan();
    void areaTyped();
    void setArea(const Rect& area);
    void refresh();
    Desk& desk_;
    Files& files_;
    std::vector<ScannerFound> found_;
    std::optional<ScannerFacts> facts_; // of the one chosen, once it has told them
    Rect area_;                         // mm
    ChoiceBox *scanner_ = nullptr, *ppi_ = nullptr;
    Segmented* colour_ = nullptr;
    NumberField *left_ = nullptr, *top_ = nullptr, *width_ = nullptr, *height_ = nullptr;
    Glass* glass_ = nullptr;
    QLabel* says_ = nullptr;
    QPushButton *preview_ = nullptr, *scan_ = nullptr, *all_ = nullptr;
    Background background_;
};

} // namespace yokai
