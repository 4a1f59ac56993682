#include "job/job.h"

#include "base/error.h"

namespace yokai {

double ArtworkSpec::pxPerMm() const
{
    double ratio = picture.info.ppi / 25.4;
    switch (sizeBy) {
    case SizeBy::File:
        break;
    case SizeBy::Width:
        ratio = picture.info.width / side.mm();
        break;
    case SizeBy::Height:
        ratio = picture.info.height / side.mm();
        break;
    case SizeBy::Ppi:
        ratio = ppi / 25.4;
        break;
    }
    const double longest = std::max(picture.info.width, picture.info.height) / ratio;
    if (!std::isfinite(ratio) || !(longest >= 1 && longest <= 20'000))
        throw Error(ErrorKind::Usage, "the size asked for '" + picture.fileName + "' is out of range; use 1 mm to 20 m");
    return ratio;
}

const char* name(Corners corners) { return corners == Corners::Round ? "round" : corners == Corners::Sharp ? "sharp" : "flat"; }

const char* name(LineKind kind)
{
    switch (kind) {
    case LineKind::Through:
        return "through";
    case LineKind::Kiss:
        return "kiss";
    case LineKind::Perforate:
        return "perforate";
    case LineKind::Crease:
        return "crease";
    }
    return "through";
}

} // namespace yokai
