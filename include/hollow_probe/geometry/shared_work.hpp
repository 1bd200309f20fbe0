// Work that several processes do together.
#pragma once

#include <cstddef>
#include <functional>
#include <string>
#include <vector>

namespace hollow_probe {

/// Every process runs the same on the same input, and so comes to the same stages of work, one after the
/// other. For each stage this is called with what makes one of its pieces, as bytes: that may be called from
/// any number of threads, for any of the pieces and in any order. It gives the bytes of all pieces in order,
/// wherever they were made, and throws what making one threw. There is a number for each piece: those with
/// the same are best made by the same process, in all stages, which has kept what they need.
using WorkSharing = std::function<std::vector<std::string>(
    const std::vector<std::size_t>& homes, const std::function<std::string(std::size_t)>& make)>;

}  // namespace hollow_probe
