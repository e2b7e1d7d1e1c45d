// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/identities.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <map>
#include <set>

#include "base/choose.h"
#include "base/error.h"
#include "optics/lens_text.h"

namespace optrel {

std::string Proposal::sentence() const { return fmt::format("{}", fmt::join(reasons, "; ")); }

namespace {

std::string folder_of(const std::filesystem::path& path) { return path.parent_path().string(); }

/// Letters and figures only, without leading zeros: how numbers are mistyped.
std::string loosely(const std::string& number) {
    std::string out;
    for (const unsigned char c : number)
        if (std::isalnum(c) && !(out.empty() && c == '0')) out += static_cast<char>(std::tolower(c));
    return out;
}

struct Seen {
    const std::set<std::string>&bodies, &lenses;  ///< ids of entries that frames reach already
};

Proposal propose_body(const Identity& id, const Fleet& fleet, const Seen& seen) {
    Proposal out;
    std::vector<const Body*> of_model, without_frames;
    for (const Body& b : fleet.entries().bodies) {
        if (b.camera() != id.camera) continue;
        of_model.push_back(&b);
        if (!seen.bodies.count(b.id)) without_frames.push_back(&b);
    }
    if (id.serial.empty()) {
        out.action = of_model.empty() ? ProposedAction::register_new : ProposedAction::choose;
        out.reasons = {
            "the files report no serial number",
            of_model.empty()
                ? "the fleet has no body of this model yet"
                : fmt::format("the fleet has {} bodies of this model; claim a folder or a time span for one of them",
                              of_model.size())};
        return out;
    }
    for (const Body* b : of_model)
        if (!b->serial.empty() && loosely(b->serial) == loosely(id.serial)) {
            return {
                ProposedAction::claim_for,
                b->id,
                {fmt::format("{} has the serial number {}, which differs only in spelling", b->label(), b->serial)}};
        }
    if (without_frames.size() == 1) {
        return {ProposedAction::claim_for,
                without_frames.front()->id,
                {fmt::format("{} is the only body of this model that no frame was found of",
                             without_frames.front()->label()),
                 "files may report an internal number that is printed nowhere"}};
    }
    out.action = ProposedAction::register_new;
    out.reasons.push_back(
        of_model.empty()
            ? "the fleet has no body of this model yet"
            : fmt::format("none of the {} bodies of this model in the fleet has this number", of_model.size()));
    if (without_frames.size() > 1)
        out.reasons.push_back(
            fmt::format("it could also be one of {} that no frame was found of", without_frames.size()));
    return out;
}

Proposal propose_lens(const Identity& id, const Fleet& fleet, const Seen& seen) {
    Proposal out;
    if (id.lens_text.empty()) {
        std::vector<std::string> manual;
        for (const LensEntry& l : fleet.entries().lenses)
            if (!l.contacts) manual.push_back(l.label());
        out.action = ProposedAction::choose;
        out.reasons = {
            "the files name no lens",
            manual.empty()
                ? "register the lens, then assign it to these frames"
                : fmt::format(
                      "the fleet's lenses without contacts: {}; assign one by frames, folder, body or time span",
                      fmt::join(manual, ", "))};
        return out;
    }
    std::vector<const LensEntry*> same, without_maker, same_free;
    for (const LensEntry& l : fleet.entries().lenses) {
        const LensTextMatch match = compare_lens_texts(l.lens, id.lens_text);
        if (match == LensTextMatch::same) same.push_back(&l);
        if (match == LensTextMatch::maker_left_out) without_maker.push_back(&l);
        if (match == LensTextMatch::same && !seen.lenses.count(l.id)) same_free.push_back(&l);
    }
    if (!id.serial.empty())
        for (const LensEntry* l : same)
            if (!l->serial.empty() && loosely(l->serial) == loosely(id.serial))
                return {ProposedAction::claim_for,
                        l->id,
                        {fmt::format("{} has the number {}, which differs only in spelling", l->label(), l->serial)}};
    if (!id.serial.empty() && same_free.size() == 1)
        return {
            ProposedAction::claim_for,
            same_free.front()->id,
            {fmt::format("{} is the only copy of this lens that no frame was found of", same_free.front()->label())}};
    std::set<std::string> texts;
    for (const LensEntry* l : without_maker) texts.insert(canonical_lens_text(l->lens));
    if (same.empty() && texts.size() == 1 && without_maker.size() == 1)
        return {ProposedAction::claim_for,
                without_maker.front()->id,
                {fmt::format("the text is that of {} with the maker left out or added", without_maker.front()->lens)}};
    if (same.empty() && !without_maker.empty())
        return {ProposedAction::choose,
                "",
                {fmt::format("the text fits {} lenses of the fleet whose maker it leaves out; choose one",
                             without_maker.size())}};
    out.action = ProposedAction::register_new;
    out.reasons.push_back(same.empty()
                              ? "the fleet has no lens of this text"
                              : fmt::format("none of the {} copies in the fleet has this number", same.size()));
    return out;
}

void add_frame(Identity& id, const std::filesystem::path& path, const Metadata& metadata, const std::string& target) {
    if (id.frames++ == 0) {
        id.example = path;
        id.reported = metadata;
        id.first = id.last = metadata.time;
    }
    if (!metadata.time.empty()) {
        if (id.first.empty() || metadata.time < id.first) id.first = metadata.time;
        id.last = std::max(id.last, metadata.time);
    }
    const std::string folder = folder_of(path);
    if (id.folders.size() < 4 && std::find(id.folders.begin(), id.folders.end(), folder) == id.folders.end())
        id.folders.push_back(folder);
    if (!target.empty() && std::find(id.targets.begin(), id.targets.end(), target) == id.targets.end())
        id.targets.push_back(target);
}

}  // namespace

void IdentityCollector::add(const std::filesystem::path& path, const Metadata& m, const BodyAnswer& by_body,
                            const LensAnswer& by_lens) {
    using Status = Identity::Status;
    const std::string camera = camera_name(m);
    std::string number = m.body_serial;
    if (number.empty() && !m.other_serials.empty()) number = m.other_serials.front();
    const bool unknown = by_body.knowledge == BodyAnswer::Knowledge::unknown;
    if (!by_body.id.empty()) bodies_.insert(by_body.id);
    Identity& body = found_[fmt::format("b\n{}\n{}\n{}", camera, number, unknown)];
    body.of = Identity::Of::body;
    body.camera = camera;
    body.serial = number;
    body.other_serials = m.other_serials;
    body.status = first_of<Status>(
        {{unknown, Status::unclaimed}, {by_body.knowledge == BodyAnswer::Knowledge::assumed, Status::assumed}},
        Status::claimed);
    body.why = by_body.why;
    add_frame(body, path, m, by_body.id);

    const bool settled = by_lens.claimed || (by_lens.registered && (m.lens_serial.empty() || fleet_.lens(by_lens.id)));
    if (settled && !by_lens.id.empty()) lenses_.insert(by_lens.id);
    // Frames that name no lens are told apart by their camera, since it is by bodies that they are assigned.
    Identity& lens = found_[fmt::format("l\n{}\n{}\n{}\n{}", canonical_lens_text(m.lens), m.lens_serial,
                                        m.lens.empty() ? camera : "", settled)];
    lens.of = Identity::Of::lens;
    lens.camera = m.lens.empty() ? camera : "";
    lens.lens_text = m.lens;
    lens.serial = m.lens_serial;
    lens.status = settled ? Status::claimed : Status::unclaimed;
    lens.why = by_lens.why;
    const std::string target = by_lens.id.empty() ? by_lens.lens : by_lens.id;
    add_frame(lens, path, m, settled ? target : "");
}

std::vector<Identity> IdentityCollector::finish() {
    using Status = Identity::Status;
    const Seen seen{bodies_, lenses_};
    std::vector<Identity> out;
    for (auto& [key, id] : found_) {
        if (id.status == Status::unclaimed)
            id.proposal = id.of == Identity::Of::body ? propose_body(id, fleet_, seen) : propose_lens(id, fleet_, seen);
        out.push_back(std::move(id));
    }
    std::stable_sort(out.begin(), out.end(), [](const Identity& a, const Identity& b) {
        const auto key = [](const Identity& i) { return std::tuple(i.status != Status::unclaimed, -i.frames); };
        return key(a) < key(b);
    });
    found_.clear();
    return out;
}

Claim claim_of(const Identity& id, const std::string& target) {
    Claim c;
    c.target = target;
    if (id.of == Identity::Of::body) {
        c.of = Claim::Of::body;
        c.camera = id.camera;
        c.serial = id.serial;
    } else {
        c.of = Claim::Of::lens;
        c.lens_text = id.lens_text;
        c.lens_serial = id.serial;
        if (id.lens_text.empty()) c.camera = id.camera;
    }
    return c;
}

Accepted accept(const Identity& id, const Fleet& fleet) {
    Accepted out;
    switch (id.proposal.action) {
        case ProposedAction::claim_for: out.claims.push_back(claim_of(id, id.proposal.target)); break;
        case ProposedAction::register_new:
            if (id.of == Identity::Of::body) {
                if (!fleet.model(id.camera)) out.models.push_back(model_from(id.reported));
                Body b = body_from(id.reported);
                b.serial = id.serial;
                b.id = id_for(b);
                out.bodies.push_back(b);
            } else {
                LensEntry l = lens_from(id.reported);
                l.id = id_for(l);
                out.lenses.push_back(l);
            }
            break;
        default: throw input_error(fmt::format("This has to be chosen by a person: {}.", id.proposal.sentence()));
    }
    return out;
}

}  // namespace optrel
