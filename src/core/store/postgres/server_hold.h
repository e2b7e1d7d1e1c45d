// SPDX-License-Identifier: GPL-3.0-or-later
// What one program of a studio does at a time, on a server: a lease that is renewed by a thread of its own.
#pragma once

#include <memory>
#include <string>

#include "store/hold.h"

namespace optrel::postgres {

/// What `name` stands for; nothing where another program has it. Throws as the engine does.
std::unique_ptr<StoreHold> hold_on_server(const std::string& address, const std::string& name);

}  // namespace optrel::postgres
