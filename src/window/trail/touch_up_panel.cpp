#include "trail/panels.h"

namespace yokai {

TouchUpPanel::TouchUpPanel(Desk& desk, QWidget* parent) : RowPanel(desk, parent)
{
    addNote(tr("The lines go to the machine as they were fitted. Their nodes are shown on the bench: round where the line goes on smoothly, pointed at corners."));
    const Scope<CheckSpec> check = [](Job& job) { return &job.check; };
    fold("limits", tr("What the tool can cut"));
    number(on(check, &CheckSpec::toolRadius)
               .id("tool-radius")
               .label(tr("Tool radius"))
               .tip(tr("The tightest inside corner that the tool can follow"))
               .step(0.05));
    number(on(check, &CheckSpec::leastNeck).id("least-neck").label(tr("Least neck")).tip(tr("What stays between two cuts is at least this wide")).step(0.1));
    number(on(check, &CheckSpec::leastGap).id("least-gap").label(tr("Least gap")).tip(tr("What falls out between two cuts is at least this wide")).step(0.1));
    number(on(check, &CheckSpec::leastArea).id("least-area").label(tr("Least area")).tip(tr("Of a part or an opening")).step(0.5).area());
    number(on(check, &CheckSpec::leastLength).id("least-length").label(tr("Least length")).tip(tr("Of a line")).step(0.5));
    number(on(check, &CheckSpec::drift).id("drift").label(tr("Drift")).tip(tr("How far the cut is expected to land off the print")).step(0.05));
    number(on(check, &CheckSpec::leastPpi).id("least-ppi").label(tr("Least resolution")).tip(tr("A picture with less prints soft")).step(10, 0).suffix(tr(" ppi")));
    endFold();
}

} // namespace yokai
