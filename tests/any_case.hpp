// Random levels, rigs and bodies of all kinds: what tests that look for a counterexample begin with.
#pragma once

#include <optional>
#include <string>

#include "hollow_probe/level/level.hpp"
#include "hollow_probe/rig/rig.hpp"
#include "scenes.hpp"

namespace scenes {

template <int D>
struct Case {
    std::optional<Level<D>> level;
    Rig<D> rig;
    std::string fault;
};

/// A few solids of masonry and grating, a bush that stops nobody and a one-way hatch; one probe, one signal
/// and one planted fault, which is named.
template <int D>
Case<D> random_case(Random& random);

/// Puts two probes in place of a case's, of which one starts where the other was stopped.
template <int D>
void let_follow(Random& random, Case<D>& made);

/// Has the rays and casts of a case pass over what they only brush, or meet squarely.
template <int D>
void let_refuse(Random& random, Case<D>& made);

/// Has a case feel by touch, by volume, by where it is to be, or by what stops it first on a slanting way.
template <int D>
void let_feel(Random& random, Case<D>& made);

/// Any body in any level, with one claim and any intent. Solids are of all kinds, some of them one-way, or
/// met by probes or by bodies alone.
template <int D>
Case<D> any_case(Random& random);

/// Solids of all kinds, some of which move, or are met by probes at times or from one side.
template <int D>
Level<D> changing_level(Random& random);

/// Such a level, and a body of one or two stances; up to three signals of several probes each, of all
/// kinds, with any of their options; rigs that remember.
template <int D>
Case<D> case_of_all_options(Random& random);

}  // namespace scenes
