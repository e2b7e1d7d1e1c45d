#include "rollout/sheet.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/files.h"
#include "frames/xmp_packet.h"

namespace optrel {
namespace {

constexpr int format_version = 1;

void put(XmpProperties& out, const char* name, const Layer& layer) {
    for (const auto& [field, value] : layer) out[fmt::format("{}/{}", name, info(field).id)] = to_text(field, value);
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

FrameState Sheet::state() const {
    if (exempt) return FrameState::exempt;
    if (!hand.empty()) return FrameState::hand_set;
    return revision > 0 || !set.empty() ? FrameState::on_baseline : FrameState::untouched;
}

std::filesystem::path sidecar_path(const std::filesystem::path& frame) { return frame.string() + ".optrel.xmp"; }

std::string sheet_to_xmp(const Sheet& sheet) {
    XmpProperties p;
    p["format"] = fmt::format("{}", format_version);
    p["state"] = to_string(sheet.state());
    if (sheet.revision > 0) p["revision"] = fmt::format("{}", sheet.revision);
    put(p, "baseline", sheet.baseline);
    put(p, "set", sheet.set);
    put(p, "hand", sheet.hand);
    return encode_xmp(p);
}

Sheet sheet_from_xmp(const std::string& text, const std::string& where) {
    const XmpProperties properties = decode_xmp(text, where);
    Sheet sheet;
    try {
        for (const auto& [path, value] : properties) {
            if (path == "format") {
                if (std::stoi(value) > format_version) throw input_error("it was written by a newer version; update Optrel");
            } else if (path == "revision") {
                sheet.revision = std::stoi(value);
            } else if (path == "state") {
                sheet.exempt = value == "exempt";
            } else if (const std::size_t slash = path.find('/'); slash != std::string::npos) {
                const std::string layer = path.substr(0, slash);
                const Field field = field_by_id(path.substr(slash + 1));
                Layer* to = layer == "baseline" ? &sheet.baseline : layer == "set" ? &sheet.set : layer == "hand" ? &sheet.hand : nullptr;
                if (to) (*to)[field] = value_from_text(field, value);
            }
        }
    } catch (const std::exception& error) {
        std::string why = error.what();
        if (!why.empty() && why.back() == '.') why.pop_back();
        throw input_error(fmt::format("The sidecar {} cannot be used ({}); Optrel leaves it as it is.", where, why));
    }
    return sheet;
}

std::optional<std::string> read_sidecar(const std::filesystem::path& frame) {
    const std::filesystem::path path = sidecar_path(frame);
    std::error_code status;
    if (!std::filesystem::exists(path, status)) return std::nullopt;
    return read_file(path);
}

Sheet read_sheet(const std::filesystem::path& frame) {
    const std::optional<std::string> text = read_sidecar(frame);
    return text ? sheet_from_xmp(*text, sidecar_path(frame).string()) : Sheet{};
}

void write_sheet(const std::filesystem::path& frame, const Sheet& sheet) {
    read_sheet(frame);  // throws when the sidecar there is not ours to replace
    if (sheet.empty())
        remove_durable(sidecar_path(frame));
    else
        write_atomic(sidecar_path(frame), sheet_to_xmp(sheet));
}

ResolvedFrame effective(const Sheet& sheet) {
    ResolvedFrame out = neutral_start();
    if (sheet.exempt) return out;
    for (const Layer* layer : {&sheet.baseline, &sheet.set, &sheet.hand})
        for (const auto& [field, value] : *layer) out.fields[static_cast<int>(field)].value = value;
    return out;
}

}  // namespace optrel
