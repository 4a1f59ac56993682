// The subject of a photo, in which paper is no colour: what stands out within a box, and what strokes say is picture or is not.
//
// Found on a small copy by GrabCut (Rother, Kolmogorov, Blake 2004), which is offered what the first result encloses once more. Then, on ever
// larger copies, each pixel near the edge is taken for a mixture of what is picture and what is not nearby, down to the picture's own pixels.
#pragma once

#include "base/geometry.h"
#include "base/raster.h"
#include "base/work.h"
#include "keep/spec.h"

namespace yokai {

// Coverage, a byte a pixel. Nothing where the box holds no pixel and no stroke says what is picture.
Gray8 subjectOf(const Rgba8& pixels, const SubjectSpec& spec, const Affine& fromSource, const Work& work = {});

// A coverage of the whole picture as it lies in a frame; nothing beside it.
Gray8 brought(const Gray8& coverage, const Affine& fromSource, int width, int height, const Work& work = {});

} // namespace yokai
