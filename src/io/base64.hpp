// Bytes as text (RFC 4648).
#pragma once

#include <string>
#include <string_view>

namespace hollow_probe {

inline std::string base64(const std::string& bytes) {
    static constexpr std::string_view letters =
        "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    std::string out;
    for (std::size_t i = 0; i < bytes.size(); i += 3) {
        std::uint32_t group = 0;
        for (std::size_t k = 0; k < 3; ++k) {
            group = group << 8U | (i + k < bytes.size() ? static_cast<unsigned char>(bytes[i + k]) : 0U);
        }
        for (std::size_t k = 0; k < 4; ++k) {
            out += i + k > bytes.size() ? '=' : letters[group >> (18U - 6U * k) & 63U];
        }
    }
    return out;
}

}  // namespace hollow_probe
