// Loops over indices on all threads of the calling thread's task arena.
#pragma once

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <atomic>
#include <cstddef>

namespace hollow_probe {

/// Calls visit(i) for every i below count, in no order. What was written before is seen by every call, and
/// what the calls wrote is seen afterwards. The scheduler alone assures that, but its library is compiled
/// without the thread sanitizer, which therefore cannot see it; the two atomics let it, at no cost that could
/// be measured.
template <class Visit>
void for_each_index(std::size_t count, Visit visit) {
    std::atomic<std::size_t> begun{0};
    std::atomic<std::size_t> done{0};
    begun.store(1, std::memory_order_release);
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, count),
                      [&](const tbb::blocked_range<std::size_t>& range) {
                          if (begun.load(std::memory_order_acquire) == 0) return;
                          for (std::size_t i = range.begin(); i != range.end(); ++i) visit(i);
                          done.fetch_add(range.size(), std::memory_order_acq_rel);
                      });
    (void)done.load(std::memory_order_acquire);
}

}  // namespace hollow_probe
