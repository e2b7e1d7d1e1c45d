// SPDX-License-Identifier: GPL-3.0-or-later
// An exclusive role within a studio, for example watching the folders.
#pragma once

#include <memory>
#include <optional>

namespace optrel {

class FileLock;

/// Held during its lifetime. On a server it is a lease, which a suspended program loses.
class StoreHold {
public:
    virtual ~StoreHold() = default;
    /// Whether the role is still held; check it before each step that depends on it.
    virtual bool held() const = 0;
};

/// Takes the role by a file lock; null when another program has it.
std::unique_ptr<StoreHold> hold_by(std::optional<FileLock> lock);

}  // namespace optrel
