// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/numbers.h"

#include <catch2/catch.hpp>

#include "base/json_text.h"
#include "base/words.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

TEST_CASE("a number is the whole of a text or none", "[base]") {
    CHECK(parse_number("30.02") == 30.02);
    CHECK(parse_number(" -1e3 ") == -1000);
    CHECK(parse_number("+2") == 2);
    for (const char* text :
         {"", " ", "30,02", "1.5x", "x", "nan", "inf", "-inf", "1e999", "--1", "+-1", "0x10", "1 2"}) {
        INFO(text);
        CHECK_FALSE(parse_number(text));
    }
    CHECK(parse_integer("12") == 12);
    CHECK_FALSE(parse_integer("12.0"));
    CHECK_FALSE(parse_integer("99999999999999999999"));
    CHECK(parse_pair("1600-6400", '-') == std::pair(1600.0, 6400.0));
    CHECK(parse_pair("-5 - 3", '-') == std::pair(-5.0, 3.0));
    for (const char* text : {"", "-", "1-", "-1", "1-inf", "1-2-3", "1x2"}) CHECK_FALSE(parse_pair(text, '-'));
    CHECK(error_of([] { number_from("5,5", "The square size"); }) == "input");
}

TEST_CASE("UTF-8 is told from other bytes", "[base]") {
    CHECK(is_utf8("plain"));
    CHECK(is_utf8("Größe, 5 µm, 北, 😀"));
    for (const std::string& text : {std::string("caf\xe9"), std::string("\xc0\xaf"), std::string("\xed\xa0\x80"),
                                    std::string("\xf5\x80\x80\x80"), std::string("\xe4\xb8")}) {
        CHECK_FALSE(is_utf8(text));
        CHECK(is_utf8(printable(text)));
    }
    CHECK(printable("caf\xe9.dng") == "caf\\xe9.dng");
}

TEST_CASE("control characters never reach a terminal", "[base]") {
    CHECK(printable("a\x1b[2Jb\n\x7f") == "a\\x1b[2Jb\\x0a\\x7f");
    CHECK(printable("a\xc2\x9b"
                    "2Jb") == "a\\xc2\\x9b2Jb");
    CHECK(printable("5 µm à côté") == "5 µm à côté");
    for (const char* text : {"a\x1b", "\x7f", "\xc2\x9b", "a\xc2\x80 b"}) CHECK_FALSE(is_plain_line(text));
    CHECK(is_plain_line("5 µm à côté"));
}

TEST_CASE("the nearest names are those that were meant", "[base]") {
    const std::vector<std::string> names{"Brimholt B2/B2-0117", "Brimholt B2/B2-0231", "Tarnwick T7/70031", "HB-014",
                                         "Stand 1, east room"};
    CHECK(nearest("HB-O14", names).front() == "HB-014");
    CHECK(nearest("b2-0117", names).front() == "Brimholt B2/B2-0117");
    CHECK(nearest("brimholt b2/b2-0113", names).front() == "Brimholt B2/B2-0117");
    CHECK(nearest("sharpning", {"sharpening_amount", "shadows"}).front() == "sharpening_amount");
    CHECK(nearest("Lumenfld", {"Aldercroft 24-70mm f/4", "Lumenfold 35mm f/2.8"}) ==
          std::vector<std::string>{"Lumenfold 35mm f/2.8"});
    CHECK(nearest("zzzzzzzzzzzzzzzz", names).empty());
    CHECK(nearest_clause("HB-O14", names) == "; the nearest is 'HB-014'");
}

TEST_CASE("nothing becomes JSON that cannot be read back", "[base]") {
    using nlohmann::json;
    CHECK(json_text({{"a", 1.5}}) == "{\"a\":1.5}");
    for (const json& bad :
         {json{{"iso", {1.0, INFINITY}}}, json{{"x", NAN}}, json{{"name", "caf\xe9"}}, json{{"caf\xe9", 1}}}) {
        const std::string sentence = sentence_of([&] { json_text(bad); });
        INFO(sentence);
        CHECK(is_one_sentence(sentence));
    }
    CHECK(error_of([] { parse_json("{\"a\":", "F.json"); }) == "input");
}
