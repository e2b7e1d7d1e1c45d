// SPDX-License-Identifier: GPL-3.0-or-later
// The right to do something that one program of a studio does at a time.
#pragma once

#include <memory>
#include <optional>

namespace optrel {

class FileLock;

/// Kept as long as it lives. On a server it is a lease: a program that was stopped for long loses it to another one.
class StoreHold {
public:
    virtual ~StoreHold() = default;
    /// Whether it still is ours; to be asked before anything is begun that it stands for.
    virtual bool held() const = 0;
};

/// By the lock of a file; nothing where it is another program's.
std::unique_ptr<StoreHold> hold_by(std::optional<FileLock> lock);

}  // namespace optrel
