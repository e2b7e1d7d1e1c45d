// SPDX-License-Identifier: GPL-3.0-or-later
// What a profile exchange keeps: the bundles that measurers signed, as they came, in a folder of their own.
//
// The folder holds profiles/ID.optrel.zip and withdrawals/KEY.json, each written once. All else follows from them when
// the shelf is opened. One program at a time has a folder. All functions may be called from several threads.
#pragma once

#include <filesystem>
#include <map>
#include <mutex>
#include <optional>
#include <string>
#include <vector>

#include "base/files.h"
#include "sharing/exchange_answer.h"

namespace optrel {

class ProfileRepository {
public:
    /// Reads the folder, or creates it. Damaged files are left out and reported in problems(). `most_of_a_key`: maximum
    /// number of profiles signed by one key. Throws Error(file) when another program uses the folder.
    explicit ProfileRepository(const std::filesystem::path& folder, int most_of_a_key = 1000);

    const std::vector<std::string>& problems() const { return problems_; }
    int count() const;

    /// Stores a signed bundle with one measured profile and without personal data. Returns its id, and whether it is
    /// new. Throws Error(input) with the fault.
    std::pair<std::string, bool> put(const std::string& bundle);
    /// The bundle with an id; empty when there is none.
    std::optional<std::string> get(const std::string& id) const;
    /// Best match first: by how much of the question they cover, then by range, then by their figures. Of a measurer's
    /// copy only the newest measurement; none of a withdrawn key.
    ExchangePage find(const ExchangeQuestion& question) const;

    void withdraw(const Withdrawal& withdrawal);
    std::optional<Withdrawal> withdrawal_of(const std::string& key) const;

    static constexpr int page_length = 50;
    static constexpr std::size_t largest_bundle = 8u << 20;

private:
    struct Kept {
        Profile profile;
        ExchangeEntry entry;
        std::string words;  ///< words of the lens name, in lower case
    };
    static std::optional<FileLock> begun(const std::filesystem::path& folder);
    Kept kept_of(const std::string& bundle) const;
    std::vector<const Kept*> fitting(const ExchangeQuestion& question) const;
    void add_agreement(std::vector<ExchangeEntry>& page, const ExchangeQuestion& question) const;
    std::filesystem::path file_of(const std::string& id) const;

    std::filesystem::path folder_;
    const int most_of_a_key_;
    std::optional<FileLock> lock_;
    std::mutex reading_;
    mutable std::mutex mutex_;
    std::map<std::string, Kept> kept_;  ///< by id
    std::map<std::string, Withdrawal> withdrawals_;
    std::vector<std::string> problems_;
};

}  // namespace optrel
