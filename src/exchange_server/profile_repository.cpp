// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange_server/profile_repository.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

#include "base/error.h"
#include "base/words.h"
#include "optics/copy_spread.h"
#include "optics/focal_reach.h"
#include "optics/profile_kind.h"
#include "sharing/bundle.h"
#include "sharing/shared_profile.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

/// Sensors whose sizes differ by less than this count as equal.
constexpr double as_large = 0.98;

bool has_words(const std::string& text, const std::string& wanted) {
    for (const std::string& word : listed(wanted, ' '))
        if (text.find(word) == std::string::npos) return false;
    return true;
}

bool within_measured(const Profile& p, const LensSetting& s) {
    if (!reaches_focal(p, s.focal_mm)) return false;
    if (s.aperture <= 0 && s.distance_m <= 0) return true;
    return node_at(p, s).placement != Placement::extrapolated;
}

}  // namespace

std::optional<FileLock> ProfileRepository::begun(const fs::path& folder) {
    std::error_code failed;
    fs::create_directories(folder / "profiles", failed);
    if (!failed) fs::create_directories(folder / "withdrawals", failed);
    if (failed)
        throw file_error(fmt::format("The folder {} cannot be made ({}); name another one.", printable(folder.string()),
                                     failed.message()));
    return FileLock::try_own(folder / "lock");
}

ProfileRepository::ProfileRepository(const fs::path& folder, int most_of_a_key)
    : folder_(folder), most_of_a_key_(most_of_a_key), lock_(begun(folder)) {
    if (!lock_)
        throw file_error(fmt::format("Another exchange has the folder {}; end it, or name another one.",
                                     printable(folder_.string())));
    sweep_parts(folder_ / "profiles");
    const auto each = [&](const char* below, const auto& read) {
        std::set<fs::path> files;
        for (const auto& file : fs::directory_iterator(folder_ / below)) files.insert(file.path());
        for (const fs::path& file : files) try {
                read(file);
            } catch (const std::exception& error) {
                problems_.push_back(reason_for(file, error));
            }
    };
    each("withdrawals", [&](const fs::path& file) {
        const Withdrawal w = withdrawal_from_json(read_file(file, 1 << 16), file.string());
        withdrawals_[w.key] = w;
    });
    each("profiles", [&](const fs::path& file) {
        const std::string bytes = read_file(file, largest_bundle);
        const std::string id = bytes_hash(bytes);
        if (file != file_of(id)) throw input_error(file.string() + " is not what its name says; it is left out.");
        kept_.emplace(id, kept_of(bytes)).first->second.entry.id = id;
    });
}

fs::path ProfileRepository::file_of(const std::string& id) const { return folder_ / "profiles" / (id + bundle_ending); }

int ProfileRepository::count() const {
    const std::lock_guard lock(mutex_);
    return static_cast<int>(kept_.size());
}

ProfileRepository::Kept ProfileRepository::kept_of(const std::string& bytes) const {
    if (bytes.size() > largest_bundle)
        throw input_error(fmt::format("The bundle has {} MB, more than the {} MB that one profile can have.",
                                      bytes.size() >> 20, largest_bundle >> 20));
    const Bundle bundle = bundle_from(bytes, "The bundle");
    if (bundle.key.empty()) throw input_error("The bundle is not signed; an exchange takes what somebody stands for.");
    if (bundle.parts.size() != 1 || bundle.parts[0].kind != BundleKind::of(lens_profile_kind()))
        throw input_error("The bundle holds something else than one lens profile, which is all that is exchanged.");
    Kept out;
    out.profile = profile_from_json(bundle.parts[0].document, "The profile in the bundle");
    check_shareable(out.profile);
    out.entry = entry_of(out.profile);
    out.entry.key = bundle.key;
    out.entry.measurer = bundle.sender;
    out.words = lowered(out.profile.lens);
    return out;
}

std::pair<std::string, bool> ProfileRepository::put(const std::string& bytes) {
    // One at a time, because reading one may take as much memory as a profile can have.
    std::unique_lock reading(reading_);
    Kept kept = kept_of(bytes);
    reading.unlock();
    const std::string id = bytes_hash(bytes);
    kept.entry.id = id;
    const std::lock_guard lock(mutex_);
    if (withdrawals_.count(kept.entry.key))
        throw input_error("The key that signed it was withdrawn by its owner; sign with another one.");
    if (kept_.count(id)) return {id, false};
    const auto of_key = [&](const auto& k) { return k.second.entry.key == kept.entry.key; };
    if (std::count_if(kept_.begin(), kept_.end(), of_key) >= most_of_a_key_)
        throw input_error(fmt::format("This key has given {} profiles already, which is all that one can give here.",
                                      most_of_a_key_));
    write_atomic(file_of(id), bytes);
    kept_.emplace(id, std::move(kept));
    return {id, true};
}

