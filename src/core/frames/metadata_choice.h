// SPDX-License-Identifier: GPL-3.0-or-later
// Chooses which metadata of a frame are copied.
#pragma once

namespace optrel {

/// The metadata that are copied, besides size, orientation, camera and program, which always are.
struct MetadataChoice {
    bool exposure = true;     ///< lens, focal length, exposure, times
    bool serials = true;      ///< serial numbers of body and lens, and identifiers of the picture
    bool place = true;        ///< location, as coordinates and in words
    bool rights = true;       ///< author, owner, credit, copyright
    bool description = true;  ///< title, description, keywords, rating, and other texts

    bool operator==(const MetadataChoice& o) const {
        return exposure == o.exposure && serials == o.serials && place == o.place && rights == o.rights &&
               description == o.description;
    }
};

}  // namespace optrel
