// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/intake/card_import.h"

#include <catch2/catch.hpp>

#include "base/fault_point.h"
#include "base/files.h"
#include "cli/studio_by_hand.h"
#include "rollout/sheet.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;
using nlohmann::json;
using What = ImportedFile::What;

namespace {

/// A card with two frames, a double of one under another name, a damaged frame, a film, and what is none of these.
struct Card {
    Card() {
        fs::create_directories(folder / "card/100");
        fs::create_directories(folder / "card/101");
        fs::create_directories(folder / "to");
        fs::create_directories(folder / "second");
        fs::copy_file(rig_frame("SP0001"), folder / "card/100/SP0001.dng");
        fs::copy_file(rig_frame("SP0002"), folder / "card/101/SP0001.dng");
        fs::copy_file(rig_frame("SP0001"), folder / "card/101/again.dng");
        write_bytes(folder / "card/101/broken.dng", "II*\0 no frame");
        write_bytes(folder / "card/101/film.mov", "a film of words");
        write_bytes(folder / "card/notes.txt", "for people");
        write_bytes(folder / "card/.hidden.dng", "x");
        order = {folder / "card", folder / "to", {}, "{name}"};
    }
    std::vector<ImportedFile> run() const { return import_card(order, nullptr, progress); }

    const TemporaryFolder folder;
    ImportOrder order;
    mutable Progress progress;
};

int count(const std::vector<ImportedFile>& files, What what) {
    return static_cast<int>(
        std::count_if(files.begin(), files.end(), [&](const ImportedFile& f) { return f.what == what; }));
}

std::map<std::string, std::string> contents(const fs::path& folder) {
    std::map<std::string, std::string> out;
    for (const auto& entry : fs::recursive_directory_iterator(folder))
        if (entry.is_regular_file())
            out[entry.path().lexically_relative(folder).string()] = bytes_hash(read_file(entry.path(), 1u << 30));
    return out;
}

}  // namespace

TEST_CASE("a card is copied once, each file verified, and the card stays as it is", "[studio][import]") {
    Card c;
    const auto card = contents(c.folder / "card");
    c.order.second = c.folder / "second";
    const auto preview = import_preview(c.order, nullptr, c.progress);
    CHECK(fs::is_empty(c.folder / "to"));
    const auto files = c.run();
    REQUIRE(files.size() == 5);
    REQUIRE(preview.size() == 5);
    for (std::size_t i = 0; i < files.size(); ++i) {
        INFO(files[i].from);
        CHECK(preview[i].out == files[i].out);
        CHECK(preview[i].what == files[i].what);
    }
    CHECK(count(files, What::copied) == 4);
    CHECK(count(files, What::there) == 1);  // the double
    const auto copies = contents(c.folder / "to");
    CHECK(copies.size() == 4);
    CHECK(copies.at("SP0001.dng") == card.at("100/SP0001.dng"));
    CHECK(copies.at("SP0001-2.dng") == card.at("101/SP0001.dng"));
    CHECK(copies.at("broken.dng") == card.at("101/broken.dng"));
    CHECK(contents(c.folder / "second") == copies);
    CHECK(contents(c.folder / "card") == card);
    CHECK(fs::last_write_time(c.folder / "to/SP0001.dng") == fs::last_write_time(c.folder / "card/100/SP0001.dng"));
    // Once more, and by other names: all is there, also of what was renamed.
    c.order.file_name = "{date|undated}/{name}";
    CHECK(count(c.run(), What::there) == 5);
    CHECK(contents(c.folder / "to") == copies);
    // A second copy that was lost comes back.
    fs::remove(c.folder / "second/SP0001.dng");
    c.run();
    CHECK(contents(c.folder / "second") == copies);
}

