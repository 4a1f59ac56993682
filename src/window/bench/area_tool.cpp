#include "bench/outline_tool.h"
#include "bench/tools.h"
#include "desk/line_edits.h"

namespace yokai {

namespace {

// Touch-up: an area drawn round is added to what the chosen line encloses, or taken from it.
class AreaTool : public OutlineTool {
public:
    explicit AreaTool(Desk& desk) : OutlineTool(desk, {Hold::AddArea, Hold::TakeArea}) {}

protected:
    bool isBox() const override { return false; }
    void done(const std::vector<QPointF>& outline) override
    {
        if (desk_.current())
            edits::addArea(desk_, outline, desk_.hand().hold == Hold::AddArea);
    }
};

} // namespace

std::unique_ptr<Tool> areaTool(Desk& desk) { return std::make_unique<AreaTool>(desk); }

} // namespace yokai
