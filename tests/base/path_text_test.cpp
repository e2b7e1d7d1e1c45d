// SPDX-License-Identifier: GPL-3.0-or-later
// Names of any bytes as texts, and back.
#include <catch2/catch.hpp>
#include <random>

#include "base/path_text.h"
#include "base/words.h"

using namespace optrel;

TEST_CASE("names that are text stay as they are", "[base][paths]") {
    for (const char* name : {"", "/frames/a.dng", "/f/M\u00fcller \u4e2d\u6587.dng", "/f/\U0001F4F7.dng"}) {
        CHECK(path_to_text(name) == name);
        CHECK(path_from_text(name) == name);
    }
}

TEST_CASE("each name of bytes has a text of its own, and comes back", "[base][paths]") {
    CHECK(path_to_text("caf\xe9.dng") == "caf\uf7e9.dng");
    CHECK(path_to_text("\x80\xbf\xc0\xff") == "\uf780\uf7bf\uf7c0\uf7ff");
    // One that holds such a character itself is not taken for the other.
    CHECK(path_to_text("caf\uf7e9.dng") != path_to_text("caf\xe9.dng"));
    std::mt19937 random(7);
    const std::string pieces[] = {"a",    "\xe9",         "\xef",         "\x9e",
                                  "\x80", "\xef\x9e\x80", "\xef\x9f\xbf", "\xef\x9d\xbf",
                                  "/",    "\u00fc",       "\xf0\x9f",     "\xc3"};
    for (int i = 0; i < 20000; ++i) {
        std::string name;
        for (std::size_t n = random() % 8; n > 0; --n) name += pieces[random() % std::size(pieces)];
        const std::string text = path_to_text(name);
        CHECK(is_utf8(text));
        CHECK(path_from_text(text) == name);
    }
}
