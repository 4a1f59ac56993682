#include "trail/panels.h"

#include "sheet/sheet.h"

namespace yokai {

SheetPanel::SheetPanel(Desk& desk, QWidget* parent) : RowPanel(desk, parent)
{
    const Scope<SheetSpec> sheet = [](Job& job) { return &job.sheet; };
    std::vector<std::pair<Media, QString>> media;
    for (const Media& m : knownMedia())
        media.emplace_back(m, QString::fromStdString(m.name));
    static const Media own{"custom", Length(), Length()}; // of whatever size it has
    media.emplace_back(own, tr("Own size"));
    list(by<Media>([](Job& job) { return std::optional<Media>(job.sheet.media.name == own.name ? own : job.sheet.media); },
                   [](Job& job, const Media& m) { job.sheet.media = m == own ? Media{own.name, job.sheet.media.width, job.sheet.media.height} : m; })
             .id("sheet-media")
             .label(tr("Paper"))
             .tip(tr("The sheet that goes through the printer"))
             .of(media));
    const auto ofItsOwn = [this] { return desk_.job().sheet.media.name == own.name; };
    const auto side = [](Length Media::*member) {
        return by<Length>([member](Job& job) { return std::optional(job.sheet.media.*member); }, [member](Job& job, const Length& v) { job.sheet.media.*member = v; });
    };
    number(side(&Media::width).id("sheet-width").label(tr("Width")).tip(tr("Of the sheet as it stands upright")).within(10, 5'000).step(1).when(ofItsOwn));
    number(side(&Media::height).id("sheet-height").label(tr("Height")).tip(tr("Of the sheet, or a length of the roll")).within(10, 50'000).step(1).when(ofItsOwn));
    choice(on(sheet, &SheetSpec::landscape)
               .id("sheet-landscape")
               .label(tr("Lies"))
               .tip(tr("The long side upright or across"))
               .of({{false, tr("Portrait")}, {true, tr("Landscape")}}));
    number(on(pieceScope(), &Piece::copies)
               .id("sheet-copies")
               .label(tr("Copies"))
               .tip(tr("How many of the chosen piece go on the sheet"))
               .automatic(tr("As many as fit"))
               .otherwise([this]() -> std::optional<int> {
                   const PieceResult* r = desk_.currentResult();
                   return r ? std::optional<int>(desk_.shown()->derived.sheet.placed[std::size_t(r - desk_.shown()->derived.pieces.data())]) : std::nullopt;
               })
               .when([this] { return desk_.currentPiece() != nullptr; }));
    number(on(sheet, &SheetSpec::gap).id("sheet-gap").label(tr("Gap")).tip(tr("Between neighbours")).step(0.5));
    number(on(sheet, &SheetSpec::margin).id("sheet-margin").label(tr("Margin")).tip(tr("Kept clear at the sheet's edges")).step(1));
    choice(on(sheet, &SheetSpec::marks)
               .id("sheet-marks")
               .label(tr("Marks"))
               .tip(tr("Registration marks that the cutter looks for"))
               .of({{MarkStyle::Dots, tr("Dots")}, {MarkStyle::None, tr("None")}}));
    const auto marked = [this] { return desk_.job().sheet.marks != MarkStyle::None; };
    number(on(sheet, &SheetSpec::markInset).id("sheet-inset").label(tr("Mark inset")).tip(tr("From the sheet's edges to a mark's centre")).step(1).when(marked));
    number(on(sheet, &SheetSpec::markDiameter).id("sheet-mark-size").label(tr("Mark size")).tip(tr("How large a dot is, across")).step(0.5).when(marked));
}

} // namespace yokai
