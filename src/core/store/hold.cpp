// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/hold.h"

#include "base/files.h"

namespace optrel {
namespace {

class HeldFile final : public StoreHold {
public:
    explicit HeldFile(FileLock lock) : lock_(std::move(lock)) {}
    bool held() const override { return true; }

private:
    FileLock lock_;
};

}  // namespace

std::unique_ptr<StoreHold> hold_by(std::optional<FileLock> lock) {
    return lock ? std::make_unique<HeldFile>(std::move(*lock)) : nullptr;
}

}  // namespace optrel
