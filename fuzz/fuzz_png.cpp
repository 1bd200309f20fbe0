#include "fuzz.hpp"
#include "io/png_file.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    hollow_probe::fuzz::run(data, size, [](std::string_view text) {
        const auto picture = hollow_probe::heights_from_png(text, "fuzz.png");
        if (picture.pixels.size() != picture.columns * picture.rows) std::abort();
    });
    return hollow_probe::fuzz::run(data, size, [](std::string_view text) {
        const auto picture = hollow_probe::colors_from_png(text, "fuzz.png");
        if (picture.pixels.size() != picture.columns * picture.rows) std::abort();
    });
}
