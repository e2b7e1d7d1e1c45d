// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/register_cells.h"

#include "base/error.h"
#include "widgets/place.h"

namespace optrel {
namespace {

std::string cleaned(const QString& text, const char* placeholder) {
    const QString t = text.trimmed();
    return t == placeholder ? std::string() : t.toStdString();
}

bool yes_of(const QString& text) {
    if (text.trimmed() == "yes") return true;
    if (text.trimmed() == "no") return false;
    throw input_error("'" + text.toStdString() + "' is neither yes nor no; write one of them.");
}

double number_in(const QString& part, const QString& text) {
    bool ok = false;
    const double v = QString(part).remove("from").trimmed().toDouble(&ok);
    if (!ok)
        throw input_error("'" + text.toStdString() +
                          "' is not understood; write a number, or two with a hyphen between.");
    return v;
}

/// "Luminance NR = 100: 0, 6400: 40; Sharpening = 20", by the labels or ids of the fields.
Pins pins_in(const QString& text) {
    Pins pins;
    for (const QString& part : text.split(';', Qt::SkipEmptyParts)) {
        const std::optional<Field> field = find_field(part.section('=', 0, 0).trimmed().toStdString());
        if (!field || *field == Field::start || !part.contains('='))
            throw input_error("'" + part.trimmed().toStdString() +
                              "' is not understood; write a field, an equals sign and a value, as in "
                              "Luminance NR = 100: 0, 6400: 40.");
        pins[*field] = pin_from_text(*field, part.section('=', 1).trimmed().toStdString());
    }
    return pins;
}

}  // namespace

Body edited(Body b, int column, const QString& text) {
    switch (column) {
        case body_name: b.name = cleaned(text, "unnamed"); break;
        case body_tag: b.asset_tag = cleaned(text, "none"); break;
        case body_serial: b.serial = cleaned(text, "none"); break;
        case body_room: b.room = cleaned(text, "not said"); break;
        case body_condition: b.condition = cleaned(text, "as made"); break;
        case body_service: b.in_service = yes_of(text); break;
        case body_notes: b.notes = cleaned(text, "none"); break;
        default: break;
    }
    return b;
}

LensEntry edited(LensEntry l, int column, const QString& text) {
    const QStringList parts = text.split('-');
    const auto number = [&](int i) { return number_in(parts.value(i), text); };
    switch (column) {
        case lens_name: l.name = cleaned(text, "unnamed"); break;
        case lens_tag: l.asset_tag = cleaned(text, "none"); break;
        case lens_serial: l.serial = cleaned(text, "none"); break;
        case lens_contacts: l.contacts = yes_of(text); break;
        case lens_room: l.room = cleaned(text, "not said"); break;
        case lens_service: l.in_service = yes_of(text); break;
        case lens_notes: l.notes = cleaned(text, "none"); break;
        case lens_focal:
            l.focal_min_mm = number(0);
            l.focal_max_mm = parts.size() > 1 ? number(1) : l.focal_min_mm;
            break;
        case lens_aperture:
            l.aperture_min = number(0);
            l.aperture_max = parts.size() > 1 ? number(1) : 0;
            break;
        default: break;
    }
    return l;
}

ModelEntry edited(ModelEntry m, int column, const QString& text) {
    switch (column) {
        case model_sensor: {
            const QStringList parts = QString(text).replace(QChar(0x00d7), 'x').split('x');
            if (parts.size() != 2)
                throw input_error("'" + text.toStdString() + "' is no sensor size; write it as 6000 x 4000.");
            m.width = static_cast<int>(number_in(parts[0], text));
            m.height = static_cast<int>(number_in(parts[1], text));
            break;
        }
        case model_pitch: m.pitch_um = number_in(text, text); break;
        case model_filter: m.filter = cleaned(text, "not known"); break;
        case model_notes: m.notes = cleaned(text, "none"); break;
        case model_adds: {
            const Pins pins = cleaned(text, "nothing").empty() ? Pins() : pins_in(text);
            m.recorded_adds = pins.empty() ? "" : pins_to_json(pins);
            break;
        }
        default: break;
    }
    return m;
}

}  // namespace optrel
