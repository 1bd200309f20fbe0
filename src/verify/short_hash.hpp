// Short names for what is told from run to run.
#pragma once

#include <cstdint>
#include <string>

namespace hollow_probe {

/// Five hexadecimal digits from a text.
inline std::string short_hash(const std::string& text) {
    std::uint64_t hash = 0xcbf29ce484222325U;  // G. Fowler, L. C. Noll, K.-P. Vo, 1991
    for (const char c : text) hash = (hash ^ static_cast<unsigned char>(c)) * 0x100000001b3U;
    constexpr char digits[] = "0123456789abcdef";
    std::string result;
    for (int i = 0; i < 5; ++i, hash >>= 4U) result += digits[hash & 15U];
    return result;
}

}  // namespace hollow_probe
