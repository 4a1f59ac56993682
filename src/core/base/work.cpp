#include "base/work.h"

#include <algorithm>
#include <atomic>
#include <cstdint>
#include <exception>
#include <mutex>
#include <thread>
#include <vector>

namespace yokai {

void parallelSlices(int count, int smallest, const std::function<void(int, int)>& body)
{
    if (count <= 0)
        return;
    static const int processors = int(std::max(1u, std::thread::hardware_concurrency())); // asking reads a file
    // More slices than processors: one that is held up by something else leaves the rest to the others.
    const int slices = std::clamp(count / std::max(1, smallest), 1, processors == 1 ? 1 : 4 * processors);
    if (slices == 1) {
        body(0, count);
        return;
    }
    std::atomic<int> next = 0;
    std::exception_ptr failure;
    std::mutex failing;
    const auto take = [&] {
        for (int i = next++; i < slices; i = next++)
            try {
                body(int(std::int64_t(count) * i / slices), int(std::int64_t(count) * (i + 1) / slices));
            } catch (...) {
                const std::scoped_lock lock(failing);
                failure = std::current_exception();
                next = slices;
            }
    };
    {
        std::vector<std::jthread> threads;
        for (int i = 1; i < std::min(processors, slices); ++i)
            threads.emplace_back(take);
        take();
    }
    if (failure)
        std::rethrow_exception(failure);
}

} // namespace yokai
