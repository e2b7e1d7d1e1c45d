// SPDX-License-Identifier: GPL-3.0-or-later
// Exiv2 in several threads: files are read side by side, packets of XMP are made one at a time.
#pragma once

#include <mutex>

namespace optrel {

/// Has to be called before anything else of Exiv2; cheap, thread-safe.
void prepare_exiv2();

/// For encoding and decoding of XMP packets, whose namespaces are process-wide.
std::mutex& exiv2_mutex();

}  // namespace optrel
