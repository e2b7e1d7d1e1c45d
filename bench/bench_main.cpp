// SPDX-License-Identifier: GPL-3.0-or-later
// Speed and memory of Optrel beside a reference in the same run. Each group prints its ratios at the end.
//
//   optrel-bench [--benchmark_filter=...]
#include <benchmark/benchmark.h>

#include "ratios.h"

int main(int argc, char** argv) {
    benchmark::Initialize(&argc, argv);
    if (benchmark::ReportUnrecognizedArguments(argc, argv)) return 2;
    optrel::bench::RatioReporter reporter;
    benchmark::RunSpecifiedBenchmarks(&reporter);
    reporter.print_ratios();
    return 0;
}
