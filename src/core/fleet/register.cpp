#include "fleet/register.h"

#include <algorithm>

namespace optrel {

std::string Body::camera() const {
    Metadata m;
    m.maker = maker;
    m.model = model;
    return camera_name(m);
}

std::string body_id(const Metadata& m) { return m.body_serial.empty() ? "" : camera_name(m) + "/" + m.body_serial; }
std::string lens_id(const Metadata& m) { return m.lens_serial.empty() || m.lens.empty() ? "" : m.lens + "/" + m.lens_serial; }

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
    return l;
}

BodyAnswer identify_body(const Metadata& m, const std::vector<Body>& fleet) {
    using K = BodyAnswer::Knowledge;
    const std::string id = body_id(m);
    if (!id.empty()) {
        const bool registered = std::any_of(fleet.begin(), fleet.end(), [&](const Body& b) { return b.id == id; });
        return registered ? BodyAnswer{K::known, id} : BodyAnswer{};
    }
    const std::string camera = camera_name(m);
    const Body* only = nullptr;
    for (const Body& b : fleet) {
        if (b.camera() != camera) continue;
        if (only) return {};
        only = &b;
    }
    return only && !camera.empty() ? BodyAnswer{K::assumed, only->id} : BodyAnswer{};
}

}  // namespace optrel
