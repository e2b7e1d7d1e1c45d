#include <unistd.h>

#include <csignal>
#include <cstdio>

#include "commands.h"
#include "store/store.h"

namespace optrel::cli {

void print_json(const nlohmann::json& document) { std::printf("%s\n", document.dump(1).c_str()); }

void add_store_option(CLI::App& command, std::string& folder) {
    command.add_option("--store", folder, "Folder of the store (default: the user's)");
}

std::filesystem::path store_folder(const std::string& given) { return given.empty() ? default_store_folder() : std::filesystem::path(given); }

Progress& console_progress() {
    static Progress progress([](int done, int total, const std::string& what) {
        if (isatty(STDERR_FILENO)) std::fprintf(stderr, "\r%s %d / %d%s", what.c_str(), done, total, done == total ? "\n" : "");
    });
    static const bool ready = [] {
        std::signal(SIGINT, [](int) { progress.cancel(); });
        return true;
    }();
    (void)ready;
    return progress;
}

}  // namespace optrel::cli