std::optional<std::string> ProfileRepository::get(const std::string& id) const {
    {
        const std::lock_guard lock(mutex_);
        const auto it = kept_.find(id);
        if (it == kept_.end() || withdrawals_.count(it->second.entry.key)) return std::nullopt;
    }
    return read_file(file_of(id), largest_bundle);
}

std::vector<const ProfileRepository::Kept*> ProfileRepository::fitting(const ExchangeQuestion& q) const {
    const std::string wanted = lowered(q.lens);
    std::map<std::tuple<std::string, std::string, std::string, std::string>, const Kept*> newest;
    for (const auto& [id, k] : kept_) {
        if (withdrawals_.count(k.entry.key)) continue;
        if (!has_words(k.words, wanted) && compare_lens_texts(k.profile.lens, q.lens) == LensTextMatch::different)
            continue;
        if (k.entry.geometry.half_diagonal_mm() < as_large * q.half_diagonal_mm) continue;
        if (q.most_rms_px > 0 && k.entry.rms_px > q.most_rms_px) continue;
        if (!within_measured(k.profile, q.setting)) continue;
        const Kept*& there = newest[{canonical_lens_text(k.profile.lens), k.entry.key, k.entry.copy, k.entry.camera}];
        if (!there || there->profile.provenance.time <= k.profile.provenance.time) there = &k;
    }
    std::vector<const Kept*> out;
    for (const auto& [key, k] : newest) out.push_back(k);
    std::stable_sort(out.begin(), out.end(), [](const Kept* a, const Kept* b) {
        return std::tuple(a->words, a->entry.max_sigma_px, a->entry.id) <
               std::tuple(b->words, b->entry.max_sigma_px, b->entry.id);
    });
    return out;
}

ExchangePage ProfileRepository::find(const ExchangeQuestion& question) const {
    const std::lock_guard lock(mutex_);
    const std::vector<const Kept*> all = fitting(question);
    ExchangePage out;
    out.total = static_cast<int>(all.size());
    out.pages = std::max(1, (out.total + page_length - 1) / page_length);
    out.page = std::clamp(question.page, 1, out.pages);
    const auto begin = static_cast<std::size_t>((out.page - 1) * page_length);
    for (std::size_t i = begin; i < std::min(all.size(), begin + page_length); ++i)
        out.entries.push_back(all[i]->entry);
    add_agreement(out.entries, question);
    return out;
}

/// Adds the agreement between copies of one lens on a page, over the part of the picture that all of them cover.
void ProfileRepository::add_agreement(std::vector<ExchangeEntry>& page, const ExchangeQuestion& question) const {
    std::map<std::string, std::vector<ExchangeEntry*>> lenses;
    for (ExchangeEntry& e : page) lenses[canonical_lens_text(e.lens)].push_back(&e);
    for (auto& [lens, entries] : lenses) {
        std::vector<ExchangeEntry*> copies;
        std::vector<const Profile*> profiles;
        std::set<std::pair<std::string, std::string>> known;
        for (ExchangeEntry* e : entries)
            if (known.insert({e->key, e->copy}).second && copies.size() < 12) {
                copies.push_back(e);
                profiles.push_back(&kept_.at(e->id).profile);
            }
        const std::optional<CopySpread> spread = spread_of_profiles(profiles, question.setting);
        if (!spread) continue;
        for (std::size_t i = 0; i < copies.size(); ++i)
            copies[i]->agreement = ExchangeEntry::Agreement{spread->copies - 1, spread->from_others_px[i],
                                                            spread->from_others_sigma_px[i]};
    }
}

void ProfileRepository::withdraw(const Withdrawal& withdrawal) {
    if (!holds(withdrawal)) throw input_error("The withdrawal is not signed with the key that it withdraws.");
    const std::lock_guard lock(mutex_);
    if (withdrawals_.count(withdrawal.key)) return;
    write_atomic(folder_ / "withdrawals" / (withdrawal.key + ".json"), withdrawal_to_json(withdrawal));
    withdrawals_[withdrawal.key] = withdrawal;
}

std::optional<Withdrawal> ProfileRepository::withdrawal_of(const std::string& key) const {
    const std::lock_guard lock(mutex_);
    const auto it = withdrawals_.find(key);
    return it == withdrawals_.end() ? std::nullopt : std::optional(it->second);
}

}  // namespace optrel
