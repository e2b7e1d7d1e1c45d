// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/words.h"

#include <catch2/catch.hpp>

using namespace optrel;

TEST_CASE("names are listed as a sentence lists them", "[base]") {
    CHECK(one_of({}).empty());
    CHECK(one_of({"a"}) == "a");
    CHECK(one_of({"a", "b"}) == "a or b");
    CHECK(one_of({"a", "b", "c"}) == "a, b or c");
}

TEST_CASE("letters beyond ASCII stay as they are in lower case", "[base]") {
    CHECK(lowered("Ä.DNG") == "Ä.dng");
    CHECK(lowered("") == "");
}

TEST_CASE("lists of names are taken apart, whatever stands between them", "[base]") {
    CHECK(trimmed(" \t a b\r\n") == "a b");
    CHECK(trimmed("  ").empty());
    CHECK(listed("a, b ,,c,") == std::vector<std::string>{"a", "b", "c"});
    CHECK(listed("").empty());
    CHECK(listed(" , ").empty());
}
