// SPDX-License-Identifier: GPL-3.0-or-later
#include "sharing/bundle.h"
#include "optics/profile_kind.h"

#include <sys/stat.h>
#include <zip.h>

#include <catch2/catch.hpp>

#include "base/files.h"
#include "sharing/zip_parts.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

Bundle small_bundle() {
    Bundle b;
    b.title = "Seaweeds";
    b.sender = "Shore Museum";
    b.time = "2026-03-01T09:30:00Z";
    b.program = "Optrel";
    b.parts = {{BundleKind::set, "Fronds", "Fronds", "{\"a\":1}"},
               {BundleKind::of(lens_profile_kind()), "p1", "Lumenfold 35mm", "{\"b\":2}"},
               {BundleKind::colours, "c1", "Warm room", std::string("\0\1\2", 3)}};
    return b;
}

/// A zip file as no writer of ours would make it.
std::string odd_zip(const std::vector<ZipPart>& parts, const std::function<void(zip_t*)>& spoil = {}) {
    const TemporaryFolder folder;
    const std::string path = (folder / "odd.zip").string();
    int code = 0;
    zip_t* archive = zip_open(path.c_str(), ZIP_CREATE, &code);
    for (const ZipPart& p : parts)
        zip_file_add(archive, p.name.c_str(), zip_source_buffer(archive, p.bytes.data(), p.bytes.size(), 0),
                     ZIP_FL_ENC_UTF_8);
    if (spoil) spoil(archive);
    REQUIRE(zip_close(archive) == 0);
    return read_file(path);
}

std::string why_refused(const std::string& bytes) {
    const std::string sentence = sentence_of([&] { bundle_from(bytes, "/shoots/job.optrel.zip"); });
    CHECK(is_one_sentence(sentence));
    CHECK(sentence.find("/shoots/job.optrel.zip") != std::string::npos);
    return sentence;
}

std::string replaced(std::string text, const std::string& from, const std::string& to) {
    const std::size_t at = text.find(from);
    REQUIRE(at != std::string::npos);
    return text.replace(at, from.size(), to);
}

}  // namespace

TEST_CASE("a bundle reads back as it was packed, signed or not, and is the same bytes each time", "[sharing]") {
    const SigningKey key = SigningKey::make();
    Bundle b = small_bundle();
    const std::string bytes = bundle_bytes(b, &key);
    CHECK(bytes == bundle_bytes(b, &key));
    const Bundle back = bundle_from(bytes, "b");
    CHECK(back.key == key.public_key());
    CHECK(back.title == b.title);
    CHECK(back.sender == b.sender);
    REQUIRE(back.parts.size() == 3);
    CHECK(back.parts[0].kind == BundleKind::colours);  // in the order in which they are taken in
    CHECK(back.parts[0].document == b.parts[2].document);
    CHECK(bundle_from(bundle_bytes(b, nullptr), "b").key.empty());
}

TEST_CASE("whatever is changed in a signed bundle is noticed", "[sharing]") {
    const SigningKey key = SigningKey::make();
    const std::vector<ZipPart> parts = parts_of_zip(bundle_bytes(small_bundle(), &key), "b");
    for (std::size_t i = 0; i < parts.size(); ++i)
        for (const char* how : {"more", "less", "other"}) {
            std::vector<ZipPart> changed = parts;
            std::string& bytes = changed[i].bytes;
            if (std::string(how) == "more") bytes += " ";
            if (std::string(how) == "less") bytes.pop_back();
            if (std::string(how) == "other") bytes[bytes.size() / 2] ^= 1;
            // White space behind the signature's document changes nothing that it says.
            if (changed[i].name == "signature.json" && std::string(how) != "other") continue;
            CHECK_FALSE(sentence_of([&] { bundle_from(zip_of(changed), "b"); }).empty());
        }
    // Another key's signature under the same words.
    const std::string theirs = SigningKey::make().sign("optrel bundle", parts[0].bytes);
    std::vector<ZipPart> forged = parts;
    forged[1].bytes = replaced(forged[1].bytes, key.sign("optrel bundle", parts[0].bytes), theirs);
    CHECK(why_refused(zip_of(forged)).find("was changed after it was signed") != std::string::npos);
    // A signature for another purpose is none for this one.
    forged[1].bytes = replaced(parts[1].bytes, key.sign("optrel bundle", parts[0].bytes),
                               key.sign("optrel withdrawal", parts[0].bytes));
    CHECK(why_refused(zip_of(forged)).find("was changed after it was signed") != std::string::npos);
}

