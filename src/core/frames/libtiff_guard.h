// SPDX-License-Identifier: GPL-3.0-or-later
// Silences libtiff, which prints warnings; our readers report errors themselves.
#pragma once

namespace optrel {

/// Must be called before any other function of libtiff; cheap, thread-safe.
void mute_libtiff();

}  // namespace optrel
