// A piece's picture as the screen shows it: what is kept in its own colours, the
// rest faded, in halving sizes so that drawing is quick at any zoom. Made on the
// worker's thread.
#pragma once

#include "job/derive.h"

#include <QImage>

#include <vector>

namespace yokai {

struct ImagePyramid {
    std::vector<QImage> levels; // full size first, each half the one before
    // The level to draw when one image pixel of the full size covers `scale` device pixels.
    const QImage& at(double scale) const;
    bool empty() const { return levels.empty(); }
};

struct PiecePicture {
    std::shared_ptr<const ImagePyramid> working; // kept, and faded what is not
    std::shared_ptr<const ImagePyramid> printed; // only what is kept
    QImage thumbnail;                            // 56 px, printed
};

class PictureCache {
public:
    PiecePicture of(const PieceResult& piece, const Work& work);
    void forgetOthers(); // drops what was not asked for since the last call

private:
    struct Entry {
        std::shared_ptr<const Rgba8> pixels;
        std::shared_ptr<const Gray8> printed;
        std::shared_ptr<const ImagePyramid> working, print;
        QImage thumbnail;
        bool used = true;
    };
    std::vector<Entry> entries_;
};

} // namespace yokai
