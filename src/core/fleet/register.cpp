// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/register.h"

#include <fmt/format.h>

#include <algorithm>
#include <regex>

#include "base/error.h"
#include "base/files.h"
#include "base/numbers.h"
#include "optics/lens_text.h"

namespace optrel {

std::string Body::camera() const {
    Metadata m;
    m.maker = maker;
    m.model = model;
    return camera_name(m);
}

namespace {

std::string first_of(std::initializer_list<std::string> texts, const char* otherwise) {
    for (const std::string& t : texts)
        if (!t.empty()) return t;
    return otherwise;
}

template <class T>
const T* by_id(const std::vector<T>& list, const std::string& id) {
    const auto it = std::find_if(list.begin(), list.end(), [&](const T& t) { return t.id == id; });
    return it == list.end() ? nullptr : &*it;
}

/// A file can hold thousands of characters where a name is expected, and a server cannot index a key of that length. A
/// longer id is cut and ends with a hash of the whole text; the entry keeps the whole text.
std::string bounded(const std::string& id) {
    constexpr std::size_t most = 400;
    if (id.size() <= most) return id;
    std::size_t end = most;
    while (end > 0 && (static_cast<unsigned char>(id[end]) & 0xC0) == 0x80) --end;  // no character is cut in two
    return id.substr(0, end) + "... " + bytes_hash(id).substr(0, 16);
}

}  // namespace

std::string id_for(const Body& b) {
    return bounded(b.camera() + "/" + first_of({b.serial, b.asset_tag, b.name}, "without number"));
}
std::string id_for(const LensEntry& l) {
    return bounded(l.lens + "/" + first_of({l.serial, l.asset_tag, l.name}, "without number"));
}

std::string body_id(const Metadata& m) {
    return m.body_serial.empty() ? "" : bounded(camera_name(m) + "/" + m.body_serial);
}
std::string lens_id(const Metadata& m) {
    return m.lens_serial.empty() || m.lens.empty() ? "" : bounded(m.lens + "/" + m.lens_serial);
}

ModelEntry model_from(const Metadata& m) {
    ModelEntry e;
    e.id = bounded(camera_name(m));
    e.maker = m.maker;
    e.model = m.model;
    e.width = m.width;
    e.height = m.height;
    e.pitch_um = m.pitch_um;
    e.filter = m.filter;
    return e;
}

Body body_from(const Metadata& m) {
    Body b;
    b.id = body_id(m);
    b.maker = m.maker;
    b.model = m.model;
    b.serial = m.body_serial;
    b.width = m.width;
    b.height = m.height;
    b.pitch_um = m.pitch_um;
    return b;
}

LensEntry lens_from(const Metadata& m) {
    LensEntry l;
    l.id = lens_id(m);
    l.lens = m.lens;
    l.serial = m.lens_serial;
    static const std::regex focal(R"((\d+(?:\.\d+)?)(?:\s*-\s*(\d+(?:\.\d+)?))?\s*mm)", std::regex::icase),
        aperture(R"((?:f\s*/?\s*|1:)(\d+(?:\.\d+)?))", std::regex::icase);
    std::smatch found;
    if (std::regex_search(m.lens, found, focal)) {
        l.focal_min_mm = std::min(number_from(found[1].str(), "A focal length or aperture"), 5000.0);
        l.focal_max_mm =
            found[2].matched ? std::min(number_from(found[2].str(), "A focal length"), 5000.0) : l.focal_min_mm;
    }
    if (std::regex_search(m.lens, found, aperture))
        l.aperture_min = std::min(number_from(found[1].str(), "A focal length or aperture"), 500.0);
    return l;
}

const Body* Register::body(const std::string& id) const { return by_id(bodies, id); }
const LensEntry* Register::lens(const std::string& id) const { return by_id(lenses, id); }
const ModelEntry* Register::model(const std::string& id) const { return by_id(models, id); }

void check_entry(const ModelEntry& m) {
    if (m.id.empty()) throw input_error("A model needs its name; give what files report.");
    if (m.width < 0 || m.height < 0 || m.width > 200000 || m.height > 200000 || m.pitch_um < 0 || m.pitch_um > 100)
        throw input_error(fmt::format("The sensor of {} ({} x {}, {:g} µm) is out of range; correct it.", m.id, m.width,
                                      m.height, m.pitch_um));
}

}  // namespace optrel
