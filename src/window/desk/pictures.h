// A piece's picture as the screen shows it: what is kept in its own colours, the
// rest faded or left out.
//
// Halved sizes are made once, on the worker's thread; at full size only what is
// looked at is composed, when it is drawn, so that a large picture is not held
// twice more.
#pragma once

#include "job/derive.h"

#include <QImage>

#include <vector>

class QPainter;

namespace yokai {

class ScreenPicture {
public:
    // Pixels of the full size.
    QSize size() const { return {pixels_->width(), pixels_->height()}; }
    // Draws the part `from`, in pixels of the full size, over `to`; one of them covers
    // `scale` device pixels. Any thread.
    void draw(QPainter& painter, const QRectF& to, const QRectF& from, double scale) const;
    QImage small() const; // at most 256 px

private:
    friend class PictureCache;
    QImage composed(const QRect& part) const;
    SharedRgba pixels_;
    SharedGray printed_;         // null: as opaque as it is
    bool faded_ = false;         // what is not kept shows faintly
    std::vector<QImage> halves_; // half the size, a quarter, ...
};

struct PiecePicture {
    std::shared_ptr<const ScreenPicture> working; // kept, and faded what is not
    std::shared_ptr<const ScreenPicture> printed; // only what is kept
    std::shared_ptr<const ScreenPicture> bleed;   // what is printed beneath it; null: nothing
    QRectF bleedAt;                               // where, mm in the piece
    std::vector<QImage> burnt;                    // how dark its engraving is, as it will look, and halved again and again; none, or a fill, which is its outline: empty
    QRectF burntAt;
    QImage white;                                 // its underprint, black where there is ink; null: none
    QRectF whiteAt;
    QImage thumbnail;                             // 56 px at twice the density, printed
};

// The first four of a job side by side, by which it is known again; null: there are none yet.
QImage together(const std::vector<PiecePicture>& pictures);

// What an engraving looks like follows from what it is burnt into, and how finely.
struct EngraveLook {
    double interval = 0.1; // mm
    QRgb burnt = 0xff000000; // of the material, where it was burnt wholly
    bool operator==(const EngraveLook&) const = default;
};
EngraveLook lookOf(const PlanSpec& plan);
QColor stockColour(const PlanSpec& plan); // of the material

class PictureCache {
public:
    PiecePicture of(const PieceResult& piece, const EngraveLook& look, const Work& work);
    void forgetOthers(); // drops what was not asked for since the last call

private:
    struct Entry {
        SharedRgba pixels;
        SharedGray printed;
        std::shared_ptr<const PrintImage> bleed;
        std::shared_ptr<const Plate> white;
        std::shared_ptr<const Engraving> engraving;
        EngraveLook look;
        PiecePicture picture;
        bool used = true;
    };
    std::vector<Entry> entries_;
};

} // namespace yokai
