// SPDX-License-Identifier: GPL-3.0-or-later
// The register: models, bodies and lenses of the studio, as people keep it.
#pragma once

#include <string>
#include <vector>

#include "frames/metadata.h"

namespace optrel {

/// A camera model. Every body of it shares these.
struct ModelEntry {
    std::string id;  ///< camera name
    std::string maker, model;
    int width = 0, height = 0;  ///< pixels
    double pitch_um = 0;
    std::string filter;         ///< colour filter, as in RGGB; "none" for a monochrome sensor; empty: not known
    std::string recorded_adds;  ///< pins (JSON) that the start "as recorded" gets beside what files say; empty: none
    std::string notes;

    bool operator==(const ModelEntry&) const = default;
};

struct Body {
    std::string id;  ///< camera name / serial number, or another mark where there is none
    std::string maker, model, serial;
    std::string name, asset_tag;
    int width = 0, height = 0;
    double pitch_um = 0;
    std::string room;
    std::string condition;  ///< for instance infrared-converted; empty: as made
    std::string notes;
    bool in_service = true;

    std::string camera() const;
    std::string label() const { return name.empty() ? id : name; }
    bool operator==(const Body&) const = default;
};

struct LensEntry {
    std::string id;  ///< lens text / serial number, or another mark where there is none
    std::string lens, serial;
    std::string name, asset_tag;
    bool contacts = true;                       ///< false: files do not report it, frames have to be assigned
    double focal_min_mm = 0, focal_max_mm = 0;  ///< equal for a fixed focal length; 0: not known
    double aperture_min = 0, aperture_max = 0;  ///< f-numbers, widest first; 0: not known
    std::string room, notes;
    bool in_service = true;

    std::string label() const { return name.empty() ? id : name; }
    bool zoom() const { return focal_max_mm > focal_min_mm && focal_min_mm > 0; }
    bool operator==(const LensEntry&) const = default;
};

/// The id that a body or a lens gets when it is registered: by its serial number, else its asset tag, else its name.
std::string id_for(const Body& body);
std::string id_for(const LensEntry& lens);

/// Id of the body that the metadata name; empty without a serial number.
std::string body_id(const Metadata& metadata);
/// Id of the lens copy that the metadata name; empty without a serial number.
std::string lens_id(const Metadata& metadata);

ModelEntry model_from(const Metadata& metadata);
Body body_from(const Metadata& metadata);
/// Focal and aperture range are read off the lens text where it tells them.
LensEntry lens_from(const Metadata& metadata);

struct Register {
    std::vector<ModelEntry> models;
    std::vector<Body> bodies;
    std::vector<LensEntry> lenses;

    const Body* body(const std::string& id) const;
    const LensEntry* lens(const std::string& id) const;
    const ModelEntry* model(const std::string& id) const;
};

/// Throws Error(input) when an entry cannot stand in the register: no model, a serial number that another entry of the
/// model has, an asset tag that is on something else, figures out of range. RegisterIndex does the same for many.
void check_entry(const Register& all, const Body& body);
void check_entry(const Register& all, const LensEntry& lens);
void check_entry(const ModelEntry& model);

}  // namespace optrel
