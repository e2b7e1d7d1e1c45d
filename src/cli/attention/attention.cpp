// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-cli attention: what needs a person, for people and for cron jobs.
#include "studio/attention/attention.h"

#include <fmt/format.h>

#include <set>

#include "base/words.h"
#include "cli/commands.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct AttentionOptions {
    std::string store, at_least = "any";
    std::vector<std::string> kinds;
    bool json = false;
};

json document_of(const AttentionItem& item) {
    return {{"kind", to_string(item.kind)},
            {"serious", item.serious},
            {"what", item.what},
            {"why", item.why},
            {"frames", item.frames},
            {"settle_by", item.settle_by},
            {"subject", item.subject},
            {"number", item.number}};
}

void print(const std::vector<AttentionItem>& items) {
    for (const AttentionItem& item : items) {
        fmt::print("{} {}{}\n", item.serious ? "!" : "-", printable(item.what),
                   item.frames > 0 ? fmt::format(" ({} {})", item.frames, item.frames == 1 ? "frame" : "frames") : "");
        fmt::print("    {} Settle it by {}.\n", printable(item.why), item.settle_by);
    }
    if (items.empty()) fmt::print("Nothing needs you.\n");
}

void list_attention(const AttentionOptions& o) {
    std::set<AttentionKind> wanted;
    for (const std::string& kind : o.kinds) wanted.insert(attention_kind_named(kind));
    const Store store = open_store(o.store, Access::read);
    std::vector<AttentionItem> items = attention(store, console_progress());
    std::erase_if(items, [&](const AttentionItem& item) {
        return (!wanted.empty() && wanted.count(item.kind) == 0) || (o.at_least == "serious" && !item.serious);
    });
    if (o.json) {
        json out = json::array();
        for (const AttentionItem& item : items) out.push_back(document_of(item));
        print_json(out);
    } else {
        print(items);
    }
    if (std::any_of(items.begin(), items.end(), [](const AttentionItem& item) { return item.serious; }))
        throw SomethingWaits();
}

}  // namespace

void add_attention(CLI::App& app) {
    auto o = std::make_shared<AttentionOptions>();
    auto* command = add_command(
        app, "attention", "What needs a person, the most serious first; exit status 3 when something serious waits",
        "optrel-cli attention --at-least serious || mail -s 'The studio waits' technician@studio");
    add_store_option(*command, o->store);
    command->add_option("--kind", o->kinds,
                        "These kinds alone: " + fmt::format("{}", fmt::join(attention_kind_names(), ", ")));
    command->add_option("--at-least", o->at_least, "How serious")
        ->check(CLI::IsMember({"any", "serious"}))
        ->capture_default_str();
    command->add_flag("--json", o->json, "Print JSON");
    command->callback([o] { list_attention(*o); });
}

}  // namespace optrel::cli
