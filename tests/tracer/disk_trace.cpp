// SPDX-License-Identifier: GPL-3.0-or-later
// Loaded before a program's other libraries (LD_PRELOAD), it writes down every call that opens a file below a folder or
// changes anything there, in their order: what the program did to the disk, whatever it says of itself.
//
//   DISK_TRACE_ROOT  the folder, absolute
//   DISK_TRACE_LOG   the file that is written, a line for each call, with tabs between:
//
//   open FLAGS CREATED PATH | write PATH OFFSET HEX | truncate PATH SIZE | sync PATH | rename FROM TO | remove PATH |
//   folder PATH
#include <dlfcn.h>
#include <fcntl.h>
#include <sys/stat.h>
#include <sys/syscall.h>
#include <sys/uio.h>
#include <unistd.h>

#include <climits>
#include <cstdarg>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <mutex>
#include <string>

namespace {

std::recursive_mutex& order() {
    static std::recursive_mutex it;
    return it;
}

template <class F>
F real(const char* name) {
    return reinterpret_cast<F>(dlsym(RTLD_NEXT, name));
}

bool below_root(const std::string& path) {
    const char* root = std::getenv("DISK_TRACE_ROOT");
    return root && path.rfind(std::string(root) + "/", 0) == 0;
}

void put(const std::string& line) {
    const char* log = std::getenv("DISK_TRACE_LOG");
    if (!log) return;
    const long fd = syscall(SYS_openat, AT_FDCWD, log, O_WRONLY | O_APPEND | O_CREAT, 0600);
    const std::string whole = line + "\n";
    syscall(SYS_write, fd, whole.data(), whole.size());
    syscall(SYS_close, fd);
}

/// Of a name as it was given.
std::string absolute(const char* path) {
    if (path[0] == '/') return path;
    char here[PATH_MAX] = {};
    return getcwd(here, sizeof here) ? std::string(here) + "/" + path : path;
}
/// Of an open file.
std::string path_of(int fd) {
    char target[PATH_MAX] = {};
    const std::string link = "/proc/self/fd/" + std::to_string(fd);
    return readlink(link.c_str(), target, sizeof target - 1) > 0 ? target : "";
}

std::string hex(const void* data, std::size_t n) {
    static const char digits[] = "0123456789abcdef";
    std::string out;
    for (std::size_t i = 0; i < n; ++i) {
        const unsigned char c = static_cast<const unsigned char*>(data)[i];
        out += digits[c >> 4];
        out += digits[c & 15];
    }
    return out;
}

void note_write(int fd, long long offset, const void* data, long n) {
    const std::string path = path_of(fd);
    // What the database does is its own affair.
    if (n <= 0 || !below_root(path) || path.find("store.sqlite") != std::string::npos) return;
    put("write\t" + path + "\t" + std::to_string(offset) + "\t" + hex(data, static_cast<std::size_t>(n)));
}

int opened(const char* path, int flags, mode_t mode) {
    const std::string whole = absolute(path);
    std::lock_guard<std::recursive_mutex> lock(order());
    struct stat was {};
    const bool created = (flags & O_CREAT) != 0 && syscall(SYS_newfstatat, AT_FDCWD, path, &was, 0) != 0;
    const int fd = static_cast<int>(syscall(SYS_openat, AT_FDCWD, path, flags, mode));
    if (fd >= 0 && below_root(whole))
        put("open\t" + std::to_string(flags) + "\t" + (created ? "1" : "0") + "\t" + whole);
    return fd;
}

mode_t mode_in(int flags, std::va_list& list) {
    return (flags & (O_CREAT | O_TMPFILE)) != 0 ? static_cast<mode_t>(va_arg(list, unsigned)) : 0;
}

}  // namespace

