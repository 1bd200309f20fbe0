// A cause seen to explain one wrong verdict: its change, made alone, flips it.
#pragma once

#include <vector>

#include "hollow_probe/verify/advice.hpp"
#include "verify/changes/change.hpp"

namespace hollow_probe {

template <int D>
struct ProvenCause {
    CauseKind kind = CauseKind::unexplained;
    Change<D> change = {};
    double by = 0.0;                        // how far off, in level units, degrees or seconds
    double rank = 0.0;                      // the less, the likelier the cause meant: see causes/ranks.hpp
    std::vector<ProvenCause<D>> with = {};  // further changes, made together with this one
};

/// The rig with a cause's changes made, as a file with them written into it would be read. Nothing for a
/// change that is none to a rig.
template <int D>
std::optional<Rig<D>> with_change(const Rig<D>& rig, const ProvenCause<D>& cause);

/// Fills in what the change is in the words of a rig file.
template <int D>
void describe(const Level<D>& level, const Rig<D>& rig, const ProvenCause<D>& cause, CauseReport& report);

/// Gives a change another amount; how far off it says to be goes with it.
template <int D>
void set_amount(ProvenCause<D>& cause, double amount, double unchanged);

}  // namespace hollow_probe
