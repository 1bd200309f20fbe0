// What is found of a column as bytes: see geometry/bytes.hpp.
#pragma once

#include "geometry/bytes.hpp"
#include "verify/between_columns.hpp"
#include "verify/column_truth.hpp"

namespace hollow_probe {

template <class Archive, class Of>
void members(Archive& archive, NumberSet<Of>& set) {
    std::uint64_t bits = set.bits();
    archive(bits);
    if constexpr (Archive::reads) set = NumberSet<Of>::of_bits(bits);
}

template <class Archive>
void members(Archive& archive, HeightSpan& span) {
    archive(span.low);
    archive(span.high);
}

template <class Archive, int D>
void members(Archive& archive, SurveyPose<D>& pose) {
    members(archive, pose.anchor);
    archive(pose.above_rest);
    archive(pose.down);
    archive(pose.up);
    archive(pose.measure);
    archive(pose.facing);
    archive(pose.border);
    members(archive, pose.probes_on);
    for (SignalSet* set : {&pose.signals_on, &pose.truths_on, &pose.undecided, &pose.forgiven})
        members(archive, *set);
}

template <class Archive, int D>
void members(Archive& archive, Interval<D>& interval) {
    members(archive, interval.span);
    members(archive, interval.pose);
    members(archive, interval.further);
    archive(interval.after_gap);
}

template <class Archive, int D>
void members(Archive& archive, DecidedColumn<D>& column) {
    members(archive, column.place);
    members(archive, column.intervals);
    archive(column.asked);
}

template <class Archive, int D>
void members(Archive& archive, Between<D>& between) {
    members(archive, between.found);
    members(archive, between.along);
    archive(between.length);
}

template <class Archive>
void members(Archive& archive, TruthState& state) {
    members(archive, state.on);
    archive(state.clips);
}

template <class Archive, class State>
void members(Archive& archive, Stretch<State>& stretch) {
    members(archive, stretch.span);
    members(archive, stretch.state);
    archive(stretch.seen_at);
}

template <class Archive>
void members(Archive& archive, TruthColumn& column) {
    members(archive, column.taken);
    members(archive, column.busy);
    members(archive, column.rests);
    members(archive, column.candidates);
    archive(column.has_candidates);
    members(archive, column.stretches);
    members(archive, column.idle);
    archive(column.asked);
}

}  // namespace hollow_probe
