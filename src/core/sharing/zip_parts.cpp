// SPDX-License-Identifier: GPL-3.0-or-later
#include "sharing/zip_parts.h"

#include <fmt/format.h>
#include <sys/stat.h>
#include <zip.h>

#include <algorithm>
#include <fstream>
#include <set>
#include <string_view>

#include "base/error.h"
#include "base/files.h"
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

namespace {

/// The library makes room for as many pieces as the end of the file tells (APPNOTE 4.3.16), so that is looked at first.
/// The record may stand anywhere in the last 64 kB; `tail` is what the file ends with.
void require_few_pieces(std::string_view tail, const std::string& where, std::size_t most) {
    constexpr std::string_view mark("PK\5\6", 4);
    constexpr std::size_t count_at = 10, record = 22;
    for (std::size_t at = tail.find(mark); at != std::string_view::npos; at = tail.find(mark, at + 1)) {
        if (at + record > tail.size()) return;
        const std::size_t count = static_cast<unsigned char>(tail[at + count_at]) +
                                  256u * static_cast<unsigned char>(tail[at + count_at + 1]);
        if (count > most) refuse(where, fmt::format("it holds {} pieces, more than any that Optrel makes", count));
    }
}

constexpr std::size_t tail_size = (1u << 16) + 22;

std::string tail_of(const std::filesystem::path& path) {
    const std::uintmax_t size = require_regular(path);
    std::string tail(static_cast<std::size_t>(std::min<std::uintmax_t>(size, tail_size)), '\0');
    std::ifstream in(path, std::ios::binary);
    in.seekg(-static_cast<std::streamoff>(tail.size()), std::ios::end);
    if (!in.read(tail.data(), static_cast<std::streamsize>(tail.size())))
        throw file_error(fmt::format("{} cannot be read; check the disk it is on.", printable(path.string())));
    return tail;
}

}  // namespace

struct ZipFile::Open {
    Archive archive;

    Open(Source source, const std::string& where) {
        if (!source) refuse(where, "there is no memory for it");
        zip_error_t error;
        zip_error_init(&error);
        archive.reset(zip_open_from_source(source.get(), ZIP_RDONLY | ZIP_CHECKCONS, &error));
        if (!archive) refuse(where, "it is no zip file, or a damaged one");
        (void)source.release();  // the archive's from here
    }
};

ZipFile::ZipFile(const std::string& bytes, std::string where, const ZipLimits& limits) : where_(std::move(where)) {
    const std::string_view all(bytes);
    require_few_pieces(all.substr(all.size() - std::min(all.size(), tail_size)), where_, limits.parts);
    open_ = std::make_unique<Open>(Source(zip_source_buffer_create(bytes.data(), bytes.size(), 0, nullptr)), where_);
    look_through(limits);
}

ZipFile::ZipFile(const std::filesystem::path& path, const ZipLimits& limits) : where_(printable(path.string())) {
    require_few_pieces(tail_of(path), where_, limits.parts);
    open_ = std::make_unique<Open>(Source(zip_source_file_create(path.c_str(), 0, -1, nullptr)), where_);
    look_through(limits);
}

void ZipFile::look_through(const ZipLimits& limits) {
    zip_t* archive = open_->archive.get();
    const zip_int64_t count = zip_get_num_entries(archive, 0);
    if (count < 0 || static_cast<std::size_t>(count) > limits.parts)
        refuse(where_, fmt::format("it holds {} pieces, more than any that Optrel makes", count));
    std::set<std::string> names;
    std::uint64_t all = 0;
    for (zip_uint64_t i = 0; i < static_cast<zip_uint64_t>(count); ++i) {
        zip_stat_t status;
        if (zip_stat_index(archive, i, 0, &status) != 0 || (status.valid & ZIP_STAT_NAME) == 0)
            refuse(where_, "it is damaged");
        const std::string name = status.name;
        if (const std::string fault = fault_of_name(name); !fault.empty()) refuse(where_, fault);
        if (!names.insert(lowered(name)).second)
            refuse(where_, fmt::format("it holds two pieces of the name '{}'", printable(name)));
        if (is_link(archive, i)) refuse(where_, fmt::format("'{}' in it is a link", printable(name)));
        if (status.encryption_method != ZIP_EM_NONE)
            refuse(where_, fmt::format("'{}' in it is encrypted", printable(name)));
        // Each is held to its limit first, so that the sum cannot run over.
        if (status.size > limits.part || (all += status.size) > limits.all)
            refuse(where_, fmt::format("'{}' in it unpacks to more than such a file can have", printable(name)));
        pieces_[name] = {status.size, i};
        names_.push_back(name);
    }
}

ZipFile::~ZipFile() = default;

std::uint64_t ZipFile::total() const {
    std::uint64_t all = 0;
    for (const auto& [name, piece] : pieces_) all += piece.size;
    return all;
}

std::string ZipFile::read(const std::string& name) const {
    const Piece& piece = pieces_.at(name);
    return unpacked(open_->archive.get(), piece.place, piece.size, where_, name);
}

std::vector<ZipPart> parts_of_zip(const std::string& bytes, const std::string& where, const ZipLimits& limits) {
    const ZipFile zip(bytes, where, limits);
    std::vector<ZipPart> out;
    for (const std::string& name : zip.names()) out.push_back({name, zip.read(name)});
    return out;
}

}  // namespace optrel
