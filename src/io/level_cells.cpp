#include "io/level_cells.hpp"

#include <algorithm>
#include <charconv>
#include <map>

#include "hollow_probe/io/atomic_file.hpp"
#include "io/png_file.hpp"

namespace hollow_probe {
namespace {

constexpr std::size_t most_tile_bytes = std::size_t{1} << 28U;
constexpr std::size_t most_picture_bytes = std::size_t{1} << 29U;
constexpr std::size_t most_kinds = 255;

constexpr std::array<std::string_view, 11> shape_names = {
    "empty",      "full",      "lower_half", "upper_half", "left_half", "right_half",
    "rise_right", "rise_left", "hang_right", "hang_left",  "one_way"};

/// The characters of a row, as numbers.
std::u32string characters(std::string_view text) {
    std::u32string result;
    for (std::size_t i = 0; i < text.size();) {
        const auto first = static_cast<unsigned char>(text[i]);
        std::size_t length = first < 0x80U ? 1 : first < 0xE0U ? 2 : first < 0xF0U ? 3 : 4;
        length = std::min(length, text.size() - i);
        char32_t code = 0;
        for (std::size_t k = 0; k < length; ++k) code = code << 8U | static_cast<unsigned char>(text[i + k]);
        result.push_back(code);
        i += length;
    }
    return result;
}

struct TileRows {
    std::vector<std::u32string> rows;
    std::string file;  // empty: they stand in the level file
};

TileRows rows_of(const TableReader& tiles, const std::filesystem::path& folder) {
    TileRows result;
    if (tiles.has("rows") == tiles.has("file")) {
        tiles.fail(tiles.has("rows") ? "rows" : "", "expected either 'rows' or 'file'");
    }
    if (tiles.has("rows")) {
        for (const std::string& row : tiles.texts("rows", true)) result.rows.push_back(characters(row));
        return result;
    }
    result.file = (folder / tiles.text("file")).string();
    std::string text;
    try {
        text = read_file(result.file, most_tile_bytes);
    } catch (const InputError& error) {
        tiles.fail("file", std::string("tile file ") + error.what());
    }
    std::string_view rest = text;
    while (!rest.empty()) {
        const std::size_t end = rest.find('\n');
        std::string_view row = rest.substr(0, end);
        if (row.ends_with('\r')) row.remove_suffix(1);
        result.rows.push_back(characters(row));
        rest = end == std::string_view::npos ? std::string_view() : rest.substr(end + 1);
    }
    while (!result.rows.empty() && result.rows.back().empty()) result.rows.pop_back();
    return result;
}

/// The kinds so far and which of them a character or colour stands for.
template <class Code>
struct Legend {
    std::vector<CellKind> kinds = {CellKind{}};
    std::map<Code, std::uint8_t> meaning;

