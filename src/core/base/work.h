// How long work is stopped and how it says how far it is. Every step that can
// take longer than a few milliseconds takes a Work and calls check() often enough
// that a stop is obeyed within 50 ms.
#pragma once

#include "base/error.h"

#include <functional>
#include <stop_token>
#include <string_view>

namespace yokai {

struct Work {
    std::stop_token stop;
    // Called with 0..1 and a word for the current step; may be called from any thread.
    std::function<void(double, std::string_view)> progress;

    void check() const
    {
        if (stop.stop_requested())
            throw Cancelled();
    }
    void report(double fraction, std::string_view step) const
    {
        check();
        if (progress)
            progress(fraction, step);
    }
};

// Runs body(begin, end) over slices of [0, count) on all processors, several slices each
// unless they would get under `smallest`. An exception in a slice is thrown on the caller's
// thread once the slices under way have ended.
void parallelSlices(int count, int smallest, const std::function<void(int, int)>& body);

// Runs row(y) for the rows of a raster on all processors, and looks whether to stop after
// every few that hold some ten thousand samples: a few milliseconds of any work.
template <class Row> void eachRow(int height, int width, const Work& work, Row row)
{
    constexpr int samples = 1 << 15, rowsASlice = 32;
    const int look = width > 0 ? (samples + width - 1) / width : 1;
    parallelSlices(height, rowsASlice, [&](int begin, int end) {
        for (int y = begin; y < end; ++y) {
            if ((y - begin) % look == 0)
                work.check();
            row(y);
        }
    });
}

} // namespace yokai
