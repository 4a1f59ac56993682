// Pages to be read by people, through cairo and pango: words, lines and pictures in mm from a page's top-left corner, y down,
// written as PDF with their fonts in it. For what a machine or a shop takes there is formats/pdf. Private to these pages.
#pragma once

#include "artwork/artwork.h"
#include "base/file.h"
#include "base/geometry.h"
#include "base/work.h"
#include "path/path.h"

#include <memory>
#include <string>

namespace yokai::pages {

struct Colour {
    double r = 0, g = 0, b = 0;
};
Colour colourOf(const char* hex); // "#5b2fb8"

struct Pen {
    Colour colour;
    double width = 0.3; // mm
    std::vector<double> dashes;
};

Path lineFrom(Point a, Point b);

struct Type {
    double size = 3.5; // mm, of the letters' em
    bool bold = false;
    Colour colour;
};

class Book {
public:
    Book(double width, double height, const std::string& title); // mm
    ~Book();
    Book(const Book&) = delete;
    Book& operator=(const Book&) = delete;

    void nextPage();
    // One line, cut short with an ellipsis beyond `width`; (x, y) its top-left corner, or top-right with `fromRight`. How wide it is.
    double text(Point at, const std::string& words, const Type& type, double width, bool fromRight = false);
    void stroke(const Paths& paths, const Pen& pen, const Affine& place = {});
    void fill(const Rect& box, Colour colour);
    // As fine as `mostPpi` shows it; `place` maps mm from its top-left corner to the page.
    void image(const Rgba8& pixels, double width, double height, const Affine& place, const Work& work);
    Bytes finish(); // no more can be drawn

private:
    struct Inside;
    std::unique_ptr<Inside> in_;
};

} // namespace yokai::pages
