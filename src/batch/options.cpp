#include "options.h"

#include "base/error.h"
#include "formats/format.h"

#include <CLI/CLI.hpp>

#include <iostream>

namespace yokai::batch {

namespace {

// ".svg, .pdf or .dxf"
std::string knownFormats(bool images)
{
    std::vector<std::string> names;
    for (const Format& f : formats())
        if (f.images || !images)
            names.push_back(f.extension);
    std::string out;
    for (std::size_t i = 0; i < names.size(); ++i)
        out += (i == 0 ? "" : i + 1 == names.size() ? " or " : ", ") + names[i];
    return out;
}

} // namespace

bool Options::asLines() const
{
    if (!as.empty() && as != "lines" && as != "artwork")
        throw Error(ErrorKind::Usage, "--as '{}' is no way to take a drawing; use artwork or lines", as);
    return as == "lines";
}

void Options::requireOutput() const
{
    if (out.empty() && print.empty() && cut.empty() && proof.empty() && report.empty())
        throw Error(ErrorKind::Usage, "nothing to write; add --out FILE{} or --report -", verb == "sheet" ? ", --print FILE, --cut FILE, --proof FILE" : "");
    if (const Format* format = formatOf(proof); !proof.empty() && (!format || std::string_view(format->extension) != ".pdf"))
        throw Error(ErrorKind::Usage, "--proof '{}' does not end in .pdf, which a proof is", proof);
    std::vector<std::string> files = out;
    if (!cut.empty())
        files.push_back(cut);
    if (verb == "plan") {
        for (const std::string& file : files)
            if (!file.ends_with(".gcode") && !file.ends_with(".nc") && !file.ends_with(".plt"))
                throw Error(ErrorKind::Usage, "'{}' ends in no program's format; use .gcode, .nc or .plt", file);
        return;
    }
    for (const std::string& file : files)
        if (const bool job = file.ends_with(".yokai") && verb != "register", folder = verb == "layers" && file.ends_with('/'); !formatOf(file) && !job && !folder)
            throw Error(ErrorKind::Usage, "'{}' ends in no format that is written; use {}", file, knownFormats(false));
    if (const Format* format = formatOf(print); !print.empty() && (!format || !format->images))
        throw Error(ErrorKind::Usage, "'{}' ends in no print format; use {}", print, knownFormats(true));
}

// Over 60 lines: one option after another.
std::optional<int> readOptions(int argc, char** argv, Options& o)
{
    CLI::App app{"Yokai without a window: cut lines around printed pictures, sheets with registration marks, and cuts moved onto the print."};
    app.set_version_flag("--version", std::string("yokai-batch ") + YOKAI_VERSION);
    app.require_subcommand(1);
    const auto pieceOptions = [&](CLI::App* verb) {
        verb->add_option("--width", o.width, "the picture's width, as 62mm or 2.5in; the height follows");
        verb->add_option("--height", o.height, "the picture's height; the width follows");
        verb->add_option("--ppi", o.ppi, "the picture's resolution");
        verb->add_option("--keep", o.keep, "what is picture: auto, alpha, paper, dark, light, all, colour=#rrggbb or subject=X,Y,WxH");
        verb->add_option("--level", o.level, "where it begins: 0..100");
        verb->add_option("--smallest-part", o.smallestPart, "drop smaller parts, as 1mm2");
        verb->add_option("--openings", o.openings, "keep, fill or over=AREA");
        verb->add_option("--line", o.lines, "a cut line, as through:2mm or kiss:-0.5mm; again for more")->expected(1)->take_all();
        verb->add_option("--corners", o.corners, "round, sharp or flat");
        verb->add_option("--join", o.join, "join parts nearer than this into one");
        verb->add_option("--round-inside", o.roundInside, "round inside corners to this radius");
        verb->add_option("--line-openings", o.lineOpenings, "of the lines: keep, none (the outer lines alone) or over=AREA; as --openings unless said");
        verb->add_option("--perforate", o.perforate, "write perforate lines as dashes, as 3mm/0.8mm (unbroken unless said)");
        verb->add_option("--bleed", o.bleed, "how far the print runs on past what is kept, as 2mm");
        verb->add_option("--bleed-from", o.bleedFrom, "its colours: edge (the nearest; unless said), mirror, or one as #rrggbb");
        verb->add_option("--underprint", o.underprint, "a white plate beneath the print, smaller by this choke, as 0.2mm");
        verb->add_option("--smoothing", o.smoothing, "evens out frayed edges (as much as the picture needs unless said)");
        verb->add_option("--straighten", o.straighten, "turn the picture clockwise by degrees, -45..45");
        verb->add_flag("--lies", o.lies, "the rectangle is the sheet: what is seen lies there already, is cut where it lies, and is not printed");
        verb->add_option("--rectangle", o.rectangle, "take out tilt: pixels of a known rectangle's corners from the top left round to the right, and its sides, as 120,80,910,95,930,700,100,690=210mmx297mm");
        verb->add_option("--crop", o.crop, "X,Y,WxH in mm of the picture, or kept");
        verb->add_option("--crop-margin", o.cropMargin, "left round what is kept by --crop kept (0)");
        verb->add_flag("--mirror", o.mirror, "left for right");
        verb->add_option("--recipe", o.recipe, "all settings of a .yokai job's first piece, or of a saved recipe; other options over them");
        verb->add_option("--upi", o.upi, "units an inch of an SVG without a physical size (96)");
        verb->add_option("--as", o.as, "of a drawing: artwork (to cut around) or lines (its paths are the cut lines; SVG, DXF, PDF or EPS) (artwork)");
        verb->add_option("--page", o.page, "of a TIFF or PDF with several pages (1)");
        verb->add_option("--tab", o.tabs, "a tab to hang it by, as 10mm/4mm@top: across/its hole@top, right, bottom, left or X,Y; again for more")
            ->expected(1)
            ->take_all();
        verb->add_option("--bridges", o.bridges, "uncut stretches that hold each through cut in its sheet, as 4/0.5mm");
        verb->add_option("--tolerance", o.tolerance, "how closely curves are fitted (0.02mm)");
    };
    const auto reports = [&](CLI::App* verb, const std::string& more = {}) { verb->add_option("--report", o.report, "a JSON report, - for standard output" + more); };
    const auto strict = [&](CLI::App* verb) { verb->add_flag("--strict", o.strict, "an error finding fails the run"); };
    const auto output = [&](CLI::App* verb) {
        verb->add_option("--out", o.out, "a file to write; its ending chooses the format: " + knownFormats(false) + "; again for more")->expected(1)->take_all();
        reports(verb);
        verb->add_option("--spot", o.spots, "a kind's spot colour, as through=Dieline; a name alone is the through line's; again for more")
            ->expected(1)
            ->take_all();
        verb->add_option("--dxf", o.dxf, "curves in .dxf: arcs, r12 (short lines for old readers) or splines (arcs)");
        verb->add_option("--hairline", o.hairline, "the width of cut lines in files (0.001in)");
        strict(verb);
    };
    const auto limits = [&](CLI::App* verb) {
        verb->add_option("--tool-radius", o.toolRadius, "the tightest inside corner the tool follows (0.25mm)");
        verb->add_option("--least-neck", o.leastNeck, "of what stays between two cuts (1mm)");
        verb->add_option("--least-gap", o.leastGap, "of what falls out between two cuts (0.5mm)");
        verb->add_option("--least-area", o.leastArea, "of a part or an opening (4mm2)");
        verb->add_option("--least-length", o.leastLength, "of a line (3mm)");
        verb->add_option("--least-ppi", o.leastPpi, "under which a picture prints soft (150)");
        verb->add_option("--drift", o.drift, "how far the cut is expected to land off the print (0.3mm)");
    };
    const auto tools = [&](CLI::App* verb) {
        verb->add_option("--machine", o.machine, "its name, or a .json file of it; without one the sheet is the bed");
        verb->add_option("--kerf", o.kerf, "the width that is lost (the machine's)");
        verb->add_option("--blade-offset", o.bladeOffset, "from the pivot to the tip that trails it (the machine's)");
        verb->add_option("--overcut", o.overcut, "past the start of closed lines (the machine's)");
        verb->add_option("--passes", o.passes, "of every operation (the material's)");
        verb->add_option("--feed", o.feed, "of every operation, as 20mm/s or 30in/min; a bare number is mm/min (the material's)");
        verb->add_option("--power", o.power, "of a laser, percent (the material's)");
        verb->add_option("--force", o.force, "of a blade, gram (the material's)");
        verb->add_option("--sheet-at", o.sheetAt, "X,Y: from the bed's near left corner to the sheet's, about (the job's own, or 0,0)");
        verb->add_flag("--by-operation", o.byOperation, "all of one operation before the next, instead of copy by copy");
    };
    const auto paper = [&](CLI::App* verb) {
        verb->add_option("--paper", o.paper, "A4, Letter, ... or a size like 210x297mm");
        verb->add_flag("--landscape", o.landscape, "the long side across");
        verb->add_option("--margin", o.margin, "kept clear all round (10mm)");
    };
    const auto markOptions = [&](CLI::App* verb) {
        verb->add_option("--marks", o.marks, "dots, crosses, brackets or none");
        verb->add_option("--mark-count", o.markCount, "3 to 8 (5)");
        verb->add_option("--mark-size", o.markSize, "across (5mm)");
        verb->add_option("--mark-inset", o.markInset, "from the sheet's edges to a mark's centre (12mm)");
        verb->add_option("--mark-gap", o.markGap, "along a long sheet: bands of marks no farther apart");
    };
    CLI::App* outline = app.add_subcommand("outline", "the cut lines of one picture, alone");
    outline->add_option("ART", o.inputs, "the picture, or a drawing")->required()->expected(1);
    pieceOptions(outline);
    limits(outline);
    output(outline);

    CLI::App* sheet = app.add_subcommand("sheet", "copies and marks on a sheet, from pictures or a .yokai job");
    sheet->add_option("ART", o.inputs, "pictures, or one job")->expected(0, 1000);
    sheet->add_option("--order", o.order, "instead: a CSV of file,copies,width,height,recipe");
    pieceOptions(sheet);
    paper(sheet);
    sheet->add_option("--copies", o.copies, "of each picture, or 'fill'");
    sheet->add_option("--share", o.share, "with --copies fill: a mix by ratio, a number for each picture, as 3:1:2");
    sheet->add_option("--gap", o.gap, "between pieces (3mm)");
    sheet->add_option("--layout", o.layout, "grid (rows), stagger (rows set off by half a step) or nest (by true shapes)");
    sheet->add_option("--columns", o.columns, "at most as many in a row");
    sheet->add_option("--rows", o.rows, "at most as many rows");
    sheet->add_option("--gap-down", o.gapDown, "between rows (as --gap)");
    sheet->add_option("--turn", o.turn, "of nested pieces: none, quarter or free (quarter)");
    sheet->add_flag("--nest-mirror", o.nestMirror, "nested pieces may be turned over");
    sheet->add_option("--seconds", o.seconds, "to look for a better nesting (5)");
    sheet->add_option("--seed", o.seed, "the same seed gives the same nesting (1)");
    sheet->add_flag("--sheet-mirror{both}", o.sheetMirror, "the whole sheet left for right; --sheet-mirror=print or =cut for one alone");
    sheet->add_flag("--trim", o.trim, "cut a box round all");
    sheet->add_flag("--separate", o.separate, "cut a grid between the pieces");
    markOptions(sheet);
    sheet->add_option("--print", o.print, "the file to print: picture and marks");
    sheet->add_option("--stretch", o.stretch, "X,Y: the printer's measured scale in percent; the print file undoes it (100,100)");
    sheet->add_option("--proof", o.proof, "pages for the customer's yes, as .pdf: each piece with its lines and sizes");
    sheet->add_option("--material", o.material, "what it is made of, as the proof says it; with --machine its name or .json file, too");
    tools(sheet);
    sheet->add_option("--maker", o.maker, "the name on the proof");
    sheet->add_option("--maker-logo", o.makerLogo, "the picture beside it");
    sheet->add_option("--print-ppi", o.printPpi, "of a print file that is all pixels (300)");
    sheet->add_option("--cut", o.cut, "the file to cut: cut lines and marks");
    limits(sheet);
    output(sheet);

    CLI::App* layers = app.add_subcommand("layers", "a flat-colour picture as one cut file a colour, all with the same marks");
    layers->add_option("ART", o.inputs, "the picture")->required()->expected(1);
    layers->add_option("--colours", o.colours, "how many, or auto: as many as there are (auto)");
    layers->add_option("--merge", o.merge, "the CIEDE2000 difference under which two colours are one (10)");
    layers->add_flag("--photo", o.photo, "the picture is shaded, as photos are: it is reduced to so many colours (6)");
    layers->add_option("--speckle", o.speckle, "areas of a colour under this are given to what lies round them (0)");
    layers->add_option("--drop", o.drop, "a colour that becomes no layer, as #rrggbb; again for more")->expected(1)->take_all();
    layers->add_option("--spread", o.spread, "of each layer under those above, so that no gap shows (0)");
    layers->add_option("--backing", o.backing, "a layer beneath all, its outline so far outside of everything");
    pieceOptions(layers);
    paper(layers);
    markOptions(layers);
    layers->add_flag("--sheet-mirror{both}", o.sheetMirror, "all left for right, as transfers are cut");
    limits(layers);
    output(layers);

    CLI::App* engrave = app.add_subcommand("engrave", "the engraving of one picture, and with --line the cut after it, as one program");
    engrave->add_option("ART", o.inputs, "the picture")->required()->expected(1);
    engrave->add_option("--engrave", o.engrave, "fill (what is kept, all alike), threshold, dither, diffuse or grey (the power follows it) (fill)");
    engrave->add_option("--interval", o.interval, "between lines (the material's)");
    engrave->add_option("--angle", o.angle, "of the lines, degrees counter-clockwise (0)");
    engrave->add_option("--overscan", o.overscan, "past the ends of a line, without power (2mm)");
    engrave->add_flag("--one-way", o.oneWay, "every line from the same end");
    engrave->add_flag("--reverse", o.reverse, "all inside the through line but the picture");
    engrave->add_option("--burn-level", o.burnLevel, "with threshold: what is darker than this lightness is burnt, percent (50)");
    engrave->add_option("--curve", o.curve, "the exponent of the grey; above 1 lighter (1)");
    engrave->add_option("--least-power", o.leastPower, "with grey: of the lightest that is burnt, percent of the material's power (0)");
    pieceOptions(engrave);
    tools(engrave);
    engrave->add_option("--material", o.material, "its name, or a .json file of it");
    limits(engrave);
    output(engrave);

    CLI::App* check = app.add_subcommand("check", "what may go wrong with a .yokai job, or with a picture's cut lines");
    check->add_option("JOB", o.inputs, "the job, or the picture")->required()->expected(1);
    pieceOptions(check);
    limits(check);
    reports(check, "; without it a line a finding");
    strict(check);

    CLI::App* schema = app.add_subcommand("schema", "the JSON Schema of a .yokai job's job.json, on standard output");
    schema->add_option("OF", o.inputs, "job, machine or material (job)")->expected(0, 1);

    const auto fits = [&](CLI::App* verb) {
        verb->add_option("--fit", o.fit, "auto, rigid, scaled, affine or projective");
        verb->add_option("--max-residual", o.maxResidual, "refuse a fit that misses a mark by more (0.3mm)");
        verb->add_option("--upi", o.upi, "units an inch of an SVG without a physical size (96)");
    };
    CLI::App* reg = app.add_subcommand("register", "the cut of a .yokai job, an SVG or a DXF moved onto the print");
    reg->add_option("--layer", o.layer, "of a job's colour layers the one that is cut, by its name");
    reg->add_option("CUT", o.inputs, "the job or the cut file")->required()->expected(1);
    reg->add_option("--measured", o.measured, "JSON with the measured marks")->required();
    fits(reg);
    output(reg);

    CLI::App* marks = app.add_subcommand("marks", "where a printed sheet's marks are in a photo or a scan of it");
    marks->add_option("PICTURE", o.inputs, "the photo or scan")->required()->expected(1);
    marks->add_option("--job", o.marksJob, "the .yokai job that was printed");
    marks->add_option("--marks-of", o.marksOf, "instead: the JSON report of its sheet");
    marks->add_option("--ppi", o.ppi, "of a scan; else the file's, if the marks then have their distances");
    marks->add_option("--flatten", o.flatten, "the sheet out of the picture, straight and at true scale (.png)");
    reports(marks, "; what register reads");

    CLI::App* plan = app.add_subcommand("plan", "a machine's program for the cut of a .yokai job, an SVG or a DXF, with order, lengths and time");
    plan->add_option("--layer", o.layer, "of a job's colour layers the one that is cut, by its name");
    plan->add_option("CUT", o.inputs, "the job or the cut file")->required()->expected(1);
    plan->add_option("--measured", o.measured, "JSON with measured marks: the cut is moved onto the print first");
    fits(plan);
    plan->add_option("--material", o.material, "its name, or a .json file of it");
    tools(plan);
    output(plan);

    CLI::App* cut = app.add_subcommand("cut", "the cut of a .yokai job, an SVG or a DXF on a machine at a serial port: marks found, fitted, cut");
    cut->add_option("--layer", o.layer, "of a job's colour layers the one that is cut, by its name");
    cut->add_option("CUT", o.inputs, "the job or the cut file")->required()->expected(1);
    cut->add_option("--port", o.port, "the machine's serial port (the machine's own)");
    cut->add_option("--find", o.find, "sensor: its eye looks for the marks; none: the cut goes where the sheet should lie (sensor)");
    cut->add_option("--measured", o.measured, "instead: JSON with measured marks");
    cut->add_flag("--sure", o.sure, "cut also where the fit is in doubt");
    fits(cut);
    cut->add_option("--material", o.material, "its name, or a .json file of it");
    tools(cut);
    reports(cut);
    strict(cut);
    try {
        app.parse(argc, argv);
    } catch (const CLI::CallForHelp& e) {
        app.exit(e);
        return 0;
    } catch (const CLI::CallForVersion& e) {
        app.exit(e);
        return 0;
    } catch (const CLI::ParseError& e) {
        std::cerr << "yokai-batch: " << e.what() << "; see yokai-batch --help\n";
        return 2;
    }
    const CLI::App* verb = app.get_subcommands().front();
    // A script's empty variable must not pass for an option that was not given.
    for (const CLI::Option* option : verb->get_options())
        for (const std::string& value : option->results())
            if (value.empty()) {
                std::cerr << "yokai-batch: " << option->get_name() << " has no value; see yokai-batch --help\n";
                return 2;
            }
    o.verb = verb->get_name();
    return std::nullopt;
}

} // namespace yokai::batch
