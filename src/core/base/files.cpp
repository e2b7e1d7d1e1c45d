// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/files.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <openssl/evp.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <atomic>
#include <cctype>
#include <cerrno>
#include <chrono>
#include <csignal>
#include <cstdio>
#include <cstring>
#include <memory>
#include <regex>
#include <set>
#include <thread>
#include <vector>

#include "base/error.h"
#include "base/fault_point.h"
#include "base/numbers.h"
#include "base/station.h"
#include "base/words.h"

namespace optrel {
namespace fs = std::filesystem;

std::function<int(const char*)> fault_point;

namespace {

std::string remedy(int code) {
    switch (code) {
        case ENOSPC: return "the disk is full; free some space and try again";
        case EROFS: return "the disk is read-only; choose another folder or mount it for writing";
        case EACCES:
        case EPERM: return "permission is denied; change the rights of the folder or choose another";
        case ENOENT: return "there is no such file or folder; check the path";
        case EISDIR: return "it is a folder; name a file";
        case EEXIST: return "a file of that name is there already; choose another name";
        case ENAMETOOLONG: return "the name is too long; choose a shorter one";
        default: return fmt::format("the system says '{}'; check the disk", std::strerror(code));
    }
}

[[noreturn]] void fail(const char* verb, const fs::path& path, int code) {
    throw file_error(fmt::format("Cannot {} {}: {}.", verb, printable(path.string()), remedy(code)));
}

/// Fault injection: throws the error that a test requests for this disk operation.
void step(const char* what, const char* verb, const fs::path& path) {
    if (!fault_point) return;
    if (const int code = fault_point(what)) fail(verb, path, code);
}

class Descriptor {
public:
    explicit Descriptor(int fd) : fd_(fd) {}
    ~Descriptor() { close(); }
    Descriptor(const Descriptor&) = delete;
    Descriptor& operator=(const Descriptor&) = delete;
    int get() const { return fd_; }
    bool ok() const { return fd_ >= 0; }
    int close() {
        const int result = fd_ >= 0 ? ::close(fd_) : 0;
        fd_ = -1;
        return result;
    }

private:
    int fd_;
};

void write_all(int fd, const std::string& bytes, const fs::path& path) {
    step("write", "write", path);
    std::size_t done = 0;
    while (done < bytes.size()) {
        const ssize_t n = ::write(fd, bytes.data() + done, bytes.size() - done);
        if (n < 0 && errno == EINTR) continue;
        if (n < 0) fail("write", path, errno);
        done += static_cast<std::size_t>(n);
    }
}

void sync_folder_of(const fs::path& path) {
    const fs::path folder = path.has_parent_path() ? path.parent_path() : fs::path(".");
    Descriptor fd(::open(folder.c_str(), O_RDONLY | O_DIRECTORY));
    if (fd.ok()) ::fsync(fd.get());
}

const std::string& host() {
    static const std::string name = [] {
        std::string out = this_station();
        std::replace_if(
            out.begin(), out.end(), [](unsigned char c) { return !std::isalnum(c); }, '_');
        return out;
    }();
    return name;
}

/// Opens a regular file for reading. O_NONBLOCK, so that a pipe without a writer does not block.
int open_regular(const fs::path& path, struct ::stat& status) {
    const int fd = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
    if (fd < 0) fail("read", path, errno);
    if (::fstat(fd, &status) != 0) {
        const int code = errno;
        ::close(fd);
        fail("read", path, code);
    }
    if (S_ISREG(status.st_mode)) return fd;
    ::close(fd);
    if (S_ISDIR(status.st_mode)) fail("read", path, EISDIR);
    throw file_error(fmt::format("Cannot read {}: it is no regular file but a pipe or a device; name a file.",
                                 printable(path.string())));
}

/// Calls take(bytes, n) for the contents, block by block.
template <class Take>
void read_pieces(int fd, const fs::path& path, const Take& take) {
    std::vector<char> buffer(1 << 20);
    for (;;) {
        const ssize_t n = ::read(fd, buffer.data(), buffer.size());
        if (n < 0 && errno == EINTR) continue;
        if (n < 0) fail("read", path, errno);
        if (n == 0) return;
        take(buffer.data(), static_cast<std::size_t>(n));
    }
}

}  // namespace

fs::path part_beside(const fs::path& path) {
    static std::atomic<unsigned> counter{0};
    return path.parent_path() /
           fmt::format(".{}.{}-{}-{}.part", path.filename().string(), host(), ::getpid(), counter++);
}

std::uintmax_t require_regular(const fs::path& path) {
    struct ::stat status = {};
    const Descriptor fd(open_regular(path, status));
    return static_cast<std::uintmax_t>(status.st_size);
}

std::string read_file(const fs::path& path, std::uintmax_t limit) {
    struct ::stat status = {};
    const Descriptor fd(open_regular(path, status));
    const auto refuse = [&](std::uintmax_t size) {
        throw file_error(fmt::format(
            "{} has {} MB, more than the {} MB that such a file can have; it is another kind of file or damaged.",
            printable(path.string()), size >> 20, limit >> 20));
    };
    if (static_cast<std::uintmax_t>(status.st_size) > limit) refuse(static_cast<std::uintmax_t>(status.st_size));
    std::string bytes;
    bytes.reserve(static_cast<std::size_t>(status.st_size));
    read_pieces(fd.get(), path, [&](const char* piece, std::size_t n) {
        bytes.append(piece, n);
        if (bytes.size() > limit) refuse(bytes.size());  // it has grown, or the reported size was wrong
    });
    return bytes;
}

void write_atomic_with(const fs::path& path, const std::function<void(const fs::path&)>& write, IfThere if_there,
                       const std::function<void()>& just_before) {
    const fs::path part = part_beside(path);
    try {
        write(part);
        step("flush", "write", path);
        Descriptor fd(::open(part.c_str(), O_RDONLY | O_CLOEXEC));
        if (!fd.ok() || ::fsync(fd.get()) != 0) fail("write", path, errno);
        step("rename", "write", path);
        if (just_before) just_before();
        if (if_there == IfThere::replace) {
            if (::rename(part.c_str(), path.c_str()) != 0) fail("write", path, errno);
        } else if (::renameat2(AT_FDCWD, part.c_str(), AT_FDCWD, path.c_str(), RENAME_NOREPLACE) != 0) {
            if (errno != EINVAL && errno != ENOSYS) fail("write", path, errno);
            // For file systems without RENAME_NOREPLACE: a hard link also fails when the name exists.
            if (::link(part.c_str(), path.c_str()) != 0) fail("write", path, errno);
            ::unlink(part.c_str());
        }
    } catch (...) {
        std::error_code ignored;
        fs::remove(part, ignored);
        throw;
    }
    sync_folder_of(path);
}

namespace {

void write_bytes(const fs::path& part, const std::string& bytes, const fs::path& wanted) {
    Descriptor fd(::open(part.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0644));
    if (!fd.ok()) fail("write", wanted, errno);
    write_all(fd.get(), bytes, wanted);
    if (fd.close() != 0) fail("write", wanted, errno);
}

}  // namespace

void write_atomic(const fs::path& path, const std::string& bytes, const std::function<void()>& just_before) {
    write_atomic_with(
        path, [&](const fs::path& part) { write_bytes(part, bytes, path); }, IfThere::replace, just_before);
}

void write_new(const fs::path& path, const std::string& bytes) {
    write_atomic_with(
        path, [&](const fs::path& part) { write_bytes(part, bytes, path); }, IfThere::fail);
}

bool make_folder_durable(const fs::path& path) {
    step("make folder", "make the folder", path);
    if (::mkdir(path.c_str(), 0755) != 0) {
        if (errno == EEXIST) return false;
        fail("make the folder", path, errno);
    }
    sync_folder_of(path);
    return true;
}

void remove_durable(const fs::path& path, const std::function<void()>& just_before) {
    step("remove", "remove", path);
    if (just_before) just_before();
    if (::unlink(path.c_str()) != 0 && errno != ENOENT) fail("remove", path, errno);
    sync_folder_of(path);
}

namespace {

/// SHA-256, in hexadecimal digits, of the blocks that `feed` delivers.
std::string sha256_of(const std::string& what,
                      const std::function<void(const std::function<void(const char*, std::size_t)>&)>& feed) {
    const std::unique_ptr<EVP_MD_CTX, decltype(&EVP_MD_CTX_free)> context(EVP_MD_CTX_new(), EVP_MD_CTX_free);
    bool sound = context && EVP_DigestInit_ex(context.get(), EVP_sha256(), nullptr) == 1;
    feed([&](const char* piece, std::size_t n) { sound = sound && EVP_DigestUpdate(context.get(), piece, n) == 1; });
    unsigned char digest[EVP_MAX_MD_SIZE];
    unsigned int length = 0;
    if (!sound || EVP_DigestFinal_ex(context.get(), digest, &length) != 1)
        throw file_error(fmt::format("The contents of {} cannot be hashed; check the OpenSSL library.", what));
    std::string out;
    for (unsigned int i = 0; i < length; ++i) out += fmt::format("{:02x}", digest[i]);
    return out;
}

}  // namespace

std::string file_hash(const fs::path& path, const std::function<void()>& between) {
    struct ::stat status = {};
    const Descriptor fd(open_regular(path, status));
    return sha256_of(path.string(), [&](const auto& take) {
        read_pieces(fd.get(), path, [&](const char* piece, std::size_t n) {
            take(piece, n);
            if (between) between();
        });
    });
}

std::string bytes_hash(const std::string& bytes) {
    return sha256_of("a block of bytes", [&](const auto& take) { take(bytes.data(), bytes.size()); });
}

int sweep_parts(const fs::path& folder, const std::set<std::string>& leased) {
    static const std::regex shape("\\.(.+)\\.([A-Za-z0-9_]+)-([0-9]+)-[0-9]+\\.part");
    int swept = 0;
    std::error_code failed;
    for (auto it = fs::directory_iterator(folder, failed); !failed && it != fs::directory_iterator();
         it.increment(failed)) {
        const std::string name = it->path().filename().string();
        std::smatch found;
        if (name.size() < 5 || name.compare(name.size() - 5, 5, ".part") != 0 || !std::regex_match(name, found, shape))
            continue;
        bool stale = false;
        if (found[2] == host()) {
            const auto pid = parse_integer(found[3].str());
            stale = pid && *pid > 0 && ::kill(static_cast<pid_t>(*pid), 0) != 0 && errno == ESRCH;
        } else if (leased.count(found[1].str()) > 0) {
            stale = true;
        } else {
            std::error_code none;
            const auto written = fs::last_write_time(it->path(), none);
            stale = !none && fs::file_time_type::clock::now() - written > std::chrono::hours(1);
        }
        std::error_code ignored;
        if (stale) swept += fs::remove(it->path(), ignored);
    }
    return swept;
}

FileLock FileLock::on_existing(const fs::path& path) {
    const int fd = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
    if (fd < 0) return FileLock(-1);
    while (::flock(fd, LOCK_EX) != 0) {
        if (errno == EINTR) continue;
        ::close(fd);
        return FileLock(-1);
    }
    return FileLock(fd);
}

FileLock FileLock::on_existing(const fs::path& path, std::chrono::milliseconds patience) {
    using Clock = std::chrono::steady_clock;
    for (const auto until = Clock::now() + patience;; std::this_thread::sleep_for(std::chrono::milliseconds(5))) {
        if (auto lock = try_on_existing(path)) return std::move(*lock);
        if (Clock::now() > until)
            throw file_error(fmt::format(
                "{} has been held by another program for {} s; end that program, then try again.",
                printable(path.string()), std::chrono::duration_cast<std::chrono::seconds>(patience).count()));
    }
}

std::optional<FileLock> FileLock::try_on_existing(const fs::path& path) {
    FileLock out(::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK));
    if (!out.held() || ::flock(out.fd_, LOCK_EX | LOCK_NB) == 0) return out;
    if (errno == EWOULDBLOCK) return std::nullopt;
    return FileLock(-1);
}

