// The truths that the signals of a rig claim, all at one place.
#pragma once

#include <vector>

#include "hollow_probe/geometry/tolerances.hpp"
#include "hollow_probe/rig/mount.hpp"
#include "hollow_probe/truth/answer.hpp"
#include "hollow_probe/truth/ground.hpp"

namespace hollow_probe {

/// Helpers have none.
struct SignalTruths {
    SignalSet on;
    SignalSet undecided;
    /// Some claim is about what the body comes to, and there is something to come to: such truths change at
    /// more heights than those at which the body begins to touch something.
    bool hangs_on_way = false;
    /// … and about the top of it, of which still less is known beforehand.
    bool hangs_on_top = false;
};

template <int D>
PlacedBody<D> placed_body(const MountedRig<D>& mounted, const Vec<D>& anchor) {
    return {mounted.body.view(), anchor, mounted.meets, all_layers, mounted.faces == Faces::front};
}

/// The direction a claim is about; zero where the situation has none. What is claimed of the ground ahead is
/// claimed across up.
template <int D>
Vec<D> direction_toward(Toward toward, Claim claim, const Situation<D>& situation, const Vec<D>& up) {
    Vec<D> way = toward == Toward::heading ? situation.heading
                 : toward == Toward::drive ? situation.drive
                                           : situation.velocity;
    if (toward == Toward::heading) return way;
    if (claim != Claim::blocked) way -= way.dot(up) * up;
    const double length = way.norm();
    return length > tolerance::angle ? way / length : Vec<D>::zero();
}

/// What a signal's claim asks, the rig's anchor being there. The signal claims something.
template <int D>
TruthQuestion<D> question_of(const Rig<D>& rig, const MountedRig<D>& mounted, std::size_t signal,
                             const Situation<D>& situation, const Vec<D>& anchor, const Vec<D>& up) {
    TruthQuestion<D> question{
        placed_body<D>(mounted, anchor),
        direction_toward<D>(mounted.toward[signal], *rig.signals[signal].claims, situation, up),
        mounted.asked[signal].view()};
    question.body.of = mounted.of[signal];
    question.move = rig.intent.planned_move(situation.velocity.norm());
    return question;
}

/// Asks every claim once; `known` is added to.
template <int D>
SignalTruths truths_of_signals(const Level<D>& level, const Rig<D>& rig, const MountedRig<D>& mounted,
                               const Situation<D>& situation, const Vec<D>& anchor, Known<D>& known) {
    SignalTruths truths;
    known.ahead_reach = -infinity;
    for (std::size_t i = 0; i < rig.signals.size(); ++i) {
        const Signal& signal = rig.signals[i];
        if (!signal.claims) continue;
        const auto set = [&](SignalSet& which, bool on) { which.put(i, on); };
        // Signals that claim the same have the same truth.
        const auto same = [&](std::size_t k) {
            const Signal& other = rig.signals[k];
            return other.claims == signal.claims && other.stance == signal.stance &&
                   mounted.of[k] == mounted.of[i] && mounted.toward[k] == mounted.toward[i];
        };
        std::size_t first = 0;
        while (!same(first)) ++first;
        if (first < i) {
            set(truths.on, truths.on.has(first));
            set(truths.undecided, truths.undecided.has(first));
            continue;
        }
        if (signal.claims == Claim::ground && mounted.of[i] == all_layers) {
            if (!known.ground) known.ground = ground<D>(level, placed_body<D>(mounted, anchor), rig.intent);
            set(truths.on, known.ground->on);
            set(truths.undecided, !known.ground->decided);
            continue;
        }
        TruthQuestion<D> question = question_of<D>(rig, mounted, i, situation, anchor, level.up());
        question.known = &known;
        const bool looks_ahead =
            signal.claims == Claim::wall || signal.claims == Claim::step || signal.claims == Claim::ledge;
        const bool looked = known.ahead_reach >= 0.0 && known.ahead_toward == question.toward;
        if (looks_ahead && !looked && !question.toward.is_zero(0.0))
            look_ahead<D>(level, question.body, question.toward, rig.intent, known);
        if (signal.claims == Claim::drop && !known.ground)
            known.ground = ground<D>(level, placed_body<D>(mounted, anchor), rig.intent);
        truths.hangs_on_way = truths.hangs_on_way || signal.claims == Claim::blocked ||
                              (looks_ahead && !known.ahead.empty()) ||
                              (signal.claims == Claim::drop && known.ground->on);
        truths.hangs_on_top = truths.hangs_on_top || (signal.claims == Claim::ledge && !known.ahead.empty());
        const TruthAnswer<D> truth =
            answer<D>(*signal.claims, level, question, rig.intent, 0.0, Margins::left_out);
        set(truths.on, truth.on);
        set(truths.undecided, !truth.decided);
    }
    return truths;
}

/// The signals that claim nothing.
template <int D>
SignalSet helpers_of(const Rig<D>& rig) {
    SignalSet helpers;
    for (std::size_t i = 0; i < rig.signals.size(); ++i) helpers.put(i, !rig.signals[i].claims);
    return helpers;
}

}  // namespace hollow_probe
