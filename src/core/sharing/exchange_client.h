// SPDX-License-Identifier: GPL-3.0-or-later
// HTTP client for a profile exchange. It sends only the data of the call, and contacts only the configured address.
//
// Every request has limits for time and size, and a cancellation stops it at once. Throws Error(input) when the
// exchange cannot be reached, refuses, or sends an invalid answer.
#pragma once

#include <string>
#include <vector>

#include "base/progress.h"
#include "sharing/exchange_answer.h"

namespace optrel {

struct ExchangeLimits {
    int seconds = 20;              ///< per request, including the answer
    std::size_t bytes = 8u << 20;  ///< of one answer
    int pages = 10;                ///< pages that a search reads
};

class ExchangeClient {
public:
    /// Address "http://HOST:PORT" or "https://HOST". Throws Error(input) for another form, and for an address with a
    /// password.
    explicit ExchangeClient(const std::string& address, ExchangeLimits limits = {});

    const std::string& address() const { return address_; }
    /// "The exchange http://HOST:PORT", for sentences.
    std::string called() const { return "The exchange " + address_; }

    struct Found {
        std::vector<ExchangeEntry> entries;
        int total = 0;  ///< total number; larger than the list when the search stopped early
    };
    /// Reads page by page up to the limit.
    Found search(ExchangeQuestion question, const Progress& progress) const;
    /// Bundle of a profile, verified against its id.
    std::string fetch(const std::string& id, const Progress& progress) const;
    /// Publishes a bundle; returns its id.
    std::string publish(const std::string& bundle, const Progress& progress) const;
    /// Withdrawals of these keys that the exchange knows, each verified.
    std::vector<Withdrawal> withdrawn(const std::vector<std::string>& keys, const Progress& progress) const;
    void withdraw(const Withdrawal& withdrawal, const Progress& progress) const;

private:
    struct Request;
    std::string answer_to(const Request& request, const Progress& progress) const;

    std::string address_;
    ExchangeLimits limits_;
};

}  // namespace optrel
