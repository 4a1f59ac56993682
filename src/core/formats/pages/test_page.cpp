#include "formats/pages/test_page.h"

#include "base/error.h"
#include "formats/pages/book.h"

#include <algorithm>
#include <cmath>

namespace yokai {

namespace {

constexpr double weight = 0.1, tick = 4; // mm

// With a tick at each end and one, shorter, every centimetre.
Paths ruler(Point from, Point to)
{
    const double long_ = distance(from, to);
    const Point along = unit(to - from), aside{-along.y, along.x};
    Paths out{pages::lineFrom(from, to)};
    const int centimetres = int(std::lround(long_ / 10));
    for (int k = 0; k <= centimetres; ++k) {
        const double half = k == 0 || k == centimetres ? tick : tick / 3;
        const Point at = from + along * (10.0 * k);
        out.push_back(pages::lineFrom(at - aside * half, at + aside * half));
    }
    return out;
}

} // namespace

TestLines testLinesOn(double width, double height)
{
    constexpr double unreached = 15, least = 20; // mm on either side
    const auto whole = [&](double side) { return std::max(least, std::floor((side - 2 * unreached) / 10) * 10); };
    return {whole(width), whole(height)};
}

Bytes writeTestPage(double width, double height, Unit unit, const std::function<std::string(const char*)>& say)
{
    const TestLines lines = testLinesOn(width, height);
    pages::Book book(width, height, "Test page");
    const double left = (width - lines.across) / 2, top = (height - lines.along) / 2;
    const pages::Pen pen{{}, weight, {}};
    // They meet where both begin.
    book.stroke(ruler({left, top}, {left + lines.across, top}), pen);
    book.stroke(ruler({left, top}, {left, top + lines.along}), pen);
    const double x = left + 10, room = lines.across - 12;
    book.text({x, top + 8}, say("The printer's scale"), {5, true, {}}, room);
    book.text({x, top + 16}, filled(say("Across: {} from end to end"), {formatMm(lines.across, unit)}), {3.5, false, {}}, room);
    book.text({x, top + 22}, filled(say("Along: {} from end to end"), {formatMm(lines.along, unit)}), {3.5, false, {}}, room);
    book.text({x, top + 28}, say("Measure both, and type what you measured."), {3.5, false, {}}, room);
    return book.finish();
}

} // namespace yokai
