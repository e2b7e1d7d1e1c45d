// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/register_index.h"

#include <fmt/format.h>

#include "base/error.h"
#include "optics/lens_text.h"

namespace optrel {
namespace {

/// Bodies and lenses may have equal ids, so holders of tags say which they are.
std::string holder(const Body& b) { return "body\n" + b.id; }
std::string holder(const LensEntry& l) { return "lens\n" + l.id; }
std::string number_of(const Body& b) { return b.serial.empty() ? "" : b.camera() + "\n" + b.serial; }
std::string number_of(const LensEntry& l) {
    return l.serial.empty() ? "" : canonical_lens_text(l.lens) + "\n" + l.serial;
}

void hold(std::unordered_map<std::string, std::string>& holders, const std::string& what, const std::string& id) {
    if (!what.empty()) holders.emplace(what, id);
}
void release(std::unordered_map<std::string, std::string>& holders, const std::string& what, const std::string& id) {
    if (const auto it = holders.find(what); it != holders.end() && it->second == id) holders.erase(it);
}

template <class T>
void check_unique(const T& entry, const std::unordered_map<std::string, std::string>& numbers,
                  const std::unordered_map<std::string, std::string>& tags, const char* what) {
    if (const auto it = numbers.find(number_of(entry)); it != numbers.end() && it->second != entry.id)
        throw input_error(fmt::format("The serial number {} is already that of {}; two {} cannot share it.",
                                      entry.serial, it->second, what));
    if (const auto it = tags.find(entry.asset_tag);
        !entry.asset_tag.empty() && it != tags.end() && it->second != holder(entry))
        throw input_error(fmt::format("The asset tag {} is already on {}; a tag is given once.", entry.asset_tag,
                                      it->second.substr(it->second.find('\n') + 1)));
}

}  // namespace

RegisterIndex::RegisterIndex(const Register& all) {
    for (const Body& b : all.bodies) put(b);
    for (const LensEntry& l : all.lenses) put(l);
}

void RegisterIndex::put(const Body& b) {
    hold(body_numbers_, number_of(b), b.id);
    hold(tags_, b.asset_tag, holder(b));
}
void RegisterIndex::put(const LensEntry& l) {
    hold(lens_numbers_, number_of(l), l.id);
    hold(tags_, l.asset_tag, holder(l));
}
void RegisterIndex::take_out(const Body& b) {
    release(body_numbers_, number_of(b), b.id);
    release(tags_, b.asset_tag, holder(b));
}
void RegisterIndex::take_out(const LensEntry& l) {
    release(lens_numbers_, number_of(l), l.id);
    release(tags_, l.asset_tag, holder(l));
}

void RegisterIndex::check(const Body& body) const {
    if (body.camera().empty()) throw input_error("A body needs a maker or a model; give what its files report.");
    if (body.width < 0 || body.height < 0 || body.width > 200000 || body.height > 200000 ||
        !(body.pitch_um >= 0 && body.pitch_um <= 100))
        throw input_error(fmt::format("The sensor of {} ({} x {}, {:g} µm) is out of range; correct it.", body.label(),
                                      body.width, body.height, body.pitch_um));
    check_unique(body, body_numbers_, tags_, "bodies of one model");
}

void RegisterIndex::check(const LensEntry& lens) const {
    if (lens.lens.empty())
        throw input_error("A lens needs its model as a text, for instance Lumenfold 35mm f/2.8; give one.");
    const auto range = [&](double low, double high, double most, const char* what) {
        if (!(low >= 0 && high >= 0 && low <= most && high <= most) || (high > 0 && high < low))
            throw input_error(fmt::format("The {} of {} runs from {:g} to {:g}, which cannot be; correct it.", what,
                                          lens.label(), low, high));
    };
    range(lens.focal_min_mm, lens.focal_max_mm, 5000, "focal length");
    range(lens.aperture_min, lens.aperture_max, 512, "aperture");
    check_unique(lens, lens_numbers_, tags_, "copies of one lens");
}

void check_entry(const Register& all, const Body& body) { RegisterIndex(all).check(body); }
void check_entry(const Register& all, const LensEntry& lens) { RegisterIndex(all).check(lens); }

}  // namespace optrel
