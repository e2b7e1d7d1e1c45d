// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/profiles/profile_file.h"

#include <catch2/catch.hpp>

#include "support/sample_profile.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

TEST_CASE("a profile from a file is published once, as the next version of its lens", "[studio]") {
    const TemporaryFolder folder;
    Store store((folder / "s").string(), Access::begin);
    write_bytes(folder / "lens.json", profile_to_json(sample_profile()));
    Profile p = read_profile(folder / "lens.json");
    const Profile first = take_in_profile(store, p);
    CHECK(first.version == 1);
    const std::string sentence = sentence_of([&] { take_in_profile(store, p); });
    CHECK(is_one_sentence(sentence));
    CHECK(sentence.find(first.id) != std::string::npos);
    p.nodes[0].focal_mm *= 1.0001;
    CHECK_FALSE(already_published(store.profiles().all_versions(), p));
    CHECK(take_in_profile(store, p).version == 2);
    CHECK(already_published(store.profiles().all_versions(), p)->version == 2);
    write_bytes(folder / "list.json", "{\"format\": \"optrel-sets\"}");
    CHECK(error_of([&] { read_profile(folder / "list.json"); }) == "input");
    CHECK(error_of([&] { read_profile(folder / "missing.json"); }) == "file");
}
