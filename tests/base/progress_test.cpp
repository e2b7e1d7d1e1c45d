// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/progress.h"

#include <catch2/catch.hpp>

#include "base/parallel.h"

using namespace optrel;

TEST_CASE("progress counts from many threads and tells each step", "[base][threads]") {
    int last = -1, calls = 0, total = 0;
    std::string what;
    Progress progress([&](int done, int all, const std::string& text) {
        last = std::max(last, done);
        total = all;
        what = text;
        ++calls;
    });
    progress.start(500, "Counting");
    parallel_for(500, [&](int) { progress.step(); });
    CHECK(last == 500);
    CHECK(total == 500);
    CHECK(calls == 501);
    CHECK(what == "Counting");
}

TEST_CASE("a cancelled progress throws at the next check", "[base]") {
    Progress progress;
    CHECK_NOTHROW(progress.check());
    progress.cancel();
    CHECK(progress.cancelled());
    CHECK_THROWS_AS(progress.check(), Cancelled);
    try {
        progress.check();
    } catch (const Error& error) {
        CHECK(error.kind() == ErrorKind::cancelled);
    }
}
