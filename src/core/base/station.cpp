// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/station.h"

#include <fmt/format.h>
#include <pwd.h>
#include <unistd.h>

#include <algorithm>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <mutex>
#include <sstream>

#include "base/hashes.h"
#include "base/words.h"

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
    // machine-id(5) asks not to expose the id itself.
    return fmt::format("{:016x}", fnv1a("Optrel " + (number.empty() ? std::to_string(gethostid()) : number)));
}

namespace {

std::string line_of(const std::string& path) {
    std::string out;
    std::getline(std::ifstream(path), out);
    return out;
}

/// Identifies the process id namespace: two process ids can be compared when they come from the same one. It changes
/// with each start of the machine.
std::string numbering() {
    std::error_code failed;
    const auto container = std::filesystem::read_symlink("/proc/self/ns/pid", failed);
    return fmt::format("{:016x}", fnv1a(line_of("/proc/sys/kernel/random/boot_id") + container.string()));
}

/// The start time of a process in clock ticks (proc(5), /proc/PID/stat, field 22). Empty when there is no such process.
std::string started(const std::string& number) {
    const std::string stat = line_of("/proc/" + number + "/stat");
    // The program name is in parentheses and may contain any character.
    std::istringstream rest(stat.substr(std::min(stat.size(), stat.rfind(')') + 1)));
    std::string word;
    for (int field = 3; field <= 22 && rest >> word; ++field) {
        // A zombie has ended; its parent has not waited for it yet.
        if (field == 3 && (word == "Z" || word == "X")) return {};
    }
    return rest ? word : std::string();
}

}  // namespace

std::string this_process() {
    const std::string number = std::to_string(::getpid());
    return fmt::format("{}/{}/{}", numbering(), number, started(number));
}

bool process_ended(const std::string& process) {
    const std::vector<std::string> parts = listed(process, '/');
    if (parts.size() != 3 || parts[0] != numbering() || parts[1].find_first_not_of("0123456789") != std::string::npos)
        return false;
    return started(parts[1]) != parts[2];
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
