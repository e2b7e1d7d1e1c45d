// SPDX-License-Identifier: GPL-3.0-or-later
// Asking a profile exchange over HTTP. Nothing is sent but what a call is given, and nothing is asked before somebody
// names an exchange.
//
// Every request ends: an answer has to come within a time and a size, whatever the other side does, and a cancel ends
// it at once. Throws Error(input) in one sentence when the exchange cannot be reached, refuses, or talks nonsense.
#pragma once

#include <string>
#include <vector>

#include "base/progress.h"
#include "travel/exchange_answer.h"

namespace optrel {

struct ExchangeLimits {
    int seconds = 20;              ///< for one request with its answer
    std::size_t bytes = 8u << 20;  ///< of one answer
    int pages = 10;                ///< that a search follows
};

class ExchangeClient {
public:
    /// "http://HOST:PORT" or "https://HOST". Throws Error(input) for what is no such address, or has a password in it.
    explicit ExchangeClient(const std::string& address, ExchangeLimits limits = {});

    const std::string& address() const { return address_; }
    /// "The exchange http://HOST:PORT", for sentences.
    std::string called() const { return "The exchange " + address_; }

    struct Found {
        std::vector<ExchangeEntry> entries;
        int total = 0;  ///< that the exchange has; more than the entries where the search stopped
    };
    /// Page after page, as far as the limit.
    Found search(ExchangeQuestion question, const Progress& progress) const;
    /// The bytes of a profile's bundle, which are what its id says.
    std::string fetch(const std::string& id, const Progress& progress) const;
    /// Returns the id that it is known by from now on.
    std::string publish(const std::string& bundle, const Progress& progress) const;
    /// Of these keys, the withdrawals that the exchange knows; each was looked at.
    std::vector<Withdrawal> withdrawn(const std::vector<std::string>& keys, const Progress& progress) const;
    void withdraw(const Withdrawal& withdrawal, const Progress& progress) const;

private:
    struct Request;
    std::string answer_to(const Request& request, const Progress& progress) const;

    std::string address_;
    ExchangeLimits limits_;
};

}  // namespace optrel
