// SPDX-License-Identifier: GPL-3.0-or-later
// A compact form of metadata for very many frames: settings by value, the time as a number, and the gear shared by all
// frames that have the same. A million frames have some thousand combinations.
#pragma once

#include <cstdint>
#include <memory>
#include <unordered_set>

#include "frames/metadata.h"

namespace optrel {

class KeptMetadata : public SettingMetadata {
public:
    KeptMetadata() : KeptMetadata(Metadata()) {}
    // NOLINTBEGIN(google-explicit-constructor): used in the same way as Metadata
    KeptMetadata(const Metadata& metadata);
    operator Metadata() const;
    // NOLINTEND(google-explicit-constructor)

    /// The gear.
    const GearMetadata& operator*() const { return *gear_; }
    const GearMetadata* operator->() const { return gear_.get(); }
    /// As recorded.
    std::string time() const;

private:
    friend class MetadataPool;
    struct Gear : GearMetadata {
        std::string odd_time;  ///< a time that is not in the format of Exif
        bool operator==(const Gear&) const = default;
    };
    struct Hash {
        std::size_t operator()(const std::shared_ptr<const Gear>& g) const;
    };
    struct Equal {
        bool operator()(const std::shared_ptr<const Gear>& a, const std::shared_ptr<const Gear>& b) const {
            return *a == *b;
        }
    };

    std::shared_ptr<const Gear> gear_;
    std::int64_t time_ = -1;  ///< the fourteen digits of "2026:03:01 09:30:00"; negative: see odd_time
};

/// Shares the gear of equal metadata. Single-threaded; the gear outlives the pool.
class MetadataPool {
public:
    KeptMetadata of(const Metadata& metadata);

private:
    std::unordered_set<std::shared_ptr<const KeptMetadata::Gear>, KeptMetadata::Hash, KeptMetadata::Equal> gear_;
};

}  // namespace optrel
