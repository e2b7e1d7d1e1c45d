// SPDX-License-Identifier: GPL-3.0-or-later
// Which of a frame's metadata a copy of it takes along.
#pragma once

namespace optrel {

/// What of a frame's metadata goes along, beside size, orientation, camera and program.
struct MetadataChoice {
    bool exposure = true;     ///< lens, focal length, exposure, times
    bool serials = true;      ///< serial numbers of body and lens, and the picture's own identifiers
    bool place = true;        ///< where it was taken, as coordinates and in words
    bool rights = true;       ///< author, owner, credit, copyright
    bool description = true;  ///< title, description, keywords, rating, and whatever else is said in words

    bool operator==(const MetadataChoice& o) const {
        return exposure == o.exposure && serials == o.serials && place == o.place && rights == o.rights &&
               description == o.description;
    }
};

}  // namespace optrel
