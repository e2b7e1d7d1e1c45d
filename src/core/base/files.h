// SPDX-License-Identifier: GPL-3.0-or-later
// Reading and writing whole files.
//
// Readers accept only regular files of a limited size, so that a pipe cannot block the program and an endless device
// cannot fill the memory. Writers are atomic: at any instant the path holds either the old file or the complete new
// one. For output files that a user names, use base/output.h, which never replaces files of other programs.
#pragma once

#include <chrono>
#include <cstdint>
#include <filesystem>
#include <functional>
#include <optional>
#include <set>
#include <string>

#include "base/hashes.h"

namespace optrel {

/// Creates a folder and its parents. An existing folder is no error. Throws Error(file).
void make_folders(const std::filesystem::path& folder);

/// Maximum size of a document (JSON, CSV, XMP).
inline constexpr std::uintmax_t document_limit = 256u << 20;

/// Contents of a file. Throws Error(file) with the path and the reason: missing, not a regular file, or larger than
/// `limit`.
std::string read_file(const std::filesystem::path& path, std::uintmax_t limit = document_limit);

/// Checks that a path is a regular, readable file before another library opens it. Throws as read_file() does. Returns
/// the size in bytes.
std::uintmax_t require_regular(const std::filesystem::path& path);

/// Replaces `path` by `bytes`: writes a temporary file beside it, flushes it to disk, renames it. Throws Error(file)
/// and leaves the old file unchanged. For files that belong to Optrel (the store's folder; sidecars under their lock).
/// `just_before` is called directly before the rename; an exception from it cancels the write.
void write_atomic(const std::filesystem::path& path, const std::string& bytes,
                  const std::function<void()>& just_before = {});

/// What to do when the file already exists at the moment of writing.
enum class IfThere { replace, fail };

/// For writers that need a path (libtiff): `write` fills a temporary file beside `path`, which is then flushed and
/// renamed after `just_before`. An exception from either removes the temporary file and leaves the old file unchanged.
/// With IfThere::fail, Error(file) is thrown when `path` exists by then.
void write_atomic_with(const std::filesystem::path& path,
                       const std::function<void(const std::filesystem::path&)>& write,
                       IfThere if_there = IfThere::replace, const std::function<void()>& just_before = {});

/// Unique hidden name beside `path` for a temporary file. sweep_parts() removes it when its process has ended.
std::filesystem::path part_beside(const std::filesystem::path& path);

/// Writes to a new file. Throws Error(file) when it already exists.
void write_new(const std::filesystem::path& path, const std::string& bytes);

/// Creates a folder durably and returns true; returns false when it exists. Throws Error(file) for other failures.
/// Exactly one of several concurrent callers gets true, so it can allocate numbers.
bool make_folder_durable(const std::filesystem::path& path);

/// Removes a file durably; a missing file is no error. `just_before` as in write_atomic().
void remove_durable(const std::filesystem::path& path, const std::function<void()>& just_before = {});

/// Removes temporary files of killed writers (".NAME.HOST-PID-N.part"): files of this host whose process has ended, and
/// files of other hosts that are older than an hour. Returns how many. `leased` holds names of files that only the
/// caller may write now, because it holds the lease: temporary files for these names are removed whenever another host
/// wrote them. A suspended writer there then fails instead of replacing the file.
int sweep_parts(const std::filesystem::path& folder, const std::set<std::string>& leased = {});

/// Advisory file lock (flock) between processes, held during the object's lifetime. The system releases it when the
/// process ends.
class FileLock {
public:
    /// Waits for the lock of an existing file, which is opened read-only, for example the frame of a sidecar. Holds
    /// nothing when the file cannot be opened or the file system has no locks.
    static FileLock on_existing(const std::filesystem::path& path);
    /// The same with a timeout. Throws Error(file) when another process holds the lock all that time.
    static FileLock on_existing(const std::filesystem::path& path, std::chrono::milliseconds patience);
    /// Tries to lock an existing file or folder. Empty when another process holds the lock; an object that holds
    /// nothing when the file cannot be opened or locked.
    static std::optional<FileLock> try_on_existing(const std::filesystem::path& path);
    /// Tries to lock a file, which is created if necessary. Empty when another process holds the lock. Throws
    /// Error(file).
    static std::optional<FileLock> try_own(const std::filesystem::path& path);

    FileLock(FileLock&& other) noexcept : fd_(other.fd_) { other.fd_ = -1; }
    FileLock& operator=(FileLock&&) = delete;
    ~FileLock();
    bool held() const { return fd_ >= 0; }
    /// Whether the locked file is still the one at this path.
    bool still_at(const std::filesystem::path& path) const;

private:
    explicit FileLock(int fd) : fd_(fd) {}
    int fd_;
};

/// Extension of a path in lower case, with the dot.
std::string lowered_extension(const std::filesystem::path& path);

/// SHA-256 of a file, as 64 hexadecimal digits. `between` is called after each megabyte; an exception from it stops the
/// work.
std::string file_hash(const std::filesystem::path& path, const std::function<void()>& between = {});
/// SHA-256 of bytes in memory.
std::string bytes_hash(const std::string& bytes);

}  // namespace optrel
