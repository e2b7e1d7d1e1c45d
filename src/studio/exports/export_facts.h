// SPDX-License-Identifier: GPL-3.0-or-later
// What exporting a frame of a store depends on.
#pragma once

#include <filesystem>

#include "exchange/delivery.h"
#include "studio/development/development_facts.h"

namespace optrel {

class Store;

/// The development of a frame as development_from_store() gives it. For a raw copy also the noise that was measured of
/// its body, otherwise of the body's model.
FrameDevelopment export_facts(Store& store, const std::filesystem::path& frame, const Delivery& delivery);

}  // namespace optrel
