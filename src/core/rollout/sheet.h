// A frame's sheet: the layers that are written beside it.
//
//   effective = start + baseline (revision N) + set applied on top + hand-set
//
// Each layer is sparse. The sidecar of DIR/NAME.EXT is DIR/NAME.EXT.optrel.xmp, so no other program's sidecar is touched.
#pragma once

#include <filesystem>
#include <map>
#include <optional>
#include <string>

#include "baselines/resolver.h"

namespace optrel {

enum class FrameState { untouched, on_baseline, hand_set, exempt };
std::string to_string(FrameState state);

using Layer = std::map<Field, Value>;

struct Sheet {
    int revision = 0;  ///< of the baseline layer; 0: none
    Layer baseline, set, hand;
    bool exempt = false;

    FrameState state() const;
    bool empty() const { return revision == 0 && baseline.empty() && set.empty() && hand.empty() && !exempt; }
    bool operator==(const Sheet& o) const {
        return revision == o.revision && baseline == o.baseline && set == o.set && hand == o.hand && exempt == o.exempt;
    }
};

std::filesystem::path sidecar_path(const std::filesystem::path& frame);

/// Bytes of a sidecar, and back. Reading throws Error(input) for a sidecar that is not Optrel's, is damaged or newer.
std::string sheet_to_xmp(const Sheet& sheet);
Sheet sheet_from_xmp(const std::string& text, const std::string& where);

/// The bytes of a frame's sidecar; nothing when there is none. Throws Error(file) when it cannot be read.
std::optional<std::string> read_sidecar(const std::filesystem::path& frame);
/// The sheet of a frame; an empty one when it has no sidecar.
Sheet read_sheet(const std::filesystem::path& frame);
/// Writes atomically; an empty sheet removes the sidecar. Refuses, with Error(input), to replace a sidecar that is not Optrel's.
void write_sheet(const std::filesystem::path& frame, const Sheet& sheet);

/// What the layers make of a frame. Fields from the baseline layer, the set and the hand have no tier.
ResolvedFrame effective(const Sheet& sheet);

}  // namespace optrel
