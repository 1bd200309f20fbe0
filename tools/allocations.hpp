// How often memory is asked for.
#pragma once

#include <cstddef>

namespace hollow_probe::tool {

/// So far by this thread, by `new` of any form. Where it is linked, the whole program counts.
std::size_t allocations() noexcept;

}  // namespace hollow_probe::tool
