// SPDX-License-Identifier: GPL-3.0-or-later
// The right to do something that one program of a studio does at a time.
#pragma once

#include <memory>
#include <optional>

namespace optrel {

class FileLock;

/// Kept as long as it lives; free as soon as its program ends, whatever ended it.
class StoreHold {
public:
    virtual ~StoreHold() = default;
};

/// By the lock of a file; nothing where it is another program's.
std::unique_ptr<StoreHold> hold_by(std::optional<FileLock> lock);

}  // namespace optrel
