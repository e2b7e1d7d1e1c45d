// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/intake/card_import.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <fstream>
#include <map>
#include <set>

#include "base/error.h"
#include "base/files.h"
#include "base/paths.h"
#include "base/words.h"
#include "frames/film_codec.h"
#include "studio/intake/copies.h"

namespace optrel {
namespace fs = std::filesystem;

std::string to_string(ImportedFile::What what) {
    static constexpr const char* names[] = {"copied", "there", "failed"};
    return names[static_cast<int>(what)];
}

namespace {

/// Whether one folder is the other, or contains it.
bool meet(const fs::path& a, const fs::path& b) { return a == b || lies_within(a, b) || lies_within(b, a); }

/// Copies a file under a free name, flushes it to disk, reads it back and compares.
void copy_verified(const fs::path& from, const fs::path& to, const std::string& hash, const Progress& progress) {
    make_folders(to.parent_path());
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
            // Drops the page cache, so that the comparison reads the disk.
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
        : order_(order), card_(plain_path(order.card)), to_(plain_path(order.to)) {
        names_.emplace(to_, order.file_name, fleet);
        std::error_code failed;
        for (const fs::path& folder : {card_, to_})
            if (!fs::is_directory(folder, failed))
                throw input_error(fmt::format("{} is no folder; name one that is there.", printable(folder.string())));
        if (!order.second.empty() && !fs::is_directory(order.second, failed))
            throw input_error(
                fmt::format("{} is no folder for the second copy; make it first.", printable(order.second.string())));
        for (const fs::path& folder : {to_, plain_path(order.second)})
            if (!folder.empty() && meet(folder, card_))
                throw input_error(fmt::format("{} and {} lie within one another; name a folder apart from the card.",
                                              card_.string(), folder.string()));
        if (const fs::path second = plain_path(order.second); !second.empty() && meet(second, to_))
            throw input_error(fmt::format(
                "{} and {} lie within one another, so there would be no second copy apart; name another folder.",
                to_.string(), second.string()));
        there_.emplace(to_);
        if (!order.second.empty()) second_.emplace(plain_path(order.second));
    }

    std::vector<ImportedFile> run(bool copies, Progress& progress) {
        std::vector<std::string> problems;
        const std::vector<fs::path> files = files_to_copy(card_, problems);
        if (files.empty() && problems.empty())
            throw input_error(fmt::format("{} holds no frames and no films; look whether it is the right card.",
                                          printable(card_.string())));
        std::vector<ImportedFile> out, unseen;
        for (std::string& problem : problems)
            unseen.push_back({card_, {}, ImportedFile::What::failed, std::move(problem), ""});
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
        out.insert(out.end(), unseen.begin(), unseen.end());
        return out;
    }

private:
    void copy(const fs::path& from, const fs::path& to, const std::string& hash, const Progress& progress) {
        // Removes parts of an import that was killed.
        std::error_code none;
        if (swept_.insert(to.parent_path()).second && fs::is_directory(to.parent_path(), none))
            sweep_parts(to.parent_path());
        copy_verified(from, to, hash, progress);
    }

    void take(ImportedFile& one, int number, bool copies, const Progress& progress) {
        require_regular(one.from);
        std::string hash;
        const auto hashed = [&]() -> const std::string& {
            if (hash.empty()) hash = file_hash(one.from, [&] { progress.check(); });
            return hash;
        };
        const fs::path wanted = names_->wanted(one.from, one.from.filename(), number, one.note);
        if (const auto same = there_->same_as(one.from, hashed)) {
            one.what = ImportedFile::What::there;
            const auto planned = planned_.find(*same);
            one.out = planned == planned_.end() ? *same : planned->second;
        } else {
            one.out = names_->take(wanted, one.note);
            if (copies) copy(one.from, one.out, hashed(), progress);
            // Of files with the same contents on the card, only one is copied; the preview reports it.
            planned_[one.from] = one.out;
            there_->add(copies ? one.out : one.from);
        }
        if (!second_ || !copies || second_->same_as(one.from, hashed)) return;
        const fs::path again = plain_path(order_.second) / one.out.lexically_relative(to_);
        copy(one.from, again, hashed(), progress);
        second_->add(again);
    }

    const ImportOrder& order_;
    const fs::path card_, to_;
    std::optional<CopyNames> names_;
    std::optional<FolderContents> there_, second_;
    std::set<fs::path> swept_;
    std::map<fs::path, fs::path> planned_;  ///< target paths of the card's files
};

}  // namespace

std::vector<ImportedFile> import_preview(const ImportOrder& order, const Fleet* fleet, Progress& progress) {
    return Import(order, fleet).run(false, progress);
}

std::vector<ImportedFile> import_card(const ImportOrder& order, const Fleet* fleet, Progress& progress) {
    return Import(order, fleet).run(true, progress);
}

IntakeReport take_in_copies(Store& store, const std::vector<ImportedFile>& files, const IntakeOrder& order,
                            Progress& progress) {
    std::vector<fs::path> frames;
    for (const ImportedFile& f : files)
        if (f.what == ImportedFile::What::copied && !named_as_film(f.out)) frames.push_back(f.out);
    if (frames.empty()) return {};
    return take_in_arrivals(store, frames, order, progress, [&](const IntakeReport& report) {
        store.intake().log(arrivals_of(report, order, "card"));
    });
}

}  // namespace optrel
