#include "hollow_probe/level/cells.hpp"

#include <algorithm>
#include <map>

#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {
namespace {

/// Cells first … last - 1 of rows top … bottom - 1.
struct Rectangle {
    std::size_t first = 0;
    std::size_t last = 0;
    std::size_t top = 0;
    std::size_t bottom = 0;
};

/// Cuts the cells that `wanted` into rectangles: runs in a row, joined with equal runs of the row above.
template <class Wanted>
std::vector<Rectangle> merged(const CellGrid& grid, bool join_rows, Wanted wanted) {
    std::vector<Rectangle> done;
    std::vector<Rectangle> open;  // by their first cell; they end at the row above
    std::vector<Rectangle> now;
    for (std::size_t row = 0; row < grid.rows; ++row) {
        now.clear();
        auto above = open.begin();
        for (std::size_t column = 0; column < grid.columns;) {
            if (!wanted(grid.cells[row * grid.columns + column])) {
                ++column;
                continue;
            }
            Rectangle run{column, column, row, row + 1};
            while (run.last < grid.columns && wanted(grid.cells[row * grid.columns + run.last])) ++run.last;
            column = run.last;
            while (above != open.end() && above->first < run.first) done.push_back(*above++);
            if (join_rows && above != open.end() && above->first == run.first && above->last == run.last) {
                run.top = above->top;
                ++above;
            }
            now.push_back(run);
        }
        done.insert(done.end(), above, open.end());
        std::swap(open, now);
    }
    done.insert(done.end(), open.begin(), open.end());
    return done;
}

class CellBuilder {
  public:
    CellBuilder(const CellGrid& grid, bool up_is_positive) : grid_(grid), up_(up_is_positive ? 1.0 : -1.0) {}

    RoundedHull<2> rectangle(const Rectangle& r, double from_x = 0.0, double to_x = 1.0,
                             double from_top = 0.0, double to_bottom = 1.0) const {
        // Through the corners, so that neighbours meet at the same numbers.
        const Vec<2> a = point(static_cast<double>(r.first) + from_x, static_cast<double>(r.top) + from_top);
        const Vec<2> b =
            point(static_cast<double>(r.last) - 1.0 + to_x, static_cast<double>(r.bottom) - 1.0 + to_bottom);
        return RoundedHull<2>::hull({a, {b.x(), a.y()}, b, {a.x(), b.y()}});
    }

    RoundedHull<2> triangle(std::size_t column, std::size_t row, CellShape shape) const {
        const auto x = static_cast<double>(column);
        const auto y = static_cast<double>(row);
        const std::array<Vec<2>, 4> corner = {point(x, y), point(x + 1.0, y), point(x + 1.0, y + 1.0),
                                              point(x, y + 1.0)};  // around from the upper left
        switch (shape) {
            case CellShape::rise_right:
                return RoundedHull<2>::hull({corner[1], corner[2], corner[3]});
            case CellShape::rise_left:
                return RoundedHull<2>::hull({corner[0], corner[2], corner[3]});
            case CellShape::hang_right:
                return RoundedHull<2>::hull({corner[0], corner[1], corner[2]});
            default:
                return RoundedHull<2>::hull({corner[0], corner[1], corner[3]});
        }
    }

    RoundedHull<2> top(const Rectangle& run) const {
        return RoundedHull<2>::facet({point(static_cast<double>(run.first), static_cast<double>(run.top)),
                                      point(static_cast<double>(run.last), static_cast<double>(run.top))});
    }

  private:
    /// Columns from the left, rows from the top.
    Vec<2> point(double column, double row) const {
        const double y = up_ > 0.0 ? static_cast<double>(grid_.rows) - row : row;
        return grid_.corner + grid_.size * Vec<2>(column, y);
    }

    const CellGrid& grid_;
    double up_;
};

}  // namespace

void add_cells(LevelBuilder<2>& builder, const std::string& name, const CellGrid& grid,
               const std::vector<CellKind>& kinds) {
    const Vec<2>& up = builder.up();
    if (std::abs(up.y()) < 1.0 - tolerance::direction) {
        throw InvalidInput("a grid of cells needs an up of [0, 1] or [0, -1]");
    }
    if (grid.columns == 0 || grid.rows == 0 || grid.columns > most_cells / grid.rows) {
        throw InvalidInput("a grid of " + std::to_string(grid.columns) + " by " + std::to_string(grid.rows) +
                           " cells: expected at least 1 and at most " + std::to_string(most_cells) +
                           " cells");
    }
    if (grid.cells.size() != grid.columns * grid.rows) {
        throw InvalidInput("a grid of " + std::to_string(grid.columns) + " by " + std::to_string(grid.rows) +
                           " has " + std::to_string(grid.cells.size()) + " cells");
    }
    if (!(grid.size > 0.0) || !std::isfinite(grid.size) || !grid.corner.is_finite()) {
        throw InvalidInput("the size of a cell must be more than 0, and its place finite");
    }
    const CellBuilder make(grid, up.y() > 0.0);
    using Key = std::pair<std::string, bool>;  // layer, one-way
    std::map<Key, std::vector<RoundedHull<2>>> solids;
    for (const CellKind& kind : kinds) {
        if (kind.shape != CellShape::empty) solids[{kind.layer, kind.shape == CellShape::one_way}];
    }
    for (auto& [key, parts] : solids) {
        const auto shaped = [&, &layer = key.first](CellShape shape) {
            return [&, shape](std::uint8_t kind) {
                return kind < kinds.size() && kinds[kind].shape == shape && kinds[kind].layer == layer;
            };
        };
        const auto add = [&, &out = parts](CellShape shape, bool join_rows, auto make_part) {
            for (const Rectangle& r : merged(grid, join_rows, shaped(shape))) out.push_back(make_part(r));
        };
        if (key.second) {
            add(CellShape::one_way, false, [&](const Rectangle& r) { return make.top(r); });
            continue;
        }
        add(CellShape::full, true, [&](const Rectangle& r) { return make.rectangle(r); });
        add(CellShape::lower_half, false,
            [&](const Rectangle& r) { return make.rectangle(r, 0.0, 1.0, 0.5, 1.0); });
        add(CellShape::upper_half, false,
            [&](const Rectangle& r) { return make.rectangle(r, 0.0, 1.0, 0.0, 0.5); });
        for (std::size_t i = 0; i < grid.cells.size(); ++i) {
            if (grid.cells[i] >= kinds.size() || kinds[grid.cells[i]].layer != key.first) continue;
            const std::size_t column = i % grid.columns;
            const std::size_t row = i / grid.columns;
            const Rectangle cell{column, column + 1, row, row + 1};
            switch (kinds[grid.cells[i]].shape) {
                case CellShape::left_half:
                    parts.push_back(make.rectangle(cell, 0.0, 0.5));
                    break;
                case CellShape::right_half:
                    parts.push_back(make.rectangle(cell, 0.5, 1.0));
                    break;
                case CellShape::rise_right:
                case CellShape::rise_left:
                case CellShape::hang_right:
                case CellShape::hang_left:
                    parts.push_back(make.triangle(column, row, kinds[grid.cells[i]].shape));
                    break;
                default:
                    break;
            }
        }
    }
    std::erase_if(solids, [](const auto& solid) { return solid.second.empty(); });
    if (solids.empty()) throw InvalidInput("the grid has no solid cell");
    for (const auto& [key, parts] : solids) {
        const std::string full =
            solids.size() == 1 ? name : name + " (" + key.first + (key.second ? ", one-way)" : ")");
        builder.add_parts(full, key.first, parts);
        if (key.second) builder.one_way(up);
    }
}

}  // namespace hollow_probe
