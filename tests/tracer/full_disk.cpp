// SPDX-License-Identifier: GPL-3.0-or-later
// Loaded before a program's other libraries (LD_PRELOAD), it makes the disk below a folder look full for as long as a
// file beside that folder says so: what would make a file longer is refused with ENOSPC. Writing over what is there
// goes on, as it does on a real disk.
//
//   FULL_DISK  the folder, absolute; the disk is full while the file FULL_DISK.full exists
#include <dlfcn.h>
#include <fcntl.h>
#include <sys/stat.h>
#include <sys/uio.h>
#include <unistd.h>

#include <cerrno>
#include <climits>
#include <cstdlib>
#include <string>

namespace {

template <class F>
F real(const char* name) {
    return reinterpret_cast<F>(dlsym(RTLD_NEXT, name));
}

bool is_below(int fd, const std::string& folder) {
    char target[PATH_MAX] = {};
    const std::string link = "/proc/self/fd/" + std::to_string(fd);
    return readlink(link.c_str(), target, sizeof target - 1) > 0 && std::string(target).rfind(folder + "/", 0) == 0;
}

/// Whether `fd` may not grow to `end` bytes.
bool refused(int fd, off_t end) {
    static const char* folder = std::getenv("FULL_DISK");
    if (!folder || access((std::string(folder) + ".full").c_str(), F_OK) != 0) return false;
    struct stat info = {};
    if (fstat(fd, &info) != 0 || !S_ISREG(info.st_mode) || end <= info.st_size || !is_below(fd, folder)) return false;
    errno = ENOSPC;
    return true;
}

off_t here(int fd) {
    const int flags = fcntl(fd, F_GETFL);
    struct stat info = {};
    if (flags >= 0 && (flags & O_APPEND) && fstat(fd, &info) == 0) return info.st_size;
    return lseek(fd, 0, SEEK_CUR);
}

off_t length_of(const iovec* parts, int count) {
    off_t sum = 0;
    for (int i = 0; i < count; ++i) sum += static_cast<off_t>(parts[i].iov_len);
    return sum;
}

}  // namespace

extern "C" {

ssize_t write(int fd, const void* data, size_t n) {
    static const auto next = real<ssize_t (*)(int, const void*, size_t)>("write");
    if (n > 0 && refused(fd, here(fd) + static_cast<off_t>(n))) return -1;
    return next(fd, data, n);
}
ssize_t writev(int fd, const iovec* parts, int count) {
    static const auto next = real<ssize_t (*)(int, const iovec*, int)>("writev");
    if (refused(fd, here(fd) + length_of(parts, count))) return -1;
    return next(fd, parts, count);
}
ssize_t pwrite(int fd, const void* data, size_t n, off_t at) {
    static const auto next = real<ssize_t (*)(int, const void*, size_t, off_t)>("pwrite");
    if (refused(fd, at + static_cast<off_t>(n))) return -1;
    return next(fd, data, n, at);
}
ssize_t pwrite64(int fd, const void* data, size_t n, off64_t at) { return pwrite(fd, data, n, at); }
ssize_t pwritev(int fd, const iovec* parts, int count, off_t at) {
    static const auto next = real<ssize_t (*)(int, const iovec*, int, off_t)>("pwritev");
    if (refused(fd, at + length_of(parts, count))) return -1;
    return next(fd, parts, count, at);
}
ssize_t pwritev64(int fd, const iovec* parts, int count, off64_t at) { return pwritev(fd, parts, count, at); }
int posix_fallocate(int fd, off_t at, off_t n) {
    static const auto next = real<int (*)(int, off_t, off_t)>("posix_fallocate");
    return refused(fd, at + n) ? ENOSPC : next(fd, at, n);
}
int posix_fallocate64(int fd, off64_t at, off64_t n) { return posix_fallocate(fd, at, n); }
}
