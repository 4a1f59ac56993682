// The bench: the piece or the sheet at true scale, with rulers.
#pragma once

#include "bench/carried_image.h"
#include "bench/tool.h"

#include <QWidget>

class QLabel;
class QToolButton;

namespace yokai {

class Bench : public QWidget {
    Q_OBJECT
public:
    explicit Bench(Desk& desk, QWidget* parent = nullptr);
    void fit();
    void zoom(double factor);
    void trueSize(); // as large as it will be
    void giveUp();   // whatever gesture is under way
    const View& view() const { return view_; }

signals:
    void picturesWanted();
    void pointed(QPointF mm, bool inside);
    void zoomed(double screenPerTrue);

protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void keyReleaseEvent(QKeyEvent*) override;
    void leaveEvent(QEvent*) override;
    void focusOutEvent(QFocusEvent*) override;
    bool event(QEvent*) override;
    void changeEvent(QEvent* event) override;

private:
    Scene* scene();
    void refresh();
    void zoomAt(QPointF screen, double factor);
    void lookAt(Point mm); // near enough to see a tenth of a mm
    void pan(QPointF by);
    double pixelsPerMm() const; // of the screen at hand
    Pointer pointerOf(QPointF screen, Qt::MouseButton button, Qt::KeyboardModifiers modifiers) const;
    bool toolKey(QKeyEvent* event);
    bool copyKey(QKeyEvent* event);
    bool jogKey(QKeyEvent* event);
    bool showsWork() { return scene() != &piece_ || desk_.currentResult(); }
    void paintRulers(QPainter& painter);
    void paintEmpty(QPainter& painter);
    QRectF area() const; // without the rulers
    void setView(const View& view);
    void redraw();

    Desk& desk_;
    PieceScene piece_;
    CutOffScene cutOff_;
    SheetScene sheet_;
    BedScene bed_;
    PhotoScene photo_;
    Tools tools_;
    Tool* active_ = nullptr;
    Qt::MouseButton held_ = Qt::NoButton; // by which the gesture under way began
    std::optional<QPointF> panning_;      // where the pointer was
    View view_;
    BenchState state_;
    bool space_ = false, fitted_ = true;
    QPointF pointer_;
    Scene* lastScene_ = nullptr;
    int lastPiece_ = -2;
    PieceId lastUncropped_;
    Selection lastSelection_;
    QRectF lastExtent_;
    // The scene as last drawn, and the view it was drawn for: until the next arrives it
    // is moved and scaled along.
    QImage drawn_;
    View drawnView_;
    const Scene* drawnScene_ = nullptr;
    CarriedImage carried_;
    Renderer renderer_; // last: it draws the scenes above
};

} // namespace yokai
