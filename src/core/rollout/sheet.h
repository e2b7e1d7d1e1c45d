// SPDX-License-Identifier: GPL-3.0-or-later
// The sheet of a frame: its layers of settings, stored in a sidecar.
//
// effective = start + baseline (revision N) + set applied on top + hand-set
//
// A layer holds only the fields that it sets. The sidecar of DIR/NAME.EXT is DIR/NAME.EXT.optrel.xmp, so sidecars of
// other programs are not touched.
#pragma once

#include <filesystem>
#include <functional>
#include <map>
#include <optional>
#include <string>

#include "baselines/resolver.h"

namespace optrel {

enum class FrameState { untouched, on_baseline, hand_set, exempt };
std::string to_string(FrameState state);

using Layer = std::map<Field, Value>;

struct Sheet {
    int revision = 0;  ///< revision of the baseline layer; 0: none
    Layer baseline, set, hand;
    bool exempt = false;
    std::string profile;  ///< version of the lens profile at the last rollout: "p7@2", "none"; empty: unknown
    /// Properties of a newer version of Optrel that this version does not know, by "layer/field" or by name. They are
    /// preserved.
    std::map<std::string, std::string> later;
    int format = 0;  ///< format version of the sidecar
    /// Properties of other programs in the sidecar (frames/foreign_xmp.h). They are never edited or compared, and every
    /// write preserves the ones on disk.
    std::string foreign;

    FrameState state() const;
    /// Whether a rollout changes this frame by default: it is neither hand-set nor exempt.
    bool follows_baseline() const;
    bool empty() const {
        return revision == 0 && baseline.empty() && set.empty() && hand.empty() && !exempt && profile.empty() &&
               later.empty() && foreign.empty();
    }
    /// Removes unknown properties of a layer; of all layers when the name is empty.
    void forget_later(const std::string& layer = "") {
        std::erase_if(later, [&](const auto& entry) { return entry.first.rfind(layer, 0) == 0; });
    }
    bool operator==(const Sheet& o) const {
        return revision == o.revision && baseline == o.baseline && set == o.set && hand == o.hand &&
               exempt == o.exempt && profile == o.profile && later == o.later;
    }
};

std::filesystem::path sidecar_path(const std::filesystem::path& frame);

/// Conversion to and from the bytes of a sidecar. Reading throws Error(input) for a damaged sidecar or one of another
/// program. A sidecar of a newer Optrel is read as far as possible; the rest is preserved.
std::string sheet_to_xmp(const Sheet& sheet);
Sheet sheet_from_xmp(const std::string& text, const std::string& where);

/// Contents of the sidecar of a frame; nothing when the file does not exist. Throws Error(file) when it cannot be read
/// or is not a regular file.
std::optional<std::string> read_sidecar(const std::filesystem::path& frame);
/// The sheet of a frame; empty when it has no sidecar.
Sheet read_sheet(const std::filesystem::path& frame);

// Writing. Each write holds the lock of the frame (the picture file is opened read-only), checks the sidecar on disk
// under that lock, and names what it replaces, so that concurrent writers do not lose each other's changes.

/// Reads, edits and writes the sheet under the lock; for commands whose edit does not depend on what a person saw.
/// Returns the written sheet. Throws Error(input) when the frame is missing, or when its sidecar belongs to another
/// program.
Sheet edit_sheet(const std::filesystem::path& frame, const std::function<void(Sheet&)>& edit);

/// Result of replace_sheet().
struct SheetWrite {
    Sheet sheet;        ///< the sheet that is now on disk
    std::string clash;  ///< one sentence when another station changed the same field; empty: everything was saved
};
/// Replaces `before`, which a person saw, by `after`. Changes of other stations in other fields are kept. For fields
/// that both changed, the sheet on disk wins, `after` is saved as NAME.EXT.optrel.clash-N.xmp, and the conflict is
/// reported.
SheetWrite replace_sheet(const std::filesystem::path& frame, const Sheet& before, const Sheet& after);

/// Result of replace_sidecar_if_unchanged().
enum class SidecarWrite { written, already, changed };
/// Changes a sidecar from one content to another under the lock; nothing means no sidecar. A sidecar that equals
/// neither stays. `just_before` as in write_atomic(). Throws Error(file) when another process holds the lock for long.
SidecarWrite replace_sidecar_if_unchanged(const std::filesystem::path& frame, const std::optional<std::string>& from,
                                          const std::optional<std::string>& to,
                                          const std::function<void()>& just_before = {});

/// The value of a field in the highest layer that sets it; nothing when no layer does, and for an exempt frame.
std::optional<Value> value_in(const Sheet& sheet, Field field);
/// Resolves the fields of a frame. Fields from the baseline layer, the set and the hand have no tier.
ResolvedFrame effective(const Sheet& sheet);

}  // namespace optrel
