// What is true at the end of a tick.
#pragma once

#include "hollow_probe/motion/play.hpp"
#include "hollow_probe/truth/answer.hpp"
#include "motion/figure_keeper.hpp"
#include "motion/stage_parts.hpp"
#include "verify/signal_truths.hpp"

namespace hollow_probe {

template <int D>
class TickTruth {
  public:
    /// `readings` are those last made.
    TickTruth(const Actor<D>& actor, const std::vector<Reading<D>>& readings);

    struct Ground : Decision {
        std::optional<std::uint32_t> piece;  // that it is
    };
    /// As of the last look.
    [[nodiscard]] const Ground& ground() const { return ground_; }

    /// Of signals that tell before a move whether it is blocked: the truth where they were read, and then.
    void look_before_move(const Vec<D>& where, const Situation<D>& then, SignalSet signals_on);

    /// Looks at the truths that the rig's signals claim, and at those that figures need.
    void look(TickRecord<D>& record, TickFacts& facts);

    struct State {
        Ground ground;
        SignalTruths before_move;
        SignalSet last_on;
    };
    [[nodiscard]] State keep() const { return {ground_, before_move_, last_on_}; }
    void go_back(const State& state) {
        seen_.reset();
        ground_ = state.ground;
        before_move_ = state.before_move;
        last_on_ = state.last_on;
    }

  private:
    [[nodiscard]] TruthQuestion<D> question(std::size_t signal) const;
    [[nodiscard]] bool looks_before_move(const Signal& signal) const;
    [[nodiscard]] SignalSet held(SignalSet wrong) const;
    [[nodiscard]] bool doubts(std::size_t signal);
    /// How far the values that signals give are from truth, where they are rightly on.
    [[nodiscard]] std::vector<double> value_errors(const TickRecord<D>& record) const;
    [[nodiscard]] bool touches_steep(std::uint32_t& count) const;
    /// To the nearest thing along the drive that is too steep to walk on.
    [[nodiscard]] double gap_ahead() const;

    /// What was found, and of which body: it is not asked again while neither that nor the level moves.
    struct Seen {
        Vec<D> anchor;
        Vec<D> velocity;
        Vec<D> heading;
        Vec<D> drive;
        std::size_t stance = 0;
        SignalTruths truths = {};
        double clip = 0.0;
        std::uint32_t contacts = 0;
        bool on_steep = false;
        bool under_ceiling = false;
        SignalSet doubts_asked = {};
        SignalSet in_doubt = {};
    };
    [[nodiscard]] bool has_seen() const;
    void see();

    const Actor<D>& actor_;
    const std::vector<Reading<D>>& readings_;
    Ground ground_;
    Known<D> known_;
    SignalSet scouts_;          // signals that tell before a move whether it is blocked
    SignalTruths before_move_;  // theirs
    SignalSet last_on_;         // signals, at the last look
    std::optional<Seen> seen_;
};

extern template class TickTruth<2>;
extern template class TickTruth<3>;

}  // namespace hollow_probe
