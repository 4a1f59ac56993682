#include "formats/dxf/dxf.h"

#include "base/error.h"
#include "base/file.h"

#include <dxflib/dl_dxf.h>

#include <filesystem>
#include <memory>
#include <string_view>
#include <unistd.h>

namespace yokai {

namespace {

constexpr double tolerance = 0.005;

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

// The names that entities use must stand before them.
void writeTables(DL_Dxf& dxf, DL_WriterA& dw)
{
    const DL_Attributes plain("0", 7, -1, "CONTINUOUS", 1.0);
    dw.sectionTables();
    dxf.writeVPort(dw);
    dw.tableLinetypes(3);
    dxf.writeLinetype(dw, DL_LinetypeData("BYBLOCK", "BYBLOCK", 0, 0, 0.0));
    dxf.writeLinetype(dw, DL_LinetypeData("BYLAYER", "BYLAYER", 0, 0, 0.0));
    dxf.writeLinetype(dw, DL_LinetypeData("CONTINUOUS", "Continuous", 0, 0, 0.0));
    dw.tableEnd();
    dw.tableLayers(2 + int(std::size(lineKinds)));
    dxf.writeLayer(dw, DL_LayerData("0", 0), plain);
    for (const LineKind kind : lineKinds)
        dxf.writeLayer(dw, DL_LayerData(facts(kind).dxfLayer, 0), DL_Attributes("", facts(kind).dxfColour, -1, "CONTINUOUS", 1.0));
    dxf.writeLayer(dw, DL_LayerData("MARKS", 0), DL_Attributes("", 7, -1, "CONTINUOUS", 1.0));
    dw.tableEnd();
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
    for (const CutItem& item : d.cuts) {
        work.check();
        if (content == Content::Print)
            break;
        const DL_Attributes layer(facts(item.kind).dxfLayer, 256, -1, "BYLAYER", 1.0);
        for (const Path& path : cutsOf(item)) {
            const Polyline points = flatten(path, tolerance);
            if (points.size() < 2)
                continue;
            dxf.writePolyline(dw, DL_PolylineData(int(points.size()), 0, 0, path.closed ? 1 : 0), layer);
            for (Point p : points)
                dxf.writeVertex(dw, DL_VertexData(p.x, d.height - p.y, 0));
            dxf.writePolylineEnd(dw);
        }
    }
    dw.sectionEnd();
}

} // namespace

Bytes writeDxf(const Drawing& d, Content content, const Work& work)
{
    const Scratch scratch;
    DL_Dxf dxf;
    {
        const std::unique_ptr<DL_WriterA> writer(dxf.out(scratch.name().c_str(), DL_Codes::AC1015));
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
        writeTables(dxf, dw);
        writeEntities(dxf, dw, d, content, work);
        dxf.writeObjects(dw);
        dxf.writeObjectsEnd(dw);
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
