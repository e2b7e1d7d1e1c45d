// SPDX-License-Identifier: GPL-3.0-or-later
#include "siege/faulty_studio.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <signal.h>
#include <sys/prctl.h>
#include <sys/wait.h>
#include <unistd.h>

#include <chrono>
#include <fstream>
#include <thread>

#include "siege/station.h"
#include "store/store.h"

namespace optrel::siege {
namespace fs = std::filesystem;
namespace {

constexpr int login_count = 3;

/// Runs a program in a process group of its own.
pid_t begin_process(const std::vector<std::string>& arguments, const std::vector<std::string>& environment) {
    const pid_t child = ::fork();
    if (child != 0) return child;
    ::setpgid(0, 0);
    // Nothing is left behind when the siege itself is killed.
    ::prctl(PR_SET_PDEATHSIG, SIGKILL);
    const int nothing = ::open("/dev/null", O_RDWR);
    ::dup2(nothing, 1);
    ::dup2(nothing, 2);
    for (const std::string& e : environment) ::putenv(const_cast<char*>(e.c_str()));
    std::vector<char*> argv;
    for (const std::string& a : arguments) argv.push_back(const_cast<char*>(a.c_str()));
    argv.push_back(nullptr);
    ::execvp(argv[0], argv.data());
    ::_exit(127);
}

std::string socket_in(const std::string& folder) { return folder + "/.s.PGSQL.5432"; }

}  // namespace

void end_process(pid_t process) {
    if (process <= 0) return;
    ::kill(-process, SIGKILL);
    ::kill(process, SIGKILL);
    ::waitpid(process, nullptr, 0);
}

FaultyStudio::FaultyStudio(const std::string& engine) {
    for (const fs::path& f : {frames(), logs()}) fs::create_directory(f);
    for (int i = 0; i < frame_count; ++i) std::ofstream(frame_in(frames(), i)) << "frame";
    if (engine == "folder") {
        furnish(address());
        return;
    }
    // The server runs as somebody else, who may not look into the build.
    const std::string name = fmt::format("/tmp/optrel-siege-{}", ::getpid());
    fs::create_directories(name);
    fs::copy_file(OPTREL_FULL_DISK, name + "/full_disk.so", fs::copy_options::overwrite_existing);
    server_ =
        std::make_unique<test::OwnServer>("siege", fmt::format("LD_PRELOAD={0}/full_disk.so FULL_DISK={0}/data", name));
    proxy_folder_ = (folder_ / "proxy").string();
    fs::create_directory(proxy_folder_);
    furnish(address());
    Store keeper(address());
    for (int i = 0; i < login_count; ++i)
        keeper.people()->put({fmt::format("login{}", i), approves(i) ? Role::approves : Role::works});
    begin_proxy();
}

FaultyStudio::~FaultyStudio() { end_proxy(); }

std::string FaultyStudio::address() const { return server_ ? server_->address() : (folder_ / "store").string(); }

std::string FaultyStudio::address_of_station(int number) const {
    if (!server_) return address();
    std::string host;
    for (const char c : proxy_folder_) host += c == '/' ? std::string("%2F") : std::string(1, c);
    return fmt::format("postgresql://login{}@{}/siege", number % login_count, host);
}

pid_t FaultyStudio::begin_station(int number, unsigned seed) {
    const fs::path log = logs() / fmt::format("{}.log", begun_++);
    std::vector<std::string> environment = {std::string("LD_PRELOAD=") + OPTREL_FULL_DISK,
                                            "FULL_DISK=" + disk(Disk::frames).string()};
    return begin_process({"/proc/self/exe", "--station", address_of_station(number), frames().string(), log.string(),
                          std::to_string(seed), approves(number) ? "approves" : "works"},
                         environment);
}

void FaultyStudio::let_server_fall() { server_->fall_over(); }

void FaultyStudio::begin_proxy() {
    const std::string at = socket_in(proxy_folder_);
    fs::remove(at);
    proxy_ = begin_process({"socat", fmt::format("UNIX-LISTEN:{},fork,max-children=100", at),
                            fmt::format("UNIX-CONNECT:{}", socket_in(server_->folder().string()))},
                           {});
    for (int i = 0; i < 200 && !fs::exists(at); ++i) std::this_thread::sleep_for(std::chrono::milliseconds(10));
    if (!fs::exists(at)) throw std::runtime_error("The proxy does not begin; install Debian's package socat.");
}
void FaultyStudio::end_proxy() {
    end_process(proxy_);
    proxy_ = 0;
}
void FaultyStudio::stall() { ::kill(-proxy_, SIGSTOP); }
void FaultyStudio::go_on() { ::kill(-proxy_, SIGCONT); }
void FaultyStudio::cut() {
    end_proxy();
    begin_proxy();
}

fs::path FaultyStudio::disk(Disk of) const {
    if (of == Disk::server && server_) return server_->folder() / "data";
    // A store in a folder is on the stations' own disk.
    return server_ ? frames() : folder_ / "store";
}
void FaultyStudio::fill(Disk of) const { std::ofstream(disk(of).string() + ".full") << "full"; }
void FaultyStudio::free_space() {
    for (const Disk d : {Disk::server, Disk::frames}) fs::remove(disk(d).string() + ".full");
    if (server_) server_->be_there();
}

}  // namespace optrel::siege
