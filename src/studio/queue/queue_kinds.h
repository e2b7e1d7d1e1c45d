// SPDX-License-Identifier: GPL-3.0-or-later
// Carries out portions of jobs, whatever their kind.
#pragma once

#include "studio/queue/queue_kind.h"

namespace optrel {

/// A new kind is a file that defines it, and a row there.
const std::vector<const QueueKind*>& queue_kinds();
/// Throws Error(input) for an id that this version does not know.
const QueueKind& queue_kind(const std::string& id);

/// Splits a portion that kills its workers.
DividedPortion divided(const Store& store, const QueuedPortion& portion);

/// Throws as QueueKind::do_portion() does.
PortionResult do_portion(Store& store, const QueuedPortion& portion, Progress& progress);

}  // namespace optrel
