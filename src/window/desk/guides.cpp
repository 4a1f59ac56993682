#include "desk/guides.h"

#include <algorithm>

namespace yokai::edits {

std::vector<GuideOn> guides(const Desk& desk)
{
    std::vector<GuideOn> out;
    const Piece* piece = desk.currentPiece();
    const PieceResult* result = desk.currentResult();
    for (std::size_t k = 0; piece && result && k < piece->guides.size(); ++k)
        out.push_back({piece->guides[k].id, {result->sourceToMm(piece->guides[k].a), result->sourceToMm(piece->guides[k].b)}});
    return out;
}

std::optional<GuideOn> guideNear(const Desk& desk, Point mm, double reach)
{
    std::optional<GuideOn> best;
    for (const GuideOn& guide : guides(desk)) {
        const Point along = unit(guide.line.b - guide.line.a);
        if (const double away = std::abs(cross(along, mm - guide.line.a)); away <= reach) {
            reach = away;
            best = guide;
        }
    }
    return best;
}

namespace {

Guide inSource(const Desk& desk, const StraightGuide& guide)
{
    const Affine back = desk.currentResult()->sourceToMm.inverse();
    return {{}, back(guide.a), back(guide.b)};
}

} // namespace

void addGuide(Desk& desk, const StraightGuide& guide)
{
    if (!desk.currentResult())
        return;
    const Guide made = inSource(desk, guide);
    desk.editPiece(Desk::tr("add a guide"), [&](Piece& piece) { piece.guides.push_back(made); });
}

void moveGuide(Desk& desk, GuideId id, const StraightGuide& to)
{
    if (!desk.currentResult())
        return;
    const Guide made = inSource(desk, to);
    desk.editPiece(Desk::tr("move a guide"), [&](Piece& piece) {
        for (Guide& guide : piece.guides)
            if (guide.id == id) {
                guide.a = made.a;
                guide.b = made.b;
            }
    });
}

void removeGuide(Desk& desk, GuideId id)
{
    desk.editPiece(Desk::tr("take a guide away"), [&](Piece& piece) { std::erase_if(piece.guides, [&](const Guide& g) { return g.id == id; }); });
}

} // namespace yokai::edits
