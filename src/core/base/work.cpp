#include "base/work.h"

#include <algorithm>
#include <cstdint>
#include <exception>
#include <thread>
#include <vector>

namespace yokai {

void parallelSlices(int count, int smallest, const std::function<void(int, int)>& body)
{
    const int processors = std::max(1u, std::thread::hardware_concurrency());
    const int slices = std::clamp(count / std::max(1, smallest), 1, processors);
    if (slices == 1) {
        if (count > 0)
            body(0, count);
        return;
    }
    std::vector<std::exception_ptr> failures(slices);
    {
        std::vector<std::jthread> threads;
        for (int i = 1; i < slices; ++i)
            threads.emplace_back([&, i] {
                try {
                    body(int(std::int64_t(count) * i / slices), int(std::int64_t(count) * (i + 1) / slices));
                } catch (...) {
                    failures[i] = std::current_exception();
                }
            });
        try {
            body(0, int(std::int64_t(count) / slices));
        } catch (...) {
            failures[0] = std::current_exception();
        }
    }
    for (const auto& failure : failures)
        if (failure)
            std::rethrow_exception(failure);
}

} // namespace yokai
