// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/studio_names.h"

#include <fmt/format.h>

#include <QStandardPaths>
#include <algorithm>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <vector>

#include "base/error.h"
#include "base/files.h"
#include "base/json_text.h"
#include "base/words.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

fs::path file() {
    return fs::path(QStandardPaths::writableLocation(QStandardPaths::GenericConfigLocation).toStdString()) / "optrel" /
           "studios.json";
}

}  // namespace

std::map<std::string, std::string> studio_names() {
    std::error_code none;
    if (!fs::exists(file(), none)) return {};
    try {
        return parse_json(read_file(file()), file().string()).get<std::map<std::string, std::string>>();
    } catch (const std::exception&) {
        throw input_error(fmt::format(
            "{} holds no names of studios; it should look like {{\"north\": \"postgresql://iva@server/studio\"}}.",
            file().string()));
    }
}

void name_studio(const std::string& name, const std::string& address) {
    std::map<std::string, std::string> all = studio_names();
    std::vector<std::string> known;
    for (const auto& [key, value] : all) known.push_back(key);
    if (address.empty()) {
        if (all.erase(name) == 0)
            throw input_error(fmt::format("No studio is called '{}'{}.", printable(name), nearest_clause(name, known)));
    } else {
        const bool sound = !name.empty() && is_utf8(name) && name[0] != '.' && name.find('/') == std::string::npos &&
                           name.find(':') == std::string::npos;
        if (!sound)
            throw input_error(fmt::format("'{}' cannot be the name of a studio; write one without slashes and colons.",
                                          printable(name)));
        all[name] = address;
    }
    make_folders(file().parent_path());
    write_atomic(file(), json_text(nlohmann::json(all), 1) + "\n");
}

std::string address_named(const std::string& given) {
    if (given.empty() || given.find('/') != std::string::npos) return given;
    std::error_code none;
    if (fs::exists(given, none)) return given;
    const std::map<std::string, std::string> all = studio_names();
    const auto it = all.find(given);
    return it == all.end() ? given : it->second;
}

}  // namespace optrel
