// What lies between two neighbouring columns: where verdicts change on the way from one to the other.
#pragma once

#include "verify/column.hpp"

namespace hollow_probe {

/// The verdicts' parts of a length or area.
using Measure = std::array<double, verdict_count>;

/// By signal: the heights of a column with each verdict.
template <int D>
std::vector<Measure> lengths_of(const DecidedColumn<D>& column, std::size_t signals);

/// Columns found between two, in order.
template <int D>
struct Between {
    std::vector<DecidedColumn<D>> found;
    std::vector<double> along;  // of those: 0 at the first end, 1 at the last
    double length = 0.0;        // from end to end
};

/// What is worth a column between two: that something wrong ends there; or any border, and that an end of
/// what is wrong does not run straight from one to the other.
enum class Seek { wrong_ends, borders };

/// Halves the way between two columns wherever those beside each other differ, until they are no farther
/// apart than Surveyed::border_width.
template <int D>
Between<D> search_between(const ColumnJudge<D>& judge, double border_width, double touch, Seek seek,
                          const DecidedColumn<D>& from, const DecidedColumn<D>& to);

/// Pairs of intervals of two neighbouring columns, wrong in some signal alike, whose heights meet.
/// `straight`: what is wrong was seen to run straight from one to the other where both have the same above
/// the same; then also those that take the same place in them, however steep.
template <int D>
std::vector<std::pair<std::size_t, std::size_t>> wrong_alike(const DecidedColumn<D>& a,
                                                             const DecidedColumn<D>& b, bool straight);

}  // namespace hollow_probe
