// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/card_import.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <fstream>
#include <map>
#include <set>

#include "base/error.h"
#include "base/files.h"
#include "base/words.h"
#include "exchange/file_name.h"
#include "frames/film_codec.h"
#include "studio/knowledge.h"
#include "studio/scope.h"

namespace optrel {
namespace fs = std::filesystem;

std::string to_string(ImportedFile::What what) {
    static constexpr const char* names[] = {"copied", "there", "failed"};
    return names[static_cast<int>(what)];
}

namespace {

bool taken_along(const fs::path& path) { return named_as_picture(path) || named_as_film(path); }

/// Whether one of two folders is the other, or lies in it.
bool meet(const fs::path& a, const fs::path& b) { return a == b || lies_within(a, b) || lies_within(b, a); }

/// Files of a folder and those beneath it, by name; links are not followed, hidden files passed over.
std::vector<fs::path> files_of(const fs::path& folder, bool all) {
    std::vector<fs::path> out;
    std::error_code failed;
    fs::recursive_directory_iterator it(folder, fs::directory_options::skip_permission_denied, failed), end;
    for (; !failed && it != end; it.increment(failed)) {
        const bool hidden = it->path().filename().string().front() == '.';
        std::error_code none;
        if (hidden && it->is_directory(none)) it.disable_recursion_pending();
        if (!hidden && it->is_regular_file(none) && !it->is_symlink(none) && (all || taken_along(it->path())))
            out.push_back(it->path());
    }
    std::sort(out.begin(), out.end());
    return out;
}

/// What lies in a folder, by size: only files of one size can be doubles.
class Contents {
public:
    explicit Contents(const fs::path& folder) {
        for (const fs::path& file : files_of(folder, true)) add(file);
    }
    void add(const fs::path& file) {
        std::error_code failed;
        const std::uintmax_t size = fs::file_size(file, failed);
        if (!failed) by_size_[size].push_back(file);
    }
    /// A file of the same contents; `hash` is asked for only where one has the size.
    template <class Hash>
    std::optional<fs::path> same_as(std::uintmax_t size, const Hash& hash) {
        const auto found = by_size_.find(size);
        if (found == by_size_.end()) return std::nullopt;
        const std::string wanted = hash();
        for (const fs::path& file : found->second) {
            std::string& own = hashes_[file];
            if (own.empty()) own = file_hash(file);
            if (own == wanted) return file;
        }
        return std::nullopt;
    }

private:
    std::map<std::uintmax_t, std::vector<fs::path>> by_size_;
    std::map<fs::path, std::string> hashes_;
};

/// Copies a file under a name that must be free; the copy is on the disk, read back from there, and the same.
void copy_verified(const fs::path& from, const fs::path& to, const std::string& hash, const Progress& progress) {
    fs::create_directories(to.parent_path());
    write_atomic_with(
        to,
        [&](const fs::path& part) {
            std::ifstream in(from, std::ios::binary);
            std::ofstream out(part, std::ios::binary | std::ios::trunc);
            std::vector<char> buffer(4u << 20);
            while (in && out) {
                progress.check();
                in.read(buffer.data(), static_cast<std::streamsize>(buffer.size()));
                out.write(buffer.data(), in.gcount());
            }
            out.close();
            if (!out || in.bad())
                throw file_error(fmt::format("{} cannot be copied to {}; check the card and the space on the disk.",
                                             from.string(), to.string()));
            // What is compared must come from the disk, not from the memory that it was written from.
            const int fd = ::open(part.c_str(), O_RDONLY | O_CLOEXEC);
            if (fd >= 0) {
                ::fdatasync(fd);
                ::posix_fadvise(fd, 0, 0, POSIX_FADV_DONTNEED);
                ::close(fd);
            }
            if (file_hash(part, [&] { progress.check(); }) != hash)
                throw file_error(
                    fmt::format("The copy of {} is not what was read from the card; it was removed, try it once more.",
                                from.string()));
            std::error_code none;
            fs::last_write_time(part, fs::last_write_time(from, none), none);
        },
        IfThere::fail);
}

class Import {
public:
    Import(const ImportOrder& order, const Fleet* fleet)
        : order_(order), fleet_(fleet), card_(normal(order.card)), to_(normal(order.to)) {
        check_name_pattern(order.file_name);
        std::error_code failed;
        for (const fs::path& folder : {card_, to_})
            if (!fs::is_directory(folder, failed))
                throw input_error(fmt::format("{} is no folder; name one that is there.", printable(folder.string())));
        if (!order.second.empty() && !fs::is_directory(order.second, failed))
            throw input_error(
                fmt::format("{} is no folder for the second copy; make it first.", printable(order.second.string())));
        for (const fs::path& folder : {to_, normal(order.second)})
            if (!folder.empty() && meet(folder, card_))
                throw input_error(fmt::format("{} and {} lie within one another; name a folder apart from the card.",
                                              card_.string(), folder.string()));
        if (const fs::path second = normal(order.second); !second.empty() && meet(second, to_))
            throw input_error(fmt::format(
                "{} and {} lie within one another, so there would be no second copy apart; name another folder.",
                to_.string(), second.string()));
        there_.emplace(to_);
        if (!order.second.empty()) second_.emplace(normal(order.second));
    }

