// SPDX-License-Identifier: GPL-3.0-or-later
// The probe: what would a frame of this body, this lens, this ISO and this kind get?
#pragma once

#include <optional>
#include <string>

#include "baselines/resolver.h"
#include "baselines/tier.h"
#include "fleet/fleet.h"
#include "store/store.h"
#include "studio/naming.h"

namespace optrel {

/// What a person names of a frame that need not exist.
struct ProbeWords {
    std::string body;   ///< whatever names a body; empty: unknown
    std::string model;  ///< of an unknown body
    std::string lens;   ///< a lens by its text, or a copy by whatever names it; empty: unknown
    std::optional<double> iso;
    bool raw = true;
};

/// Whether what the baseline says of some field depends on the ISO.
bool depends_on_iso(const Revision& revision);

/// The facts of that frame. It records what frames of its body, or of its model, recorded at the nearest ISO. Throws
/// Error(input) for a name that is not there, Error(usage) where the ISO counts and is not given.
FrameFacts probe_facts(const ProbeWords& words, Store& store, const Fleet& fleet, const Revision& revision);

/// Lens text (canonical) and copy that a person means: a copy brings the text of its lens.
void take_lens(FrameFacts& facts, const std::string& text, const Naming& naming);

}  // namespace optrel
