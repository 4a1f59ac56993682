// Memory that costs nothing where it is never touched: pages are made as they are written, so
// that no single call has to fill a whole picture.
#pragma once

#include <algorithm>
#include <cstddef>
#include <cstdlib>
#include <memory>
#include <new>
#include <type_traits>

namespace yokai {

template <class T> struct Freed {
    void operator()(T* p) const { std::free(p); }
};
template <class T> using Untouched = std::unique_ptr<T[], Freed<T>>;

// n values, zeroed or unset. Throws std::bad_alloc.
template <class T> Untouched<T> untouched(std::size_t n, bool zeroed)
{
    static_assert(std::is_trivially_copyable_v<T> && std::is_trivially_destructible_v<T>);
    n = std::max<std::size_t>(n, 1);
    auto* p = static_cast<T*>(zeroed ? std::calloc(n, sizeof(T)) : n > std::size_t(-1) / sizeof(T) ? nullptr : std::malloc(n * sizeof(T)));
    if (!p)
        throw std::bad_alloc();
    return Untouched<T>(p);
}

} // namespace yokai
