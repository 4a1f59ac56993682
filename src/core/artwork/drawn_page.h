// Pictures that are drawings, which stay sharp at whatever size they are printed.
#pragma once

#include "artwork/artwork.h"

#include <optional>

namespace yokai {

constexpr bool isDrawing(PictureFormat format) { return format == PictureFormat::Svg || format == PictureFormat::Pdf; }

// An SVG as a page of PDF, a unit a pixel, in sRGB; what cannot be said in PDF's operators, as a blur, is in pixels of the picture's
// size. None where it is no SVG, or cannot be drawn.
std::optional<Bytes> svgAsPdf(const Picture& picture, const Work& work = {});

} // namespace yokai