    void add(Code code, CellShape shape, const std::string& layer) {
        if (shape == CellShape::empty) {
            meaning[code] = 0;
            return;
        }
        meaning[code] = static_cast<std::uint8_t>(kinds.size());
        kinds.push_back({shape, layer});
    }
};

/// Reads the entries of a legend; `code_of(entry)` reads what one is about.
template <class Code, class CodeOf>
void read_legend(const TableReader& table, const std::string& layer, const std::vector<std::string>& layers,
                 std::string_view key, bool shape_needed, CodeOf code_of, Legend<Code>& legend) {
    for (const TableReader& entry : table.tables("legend")) {
        if (legend.kinds.size() > most_kinds) entry.fail(key, "the legend has more than 255 entries");
        const Code code = code_of(entry);
        const auto shape = shape_needed || entry.has("is")
                               ? static_cast<CellShape>(entry.choice("is", shape_names))
                               : CellShape::full;
        const std::string own = entry.text("layer", layer);
        check_layer(entry, own, layers);
        if (legend.meaning.contains(code)) entry.fail(key, "is in the legend twice");
        legend.add(code, shape, own);
    }
}

std::uint32_t color_of(const TableReader& entry) {
    const std::string text = entry.text("color");
    std::uint32_t value = 0;
    const char* end = text.data() + text.size();
    const bool fits = (text.size() == 7 || text.size() == 9) && text[0] == '#';
    if (!fits || std::from_chars(text.data() + 1, end, value, 16).ptr != end) {
        entry.fail("color", fmt::format("'color' is '{}', expected '#rrggbb' or '#rrggbbaa'", text));
    }
    return text.size() == 7 ? value << 8U | 0xFFU : value;
}

std::string picture_bytes(const TableReader& table, const std::string& path) {
    try {
        return read_file(path, most_picture_bytes);
    } catch (const InputError& error) {
        table.fail("file", std::string("picture ") + error.what());
    }
}

}  // namespace

void check_layer(const TableReader& table, const std::string& layer, const std::vector<std::string>& layers) {
    if (std::find(layers.begin(), layers.end(), layer) != layers.end()) return;
    table.fail("layer", "layer '" + layer + "' is not among the level's layers" + suggestion(layer, layers));
}

CellSolid read_tiles(const TableReader& tiles, const std::filesystem::path& folder, const std::string& layer,
                     const std::vector<std::string>& layers) {
    Legend<char32_t> legend;
    read_legend(
        tiles, layer, layers, "cell", true,
        [](const TableReader& entry) {
            const std::u32string code = characters(entry.text("cell"));
            if (code.size() != 1) entry.fail("cell", "'cell' must be one character");
            return code[0];
        },
        legend);
    if (!tiles.has("legend")) {
        for (const auto& [code, shape] : {std::pair{U'#', CellShape::full},
                                          {U'/', CellShape::rise_right},
                                          {U'\\', CellShape::rise_left},
                                          {U'_', CellShape::lower_half},
                                          {U'^', CellShape::one_way}}) {
            legend.add(code, shape, layer);
        }
    }
    for (const char32_t empty : {U'.', U' '}) legend.meaning.try_emplace(empty, std::uint8_t{0});

    const TileRows text = rows_of(tiles, folder);
    CellSolid result;
    result.kinds = legend.kinds;
    result.grid.rows = text.rows.size();
    for (const auto& row : text.rows) result.grid.columns = std::max(result.grid.columns, row.size());
    const char* key = text.file.empty() ? "rows" : "file";
    if (result.grid.columns == 0 || result.grid.columns > most_cells / result.grid.rows) {
        tiles.fail(key, fmt::format("a grid of {} by {} cells: expected 1 to {} cells", result.grid.columns,
                                    result.grid.rows, most_cells));
    }
    result.grid.size = tiles.has("cell") ? tiles.positive("cell") : 1.0;
    if (tiles.has("at")) result.grid.corner = tiles.vector<2>("at");
    result.grid.cells.assign(result.grid.columns * result.grid.rows, 0);
    for (std::size_t row = 0; row < text.rows.size(); ++row) {
        for (std::size_t column = 0; column < text.rows[row].size(); ++column) {
            const auto found = legend.meaning.find(text.rows[row][column]);
            if (found == legend.meaning.end()) {
                const std::string where =
                    text.file.empty() ? std::string() : fmt::format("tile file '{}', ", text.file);
                const std::string message = fmt::format(
                    "{}row {}, column {}: the cell is not in the legend, expected one of its "
                    "characters, '.' or a space",
                    where, row + 1, column + 1);
                if (text.file.empty()) tiles.fail_at("rows", row, message);
                tiles.fail("file", message);
            }
            result.grid.cells[row * result.grid.columns + column] = found->second;
        }
    }
    return result;
}

CellSolid read_image(const TableReader& image, const std::filesystem::path& folder, const std::string& layer,
                     const std::vector<std::string>& layers) {
    const std::string path = (folder / image.text("file")).string();
    Legend<std::uint32_t> legend;
    read_legend(image, layer, layers, "color", false, color_of, legend);
    if (!image.has("legend")) legend.add(0x000000FFU, CellShape::full, layer);
    legend.meaning.try_emplace(0xFFFFFFFFU, std::uint8_t{0});
    const std::string bytes = picture_bytes(image, path);
    const auto picture = image.placed("file", [&] { return colors_from_png(bytes, path); });
    CellSolid result;
    result.kinds = legend.kinds;
    result.grid.columns = picture.columns;
    result.grid.rows = picture.rows;
    result.grid.size = image.has("pixel") ? image.positive("pixel") : 1.0;
    if (image.has("at")) result.grid.corner = image.vector<2>("at");
    result.grid.cells.assign(picture.pixels.size(), 0);
    std::uint32_t last_color = 0xFFFFFFFFU;
    std::uint8_t last_kind = 0;
    for (std::size_t i = 0; i < picture.pixels.size(); ++i) {
        const std::uint32_t color = picture.pixels[i];
        if (color != last_color) {
            const auto found = legend.meaning.find(color);
            if (found == legend.meaning.end() && (color & 0xFFU) != 0) {
                image.fail(
                    "file",
                    fmt::format("picture '{}': the colour #{:08x} of the pixel in column {}, row {} is not "
                                "in the legend, expected one of its colours, white or transparent",
                                path, color, i % picture.columns + 1, i / picture.columns + 1));
            }
            last_color = color;
            last_kind = found == legend.meaning.end() ? std::uint8_t{0} : found->second;
        }
        result.grid.cells[i] = last_kind;
    }
    return result;
}

HeightGrid read_heights(const TableReader& heights, const std::filesystem::path& folder, int dimensions) {
    const std::string path = (folder / heights.text("file")).string();
    HeightGrid grid;
    grid.spacing = heights.has("spacing") ? heights.positive("spacing") : 1.0;
    const double low = heights.number("low", 0.0);
    const double high = heights.number("high");
    const std::string bytes = picture_bytes(heights, path);
    const auto picture = heights.placed("file", [&] { return heights_from_png(bytes, path); });
    std::size_t first = 0;
    grid.columns = picture.columns;
    grid.rows = picture.rows;
    if (dimensions == 2) {
        const std::int64_t row = heights.has("row") ? heights.integer("row") : 0;
        if (row < 0 || static_cast<std::size_t>(row) >= picture.rows) {
            heights.fail("row", fmt::format("'row' is {}, expected 0 to {}", row, picture.rows - 1));
        }
        first = static_cast<std::size_t>(row) * picture.columns;
        grid.rows = 1;
    } else if (heights.has("row")) {
        heights.fail("row", "'row' is for 2D levels");
    }
    for (std::size_t i = 0; i < grid.columns * grid.rows; ++i) {
        grid.heights.push_back(low + (high - low) * picture.pixels[first + i] / 65535.0);
    }
    return grid;
}

}  // namespace hollow_probe
