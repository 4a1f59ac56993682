// libFuzzer on the whole chain: a picture and a job out of whatever bytes arrive. Each piece
// has its lines or one line of why not; no exception comes out, and what comes out is finite.

#include "base/error.h"
#include "formats/format.h"
#include "formats/svg/svg.h"
#include "job/derive.h"
#include "random_spec.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <string>

namespace {

using namespace yokai;

struct FromBytes {
    const unsigned char* next;
    const unsigned char* end;
    unsigned byte() { return next < end ? *next++ : 0; }
    int whole(int least, int most)
    {
        const auto span = unsigned(most - least) + 1;
        const unsigned value = span <= 256 ? byte() : byte() << 16 | byte() << 8 | byte();
        return least + int(value % span);
    }
    double real(double least, double most) { return least + (most - least) * double(whole(0, 0xffff)) / 0xffff; }
};

// Runs of a few colours, clear among them.
Picture pictureFrom(FromBytes& bytes)
{
    constexpr Rgba colours[] = {{0, 0, 0, 0}, {255, 255, 255, 255}, {20, 30, 90, 255}, {230, 60, 40, 255}, {250, 240, 120, 255}, {128, 128, 128, 128}, {0, 0, 0, 255}, {255, 255, 255, 0}};
    Rgba8 px(bytes.whole(1, 96), bytes.whole(1, 96), colours[bytes.byte() % 8]);
    for (int shapes = bytes.whole(0, 12); shapes > 0; --shapes) {
        const int x = bytes.whole(0, px.width() - 1), y = bytes.whole(0, px.height() - 1), w = bytes.whole(1, 60), h = bytes.whole(1, 60);
        const Rgba colour = colours[bytes.byte() % 8];
        const bool round = bytes.whole(0, 1) == 1;
        for (int j = y; j < std::min(px.height(), y + h); ++j)
            for (int i = x; i < std::min(px.width(), x + w); ++i)
                if (!round || std::hypot((i - x + 0.5) / w - 0.5, (j - y + 0.5) / h - 0.5) < 0.5)
                    px.at(i, j) = colour;
    }
    return pictureFromBytes(encodePng(px), "fuzzed.png");
}

bool finite(Point p) { return std::isfinite(p.x) && std::isfinite(p.y); }

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size)
{
    FromBytes bytes{data, data + size};
    const Picture picture = pictureFrom(bytes);
    const Job job = test::randomJob(bytes, picture);
    StepCache cache;
    const Derived derived = derive(job, cache);
    for (const PieceResult& piece : derived.pieces) {
        if (piece.problem) {
            if (std::string(piece.problem->what()).find('\n') != std::string::npos)
                std::abort();
            continue;
        }
        for (const LayerResult& layer : piece.layers)
            for (const CutLine& line : layer.lines)
                for (const Path& path : *line.paths) {
                    if (!finite(path.start))
                        std::abort();
                    for (const Segment& s : path.segments)
                        if (!finite(s.end) || (!s.line && (!finite(s.c1) || !finite(s.c2))))
                            std::abort();
                }
    }
    writeSvg(drawSheet(job, derived, 0), Content::Cut);
    return 0;
}
