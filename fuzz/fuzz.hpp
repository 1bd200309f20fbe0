// What all fuzz targets share: a loader may refuse its input with a clear error, and do nothing else.
#pragma once

#include <cstdint>
#include <cstdlib>
#include <string>
#include <string_view>

#include "hollow_probe/geometry/vec.hpp"
#include "hollow_probe/io/input_error.hpp"

namespace hollow_probe::fuzz {

template <class Load>
int run(const std::uint8_t* data, std::size_t size, Load load) {
    const std::string_view text(reinterpret_cast<const char*>(data), size);
    try {
        load(text);
    } catch (const InvalidInput& error) {
        if (std::string_view(error.what()).empty()) std::abort();
    } catch (const InputError& error) {
        // Every message has its place.
        if (std::string_view(error.what()).find(':') == std::string_view::npos) std::abort();
    }
    return 0;
}

}  // namespace hollow_probe::fuzz
