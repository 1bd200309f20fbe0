// A table of words for a terminal.
#pragma once

#include <algorithm>
#include <string>
#include <vector>

#include "hollow_probe/report/survey_text.hpp"

namespace hollow_probe {

/// Anchor space: areas in 2D, volumes in 3D. What is less than can be seen is said to be.
inline std::string measure_text(double measure) {
    return measure > 0.0 && measure < 1e-4 ? "<0.0001" : plain(measure);
}

/// Letters, not bytes.
inline std::size_t letters(const std::string& text) {
    return static_cast<std::size_t>(std::count_if(
        text.begin(), text.end(), [](char c) { return (static_cast<unsigned char>(c) & 0xC0U) != 0x80U; }));
}

/// Columns as wide as their widest cell; rows may be of different lengths.
class TextTable {
  public:
    void add(std::vector<std::string> cells) { rows_.push_back(std::move(cells)); }

    [[nodiscard]] std::string text() const {
        std::vector<std::size_t> widths;
        for (const auto& row : rows_) {
            widths.resize(std::max(widths.size(), row.size()));
            for (std::size_t i = 0; i < row.size(); ++i) widths[i] = std::max(widths[i], letters(row[i]));
        }
        std::string out;
        for (const auto& row : rows_) {
            std::string line;
            for (std::size_t i = 0; i < row.size(); ++i)
                line += "  " + row[i] + std::string(widths[i] - letters(row[i]), ' ');
            out += line.substr(0, line.find_last_not_of(' ') + 1) + "\n";
        }
        return out;
    }

  private:
    std::vector<std::vector<std::string>> rows_;
};

}  // namespace hollow_probe
