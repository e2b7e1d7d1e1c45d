// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/exiv2_guard.h"

#include <exiv2/exiv2.hpp>

#include "frames/xmp_namespace.h"

namespace optrel {
namespace {

/// Exiv2 calls this around operations of its XMP toolkit that are not thread-safe.
void lock_toolkit(void*, bool lock) {
    static std::mutex toolkit;
    lock ? toolkit.lock() : toolkit.unlock();
}

}  // namespace

void prepare_exiv2() {
    static const bool ready = [] {
        Exiv2::LogMsg::setLevel(Exiv2::LogMsg::mute);  // important errors are reported by Error
        Exiv2::enableBMFF(true);  // Exiv2 reads raw files in ISO base media containers only on request
        Exiv2::XmpParser::initialize(lock_toolkit, nullptr);
        Exiv2::XmpProperties::registerNs(xmp_namespace, "optrel");
        return true;
    }();
    (void)ready;
}

std::mutex& exiv2_mutex() {
    static std::mutex mutex;
    prepare_exiv2();
    return mutex;
}

}  // namespace optrel
