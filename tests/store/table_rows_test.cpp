// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/table_rows.h"

#include <catch2/catch.hpp>
#include <stdexcept>

#include "store/engine.h"
#include "store/store.h"
#include "support/store_place.h"

using namespace optrel;
using namespace optrel::test;

TEST_CASE("rows are written and read by the names of columns", "[store][server]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    Engine& engine = store.engine();
    const auto rule = [](const char* pattern, double focal_mm) {
        // In another order than the table's.
        return NamedValues{{"focal_mm", focal_mm}, {"pattern", pattern},    {"profile", "p1"}, {"body", "B2"},
                           {"author", "Iva"},      {"area_width_mm", 23.6}, {"time", "now"}};
    };
    put_row(engine, "film_rules", rule("/a/*", 35));
    put_row(engine, "film_rules", rule("/a/*", 60));
    add_rows(engine, "film_rules", {rule("/b/*", 24), rule("/c/*", 28)});
    add_missing_row(engine, "film_rules", rule("/c/*", 99));
    TableReader row(engine, "film_rules", "WHERE pattern <> ? ORDER BY pattern", {"/b/*"});
    REQUIRE(row.next());
    CHECK(row.text("pattern") == "/a/*");
    CHECK(row.real("focal_mm") == 60);
    REQUIRE(row.next());
    CHECK(row.real("focal_mm") == 28);
    CHECK_FALSE(row.next());
}

TEST_CASE("a column that is not described, or is left out, is a mistake in the program", "[store]") {
    const StorePlace place("folder");
    Store store(place.address(), Access::begin);
    Engine& engine = store.engine();
    CHECK_THROWS_AS(TableReader(engine, "flim_rules"), std::logic_error);
    CHECK_THROWS_AS(put_row(engine, "settings", {{"name", "a"}}), std::logic_error);
    CHECK_THROWS_AS(put_row(engine, "settings", {{"name", "a"}, {"value", "b"}, {"vaule", "c"}}), std::logic_error);
    put_row(engine, "settings", {{"value", "b"}, {"name", "a"}});
    TableReader row(engine, "settings");
    REQUIRE(row.next());
    CHECK_THROWS_AS(row.text("vaule"), std::logic_error);
    // Bytes are not read along with the rest.
    TableReader colours(engine, "colour_files");
    CHECK_THROWS_AS(colours.value("document"), std::logic_error);
}
