#include "device/test_cut.h"

#include "device/programs.h"
#include "job/features.h"
#include "formats/machine/own_files.h"
#include "formats/pdf/pdf.h"
#include "machine/kerf.h"
#include "path/near_line.h"


#include <nlohmann/json.hpp>

namespace yokai {

namespace {

// The line an item's cut should lie on, on the sheet, y up.
Polyline wanted(const CutItem& item, const Machine& machine, double height)
{
    const double half = machine.tool.kerf.mm() / 2;
    Polyline out;
    for (const Path& path : movedAside(item.path, item.opening ? -half : half, 0.005)) {
        Polyline points = flatten(transformed(path, {1, 0, 0, -1, 0, height}), 0.002);
        if (path.closed)
            points.push_back(points.front());
        out.insert(out.end(), points.begin(), points.end());
    }
    return out;
}

// How far each cut landed from its line on the print; on the way in and out of it there is no line.
void compare(const nlohmann::json& report, const CutOrder& order, const CutDone& done, bool printed, TestCutResult& out)
{
    const auto& cuts = report.at("cuts");
    std::vector<int> items; // one each that was cut
    for (const ToolRun& run : done.plan.runs) {
        if (!run.drawnIn.arcs.empty())
            items.push_back(ToolRun::noItem);
        if (!run.scan)
            items.push_back(run.item);
    }
    if (cuts.size() != items.size())
        throw Error(ErrorKind::Device, "the machine made {} cuts of {}; try again", std::to_string(cuts.size()), std::to_string(items.size()));
    const ToolSpec& tool = done.plan.machine.tool;
    double sum = 0;
    std::size_t count = 0;
    std::map<int, NearLine> lines;
    const Point corner{order.spec.plan.sheetX.mm(), order.spec.plan.sheetY.mm()};
    for (std::size_t i = 0; i < cuts.size(); ++i) {
        const auto& onBed = cuts[i].at("bed_mm");
        const auto& onSheet = cuts[i].at("sheet_mm");
        const int item = items[i];
        if (item == ToolRun::noItem)
            continue;
        const auto line = lines.try_emplace(item, std::vector<Polyline>{wanted(order.sheet.cuts[std::size_t(item)], done.plan.machine, order.sheet.height)}).first;
        const auto point = [](const nlohmann::json& j) { return Point{j[0].get<double>(), j[1].get<double>()}; };
        // A blade goes in and out along the line; one that found no waste to be drawn into its heading does that on its first line.
        const bool blade = done.plan.machine.kind == MachineKind::Cutter;
        const double inWay = blade ? (i == 0 ? 5 * tool.bladeOffset.mm() : 0.0) : tool.leadIn.mm(), outWay = blade ? 0.0 : tool.leadOut.mm();
        constexpr double slack = 0.05; // mm
        double whole = 0, way = 0;
        for (std::size_t k = 1; k < onSheet.size(); ++k)
            whole += distance(point(onSheet[k - 1]), point(onSheet[k]));
        Polyline landed, ideal;
        for (std::size_t k = 0; k < onSheet.size(); ++k) {
            const Point bed = point(onBed[k]);
            // Where nothing is printed, what is cut is held against where it was to be on the bed.
            const Point sheet = printed ? point(onSheet[k]) : bed - corner;
            if (k > 0)
                way += distance(point(onSheet[k - 1]), point(onSheet[k]));
            landed.push_back(bed);
            const bool led = inWay > 0 && way < inWay + slack, leaves = outWay > 0 && whole - way < outWay + slack;
            if (led || leaves)
                continue;
            const Point should = line->second.to(sheet);
            // So small a way is turned no further by how the sheet lies.
            const Point onPrint = bed + (should - sheet);
            ideal.push_back(onPrint);
            const double miss = distance(should, sheet);
            sum += miss;
            ++count;
            if (miss > out.worst) {
                out.worst = miss;
                out.worstAt = bed;
                out.worstShouldBe = onPrint;
            }
        }
        out.landed.push_back(std::move(landed));
        out.ideal.push_back(std::move(ideal));
    }
    out.mean = sum / double(std::max<std::size_t>(1, count));
}

} // namespace

namespace {

// What is there already lies on the simulator's bed as the scan shows it, whole: with the features that are its marks.
void layThings(Drawing& print, const Job& job, const Derived& derived, int sheet)
{
    const bool mirrored = job.sheet.mirror == SheetMirror::Both;
    const Affine mirror = mirrored ? Affine{-1, 0, 0, 1, print.width, 0} : Affine{};
    for (const Placement& place : derived.sheet.on(sheet)) {
        const PieceResult& piece = derived.pieces[place.at];
        if (!piece.pixels || !isThere(job, job.pieces[place.at]))
            continue;
        DrawnImage image{{piece.pixels, Affine::scale(piece.width / piece.pixels->width(), piece.height / piece.pixels->height())}};
        image.places = {mirror * place.toSheet};
        print.images.push_back(std::move(image));
    }
}

} // namespace

CutOrder orderOf(const Job& job, const Derived& derived, int sheet, const Work& work)
{
    CutOrder order;
    order.sheet = drawSheetToCut(job, derived, sheet, work);
    if (order.sheet.cutMarks)
        order.sheet.marks = *std::exchange(order.sheet.cutMarks, std::nullopt);
    order.spec = job.cut;
    order.spec.useFit = usesFit(job, derived);
    return order;
}

QString standInProgram() { return programBeside(QStringLiteral("yokai-standin")); }

TestBed::TestBed(const Job& job, const Derived& derived, int sheet, const QString& standIn, const Work& work)
{
    if (job.sheet.mirror == SheetMirror::Print || job.sheet.mirror == SheetMirror::Cut)
        throw Error(ErrorKind::Fit, "print and cut are mirrored apart, so the sheet lies face down for the cut; the stand-in cuts only what lies face up");
    if (derived.sheet.on(sheet).empty())
        throw Error(ErrorKind::Input, "there is nothing on the sheet to cut; add a picture with a cut line");
    if (usesFit(job, derived) && derived.sheet.marks.empty())
        throw Error(ErrorKind::Fit, "the sheet has no marks to fit to; switch marks on under Sheet, or the fit off");
    const QString printFile = scratch_.filePath(QStringLiteral("print.pdf"));
    work.report(0.02, "printing");
    printed_ = derived.printed;
    order_ = orderOf(job, derived, sheet, work);
    Drawing print = drawSheet(job, derived, sheet, Content::Print, work);
    if (print.marks.empty()) // of a sheet on which things lie already they are there, too
        print.marks = order_.sheet.marks;
    layThings(print, job, derived, sheet);
    writeFile(printFile.toStdString(), writePdf(print, Content::Print, {work.stop, {}}));
    // The stand-in is the machine that was chosen, or one with an eye that reaches as far as the sheet may lie off.
    PlanSpec& plan = order_.spec.plan;
    if (!plan.machine) {
        constexpr int room = 30; // mm all round the sheet
        Machine m;
        m.bed.width = Length::mm(derived.sheet.width + 2 * room);
        m.bed.depth = Length::mm(derived.sheet.height + 2 * room);
        plan.machine = m;
        plan.sheetX = plan.sheetY = Length::mm(room);
    }
    const QString machineFile = scratch_.filePath(QStringLiteral("machine.json"));
    writeFile(machineFile.toStdString(), writeMachine(*plan.machine));
    const StandInSpec& s = job.cut.standIn;
    // Another sheet strays in another way, the same one in the same.
    const auto seed = unsigned(s.shiftX.ticks() * 31 + s.shiftY.ticks());
    QStringList options{QStringLiteral("--machine=") + machineFile, QStringLiteral("--eye=%1").arg(plan.machine->eye.repeatability.mm()), QStringLiteral("--seed=%1").arg(seed % 1'000'000)};
    if (s.trueTime)
        options << QStringLiteral("--pace=1");
    there_ = std::make_unique<StandIn>(standIn, options);
    MachineLine line(link(), *plan.machine);
    SerialMachine& machine = line.reached(work);
    machine.ask(QStringLiteral("$YASKEW=%1,%2,%3,%4,%5,%6,%7").arg(s.stretchX, 0, 'f', 6).arg(s.stretchY, 0, 'f', 6).arg(s.turn, 0, 'f', 6).arg(s.skew, 0, 'f', 6).arg(s.shiftX.mm() + plan.sheetX.mm(), 0, 'f', 4).arg(s.shiftY.mm() + plan.sheetY.mm(), 0, 'f', 4).arg(s.swell.mm(), 0, 'f', 4), work);
    machine.ask(QStringLiteral("$YSHEET=") + printFile, work, 120'000);
}

LinkSpec TestBed::link() const
{
    LinkSpec link = order_.spec.plan.machine->link;
    link.port = there_->port().toStdString();
    return link;
}

BedPicture TestBed::picture(MachineLine& line, const Work& work) const
{
    const QString file = scratch_.filePath(QStringLiteral("bed.png"));
    const std::vector<double> view = line.reached(work).figures(QStringLiteral("$YVIEW=") + file, QStringLiteral("VIEW"), 3, work);
    const QImage image = QImage(file).convertToFormat(QImage::Format_RGB32);
    if (image.isNull())
        throw Error(ErrorKind::Device, "the picture of the stand-in's bed cannot be read; free some memory or disk space and try again");
    return {image, {view[0], view[1]}, view[2]};
}

TestCutResult TestBed::landed(MachineLine& line, const CutDone& done, const Work& work) const
{
    TestCutResult out;
    out.marks = inOrder(done.marks, done.fit.value_or(Fit{}));
    out.fit = done.fit;
    out.planned = done.plan.seconds;
    out.steps = done.plan.steps;
    out.bed = picture(line, work);
    const QString reportFile = scratch_.filePath(QStringLiteral("report.json"));
    line.reached(work).ask(QStringLiteral("$YREPORT=") + reportFile, work, 60'000);
    const Bytes bytes = readFile(reportFile.toStdString());
    try {
        const auto report = nlohmann::json::parse(bytes.begin(), bytes.end());
        out.took = report.at("seconds").get<double>();
        compare(report, order_, done, printed_, out);
    } catch (const nlohmann::json::exception&) {
        throw Error(ErrorKind::Device, "the stand-in's report makes no sense; try again");
    }
    return out;
}

TestCutResult runTestCut(const Job& job, const Derived& derived, int sheet, const QString& standIn, const Work& work)
{
    const TestBed bed(job, derived, sheet, standIn, work);
    CutControl control;
    const CutDone done = cutOnMachine(bed.order(), bed.link(), control, {}, {work.stop, [&](double f, std::string_view what) { work.report(0.1 + 0.8 * f, what); }});
    work.report(0.92, "looking at the sheet");
    MachineLine line(bed.link(), machineOf(bed.order()));
    TestCutResult out = bed.landed(line, done, work);
    work.report(1, "done");
    return out;
}

} // namespace yokai