TEST_CASE("an import that fails or is stopped leaves whole files only, and goes on", "[studio][import]") {
    Card c;
    SECTION("stopped after the first") {
        Progress* active = nullptr;
        Progress stopping([&](int done, int, const std::string&) {
            if (done == 1) active->cancel();
        });
        active = &stopping;
        CHECK_THROWS_AS(import_card(c.order, nullptr, stopping), Cancelled);
        CHECK(contents(c.folder / "to").size() == 1);
        CHECK(count(c.run(), What::copied) == 3);
    }
    SECTION("a full disk at one of them") {
        int renames = 0;
        fault_point = [&](const char* step) { return std::string(step) == "rename" && ++renames == 2 ? ENOSPC : 0; };
        const auto files = c.run();
        fault_point = nullptr;
        CHECK(count(files, What::failed) == 1);
        for (const ImportedFile& f : files)
            if (f.what == What::failed) CHECK(is_one_sentence(f.why));
        CHECK(contents(c.folder / "to").size() == 3);
        CHECK(count(c.run(), What::failed) == 0);
        CHECK(contents(c.folder / "to").size() == 4);
    }
    SECTION("names that need what a file does not say") {
        c.order.file_name = "{lens}/{name}";
        const auto files = c.run();
        CHECK(count(files, What::failed) == 2);  // the broken one and the film
        CHECK(count(files, What::copied) == 2);
    }
}

TEST_CASE("an import into the card, from nowhere or by no name is refused", "[studio][import]") {
    Card c;
    const auto refused = [&](const ImportOrder& order) {
        Progress progress;
        return error_of([&] { import_card(order, nullptr, progress); }) == "input";
    };
    CHECK(refused({c.folder / "card", c.folder / "card/100", {}, "{name}"}));
    CHECK(refused({c.folder / "card/100", c.folder / "card", {}, "{name}"}));
    CHECK(refused({c.folder / "card", c.folder / "card", {}, "{name}"}));
    CHECK(refused({c.folder / "none", c.folder / "to", {}, "{name}"}));
    CHECK(refused({c.folder / "card", c.folder / "none", {}, "{name}"}));
    CHECK(refused({c.folder / "card", c.folder / "to", c.folder / "none", "{name}"}));
    CHECK(refused({c.folder / "card", c.folder / "to", c.folder / "to", "{name}"}));
    fs::create_directories(c.folder / "to/second");
    CHECK(refused({c.folder / "card", c.folder / "to", c.folder / "to/second", "{name}"}));
    fs::remove(c.folder / "to/second");
    CHECK(refused({c.folder / "card", c.folder / "to", {}, "{nmae}"}));
    CHECK(refused({c.folder / "card", c.folder / "to", {}, "../{name}"}));
    CHECK(refused({c.folder / "second", c.folder / "to", {}, "{name}"}));  // no frames
    CHECK(fs::is_empty(c.folder / "to"));
}

TEST_CASE("what is imported by the command line gets its baseline", "[cli][import]") {
    const StudioByHand s;
    s.good("baseline pin", "--field sharpening_amount --value 30");
    s.good("baseline publish");
    fs::create_directories(s.path("card"));
    fs::create_directories(s.path("to"));
    fs::copy_file(rig_frame("SP0005"), s.path("card") / "A.dng");
    const std::string from = fmt::format("--card '{}' --to '{}'", s.path("card").string(), s.path("to").string());
    CHECK(json::parse(s.good("import", from + " --preview --json"))["files"][0]["what"] == "copied");
    CHECK(fs::is_empty(s.path("to")));
    const json done = json::parse(s.good("import", from + " --name '{model}/{iso}-{name}' --json"));
    const fs::path out = done["files"][0]["out"].get<std::string>();
    CHECK(out.parent_path().filename() == "Brimholt B2");
    CHECK(read_sheet(out).baseline.at(Field::sharpening_amount).number == 30);
    CHECK(json::parse(s.good("import", from + " --json"))["files"][0]["what"] == "there");
    // The log of what arrived tells of copies as well, by whichever way they were made.
    const json log = json::parse(s.good("intake log", "--json"));
    REQUIRE(log.size() == done["files"].size());
    CHECK(log[0]["way"] == "card");
    CHECK(log[0]["event"] == "baseline");
    s.refused("import", from + " --set Nothing");
    CHECK(cli("import --set Evening " + from).status == 2);  // no studio
}
