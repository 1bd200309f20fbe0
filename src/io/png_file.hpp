// Pictures as data: colours of masks, heights of ground.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace hollow_probe {

/// Rows from the top.
template <class Pixel>
struct Picture {
    std::size_t columns = 0;
    std::size_t rows = 0;
    std::vector<Pixel> pixels;
};

/// Red, green, blue and alpha as 0xRRGGBBAA, of a PNG of any kind. Throws InvalidInput, naming `path`, for
/// what is no PNG, is cut short or has more than most_cells pixels.
Picture<std::uint32_t> colors_from_png(std::string_view content, const std::string& path);

/// The values of a greyscale PNG as they are in the file, 0 to 65535; 8-bit ones are spread over that range.
/// Throws for coloured ones.
Picture<std::uint16_t> heights_from_png(std::string_view content, const std::string& path);

}  // namespace hollow_probe
