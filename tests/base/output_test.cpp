// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/output.h"

#include <catch2/catch.hpp>

#include "base/files.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

struct Kind {
    const OutputFormat& format;
    std::string name, ours, foreign;
};

std::vector<Kind> kinds() {
    return {{json_output(), "a.json", "{\"format\": \"optrel-profile\"}", "{\"format\": \"mine\"}"},
            {csv_output(), "a.csv", "maker,model\r\nX,Y\r\n", "a,b\r\n"},
            {svg_output(), "a.svg", "<svg><!-- Optrel --></svg>", "<svg></svg>"},
            {pdf_output(), "a.pdf", marked_pdf("%PDF-1.4\n%%EOF\n"), "%PDF-1.4\n%%EOF\n"},
            {png_output(), "a.png", "\x89PNG Software Optrel 0.1", "\x89PNG"}};
}

}  // namespace

TEST_CASE("an output of ours is replaced when asked, anything else never", "[base]") {
    for (const Kind& k : kinds()) {
        INFO(k.name);
        const TemporaryFolder folder;
        const fs::path path = folder / k.name;
        write_output(path, k.format, Existing::keep, k.ours);
        CHECK(read_file(path) == k.ours);
        CHECK(error_of([&] { write_output(path, k.format, Existing::keep, k.ours); }) == "file");
        CHECK_NOTHROW(write_output(path, k.format, Existing::replace_ours, k.ours));
        write_bytes(path, k.foreign);
        for (const Existing existing : {Existing::keep, Existing::replace_ours}) {
            CHECK(error_of([&] { write_output(path, k.format, existing, k.ours); }) == "file");
            CHECK(is_one_sentence(
                sentence_of([&] { check_output(path, k.format, existing, k.ours.substr(0, k.ours.find('\r'))); })));
        }
        CHECK(read_file(path) == k.foreign);
        write_bytes(path, "");
        CHECK(error_of([&] { write_output(path, k.format, Existing::replace_ours, k.ours); }) == "file");
    }
}

TEST_CASE("an output is refused where its name says something else, or a link stands", "[base]") {
    const TemporaryFolder folder;
    for (const char* name : {"a.jpg", "a.json.txt", "a.pdf"})
        CHECK(error_of([&] { write_output(folder / name, json_output(), Existing::keep, "{}"); }) == "usage");
    CHECK_NOTHROW(write_output(folder / "A.JSON", json_output(), Existing::keep, "{}"));
    write_bytes(folder / "original", "precious");
    fs::create_symlink(folder / "original", folder / "link.json");
    fs::create_symlink(folder / "gone", folder / "dangling.json");
    fs::create_directory(folder / "folder.json");
    for (const char* name : {"link.json", "dangling.json", "folder.json"})
        CHECK(is_one_sentence(
            sentence_of([&] { write_output(folder / name, json_output(), Existing::replace_ours, "{}"); })));
    CHECK(read_file(folder / "original") == "precious");
}

TEST_CASE("a file that appears while its writer works stays", "[base]") {
    const TemporaryFolder folder;
    const fs::path path = folder / "a.json";
    const std::string sentence = sentence_of([&] {
        write_output_with(path, json_output(), Existing::replace_ours, [&](const fs::path& part) {
            write_bytes(part, "{}");
            write_bytes(path, "somebody else's");
        });
    });
    CHECK(is_one_sentence(sentence));
    CHECK(read_file(path) == "somebody else's");
    CHECK(std::distance(fs::directory_iterator(folder.path()), fs::directory_iterator()) == 1);
}
