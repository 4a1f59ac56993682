#include "options.h"

#include "base/error.h"

#include <CLI/CLI.hpp>

#include <charconv>
#include <filesystem>
#include <iostream>

namespace yokai::batch {

namespace {

double plain(const std::string& text, const char* option, double least, double most)
{
    double value = 0;
    const auto [end, ec] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (ec != std::errc() || end != text.data() + text.size() || !(value >= least && value <= most))
        throw Error(ErrorKind::Usage, std::string(option) + " '" + text + "' is not a number from " + plainNumber(least, 3) + " to " + plainNumber(most, 3));
    return value;
}

Length lengthOption(const std::string& text, const char* option, Length least, Length most)
{
    Length value;
    try {
        value = parseLength(text);
    } catch (const Error& e) {
        throw Error(ErrorKind::Usage, std::string(option) + ": " + e.what());
    }
    if (value < least || value > most)
        throw Error(ErrorKind::Usage,
                    std::string(option) + " '" + text + "' is out of range; use " + plainNumber(least.mm(), 3) + " to " + plainNumber(most.mm(), 0) + " mm");
    return value;
}

LineSpec lineFrom(const std::string& text)
{
    const auto colon = text.find(':');
    for (const LineKind kind : lineKinds)
        if (colon != std::string::npos && text.substr(0, colon) == name(kind))
            return {kind, lengthOption(text.substr(colon + 1), "--line", Length::mm(-500), Length::mm(500))};
    throw Error(ErrorKind::Usage, "--line '" + text + "' is not KIND:OFFSET; write it like through:2mm (kinds: through, kiss, perforate, crease)");
}

std::string extension(const std::string& file)
{
    std::string e = std::filesystem::path(file).extension().string();
    for (char& c : e)
        c = char(std::tolower(static_cast<unsigned char>(c)));
    return e;
}

} // namespace

void Options::requireOutput() const
{
    if (out.empty() && print.empty() && cut.empty() && report.empty())
        throw Error(ErrorKind::Usage, "nothing to write; add --out FILE" + std::string(verb == "sheet" ? ", --print FILE, --cut FILE" : "") + " or --report -");
    std::vector<std::string> cutFiles = out;
    if (!cut.empty())
        cutFiles.push_back(cut);
    for (const std::string& file : cutFiles)
        if (const auto e = extension(file); e != ".svg" && e != ".pdf" && e != ".dxf")
            throw Error(ErrorKind::Usage, "'" + file + "' ends in no format that is written; use .svg, .pdf or .dxf");
    if (!print.empty() && extension(print) != ".pdf" && extension(print) != ".svg")
        throw Error(ErrorKind::Usage, "'" + print + "' ends in no print format; use .pdf or .svg");
}

std::optional<int> readOptions(int argc, char** argv, Options& o)
{
    CLI::App app{"Yokai without a window: cut lines around printed pictures, sheets with registration marks, and cuts moved onto the print."};
    app.set_version_flag("--version", std::string("yokai-batch ") + YOKAI_VERSION);
    app.require_subcommand(1);
    const auto pieceOptions = [&](CLI::App* verb) {
        verb->add_option("--width", o.width, "the picture's width, as 62mm or 2.5in; the height follows");
        verb->add_option("--height", o.height, "the picture's height; the width follows");
        verb->add_option("--ppi", o.ppi, "the picture's resolution");
        verb->add_option("--keep", o.keep, "what is picture: auto, alpha, paper, dark, light, all or colour=#rrggbb");
        verb->add_option("--level", o.level, "where it begins: 0..100");
        verb->add_option("--smallest-part", o.smallestPart, "drop smaller parts, as 1mm2");
        verb->add_option("--openings", o.openings, "keep, fill or over=AREA");
        verb->add_option("--line", o.lines, "a cut line, as through:2mm or kiss:-0.5mm; again for more")->expected(1)->take_all();
        verb->add_option("--corners", o.corners, "round, sharp or flat");
        verb->add_option("--join", o.join, "join parts nearer than this into one");
        verb->add_option("--round-inside", o.roundInside, "round inside corners to this radius");
        verb->add_option("--smallest-notch", o.smallestNotch, "close enclosed notches under this area, as 2mm2");
        verb->add_option("--perforate", o.perforate, "write perforate lines as dashes, as 3mm/0.8mm (unbroken unless said)");
        verb->add_option("--smoothing", o.smoothing, "evens out frayed edges (as much as the picture needs unless said)");
        verb->add_option("--straighten", o.straighten, "turn the picture clockwise by degrees, -45..45");
        verb->add_flag("--mirror", o.mirror, "left for right");
        verb->add_option("--page", o.page, "of a TIFF with several pages (1)");
        verb->add_option("--tolerance", o.tolerance, "how closely curves are fitted (0.02mm)");
    };
    const auto output = [&](CLI::App* verb) {
        verb->add_option("--out", o.out, "a file to write; .svg, .pdf or .dxf chooses the format; again for more")->expected(1)->take_all();
        verb->add_option("--report", o.report, "a JSON report, - for standard output");
        verb->add_option("--spot", o.spot, "the through line's spot colour (CutContour)");
        verb->add_flag("--strict", o.strict, "an error finding fails the run");
    };
    CLI::App* outline = app.add_subcommand("outline", "the cut lines of one picture, alone");
    outline->add_option("ART", o.inputs, "the picture")->required()->expected(1);
    pieceOptions(outline);
    output(outline);

    CLI::App* sheet = app.add_subcommand("sheet", "copies and marks on a sheet, from pictures or a .yokai job");
    sheet->add_option("ART", o.inputs, "pictures, or one job")->required()->expected(1, 1000);
    pieceOptions(sheet);
    sheet->add_option("--paper", o.paper, "A4, Letter, ... or a size like 210x297mm");
    sheet->add_flag("--landscape", o.landscape, "the long side across");
    sheet->add_option("--margin", o.margin, "kept clear all round (10mm)");
    sheet->add_option("--copies", o.copies, "of each picture, or 'fill'");
    sheet->add_option("--gap", o.gap, "between pieces (3mm)");
    sheet->add_option("--marks", o.marks, "dots or none");
    sheet->add_option("--mark-inset", o.markInset, "from the sheet's edges to a mark's centre (12mm)");
    sheet->add_option("--print", o.print, "the file to print: picture and marks");
    sheet->add_option("--cut", o.cut, "the file to cut: cut lines and marks");
    output(sheet);

    CLI::App* reg = app.add_subcommand("register", "the cut of a .yokai job moved onto the print");
    reg->add_option("CUT", o.inputs, "the job")->required()->expected(1);
    reg->add_option("--measured", o.measured, "JSON with the measured marks")->required();
    reg->add_option("--fit", o.fit, "auto, rigid, scaled, affine or projective");
    reg->add_option("--max-residual", o.maxResidual, "refuse a fit that misses a mark by more");
    output(reg);
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
    o.verb = app.get_subcommands().front()->get_name();
    return std::nullopt;
}

namespace {

void applyTo(LineSpec& line, const Options& o)
{
    if (!o.corners.empty()) {
        bool known = false;
        for (const Corners style : {Corners::Round, Corners::Sharp, Corners::Flat})
            if (o.corners == name(style)) {
                line.corners = style;
                known = true;
            }
        if (!known)
            throw Error(ErrorKind::Usage, "--corners '" + o.corners + "' is not round, sharp or flat");
    }
    if (!o.join.empty())
        line.joinGap = lengthOption(o.join, "--join", {}, Length::mm(100));
    if (!o.roundInside.empty())
        line.roundInside = lengthOption(o.roundInside, "--round-inside", {}, Length::mm(100));
    if (!o.smallestNotch.empty())
        line.smallestNotch = parseArea(o.smallestNotch);
    if (!o.tolerance.empty())
        line.tolerance = lengthOption(o.tolerance, "--tolerance", Length::um(1), Length::mm(5));
    if (!o.perforate.empty()) {
        const auto slash = o.perforate.find('/');
        if (slash == std::string::npos)
            throw Error(ErrorKind::Usage, "--perforate '" + o.perforate + "' is not CUT/GAP; write it like 3mm/0.8mm");
        line.cutLength = lengthOption(o.perforate.substr(0, slash), "--perforate", Length::um(50), Length::mm(1000));
        line.gapLength = lengthOption(o.perforate.substr(slash + 1), "--perforate", Length::um(50), Length::mm(1000));
    }
}

} // namespace

void applyTo(Piece& piece, const Options& o)
{
    if (int(!o.width.empty()) + int(!o.height.empty()) + int(!o.ppi.empty()) > 1)
        throw Error(ErrorKind::Usage, "give only one of --width, --height and --ppi; the others follow");
    ArtworkSpec& a = piece.artwork;
    if (!o.width.empty()) {
        a.setWidth(lengthOption(o.width, "--width", Length::um(100), Length::mm(20'000)));
    }
    if (!o.height.empty()) {
        a.setHeight(lengthOption(o.height, "--height", Length::um(100), Length::mm(20'000)));
    }
    if (!o.ppi.empty()) {
        a.sizeBy = SizeBy::Ppi;
        a.ppi = plain(o.ppi, "--ppi", 1, 100'000);
    }
    a.pxPerMm(); // refuses a senseless size before any work
    KeepSpec& k = piece.keep;
    if (o.keep.starts_with("colour=")) {
        const std::string hex = o.keep.substr(7);
        unsigned value = 0;
        const char* end = hex.data() + hex.size();
        if (hex.size() != 7 || hex[0] != '#' || std::from_chars(hex.data() + 1, end, value, 16).ptr != end)
            throw Error(ErrorKind::Usage, "--keep '" + o.keep + "' names no colour; write it like colour=#c0325a");
        k.rule = KeepRule::Colour;
        k.colours = {{{std::uint8_t(value >> 16), std::uint8_t(value >> 8), std::uint8_t(value), 255}, {}}};
    } else if (!o.keep.empty()) {
        const auto rule = keepRuleFrom(o.keep);
        if (!rule || *rule == KeepRule::Colour)
            throw Error(ErrorKind::Usage, "--keep '" + o.keep + "' is no rule; use auto, alpha, paper, dark, light, all or colour=#rrggbb");
        k.rule = *rule;
    }
    if (!o.level.empty())
        k.level = plain(o.level, "--level", 0, 100);
    if (!o.smallestPart.empty())
        k.smallestPart = parseArea(o.smallestPart);
    if (o.openings == "keep" || o.openings == "fill")
        k.openings = o.openings == "keep" ? Openings::Keep : Openings::Fill;
    else if (o.openings.starts_with("over=")) {
        k.openings = Openings::Over;
        k.openingsOver = parseArea(o.openings.substr(5));
    } else if (!o.openings.empty())
        throw Error(ErrorKind::Usage, "--openings '" + o.openings + "' is not keep, fill or over=AREA");
    if (!o.smoothing.empty())
        k.smoothing = lengthOption(o.smoothing, "--smoothing", {}, Length::mm(10));
    if (o.mirror)
        a.mirrorAcross();
    if (!o.straighten.empty())
        a.straightenTo(plain(o.straighten, "--straighten", -45, 45));
    if (!o.lines.empty()) {
        piece.cutLines.lines.clear();
        for (const std::string& line : o.lines)
            piece.cutLines.lines.push_back(lineFrom(line));
    }
    for (LineSpec& line : piece.cutLines.lines)
        applyTo(line, o);
    if (o.copies == "fill")
        piece.copies.reset();
    else if (!o.copies.empty())
        piece.copies = int(plain(o.copies, "--copies", 1, 100'000));
}

void applyTo(SheetSpec& s, const Options& o)
{
    if (!o.paper.empty())
        s.media = mediaFrom(o.paper);
    if (o.landscape)
        s.landscape = true;
    if (!o.margin.empty())
        s.margin = lengthOption(o.margin, "--margin", {}, Length::mm(1000));
    if (!o.gap.empty())
        s.gap = lengthOption(o.gap, "--gap", {}, Length::mm(1000));
    if (o.marks == "dots" || o.marks == "none")
        s.marks = o.marks == "dots" ? MarkStyle::Dots : MarkStyle::None;
    else if (!o.marks.empty())
        throw Error(ErrorKind::Usage, "--marks '" + o.marks + "' is not dots or none");
    if (!o.markInset.empty())
        s.markInset = lengthOption(o.markInset, "--mark-inset", {}, Length::mm(1000));
}

void applyTo(Job& job, const Options& o)
{
    applyTo(job.sheet, o);
    if (!o.spot.empty()) {
        for (const char c : o.spot)
            if (static_cast<unsigned char>(c) < 0x20)
                throw Error(ErrorKind::Usage, "--spot has a control character in it; use plain text");
        job.handOff.spot = o.spot;
    }
    if (!o.fit.empty()) {
        const auto model = fitModelFrom(o.fit);
        if (!model)
            throw Error(ErrorKind::Usage, "--fit '" + o.fit + "' is not auto, rigid, scaled, affine or projective");
        job.cut.model = *model;
    }
    if (!o.maxResidual.empty())
        job.cut.maxResidual = lengthOption(o.maxResidual, "--max-residual", {}, Length::mm(1000));
}

Piece pieceOf(const std::string& path, const Options& options)
{
    Piece piece;
    piece.artwork.picture = openPicture(path);
    if (!options.page.empty())
        piece.artwork.picture = pageOf(piece.artwork.picture, int(plain(options.page, "--page", 1, 10'000)) - 1);
    piece.name = std::filesystem::path(path).stem().string();
    applyTo(piece, options);
    return piece;
}

} // namespace yokai::batch
