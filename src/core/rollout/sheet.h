// SPDX-License-Identifier: GPL-3.0-or-later
// A frame's sheet: the layers that are written beside it.
//
//   effective = start + baseline (revision N) + set applied on top + hand-set
//
// Each layer is sparse. The sidecar of DIR/NAME.EXT is DIR/NAME.EXT.optrel.xmp, so no other program's sidecar is
// touched.
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
    int revision = 0;  ///< of the baseline layer; 0: none
    Layer baseline, set, hand;
    bool exempt = false;
    std::string
        profile;  ///< the version of the lens profile that it was rolled out with: "p7@2", "none"; empty: unknown
    /// What a newer Optrel wrote and this one does not know, by "layer/field" or its name alone, as it stands in the
    /// sidecar. It is kept.
    std::map<std::string, std::string> later;
    int format = 0;  ///< of the sidecar that it was read from
    /// What other programs put into the sidecar (frames/foreign_xmp.h). It belongs to them: no edit changes it, it is
    /// no part of what is compared, and every write carries on what stands on the disk.
    std::string foreign;

    FrameState state() const;
    bool empty() const {
        return revision == 0 && baseline.empty() && set.empty() && hand.empty() && !exempt && profile.empty() &&
               later.empty() && foreign.empty();
    }
    /// Drops what a newer Optrel put into a layer; of all layers when none is named.
    void forget_later(const std::string& layer = "") {
        std::erase_if(later, [&](const auto& entry) { return entry.first.rfind(layer, 0) == 0; });
    }
    bool operator==(const Sheet& o) const {
        return revision == o.revision && baseline == o.baseline && set == o.set && hand == o.hand &&
               exempt == o.exempt && profile == o.profile && later == o.later;
    }
};

std::filesystem::path sidecar_path(const std::filesystem::path& frame);

/// Bytes of a sidecar, and back. Reading throws Error(input) for a sidecar that is not Optrel's or is damaged. One of a
/// newer Optrel is read as far as this one knows its fields, and the rest is kept.
std::string sheet_to_xmp(const Sheet& sheet);
Sheet sheet_from_xmp(const std::string& text, const std::string& where);

/// The bytes of a frame's sidecar; nothing when there is none. Throws Error(file) when it cannot be read, or is no
/// regular file: only a name that is not there counts as no sidecar.
std::optional<std::string> read_sidecar(const std::filesystem::path& frame);
/// The sheet of a frame; an empty one when it has no sidecar.
Sheet read_sheet(const std::filesystem::path& frame);

// Writing. Every write holds the lock of its frame (the original picture is opened for reading, never written), looks
// at what is on the disk under that lock, and names what it replaces; so a rollout, six command lines and three windows
// lose nothing of one another.

/// Reads, edits and writes under the lock; for commands that say what is to change whatever the sheet is. Returns the
/// sheet as written. Throws Error(input) when the frame is gone or its sidecar is not Optrel's to replace.
Sheet edit_sheet(const std::filesystem::path& frame, const std::function<void(Sheet&)>& edit);

/// What became of replace_sheet().
struct SheetWrite {
    Sheet sheet;        ///< as it is on the disk now
    std::string clash;  ///< a sentence when another station changed the same thing meanwhile; empty: all was taken
};
/// Replaces `before`, which a person saw, by `after`. What another station changed meanwhile in other fields stays.
/// Where both changed the same thing the one on the disk stays, `after` is kept beside it as
/// NAME.EXT.optrel.clash-N.xmp, and the clash is told.
SheetWrite replace_sheet(const std::filesystem::path& frame, const Sheet& before, const Sheet& after);

/// What became of carry_sidecar().
enum class Carried { written, already, changed };
/// Brings the sidecar from one state of its bytes to another, under the lock (nothing: no sidecar). When it equals
/// neither it stays. `just_before` as for write_atomic(). Throws Error(file) when another program holds the lock for
/// long.
Carried carry_sidecar(const std::filesystem::path& frame, const std::optional<std::string>& from,
                      const std::optional<std::string>& to, const std::function<void()>& just_before = {});

/// What the layers say of one field: the highest of them; nothing where none does, and for an exempt frame.
std::optional<Value> value_in(const Sheet& sheet, Field field);
/// What the layers make of a frame. Fields from the baseline layer, the set and the hand have no tier.
ResolvedFrame effective(const Sheet& sheet);

}  // namespace optrel