TEST_CASE("zip files of bad faith are refused in one sentence", "[sharing]") {
    const std::vector<ZipPart> good = parts_of_zip(bundle_bytes(small_bundle(), nullptr), "b");
    const auto with = [&](const std::string& name) {
        std::vector<ZipPart> parts = good;
        parts.push_back({name, "x"});
        return odd_zip(parts);
    };
    for (const char* name :
         {"../../out.json", "/etc/passwd", "sets/../../x", "a//b", "./a", "C:\\x", "a\\..\\b", "a\nb"})
        CHECK_FALSE(why_refused(with(name)).empty());
    CHECK(why_refused(with("../x")).find("lead out of its folder") != std::string::npos);
    CHECK(why_refused(with("sets/0002.json")).find("does not name") != std::string::npos);
    CHECK(why_refused(with("MANIFEST.json")).find("two pieces of the name") != std::string::npos);
    const auto link = [](zip_t* archive) {
        zip_file_set_external_attributes(archive, 1, 0, ZIP_OPSYS_UNIX,
                                         static_cast<zip_uint32_t>(S_IFLNK | 0777) << 16);
    };
    CHECK(why_refused(odd_zip(good, link)).find("is a link") != std::string::npos);
    const auto encrypted = [](zip_t* archive) { zip_file_set_encryption(archive, 1, ZIP_EM_AES_256, "word"); };
    CHECK(why_refused(odd_zip(good, encrypted)).find("is encrypted") != std::string::npos);
    std::vector<ZipPart> missing = good;
    missing.pop_back();
    CHECK(why_refused(zip_of(missing)).find("is missing in it") != std::string::npos);
    CHECK(why_refused(zip_of({{"readme.txt", "hello"}})).find("no bundle of Optrel") != std::string::npos);
    CHECK(why_refused(std::string("PK\5\6") + std::string(18, '\0')).find("no bundle of Optrel") != std::string::npos);
}

TEST_CASE("what a terminal would obey is never shown", "[sharing]") {
    for (const char* words : {"a\x1b[2J", "a\nb", "a\x7f",
                              "a\xc2\x9b"
                              "2J"}) {
        Bundle b = small_bundle();
        b.title = words;
        CHECK(why_refused(bundle_bytes(b, nullptr)).find("no text to be shown") != std::string::npos);
        b = small_bundle();
        b.parts[0].name = words;
        why_refused(bundle_bytes(b, nullptr));
    }
    Bundle b = small_bundle();
    b.note = "two\nlines";
    CHECK(bundle_from(bundle_bytes(b, nullptr), "b").note == b.note);
}

TEST_CASE("a zip file that unpacks to more than it may is not unpacked", "[sharing]") {
    // 300 MB of zeros in 300 kB; the largest piece that is taken has 256 MB.
    const std::string zeros(300u << 20, '\0');
    const std::string bomb = odd_zip({{"manifest.json", zeros}});
    CHECK(bomb.size() < (1u << 20));
    CHECK(why_refused(bomb).find("unpacks to more") != std::string::npos);
    // One that says that it has 16 bytes, in both places where a zip file says it.
    std::string liar = odd_zip({{"manifest.json", std::string(100000, '\0')}});
    const std::string size("\xa0\x86\x01\x00", 4), small("\x10\x00\x00\x00", 4);
    for (std::size_t at = liar.find(size); at != std::string::npos; at = liar.find(size, at))
        liar.replace(at, 4, small);
    CHECK_FALSE(why_refused(liar).empty());
    ZipLimits few;
    few.parts = 2;
    CHECK(error_of([&] { parts_of_zip(bundle_bytes(small_bundle(), nullptr), "/shoots/b", few); }) == "input");
}

