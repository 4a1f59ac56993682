// The simulated machine's bed: a printed sheet lying on it, an eye that sees light and dark, a camera, and the cuts made so far.
//
// The sheet is the real print file, rendered and then stretched, skewed, turned and shifted as a printer and a hasty hand would, and
// the paper may swell here and there; the eye and the camera know nothing of that and see only the picture.
//
// Unit: mm on the bed, y up, (0, 0) where the sheet's bottom-left corner should lie.
#pragma once

#include "base/geometry.h"
#include "path/path.h"

#include <opencv2/core.hpp>

#include <optional>
#include <random>
#include <string>
#include <vector>

namespace yokai::standin {

// What was done to the sheet between its design and the bed.
struct Askew {
    double stretchX = 1, stretchY = 1;
    double turn = 0, skew = 0; // degrees
    double shiftX = 0, shiftY = 0;
    double swell = 0; // mm: how far the paper comes out of shape, waves as long as the sheet
};

class Truth {
public:
    Truth() = default;
    Truth(const Askew& askew, double width, double height);
    Point operator()(Point design) const;
    Point inverse(Point onBed) const;
    void slip(Point by) { affine_ = Affine::move(by.x, by.y) * affine_; }

private:
    Affine affine_;
    double swell_ = 0, width_ = 1, height_ = 1;
};

// What the tool did in one go.
struct Cut {
    Polyline points; // of the tip, where the tool is a blade
    double power = 0;
    std::size_t line = 0; // of the program, by how many were taken in before
    Truth truth;          // how the sheet lay then
};

// A stretch that was burnt with a power of its own; of an engraving there are millions.
struct Burn {
    float x0, y0, x1, y1, power; // mm on the bed
};

class Bed {
public:
    void setAskew(const Askew& askew) { askew_ = askew; }
    void setSeed(unsigned seed) { stray_.seed(seed); }
    void setReading(double deviation) { reading_ = deviation; } // mm, of one edge the eye sees
    void setUneven(double uneven, double noise) { uneven_ = uneven, noise_ = noise; }
    void cover(Point design) { covered_.push_back(design); } // something white lies there
    // Renders the first page of a PDF and lays it on the bed. Throws Error.
    void print(const std::string& pdfPath);
    bool loaded() const { return !picture_.empty(); }
    const Truth& truth() const { return truth_; }
    void slip(Point by);

    bool dark(Point at) const; // what the eye sees there
    double stray();            // of one edge

    // What the camera over the bed sees: PNG bytes; the picture's top-left corner and scale.
    std::vector<unsigned char> view() const;
    Point viewCorner() const { return Point{-border, sheetHeight_ + border} + Point{std::round(askew_.shiftX / 10) * 10, std::round(askew_.shiftY / 10) * 10}; }
    double pxPerMm() const { return pxPerMm_; }
    // The same with the cuts drawn in.
    std::vector<unsigned char> cutSheet(const std::vector<Cut>& cuts, const std::vector<Burn>& burns, double powerMost, double beam) const;
    double sheetHeight() const { return sheetHeight_; }

private:
    static constexpr double border = 20; // mm of bed seen round the sheet
    void lay();
    void burn(cv::Mat& picture, const std::vector<Burn>& burns, double powerMost, double beam) const;
    cv::Mat seen() const;

    Askew askew_;
    Truth truth_;
    cv::Mat sheet_, picture_; // BGR; as printed, as it lies
    std::vector<Point> covered_;
    double sheetWidth_ = 0, sheetHeight_ = 0, pxPerMm_ = 8, reading_ = 0.03, uneven_ = 0, noise_ = 0;
    std::mt19937 stray_{9}; // the same strays every time it is started
};

} // namespace yokai::standin
