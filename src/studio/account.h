// SPDX-License-Identifier: GPL-3.0-or-later
// The account that a picture carries of what was done to it: from what it was made, by which profile, revision, fields
// and delivery. It stands as JSON in the property "account" of Optrel's namespace in the picture's XMP.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "baselines/field.h"
#include "exchange/delivery.h"
#include "studio/frame_development.h"

namespace optrel {

/// A field that is not at its neutral value, and who said so.
struct AccountedField {
    Field field;
    Value value;
    std::string from;  ///< a tier with its revision, the start, a set, or by hand
};

struct Account {
    std::string program;             ///< "Optrel 0.2.0"
    std::string time;                ///< UTC, when the file was written
    std::string original;            ///< name of the frame's file
    std::string original_hash;       ///< SHA-256 of its contents
    std::string camera, lens, body;  ///< body: what the studio calls it; empty where serial numbers stay behind
    std::string correction;          ///< the profile, for people; "none"
    std::string profile_id;
    int profile_version = 0;
    std::vector<std::string> accepted_findings;       ///< of the profile: serious ones, in words
    double profile_rms_px = 0, profile_sigma_px = 0;  ///< of the profile at the frame's lens setting
    int revision = 0;                                 ///< of the baseline; 0: none
    std::optional<FilmTaken> film;                    ///< of a film: what a person said of it
    std::vector<AccountedField> fields;
    std::string delivery;  ///< JSON of the export delivery
    std::string sketch;    ///< of the picture as it was written (frames/picture_sketch.h)
};

std::string account_to_json(const Account& account);

/// Throws Error(input) in one sentence for what is no account, is of a newer version, or was changed since it was
/// written (its own digest tells).
Account account_from_json(const std::string& text, const std::string& where);

/// The account of an exported picture, or that its file carries none, as an Error(input).
Account read_account(const std::filesystem::path& file);

/// Several lines, each with its end: what the account says, for people.
std::string in_words(const Account& account);

/// The account of a frame that is about to be written by a delivery, but for the picture's sketch. `hash` is of the
/// frame's file.
Account account_of(const std::filesystem::path& frame, const std::string& hash, const FrameDevelopment& facts,
                   const Delivery& delivery);

/// What an account no longer says truly, as far as file and studio can tell: a sentence each, none where all is as it
/// was.
std::vector<std::string> changed_since(const Account& account, const std::filesystem::path& file);
std::vector<std::string> changed_since(const Account& account, Store& store);

/// What the same picture is developed with, from the original and the studio that has the profile and the colour file.
/// Throws Error(input) when the original is another one, or when the studio has not what the account names.
FrameDevelopment development_of(const Account& account, Store& store, const std::filesystem::path& original);
/// The same for a picture that was corrected by a profile from a file, which is given again. Throws Error(input) for
/// another profile, too.
FrameDevelopment development_of(const Account& account, const Profile& profile, const std::filesystem::path& original);

}  // namespace optrel
