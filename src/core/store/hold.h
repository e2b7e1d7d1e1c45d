// SPDX-License-Identifier: GPL-3.0-or-later
// The right to do something that one program of a studio does at a time.
#pragma once

namespace optrel {

/// Kept as long as it lives; free as soon as its program ends, whatever ended it.
class StoreHold {
public:
    virtual ~StoreHold() = default;
};

}  // namespace optrel
