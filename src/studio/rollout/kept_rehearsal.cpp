// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/rollout/kept_rehearsal.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "base/error.h"
#include "base/files.h"
#include "base/json_text.h"
#include "base/path_text.h"
#include "base/words.h"
#include "studio/stations/station_memory.h"

namespace optrel {
namespace fs = std::filesystem;
namespace {

using nlohmann::json;
constexpr std::size_t most_kept = 100;

std::map<std::string, std::string> writes_of(const Store& store, const Rehearsal& rehearsal) {
    std::map<std::string, std::string> out;
    for (const RehearsedFrame& f : rehearsal.frames)
        if (f.writes) out[store.kept(f.path)] = fmt::format("{:016x}", fnv1a(f.after.text()));
    return out;
}

/// Numbers of the saved rehearsals, in order.
std::vector<int> numbers_in(const fs::path& folder) {
    std::vector<int> out;
    std::error_code none;
    for (const auto& entry : fs::directory_iterator(folder, none)) {
        const std::string name = entry.path().stem().string();
        if (entry.path().extension() == ".json" && !name.empty() && name.size() < 9 &&
            name.find_first_not_of("0123456789") == std::string::npos)
            out.push_back(std::stoi(name));
    }
    std::sort(out.begin(), out.end());
    return out;
}

fs::path file_of(const fs::path& folder, int number) { return folder / fmt::format("{}.json", number); }

}  // namespace

int keep_rehearsal(const Store& store, const Rehearsal& rehearsal, const FrameScope& scope, const fs::path& folder) {
    const fs::path in = station_memory(store.source(), "rehearsals", folder);
    std::error_code none;
    fs::create_directories(in, none);
    std::vector<int> there = numbers_in(in);
    json writes = json::object();
    for (const auto& [frame, hash] : writes_of(store, rehearsal)) writes[path_to_text(frame)] = hash;
    const json document = {{"format", "optrel-rehearsal"},
                           {"revision", rehearsal.revision},
                           {"renew_hand_set", rehearsal.renew_hand_set},
                           {"scope", json::parse(scope_to_json(scope))},
                           {"writes", writes}};
    int number = there.empty() ? 1 : there.back() + 1;
    // Another command may save one at the same time.
    while (fs::exists(file_of(in, number), none)) ++number;
    write_new(file_of(in, number), json_text(document));
    for (std::size_t i = 0; i + most_kept <= there.size(); ++i) fs::remove(file_of(in, there[i]), none);
    return number;
}

KeptRehearsal kept_rehearsal(const Store& store, int number, const fs::path& folder) {
    const fs::path in = station_memory(store.source(), "rehearsals", folder), file = file_of(in, number);
    std::error_code none;
    if (!fs::exists(file, none)) {
        const std::vector<int> there = numbers_in(in);
        throw input_error(
            fmt::format("This station remembers no rehearsal {} of this store{}; 'rollout rehearse' "
                        "prints the number of a new one.",
                        number, there.empty() ? "" : fmt::format(" (the newest is {})", there.back())));
    }
    try {
        const json j = parse_json(read_file(file), file.string());
        KeptRehearsal out;
        out.number = number;
        out.revision = j.at("revision");
        out.renew_hand_set = j.at("renew_hand_set");
        out.scope = scope_from_json(j.at("scope").dump(), file.string());
        for (const auto& [frame, hash] : j.at("writes").items()) out.writes[path_from_text(frame)] = hash;
        return out;
    } catch (const json::exception& error) {
        throw input_error(fmt::format("The rehearsal {} that this station remembers is damaged ({}); rehearse again.",
                                      number, error.what()));
    }
}

std::vector<std::string> changes_since(const Store& store, const KeptRehearsal& then, const Rehearsal& now) {
    std::vector<std::string> out;
    if (then.revision != now.revision)
        out.push_back(fmt::format("Revision {} was rehearsed, revision {} is current.", then.revision, now.revision));
    struct Kind {
        const char* words;
        int n = 0;
        std::string first;
        void add(const std::string& frame) {
            if (n++ == 0) first = frame;
        }
    };
    Kind other{"would get something else than was rehearsed", 0, ""},
        more{"would be written and were not rehearsed", 0, ""},
        less{"were rehearsed and would not be written now", 0, ""};
    const std::map<std::string, std::string> writes = writes_of(store, now);
    for (const auto& [frame, hash] : writes) {
        const auto it = then.writes.find(frame);
        if (it == then.writes.end())
            more.add(frame);
        else if (it->second != hash)
            other.add(frame);
    }
    for (const auto& [frame, hash] : then.writes)
        if (!writes.count(frame)) less.add(frame);
    for (const Kind& k : {other, more, less})
        if (k.n > 0)
            out.push_back(fmt::format("{} frame{} {}; the first is {}.", k.n, k.n == 1 ? "" : "s", k.words,
                                      printable(store.here(k.first).string())));
    return out;
}

}  // namespace optrel
