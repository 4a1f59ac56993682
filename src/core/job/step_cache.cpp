#include "job/step_cache.h"

namespace yokai {

std::size_t StepCache::bytes() const
{
    const std::scoped_lock lock(mutex_);
    return bytes_;
}

std::shared_ptr<const void> StepCache::found(const Name& name)
{
    const std::scoped_lock lock(mutex_);
    const auto at = index_.find(name);
    if (at == index_.end())
        return nullptr;
    Slot& slot = at->second;
    if (slot.entry != entries_.end()) {
        entries_.splice(entries_.begin(), entries_, slot.entry);
        return slot.entry->value;
    }
    std::shared_ptr<const void> value = slot.alive.lock();
    if (!value) {
        index_.erase(at);
        --letGo_;
        return nullptr;
    }
    --letGo_;
    hold(slot, name, value, std::move(slot.owns));
    shrink();
    return value;
}

void StepCache::put(const Name& name, std::shared_ptr<const void> value, Owns owns)
{
    const std::scoped_lock lock(mutex_);
    const auto [at, added] = index_.try_emplace(name, Slot{entries_.end(), {}, {}});
    if (!added && at->second.entry != entries_.end())
        return; // made twice side by side; either is right
    if (!added)
        --letGo_;
    hold(at->second, name, std::move(value), std::move(owns));
    shrink();
}

void StepCache::hold(Slot& slot, const Name& name, std::shared_ptr<const void> value, Owns owns)
{
    slot.alive = value;
    for (const Owned& o : owns)
        if (auto& [bytes, holders] = blocks_[o.block]; holders++ == 0) {
            bytes = o.bytes;
            bytes_ += o.bytes;
        }
    entries_.push_front({name, std::move(value), std::move(owns)});
    slot.entry = entries_.begin();
}

void StepCache::shrink()
{
    while (bytes_ > most_ && entries_.size() > 1) {
        Entry& last = entries_.back();
        for (const Owned& o : last.owns)
            if (const auto block = blocks_.find(o.block); --block->second.second == 0) {
                bytes_ -= block->second.first;
                blocks_.erase(block);
            }
        const auto slot = index_.find(last.name);
        slot->second.entry = entries_.end();
        slot->second.owns = std::move(last.owns);
        entries_.pop_back();
        ++letGo_;
    }
    // Names of what is gone for good are swept out now and then.
    if (letGo_ > 1000 && letGo_ > 2 * entries_.size())
        letGo_ -= std::erase_if(index_, [this](const auto& item) { return item.second.entry == entries_.end() && item.second.alive.expired(); });
}

} // namespace yokai
