// The register of bodies and lenses, and what a file's metadata says of both.
#pragma once

#include <string>
#include <vector>

#include "frames/metadata.h"

namespace optrel {

struct Body {
    std::string id;  ///< camera name / serial number
    std::string maker, model, serial;
    std::string name, asset_tag;
    int width = 0, height = 0;
    double pitch_um = 0;

    std::string camera() const;
    std::string label() const { return name.empty() ? id : name; }
};

struct LensEntry {
    std::string id;  ///< lens text / serial number
    std::string lens, serial;
    std::string name, asset_tag;

    std::string label() const { return name.empty() ? id : name; }
};

/// Id of the body that the metadata name; empty without a serial number.
std::string body_id(const Metadata& metadata);
/// Id of the lens copy that the metadata name; empty without a serial number.
std::string lens_id(const Metadata& metadata);

Body body_from(const Metadata& metadata);
LensEntry lens_from(const Metadata& metadata);

/// Which body took a frame. Known: by its serial number. Assumed: no serial number, and the fleet has one body of the model.
struct BodyAnswer {
    enum class Knowledge { unknown, assumed, known } knowledge = Knowledge::unknown;
    std::string id;
};
BodyAnswer identify_body(const Metadata& metadata, const std::vector<Body>& fleet);

}  // namespace optrel
