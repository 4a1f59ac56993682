#include "desk/operation_edits.h"
#include "desk/piece_edits.h"
#include "theme/theme.h"
#include "trail/line_rows.h"
#include "trail/panels.h"
#include "trail/units.h"
#include "theme/ask.h"
#include "words.h"

#include <QFileDialog>
#include <QSettings>
#include <QCheckBox>
#include <QLabel>
#include <QSignalBlocker>

namespace yokai {

CutLinesPanel::CutLinesPanel(Desk& desk, QWidget* parent) : RowPanel(desk, parent)
{
    layerBox("line-layer");
    rows_ = new LineRows(desk, this);
    addWide(rows_);
    auto* add = new IconButton(QStringLiteral("plus"), tr("Add a line"), tr("One more line"), this);
    copy_ = new IconButton(QStringLiteral("copy"), tr("Copy the line"), tr("One more line, set as this one"), this);
    remove_ = new IconButton(QStringLiteral("trash"), tr("Remove the line"), tr("Takes this line away"), this);
    add->setObjectName("line-add");
    copy_->setObjectName("line-copy");
    remove_->setObjectName("line-remove");
    auto* take = new IconButton(QStringLiteral("take-line"), tr("Take the line along"), tr("As it is, to be put on other pieces"), this);
    put_ = new IconButton(QStringLiteral("put-line"), tr("Put the line here"), tr("The line taken along, at the same place from the picture's middle"), this);
    auto* drawing = new IconButton(QStringLiteral("folder"), tr("Lines from a drawing"), tr("The paths of an SVG, DXF, PDF or EPS as cut lines, as they are drawn"), this);
    take->setObjectName("line-take");
    put_->setObjectName("line-put");
    drawing->setObjectName("line-drawing");
    addGroup(tr("Lines"), {add, copy_, take, remove_}, tr("As many as the piece needs"));
    addGroup(tr("Brought in"), {put_, drawing}, tr("Lines from another piece or from a drawing, as they are there"));
    connect(take, &QAbstractButton::clicked, this, [this] { edits::takeLine(desk_); });
    connect(put_, &QAbstractButton::clicked, this, [this] { edits::putLine(desk_); });
    connect(drawing, &QAbstractButton::clicked, this, &CutLinesPanel::openDrawing);
    connect(add, &QAbstractButton::clicked, this, [this] { edits::addLine(desk_, false); });
    connect(copy_, &QAbstractButton::clicked, this, [this] { edits::addLine(desk_, true); });
    connect(remove_, &QAbstractButton::clicked, this, [this] { edits::removeLine(desk_); });
    makeLine();
    makeRest();
}

// Over 60 lines: the line's rows, one after another.
void CutLinesPanel::makeLine()
{
    const auto any = [this] { return desk_.currentLine() != nullptr; };
    const auto perforates = [this] { return desk_.currentLine() && desk_.currentLine()->kind == LineKind::Perforate; };
    const auto outline = [this] { return desk_.currentLine() && desk_.currentLine()->shape == LineShape::Outline; };
    auto kind = on(lineScope(), &LineSpec::kind);
    kind.set = [line = lineScope()](Job& job, const LineKind& to) {
        LineSpec* l = line(job);
        if (!l)
            return;
        l->kind = to;
        if (to == LineKind::Perforate && l->gapLength == Length())
            l->gapLength = 800_um;
    };
    std::vector<std::pair<LineKind, QString>> kinds;
    for (const LineKind k : lineKinds)
        kinds.emplace_back(k, title(k));
    list(std::move(kind)
             .id("line-kind")
             .label(tr("Kind"))
             .tip(tr("Through cuts all, kiss leaves the backing whole, perforate leaves bridges, crease does not cut"))
             .of(kinds)
             .when(any));
    units_ = new ChoiceBox(this);
    units_->setObjectName("line-units");
    units_->setAccessibleName(tr("Its unit"));
    units_->setToolTip(tr("The drawing says no size: how many of its units are an inch, and how large that makes its lines"));
    addWide(units_);
    keepShown(units_, [this] { return desk_.currentLine() && desk_.currentLine()->shape == LineShape::Drawn && desk_.currentLine()->drawnUnit; });
    connect(units_, &ChoiceBox::activated, this, [this](int index) { edits::takeUnit(desk_, units_->itemData(index).toDouble()); });
    auto offset = on(lineScope(), &LineSpec::offset);
    offset.set = [line = lineScope()](Job& job, const Length& to) {
        if (LineSpec* l = line(job)) {
            l->offset = to;
            l->percent.reset();
        }
    };
    number(std::move(offset)
               .id("line-offset")
               .label(tr("Offset"))
               .tip(tr("How far outside the edge the line runs, below 0 inside it: a length, or a percentage of the piece's longer side, as 3%"))
               .slider(-5, 10)
               .percent([line = lineScope()](Job& job) -> std::optional<double> { return line(job) ? line(job)->percent : std::nullopt; },
                        [line = lineScope()](Job& job, double to) {
                            if (LineSpec* l = line(job))
                                l->percent = to;
                        })
               .when([this] { return desk_.currentLine() && desk_.currentLine()->shape != LineShape::Drawn; }));
    choice(on(lineScope(), &LineSpec::corners)
               .id("line-corners")
               .label(tr("Corners"))
               .tip(tr("How the line goes round the picture's corners"))
               .of({{Corners::Round, tr("Round")}, {Corners::Sharp, tr("Sharp")}, {Corners::Flat, tr("Flat")}})
               .when(outline));
    choice(on(lineScope(), &LineSpec::openings)
               .id("line-openings")
               .label(tr("Openings"))
               .tip(tr("Whether the line has openings, of the picture or left between parts: all, those over an area, or none"))
               .of({{LineOpenings::All, tr("All")}, {LineOpenings::Over, tr("Over")}, {LineOpenings::None, tr("None")}})
               .when(outline));
    number(on(lineScope(), &LineSpec::openingsOver)
               .id("line-openings-over")
               .label(tr("Openings over"))
               .tip(tr("Smaller openings of the line close"))
               .within(0, 1e6)
               .step(0.5, 1)
               .area()
               .when([this] {
                   return desk_.currentLine() && desk_.currentLine()->shape == LineShape::Outline && desk_.currentLine()->openings == LineOpenings::Over;
               }));
    number(on(lineScope(), &LineSpec::joinGap)
               .id("join-gap")
               .label(tr("Join gaps"))
               .tip(tr("Parts nearer to each other than this become one piece"))
               .slider(0, 10)
               .when(outline));
    number(on(lineScope(), &LineSpec::cutLength).id("line-cut").label(tr("Cut")).tip(tr("Length of a dash of the perforation")).when(perforates));
    number(on(lineScope(), &LineSpec::gapLength)
               .id("line-gap")
               .label(tr("Bridge"))
               .tip(tr("What stays between two dashes; 0 writes the line unbroken, for machines that make the pattern"))
               .when(perforates));
}

void CutLinesPanel::makeRest()
{
    const auto any = [this] { return desk_.currentLine() != nullptr; };
    const auto is = [this](LineShape shape) { return desk_.currentLine() && desk_.currentLine()->shape == shape; };
    const auto outline = [is] { return is(LineShape::Outline); };
    fold("cut-lines", tr("Shape, inside corners, tolerance"));
    auto shape = on(lineScope(), &LineSpec::shape);
    // What is drawn is the line as it is now.
    shape.set = [this, line = lineScope()](Job& job, const LineShape& to) {
        LineSpec* l = line(job);
        if (!l)
            return;
        if (to == LineShape::Drawn && l->drawn.empty())
            edits::drawAsItIs(*l, desk_);
        else
            l->shape = to;
    };
    list(std::move(shape)
             .id("line-shape")
             .label(tr("Follows"))
             .tip(tr("What the line keeps its distance from"))
             .of({{LineShape::Outline, tr("The outline")},
                  {LineShape::Box, tr("A box")},
                  {LineShape::RoundedBox, tr("A rounded box")},
                  {LineShape::Ellipse, tr("An ellipse")},
                  {LineShape::Circle, tr("A circle")},
                  {LineShape::BoxRoundAll, tr("A box round all lines")},
                  {LineShape::Drawn, tr("Nothing: as drawn")}})
             .when(any));
    number(on(lineScope(), &LineSpec::boxRadius).id("line-radius").label(tr("Corner radius")).tip(tr("Of the rounded box")).when([is] {
        return is(LineShape::RoundedBox);
    }));
    number(on(lineScope(), &LineSpec::sharpLimit)
               .id("line-sharp-limit")
               .label(tr("Sharp up to"))
               .tip(tr("Corners that would reach farther than this many offsets are cut flat"))
               .step(0.5, 1)
               .suffix(QStringLiteral(" \u00d7"))
               .when([this, outline] { return outline() && desk_.currentLine()->corners == Corners::Sharp; }));
    number(on(lineScope(), &LineSpec::roundInside)
               .id("round-inside")
               .label(tr("Round inside"))
               .tip(tr("Inside corners are rounded to this radius, so that the tool can follow"))
               .when(outline));
    number(on(lineScope(), &LineSpec::tolerance)
               .id("line-tolerance")
               .label(tr("Curve tolerance"))
               .tip(tr("How closely the curves follow; looser means fewer nodes"))
               .step(0.01)
               .when(outline));
    operation_ = new ChoiceBox(this);
    operation_->setObjectName("line-operation");
    operation_->setAccessibleName(tr("Operation"));
    operation_->setToolTip(tr("With which operation the line is cut; one of its own has its own speed, force or power, and its own turn"));
    auto* label = new QLabel(tr("Operation"), this);
    label->setToolTip(operation_->toolTip());
    addRow(label, operation_, nullptr);
    keepShown(operation_, any);
    keepShown(label, any);
    connect(operation_, &ChoiceBox::activated, this, [this](int choice) {
        if (const LineSpec* line = desk_.currentLine())
            edits::putOn(desk_, line->id, choice);
    });
    tick(by<bool>([line = lineScope()](Job& job) -> std::optional<bool> { return line(job) && line(job)->clipsPrint; },
                  [this](Job& job, const bool& clips) {
                      Layer* layer = layerScope()(job);
                      for (std::size_t i = 0; layer && i < layer->lines.size(); ++i)
                          layer->lines[i].clipsPrint = clips && int(i) == desk_.line();
                  })
             .id("line-clips")
             .label(tr("Print up to this line"))
             .tip(tr("The picture is printed, with its own surround, up to this line and no farther"))
             .when(any));
    endFold();
}

void CutLinesPanel::openDrawing()
{
    const QString path = QFileDialog::getOpenFileName(window(), tr("A drawing whose paths are cut lines"), QSettings().value("pictures").toString(), tr("Drawings (*.svg *.dxf *.pdf *.eps);;All files (*)"));
    if (!path.isEmpty())
        edits::openDrawing(desk_, path, [this](const CutFile& file) {
            const std::vector<double> all = unitsFor(file);
            QStringList answers;
            int taken = 0;
            for (const double units : all) {
                const double k = file.unitsAnInch / units;
                if (units == file.unitsAnInch)
                    taken = int(answers.size());
                answers << tr("%1: %2").arg(unitsText(units), sizeText(file.drawing.width * k, file.drawing.height * k, desk_.unit()));
            }
            return all[std::size_t(theme::ask(window(), "drawing-units", tr("How large is it?"), tr("'%1' says no size. What is one of its units?").arg(text(file.drawing.title)), answers, taken, taken))];
        });
}

// As large as all lines that came in with the one that is chosen.
void CutLinesPanel::refreshUnits()
{
    const LineSpec* line = desk_.currentLine();
    const LayerResult* shown = desk_.layerResult();
    if (!line || !line->drawnUnit || !shown)
        return units_->clear();
    Rect all = Rect::nothing();
    for (const LineSpec& l : desk_.currentLayer()->lines)
        for (const CutLine& made : shown->lines)
            if (l.drawnUnit == line->drawnUnit && made.id == l.id)
                for (const Path& path : *made.paths)
                    all.add(bounds(path));
    const double taken = line->drawnUnit->anInch;
    listUnits(*units_, unitsBeside(taken), taken, [&](double units) { return all.empty() ? QString() : sizeText(all.width() * taken / units, all.height() * taken / units, desk_.unit()); });
}

void CutLinesPanel::refreshRest()
{
    setEnabled(desk_.currentPiece() != nullptr);
    refreshUnits();
    rows_->refresh();
    remove_->setEnabled(desk_.currentLine());
    copy_->setEnabled(desk_.currentLine());
    put_->setEnabled(desk_.hand().taken != nullptr);
    const QSignalBlocker quiet(operation_);
    operation_->clear();
    operation_->addItems(edits::operationsFor(desk_));
    operation_->setCurrentIndex(desk_.currentLine() ? edits::operationOf(desk_, desk_.currentLine()->id) : 0);
}

} // namespace yokai
