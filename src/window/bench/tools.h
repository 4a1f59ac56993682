// The table of tools: each is a file of its own, known here by what makes it.
#pragma once

#include "bench/tool.h"

namespace yokai {

std::unique_ptr<Tool> guideTool(Desk& desk);
std::unique_ptr<Tool> frameTool(Desk& desk);
std::unique_ptr<Tool> insideTool(Desk& desk);
std::unique_ptr<Tool> brushTool(Desk& desk);
std::unique_ptr<Tool> pickTool(Desk& desk);
std::unique_ptr<Tool> selectTool(Desk& desk);
std::unique_ptr<Tool> offsetTool(Desk& desk);
std::unique_ptr<Tool> lineTool(Desk& desk);
std::unique_ptr<Tool> stretchTool(Desk& desk);
std::unique_ptr<Tool> smoothTool(Desk& desk);
std::unique_ptr<Tool> areaTool(Desk& desk);
std::unique_ptr<Tool> sketchTool(Desk& desk);
std::unique_ptr<Tool> guideLineTool(Desk& desk);
std::unique_ptr<Tool> bridgeTool(Desk& desk);
std::unique_ptr<Tool> editTool(Desk& desk);
std::unique_ptr<Tool> nodeTool(Desk& desk);
std::unique_ptr<Tool> markTool(Desk& desk);
std::unique_ptr<Tool> placingTool(Desk& desk);
std::unique_ptr<Tool> bedTool(Desk& desk);
std::unique_ptr<Tool> cornerTool(Desk& desk);
std::unique_ptr<Tool> rectangleTool(Desk& desk);

} // namespace yokai
