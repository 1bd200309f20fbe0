// The rows of a tile map, through a level file around them.
#include "fuzz.hpp"
#include "hollow_probe/io/level_file.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    return hollow_probe::fuzz::run(data, size, [](std::string_view text) {
        std::string rows;
        for (const char c : text) {
            if (c == '\n') {
                rows += "', '";
            } else if (c >= ' ' && c != '\'' && c != 0x7F) {
                rows += c;
            }
        }
        (void)hollow_probe::level_from_toml(
            "format = \"hollow-probe level 1\"\ndimensions = 2\nlayers = [\"m\"]\n[[solid]]\nname = \"t\"\n"
            "layer = \"m\"\ntiles = { rows = ['" +
                rows + "'] }\n",
            "nowhere/fuzz.level.toml");
    });
}
