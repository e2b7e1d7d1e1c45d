#include "fleet/register.h"

#include <fmt/format.h>

#include <algorithm>
#include <regex>

#include "base/error.h"
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

}  // namespace

std::string id_for(const Body& b) { return b.camera() + "/" + first_of({b.serial, b.asset_tag, b.name}, "without number"); }
std::string id_for(const LensEntry& l) { return l.lens + "/" + first_of({l.serial, l.asset_tag, l.name}, "without number"); }

std::string body_id(const Metadata& m) { return m.body_serial.empty() ? "" : camera_name(m) + "/" + m.body_serial; }
std::string lens_id(const Metadata& m) { return m.lens_serial.empty() || m.lens.empty() ? "" : m.lens + "/" + m.lens_serial; }

ModelEntry model_from(const Metadata& m) {
    ModelEntry e;
    e.id = camera_name(m);
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
    static const std::regex focal(R"((\d+(?:\.\d+)?)(?:\s*-\s*(\d+(?:\.\d+)?))?\s*mm)", std::regex::icase), aperture(R"((?:f\s*/?\s*|1:)(\d+(?:\.\d+)?))", std::regex::icase);
    std::smatch found;
    if (std::regex_search(m.lens, found, focal)) {
        l.focal_min_mm = std::min(std::stod(found[1]), 5000.0);
        l.focal_max_mm = found[2].matched ? std::min(std::stod(found[2]), 5000.0) : l.focal_min_mm;
    }
    if (std::regex_search(m.lens, found, aperture)) l.aperture_min = std::min(std::stod(found[1]), 500.0);
    return l;
}

const Body* Register::body(const std::string& id) const { return by_id(bodies, id); }
const LensEntry* Register::lens(const std::string& id) const { return by_id(lenses, id); }
const ModelEntry* Register::model(const std::string& id) const { return by_id(models, id); }

void check_entry(const Register& all, const Body& body) {
    if (body.camera().empty()) throw input_error("A body needs a maker or a model; give what its files report.");
    if (body.width < 0 || body.height < 0 || body.width > 200000 || body.height > 200000 || body.pitch_um < 0 || body.pitch_um > 100)
        throw input_error(fmt::format("The sensor of {} ({} x {}, {:g} µm) is out of range; correct it.", body.label(), body.width, body.height, body.pitch_um));
    for (const Body& other : all.bodies)
        if (other.id != body.id && !body.serial.empty() && other.serial == body.serial && other.camera() == body.camera())
            throw input_error(fmt::format("The serial number {} is already that of {}; two bodies of one model cannot share it.", body.serial, other.label()));
}

void check_entry(const Register& all, const LensEntry& lens) {
    if (lens.lens.empty()) throw input_error("A lens needs its model as a text, for instance Lumenfold 35mm f/2.8; give one.");
    const auto range = [&](double low, double high, double most, const char* what) {
        if (low < 0 || high < 0 || low > most || high > most || (high > 0 && high < low))
            throw input_error(fmt::format("The {} of {} runs from {:g} to {:g}, which cannot be; correct it.", what, lens.label(), low, high));
    };
    range(lens.focal_min_mm, lens.focal_max_mm, 5000, "focal length");
    range(lens.aperture_min, lens.aperture_max, 512, "aperture");
    for (const LensEntry& other : all.lenses)
        if (other.id != lens.id && !lens.serial.empty() && other.serial == lens.serial && canonical_lens_text(other.lens) == canonical_lens_text(lens.lens))
            throw input_error(fmt::format("The serial number {} is already that of {}; two copies of one lens cannot share it.", lens.serial, other.label()));
}

void check_entry(const ModelEntry& m) {
    if (m.id.empty()) throw input_error("A model needs its name; give what files report.");
    if (m.width < 0 || m.height < 0 || m.width > 200000 || m.height > 200000 || m.pitch_um < 0 || m.pitch_um > 100)
        throw input_error(fmt::format("The sensor of {} ({} x {}, {:g} µm) is out of range; correct it.", m.id, m.width, m.height, m.pitch_um));
}

}  // namespace optrel
