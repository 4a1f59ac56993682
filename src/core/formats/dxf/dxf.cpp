#include "formats/dxf/dxf.h"

#include "base/error.h"
#include "base/file.h"
#include "path/arcs.h"

#include <dxflib/dl_dxf.h>

#include <algorithm>
#include <filesystem>
#include <memory>
#include <string_view>
#include <unistd.h>

namespace yokai {

namespace {

constexpr double tolerance = 0.005, arcTolerance = 0.002;

// dxflib writes to a named file; a scratch file of our own keeps the target whole.
class Scratch {
public:
    Scratch()
    {
        name_ = (std::filesystem::temp_directory_path() / "yokai-XXXXXX").string();
        const int fd = ::mkstemp(name_.data());
        if (fd < 0)
            throw Error(ErrorKind::Output, "cannot write a scratch file in '{}'; make room there", std::filesystem::temp_directory_path().string());
        ::close(fd);
    }
    ~Scratch() { ::unlink(name_.c_str()); }
    Scratch(const Scratch&) = delete;
    Scratch& operator=(const Scratch&) = delete;
    const std::string& name() const { return name_; }

private:
    std::string name_;
};

// Of a kind's lines in one of several colour layers: "CUT_THROUGH_01_RED".
std::string layerName(const Drawing& d, LineKind kind, std::size_t layer)
{
    std::string out = facts(kind).dxfLayer + std::string("_");
    for (const char c : labelOf(d.layers, layer))
        out += c == '-' ? '_' : char(std::toupper(static_cast<unsigned char>(c)));
    return out;
}

std::string layerName(const Drawing& d, const CutItem& item)
{
    for (std::size_t k = 0; d.layers.size() > 1 && k < d.layers.size(); ++k)
        if (d.layers[k].holds(item.line))
            return layerName(d, item.kind, k);
    return facts(item.kind).dxfLayer;
}

// The names that entities use must stand before them.
void writeNames(DL_Dxf& dxf, DL_WriterA& dw, const Drawing& d)
{
    const DL_Attributes plain("0", 7, -1, "CONTINUOUS", 1.0);
    dw.tableLinetypes(3);
    dxf.writeLinetype(dw, DL_LinetypeData("BYBLOCK", "BYBLOCK", 0, 0, 0.0));
    dxf.writeLinetype(dw, DL_LinetypeData("BYLAYER", "BYLAYER", 0, 0, 0.0));
    dxf.writeLinetype(dw, DL_LinetypeData("CONTINUOUS", "Continuous", 0, 0, 0.0));
    dw.tableEnd();
    const bool ofLayers = d.layers.size() > 1;
    dw.tableLayers(3 + int(std::size(lineKinds)) * (1 + (ofLayers ? int(d.layers.size()) : 0)));
    dxf.writeLayer(dw, DL_LayerData("0", 0), plain);
    for (const LineKind kind : lineKinds)
        dxf.writeLayer(dw, DL_LayerData(facts(kind).dxfLayer, 0), DL_Attributes("", facts(kind).dxfColour, -1, "CONTINUOUS", 1.0));
    for (std::size_t k = 0; ofLayers && k < d.layers.size(); ++k)
        for (const LineKind kind : lineKinds)
            dxf.writeLayer(dw, DL_LayerData(layerName(d, kind, k), 0), DL_Attributes("", facts(kind).dxfColour, -1, "CONTINUOUS", 1.0));
    dxf.writeLayer(dw, DL_LayerData("ENGRAVE", 0), DL_Attributes("", 8, -1, "CONTINUOUS", 1.0));
    dxf.writeLayer(dw, DL_LayerData("MARKS", 0), DL_Attributes("", 7, -1, "CONTINUOUS", 1.0));
    dw.tableEnd();
}

// Release 12 knows no more tables than these, and nothing but blocks and entities beside them.
void writeTables(DL_Dxf& dxf, DL_WriterA& dw, const Drawing& d)
{
    dw.sectionTables();
    if (d.dxf == DxfCurves::R12) {
        writeNames(dxf, dw, d);
        dw.sectionEnd();
        return;
    }
    dxf.writeVPort(dw);
    writeNames(dxf, dw, d);
    dw.tableStyle(1);
    dxf.writeStyle(dw, DL_StyleData("Standard", 0, 0.0, 1.0, 0.0, 0, 2.5, "txt", ""));
    dw.tableEnd();
    dxf.writeView(dw);
    dxf.writeUcs(dw);
    dw.tableAppid(1);
    dxf.writeAppid(dw, "ACAD");
    dw.tableEnd();
    dxf.writeDimStyle(dw, 2.5, 1, 1, 1, 2.5);
    dxf.writeBlockRecord(dw);
    dw.tableEnd();
    dw.sectionEnd();
    dw.sectionBlocks();
    for (const char* block : {"*Model_Space", "*Paper_Space", "*Paper_Space0"}) {
        dxf.writeBlock(dw, DL_BlockData(block, 0, 0.0, 0.0, 0.0));
        dxf.writeEndBlock(dw, block);
    }
    dw.sectionEnd();
}

DL_VertexData vertex(Point p, double height, double bulge) { return {p.x, height - p.y, 0, bulge}; }

void writeArcs(DL_Dxf& dxf, DL_WriterA& dw, const Path& path, double height, const DL_Attributes& layer)
{
    const std::vector<Arc> arcs = arcsOf(path, arcTolerance);
    if (arcs.empty())
        return;
    const std::size_t points = arcs.size() + (path.closed ? 0 : 1);
    dxf.writePolyline(dw, DL_PolylineData(int(points), 0, 0, path.closed ? 1 : 0), layer);
    Point from = path.start;
    for (const Arc& arc : arcs) {
        dxf.writeVertex(dw, vertex(from, height, -arc.bulge)); // y up there
        from = arc.end;
    }
    if (!path.closed)
        dxf.writeVertex(dw, vertex(from, height, 0));
    dxf.writePolylineEnd(dw);
}

void writeLines(DL_Dxf& dxf, DL_WriterA& dw, const Path& path, double height, const DL_Attributes& layer)
{
    const Polyline points = flatten(path, tolerance);
    if (points.size() < 2)
        return;
    dxf.writePolyline(dw, DL_PolylineData(int(points.size()), 0, 0, path.closed ? 1 : 0), layer);
    for (const Point p : points)
        dxf.writeVertex(dw, vertex(p, height, 0));
    dxf.writePolylineEnd(dw);
}

// Cubics one after another are a spline whose inner knots count three times.
void writeSpline(DL_Dxf& dxf, DL_WriterA& dw, const Path& path, double height, const DL_Attributes& layer)
{
    constexpr int degree = 3, planar = 8;
    const int pieces = int(path.segments.size());
    if (pieces == 0)
        return;
    const int controls = degree * pieces + 1;
    dxf.writeSpline(dw, DL_SplineData(degree, controls + degree + 1, controls, 0, planar), layer);
    for (int k = 0; k < controls + degree + 1; ++k)
        dxf.writeKnot(dw, DL_KnotData(std::clamp((k - 1) / degree, 0, pieces)));
    const auto control = [&](Point p) { dxf.writeControlPoint(dw, DL_ControlPointData(p.x, height - p.y, 0, 1)); };
    control(path.start);
    for (const Segment& s : path.segments) {
        control(s.c1);
        control(s.c2);
        control(s.end);
    }
}

void writeCurve(DL_Dxf& dxf, DL_WriterA& dw, const Path& path, const Drawing& d, const DL_Attributes& layer)
{
    switch (d.dxf) {
    case DxfCurves::Arcs:
        return writeArcs(dxf, dw, path, d.height, layer);
    case DxfCurves::R12:
        return writeLines(dxf, dw, path, d.height, layer);
    case DxfCurves::Splines:
        return writeSpline(dxf, dw, path, d.height, layer);
    }
}

void writeEntities(DL_Dxf& dxf, DL_WriterA& dw, const Drawing& d, Content content, const Work& work)
{
    dw.sectionEntities();
    const DL_Attributes marksLayer("MARKS", 256, -1, "BYLAYER", 1.0);
    for (const Mark& m : marksFor(d, content)) {
        if (m.style == MarkStyle::Dots)
            dxf.writeCircle(dw, DL_CircleData(m.centre.x, d.height - m.centre.y, 0, m.diameter / 2), marksLayer);
        else
            for (const Path& path : inkOf(m))
                path.each([&](Point from, const Segment& s) {
                    dxf.writeLine(dw, DL_LineData(from.x, d.height - from.y, 0, s.end.x, d.height - s.end.y, 0), marksLayer);
                });
    }
    if (content == Content::Print)
        return dw.sectionEnd();
    // Outlines of what is filled: DXF holds no pixels.
    const DL_Attributes engraved("ENGRAVE", 256, -1, "BYLAYER", 1.0);
    for (const EngraveItem& item : d.engravings)
        for (const Polyline& ring : item.of->outline) {
            work.check();
            if (item.of->spec.as == EngraveAs::Fill)
                writeLines(dxf, dw, transformed(polygonPath(ring), item.toSheet), d.height, engraved);
        }
    for (const CutItem& item : d.cuts) {
        work.check();
        const DL_Attributes layer(layerName(d, item), 256, -1, "BYLAYER", 1.0);
        for (const Path& path : cutsOf(item))
            writeCurve(dxf, dw, path, d, layer);
    }
    dw.sectionEnd();
}

} // namespace

Bytes writeDxf(const Drawing& d, Content content, const Work& work)
{
    const Scratch scratch;
    DL_Dxf dxf;
    {
        const std::unique_ptr<DL_WriterA> writer(dxf.out(scratch.name().c_str(), d.dxf == DxfCurves::R12 ? DL_Codes::AC1009 : DL_Codes::AC1015));
        if (!writer)
            throw Error(ErrorKind::Output, "cannot write a scratch file '{}'; make room there", scratch.name());
        DL_WriterA& dw = *writer;
        dxf.writeHeader(dw);
        dw.dxfString(9, "$INSUNITS");
        dw.dxfInt(70, 4); // mm
        dw.dxfString(9, "$MEASUREMENT");
        dw.dxfInt(70, 1); // metric
        dw.dxfString(9, "$EXTMIN");
        dw.dxfReal(10, 0);
        dw.dxfReal(20, 0);
        dw.dxfReal(30, 0);
        dw.dxfString(9, "$EXTMAX");
        dw.dxfReal(10, d.width);
        dw.dxfReal(20, d.height);
        dw.dxfReal(30, 0);
        dw.sectionEnd();
        writeTables(dxf, dw, d);
        writeEntities(dxf, dw, d, content, work);
        if (d.dxf != DxfCurves::R12) {
            dxf.writeObjects(dw);
            dxf.writeObjectsEnd(dw);
        }
        dw.dxfEOF();
        dw.close();
    }
    // dxflib says nothing of a full disk; a drawing that was written whole ends with its last word.
    Bytes bytes = readFile(scratch.name());
    const std::string_view tail(reinterpret_cast<const char*>(bytes.data()) + (bytes.size() > 16 ? bytes.size() - 16 : 0), std::min<std::size_t>(16, bytes.size()));
    if (tail.find("EOF") == std::string_view::npos)
        throw Error(ErrorKind::Output, "cannot write a scratch file in '{}'; make room there", std::filesystem::temp_directory_path().string());
    return bytes;
}

} // namespace yokai
