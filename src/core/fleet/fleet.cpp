// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/fleet.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/choose.h"
#include "optics/lens_text.h"

namespace optrel {

std::string to_string(BodyAnswer::Knowledge k) {
    return first_of<const char*>(
        {{k == BodyAnswer::Knowledge::known, "known"}, {k == BodyAnswer::Knowledge::assumed, "assumed"}}, "unknown");
}

Fleet::Fleet(Register entries, std::vector<Claim> claims, std::set<std::string> numbering)
    : register_(std::move(entries)), claims_(std::move(claims)), numbering_(std::move(numbering)) {
    for (std::size_t i = 0; i < register_.bodies.size(); ++i) {
        const Body& b = register_.bodies[i];
        body_at_[b.id] = i;
        const std::string camera = b.camera();
        if (!b.serial.empty()) body_of_number_.emplace(camera + "\n" + b.serial, b.id);
        bodies_of_model_[camera].push_back(b.id);
    }
    for (std::size_t i = 0; i < register_.lenses.size(); ++i) {
        const LensEntry& l = register_.lenses[i];
        lens_at_[l.id] = i;
        const std::string text = canonical_lens_text(l.lens);
        lens_texts_.emplace(text, l.lens);
        if (!l.serial.empty()) lens_of_number_.emplace(text + "\n" + l.serial, l.id);
    }
    for (const Claim& c : claims_) (c.of == Claim::Of::body ? body_claims_ : lens_claims_).push_back(&c);
    const auto order = [](const Claim* a, const Claim* b) {
        return std::tuple(a->weight(), a->time, a->id) > std::tuple(b->weight(), b->time, b->id);
    };
    std::sort(body_claims_.begin(), body_claims_.end(), order);
    std::sort(lens_claims_.begin(), lens_claims_.end(), order);
    // Claims of a number are the many; they are looked up. What is left is gone through.
    std::vector<const Claim*> rest;
    for (const Claim* c : body_claims_)
        if (c->frames.empty() && !c->serial.empty())
            numbered_body_claims_[c->serial].push_back(c);
        else
            rest.push_back(c);
    body_claims_ = std::move(rest);
}

const Body* Fleet::body(const std::string& id) const {
    const auto it = body_at_.find(id);
    return it == body_at_.end() ? nullptr : &register_.bodies[it->second];
}
const LensEntry* Fleet::lens(const std::string& id) const {
    const auto it = lens_at_.find(id);
    return it == lens_at_.end() ? nullptr : &register_.lenses[it->second];
}
const Claim* Fleet::claim(const std::string& id) const {
    const auto it = std::find_if(claims_.begin(), claims_.end(), [&](const Claim& c) { return c.id == id; });
    return it == claims_.end() ? nullptr : &*it;
}

BodyAnswer Fleet::body_of(const std::filesystem::path& path, const Metadata& m) const {
    using K = BodyAnswer::Knowledge;
    const std::string camera = camera_name(m);
    const auto by_claim = [&](const Claim& c) {
        if (c.fingerprint_figure > 0)
            return BodyAnswer{
                K::known, c.target,
                fmt::format("known by the fingerprint of its sensor (figure {:.0f} or more)", c.fingerprint_figure),
                true};
        return BodyAnswer{K::known, c.target, "claimed: " + describe(c), true};
    };
    const bool numbered = !m.body_serial.empty() || !m.other_serials.empty();
    for (const Claim* c : body_claims_)
        if (!c->frames.empty() && body(c->target) && claim_holds(*c, path, m, "")) return by_claim(*c);
    if (numbered) {
        std::vector<std::string> numbers = m.other_serials;
        if (!m.body_serial.empty()) numbers.insert(numbers.begin(), m.body_serial);
        for (const std::string& number : numbers)
            if (const auto claims = numbered_body_claims_.find(number); claims != numbered_body_claims_.end())
                for (const Claim* c : claims->second)
                    if (body(c->target) && claim_holds(*c, path, m, "")) return by_claim(*c);
        for (const std::string& number : numbers)
            if (const auto it = body_of_number_.find(camera + "\n" + number); it != body_of_number_.end())
                return {K::known, it->second, "the file reports its serial number", false};
        return {K::unknown, "",
                fmt::format("the file reports the number {}, which is claimed for no body", numbers.front()), false};
    }
    for (const Claim* c : body_claims_)
        if (c->frames.empty() && body(c->target) && claim_holds(*c, path, m, "")) return by_claim(*c);
    const auto of_model = bodies_of_model_.find(camera);
    if (camera.empty() || of_model == bodies_of_model_.end())
        return {K::unknown, "", "the file reports no serial number, and the fleet has no body of its model", false};
    if (of_model->second.size() > 1)
        return {K::unknown, "",
                fmt::format("the file reports no serial number, and the fleet has {} bodies of its model",
                            of_model->second.size()),
                false};
    if (numbering_.count(camera))
        return {K::unknown, "",
                "the file reports no serial number, though files of its model do: which body took it is not known",
                false};
    return {K::assumed, of_model->second.front(),
            "the file reports no serial number; this is the only body of its model in the fleet", false};
}

LensAnswer Fleet::lens_of(const std::filesystem::path& path, const Metadata& m, const std::string& body) const {
    LensAnswer out{m.lens, m.lens_serial, "", 0, 0, m.lens.empty() ? "the file names no lens" : "as the file reports",
                   false,  false};
    for (const Claim* c : lens_claims_) {
        // A folder or a time span settles only frames that name no lens.
        if (c->frames.empty() && !c->says_what_files_report() && !m.lens.empty()) continue;
        const LensEntry* entry = lens(c->target);
        if (!entry || !claim_holds(*c, path, m, body)) continue;
        out = {entry->lens, entry->serial, entry->id, c->focal_mm, c->aperture, "assigned: " + describe(*c),
               true,        true};
        if (out.focal_mm == 0 && m.focal_mm == 0 && !entry->zoom()) out.focal_mm = entry->focal_min_mm;
        return out;
    }
    if (m.lens.empty()) return out;
    const std::string text = canonical_lens_text(m.lens);
    out.registered = lens_texts_.count(text) > 0;
    if (m.lens_serial.empty()) return out;
    const auto it = lens_of_number_.find(text + "\n" + m.lens_serial);
    out.id = it != lens_of_number_.end() ? it->second : lens_id(m);
    return out;
}

Metadata with_lens(const Metadata& metadata, const LensAnswer& lens) {
    Metadata m = metadata;
    m.lens = lens.lens;
    m.lens_serial = lens.serial;
    if (lens.focal_mm > 0) m.focal_mm = lens.focal_mm;
    if (lens.aperture > 0) m.aperture = lens.aperture;
    return m;
}

}  // namespace optrel
