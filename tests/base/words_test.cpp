// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/words.h"
#include "base/spans.h"

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

TEST_CASE("days between two times", "[base][text]") {
    CHECK(days_between("2026-03-01T00:00:00Z", "2026-03-02T12:00:00Z") == 1.5);
    CHECK(days_between("2024-02-28", "2024-03-01") == 2.0);
    CHECK(days_between("2026-03-02T00:00:00Z", "2026-03-01T00:00:00Z") == -1.0);
    for (const char* text : {"", "2026", "2026-02-30", "2026-03-01T10", "x026-03-01"})
        CHECK_FALSE(days_between(text, "2026-03-01").has_value());
}
