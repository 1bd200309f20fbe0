// What a drill came to, in numbers.
#pragma once

#include <cstdint>
#include <limits>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "hollow_probe/level/claim.hpp"

namespace hollow_probe {

/// Of one signal.
struct SignalFigures {
    std::string name;
    std::optional<Claim> claims = Claim::ground;  // empty: a helper, not judged
    std::size_t missed_ticks = 0;
    std::size_t false_ticks = 0;
    std::size_t undecided_ticks = 0;
    std::size_t forgiven_ticks = 0;   // wrong within what the intent forgives: neither missed nor false
    std::size_t onset_latency = 0;    // ticks from truth turning on to the signal's turning on, at worst
    std::size_t release_latency = 0;  // … off
    std::size_t flicker = 0;          // changes of the signal while truth stood still
    std::size_t changes = 0;          // of the signal, in all
    double value_error = 0.0;         // of the value it gives, at worst, while it is rightly on
    /// The first ticks that are missed and false, counted from the first that is played.
    std::optional<std::size_t> first_missed;
    std::optional<std::size_t> first_false;
};

struct DrillFigures {
    std::size_t ticks = 0;
    std::vector<SignalFigures> signals;
    std::size_t jumps = 0;           // given
    std::size_t refused_jumps = 0;   // asked for on true ground, not given
    std::size_t unearned_jumps = 0;  // given off true ground
    std::size_t lost_presses = 0;    // that no tick was told of
    std::size_t double_presses = 0;  // that more than one tick was told of
    double hang_time = 0.0;          // s: the longest under a ceiling, off the ground, without falling
    double hover_time = 0.0;         // s: the longest in the air, touching nothing, without falling or rising
    double cling_time = 0.0;         // s: … held by what is too steep to stand on, by friction or a reflex
    double idle_drift = 0.0;         // how far a body at rest on the ground, not driven, moved all the same
    std::size_t lost_take_offs = 0;  // jumps given whose speed was gone a tick later, under no ceiling
    double wall_gap = 0.0;           // the widest at which the body, driven against a wall, stood still
    double deepest_clip = 0.0;
    std::size_t tunnels = 0;  // ticks on whose way the body crossed a piece that neither end shows
    double climb = 0.0;       // height gained over ground too steep, beyond what a jump gives
    double bumpiness =
        0.0;               // RMS vertical acceleration of the anchor over thirtieths of a second, jumps aside
    double headway = 1.0;  // distance covered along the drive ÷ what its top speed would
    double stuck_time = 0.0;         // s: the longest driven without getting on
    double carried_drift = 0.0;      // how far a moving solid it stood on left the body behind, at worst
    std::size_t endless_creeps = 0;  // creeps that could not have ended
    std::size_t held_turns = 0;      // ticks at which there was no room to turn as far as it was to
    std::size_t crushed_ticks = 0;   // on which moving solids left no room
};

/// The names by which expectations call figures: "missed_ticks", …
std::span<const char* const> figure_names();
/// Whether a figure is one of each signal.
bool is_of_signals(const std::string& name);
/// The figure of that name; of signals the greatest, or that of the one named. NaN for one there is not.
double figure(const DrillFigures& figures, const std::string& name, const std::string& signal = {});

}  // namespace hollow_probe
