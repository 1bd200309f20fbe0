// The heights of a column at which something may change.
#pragma once

#include <vector>

#include "verify/surveyed.hpp"
#include "verify/turning_heights.hpp"

namespace hollow_probe {

/// A shape that a signal or a truth depends on, relative to the anchor: the body, what it sweeps, a probe.
template <int D>
struct Feeler {
    RoundedHull<D> shape;
    LayerSet layers = 0;
    std::vector<double> beyond;  // how far above and below a touch something changes, too
    bool of_probe = false;
    bool deep = false;          // whether something changes where it overlaps deeper than touch
    std::vector<double> tilts;  // angles from up of normals by which what it touches is told apart; radians
    std::optional<Turning<D>> inside;  // if it matters which way leads out of what it is inside of
};

/// What decides one facing's columns.
template <int D>
struct Feelers {
    Feelers(const Surveyed<D>& surveyed, std::size_t facing);

    std::vector<Feeler<D>> feelers;   // the body first
    std::vector<Turning<D>> turning;  // what is told apart by the angle of what is met
    Bounds<D> reach;                  // of all, along the axes of the facing: heading, up, right
    LayerSet layers = 0;              // of all
    std::vector<Vec<D>> lips;         // from the anchor: where what falls off there begins, or ends, to count
    std::vector<double> rises;  // heights above the anchor that the top of what is ahead is held against
};

/// One column, seen from the anchor at height 0.
struct ColumnHeights {
    std::vector<HeightSpan> clipped;  // anchors at which the body clips: apart, ascending
    std::vector<double> candidates;   // ascending; where something may change
    std::vector<HeightSpan> busy;     // heights at which something may be sensed or true: apart, ascending
    std::vector<double> rests;        // where the body, lowered, touches some piece
};

/// `foot` is the column's point at height 0. Heights outside `within` are left out.
template <int D>
ColumnHeights heights_of_column(const Surveyed<D>& surveyed, std::size_t facing, const Feelers<D>& feelers,
                                const Vec<D>& foot, const HeightSpan& within);

}  // namespace hollow_probe
