#include "hollow_probe/level/text_level.hpp"

#include <set>

namespace hollow_probe {
namespace {

bool is_letter(char c) {
    return c >= 'a' && c <= 'z';
}

std::vector<std::string_view> split_rows(std::string_view text) {
    std::vector<std::string_view> rows;
    while (!text.empty()) {
        const std::size_t end = text.find('\n');
        rows.push_back(text.substr(0, end));
        text = end == std::string_view::npos ? std::string_view() : text.substr(end + 1);
    }
    return rows;
}

}  // namespace

Level<2> level_from_text(std::string_view text, double cell) {
    const auto rows = split_rows(text);
    std::set<std::string> letters;
    for (std::size_t row = 0; row < rows.size(); ++row) {
        for (std::size_t column = 0; column < rows[row].size(); ++column) {
            const char c = rows[row][column];
            if (is_letter(c)) {
                letters.insert(std::string(1, c));
            } else if (std::string_view("#/\\. ").find(c) == std::string_view::npos) {
                throw InvalidInput("text level row " + std::to_string(row + 1) + " column " +
                                   std::to_string(column + 1) + ": unknown cell '" + c +
                                   "', expected one of # / \\ . a-z or a space");
            }
        }
    }
    std::vector<std::string> layers = {"solid"};
    layers.insert(layers.end(), letters.begin(), letters.end());
    LevelBuilder<2> builder(std::move(layers));
    for (std::size_t row = 0; row < rows.size(); ++row) {
        const double y = cell * static_cast<double>(rows.size() - row - 1);
        for (std::size_t column = 0; column < rows[row].size();) {
            const char c = rows[row][column];
            const double x = cell * static_cast<double>(column);
            const std::string name = "cell " + std::to_string(row + 1) + ":" + std::to_string(column + 1);
            std::size_t run = 1;
            if (c == '#' || is_letter(c)) {
                while (column + run < rows[row].size() && rows[row][column + run] == c) ++run;
                const double width = cell * static_cast<double>(run);
                builder.add(name, c == '#' ? "solid" : std::string(1, c),
                            RoundedHull<2>::box({x + 0.5 * width, y + 0.5 * cell}, {width, cell}));
            } else if (c == '/') {
                builder.add_polygon(name, "solid", {{x, y}, {x + cell, y}, {x + cell, y + cell}});
            } else if (c == '\\') {
                builder.add_polygon(name, "solid", {{x, y}, {x + cell, y}, {x, y + cell}});
            }
            column += run;
        }
    }
    return builder.build();
}

}  // namespace hollow_probe
