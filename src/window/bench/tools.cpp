#include "bench/tools.h"

namespace yokai {

Tools makeTools(Desk& desk)
{
    Tools tools;
    // The first that wants a press has it.
    for (const auto make : {guideTool, rectangleTool, frameTool, insideTool, brushTool, pickTool, selectTool, offsetTool, lineTool, stretchTool, smoothTool, areaTool, sketchTool, guideLineTool, bridgeTool, editTool,
                            nodeTool, markTool, placingTool, bedTool, cornerTool})
        tools.push_back(make(desk));
    return tools;
}

} // namespace yokai
