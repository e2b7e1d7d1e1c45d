// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/man_page.h"

#include <fmt/format.h>

namespace optrel::cli {
namespace {

/// Escapes text for the macros: hyphens, and lines that begin like a request.
std::string escaped(const std::string& text) {
    std::string out;
    for (const char c : text) {
        if (c == '\\') out += "\\e";
        if (c == '-') out += "\\-";
        if (c != '\\' && c != '-') out += c;
    }
    if (!out.empty() && (out[0] == '.' || out[0] == '\'')) out = "\\&" + out;
    return out;
}

void add_options(const CLI::App& command, std::string& out) {
    for (const CLI::Option* option : command.get_options()) {
        std::string name = option->get_name(option->get_positional(), true);
        if (const std::string& type = option->get_type_name(); !type.empty() && option->get_type_size() != 0)
            name += " " + type;
        out += fmt::format(".TP\n.B {}\n{}\n", escaped(name), escaped(option->get_description()));
        if (const std::string& standard = option->get_default_str(); !standard.empty())
            out += fmt::format("[default: {}]\n", escaped(standard));
    }
}

void describe_command(const CLI::App& command, const std::string& path, std::string& out) {
    const std::string name = path.empty() ? command.get_name() : path + " " + command.get_name();
    out += fmt::format(".SS {}\n{}\n", escaped(name), escaped(command.get_description()));
    add_options(command, out);
    if (const std::string& footer = command.get_footer(); footer.rfind("Example:\n", 0) == 0)
        out +=
            fmt::format(".PP\nExample:\n.PP\n.nf\n{}\n.fi\n", escaped(footer.substr(std::string("Example:\n").size())));
    for (const CLI::App* inner : command.get_subcommands({})) describe_command(*inner, name, out);
}

}  // namespace

std::string man_page(const CLI::App& app) {
    std::string out = fmt::format(
        ".TH OPTREL\\-CLI 1 \"\" \"Optrel " OPTREL_VERSION
        "\"\n.SH NAME\noptrel\\-cli \\- lens calibration, baselines and rollout for raw frames\n.SH SYNOPSIS\n"
        ".B optrel\\-cli\n.I COMMAND\n.RI [ OPTIONS ]\n.SH DESCRIPTION\n{}\nSee optrel(1) for the window.\n"
        ".SH COMMANDS\n",
        escaped(app.get_description()));
    for (const CLI::App* command : app.get_subcommands({})) describe_command(*command, "", out);
    out +=
        ".SH EXIT STATUS\n0 when the work is done, 1 when it failed (one sentence on standard error says why), 2 for "
        "wrong usage.\n.SH SEE ALSO\n.BR optrel (1)\n";
    return out;
}

}  // namespace optrel::cli
