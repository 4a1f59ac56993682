// The unfolded controls of each station. Each reads the studio and asks it for
// changes; none knows another.
#pragma once

#include "studio/studio.h"
#include "theme/controls.h"

class QCheckBox;
class QComboBox;
class QPushButton;

namespace yokai {

class Panel : public PanelGrid {
    Q_OBJECT
public:
    Panel(Studio& studio, QWidget* parent) : PanelGrid(parent), studio_(studio) {}
    virtual void refresh() = 0;

protected:
    // A live number: edits join one undo step until they settle.
    template <class Apply> void bind(NumberField* field, const QString& what, Apply apply)
    {
        connect(field, &NumberField::edited, this, [this, field, what, apply](bool settled) {
            studio_.editPiece(
                what, [&](Piece& p) { apply(p, field); }, what);
            if (settled)
                studio_.settle();
        });
    }
    Studio& studio_;
};

class ArtworkPanel : public Panel {
    Q_OBJECT
public:
    ArtworkPanel(Studio& studio, QWidget* parent);
    void refresh() override;

private:
    NumberField *width_, *height_, *ppi_, *straighten_, *copies_, *margin_, *page_;
    QCheckBox* ratio_;
    IconButton *guide_, *frame_, *whole_;
    QLabel* note_;
};

class KeepPanel : public Panel {
    Q_OBJECT
public:
    KeepPanel(Studio& studio, QWidget* parent);
    void refresh() override;

private:
    void makeRule();
    void makeHand();
    QComboBox* rule_;
    NumberRow level_, smallest_;
    Swatches* swatches_;
    QWidget* colours_;
    Segmented *reach_, *openings_, *tip_;
    NumberField *over_, *smoothing_, *brush_, *tolerance_;
    std::vector<std::pair<IconButton*, Hold>> holds_;
    IconButton* everywhere_;
    QLabel* note_;
};

// The cut lines of the piece: a row each, then the settings of the one worked on.
class LineRows : public QWidget {
    Q_OBJECT
public:
    explicit LineRows(Studio& studio, QWidget* parent);
    void refresh();
    QSize sizeHint() const override;
    QSize minimumSizeHint() const override { return sizeHint(); }

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

private:
    Studio& studio_;
};

class CutLinesPanel : public Panel {
    Q_OBJECT
public:
    CutLinesPanel(Studio& studio, QWidget* parent);
    void refresh() override;

private:
    template <class Apply> void bindLine(NumberField* field, const QString& what, Apply apply);
    template <class Apply> void editLine(const QString& what, Apply apply);

    LineRows* rows_;
    IconButton *copy_, *remove_;
    QComboBox *kind_, *shape_;
    NumberRow offset_, join_;
    Segmented *corners_, *openings_;
    NumberField *limit_, *over_, *roundInside_, *notch_, *tolerance_, *radius_, *cut_, *gap_;
    QCheckBox* clips_;
};

class TouchUpPanel : public Panel {
    Q_OBJECT
public:
    TouchUpPanel(Studio& studio, QWidget* parent);
    void refresh() override;

private:
    QLabel* figures_;
};

class BleedPanel : public Panel {
    Q_OBJECT
public:
    BleedPanel(Studio& studio, QWidget* parent);
    void refresh() override;

private:
    QLabel* figures_;
};

class SheetPanel : public Panel {
    Q_OBJECT
public:
    SheetPanel(Studio& studio, QWidget* parent);
    void refresh() override;

private:
    QComboBox* media_;
    Segmented *turn_, *marks_;
    NumberField *copies_, *margin_, *gap_, *inset_;
};

class HandOffPanel : public Panel {
    Q_OBJECT
public:
    HandOffPanel(Studio& studio, QWidget* parent);
    void refresh() override;
    void writeFiles();

private:
    QString baseName() const;
    QCheckBox *print_, *combined_, *svg_, *dxf_;
    QLineEdit *folder_, *spot_;
    QPushButton* write_;
};

class CutPanel : public Panel {
    Q_OBJECT
public:
    CutPanel(Studio& studio, QWidget* parent);
    void refresh() override;
    void run();

private:
    Segmented* useFit_;
    QComboBox* model_;
    NumberField *stretchX_, *stretchY_, *turn_, *skew_, *shiftX_, *shiftY_;
    QPushButton* run_;
};

Panel* makePanel(Station station, Studio& studio, QWidget* parent);

} // namespace yokai
