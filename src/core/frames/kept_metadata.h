// SPDX-License-Identifier: GPL-3.0-or-later
// Metadata that are kept with those of very many others: the settings as they are, the time as a figure, and the gear,
// of which some thousand combinations occur among a million frames, once for all that have it.
#pragma once

#include <cstdint>
#include <memory>
#include <unordered_set>

#include "frames/metadata.h"

namespace optrel {

class KeptMetadata : public SettingMetadata {
public:
    KeptMetadata() : KeptMetadata(Metadata()) {}
    // NOLINTBEGIN(google-explicit-constructor): they are used as metadata are
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
        std::string odd_time;  ///< one that is not written as the Exif standard wants it
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
    std::int64_t time_ = -1;  ///< the fourteen figures of "2026:03:01 09:30:00"; below 0: as odd_time says
};

/// Gives the same gear for the same metadata. For one thread; what it gave lives on without it.
class MetadataPool {
public:
    KeptMetadata of(const Metadata& metadata);

private:
    std::unordered_set<std::shared_ptr<const KeptMetadata::Gear>, KeptMetadata::Hash, KeptMetadata::Equal> gear_;
};

}  // namespace optrel
