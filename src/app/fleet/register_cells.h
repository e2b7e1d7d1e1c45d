// SPDX-License-Identifier: GPL-3.0-or-later
// Columns of the register's lists, and parsing of edited cells.
#pragma once

#include <QString>

#include "fleet/register.h"

namespace optrel {

enum BodyColumn {
    body_name,
    body_tag,
    body_model,
    body_serial,
    body_room,
    body_condition,
    body_service,
    body_notes,
    body_frames
};
enum LensColumn {
    lens_name,
    lens_tag,
    lens_text,
    lens_serial,
    lens_profile,
    lens_contacts,
    lens_focal,
    lens_aperture,
    lens_room,
    lens_service,
    lens_notes,
    lens_frames
};
enum ModelColumn { model_name, model_sensor, model_pitch, model_filter, model_adds, model_bodies, model_notes };

/// The entry with the text of a column changed; unchanged for a read-only column. Words for "nothing" are accepted.
/// Throws Error(input) for an invalid text.
Body edited(Body b, int column, const QString& text);
LensEntry edited(LensEntry l, int column, const QString& text);
ModelEntry edited(ModelEntry m, int column, const QString& text);

}  // namespace optrel
