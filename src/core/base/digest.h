// A running 64-bit digest, the key under which a step's result is remembered.
// Not for security: FNV-1a (Fowler, Noll, Vo) over 8-byte words with a final mix.
#pragma once

#include <bit>
#include <cstdint>
#include <cstring>
#include <span>
#include <string_view>
#include <type_traits>

namespace yokai {

class Digest {
public:
    template <class T>
    requires(std::is_arithmetic_v<T> || std::is_enum_v<T>) Digest& add(T value)
    {
        std::uint64_t word = 0;
        static_assert(sizeof(T) <= 8);
        std::memcpy(&word, &value, sizeof value);
        step(word);
        return *this;
    }
    Digest& add(std::string_view text)
    {
        step(text.size());
        bytes(reinterpret_cast<const unsigned char*>(text.data()), text.size());
        return *this;
    }
    Digest& add(std::span<const unsigned char> data)
    {
        step(data.size());
        bytes(data.data(), data.size());
        return *this;
    }
    std::uint64_t value() const
    {
        std::uint64_t h = h_;
        h ^= h >> 33;
        h *= 0xff51afd7ed558ccdULL;
        h ^= h >> 33;
        return h;
    }

private:
    void step(std::uint64_t word) { h_ = std::rotl((h_ ^ word) * 0x100000001b3ULL, 29) * 0x9e3779b97f4a7c15ULL; }
    void bytes(const unsigned char* p, std::size_t n)
    {
        for (; n >= 8; p += 8, n -= 8) {
            std::uint64_t word;
            std::memcpy(&word, p, 8);
            step(word);
        }
        std::uint64_t word = 0;
        std::memcpy(&word, p, n);
        step(word);
    }
    std::uint64_t h_ = 0xcbf29ce484222325ULL;
};

} // namespace yokai
