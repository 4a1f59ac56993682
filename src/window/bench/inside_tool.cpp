#include "bench/outline_tool.h"
#include "bench/tools.h"
#include "desk/piece_edits.h"

namespace yokai {

namespace {

// Keep: boxes and lassos in which the rule works.
class InsideTool : public OutlineTool {
public:
    explicit InsideTool(Desk& desk) : OutlineTool(desk, {Hold::InsideBox, Hold::InsideLasso}) {}

protected:
    bool isBox() const override { return desk_.hand().hold == Hold::InsideBox; }
    void done(const std::vector<QPointF>& outline) override
    {
        edits::addInside(desk_, outline);
        desk_.hold(desk_.hand().hold); // put down
    }
};

} // namespace

std::unique_ptr<Tool> insideTool(Desk& desk) { return std::make_unique<InsideTool>(desk); }

} // namespace yokai
