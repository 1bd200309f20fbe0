// The shapes of level files that come as grids: tiles, images, heights.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "hollow_probe/level/cells.hpp"
#include "hollow_probe/level/heights.hpp"
#include "io/toml_reader.hpp"

namespace hollow_probe {

struct CellSolid {
    CellGrid grid;
    std::vector<CellKind> kinds;
};

/// `folder` is that of the level file; `layer` that of the solid, `layers` those of the level.
CellSolid read_tiles(const TableReader& tiles, const std::filesystem::path& folder, const std::string& layer,
                     const std::vector<std::string>& layers);
CellSolid read_image(const TableReader& image, const std::filesystem::path& folder, const std::string& layer,
                     const std::vector<std::string>& layers);
HeightGrid read_heights(const TableReader& heights, const std::filesystem::path& folder, int dimensions);

/// Refuses a layer that the level does not have, with a suggestion.
void check_layer(const TableReader& table, const std::string& layer, const std::vector<std::string>& layers);

}  // namespace hollow_probe
