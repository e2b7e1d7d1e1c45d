// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/look_up.h"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "base/choose.h"
#include "base/error.h"
#include "base/words.h"
#include "optics/lens_text.h"

namespace optrel {
namespace {

/// Ids of things whose name at this rank equals the text.
template <class Equal>
std::set<std::string> found_at(const std::vector<Named>& things, std::size_t rank, const Equal& equal) {
    std::set<std::string> out;
    for (const Named& thing : things)
        if (rank < thing.names.size() && !thing.names[rank].empty() && equal(thing.names[rank])) out.insert(thing.id);
    return out;
}

std::string only(const std::string& what, const std::string& text, const std::set<std::string>& ids) {
    if (ids.size() == 1) return *ids.begin();
    std::vector<std::string> some(ids.begin(), ids.end());
    if (some.size() > 4) some.resize(4);
    throw input_error(
        fmt::format("'{}' means {} {} ('{}'{}); name one by its id.", text, ids.size(),
                    first_of<std::string>({{what == "body", "bodies"}, {what == "lens", "lenses"}}, what + "s"),
                    fmt::join(some, "', '"), ids.size() > some.size() ? ", …" : ""));
}

std::vector<Named> named_bodies(const Register& all) {
    std::vector<Named> out;
    for (const Body& b : all.bodies) out.push_back({b.id, {b.id, b.asset_tag, b.serial, b.name, ""}});
    return out;
}
std::vector<Named> named_copies(const Register& all) {
    std::vector<Named> out;
    for (const LensEntry& l : all.lenses) out.push_back({l.id, {l.id, l.asset_tag, l.serial, l.name, l.lens}});
    return out;
}

}  // namespace

std::string look_up(const std::string& what, const std::string& text, const std::vector<Named>& things,
                    const std::string& where_listed) {
    std::size_t ranks = 0;
    for (const Named& thing : things) ranks = std::max(ranks, thing.names.size());
    const std::string loose = lowered(text);
    if (!text.empty())
        for (const bool exact : {true, false})
            for (std::size_t rank = 0; rank < ranks; ++rank)
                if (const auto ids = found_at(
                        things, rank,
                        [&](const std::string& name) { return exact ? name == text : lowered(name) == loose; });
                    !ids.empty())
                    return only(what, text, ids);
    std::vector<std::string> names;
    for (const Named& thing : things)
        for (const std::string& name : thing.names)
            if (!name.empty()) names.push_back(name);
    throw input_error(fmt::format("There is no {} '{}'{}; {}.", what, text, nearest_clause(text, names), where_listed));
}

std::string look_up_body(const Register& all, const std::string& text) {
    return look_up("body", text, named_bodies(all), "Fleet and 'store list bodies' show them all");
}

std::string look_up_lens_copy(const Register& all, const std::string& text) {
    return look_up("lens", text, named_copies(all), "Fleet and 'store list lenses' show them all");
}

std::string look_up_model(const Register& all, const std::string& text, const std::vector<std::string>& reported) {
    std::set<std::string> names(reported.begin(), reported.end());
    for (const ModelEntry& m : all.models) names.insert(m.id);
    for (const Body& b : all.bodies) names.insert(b.camera());
    std::vector<Named> things;
    for (const std::string& name : names)
        if (!name.empty()) things.push_back({name, {name}});
    return look_up("camera model", text, things, "Fleet and 'store list models' show them all");
}

std::string look_up_lens_text(const Register& all, const std::string& text, const std::vector<std::string>& reported) {
    std::vector<Named> things;
    std::set<std::string> known;
    const auto add = [&](const std::string& lens) {
        if (!lens.empty() && known.insert(canonical_lens_text(lens)).second)
            things.push_back({lens, {canonical_lens_text(lens)}});
    };
    for (const LensEntry& l : all.lenses) add(l.lens);
    for (const std::string& lens : reported) add(lens);
    const std::string canonical = canonical_lens_text(text);
    for (const Named& thing : things)
        if (thing.names.front() == canonical) return thing.id;
    for (Named copy : named_copies(all)) {
        const LensEntry* entry = all.lens(copy.id);
        copy.id = entry->lens;
        copy.names.back() = entry->lens;
        things.push_back(std::move(copy));
    }
    return look_up("lens", text, things, "Fleet and 'store list lenses' show them all");
}

}  // namespace optrel
