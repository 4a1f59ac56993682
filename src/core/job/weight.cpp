#include "job/weight.h"

namespace yokai {

namespace {

// What lies outside the thing itself.
struct Outside {
    std::size_t bytes = 0;
    template <class T, class... Options> void operator()(const char*, const T& value, const Options&...)
    {
        if constexpr (std::is_same_v<T, std::string>)
            bytes += value.capacity() > sizeof(std::string) ? value.capacity() : 0;
        else if constexpr (std::is_same_v<T, Picture>)
            bytes += value.fileName.capacity();
        else if constexpr (IsOptional<T>::value) {
            if (value)
                (*this)("", *value);
        } else if constexpr (IsVector<T>::value) {
            using Entry = typename T::value_type;
            bytes += value.capacity() * sizeof(Entry);
            if constexpr (!std::is_trivially_copyable_v<Entry>)
                for (const Entry& entry : value)
                    (*this)("", entry);
        } else if constexpr (requires { T::fields(value, *this); }) {
            T::fields(value, *this);
        }
    }
};

} // namespace

std::size_t weightOf(const Job& job)
{
    Outside outside;
    Job::fields(job, outside);
    return sizeof(Job) + outside.bytes;
}

} // namespace yokai
