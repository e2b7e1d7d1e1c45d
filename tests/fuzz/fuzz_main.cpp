// SPDX-License-Identifier: GPL-3.0-or-later
// Feeds one reader, which the variable OPTREL_FUZZ names, with what libFuzzer makes up.
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <fstream>

#include "fuzz/readers.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    using namespace optrel::test;
    static const FuzzedReader* reader = [] {
        const char* wanted = std::getenv("OPTREL_FUZZ");
        for (const FuzzedReader& r : fuzzed_readers())
            if (wanted && std::strcmp(r.name, wanted) == 0) return &r;
        std::fprintf(stderr, "OPTREL_FUZZ names no reader; there are:");
        for (const FuzzedReader& r : fuzzed_readers()) std::fprintf(stderr, " %s", r.name);
        std::fprintf(stderr, "\n");
        std::exit(2);
    }();
    reads(*reader, std::string(reinterpret_cast<const char*>(data), size));
    return 0;
}

/// Before anything is made up: writes the sound input of the reader to where the variable OPTREL_SOUND says.
extern "C" int LLVMFuzzerInitialize(int*, char***) {
    using namespace optrel::test;
    const char *to = std::getenv("OPTREL_SOUND"), *wanted = std::getenv("OPTREL_FUZZ");
    for (const FuzzedReader& r : fuzzed_readers())
        if (to && wanted && std::strcmp(r.name, wanted) == 0) std::ofstream(to, std::ios::binary) << r.sound();
    return 0;
}
