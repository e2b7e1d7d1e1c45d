// SPDX-License-Identifier: GPL-3.0-or-later
// Exclusive roles on a server: a lease that a background thread renews.
#pragma once

#include <functional>
#include <memory>
#include <string>

#include "store/hold.h"

namespace optrel {
class Engine;
}

namespace optrel::postgres {

/// Takes the role `name`; null when another program has it. `open` opens a connection for the calling thread. Throws as
/// the engine does.
std::unique_ptr<StoreHold> hold_on_server(std::function<std::unique_ptr<Engine>()> open, const std::string& name);

}  // namespace optrel::postgres
