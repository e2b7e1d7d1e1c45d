// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>
#include <unistd.h>

#include <csignal>
#include <cstdio>

#include "base/error.h"
#include "base/json_text.h"
#include "base/numbers.h"
#include "base/station.h"
#include "base/words.h"
#include "cli/commands.h"
#include "studio/fleet/claim.h"

namespace optrel::cli {

namespace {

/// File names may contain invalid UTF-8; they are printed escaped.
void make_printable(nlohmann::json& j) {
    if (j.is_string()) {
        if (const auto& text = j.get_ref<const std::string&>(); !is_utf8(text)) j = printable(text);
    } else if (j.is_structured()) {
        for (nlohmann::json& item : j) make_printable(item);
    }
}

}  // namespace

void print_json(nlohmann::json document) {
    make_printable(document);
    std::printf("%s\n", json_text(document, 1).c_str());
}

void end_list(const nlohmann::json& listed, bool as_json, const char* when_empty) {
    if (as_json)
        print_json(listed);
    else if (listed.empty())
        std::printf("%s\n", when_empty);
}

CLI::App* add_command(CLI::App& parent, const std::string& name, const std::string& what, const std::string& example) {
    CLI::App* command = parent.add_subcommand(name, what);
    command->footer("Example:\n  optrel-cli " + example);
    return command;
}

void add_store_option(CLI::App& command, std::string& folder) {
    command.add_option(
        "--store", folder,
        "Folder of the store, or postgresql://USER@HOST/NAME [default: " + default_store_address() + "]");
}

Store open_store(const std::string& given, Access access) {
    const std::string address = given.empty() ? default_store_address() : given;
    sign_as(user_in(address));
    return Store(address, access);
}

void add_overwrite_flag(CLI::App& command, bool& overwrite) {
    command.add_flag("--overwrite", overwrite,
                     "Replace the output when it is there and Optrel wrote it; anything else is never replaced");
}

CLI::Validator between(double low, double high) {
    return CLI::Validator(
        [=](std::string& text) {
            const auto value = parse_number(text);
            if (value && *value >= low && *value <= high) return std::string();
            return fmt::format("'{}' is no number from {:g} to {:g}", printable(text.substr(0, 40)), low, high);
        },
        fmt::format("{:g} to {:g}", low, high));
}

CLI::Validator whole(int low, int high) {
    const std::string range =
        high >= 1000000000 ? fmt::format("a whole number, {} or more", low) : fmt::format("{} to {}", low, high);
    return CLI::Validator(
        [=](std::string& text) {
            const auto value = parse_integer(text);
            if (value && *value >= low && *value <= high) return std::string();
            return fmt::format("'{}' is not {}{}", printable(text.substr(0, 40)),
                               high >= 1000000000 ? "" : "a whole number from ", range);
        },
        high >= 1000000000 ? std::string("N") : range);
}

std::pair<int, int> whole_pair(const std::string& text, const char* what, int low, int high) {
    const auto pair = parse_pair(text, 'x');
    const auto fits = [&](double v) { return v >= low && v <= high && v == static_cast<int>(v); };
    if (!pair || !fits(pair->first) || !fits(pair->second))
        throw usage_error(
            fmt::format("The {} '{}' are not understood; write two whole numbers from {} to {}, as in {}x{}.", what,
                        text, low, high, low + 11, low + 6));
    return {static_cast<int>(pair->first), static_cast<int>(pair->second)};
}

void write_or_print(const std::string& file, const OutputFormat& format, bool overwrite, const std::string& text) {
    if (file.empty())
        fmt::print("{}", text);
    else
        write_output(file, format, existing(overwrite), text);
}

std::string author_or_me(const std::string& given) { return given.empty() ? current_author() : given; }

void tell_problems(const std::vector<std::string>& problems) {
    for (const std::string& p : problems) fmt::print(stderr, "{}\n", p);
}

void fail_with(const std::vector<std::string>& problems) {
    if (problems.empty()) return;
    tell_problems({problems.begin() + 1, problems.end()});
    throw input_error(problems.front());
}

void until_ended(const std::function<void(Progress&)>& work) {
    std::signal(SIGTERM, [](int) { console_progress().cancel(); });
    try {
        work(console_progress());
    } catch (const Cancelled&) {
    }
}

Progress& console_progress() {
    static Progress progress([](int done, int total, const std::string& what) {
        if (isatty(STDERR_FILENO))
            std::fprintf(stderr, "\r%s %d / %d%s", what.c_str(), done, total, done == total ? "\n" : "");
    });
    static const bool ready = [] {
        std::signal(SIGINT, [](int) { progress.cancel(); });
        return true;
    }();
    (void)ready;
    return progress;
}

}  // namespace optrel::cli
