// How much memory each kind of result keeps, block by block. Private to the job room.
#pragma once

#include "artwork/frame.h"
#include "bleed/drift.h"
#include "bleed/print_image.h"
#include "bleed/underprint.h"
#include "engrave/engraving.h"
#include "job/step_cache.h"
#include "keep/keep.h"
#include "layers/split.h"
#include "outline/offset.h"
#include "path/path.h"
#include "sheet/sheet.h"
#include "touchup/touch_up.h"

namespace yokai {

template <class T> void owned(const Raster<T>& raster, Owns& out) { out.push_back({raster.all().data(), raster.size() * sizeof(T)}); }

inline void owned(const Framed& framed, Owns& out)
{
    owned(*framed.pixels, out);
    if (framed.within)
        owned(*framed.within, out);
}

inline void owned(const Engraving& engraving, Owns& out)
{
    if (engraving.tone)
        owned(*engraving.tone, out);
    for (const Polyline& ring : engraving.outline)
        out.push_back({ring.data(), ring.capacity() * sizeof(Point)});
}

inline void owned(const Split& split, Owns& out)
{
    owned(split.label, out);
    owned(split.other, out);
    owned(split.share, out);
    out.push_back({split.areas.runs.data(), split.areas.runs.capacity() * sizeof(LabelRun)});
    out.push_back({split.areas.all.data(), split.areas.all.capacity() * sizeof(LabelArea)});
}

inline void owned(const Coverage& coverage, Owns& out) { owned(*coverage.pixels, out); }

inline std::size_t bytesOf(const Contours& contours)
{
    std::size_t n = 0;
    for (const Contour& c : contours)
        n += sizeof(Contour) + c.points.capacity() * sizeof(Point) + c.corners.capacity();
    return n;
}
inline void owned(const Contours& contours, Owns& out) { out.push_back({&contours, bytesOf(contours)}); }

inline void owned(const Parts& parts, Owns& out)
{
    out.push_back({&parts, bytesOf(parts.contours) + bytesOf(parts.dropped) + parts.all.capacity() * sizeof(Part)});
}

// With its lattices, which come later, about four times its contours.
inline void owned(const DistanceField& field, Owns& out) { out.push_back({&field, 4 * bytesOf(field.contours())}); }

inline void owned(const LevelLines& lines, Owns& out)
{
    std::size_t n = 0;
    for (const LevelLine& l : lines)
        n += sizeof(LevelLine) + l.points.capacity() * (sizeof(Point) + 1 + sizeof(int));
    out.push_back({&lines, n});
}

inline void owned(const Paths& paths, Owns& out) { out.push_back({&paths, nodesOf(paths) * sizeof(Segment)}); }

inline void owned(const PrintImage& image, Owns& out) { owned(*image.pixels, out); }

inline void owned(const Plate& plate, Owns& out) { owned(*plate.tint, out); }

inline void owned(const Drift& drift, Owns& out) { out.push_back({&drift, sizeof(Drift)}); }

inline void owned(const PieceShape& shape, Owns& out)
{
    std::size_t n = 0;
    for (const Polyline& ring : shape.rings)
        n += ring.capacity() * sizeof(Point);
    out.push_back({&shape, n});
}

inline void owned(const Layout& layout, Owns& out) { out.push_back({&layout, layout.placements.capacity() * sizeof(Placement)}); }

inline void owned(const TouchedUp& touched, Owns& out) { owned(touched.paths, out); }

} // namespace yokai
