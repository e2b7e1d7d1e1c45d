// SPDX-License-Identifier: GPL-3.0-or-later
// Claims: what files report, tied by a person to a body or a lens of the register.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "frames/metadata.h"

namespace optrel {

/// All conditions that are given have to hold. What the files report is compared as it is reported.
struct Claim {
    std::string id;  ///< stable
    enum class Of { body, lens } of = Of::body;
    std::string target;  ///< id of the body or the lens

    std::string camera;     ///< camera name
    std::string serial;     ///< a serial number of the body, whichever of those that the file reports
    std::string lens_text;  ///< in any spelling (canonical_lens_text)
    std::string lens_serial;
    std::string body;    ///< of a lens: frames of this body (its id)
    std::string folder;  ///< frames in this folder and below
    std::string from,
        to;  ///< time of the frame as recorded, both ends included; a shorter text is a prefix ("2026:03:04")
    std::vector<std::string> frames;  ///< just these paths

    double focal_mm = 0;  ///< of a lens without contacts; 0: what the lens tells
    double aperture = 0;
    /// Of a claim for frames that their sensor's fingerprint named: the figure of the frame that fits least. 0: another
    /// reason.
    double fingerprint_figure = 0;
    std::string author, time, note;

    bool operator==(const Claim&) const = default;
    /// Orders claims: just these frames, then a reported number, then a time span, a folder.
    int weight() const;
    bool says_what_files_report() const { return !serial.empty() || !lens_text.empty() || !lens_serial.empty(); }
};

/// Whether a claim holds for a frame. `body` is the id of the frame's body, for lenses.
bool claim_holds(const Claim& claim, const std::filesystem::path& path, const Metadata& metadata,
                 const std::string& body);

/// "Quenby Q5, number 00a7f3c1, in /shoots/east, 2026:03:04 to 2026:03:05".
std::string describe(const Claim& claim);

std::string claim_to_json(const Claim& claim);
Claim claim_from_json(const std::string& text, const std::string& where);

/// Throws Error(input) for a claim that would hold for every frame, or whose time span ends before it begins.
void check_claim(const Claim& claim);

}  // namespace optrel
