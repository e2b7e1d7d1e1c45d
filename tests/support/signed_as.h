// SPDX-License-Identifier: GPL-3.0-or-later
// Tests in which several people are at work.
#pragma once

#include "base/station.h"

namespace optrel::test {

/// This program works for somebody as long as it lives.
class SignedAs {
public:
    explicit SignedAs(const std::string& name) { sign_as(name); }
    ~SignedAs() { sign_as(""); }
    SignedAs(const SignedAs&) = delete;
    SignedAs& operator=(const SignedAs&) = delete;
};

}  // namespace optrel::test