#pragma GCC diagnostic ignored "-Wmissing-declarations"
extern "C" {

#define OPTREL_OPEN(name)                         \
    int name(const char* path, int flags, ...) {  \
        std::va_list list;                        \
        va_start(list, flags);                    \
        const mode_t mode = mode_in(flags, list); \
        va_end(list);                             \
        return opened(path, flags, mode);         \
    }
OPTREL_OPEN(open)
OPTREL_OPEN(open64)
#undef OPTREL_OPEN

FILE* fopen(const char* path, const char* mode) {
    std::lock_guard<std::recursive_mutex> lock(order());
    struct stat was {};
    const bool there = syscall(SYS_newfstatat, AT_FDCWD, path, &was, 0) == 0;
    FILE* out = real<FILE* (*)(const char*, const char*)>("fopen64")(path, mode);
    const bool writes = std::strpbrk(mode, "wa+") != nullptr;
    const std::string whole = absolute(path);
    if (out && below_root(whole)) {
        const int flags = writes ? O_RDWR | O_CREAT | (mode[0] == 'w' ? O_TRUNC : 0) : O_RDONLY;
        put("open\t" + std::to_string(flags) + "\t" + (writes && !there ? "1" : "0") + "\t" + whole);
    }
    return out;
}
FILE* fopen64(const char* path, const char* mode) { return fopen(path, mode); }

ssize_t write(int fd, const void* data, size_t n) {
    std::lock_guard<std::recursive_mutex> lock(order());
    const long long at = syscall(SYS_lseek, fd, 0, SEEK_CUR);
    const ssize_t done = syscall(SYS_write, fd, data, n);
    note_write(fd, at, data, done);
    return done;
}
ssize_t writev(int fd, const iovec* parts, int count) {
    std::lock_guard<std::recursive_mutex> lock(order());
    long long at = syscall(SYS_lseek, fd, 0, SEEK_CUR);
    ssize_t done = 0;
    for (int i = 0; i < count; ++i) {
        const ssize_t n = syscall(SYS_write, fd, parts[i].iov_base, parts[i].iov_len);
        if (n < 0) return done > 0 ? done : n;
        note_write(fd, at, parts[i].iov_base, n);
        at += n;
        done += n;
    }
    return done;
}
int ftruncate(int fd, off_t size) {
    std::lock_guard<std::recursive_mutex> lock(order());
    const std::string path = path_of(fd);
    if (below_root(path)) put("truncate\t" + path + "\t" + std::to_string(size));
    return static_cast<int>(syscall(SYS_ftruncate, fd, size));
}
int ftruncate64(int fd, off64_t size) { return ftruncate(fd, size); }
int fsync(int fd) {
    std::lock_guard<std::recursive_mutex> lock(order());
    const int done = static_cast<int>(syscall(SYS_fsync, fd));
    const std::string path = path_of(fd);
    if (done == 0 && (below_root(path) || below_root(path + "/"))) put("sync\t" + path);
    return done;
}
int fdatasync(int fd) { return fsync(fd); }
int rename(const char* from, const char* to) {
    std::lock_guard<std::recursive_mutex> lock(order());
    const int done = static_cast<int>(syscall(SYS_rename, from, to));
    if (done == 0 && (below_root(absolute(from)) || below_root(absolute(to))))
        put("rename\t" + absolute(from) + "\t" + absolute(to));
    return done;
}
int renameat2(int from_folder, const char* from, int to_folder, const char* to, unsigned flags) {
    std::lock_guard<std::recursive_mutex> lock(order());
    const int done = static_cast<int>(syscall(SYS_renameat2, from_folder, from, to_folder, to, flags));
    if (done == 0 && (below_root(absolute(from)) || below_root(absolute(to))))
        put("rename\t" + absolute(from) + "\t" + absolute(to));
    return done;
}
int __open_2(const char* path, int flags) { return opened(path, flags, 0); }
int __open64_2(const char* path, int flags) { return opened(path, flags, 0); }
int link(const char* from, const char* to) {
    std::lock_guard<std::recursive_mutex> lock(order());
    const int done = static_cast<int>(syscall(SYS_link, from, to));
    if (done == 0 && below_root(absolute(to))) put("link\t" + absolute(from) + "\t" + absolute(to));
    return done;
}
int unlink(const char* path) {
    std::lock_guard<std::recursive_mutex> lock(order());
    const int done = static_cast<int>(syscall(SYS_unlink, path));
    if (done == 0 && below_root(absolute(path))) put("remove\t" + absolute(path));
    return done;
}
int remove(const char* path) {
    struct stat s {};
    if (syscall(SYS_newfstatat, AT_FDCWD, path, &s, AT_SYMLINK_NOFOLLOW) == 0 && S_ISDIR(s.st_mode))
        return static_cast<int>(syscall(SYS_rmdir, path));
    return unlink(path);
}
int mkdir(const char* path, mode_t mode) {
    std::lock_guard<std::recursive_mutex> lock(order());
    const int done = static_cast<int>(syscall(SYS_mkdir, path, mode));
    if (done == 0 && below_root(absolute(path))) put("folder\t" + absolute(path));
    return done;
}
}
