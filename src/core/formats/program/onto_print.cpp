#include "formats/program/onto_print.h"

namespace yokai {

Drawing movedOntoPrint(const Drawing& sheet, const Fit& fit)
{
    Drawing out = sheet;
    const Affine flip{1, 0, 0, -1, 0, sheet.height};
    out.cuts.clear();
    // Dashes and bridges keep their places on the line: they are told along it before it is moved.
    for (const CutItem& item : sheet.cuts)
        for (const Path& path : cutsOf(item)) {
            CutItem piece = item;
            piece.breaks = {};
            piece.path = transformed(fit(transformed(path, flip)), flip);
            out.cuts.push_back(std::move(piece));
        }
    for (EngraveItem& item : out.engravings)
        item.toSheet = nearestAffine(item.of->box, [&](Point p) { return flip(fit(flip(item.toSheet(p)))); });
    const auto move = [&](std::vector<Mark>& marks) {
        for (Mark& m : marks)
            m.centre = flip(fit(flip(m.centre)));
    };
    move(out.marks);
    if (out.cutMarks)
        move(*out.cutMarks);
    out.stretch = {};
    out.plan.sheetX = out.plan.sheetY = Length();
    return out;
}

Plan planOfSheet(const Drawing& sheet, const PlanSpec& spec, const std::optional<Fit>& fit, const Work& work)
{
    const Drawing lies = fit ? sheet : forContent(sheet, Content::Cut);
    OntoPrint onto;
    if (fit)
        onto = [&](const Path& path) { return (*fit)(path); };
    return planOf(lies.cuts, lies.width, lies.height, spec, onto, work, lies.engravings);
}

} // namespace yokai
