// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-cli explain and remake: the account of an exported picture, and reproducing it.
#include <fmt/format.h>

#include "base/error.h"
#include "cli/commands.h"
#include "exchange/delivery.h"
#include "studio/exports/account.h"
#include "studio/exports/exporting.h"
#include "studio/profiles/profile_file.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct AccountOptions {
    std::string file, store, frame, out, profile;
    bool json = false, overwrite = false;
};

void explain(const AccountOptions& o) {
    const Account account = read_account(o.file);
    std::vector<std::string> changed = changed_since(account, o.file);
    if (!o.store.empty()) {
        const Store store = open_store(o.store, Access::read);
        for (std::string& line : changed_since(account, store)) changed.push_back(std::move(line));
    }
    if (o.json) return print_json({{"account", json::parse(account_to_json(account))}, {"changed", changed}});
    fmt::print("{}", in_words(account));
    for (const std::string& line : changed) fmt::print("! {}\n", line);
}

void remake(const AccountOptions& o) {
    const Account account = read_account(o.file);
    if (account.program != "Optrel " OPTREL_VERSION)
        fmt::print(stderr, "optrel-cli: {} was made by {}; this version may come to other values.\n", o.file,
                   account.program);
    const Delivery delivery = delivery_from_json(account.delivery, "the delivery of the account");
    const auto by_store = [&] {
        const Store store = open_store(o.store, Access::read);
        return development_of(account, store, o.frame);
    };
    const FrameDevelopment facts =
        o.profile.empty() ? by_store() : development_of(account, read_profile(o.profile), o.frame);
    const Exported done = export_any(o.frame, facts, delivery, o.out, existing(o.overwrite), console_progress());
    if (o.json) return print_json({{"out", done.out.string()}, {"width", done.width}, {"height", done.height}});
    fmt::print("{} is written, as {} was on {}.\n", done.out.string(), o.file, account.time);
}

}  // namespace

void add_explain(CLI::App& app) {
    auto o = std::make_shared<AccountOptions>();
    auto* explaining =
        add_command(app, "explain", "Tell what was done to a picture that Optrel wrote, from the picture alone",
                    "explain exports/SP0005.tif");
    explaining->add_option("file", o->file, "The picture")->required();
    explaining->add_option("--store", o->store, "A studio, to tell what has changed since");
    explaining->add_flag("--json", o->json, "Print JSON");
    explaining->callback([o] { explain(*o); });

    auto r = std::make_shared<AccountOptions>();
    auto* remaking = add_command(app, "remake", "Make a picture that Optrel wrote once more, as its account says",
                                 "remake exports/SP0005.tif --frame shoot/SP0005.dng --out again/SP0005.tif");
    remaking->add_option("file", r->file, "The picture that carries the account")->required();
    remaking->add_option("--frame", r->frame, "The frame that it was made from")->required();
    remaking->add_option("--out", r->out, "The file to write")->required();
    add_store_option(*remaking, r->store);
    add_overwrite_flag(*remaking, r->overwrite);
    remaking->add_flag("--json", r->json, "Print JSON");
    remaking->add_option("--profile", r->profile, "The profile file by which it was corrected, where no studio has it");
    remaking->callback([r] { remake(*r); });
}

}  // namespace optrel::cli
