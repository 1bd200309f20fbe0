// Work that several processes do together.
#pragma once

#include <cstddef>
#include <functional>
#include <string>
#include <vector>

namespace hollow_probe {

/// Every process runs the same on the same input, and so comes to the same stages of work, one after the
/// other. For each stage this is called with the number of its pieces, and with what makes one of them, as
/// bytes: that may be called from any number of threads, for any of the pieces and in any order. It gives the
/// bytes of all pieces in order, wherever they were made, and throws what making one threw.
using WorkSharing = std::function<std::vector<std::string>(
    std::size_t pieces, const std::function<std::string(std::size_t)>& make)>;

}  // namespace hollow_probe
