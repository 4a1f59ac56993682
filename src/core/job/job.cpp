#include "job/job.h"

namespace yokai {

const char* name(LineShape shape)
{
    switch (shape) {
    case LineShape::Outline:
        return "outline";
    case LineShape::Box:
        return "box";
    case LineShape::RoundedBox:
        return "rounded-box";
    case LineShape::Ellipse:
        return "ellipse";
    case LineShape::Circle:
        return "circle";
    case LineShape::BoxRoundAll:
        return "box-round-all";
    }
    return "outline";
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
