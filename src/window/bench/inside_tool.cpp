#include "bench/outline_tool.h"
#include "bench/tools.h"
#include "desk/piece_edits.h"

namespace yokai {

namespace {

// Keep: boxes and lassos in which the rule works, and the box the subject is looked for in.
class InsideTool : public OutlineTool {
public:
    explicit InsideTool(Desk& desk) : OutlineTool(desk, {Hold::InsideBox, Hold::InsideLasso, Hold::SubjectBox}) {}

protected:
    bool isBox() const override { return desk_.hand().hold != Hold::InsideLasso; }
    void done(const std::vector<QPointF>& outline) override
    {
        if (desk_.hand().hold == Hold::SubjectBox)
            edits::lookInside(desk_, outline);
        else
            edits::addInside(desk_, outline);
        desk_.hold(desk_.hand().hold); // put down
    }
};

} // namespace

std::unique_ptr<Tool> insideTool(Desk& desk) { return std::make_unique<InsideTool>(desk); }

} // namespace yokai
