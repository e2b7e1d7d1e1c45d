// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/gently.h"

#include <sys/resource.h>
#include <sys/syscall.h>
#include <unistd.h>

#include <catch2/catch.hpp>

#include "base/error.h"

using namespace optrel;

TEST_CASE("gentle work steps back, and what it throws arrives", "[base]") {
    const auto nice = [] { return ::getpriority(PRIO_PROCESS, static_cast<id_t>(::syscall(SYS_gettid))); };
    const int before = nice();
    int within = before;
    gently([&] { within = nice(); });
    CHECK(within >= before);
    CHECK(within == std::min(19, std::max(before, 10)));
    CHECK(nice() == before);  // whoever asked for it is as it was
    CHECK_THROWS_AS(gently([] { throw Cancelled(); }), Cancelled);
}
