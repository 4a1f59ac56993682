// The simulated machine's bed: a printed sheet lying on it, a sensor that finds
// marks in what it sees, and the cuts made so far.
//
// The sheet is the real print file, rendered and then stretched, skewed, turned
// and shifted as a printer and a hasty hand would; the sensor knows nothing of
// that and looks only at the picture.
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

struct Distortion {
    double stretchX = 1, stretchY = 1;
    double turn = 0, skew = 0; // degrees
    double shiftX = 0, shiftY = 0;
    // From the sheet as designed (y up) to the bed, turned about the sheet's middle.
    Affine map(double width, double height) const;
};

class Bed {
public:
    void setDistortion(const Distortion& distortion) { distortion_ = distortion; }
    // Renders the first page of a PDF and lays it on the bed. Throws Error.
    void print(const std::string& pdfPath);
    bool loaded() const { return !picture_.empty(); }
    Affine truth() const { return truth_; }

    // The centre of a dark disc of about this diameter near a place, if there is one.
    // A reading strays a little from the truth, as a real sensor's does.
    std::optional<Point> findMark(Point near, double diameter);

    // What the camera over the bed sees: PNG bytes; the picture's top-left corner and scale.
    std::vector<unsigned char> view() const;
    Point viewCorner() const { return {-border, sheetHeight_ + border}; }
    double pxPerMm() const { return pxPerMm_; }

    void moveTo(Point p); // to the nearest motor step
    Point at() const { return at_; }
    void tool(bool down);
    bool down() const { return down_; }
    const std::vector<Polyline>& cuts() const { return cuts_; }
    void clearCuts() { cuts_.clear(); }

private:
    static constexpr double border = 20; // mm of bed seen round the sheet
    static constexpr double motorStep = 0.0125;
    static constexpr double repeatability = 0.015; // mm, standard deviation of one reading of a mark

    Distortion distortion_;
    Affine truth_;
    cv::Mat picture_; // BGR
    double sheetWidth_ = 0, sheetHeight_ = 0, pxPerMm_ = 8;
    Point at_;
    bool down_ = false;
    std::mt19937 stray_{9}; // the same strays every time it is started
    std::vector<Polyline> cuts_;
};

} // namespace yokai::standin
