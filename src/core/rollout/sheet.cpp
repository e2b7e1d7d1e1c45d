// SPDX-License-Identifier: GPL-3.0-or-later
#include "rollout/sheet.h"

#include <fmt/format.h>
#include <sys/stat.h>

#include <algorithm>
#include <cerrno>
#include <cstring>

#include "base/choose.h"
#include "base/error.h"
#include "base/files.h"
#include "base/numbers.h"
#include "base/words.h"
#include "frames/foreign_xmp.h"
#include "frames/xmp_packet.h"

namespace optrel {
namespace fs = std::filesystem;
namespace {

/// Number of known fields, which grows with each format; format 1 had 36.
constexpr int format_version = field_count - 35;
static_assert(format_version >= 1);
constexpr std::uintmax_t sidecar_limit = 16u << 20;

void put(XmpProperties& out, const char* name, const Layer& layer) {
    for (const auto& [field, value] : layer) out[fmt::format("{}/{}", name, info(field).id)] = to_text(field, value);
}

Sheet sheet_of(const std::optional<std::string>& bytes, const fs::path& frame) {
    return bytes ? sheet_from_xmp(*bytes, sidecar_path(frame).string()) : Sheet{};
}

/// Known fields replace unknown properties of the same name.
void settle(Sheet& sheet) {
    for (const auto& [name, layer] :
         {std::pair("baseline", &sheet.baseline), {"set", &sheet.set}, {"hand", &sheet.hand}})
        for (const auto& [field, value] : *layer) sheet.later.erase(fmt::format("{}/{}", name, info(field).id));
}

/// The caller holds the frame's lock and has read `there`.
void write_under_lock(const fs::path& frame, const std::optional<std::string>& there, Sheet& sheet) {
    settle(sheet);
    if (sheet.empty()) {
        if (there) remove_durable(sidecar_path(frame));
        return;
    }
    const std::string bytes = sheet_to_xmp(sheet);
    // Verifies that the bytes can be read back before writing them.
    if (!(sheet_from_xmp(bytes, sidecar_path(frame).string()) == sheet))
        throw input_error(fmt::format(
            "The sheet of {} would not read back as it is, so nothing was written; check the values that were set.",
            frame.string()));
    if (!there || *there != bytes) write_atomic(sidecar_path(frame), bytes);
}

int whole_number(const std::string& text, const char* what) {
    const auto value = parse_integer(text);
    if (!value || *value < 0 || *value > 1000000000) throw input_error(fmt::format("its {} is '{}'", what, text));
    return static_cast<int>(*value);
}

}  // namespace

std::string to_string(FrameState state) {
    switch (state) {
        case FrameState::untouched: return "untouched";
        case FrameState::on_baseline: return "on baseline";
        case FrameState::hand_set: return "hand-set";
        default: return "exempt";
    }
}

bool Sheet::follows_baseline() const { return state() == FrameState::untouched || state() == FrameState::on_baseline; }

FrameState Sheet::state() const {
    if (exempt) return FrameState::exempt;
    const auto first_later = later.lower_bound("hand/");
    const bool later_by_hand = first_later != later.end() && first_later->first.rfind("hand/", 0) == 0;
    if (!hand.empty() || later_by_hand) return FrameState::hand_set;
    return revision > 0 || !set.empty() ? FrameState::on_baseline : FrameState::untouched;
}

fs::path sidecar_path(const fs::path& frame) { return frame.string() + ".optrel.xmp"; }

std::string sheet_to_xmp(const Sheet& sheet) {
    XmpProperties p(sheet.later.begin(), sheet.later.end());
    p["format"] = fmt::format("{}", std::max(format_version, sheet.later.empty() ? 0 : sheet.format));
    p["state"] = to_string(sheet.state());
    if (sheet.revision > 0) p["revision"] = fmt::format("{}", sheet.revision);
    if (!sheet.profile.empty()) p["profile"] = sheet.profile;
    put(p, "baseline", sheet.baseline);
    put(p, "set", sheet.set);
    put(p, "hand", sheet.hand);
    return with_foreign(encode_xmp(p), sheet.foreign);
}

namespace {

/// Parses one property "layer/field". Returns false when it belongs to no layer.
bool take_field(Sheet& sheet, const std::string& path, const std::string& value) {
    const std::size_t slash = path.find('/');
    if (slash == std::string::npos) return false;
    const std::string layer = path.substr(0, slash);
    Layer* to = first_of<Layer*>(
        {{layer == "baseline", &sheet.baseline}, {layer == "set", &sheet.set}, {layer == "hand", &sheet.hand}},
        nullptr);
    if (!to) return false;
    const Field field = field_by_id(path.substr(slash + 1));
    (*to)[field] = value_from_text(field, value);
    return true;
}

}  // namespace

Sheet sheet_from_xmp(const std::string& text, const std::string& where) {
    const XmpProperties properties = decode_xmp(text, where);
    Sheet sheet;
    sheet.foreign = foreign_in_xmp(text);
    try {
        const auto at = [&](const char* name) {
            const auto it = properties.find(name);
            return it == properties.end() ? std::string() : it->second;
        };
        sheet.format = properties.count("format") ? whole_number(at("format"), "format") : 1;
        if (properties.count("revision")) sheet.revision = whole_number(at("revision"), "revision");
        sheet.exempt = at("state") == "exempt";
        if (properties.count("profile")) sheet.profile = at("profile");
        if (!is_plain_line(sheet.profile, 200)) throw input_error("its profile is no name of one");
        const bool newer = sheet.format > format_version;
        for (const auto& [path, value] : properties) {
            if (path == "format" || path == "revision" || path == "state" || path == "profile") continue;
            try {
                if (!take_field(sheet, path, value) && newer) sheet.later[path] = value;
            } catch (const Error&) {
                if (!newer) throw;
                sheet.later[path] = value;  // a field or value of a newer version
            }
        }
    } catch (const std::exception& error) {
        throw input_error(fmt::format("The sidecar {} cannot be used ({}); Optrel leaves it as it is.", where,
                                      without_stop(error.what())));
    }
    return sheet;
}

std::optional<std::string> read_sidecar(const fs::path& frame) {
    const fs::path path = sidecar_path(frame);
    struct ::stat status = {};
    if (::lstat(path.c_str(), &status) != 0) {
        if (errno == ENOENT) return std::nullopt;
        throw file_error(fmt::format(
            "The sidecar {} cannot be looked at ({}); Optrel leaves it as it is, check the rights of its folder.",
            printable(path.string()), std::strerror(errno)));
    }
    if (!S_ISREG(status.st_mode))
        throw file_error(fmt::format(
            "The sidecar {} is a link or no regular file, which Optrel never makes; it is left as it is, move it away.",
            printable(path.string())));
    return read_file(path, sidecar_limit);
}

Sheet read_sheet(const fs::path& frame) { return sheet_of(read_sidecar(frame), frame); }

Sheet edit_sheet(const fs::path& frame, const std::function<void(Sheet&)>& edit) {
    require_regular(frame);
    const FileLock lock = FileLock::on_existing(frame);
    const std::optional<std::string> there = read_sidecar(frame);
    Sheet sheet = sheet_of(there, frame);
    edit(sheet);
    write_under_lock(frame, there, sheet);
    return sheet;
}

namespace {

/// Applies the change from `before` to `after` to `now`. Returns false when `now` has another change of the same field.
template <class T>
bool put_change(const T& before, const T& after, T& now) {
    if (after == before || now == after) return true;
    if (!(now == before)) return false;
    now = after;
    return true;
}

bool put_change(const Layer& before, const Layer& after, Layer& now) {
    const auto at = [](const Layer& layer, Field field) {
        const auto it = layer.find(field);
        return it == layer.end() ? std::optional<Value>() : std::optional(it->second);
    };
    bool whole = true;
    for (int f = 0; f < field_count; ++f) {
        const Field field = static_cast<Field>(f);
        std::optional<Value> value = at(now, field);
        whole = put_change(at(before, field), at(after, field), value) && whole;
        if (value)
            now[field] = *value;
        else
            now.erase(field);
    }
    return whole;
}

/// Merges both edits; nothing when they change the same field.
std::optional<Sheet> merged(const Sheet& before, const Sheet& after, Sheet now) {
    // Exempting a frame affects the whole sheet.
    if (before.exempt != after.exempt || before.exempt != now.exempt) return std::nullopt;
    bool whole = put_change(before.revision, after.revision, now.revision);
    whole = put_change(before.baseline, after.baseline, now.baseline) && whole;
    whole = put_change(before.set, after.set, now.set) && whole;
    whole = put_change(before.hand, after.hand, now.hand) && whole;
    whole = put_change(before.profile, after.profile, now.profile) && whole;
    whole = put_change(before.later, after.later, now.later) && whole;
    return whole ? std::optional(now) : std::nullopt;
}

fs::path keep_beside(const fs::path& frame, const Sheet& sheet) {
    for (int n = 1;; ++n) {
        const fs::path path = frame.string() + fmt::format(".optrel.clash-{}.xmp", n);
        std::error_code status;
        if (fs::exists(fs::symlink_status(path, status))) continue;
        write_new(path, sheet_to_xmp(sheet));
        return path;
    }
}

}  // namespace

SheetWrite replace_sheet(const fs::path& frame, const Sheet& before, const Sheet& after) {
    require_regular(frame);
    const FileLock lock = FileLock::on_existing(frame);
    const std::optional<std::string> there = read_sidecar(frame);
    const Sheet now = sheet_of(there, frame);
    if (now == after) return {now, ""};
    std::optional<Sheet> next = now == before ? std::optional(after) : merged(before, after, now);
    if (next) {
        next->foreign = now.foreign;
        write_under_lock(frame, there, *next);
        return {*next, ""};
    }
    const fs::path kept = keep_beside(frame, after);
    return {now, fmt::format("The sheet of {} was changed at another station meanwhile, which stays; yours is kept in "
                             "{}: look at both and set it again.",
                             printable(frame.filename().string()), printable(kept.filename().string()))};
}

namespace {

/// The bytes of `to`, with the current properties of other programs; nothing when anything else was changed since
/// `from`.
std::optional<std::string> with_what_others_added(const fs::path& frame, const std::optional<std::string>& now,
                                                  const std::optional<std::string>& from,
                                                  const std::optional<std::string>& to) {
    if (!now) return std::nullopt;
    try {
        const Sheet there = sheet_of(now, frame), then = sheet_of(from, frame);
        Sheet next = sheet_of(to, frame);
        if (there.foreign == then.foreign || (!(there == then) && !(there == next))) return std::nullopt;
        next.foreign = there.foreign;
        return sheet_to_xmp(next);
    } catch (const Error&) {
        return std::nullopt;  // damaged: reported as changed
    }
}

}  // namespace

SidecarWrite replace_sidecar_if_unchanged(const fs::path& frame, const std::optional<std::string>& from,
                                          const std::optional<std::string>& to,
                                          const std::function<void()>& just_before) {
    const FileLock lock = FileLock::on_existing(frame, std::chrono::seconds(20));
    const std::optional<std::string> now = read_sidecar(frame);
    if (now == to) return SidecarWrite::already;
    std::optional<std::string> wanted = to;
    if (now != from) {
        // Additions of other programs do not count as changes and are preserved.
        const std::optional<std::string> carried_on = with_what_others_added(frame, now, from, to);
        if (!carried_on) return SidecarWrite::changed;
        if (now == carried_on) return SidecarWrite::already;
        wanted = carried_on;
    }
    if (wanted)
        write_atomic(sidecar_path(frame), *wanted, just_before);
    else
        remove_durable(sidecar_path(frame), just_before);
    return SidecarWrite::written;
}

std::optional<Value> value_in(const Sheet& sheet, Field field) {
    if (sheet.exempt) return std::nullopt;
    for (const Layer* layer : {&sheet.hand, &sheet.set, &sheet.baseline})
        if (const auto at = layer->find(field); at != layer->end()) return at->second;
    return std::nullopt;
}

ResolvedFrame effective(const Sheet& sheet) {
    ResolvedFrame out = neutral_start();
    if (sheet.exempt) return out;
    for (const Layer* layer : {&sheet.baseline, &sheet.set, &sheet.hand})
        for (const auto& [field, value] : *layer) out.fields[static_cast<int>(field)].value = value;
    return out;
}

}  // namespace optrel
