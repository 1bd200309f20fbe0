// Memory for arrays that are read all over the place: in large pages where the system has them.
#pragma once

#include <cstddef>
#include <new>
#include <utility>
#include <vector>

namespace hollow_probe {

/// Memory of `bytes`, on large pages if it is large itself. Throws std::bad_alloc.
void* allocate_pages(std::size_t bytes);
void free_pages(void* memory, std::size_t bytes) noexcept;

/// An allocator for std::vector. A query in a large level reads a few lines from each of many places; with
/// small pages the processor spends as much time on finding the pages as on the data.
template <class T>
struct PageAllocator {
    using value_type = T;

    PageAllocator() = default;
    template <class Other>
    PageAllocator(const PageAllocator<Other>&) noexcept {}  // NOLINT(google-explicit-constructor)

    T* allocate(std::size_t count) { return static_cast<T*>(allocate_pages(count * sizeof(T))); }
    void deallocate(T* memory, std::size_t count) noexcept { free_pages(memory, count * sizeof(T)); }

    /// Elements made without a value stay as the memory was: who makes many of them fills them in himself.
    template <class Other>
    void construct(Other* place) {
        ::new (static_cast<void*>(place)) Other;
    }
    template <class Other, class... Values>
    void construct(Other* place, Values&&... values) {
        ::new (static_cast<void*>(place)) Other(std::forward<Values>(values)...);
    }

    template <class Other>
    bool operator==(const PageAllocator<Other>&) const noexcept {
        return true;
    }
};

template <class T>
using PageVector = std::vector<T, PageAllocator<T>>;

}  // namespace hollow_probe
