// The truths that the signals of a rig claim, all at one place.
#pragma once

#include <vector>

#include "hollow_probe/rig/rig.hpp"
#include "hollow_probe/truth/answer.hpp"

namespace hollow_probe {

/// One bit a signal.
struct SignalTruths {
    std::uint64_t on = 0;
    std::uint64_t undecided = 0;
};

/// Asks every claim once. `asked(signal)` is the stance that a signal's claim is about; `known` is added to.
template <int D, class Asked>
SignalTruths truths_of_signals(const Level<D>& level, const Rig<D>& rig, const PlacedBody<D>& body,
                               const Vec<D>& heading, Asked asked, Known<D>& known) {
    const auto looks_ahead = [](Claim claim) {
        return claim == Claim::wall || claim == Claim::step || claim == Claim::ledge;
    };
    SignalTruths truths;
    bool looked = false;
    for (std::size_t i = 0; i < rig.signals.size(); ++i) {
        const Signal& signal = rig.signals[i];
        const auto set = [&](std::uint64_t& bits, bool on) { bits |= std::uint64_t{on} << i; };
        // Signals that claim the same have the same truth.
        std::size_t first = 0;
        while (rig.signals[first].claims != signal.claims || rig.signals[first].stance != signal.stance)
            ++first;
        if (first < i) {
            set(truths.on, (truths.on >> first & 1U) != 0);
            set(truths.undecided, (truths.undecided >> first & 1U) != 0);
            continue;
        }
        if (signal.claims == Claim::ground && known.ground) {
            set(truths.on, known.ground->on);
            set(truths.undecided, !known.ground->decided);
            continue;
        }
        if (looks_ahead(signal.claims) && !looked) {
            look_ahead<D>(level, body, heading, rig.intent, known);
            looked = true;
        }
        const TruthAnswer<D> truth = answer<D>(signal.claims, level, {body, heading, asked(i), &known},
                                               rig.intent, 0.0, Margins::left_out);
        set(truths.on, truth.on);
        set(truths.undecided, !truth.decided);
        if (signal.claims == Claim::ground) known.ground = static_cast<const Decision&>(truth);
    }
    return truths;
}

}  // namespace hollow_probe
