// SPDX-License-Identifier: GPL-3.0-or-later
// The kinds of queued work, each in a file of its name.
#pragma once

#include "studio/queue/queue_kind.h"

namespace optrel {

const QueueKind& index_work();
const QueueKind& measure_work();
const QueueKind& rehearse_work();
const QueueKind& rollout_work();
const QueueKind& check_work();
const QueueKind& export_work();

}  // namespace optrel
