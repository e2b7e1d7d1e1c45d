// SPDX-License-Identifier: GPL-3.0-or-later
#include "travel/zip_parts.h"

#include <fmt/format.h>
#include <sys/stat.h>
#include <zip.h>

#include <memory>
#include <set>

#include "base/error.h"
#include "base/words.h"

namespace optrel {
namespace {

/// Discarding an archive leaves its source alone, which is what both sides want here.
struct Discard {
    void operator()(zip_t* archive) const { zip_discard(archive); }
};
using Archive = std::unique_ptr<zip_t, Discard>;

struct CloseFile {
    void operator()(zip_file_t* file) const { zip_fclose(file); }
};

struct FreeSource {
    void operator()(zip_source_t* source) const { zip_source_free(source); }
};
using Source = std::unique_ptr<zip_source_t, FreeSource>;

[[noreturn]] void refuse(const std::string& where, const std::string& why) {
    throw input_error(fmt::format("{} is not taken: {}; have it made again.", where, why));
}

/// Why a name cannot stand in a zip file that is to be trusted; empty where it can.
std::string fault_of_name(const std::string& name) {
    const auto shown = [&] { return "'" + printable(name.substr(0, 120)) + "'"; };
    if (name.empty() || name.size() > 200 || !is_utf8(name)) return "it holds a piece without a proper name";
    for (const unsigned char c : name)
        if (c < 32 || c == 127) return "it holds a piece whose name has control characters";
    if (name.find('\\') != std::string::npos || name.find(':') != std::string::npos)
        return shown() + " in it is no plain name";
    for (std::size_t at = 0; at <= name.size();) {
        const std::size_t end = std::min(name.find('/', at), name.size());
        const std::string step = name.substr(at, end - at);
        if (step.empty() || step == "." || step == "..") return shown() + " in it would lead out of its folder";
        at = end + 1;
    }
    return {};
}

bool is_link(zip_t* archive, zip_uint64_t index) {
    zip_uint8_t system = 0;
    zip_uint32_t attributes = 0;
    return zip_file_get_external_attributes(archive, index, 0, &system, &attributes) == 0 && system == ZIP_OPSYS_UNIX &&
           S_ISLNK(attributes >> 16);
}

std::string unpacked(zip_t* archive, zip_uint64_t index, std::uint64_t size, const std::string& where,
                     const std::string& name) {
    const std::unique_ptr<zip_file_t, CloseFile> file(zip_fopen_index(archive, index, 0));
    const auto damaged = [&] { refuse(where, fmt::format("'{}' in it is damaged", printable(name))); };
    if (!file) damaged();
    std::string out(static_cast<std::size_t>(size), '\0');
    std::size_t done = 0;
    while (done < out.size()) {
        const zip_int64_t n = zip_fread(file.get(), out.data() + done, out.size() - done);
        if (n <= 0) damaged();
        done += static_cast<std::size_t>(n);
    }
    // The read behind the end is where the checksum is looked at.
    char more = 0;
    if (zip_fread(file.get(), &more, 1) != 0) damaged();
    return out;
}

}  // namespace

std::string zip_of(const std::vector<ZipPart>& parts) {
    zip_error_t error;
    zip_error_init(&error);
    const auto failed = [](const char* step) {
        throw file_error(fmt::format("The zip file could not be made ({}); try again.", step));
    };
    Source target(zip_source_buffer_create(nullptr, 0, 0, &error));
    if (!target) failed("no memory");
    zip_source_keep(target.get());
    Archive archive(zip_open_from_source(target.get(), ZIP_TRUNCATE, &error));
    if (!archive) failed("it cannot be begun");
    for (const ZipPart& p : parts) {
        zip_source_t* source = zip_source_buffer(archive.get(), p.bytes.data(), p.bytes.size(), 0);
        const zip_int64_t index = source ? zip_file_add(archive.get(), p.name.c_str(), source, ZIP_FL_ENC_UTF_8) : -1;
        if (index < 0) {
            if (source) zip_source_free(source);
            failed("a piece cannot be added");
        }
        // One time for all, 1980-01-01: the bytes tell of the contents alone.
        zip_file_set_dostime(archive.get(), static_cast<zip_uint64_t>(index), 0, 0x21, 0);
        zip_file_set_external_attributes(archive.get(), static_cast<zip_uint64_t>(index), 0, ZIP_OPSYS_UNIX,
                                         static_cast<zip_uint32_t>(S_IFREG | 0644) << 16);
    }
    if (zip_close(archive.get()) != 0) failed("it cannot be written");
    (void)archive.release();
    zip_stat_t status;
    if (zip_source_stat(target.get(), &status) != 0 || zip_source_open(target.get()) != 0) failed("it cannot be read");
    std::string out(static_cast<std::size_t>(status.size), '\0');
    const zip_int64_t read = zip_source_read(target.get(), out.data(), out.size());
    zip_source_close(target.get());
    if (read != static_cast<zip_int64_t>(out.size())) failed("it cannot be read");
    return out;
}

std::vector<ZipPart> parts_of_zip(const std::string& bytes, const std::string& where, const ZipLimits& limits) {
    zip_error_t error;
    zip_error_init(&error);
    Source source(zip_source_buffer_create(bytes.data(), bytes.size(), 0, &error));
    if (!source) refuse(where, "there is no memory for it");
    const Archive archive(zip_open_from_source(source.get(), ZIP_RDONLY | ZIP_CHECKCONS, &error));
    if (!archive) refuse(where, "it is no zip file, or a damaged one");
    (void)source.release();  // the archive's from here
    const zip_int64_t count = zip_get_num_entries(archive.get(), 0);
    if (count < 0 || static_cast<std::size_t>(count) > limits.parts)
        refuse(where, fmt::format("it holds {} pieces, more than any that Optrel makes", count));
    std::vector<ZipPart> out;
    std::set<std::string> names;
    std::uint64_t all = 0;
    for (zip_uint64_t i = 0; i < static_cast<zip_uint64_t>(count); ++i) {
        zip_stat_t status;
        if (zip_stat_index(archive.get(), i, 0, &status) != 0 || (status.valid & ZIP_STAT_NAME) == 0)
            refuse(where, "it is damaged");
        const std::string name = status.name;
        if (const std::string fault = fault_of_name(name); !fault.empty()) refuse(where, fault);
        if (!names.insert(lowered(name)).second)
            refuse(where, fmt::format("it holds two pieces of the name '{}'", printable(name)));
        if (is_link(archive.get(), i)) refuse(where, fmt::format("'{}' in it is a link", printable(name)));
        if (status.encryption_method != ZIP_EM_NONE)
            refuse(where, fmt::format("'{}' in it is encrypted", printable(name)));
        all += status.size;
        if (status.size > limits.part || all > limits.all)
            refuse(where, fmt::format("'{}' in it unpacks to more than such a file can have", printable(name)));
        out.push_back({name, ""});
    }
    for (zip_uint64_t i = 0; i < out.size(); ++i) {
        zip_stat_t status;
        zip_stat_index(archive.get(), i, 0, &status);
        out[i].bytes = unpacked(archive.get(), i, status.size, where, out[i].name);
    }
    return out;
}

}  // namespace optrel
