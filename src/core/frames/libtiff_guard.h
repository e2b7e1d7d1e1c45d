// SPDX-License-Identifier: GPL-3.0-or-later
// libtiff prints what it notices; what matters comes back as a failure and is told in a sentence of ours.
#pragma once

namespace optrel {

/// Has to be called before anything else of libtiff; cheap, thread-safe.
void mute_libtiff();

}  // namespace optrel
