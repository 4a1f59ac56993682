#include "desk/placings.h"
#include "formats/project/spec_text.h"
#include "trail/panels.h"
#include "words.h"

#include <QLabel>
#include <QSettings>

namespace yokai {

namespace {

const Media own{"custom", Length(), Length()}; // of whatever size it has

bool isRoll(const Media& media)
{
    const auto rolls = knownRolls();
    return std::any_of(rolls.begin(), rolls.end(), [&](const Media& roll) { return roll.name == media.name && roll.width == media.width; });
}

Scope<SheetSpec> sheetScope()
{
    return [](Job& job) { return &job.sheet; };
}
Scope<MarkSpec> markScope()
{
    return [](Job& job) { return &job.sheet.marks; };
}

} // namespace

SheetPanel::SheetPanel(Desk& desk, QWidget* parent) : RowPanel(desk, parent)
{
    makeMedia();
    makeLayout();
    makeHand();
    note_ = addNote();
    makeMargins();
    makeMarks();
    makeCuts();
}

void SheetPanel::makeMedia()
{
    std::vector<std::pair<Media, QString>> media;
    for (const Media& m : knownMedia())
        media.emplace_back(m, QString::fromStdString(m.name));
    for (const Media& m : knownRolls())
        media.emplace_back(m, QString::fromStdString(m.name));
    media.emplace_back(own, tr("Own size"));
    // A roll is known by its width: its length is the maker's.
    const auto as = [](const Media& m) {
        if (isRoll(m))
            for (const Media& roll : knownRolls())
                if (roll.name == m.name)
                    return roll;
        return m.name == own.name ? own : m;
    };
    list(by<Media>([as](Job& job) { return std::optional<Media>(as(job.sheet.media)); },
                   [](Job& job, const Media& m) { job.sheet.media = m == own ? Media{own.name, job.sheet.media.width, job.sheet.media.height} : m; })
             .id("sheet-media")
             .label(tr("Paper"))
             .tip(tr("The sheet that goes through the printer, or a length of the roll"))
             .of(media));
    const auto ofItsOwn = [this] { return desk_.job().sheet.media.name == own.name; };
    const auto side = [](Length Media::*member) {
        return by<Length>([member](Job& job) { return std::optional(job.sheet.media.*member); }, [member](Job& job, const Length& v) { job.sheet.media.*member = v; });
    };
    number(side(&Media::width).id("sheet-width").label(tr("Width")).tip(tr("Of the sheet as it stands upright")).within(10, 5'000).step(1).when(ofItsOwn));
    number(side(&Media::height)
               .id("sheet-height")
               .label(tr("Length"))
               .tip(tr("Of the sheet as it stands upright, or of what is taken off the roll"))
               .within(10, 50'000)
               .step(1)
               .when([this, ofItsOwn] { return ofItsOwn() || isRoll(desk_.job().sheet.media); }));
    choice(on(sheetScope(), &SheetSpec::landscape)
               .id("sheet-landscape")
               .label(tr("Lies"))
               .tip(tr("The long side upright or across"))
               .of({{false, tr("Portrait")}, {true, tr("Landscape")}}));
    number(on(pieceScope(), &Piece::copies)
               .id("sheet-copies")
               .label(tr("Copies"))
               .tip(tr("How many of the chosen piece are wanted, on as many sheets as it takes"))
               .automatic(tr("As many as fit"))
               .otherwise([this]() -> std::optional<int> {
                   const PieceResult* r = desk_.currentResult();
                   return r ? std::optional<int>(desk_.shown()->derived.sheet.placed[std::size_t(r - desk_.shown()->derived.pieces.data())]) : std::nullopt;
               })
               .when([this] { return desk_.currentPiece() && !desk_.currentPiece()->artwork.lies(); })); // of what lies there, there is one
    number(on(pieceScope(), &Piece::share)
               .id("sheet-share")
               .label(tr("Share"))
               .tip(tr("Of this piece in the mix: 2 beside 1 gives twice as many"))
               .when([this] {
                   const auto& pieces = desk_.job().pieces;
                   return desk_.currentPiece() && !desk_.currentPiece()->copies && std::count_if(pieces.begin(), pieces.end(), [](const Piece& p) { return !p.copies; }) > 1;
               }));
}

void SheetPanel::makeLayout()
{
    const Scope<GridSpec> grid = [](Job& job) { return &job.sheet.grid; };
    const Scope<NestSpec> nest = [](Job& job) { return &job.sheet.nest; };
    list(on(sheetScope(), &SheetSpec::layout)
             .id("sheet-layout")
             .label(tr("Layout"))
             .tip(tr("In rows; in rows set off by half a step; or nested by their true shapes"))
             .of({{LayoutKind::Grid, tr("Rows")}, {LayoutKind::Stagger, tr("Staggered rows")}, {LayoutKind::Nest, tr("Nested")}}));
    number(on(sheetScope(), &SheetSpec::gap).id("sheet-gap").label(tr("Gap")).tip(tr("At least as much between neighbours")).step(0.5));
    const auto nested = [this] { return desk_.job().sheet.layout == LayoutKind::Nest; };
    const auto rowed = [nested] { return !nested(); };
    choice(on(nest, &NestSpec::turns)
               .id("nest-turns")
               .label(tr("Turns"))
               .tip(tr("How pieces may be turned to fit"))
               .of({{Turns::None, tr("None")}, {Turns::Quarter, tr("Quarter")}, {Turns::Free, tr("Free")}})
               .when(nested));
    list(on(sheetScope(), &SheetSpec::mirror)
             .id("sheet-mirror")
             .label(tr("Mirror"))
             .tip(tr("The whole sheet left for right, for transfers and for engraving from behind"))
             .of({{SheetMirror::None, tr("Nothing")}, {SheetMirror::Both, tr("Print and cut")}, {SheetMirror::Print, tr("Print alone")}, {SheetMirror::Cut, tr("Cut alone")}}));
    fold("sheet-rows", tr("More on the layout"));
    number(on(grid, &GridSpec::columns).id("grid-columns").label(tr("Columns")).tip(tr("At most as many in a row")).automatic(tr("As many as fit")).when(rowed));
    number(on(grid, &GridSpec::rows).id("grid-rows").label(tr("Rows")).tip(tr("At most as many on a sheet")).automatic(tr("As many as fit")).when(rowed));
    number(on(grid, &GridSpec::gapDown).id("grid-gap-down").label(tr("Gap down")).tip(tr("Between rows")).step(0.5).automatic(tr("As between columns")).otherwise([this]() -> std::optional<Length> { return desk_.job().sheet.gap; }).when(rowed));
    tick(on(nest, &NestSpec::mirror).id("nest-mirror").label(tr("May be turned over")).tip(tr("Nested pieces may be mirrored, too")).when(nested));
    tick(on(nest, &NestSpec::openings)
             .id("nest-openings")
             .label(tr("Use openings"))
             .tip(tr("Others may lie in openings that are cut through and fall out"))
             .when(nested));
    number(on(nest, &NestSpec::seconds).id("nest-seconds").label(tr("Look for")).tip(tr("How long something better is looked for")).step(1, 0).suffix(tr(" s")).when(nested));
    number(on(nest, &NestSpec::seed).id("nest-seed").label(tr("Seed")).tip(tr("Another seed gives another sheet; the same always the same")).when(nested));
    endFold();
}

IconButton* SheetPanel::press(const char* icon, const QString& name, const QString& tip, std::size_t atLeast, std::function<void()> run)
{
    auto* button = new IconButton(QLatin1String(icon), name, tip, this);
    button->setObjectName(QStringLiteral("sheet-") + QLatin1String(icon));
    connect(button, &QAbstractButton::clicked, this, run);
    presses_.emplace_back(button, atLeast);
    return button;
}

void SheetPanel::makeHand()
{
    using edits::Side;
    fold("sheet-hand", tr("Placing by hand"));
    makePlace();
    const auto group = [this](const QString& text, std::initializer_list<QWidget*> controls) {
        QWidget* row = addGroup(text, controls);
        keepShown(row, {});
        keepShown(labelOf(row), {});
    };
    group(tr("Turn"), {press("turn-left", tr("Turn left"), tr("The selected copies a quarter to the left (Shift+R)"), 1, [this] { edits::turnCopies(desk_, -90); }),
                          press("turn-right", tr("Turn right"), tr("The selected copies a quarter to the right (R)"), 1, [this] { edits::turnCopies(desk_, 90); }),
                          press("mirror", tr("Mirror"), tr("The selected copies left for right (M)"), 1, [this] { edits::mirrorCopies(desk_); }),
                          press("lock", tr("Lock"), tr("No hand moves them until they are unlocked; again unlocks"), 1,
                                [this] {
                                    const auto copies = edits::selectedCopies(desk_);
                                    const Placing* first = copies.empty() ? nullptr : edits::placingOf(desk_, copies.back());
                                    edits::lockCopies(desk_, !(first && first->locked));
                                }),
                          press("lay-again", tr("Lay out again"), tr("The selected copies are laid out with the rest again; with none selected, all that are not locked"), 0,
                                [this] { edits::layAgain(desk_); })});
    alignTo_ = new ChoiceBox(this);
    alignTo_->setObjectName("sheet-align-to");
    alignTo_->setAccessibleName(tr("Align to"));
    alignTo_->setToolTip(tr("What the selected copies are aligned to"));
    alignTo_->addItems({tr("One another"), tr("Last picked"), tr("Sheet"), tr("Margin")});
    auto* to = new QLabel(tr("Align to"), this);
    addRow(to, nullptr, alignTo_);
    keepShown(alignTo_, {});
    keepShown(to, {});
    const auto align = [this](const char* icon, const QString& name, Side side) {
        return press(icon, name, name, 1, [this, side] { edits::alignCopies(desk_, side, edits::AlignTo(alignTo_->currentIndex())); });
    };
    group(tr("Across"), {align("align-left", tr("Left sides"), Side::Left), align("align-middle", tr("Middles"), Side::Middle), align("align-right", tr("Right sides"), Side::Right),
                            press("spread-across", tr("Spread across"), tr("As much between each and the next"), 3, [this] { edits::spreadCopies(desk_, true); })});
    group(tr("Down"), {align("align-top", tr("Upper sides"), Side::Top), align("align-centre", tr("Middles down"), Side::Centre), align("align-bottom", tr("Lower sides"), Side::Bottom),
                          press("spread-down", tr("Spread down"), tr("As much between each and the next"), 3, [this] { edits::spreadCopies(desk_, false); })});
    const auto duplicate = [this](bool across) { edits::duplicateCopies(desk_, int(more_->number()), apart_->length().mm(), across); };
    group(tr("Copy"), {press("copy-across", tr("Copies across"), tr("More of the selected copies beside them"), 1, [duplicate] { duplicate(true); }),
                          press("copy-down", tr("Copies down"), tr("More of the selected copies below them"), 1, [duplicate] { duplicate(false); }),
                          press("copy-mirrored", tr("Mirrored copy"), tr("A mirrored copy beside each"), 1, [this] { edits::mirroredBeside(desk_, apart_->length().mm()); }),
                          press("group", tr("Group"), tr("The selected copies are picked and moved together"), 2, [this] { edits::groupCopies(desk_, true); }),
                          press("ungroup", tr("Ungroup"), tr("Each by itself again"), 1, [this] { edits::groupCopies(desk_, false); })});
    endFold();
}

NumberField* SheetPanel::placeField(const char* id, const QString& text, const QString& tip, NumberField::Meaning meaning, std::function<double(const Placement&)> get,
                                    std::function<void(Placing&, const NumberField&)> set)
{
    auto* field = new NumberField(meaning, this);
    auto* label = new ScrubLabel(text, field, this);
    field->setObjectName(QLatin1String(id));
    field->setAccessibleName(text);
    field->setToolTip(tip);
    field->setRange(meaning == NumberField::Meaning::Length ? -50'000 : -360, meaning == NumberField::Meaning::Length ? 50'000 : 360);
    field->setStep(1);
    addRow(label, nullptr, field);
    const auto shown = [this] { return std::holds_alternative<CopiesSelected>(desk_.selection()); };
    keepShown(field, shown);
    keepShown(label, shown);
    connect(field, &NumberField::edited, this, [this, field, set, key = QString::fromLatin1(id)](NumberField::How how) {
        if (how == NumberField::How::Dropped || !desk_.current())
            return;
        edits::changeCopies(desk_, tr("place copies"), [&](Placing& placing, const Placement&) { set(placing, *field); }, how == NumberField::How::Typed ? QString() : key);
    });
    places_.push_back([this, field, get, meaning](const Placement* p) {
        field->setUnit(desk_.unit());
        if (p && meaning == NumberField::Meaning::Length)
            field->setLength(Length::mm(get(*p)));
        else if (p)
            field->setNumber(get(*p));
    });
    return field;
}

void SheetPanel::makePlace()
{
    using Meaning = NumberField::Meaning;
    const auto middle = [this](const Placement& p) { return p.toSheet(desk_.shown()->derived.pieces[p.at].box.centre()); };
    placeField("place-x", tr("Across"), tr("From the sheet's left side to the copy's middle"), Meaning::Length, [middle](const Placement& p) { return middle(p).x; },
               [](Placing& p, const NumberField& f) { p.x = f.length(); });
    placeField("place-y", tr("Down"), tr("From the sheet's upper side to the copy's middle"), Meaning::Length, [middle](const Placement& p) { return middle(p).y; },
               [](Placing& p, const NumberField& f) { p.y = f.length(); });
    placeField("place-turn", tr("Turned"), tr("Clockwise"), Meaning::Number, [](const Placement& p) { return turnOf(p.toSheet); }, [](Placing& p, const NumberField& f) { p.turn = f.number(); })
        ->setSuffix(QStringLiteral("\u00b0"));
    more_ = new NumberField(Meaning::Number, this);
    apart_ = new NumberField(Meaning::Length, this);
    const auto setting = [this](NumberField* field, const char* id, const QString& text, const QString& tip) {
        auto* label = new ScrubLabel(text, field, this);
        field->setObjectName(QLatin1String(id));
        field->setAccessibleName(text);
        field->setToolTip(tip);
        addRow(label, nullptr, field);
        keepShown(field, {});
        keepShown(label, {});
    };
    more_->setRange(1, 1000);
    more_->setDecimals(0);
    more_->setNumber(1);
    apart_->setRange(0, 1000);
    apart_->setStep(0.5);
    apart_->setLength(desk_.job().sheet.gap);
    setting(more_, "copy-more", tr("More"), tr("How many more of each are put in a row"));
    setting(apart_, "copy-apart", tr("Apart"), tr("The gap between one and the next"));
}

template <class T> void SheetPanel::keepShelf(const char* id, const QString& what, T SheetSpec::*member)
{
    shelf(
        id, what, [this, member] { return QStringList{QString::fromStdString(specText(desk_.job().sheet.*member))}; },
        [this, member](const QString& name, const QStringList& kept) {
            const auto spec = specFromText<T>(kept.value(0).toStdString());
            if (spec)
                desk_.edit(tr("use %1").arg(name), [&](Job& job) { job.sheet.*member = *spec; });
            return spec.has_value();
        });
}

void SheetPanel::makeMargins()
{
    fold("sheet-margins", tr("Margins, reach, kept sizes"));
    number(on(sheetScope(), &SheetSpec::margin).id("sheet-margin").label(tr("Margin")).tip(tr("Kept clear of pieces at the sheet's edges")).step(1));
    number(on(sheetScope(), &SheetSpec::printMargin).id("sheet-print-margin").label(tr("Not printed")).tip(tr("At the sheet's edges, where the printer prints nothing")).step(0.5));
    number(on(sheetScope(), &SheetSpec::reachAcross).id("sheet-reach-across").label(tr("Reach across")).tip(tr("How far the machine reaches from the sheet's left side")).step(1).automatic(tr("All of it")).otherwise([this]() -> std::optional<Length> { return Length::mm(desk_.job().sheet.width()); }));
    number(on(sheetScope(), &SheetSpec::reachDown).id("sheet-reach-down").label(tr("Reach down")).tip(tr("How far the machine reaches from the sheet's upper side")).step(1).automatic(tr("All of it")).otherwise([this]() -> std::optional<Length> { return Length::mm(desk_.job().sheet.height()); }));
    keepShelf("kept-sizes", tr("Kept sizes"), &SheetSpec::media);
    endFold();
}

void SheetPanel::makeMarks()
{
    fold("sheet-marks-fold", tr("Registration marks"));
    list(on(markScope(), &MarkSpec::style)
             .id("sheet-marks")
             .label(tr("Marks"))
             .tip(tr("What the cutter looks for to know where the print lies; each can be dragged on the sheet. In the picture: crosses drawn by hand or any features; press near each"))
             .of({{MarkStyle::Dots, tr("Dots")}, {MarkStyle::Crosses, tr("Crosses")}, {MarkStyle::Brackets, tr("Brackets")}, {MarkStyle::InPicture, tr("In the picture")}, {MarkStyle::None, tr("None")}}));
    const auto marked = [this] { return desk_.job().sheet.marks.style != MarkStyle::None && desk_.job().sheet.marks.style != MarkStyle::InPicture; };
    const auto lined = [this] { return desk_.job().sheet.marks.style == MarkStyle::Crosses || desk_.job().sheet.marks.style == MarkStyle::Brackets; };
    const auto inPicture = [this] { return desk_.job().sheet.marks.style == MarkStyle::InPicture; };
    auto* feature = holder("sheet", "pick", Hold::MarkFeature, tr("Mark a feature"), tr("Press near a cross or any feature: its middle is a mark; Delete takes the selected one away"));
    QWidget* features = addGroup(tr("Features"), {feature});
    keepShown(features, inPicture);
    number(on(markScope(), &MarkSpec::count)
               .id("sheet-mark-count")
               .label(tr("Count"))
               .tip(tr("From five on, one tells which way up the sheet lies"))
               .when([this, marked] { return marked() && desk_.job().sheet.marks.bandGap == Length(); }));
    number(on(markScope(), &MarkSpec::size).id("sheet-mark-size").label(tr("Mark size")).tip(tr("How large a mark is, across")).step(0.5).when(marked));
    number(on(markScope(), &MarkSpec::weight).id("sheet-mark-weight").label(tr("Line weight")).tip(tr("How thick its lines are")).step(0.1).when(lined));
    number(on(markScope(), &MarkSpec::inset).id("sheet-inset").label(tr("Mark inset")).tip(tr("From the sheet's edges to a mark's middle, or a bracket's corner")).step(1).when(marked));
    number(on(markScope(), &MarkSpec::clear).id("sheet-mark-clear").label(tr("Kept clear")).tip(tr("Round each mark, left blank")).step(0.5).when(marked));
    number(on(markScope(), &MarkSpec::bandGap).id("sheet-mark-bands").label(tr("Bands")).tip(tr("Along a long sheet a pair of marks at least every so far; 0 for none")).step(10).when(marked));
    keepShelf("kept-marks", tr("Kept layouts of marks"), &SheetSpec::marks);
    endFold();
}

void SheetPanel::makeCuts()
{
    const Scope<ExtraCuts> cuts = [](Job& job) { return &job.sheet.cuts; };
    fold("sheet-cuts", tr("More cuts"));
    tick(on(cuts, &ExtraCuts::separate).id("cuts-separate").label(tr("Part the copies")).tip(tr("Straight through cuts between them")));
    tick(on(cuts, &ExtraCuts::boxEach).id("cuts-box-each").label(tr("Box round each")).tip(tr("To weed by")));
    tick(on(cuts, &ExtraCuts::boxAll).id("cuts-box-all").label(tr("Box round all")).tip(tr("To weed by, or to take the sheet apart")));
    const auto boxed = [this] { return desk_.job().sheet.cuts.boxEach || desk_.job().sheet.cuts.boxAll; };
    std::vector<std::pair<LineKind, QString>> kinds;
    for (const LineKind kind : lineKinds)
        kinds.emplace_back(kind, title(kind));
    number(on(cuts, &ExtraCuts::boxGap).id("cuts-box-gap").label(tr("Box gap")).tip(tr("From what is cut or printed to the box")).step(0.5).when(boxed));
    list(on(cuts, &ExtraCuts::boxKind).id("cuts-box-kind").label(tr("Box cut")).tip(tr("How the boxes are cut")).of(kinds).when(boxed));
    tick(on(cuts, &ExtraCuts::trim).id("cuts-trim").label(tr("Trim the margin off")).tip(tr("A through cut along the margin")));
    tick(on(cuts, &ExtraCuts::notch).id("cuts-notch").label(tr("Notch a corner")).tip(tr("The upper left corner off, to know the way up")));
    number(on(cuts, &ExtraCuts::notchSize).id("cuts-notch-size").label(tr("Notch")).tip(tr("How far from the corner")).step(1).when([this] { return desk_.job().sheet.cuts.notch; }));
    tick(on(cuts, &ExtraCuts::slit).id("cuts-slit").label(tr("Peel slit")).tip(tr("Straight across each copy, to peel it off by")));
    list(on(cuts, &ExtraCuts::slitKind).id("cuts-slit-kind").label(tr("Slit cut")).tip(tr("How the slit is cut")).of(kinds).when([this] { return desk_.job().sheet.cuts.slit; }));
    endFold();
}

void SheetPanel::refreshRest()
{
    const auto copies = edits::selectedCopies(desk_);
    for (const auto& [button, atLeast] : presses_)
        button->setEnabled(desk_.current() && (copies.size() >= atLeast) && (atLeast > 0 || !desk_.job().placings.empty()));
    for (const auto& place : places_)
        place(copies.empty() ? nullptr : &copies.back());
    apart_->setUnit(desk_.unit());
    const std::size_t placed = desk_.job().placings.size();
    note_->setText(copies.empty() ? placed > 0 ? tr("%n copies were placed by hand; they stay put.", nullptr, int(placed)) : QString()
                                  : tr("%n copies selected.", nullptr, int(copies.size())));
    note_->setVisible(!note_->text().isEmpty());
}

} // namespace yokai
