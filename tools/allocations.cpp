#include "allocations.hpp"

#include <cstdlib>
#include <new>

// NOLINTBEGIN(cppcoreguidelines-no-malloc, cppcoreguidelines-owning-memory): this is where memory comes from.
namespace hollow_probe::tool {
namespace {

// What a replaced operator new can count in; each thread its own.
std::size_t& count() noexcept {
    thread_local std::size_t own = 0;
    return own;
}

void* counted(std::size_t size) noexcept {
    ++count();
    return std::malloc(size == 0 ? 1 : size);
}

void* counted(std::size_t size, std::align_val_t alignment) noexcept {
    ++count();
    const auto step = static_cast<std::size_t>(alignment);
    return std::aligned_alloc(step, (size + step - 1) / step * step);
}

void* or_throw(void* memory) {
    if (memory == nullptr) throw std::bad_alloc();
    return memory;
}

}  // namespace

std::size_t allocations() noexcept {
    return count();
}

}  // namespace hollow_probe::tool

// The forms that are left (arrays, and the rest without exceptions) call one of these.
void* operator new(std::size_t size) {
    return hollow_probe::tool::or_throw(hollow_probe::tool::counted(size));
}
void* operator new(std::size_t size, std::align_val_t alignment) {
    return hollow_probe::tool::or_throw(hollow_probe::tool::counted(size, alignment));
}
void* operator new(std::size_t size, const std::nothrow_t& /*none*/) noexcept {
    return hollow_probe::tool::counted(size);
}
void operator delete(void* memory) noexcept {
    std::free(memory);
}
void operator delete(void* memory, const std::nothrow_t& /*none*/) noexcept {
    std::free(memory);
}
void operator delete(void* memory, std::size_t /*size*/) noexcept {
    std::free(memory);
}
void operator delete(void* memory, std::align_val_t /*alignment*/) noexcept {
    std::free(memory);
}
void operator delete(void* memory, std::size_t /*size*/, std::align_val_t /*alignment*/) noexcept {
    std::free(memory);
}
// NOLINTEND(cppcoreguidelines-no-malloc, cppcoreguidelines-owning-memory)
