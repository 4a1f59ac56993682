#include "bench/tools.h"
#include "desk/piece_edits.h"

namespace yokai {

namespace {

// Keep: a colour picked, or an area of like colour rubbed out, by one press.
class PickTool : public Tool {
public:
    using Tool::Tool;
    bool works() const override;
    bool press(const Pointer& at) override;
    void release(const Pointer& at) override;
    void cancel() override { pressed_ = false; }

private:
    bool pressed_ = false;
};

bool PickTool::works() const
{
    const Hold hold = desk_.hand().hold;
    return (hold == Hold::RubOutLike || hold == Hold::Pick) && desk_.currentResult();
}

bool PickTool::press(const Pointer& at) { return pressed_ = at.left(); }

void PickTool::release(const Pointer& at)
{
    if (!std::exchange(pressed_, false))
        return;
    if (desk_.hand().hold == Hold::Pick)
        edits::pick(desk_, at.mm);
    else
        edits::rubOutLike(desk_, at.mm);
}

} // namespace

std::unique_ptr<Tool> pickTool(Desk& desk) { return std::make_unique<PickTool>(desk); }

} // namespace yokai
