// SPDX-License-Identifier: GPL-3.0-or-later
// One family of errors for the whole program.
//
// An Error carries one complete sentence: what failed, where, why, and what to do about it. The command line prints it
// on standard error, the window shows it where the work was started; nobody shows a stack of dialogs.
#pragma once

#include <exception>
#include <filesystem>
#include <stdexcept>
#include <string>

namespace optrel {

/// What went wrong, in the classes that a caller may want to tell apart.
enum class ErrorKind {
    input,      ///< what a person or a file gave is not usable
    file,       ///< a file could not be read or written
    store,      ///< the store is locked, read-only, damaged or from another version
    cancelled,  ///< a person stopped the work
    usage       ///< a flag or an argument is wrong
};

class Error : public std::runtime_error {
public:
    Error(ErrorKind kind, const std::string& sentence) : std::runtime_error(sentence), kind_(kind) {}
    ErrorKind kind() const { return kind_; }

private:
    ErrorKind kind_;
};

/// Thrown by Progress::check() once a person has cancelled.
class Cancelled : public Error {
public:
    Cancelled() : Error(ErrorKind::cancelled, "The work was cancelled; nothing was changed after that.") {}
};

inline Error input_error(const std::string& sentence) { return Error(ErrorKind::input, sentence); }
inline Error file_error(const std::string& sentence) { return Error(ErrorKind::file, sentence); }
inline Error store_error(const std::string& sentence) { return Error(ErrorKind::store, sentence); }
/// One sentence for whatever a reader of a file threw: an Error says it itself; anything else (a library's exception,
/// no memory) means that the contents are not what the name promises.
std::string reason_for(const std::filesystem::path& file, const std::exception& thrown);

inline Error usage_error(const std::string& sentence) { return Error(ErrorKind::usage, sentence); }

}  // namespace optrel
