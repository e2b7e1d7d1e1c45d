// SPDX-License-Identifier: GPL-3.0-or-later
// What the fuzzer once found is read again, and sound inputs with some bytes changed: refused in a sentence, or read.
#include <catch2/catch.hpp>
#include <random>

#include "base/files.h"
#include "fuzz/readers.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// A few bytes changed, taken out, doubled or put in, from a sound input.
std::string changed(std::string bytes, std::mt19937& random) {
    const auto below = [&](std::size_t n) { return std::uniform_int_distribution<std::size_t>(0, n - 1)(random); };
    for (std::size_t n = 1 + below(4); n > 0 && !bytes.empty(); --n) {
        const std::size_t at = below(bytes.size()), length = std::min(bytes.size() - at, 1 + below(16));
        switch (below(5)) {
            case 0: bytes[at] = static_cast<char>(random()); break;
            case 1: bytes[at] = static_cast<char>(bytes[at] ^ (1 << below(8))); break;
            case 2: bytes.erase(at, length); break;
            case 3: bytes.insert(at, bytes.substr(at, length)); break;
            default: bytes.insert(at, 1, "\0\xff-9[{\"<"[below(8)]);
        }
    }
    return bytes;
}

}  // namespace

TEST_CASE("what the fuzzer found once is read again", "[fuzz]") {
    for (const FuzzedReader& reader : fuzzed_readers()) {
        const fs::path corpus = fs::path(OPTREL_SOURCE) / "tests/fuzz/corpus" / reader.name;
        INFO(reader.name);
        CHECK(fs::is_directory(corpus));
        for (const auto& file : fs::directory_iterator(corpus)) {
            INFO(file.path().filename().string());
            CHECK_NOTHROW(reads(reader, read_file(file.path())));
        }
    }
}

TEST_CASE("sound inputs are read", "[fuzz]") {
    for (const FuzzedReader& reader : fuzzed_readers()) {
        INFO(reader.name);
        CHECK(reads(reader, reader.sound()));
    }
}

TEST_CASE("sound inputs with a few bytes changed are read or refused", "[fuzz]") {
    for (const FuzzedReader& reader : fuzzed_readers()) {
        INFO(reader.name);
        const std::string sound = reader.sound();
        std::mt19937 random(1);
        for (int i = 0; i < 400; ++i) {
            const std::string bytes = changed(sound, random);
            INFO("input " << i);
            CHECK_NOTHROW(reads(reader, bytes));
        }
    }
}
