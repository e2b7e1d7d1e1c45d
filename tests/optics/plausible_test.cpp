// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/plausible.h"

#include <catch2/catch.hpp>

#include "support/sample_profile.h"
#include "support/store_place.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

std::string refused(const std::function<void(ProfileNode&)>& spoil) {
    Profile p = sample_profile();
    spoil(p.nodes.front());
    return sentence_of([&] { require_plausible(p); });
}

Falloff falloff_of(double a1, bool reciprocal) {
    Falloff f;
    for (auto& a : f.a) a = {a1, 0, 0, 0};
    f.reciprocal = reciprocal;
    return f;
}

}  // namespace

TEST_CASE("a profile that no lens could have is not kept", "[optics]") {
    CHECK(refused([](ProfileNode&) {}).empty());
    for (const double ordinary : {-0.9, -0.3, 0.2})
        CHECK(refused([&](ProfileNode& n) { n.falloff = falloff_of(ordinary, false); }).empty());
    CHECK(refused([](ProfileNode& n) { n.falloff = falloff_of(40, true); }).empty());
    for (const auto& [a1, reciprocal] :
         {std::pair(1e9, false), {1e9, true}, {-1.0, false}, {-2.0, true}, {std::nan(""), false}, {HUGE_VAL, false}}) {
        const std::string s = refused(
            [&, &a1 = a1, &reciprocal = reciprocal](ProfileNode& n) { n.falloff = falloff_of(a1, reciprocal); });
        INFO(a1 << " " << s);
        CHECK(is_one_sentence(s));
    }
    for (const double c : {0.2, -0.2, std::nan("")}) {
        const std::string s = refused([&](ProfileNode& n) {
            n.blue = LateralChromatic();
            n.blue->c1 = c;
        });
        CHECK(s.find("blue is displaced") != std::string::npos);
    }
    // Nor does a store keep it, whoever brings it.
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    Profile black = sample_profile();
    black.nodes.front().falloff = falloff_of(1e9, false);
    CHECK(error_of([&] { store.profiles().publish(black); }) == "input");
    CHECK(store.profiles().all_versions().empty());
}
