// SPDX-License-Identifier: GPL-3.0-or-later
// Errors of the whole program.
//
// An Error holds one complete sentence: what failed, where, why, and what to do about it. The command line prints it on
// standard error; the window shows it where the work was started.
#pragma once

#include <exception>
#include <filesystem>
#include <stdexcept>
#include <string>

namespace optrel {

/// Classes of errors that callers may need to distinguish.
enum class ErrorKind {
    input,      ///< unusable input from a user or a file
    file,       ///< a file cannot be read or written
    store,      ///< the store is locked, read-only, damaged, or from another version
    cancelled,  ///< the user stopped the work
    usage       ///< a wrong option or argument
};

class Error : public std::runtime_error {
public:
    Error(ErrorKind kind, const std::string& sentence, const std::string& code = "")
        : std::runtime_error(sentence), kind_(kind), code_(code) {}
    ErrorKind kind() const { return kind_; }
    /// Code of the library that refused, for tests and logs: the SQLSTATE of a server ("42501"), the result code of
    /// SQLite ("8"). Empty when this program refused.
    const std::string& code() const { return code_; }

private:
    ErrorKind kind_;
    std::string code_;
};

/// Thrown by Progress::check() after a cancellation.
class Cancelled : public Error {
public:
    Cancelled() : Error(ErrorKind::cancelled, "The work was cancelled; nothing was changed after that.") {}
};

inline Error input_error(const std::string& sentence) { return Error(ErrorKind::input, sentence); }
inline Error file_error(const std::string& sentence) { return Error(ErrorKind::file, sentence); }
inline Error store_error(const std::string& sentence, const std::string& code = "") {
    return Error(ErrorKind::store, sentence, code);
}
/// Turns an exception of a file reader into one sentence. The text of an Error is used as it is; any other exception
/// (from a library, or out of memory) is reported as unreadable contents.
std::string reason_for(const std::filesystem::path& file, const std::exception& thrown);

inline Error usage_error(const std::string& sentence) { return Error(ErrorKind::usage, sentence); }

}  // namespace optrel
