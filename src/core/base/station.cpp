// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/station.h"

#include <fmt/format.h>
#include <pwd.h>
#include <unistd.h>

#include <cstdlib>
#include <fstream>
#include <mutex>

#include "base/files.h"

namespace optrel {
namespace {

struct Signed {
    std::mutex mutex;
    std::string name;
};

Signed& signed_in() {
    static Signed all;
    return all;
}

}  // namespace

std::string this_station() {
    if (const char* given = std::getenv("OPTREL_STATION"); given && given[0]) return given;
    char name[256] = {};
    return gethostname(name, sizeof name - 1) == 0 && name[0] ? name : "station";
}

std::string this_machine() {
    if (const char* given = std::getenv("OPTREL_MACHINE"); given && given[0]) return given;
    std::string number;
    std::getline(std::ifstream("/etc/machine-id"), number);
    // As its manual (machine-id(5)) asks: the number itself is not to be shown around.
    return fmt::format("{:016x}", fnv1a("Optrel " + (number.empty() ? std::to_string(gethostid()) : number)));
}

std::string current_author() {
    {
        std::lock_guard lock(signed_in().mutex);
        if (!signed_in().name.empty()) return signed_in().name;
    }
    if (const passwd* user = getpwuid(getuid()); user && user->pw_name) return user->pw_name;
    const char* name = std::getenv("USER");
    return name ? name : "unknown";
}

void sign_as(const std::string& name) {
    std::lock_guard lock(signed_in().mutex);
    signed_in().name = name;
}

}  // namespace optrel
