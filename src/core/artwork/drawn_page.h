// A drawing as a page of PDF, for print files: it stays sharp at whatever size it is printed.
#pragma once

#include "artwork/artwork.h"

#include <optional>

namespace yokai {

constexpr bool isDrawing(PictureFormat format) { return format == PictureFormat::Svg || format == PictureFormat::Pdf; }

// The picture's page drawn anew as one page that looks as the picture does, a unit a pixel, in sRGB; what cannot be said in
// PDF's operators, as a blur, is in pixels of the picture's size. None where it is no drawing, or cannot be drawn.
std::optional<Bytes> redrawnAsPdf(const Picture& picture, const Work& work = {});

} // namespace yokai