    std::vector<ImportedFile> run(bool copies, Progress& progress) {
        const std::vector<fs::path> files = files_of(card_, false);
        if (files.empty())
            throw input_error(fmt::format("{} holds no frames and no films; look whether it is the right card.",
                                          printable(card_.string())));
        std::vector<ImportedFile> out;
        progress.start(static_cast<int>(files.size()), copies ? "Copying" : "Looking at the card");
        for (const fs::path& file : files) {
            progress.check();
            ImportedFile one{file, {}, ImportedFile::What::copied, "", ""};
            try {
                take(one, static_cast<int>(out.size()) + 1, copies, progress);
            } catch (const Cancelled&) {
                throw;
            } catch (const std::exception& error) {
                one.what = ImportedFile::What::failed;
                one.why = reason_for(file, error);
            }
            out.push_back(std::move(one));
            progress.step();
        }
        return out;
    }

private:
    static fs::path normal(const fs::path& path) {
        return path.empty() ? path : (fs::absolute(path) / "").lexically_normal().parent_path();
    }

    fs::path named(ImportedFile& one, int number) const {
        NameFacts facts{one.from.stem().string(), "", "", number, {}};
        try {
            if (!named_as_film(one.from)) facts.metadata = read_metadata(one.from);
            if (fleet_ && !facts.metadata.model.empty()) {
                const FrameKnowledge known = know(one.from, facts.metadata, *fleet_);
                if (!known.facts.body.empty()) facts.body = body_label(known.facts, *fleet_);
            }
        } catch (const Error&) {
            // A damaged frame is all the more to be saved.
            one.note = "Its metadata cannot be read; it is copied as it is.";
        }
        return to_ / (name_from(order_.file_name, facts) + one.from.extension().string());
    }

    void copy(const fs::path& from, const fs::path& to, const std::string& hash, const Progress& progress) {
        // What an import that was killed left behind.
        std::error_code none;
        if (swept_.insert(to.parent_path()).second && fs::is_directory(to.parent_path(), none))
            sweep_parts(to.parent_path());
        copy_verified(from, to, hash, progress);
    }

    bool is_taken(const fs::path& path) const {
        std::error_code none;
        return given_.count(lowered(path.string())) > 0 || fs::exists(fs::symlink_status(path, none));
    }

    void take(ImportedFile& one, int number, bool copies, const Progress& progress) {
        const std::uintmax_t size = require_regular(one.from);
        std::string hash;
        const auto hashed = [&]() -> const std::string& {
            if (hash.empty()) hash = file_hash(one.from, [&] { progress.check(); });
            return hash;
        };
        const fs::path wanted = named(one, number);
        if (const auto same = there_->same_as(size, hashed)) {
            one.what = ImportedFile::What::there;
            const auto planned = planned_.find(*same);
            one.out = planned == planned_.end() ? *same : planned->second;
        } else {
            one.out = wanted;
            for (int i = 2; is_taken(one.out); ++i)
                one.out = wanted.parent_path() /
                          fmt::format("{}-{}{}", wanted.stem().string(), i, wanted.extension().string());
            if (one.out != wanted && one.note.empty())
                one.note = fmt::format("{} is another file, so it is named {}.", wanted.filename().string(),
                                       one.out.filename().string());
            given_.insert(lowered(one.out.string()));
            if (copies) copy(one.from, one.out, hashed(), progress);
            // Of two files of one content on the card one is copied, and a preview says so.
            planned_[one.from] = one.out;
            there_->add(copies ? one.out : one.from);
        }
        if (!second_ || !copies || second_->same_as(size, hashed)) return;
        const fs::path again = normal(order_.second) / one.out.lexically_relative(to_);
        copy(one.from, again, hashed(), progress);
        second_->add(again);
    }

    const ImportOrder& order_;
    const Fleet* fleet_;
    const fs::path card_, to_;
    std::optional<Contents> there_, second_;
    std::set<fs::path> swept_;
    std::set<std::string> given_;           ///< in lower case
    std::map<fs::path, fs::path> planned_;  ///< of files of the card: where they go
};

}  // namespace

std::vector<ImportedFile> import_preview(const ImportOrder& order, const Fleet* fleet, Progress& progress) {
    return Import(order, fleet).run(false, progress);
}

std::vector<ImportedFile> import_card(const ImportOrder& order, const Fleet* fleet, Progress& progress) {
    return Import(order, fleet).run(true, progress);
}

}  // namespace optrel