TEST_CASE("truncated, damaged and newer bundles are refused, never half read", "[sharing]") {
    const SigningKey key = SigningKey::make();
    const std::string bytes = bundle_bytes(small_bundle(), &key);
    for (std::size_t n = 0; n < bytes.size(); n += 37) why_refused(bytes.substr(0, n));
    for (unsigned seed = 0; seed < 300; ++seed) {
        std::string damaged = bytes;
        std::mt19937 random(seed);
        damaged[random() % damaged.size()] ^= static_cast<char>(1 << (random() % 8));
        // Times and such may change unnoticed; what was packed may not.
        try {
            const Bundle b = bundle_from(damaged, "/b");
            CHECK(b.key == key.public_key());
            CHECK(b.parts.size() == 3);
        } catch (const Error& error) {
            CHECK(is_one_sentence(error.what()));
        }
    }
    why_refused(random_bytes(5000, 1));
    std::vector<ZipPart> newer = parts_of_zip(bundle_bytes(small_bundle(), nullptr), "b");
    newer[0].bytes = replaced(newer[0].bytes, "\"format_version\": 1", "\"format_version\": 2");
    CHECK(why_refused(zip_of(newer)).find("newer than this program reads") != std::string::npos);
    newer[0].bytes = replaced(newer[0].bytes, "\"format_version\": 2", "\"format_version\": \"x\"");
    why_refused(zip_of(newer));
}

TEST_CASE("a bundle is written under a name that says so, and replaces nothing else", "[sharing]") {
    const TemporaryFolder folder;
    const std::string bytes = bundle_bytes(small_bundle(), nullptr);
    CHECK(error_of([&] { write_bundle(folder / "job.zip", bytes, false); }) == "usage");
    write_bundle(folder / "job.optrel.zip", bytes, false);
    CHECK(read_bundle(folder / "job.optrel.zip").title == "Seaweeds");
    CHECK(error_of([&] { write_bundle(folder / "job.optrel.zip", bytes, false); }) == "file");
    write_bundle(folder / "job.optrel.zip", bytes, true);
    write_bytes(folder / "other.optrel.zip", "mine");
    CHECK(error_of([&] { write_bundle(folder / "other.optrel.zip", bytes, true); }) == "file");
    CHECK(read_file(folder / "other.optrel.zip") == "mine");
    CHECK(named_as_bundle("/a/B.OPTREL.ZIP"));
    CHECK_FALSE(named_as_bundle("/a/.optrel.zip"));
    CHECK_FALSE(named_as_bundle("/a/b.zip"));
}

TEST_CASE("a signing key is made once, for its owner alone", "[sharing]") {
    const TemporaryFolder folder;
    const fs::path path = folder / "conf/optrel/signing-key.json";
    const SigningKey key = SigningKey::load_or_make(path);
    CHECK(SigningKey::load_or_make(path).public_key() == key.public_key());
    CHECK((fs::status(path).permissions() & fs::perms(077)) == fs::perms::none);
    CHECK(key.mark_of("a") == SigningKey::load_or_make(path).mark_of("a"));
    CHECK(key.mark_of("a") != key.mark_of("b"));
    CHECK(key.mark_of("a") != SigningKey::make().mark_of("a"));
    const std::string signature = key.sign("p", "words");
    CHECK(signed_by(key.public_key(), "p", "words", signature));
    CHECK_FALSE(signed_by(key.public_key(), "p", "word", signature));
    CHECK_FALSE(signed_by(key.public_key(), "q", "words", signature));
    CHECK_FALSE(signed_by("", "p", "words", signature));
    CHECK_FALSE(signed_by(key.public_key(), "p", "words", "zz"));
    fs::permissions(path, fs::perms::group_read, fs::perm_options::add);
    CHECK(error_of([&] { SigningKey::load_or_make(path); }) == "input");
    for (const char* text : {"", "{}", "no", "{\"format\":\"optrel-signing-key\",\"secret\":\"12\"}"}) {
        write_bytes(folder / "bad.json", text);
        fs::permissions(folder / "bad.json", fs::perms::owner_read);
        CHECK(error_of([&] { SigningKey::load_or_make(folder / "bad.json"); }) == "input");
    }
    CHECK(required_key(" " + key.public_key() + " ") == key.public_key());
    CHECK(error_of([] { required_key("3f2a"); }) == "input");
}
