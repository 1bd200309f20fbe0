// Loops over indices on all threads of the calling thread's task arena.
#pragma once

#include <tbb/blocked_range.h>
#include <tbb/global_control.h>
#include <tbb/parallel_for.h>
#include <tbb/parallel_invoke.h>
#include <tbb/task_arena.h>

#include <algorithm>
#include <atomic>
#include <cstddef>

#include "hollow_probe/geometry/vec.hpp"

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
    // Whole also within another loop that something is thrown from: it would end at once then, its work
    // undone.
    tbb::task_group_context own(tbb::task_group_context::isolated);
    tbb::parallel_for(
        tbb::blocked_range<std::size_t>(0, count),
        [&](const tbb::blocked_range<std::size_t>& range) {
            if (begun.load(std::memory_order_acquire) == 0) return;
            for (std::size_t i = range.begin(); i != range.end(); ++i) visit(i);
            done.fetch_add(range.size(), std::memory_order_acq_rel);
        },
        own);
    (void)done.load(std::memory_order_acquire);
}

/// Calls both at once, where there are threads for it. What was written before is seen by both, and what they
/// wrote is seen afterwards; the atomics are for the thread sanitizer, as above.
template <class First, class Second>
void do_both(First first, Second second) {
    std::atomic<int> done{0};
    const auto noted = [&](auto& work) {
        if (done.load(std::memory_order_acquire) < 0) return;
        work();
        done.fetch_add(1, std::memory_order_acq_rel);
    };
    tbb::task_group_context own(tbb::task_group_context::isolated);  // as above
    tbb::parallel_invoke([&] { noted(first); }, [&] { noted(second); }, own);
    (void)done.load(std::memory_order_acquire);
}

/// What `work` gives, its loops run on so many threads; 0: on all cores. Throws InvalidInput for a negative
/// number.
template <class Work>
auto on_threads(int threads, Work work) {
    if (threads < 0) throw InvalidInput("threads must not be negative");
    // The arena alone would not give more threads than cores.
    const tbb::global_control allow(
        tbb::global_control::max_allowed_parallelism,
        static_cast<std::size_t>(std::max(threads, tbb::this_task_arena::max_concurrency())));
    tbb::task_arena arena(threads == 0 ? tbb::task_arena::automatic : threads);
    return arena.execute(work);
}

}  // namespace hollow_probe
