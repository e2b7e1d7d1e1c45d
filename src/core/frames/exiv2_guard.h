// Exiv2's XMP toolkit keeps process-wide state, so calls into it are made one at a time.
#pragma once

#include <mutex>

namespace optrel {

std::mutex& exiv2_mutex();

}  // namespace optrel
