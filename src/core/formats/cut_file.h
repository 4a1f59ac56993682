// Cut files as they come from elsewhere, or from here: their lines as drawn, kinds told apart by the groups, layers and
// colours of base/line_kind.h; what is in none of them is cut through. Marks are what a group or layer of marks holds.
#pragma once

#include "artwork/svg_size.h"
#include "base/file.h"
#include "formats/drawing.h"

#include <filesystem>

namespace yokai {

struct CutFile {
    Drawing drawing;         // cuts and marks alone; a copy is an outermost outline and all within it
    double unitsAnInch = 96; // of an SVG that has no physical size; else as the file says
    bool sizeFromFile = true;
    int pages = 1; // of a PDF
    std::vector<std::string> leftOut; // what it holds that cannot come in: "text", "image"
};

// SVG, DXF, PDF or EPS, by its extension. Throws Error(Input) where it cannot be read or holds no line.
CutFile openCutFile(const std::filesystem::path& path, double unitsAnInch = cssUnitsAnInch, const Work& work = {}, int page = 0);
bool isCutFile(const std::filesystem::path& path);
std::string endingOf(const std::filesystem::path& path); // in small letters, with its dot

CutFile readSvg(const Bytes& bytes, const std::string& name, double unitsAnInch, const Work& work = {});
// A page's own paths, by their inks, layers and colours. Throws Error(Input) where there is no such page.
CutFile readPdf(const Bytes& bytes, const std::string& name, int page = 0, const Work& work = {});
CutFile readEps(const Bytes& bytes, const std::string& name, const Work& work = {}); // by Ghostscript, where that is installed
CutFile readDxf(const Bytes& bytes, const std::string& name, const Work& work = {});


// What the unit of a drawing that says no size may be, as units an inch, the one that was taken among them.
std::vector<double> unitsBeside(double taken);
std::vector<double> unitsFor(const CutFile& file); // none where it says its size
void takeUnits(CutFile& file, double unitsAnInch); // it is as large as that makes it

// What a reader ends with: nothing lies farther out than the largest sheet reaches, or it is left out. Throws Error(Input) for a
// drawing that is larger.
void keepWithinReason(CutFile& file, const std::string& name);

// Among the marks: a disc's middle, a cross's, which is that of both its lines, or a bracket's corner.
void addMark(std::vector<Mark>& marks, const Path& path);

} // namespace yokai
