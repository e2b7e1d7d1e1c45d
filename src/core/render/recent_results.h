// SPDX-License-Identifier: GPL-3.0-or-later
// Keeps the last results of a function that is often called with the same input. Thread-safe.
#pragma once

#include <cstddef>
#include <deque>
#include <memory>
#include <mutex>
#include <utility>

namespace optrel {

template <class Key, class Value>
class RecentResults {
public:
    explicit RecentResults(std::size_t most) : most_(most) {}

    /// The result for a key; make() computes it when it is not kept.
    template <class Make>
    std::shared_ptr<const Value> get(const Key& key, const Make& make) {
        {
            const std::lock_guard lock(mutex_);
            for (const auto& [known, value] : kept_)
                if (known == key) return value;
        }
        const auto value = std::make_shared<const Value>(make());
        const std::lock_guard lock(mutex_);
        kept_.emplace_back(key, value);
        if (kept_.size() > most_) kept_.pop_front();
        return value;
    }

private:
    std::size_t most_;
    std::mutex mutex_;
    std::deque<std::pair<Key, std::shared_ptr<const Value>>> kept_;
};

}  // namespace optrel
