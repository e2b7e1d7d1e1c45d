// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/frames/words_given.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/words.h"

namespace optrel::cli {
namespace {

/// Position in the command line: the innermost command that its words name, and the first unknown word.
struct Reached {
    const CLI::App* command;
    std::string path = "optrel-cli";
    std::string unknown = {};
};

std::vector<std::string> names_of_commands(const CLI::App& command) {
    std::vector<std::string> out;
    for (const CLI::App* c : command.get_subcommands({})) out.push_back(c->get_name());
    return out;
}

Reached reached_by(const CLI::App& app, const std::vector<std::string>& words) {
    Reached out{&app};
    for (const std::string& word : words) {
        if (names_of_commands(*out.command).empty()) break;
        if (word.empty() || word[0] == '-') break;  // options of that command
        const CLI::App* next = nullptr;
        for (const CLI::App* c : out.command->get_subcommands({}))
            if (c->get_name() == word) next = c;
        if (!next) {
            out.unknown = word;
            break;
        }
        out.command = next;
        out.path += " " + word;
    }
    return out;
}

/// An option that the command does not have.
std::string unknown_option(const CLI::App& command, const std::vector<std::string>& words) {
    for (const std::string& word : words) {
        const std::string name = word.substr(0, word.find('='));
        if (name.size() > 2 && name.starts_with("--") && !command.get_option_no_throw(name)) return name;
    }
    return {};
}

std::vector<std::string> names_of_options(const CLI::App& command) {
    std::vector<std::string> out;
    for (const CLI::Option* o : command.get_options())
        for (const std::string& name : o->get_lnames()) out.push_back("--" + name);
    return out;
}

}  // namespace

std::vector<std::string> with_present_names(int argc, char** argv) {
    std::vector<std::string> out(argv + 1, argv + argc);
    if (!out.empty() && out[0] == "recipe") out[0] = "delivery";
    for (std::string& word : out)
        if (word == "--recipe" || word.starts_with("--recipe=")) word.replace(0, 8, "--delivery");
    return out;
}

std::string what_is_wrong(const CLI::ParseError& error, const CLI::App& app, const std::vector<std::string>& words) {
    const Reached at = reached_by(app, words);
    const std::string more = fmt::format("; see '{} --help'.", at.path);
    const std::vector<std::string> commands = names_of_commands(*at.command);
    if (!at.unknown.empty())
        return fmt::format("'{}' has no command '{}'{}{}", at.path, printable(at.unknown),
                           nearest_clause(at.unknown, commands), more);
    if (const std::string option = unknown_option(*at.command, words); !option.empty())
        return fmt::format("'{}' has no option '{}'{}{}", at.path, printable(option),
                           nearest_clause(option, names_of_options(*at.command)), more);
    if (!commands.empty() && error.get_name() == "RequiredError")
        return fmt::format("Say what to do: {}{}", one_of(commands), more);
    return printable(without_stop(error.what())) + more;
}

}  // namespace optrel::cli
