// SPDX-License-Identifier: GPL-3.0-or-later
// Probe: what would a frame of a given body, lens, ISO and kind get?
#pragma once

#include <optional>
#include <string>

#include "baselines/resolver.h"
#include "baselines/tier.h"
#include "fleet/fleet.h"
#include "store/store.h"
#include "studio/baselines/naming.h"

namespace optrel {

/// Description of a hypothetical frame.
struct ProbeQuery {
    std::string body;   ///< any name of a body; empty: unknown
    std::string model;  ///< camera model of an unknown body
    std::string lens;   ///< lens text, or any name of an individual lens; empty: unknown
    std::optional<double> iso;
    bool raw = true;
};

/// Whether the value of any field depends on the ISO.
bool depends_on_iso(const Revision& revision);

/// Facts of that frame. Recorded settings are those of frames of its body or model with the nearest ISO. Throws
/// Error(input) for an unknown name, Error(usage) for a missing ISO when it matters.
FrameFacts probe_facts(const ProbeQuery& words, const Store& store, const Fleet& fleet, const Revision& revision);

/// Lens text (canonical form) and individual lens; naming an individual lens also gives its text.
void take_lens(FrameFacts& facts, const std::string& text, const Naming& naming);

}  // namespace optrel
