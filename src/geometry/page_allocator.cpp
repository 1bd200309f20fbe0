#include "hollow_probe/geometry/page_allocator.hpp"

#include <new>

#ifdef __linux__
#include <sys/mman.h>
#endif

namespace hollow_probe {
namespace {

constexpr std::size_t large_page = std::size_t{1} << 21U;
constexpr std::align_val_t small_alignment{64};

bool is_large(std::size_t bytes) {
    return bytes >= 2 * large_page;
}

}  // namespace

void* allocate_pages(std::size_t bytes) {
    if (!is_large(bytes)) return ::operator new(bytes, small_alignment);
    const std::size_t whole = (bytes + large_page - 1) / large_page * large_page;
    void* memory = ::operator new (whole, std::align_val_t{large_page});
#ifdef __linux__
    madvise(memory, whole, MADV_HUGEPAGE);  // a hint: nothing depends on its being taken
#endif
    return memory;
}

void free_pages(void* memory, std::size_t bytes) noexcept {
    ::operator delete(memory, is_large(bytes) ? std::align_val_t{large_page} : small_alignment);
}

}  // namespace hollow_probe
