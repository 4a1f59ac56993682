#include "keep/colour.h"
#include "trail/panels.h"

#include <QLabel>

namespace yokai {

namespace {

// A colour as it is written: #rrggbb. What is none leaves the one there was.
RowSpec<std::string> colourRow(const Scope<BleedSpec>& scope, Rgba BleedSpec::*member)
{
    return by<std::string>(
        [scope, member](Job& job) -> std::optional<std::string> {
            const BleedSpec* spec = scope(job);
            return spec ? std::optional(hexOf(spec->*member)) : std::nullopt;
        },
        [scope, member](Job& job, const std::string& text) {
            if (BleedSpec* spec = scope(job))
                spec->*member = colourFrom(text).value_or(spec->*member);
        });
}

} // namespace

BleedPanel::BleedPanel(Desk& desk, QWidget* parent) : RowPanel(desk, parent)
{
    const Scope<BleedSpec> bleed = [piece = pieceScope()](Job& job) -> BleedSpec* {
        Piece* p = piece(job);
        return p ? &p->bleed() : nullptr;
    };
    const auto spec = [this]() -> const BleedSpec* { return desk_.currentPiece() ? &desk_.currentPiece()->bleed() : nullptr; };
    number(on(bleed, &BleedSpec::distance)
               .id("bleed-distance")
               .label(tr("Bleed"))
               .tip(tr("How far the print runs on past what is kept"))
               .step(0.5)
               .slider(0, 5));
    choice(on(bleed, &BleedSpec::from)
               .id("bleed-from")
               .label(tr("Colours"))
               .tip(tr("Of the nearest edge, the picture mirrored at its edge, or one"))
               .of({{BleedFrom::Edge, tr("Nearest")}, {BleedFrom::Mirror, tr("Mirrored")}, {BleedFrom::Colour, tr("One")}})
               .when([spec] { return spec() && spec()->distance > Length() && spec()->border == Length(); }));
    words(colourRow(bleed, &BleedSpec::colour).id("bleed-colour").label(tr("Colour")).tip(tr("As #c0325a")).when([spec] {
        return spec() && spec()->distance > Length() && spec()->border == Length() && spec()->from == BleedFrom::Colour;
    }));
    number(on(bleed, &BleedSpec::border)
               .id("bleed-border")
               .label(tr("Border"))
               .tip(tr("A rim of one colour round the picture, printed; the bleed goes on in it"))
               .step(0.5)
               .slider(0, 5));
    words(colourRow(bleed, &BleedSpec::borderColour).id("border-colour").label(tr("Border colour")).tip(tr("As #ffffff")).when([spec] {
        return spec() && spec()->border > Length();
    }));
    const Scope<UnderprintSpec> under = [piece = pieceScope()](Job& job) -> UnderprintSpec* {
        Piece* p = piece(job);
        return p ? &p->underprint() : nullptr;
    };
    const auto white = [this] { return desk_.currentPiece() && desk_.currentPiece()->underprint().on; };
    const auto light = [this, white] { return white() && desk_.currentPiece()->underprint().where == UnderprintWhere::Light; };
    tick(on(under, &UnderprintSpec::on).id("underprint").label(tr("Underprint")).tip(tr("A white plate beneath the print, for clear and dark stock")));
    number(on(under, &UnderprintSpec::choke).id("underprint-choke").label(tr("Choke")).tip(tr("How much smaller than the print the white is")).step(0.05).when(white));
    choice(on(under, &UnderprintSpec::where)
               .id("underprint-where")
               .label(tr("Under"))
               .tip(tr("All of the print, or only where it is light"))
               .of({{UnderprintWhere::All, tr("All")}, {UnderprintWhere::Light, tr("Light")}})
               .when(white));
    number(on(under, &UnderprintSpec::lightFrom).id("underprint-from").label(tr("Begins at")).tip(tr("The lightness L* at which there is first white")).step(5, 0).when(light));
    number(on(under, &UnderprintSpec::lightFull).id("underprint-full").label(tr("Full from")).tip(tr("The lightness L* from which it is full")).step(5, 0).when(light));
    figures_ = addNote();
    fold("bleed", tr("Where the colours are taken"));
    number(on(bleed, &BleedSpec::inside)
               .id("bleed-inside")
               .label(tr("Within the edge"))
               .tip(tr("How far within its edge the picture's colour is taken, past a pale rim"))
               .step(0.05)
               .automatic(tr("Past what blending and JPEG leave"))
               .otherwise([]() -> std::optional<Length> { return std::nullopt; })
               .when([spec] { return spec() && spec()->distance > Length() && spec()->border == Length() && spec()->from != BleedFrom::Colour; }));
    endFold();
}

void BleedPanel::refreshRest()
{
    const LayerResult* r = desk_.layerResult();
    if (!r || r->lines.empty()) {
        figures_->setText(tr("There is no cut line yet."));
        return;
    }
    // The figures themselves stand in the side list.
    const double expected = desk_.job().check.drift.mm();
    figures_->setText(!std::isfinite(r->drift.paper)      ? tr("The print ends within the cut: a border of bare paper stays round it.")
                      : r->drift.paper < expected         ? tr("A cut as far off as is to be expected would show paper; give it more bleed.")
                      : std::isfinite(r->drift.artwork) && r->drift.artwork < expected
                          ? tr("A cut as far off as is to be expected would run into the picture.")
                          : tr("A cut as far off as is to be expected shows no paper."));
}

} // namespace yokai
