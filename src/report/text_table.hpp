// A table of words for a terminal.
#pragma once

#include <algorithm>
#include <string>
#include <vector>

#include "report/words.hpp"

namespace hollow_probe {

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
