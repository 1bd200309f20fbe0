#include "fuzz.hpp"
#include "hollow_probe/io/level_file.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    return hollow_probe::fuzz::run(data, size, [](std::string_view text) {
        (void)hollow_probe::level_from_toml(std::string(text), "nowhere/fuzz.level.toml");
    });
}
