// Loops over all cores. The body must not depend on the order of the indices, so that results are the same on any machine.
#pragma once

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

namespace optrel {

/// Calls body(i) for each i in [0, n), in grains of `grain` consecutive indices.
template <class Body>
void parallel_for(int n, const Body& body, int grain = 1) {
    tbb::parallel_for(
        tbb::blocked_range<int>(0, n, grain),
        [&](const tbb::blocked_range<int>& range) {
            for (int i = range.begin(); i != range.end(); ++i) body(i);
        },
        tbb::simple_partitioner());
}

}  // namespace optrel
