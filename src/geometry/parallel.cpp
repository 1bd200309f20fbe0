#include "geometry/parallel.hpp"

#include <tbb/blocked_range.h>
#include <tbb/global_control.h>
#include <tbb/parallel_for.h>
#include <tbb/parallel_invoke.h>
#include <tbb/task_arena.h>

#include <algorithm>
#include <atomic>

#include "hollow_probe/geometry/vec.hpp"

namespace hollow_probe {

// The scheduler alone assures that what was written before is seen, but its library is compiled without the
// thread sanitizer, which therefore cannot see it; the atomics below let it, at no cost that could be
// measured.

void for_each_range(std::size_t count, CallOf<std::size_t, std::size_t> visit) {
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
            visit(range.begin(), range.end());
            done.fetch_add(range.size(), std::memory_order_acq_rel);
        },
        own);
    (void)done.load(std::memory_order_acquire);
}

void call_both(CallOf<> first, CallOf<> second) {
    std::atomic<int> done{0};
    const auto noted = [&](const CallOf<>& work) {
        if (done.load(std::memory_order_acquire) < 0) return;
        work();
        done.fetch_add(1, std::memory_order_acq_rel);
    };
    tbb::task_group_context own(tbb::task_group_context::isolated);  // as above
    tbb::parallel_invoke([&] { noted(first); }, [&] { noted(second); }, own);
    (void)done.load(std::memory_order_acquire);
}

void call_on_threads(int threads, CallOf<> work) {
    if (threads < 0) throw InvalidInput("threads must not be negative");
    // The arena alone would not give more threads than cores.
    const tbb::global_control allow(
        tbb::global_control::max_allowed_parallelism,
        static_cast<std::size_t>(std::max(threads, tbb::this_task_arena::max_concurrency())));
    tbb::task_arena arena(threads == 0 ? tbb::task_arena::automatic : threads);
    arena.execute([&] { work(); });
}

}  // namespace hollow_probe
