// SPDX-License-Identifier: GPL-3.0-or-later
// Who is at the store, and machines of one name.
#include <catch2/catch.hpp>

#include "base/station.h"
#include "store/engine.h"
#include "store/stored_things.h"
#include "studio/stations/name_conflicts.h"
#include "support/store_place.h"

using namespace optrel;
using namespace optrel::test;

TEST_CASE("people see what others have open, until they leave or are not heard of", "[store][presence][server]") {
    const StorePlace place(EACH_ENGINE);
    Store one(place.address(), Access::begin), two(place.address());
    const Present iva{"w1", "Iva", "north", "tier", "studio"}, bo{"w2", "Bo", "south", "tier", "B2"};
    one.stations().at(iva);
    two.stations().at(bo);
    CHECK(one.stations().others("w1") == std::vector<Present>{bo});
    CHECK(two.stations().others("w2") == std::vector<Present>{iva});
    const auto before = two.stamps()["presence"];
    Present next = iva;
    next.subject = "B2'; DROP TABLE presence; --";
    one.stations().at(next);
    CHECK(two.stations().others("w2") == std::vector<Present>{next});
    CHECK(two.stamps()["presence"] == before + 1);
    one.stations().leave("w1");
    CHECK(two.stations().others("w2").empty());
    one.stations().leave("w1");  // nothing to be told
    CHECK(two.stamps()["presence"] == before + 2);
    // A window that died is forgotten.
    one.engine().run("UPDATE presence SET seen = seen - 100");
    CHECK(one.stations().others("w1").empty());
}

TEST_CASE("two machines of one name are told of one another", "[store][presence][server]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    qputenv("OPTREL_MACHINE", "first");
    CHECK(store.stations().arrive().empty());
    CHECK(store.stations().arrive().empty());
    qputenv("OPTREL_MACHINE", "second");
    const auto met = store.stations().arrive();
    REQUIRE(met.size() == 1);
    CHECK(met[0].seconds < 60);
    const auto words = name_conflicts_in_words(met);
    REQUIRE(words.size() == 1);
    CHECK(is_one_sentence(words[0]));
    CHECK(words[0].find(this_station()) != std::string::npos);
    // One that was replaced long ago is none.
    store.engine().run("UPDATE machines SET seen = seen - 1000000 WHERE machine = 'first'");
    CHECK(store.stations().arrive().empty());
    qunsetenv("OPTREL_MACHINE");
    CHECK(this_machine().size() == 16);
}
