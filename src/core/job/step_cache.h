// Results of steps, remembered by a digest of just what each step reads.
//
// The least recently used go when the whole grows past a number of bytes; a
// result in use lives on through its shared pointer. Thread-safe.
#pragma once

#include <any>
#include <chrono>
#include <cstdint>
#include <list>
#include <map>
#include <memory>
#include <mutex>
#include <string>
#include <unordered_map>

namespace yokai {

class StepCache {
public:
    explicit StepCache(std::size_t mostBytes = std::size_t(1) << 30) : most_(mostBytes) {}

    // make() -> std::shared_ptr<const T>; bytesOf(result) -> its rough size.
    template <class T, class Make, class BytesOf> std::shared_ptr<const T> get(std::uint64_t key, Make make, BytesOf bytesOf)
    {
        {
            const std::scoped_lock lock(mutex_);
            if (auto found = index_.find(key); found != index_.end()) {
                entries_.splice(entries_.begin(), entries_, found->second);
                return std::any_cast<const std::shared_ptr<const T>&>(found->second->value);
            }
        }
        std::shared_ptr<const T> value = make();
        const std::scoped_lock lock(mutex_);
        if (index_.contains(key))
            return value;
        entries_.push_front({key, bytesOf(*value), std::any(value)});
        index_[key] = entries_.begin();
        bytes_ += entries_.front().bytes;
        while (bytes_ > most_ && entries_.size() > 1) {
            bytes_ -= entries_.back().bytes;
            index_.erase(entries_.back().key);
            entries_.pop_back();
        }
        return value;
    }

    // What is remembered under the key, or null.
    template <class T> std::shared_ptr<const T> find(std::uint64_t key)
    {
        const std::scoped_lock lock(mutex_);
        const auto found = index_.find(key);
        return found == index_.end() ? nullptr : std::any_cast<const std::shared_ptr<const T>&>(found->second->value);
    }

private:
    struct Entry {
        std::uint64_t key;
        std::size_t bytes;
        std::any value;
    };
    std::mutex mutex_;
    std::list<Entry> entries_;
    std::unordered_map<std::uint64_t, std::list<Entry>::iterator> index_;
    std::size_t bytes_ = 0, most_;
};

} // namespace yokai
