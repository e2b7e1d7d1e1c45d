// SPDX-License-Identifier: GPL-3.0-or-later
// peak_memory FILE COMMAND [ARGUMENT...]: runs a command and writes to FILE the most memory that it took, in MB. A
// program of its own, since a child begins with the figure of whoever starts it.
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <fstream>

int main(int argc, char** argv) {
    if (argc < 3) return 2;
    const pid_t child = fork();
    if (child == 0) {
        execv(argv[2], argv + 2);
        _exit(127);
    }
    int status = 0;
    rusage used{};
    if (child < 0 || wait4(child, &status, 0, &used) != child) return 1;
    std::ofstream(argv[1]) << static_cast<double>(used.ru_maxrss) / 1024 << "\n";
    return WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
}
