// A drawing that is printed, as PDF's own operators. Private to the format.
#pragma once

#include "formats/drawing.h"

#include <qpdf/QPDF.hh>
#include <qpdf/QPDFObjectHandle.hh>

#include <optional>

namespace yokai::pdf {

// As a form that fills the unit square, as an image does. A PDF's page comes in as it is, with its own inks and fonts, unless
// it has layers or notes, which a reader may show or not, an ink named as a cut line or the white, which would be cut along or
// printed beneath, letters without their font, or something that lies in another file: then it is redrawn as it is seen, in sRGB, by poppler. None where neither can be done: it is printed in pixels.
std::optional<QPDFObjectHandle> drawingOf(QPDF& pdf, const DrawnVectors& drawn, const SpotNames& spots, const Work& work);

} // namespace yokai::pdf
