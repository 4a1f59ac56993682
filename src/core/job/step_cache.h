// Results of steps, remembered under a digest of just what each step reads.
//
// The least recently asked-for go when the whole grows past a number of bytes, but a
// result that somebody still holds (what the window shows) is found again as long as it
// lives. Memory that several results share counts once. Thread-safe.
#pragma once

#include "base/digest.h"

#include <cstddef>
#include <list>
#include <map>
#include <memory>
#include <mutex>
#include <typeindex>
#include <unordered_map>
#include <vector>

namespace yokai {

// A block of memory a result keeps alive.
struct Owned {
    const void* block;
    std::size_t bytes;
};
using Owns = std::vector<Owned>;

class StepCache {
public:
    explicit StepCache(std::size_t mostBytes = std::size_t(1) << 30) : most_(mostBytes) {}

    // What is remembered under the key, or null.
    template <class T> std::shared_ptr<const T> find(const Key& key) { return std::static_pointer_cast<const T>(found({key, typeid(T)})); }
    template <class T> void put(const Key& key, std::shared_ptr<const T> value, Owns owns) { put({key, typeid(T)}, std::move(value), std::move(owns)); }
    std::size_t bytes() const;

private:
    struct Name {
        Key key;
        std::type_index type; // a key is no proof of what lies under it
        auto operator<=>(const Name&) const = default;
    };
    struct Entry {
        Name name;
        std::shared_ptr<const void> value;
        Owns owns;
    };
    struct Slot {
        std::list<Entry>::iterator entry; // end(): let go, perhaps still alive elsewhere
        std::weak_ptr<const void> alive;
        Owns owns;
    };
    std::shared_ptr<const void> found(const Name& name);
    void put(const Name& name, std::shared_ptr<const void> value, Owns owns);
    void hold(Slot& slot, const Name& name, std::shared_ptr<const void> value, Owns owns);
    void shrink();

    mutable std::mutex mutex_;
    std::list<Entry> entries_; // the last asked for first
    std::map<Name, Slot> index_;
    std::unordered_map<const void*, std::pair<std::size_t, int>> blocks_; // bytes, and how many results keep them
    std::size_t bytes_ = 0, most_, letGo_ = 0;
};

} // namespace yokai
