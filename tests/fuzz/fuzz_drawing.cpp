// libFuzzer on the readers of drawings: whatever bytes arrive give lines that are finite and within bounds, which come back from
// what is written of them, or Error(Input) with one line. EPS is Ghostscript's to read, and then a PDF.

#include "base/error.h"
#include "formats/cut_file.h"
#include "formats/format.h"
#include "formats/pdf/pdf.h"
#include "formats/svg/svg.h"

#include <cmath>
#include <cstdlib>
#include <string>

namespace {

using namespace yokai;

CutFile read(unsigned char which, const Bytes& bytes)
{
    switch (which % 3) {
    case 0:
        return readSvg(bytes, "fuzzed", cssUnitsAnInch);
    case 1:
        return readDxf(bytes, "fuzzed");
    default:
        return readPdf(bytes, "fuzzed");
    }
}

void isFinite(Point p)
{
    if (!std::isfinite(p.x) || !std::isfinite(p.y))
        std::abort();
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size)
{
    if (size == 0)
        return 0;
    try {
        const CutFile file = read(data[0], Bytes(data + 1, data + size));
        for (const CutItem& item : file.drawing.cuts) {
            isFinite(item.path.start);
            for (const Segment& s : item.path.segments) {
                isFinite(s.c1);
                isFinite(s.c2);
                isFinite(s.end);
            }
        }
        constexpr std::size_t fewEnough = 200; // to be written in the time there is
        if (file.drawing.cuts.empty() || file.drawing.cuts.size() > fewEnough)
            return 0;
        const CutFile svg = readSvg(writeSvg(file.drawing, Content::Cut), "again", cssUnitsAnInch), pdf = readPdf(writePdf(file.drawing, Content::Cut), "again");
        if (svg.drawing.cuts.size() != file.drawing.cuts.size() || pdf.drawing.cuts.size() != file.drawing.cuts.size())
            std::abort();
    } catch (const Error& e) {
        if (e.kind() != ErrorKind::Input || std::string(e.what()).find('\n') != std::string::npos)
            std::abort();
    }
    return 0;
}
