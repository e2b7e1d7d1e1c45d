// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/paths.h"

#include <catch2/catch.hpp>
#include <fstream>

#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

TEST_CASE("one place has one plain path", "[base]") {
    for (const char* name : {"/a/b", "/a/b/", "/a//b", "/a/./b/", "/a/c/../b"}) CHECK(plain_path(name) == "/a/b");
    CHECK(plain_path("/") == "/");
    CHECK(plain_path("").empty());
    CHECK(plain_path("x") == fs::current_path() / "x");
    CHECK(plain_path(".") == fs::current_path());
}

TEST_CASE("paths of one file are the same through links, and a loop of links is no path", "[base]") {
    const TemporaryFolder folder;
    const fs::path file = folder / "a.txt", link = folder / "link.txt", hard = folder / "hard.txt";
    std::ofstream(file) << "1";
    fs::create_symlink(file, link);
    fs::create_hard_link(file, hard);
    CHECK(same_file(file, link));
    CHECK(same_file(file, hard));
    CHECK(same_file(folder.path(), folder / "."));
    CHECK_FALSE(same_file(file, folder / "b.txt"));
    CHECK_FALSE(same_file(folder / "b.txt", folder / "b.txt"));
    CHECK(resolved_path(link) == resolved_path(file));
    CHECK(resolved_path(hard) != resolved_path(file));
    CHECK(resolved_path(folder / "none" / "x").value().filename() == "x");
    fs::create_symlink(folder / "two", folder / "one");
    fs::create_symlink(folder / "one", folder / "two");
    CHECK_FALSE(resolved_path(folder / "one"));
    CHECK_FALSE(same_file(folder / "one", folder / "two"));
}

TEST_CASE("a path lies in a folder, not beside one of a like name", "[base]") {
    CHECK(lies_within("/a/b/c", "/a/b"));
    CHECK(lies_within("/a/b/c", "/a/b/"));
    CHECK(lies_within("/a", "/"));
    CHECK_FALSE(lies_within("/a/b", "/a/b"));
    CHECK_FALSE(lies_within("/a/bc", "/a/b"));
    CHECK_FALSE(lies_within("/a", "/a/b"));
}

TEST_CASE("files are walked without going round, and what cannot be looked into is told", "[base]") {
    const TemporaryFolder folder;
    fs::create_directories(folder / "deep/er");
    fs::create_directories(folder / ".hidden");
    for (const char* name : {"a", ".b", "deep/c", "deep/er/d", ".hidden/e"}) write_bytes(folder / name, "x");
    fs::create_directory_symlink(folder.path(), folder / "deep/round");
    std::set<std::string> seen;
    std::vector<std::string> problems;
    const auto see = [&](const fs::directory_entry& e) { seen.insert(e.path().filename().string()); };
    walk_files(folder.path(), see, problems);
    CHECK(seen == std::set<std::string>{"a", "c", "d"});
    CHECK(problems.empty());
    walk_files(folder / "nowhere", see, problems);
    REQUIRE(problems.size() == 1);
    CHECK(is_one_sentence(problems[0]));
}
