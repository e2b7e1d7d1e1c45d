// SPDX-License-Identifier: GPL-3.0-or-later
// Use of Exiv2 in several threads: files are read concurrently, XMP packets are processed one at a time.
#pragma once

#include <mutex>

namespace optrel {

/// Must be called before any other function of Exiv2; cheap, thread-safe.
void prepare_exiv2();

/// Lock for encoding and decoding XMP packets, whose namespaces are global.
std::mutex& exiv2_mutex();

}  // namespace optrel
