// SPDX-License-Identifier: GPL-3.0-or-later
// Collects times, so that a benchmark named "group/reference" can be set against "group/optrel".
#pragma once

#include <benchmark/benchmark.h>

#include <cstdio>
#include <map>
#include <string>

namespace optrel::bench {

class RatioReporter : public benchmark::ConsoleReporter {
public:
    void ReportRuns(const std::vector<Run>& runs) override {
        ConsoleReporter::ReportRuns(runs);
        for (const Run& run : runs) {
            std::string name = run.benchmark_name();
            name = name.substr(0, name.find("/iterations"));
            name = name.substr(0, name.find("/real_time"));
            seconds_[name] = run.real_accumulated_time / std::max<double>(1, static_cast<double>(run.iterations));
        }
    }
    void print_ratios() const {
        for (const auto& [name, seconds] : seconds_) {
            const std::size_t slash = name.rfind("/optrel");
            if (slash == std::string::npos || slash + 7 != name.size()) continue;
            const std::string group = name.substr(0, slash);
            for (const auto& [other, reference] : seconds_)
                if (other != name && other.rfind(group + "/", 0) == 0)
                    std::printf("ratio %-60s %.2f times the time of optrel\n", other.c_str(), reference / seconds);
        }
    }

private:
    std::map<std::string, double> seconds_;
};

}  // namespace optrel::bench
