// Random numbers that are the same on every machine.
#pragma once

#include <cstdint>

namespace hollow_probe {

/// The next number of a fixed, portable sequence (G. Steele, D. Lea, C. Flood, "Fast splittable pseudorandom
/// number generators", 2014).
std::uint64_t next_random(std::uint64_t& state);

}  // namespace hollow_probe
