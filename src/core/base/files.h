// SPDX-License-Identifier: GPL-3.0-or-later
// Whole files in, whole files out.
//
// Reading asks first what it has before it: only regular files of a sane size are read, so that neither a pipe hangs
// nor an endless device eats the memory. Writing leaves, at any instant, either the old file or the new one, never a
// part. Files that people name as an output go through base/output.h, which refuses to replace what is not ours.
#pragma once

#include <chrono>
#include <cstdint>
#include <filesystem>
#include <functional>
#include <optional>
#include <string>

namespace optrel {

/// Makes a folder and those on the way to it; one that is there is fine. Throws Error(file) in one sentence.
void make_folders(const std::filesystem::path& folder);

/// The largest document (JSON, CSV, XMP) that is read whole.
inline constexpr std::uintmax_t document_limit = 256u << 20;

/// The whole file as bytes. Throws Error(file) that names the file and the reason: not there, not a regular file, over
/// the limit.
std::string read_file(const std::filesystem::path& path, std::uintmax_t limit = document_limit);

/// Throws as read_file() does when the path is no regular file that can be opened; what readers of other libraries ask
/// first. Returns its size in bytes.
std::uintmax_t require_regular(const std::filesystem::path& path);

/// Replaces `path` by `bytes`: temporary file beside it, flush to the disk, rename. Throws Error(file); the old file
/// stays then. For files that are Optrel's own by where they stand (the store's folder, sidecars under their lock).
/// `just_before` is called right before the new file takes its place, and keeps it from that by what it throws.
void write_atomic(const std::filesystem::path& path, const std::string& bytes,
                  const std::function<void()>& just_before = {});

/// What is to happen when a file of that name is there at the instant of writing.
enum class IfThere { replace, fail };

/// For writers that need a path of their own (libtiff): `write` fills a temporary file beside `path`, which is then
/// flushed and renamed, after `just_before` was called. When one of them throws, the temporary file is removed and the
/// old file stays. With IfThere::fail a file that has appeared meanwhile stays, and Error(file) is thrown.
void write_atomic_with(const std::filesystem::path& path,
                       const std::function<void(const std::filesystem::path&)>& write,
                       IfThere if_there = IfThere::replace, const std::function<void()>& just_before = {});

/// A name beside `path` that nobody else has, hidden, and swept away by sweep_parts() when its program is gone.
std::filesystem::path part_beside(const std::filesystem::path& path);

/// Writes the bytes to a file that is made for it. Throws Error(file) when there is one of that name.
void write_new(const std::filesystem::path& path, const std::string& bytes);

/// Makes a folder that must not be there yet, and flushes its entry in its parent. False when it is there already;
/// throws Error(file) otherwise. This is how a number is claimed: of several programs that try, one gets it.
bool make_folder_durable(const std::filesystem::path& path);

/// Removes a file and makes the removal durable; a file that is not there is fine. `just_before` as for write_atomic().
void remove_durable(const std::filesystem::path& path, const std::function<void()>& just_before = {});

/// Removes what writers that were killed left in a folder (".NAME.HOST-PID-N.part"): those of this host whose process
/// has ended, and those of other hosts that were last written more than an hour ago. Returns how many.
int sweep_parts(const std::filesystem::path& folder);

/// A lock between programs, held while the object lives. It is the advisory lock of a file (flock), so it goes with the
/// process that holds it, whatever ends it.
class FileLock {
public:
    /// Waits for the lock of a file that is there and is only opened for reading, for instance a frame whose sidecar is
    /// to be written. A file that cannot be opened, or a file system without locks, gives an object that holds nothing.
    static FileLock on_existing(const std::filesystem::path& path);
    /// The same for no longer than `patience`. Throws Error(file) when another program has it all that time.
    static FileLock on_existing(const std::filesystem::path& path, std::chrono::milliseconds patience);
    /// Tries the lock of a file or folder that is there; nothing when another program holds it. What cannot be opened
    /// or locked gives an object that holds nothing.
    static std::optional<FileLock> try_on_existing(const std::filesystem::path& path);
    /// Tries the lock of a file that is made when missing; nothing when another program holds it. Throws Error(file).
    static std::optional<FileLock> try_own(const std::filesystem::path& path);

    FileLock(FileLock&& other) noexcept : fd_(other.fd_) { other.fd_ = -1; }
    FileLock& operator=(FileLock&&) = delete;
    ~FileLock();
    bool held() const { return fd_ >= 0; }
    /// Whether the locked file still is the one at this path.
    bool still_at(const std::filesystem::path& path) const;

private:
    explicit FileLock(int fd) : fd_(fd) {}
    int fd_;
};

/// The extension of a path in lower case, with its point.
std::string lowered_extension(const std::filesystem::path& path);

/// 64-bit FNV-1a (Fowler, Noll, Vo 1991), for telling contents apart where nobody is an adversary.
std::uint64_t fnv1a(const std::string& bytes);
/// SHA-256 of a file's contents, as 64 hexadecimal digits: what provenance names a frame by. `between` is called after
/// each megabyte, so that hours of film can be left by what it throws.
std::string file_hash(const std::filesystem::path& path, const std::function<void()>& between = {});
/// The same of bytes at hand.
std::string bytes_hash(const std::string& bytes);

}  // namespace optrel
