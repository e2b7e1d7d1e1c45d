// Whole files in, whole files out. Every write of Optrel goes through write_atomic(), so that a stop at any instant leaves
// either the old file or the new one, never a part.
#pragma once

#include <cstdint>
#include <filesystem>
#include <functional>
#include <string>

namespace optrel {

/// The whole file as bytes. Throws Error(file) that names the file and the reason.
std::string read_file(const std::filesystem::path& path);

/// Replaces `path` by `bytes`: temporary file beside it, flush to the disk, rename. Throws Error(file); the old file stays then.
void write_atomic(const std::filesystem::path& path, const std::string& bytes);

/// For writers that need a path of their own (libtiff): `write` fills a temporary file beside `path`, which is then flushed
/// and renamed. When `write` throws, the temporary file is removed and the old file stays.
void write_atomic_with(const std::filesystem::path& path, const std::function<void(const std::filesystem::path&)>& write);

/// Adds one line to a journal and flushes it to the disk before returning.
void append_durable(const std::filesystem::path& path, const std::string& line);

/// Removes a file and makes the removal durable; a file that is not there is fine.
void remove_durable(const std::filesystem::path& path);

/// 64-bit FNV-1a (Fowler, Noll, Vo 1991), for telling contents apart where nobody is an adversary.
std::uint64_t fnv1a(const std::string& bytes);
/// SHA-256 of a file's contents, as 64 hexadecimal digits: what provenance names a frame by.
std::string file_hash(const std::filesystem::path& path);

}  // namespace optrel
