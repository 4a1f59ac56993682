#include "bench/tools.h"

namespace yokai {

Tools makeTools(Desk& desk)
{
    Tools tools;
    const auto add = [&]<class T>(std::in_place_type_t<T>) { tools.push_back(std::make_unique<T>(desk)); };
    add(std::in_place_type<GuideTool>);
    add(std::in_place_type<FrameTool>);
    add(std::in_place_type<InsideTool>);
    add(std::in_place_type<BrushTool>);
    add(std::in_place_type<PickTool>);
    add(std::in_place_type<SelectTool>);
    add(std::in_place_type<OffsetTool>);
    add(std::in_place_type<PlacingTool>);
    return tools;
}

} // namespace yokai
