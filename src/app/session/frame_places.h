// SPDX-License-Identifier: GPL-3.0-or-later
// Position of a frame in a long list, found by its path, so that data beside the list needs no paths.
#pragma once

#include <algorithm>
#include <cstdint>
#include <memory>
#include <numeric>
#include <optional>
#include <string>
#include <vector>

#include "store/frames.h"

namespace optrel {

class FramePlaces {
public:
    using Frames = std::shared_ptr<const std::vector<FrameRecord>>;

    FramePlaces() = default;
    explicit FramePlaces(Frames frames) : frames_(std::move(frames)) {
        const auto by_path = [](const FrameRecord& a, const FrameRecord& b) { return a.path < b.path; };
        // Frames are ordered by their kept path; roots may change the order at this station.
        if (std::is_sorted(frames_->begin(), frames_->end(), by_path)) return;
        order_.resize(frames_->size());
        std::iota(order_.begin(), order_.end(), 0u);
        std::sort(order_.begin(), order_.end(),
                  [&](std::uint32_t a, std::uint32_t b) { return by_path((*frames_)[a], (*frames_)[b]); });
    }

    /// Nothing for an unknown frame.
    std::optional<std::size_t> of(const std::string& path) const {
        std::size_t from = 0, to = frames_->size();
        while (from < to) {
            const std::size_t middle = from + (to - from) / 2;
            if ((*frames_)[at(middle)].path.string() < path)
                from = middle + 1;
            else
                to = middle;
        }
        if (from == frames_->size() || !((*frames_)[at(from)].path == path)) return std::nullopt;
        return at(from);
    }

private:
    std::size_t at(std::size_t rank) const { return order_.empty() ? rank : order_[rank]; }

    Frames frames_ = std::make_shared<std::vector<FrameRecord>>();
    std::vector<std::uint32_t> order_;  ///< empty: the list itself is ordered
};

}  // namespace optrel