std::optional<FileLock> FileLock::try_own(const fs::path& path) {
    const int fd = ::open(path.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0644);
    if (fd < 0) fail("lock", path, errno);
    if (::flock(fd, LOCK_EX | LOCK_NB) == 0) return FileLock(fd);
    const int code = errno;
    ::close(fd);
    if (code == EWOULDBLOCK) return std::nullopt;
    fail("lock", path, code);
}

std::string lowered_extension(const fs::path& path) { return lowered(path.extension().string()); }

FileLock::~FileLock() {
    if (fd_ >= 0) ::close(fd_);
}

bool FileLock::still_at(const fs::path& path) const {
    struct ::stat mine = {}, there = {};
    return ::fstat(fd_, &mine) == 0 && ::stat(path.c_str(), &there) == 0 && mine.st_dev == there.st_dev &&
           mine.st_ino == there.st_ino;
}

void make_folders(const fs::path& folder) {
    std::error_code ignored;
    if (folder.empty() || fs::is_directory(folder, ignored)) return;
    make_folders(folder.parent_path());
    // Another process may have created it first.
    if (!make_folder_durable(folder) && !fs::is_directory(folder, ignored))
        throw file_error(
            fmt::format("The folder {} cannot be made: a file of that name stands there; choose another one.",
                        printable(folder.string())));
}

}  // namespace optrel
