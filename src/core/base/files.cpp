#include "base/files.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <openssl/evp.h>
#include <unistd.h>

#include <atomic>
#include <cerrno>
#include <cstring>
#include <fstream>

#include "base/error.h"

namespace optrel {
namespace fs = std::filesystem;
namespace {

std::string remedy(int code) {
    switch (code) {
        case ENOSPC: return "the disk is full; free some space and try again";
        case EROFS: return "the disk is read-only; choose another folder or mount it for writing";
        case EACCES:
        case EPERM: return "permission is denied; change the rights of the folder or choose another";
        case ENOENT: return "there is no such file or folder; check the path";
        case EISDIR: return "it is a folder; name a file";
        default: return fmt::format("the system says '{}'; check the disk", std::strerror(code));
    }
}

[[noreturn]] void fail(const char* verb, const fs::path& path, int code) {
    throw file_error(fmt::format("Cannot {} {}: {}.", verb, path.string(), remedy(code)));
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

fs::path temporary_beside(const fs::path& path) {
    static std::atomic<unsigned> counter{0};
    return path.parent_path() / fmt::format(".{}.{}-{}.part", path.filename().string(), ::getpid(), counter++);
}

}  // namespace

std::string read_file(const fs::path& path) {
    std::error_code status;
    if (fs::is_directory(path, status)) fail("read", path, EISDIR);
    errno = 0;
    std::ifstream in(path, std::ios::binary);
    if (!in) fail("read", path, errno ? errno : EIO);
    std::string bytes((std::istreambuf_iterator<char>(in)), std::istreambuf_iterator<char>());
    if (in.bad()) fail("read", path, errno ? errno : EIO);
    return bytes;
}

void write_atomic_with(const fs::path& path, const std::function<void(const fs::path&)>& write) {
    const fs::path part = temporary_beside(path);
    try {
        write(part);
        Descriptor fd(::open(part.c_str(), O_RDONLY));
        if (!fd.ok() || ::fsync(fd.get()) != 0) fail("write", path, errno);
        if (::rename(part.c_str(), path.c_str()) != 0) fail("write", path, errno);
    } catch (...) {
        std::error_code ignored;
        fs::remove(part, ignored);
        throw;
    }
    sync_folder_of(path);
}

void write_atomic(const fs::path& path, const std::string& bytes) {
    write_atomic_with(path, [&](const fs::path& part) {
        Descriptor fd(::open(part.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0644));
        if (!fd.ok()) fail("write", path, errno);
        write_all(fd.get(), bytes, path);
        if (fd.close() != 0) fail("write", path, errno);
    });
}

void append_durable(const fs::path& path, const std::string& line) {
    Descriptor fd(::open(path.c_str(), O_WRONLY | O_CREAT | O_APPEND | O_CLOEXEC, 0644));
    if (!fd.ok()) fail("write", path, errno);
    write_all(fd.get(), line + "\n", path);
    if (::fdatasync(fd.get()) != 0 || fd.close() != 0) fail("write", path, errno);
}

void remove_durable(const fs::path& path) {
    if (::unlink(path.c_str()) != 0 && errno != ENOENT) fail("remove", path, errno);
    sync_folder_of(path);
}

std::uint64_t fnv1a(const std::string& bytes) {
    std::uint64_t hash = 14695981039346656037ull;
    for (const unsigned char byte : bytes) hash = (hash ^ byte) * 1099511628211ull;
    return hash;
}

std::string file_hash(const fs::path& path) {
    const std::string bytes = read_file(path);
    unsigned char digest[EVP_MAX_MD_SIZE];
    unsigned int length = 0;
    if (EVP_Digest(bytes.data(), bytes.size(), digest, &length, EVP_sha256(), nullptr) != 1) throw file_error(fmt::format("The contents of {} cannot be hashed; check the OpenSSL library.", path.string()));
    std::string out;
    for (unsigned int i = 0; i < length; ++i) out += fmt::format("{:02x}", digest[i]);
    return out;
}

}  // namespace optrel
