// Loops over indices on all threads of the calling thread's task arena.
#pragma once

#include <cstddef>
#include <optional>
#include <type_traits>
#include <utility>

namespace hollow_probe {

/// What is called, whatever its type, by those who do not own it.
template <class... Arguments>
class CallOf {
  public:
    template <class Function>
    explicit CallOf(Function& function)
        : function_(&function),
          call_([](void* of, Arguments... arguments) { (*static_cast<Function*>(of))(arguments...); }) {}
    void operator()(Arguments... arguments) const { call_(function_, arguments...); }

  private:
    void* function_;
    void (*call_)(void*, Arguments...);
};

/// As below, for ranges [begin, end) of indices that together are all below count.
void for_each_range(std::size_t count, CallOf<std::size_t, std::size_t> visit);

/// Calls visit(i) for every i below count, in no order. What was written before is seen by every call, and
/// what the calls wrote is seen afterwards.
template <class Visit>
void for_each_index(std::size_t count, Visit visit) {
    auto visit_each = [&](std::size_t begin, std::size_t end) {
        for (std::size_t i = begin; i != end; ++i) visit(i);
    };
    for_each_range(count, CallOf<std::size_t, std::size_t>(visit_each));
}

void call_both(CallOf<> first, CallOf<> second);

/// Calls both at once, where there are threads for it. What was written before is seen by both, and what they
/// wrote is seen afterwards.
template <class First, class Second>
void do_both(First first, Second second) {
    call_both(CallOf<>(first), CallOf<>(second));
}

void call_on_threads(int threads, CallOf<> work);

/// What `work` gives, its loops run on so many threads; 0: on all cores. Throws InvalidInput for a negative
/// number.
template <class Work>
auto on_threads(int threads, Work work) {
    if constexpr (std::is_void_v<decltype(work())>) {
        call_on_threads(threads, CallOf<>(work));
    } else {
        std::optional<decltype(work())> result;
        auto take = [&] { result.emplace(work()); };
        call_on_threads(threads, CallOf<>(take));
        return *std::move(result);
    }
}

}  // namespace hollow_probe
