// SPDX-License-Identifier: GPL-3.0-or-later
// The account of a picture: source frame, profile, revision, fields and delivery from which it was made. Stored as JSON
// in the property "account" of Optrel's namespace in the picture's XMP.
#pragma once

#include <array>
#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "baselines/field.h"
#include "exchange/delivery.h"
#include "studio/development/frame_development.h"

namespace optrel {

/// A field with a value other than neutral, and its origin.
struct AccountedField {
    Field field;
    Value value;
    std::string from;  ///< a tier with its revision, the start, a set, or "by hand"
};

struct Account {
    std::string program;             ///< "Optrel 0.2.0"
    std::string time;                ///< UTC, when the file was written
    std::string original;            ///< name of the frame's file
    std::string original_hash;       ///< SHA-256 of its contents
    std::string camera, lens, body;  ///< name of the body; empty where serial numbers are removed
    std::string correction;          ///< name of the profile, or "none"
    std::string profile_id;
    int profile_version = 0;
    std::vector<std::string> accepted_findings;       ///< accepted serious findings of the profile
    double profile_rms_px = 0, profile_sigma_px = 0;  ///< of the profile at the frame's lens setting
    int revision = 0;                                 ///< revision of the baseline; 0: none
    std::optional<FilmSource> film;                   ///< for a film: facts given by the user
    std::vector<AccountedField> fields;
    /// Measured noise of the body, by which noise was reduced and which a raw copy carries; empty: not measured.
    std::optional<std::array<double, 6>> noise;
    std::string defects_id;  ///< of the body's defect map; empty: none
    int defects_version = 0;
    std::string delivery;  ///< JSON of the export delivery
    std::string sketch;    ///< sketch of the written picture (frames/picture_sketch.h)
};

std::string account_to_json(const Account& account);

/// Throws Error(input) when the text is no account, has a newer version, or was modified (it contains a digest of
/// itself).
Account account_from_json(const std::string& text, const std::string& where);

/// Account of an exported picture. Throws Error(input) when the file has none.
Account read_account(const std::filesystem::path& file);

/// The account as several lines of text for users.
std::string in_words(const Account& account);

/// Account for a frame that is about to be exported, without the sketch. `hash`: SHA-256 of the frame's file.
Account account_of(const std::filesystem::path& frame, const std::string& hash, const FrameDevelopment& facts,
                   const Delivery& delivery);

/// Statements of an account that are no longer true, one sentence each; empty when nothing has changed.
std::vector<std::string> changed_since(const Account& account, const std::filesystem::path& file);
std::vector<std::string> changed_since(const Account& account, const Store& store);

/// Development that reproduces the picture from the original, with the profile and colour file of the store. Throws
/// Error(input) when the original differs, or when the store lacks something.
FrameDevelopment development_of(const Account& account, const Store& store, const std::filesystem::path& original);
/// The same for a picture that was corrected by a profile from a file. Throws Error(input) also for another profile.
FrameDevelopment development_of(const Account& account, const Profile& profile, const std::filesystem::path& original);

}  // namespace optrel
