#include "bench/tools.h"
#include "desk/layer_edits.h"
#include "desk/piece_edits.h"

namespace yokai {

namespace {

// A colour picked, of Keep or of the bleed, or an area of like colour rubbed out, by one press.
class PickTool : public HeldTool {
public:
    explicit PickTool(Desk& desk) : HeldTool(desk, {Hold::RubOutLike, Hold::Pick, Hold::PickLayer, Hold::PickBleed}) {}
    bool press(const Pointer& at) override { return pressed_ = at.left(); }
    void release(const Pointer& at) override
    {
        if (!std::exchange(pressed_, false))
            return;
        if (desk_.hand().hold == Hold::Pick)
            edits::pick(desk_, at.mm);
        else if (desk_.hand().hold == Hold::PickLayer)
            edits::pickLayer(desk_, at.mm);
        else if (desk_.hand().hold == Hold::PickBleed)
            edits::pickBleed(desk_, at.mm);
        else
            edits::rubOutLike(desk_, at.mm);
    }
    void cancel() override { pressed_ = false; }

private:
    bool pressed_ = false;
};

} // namespace

std::unique_ptr<Tool> pickTool(Desk& desk) { return std::make_unique<PickTool>(desk); }

} // namespace yokai
