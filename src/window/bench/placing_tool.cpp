#include "bench/tools.h"

namespace yokai {

namespace {

// On the sheet: a press chooses the piece whose copy lies there.
class PlacingTool : public Tool {
public:
    using Tool::Tool;
    bool works() const override { return onSheet(desk_.station()); }
    std::optional<Qt::CursorShape> hover(const Pointer&) const override { return std::nullopt; }
    bool press(const Pointer& at) override;
};

bool PlacingTool::press(const Pointer& at)
{
    const Shown* shown = desk_.shown();
    if (!at.left() || !shown)
        return false;
    // What lies on top was placed last.
    const auto& placements = shown->derived.sheet.placements;
    for (auto place = placements.rbegin(); place != placements.rend(); ++place)
        if (shown->hits[place->at]->covers(place->toSheet.inverse()(at.place()))) {
            for (std::size_t i = 0; i < desk_.job().pieces.size(); ++i)
                if (desk_.job().pieces[i].id == place->piece)
                    desk_.setPiece(int(i));
            return true;
        }
    return false;
}

} // namespace

std::unique_ptr<Tool> placingTool(Desk& desk) { return std::make_unique<PlacingTool>(desk); }

} // namespace yokai
