#include "motion/tick_truth.hpp"

#include <algorithm>

#include "hollow_probe/rig/value.hpp"
#include "hollow_probe/truth/doubt.hpp"
#include "hollow_probe/truth/ground.hpp"
#include "hollow_probe/truth/value.hpp"
#include "rig/probes_of.hpp"

namespace hollow_probe {

template <int D>
TickTruth<D>::TickTruth(const Actor<D>& actor, const std::vector<Reading<D>>& readings)
    : actor_(actor), readings_(readings) {
    const auto& signals = actor.stage.rig.signals;
    for (std::size_t i = 0; i < signals.size(); ++i) scouts_.put(i, looks_before_move(signals[i]));
}

template <int D>
bool TickTruth<D>::looks_before_move(const Signal& signal) const {
    const Rig<D>& rig = actor_.stage.rig;
    return signal.claims == Claim::blocked &&
           any_probe_of<D>(rig, signal.members, [&](const Probe<D>& probe) {
               return probe.reads.value_or(rig.reads) == Reads::before_move;
           });
}

template <int D>
void TickTruth<D>::look_before_move(const Vec<D>& where, const Situation<D>& then, SignalSet signals_on) {
    before_move_ = {};
    const Rig<D>& rig = actor_.stage.rig;
    for (std::size_t i = 0; i < rig.signals.size(); ++i) {
        const SignalSet bit = SignalSet::of(i);
        if (!scouts_.has(i)) continue;
        const auto question = question_of<D>(rig, actor_.mounted(), i, then, where, actor_.up());
        const auto truth =
            answer<D>(Claim::blocked, actor_.level(), question, rig.intent, 0.0, Margins::left_out);
        if (truth.on) before_move_.on |= bit;
        const bool wrong = truth.on != (signals_on & bit).any();
        if (!truth.decided ||
            (wrong && in_doubt<D>(Claim::blocked, actor_.level(), question, rig.intent, truth.on)))
            before_move_.undecided |= bit;
    }
}

template <int D>
bool TickTruth<D>::has_seen() const {
    return seen_ && !actor_.stage.shifting && seen_->stance == actor_.stance &&
           seen_->anchor == actor_.anchor && seen_->velocity == actor_.velocity &&
           seen_->heading == actor_.heading && seen_->drive == actor_.drive;
}

template <int D>
void TickTruth<D>::see() {
    const auto standing = hollow_probe::ground<D>(actor_.level(), actor_.placed(), actor_.intent());
    known_.ground = standing;
    ground_ = {static_cast<const Decision&>(standing),
               standing.on && standing.contact ? std::optional(standing.contact->piece) : std::nullopt};
    seen_.emplace(Seen{actor_.anchor, actor_.velocity, actor_.heading, actor_.drive, actor_.stance});
    seen_->clip = clip<D>(actor_.level(), actor_.placed(), actor_.intent()).depth;
    seen_->truths = truths_of_signals<D>(actor_.level(), actor_.stage.rig, actor_.mounted(),
                                         actor_.situation(), actor_.anchor, known_);
    seen_->on_steep = touches_steep(seen_->contacts);
    seen_->under_ceiling = !ground_.on && ceiling<D>(actor_.level(), actor_.placed(), actor_.intent()).on;
}

template <int D>
void TickTruth<D>::look(TickRecord<D>& record, TickFacts& facts) {
    if (!has_seen()) see();
    record.on_ground = ground_.on;
    record.clip = seen_->clip;
    record.contacts = seen_->contacts;
    record.under_ceiling = seen_->under_ceiling;
    facts.on_steep = seen_->on_steep;
    const SignalTruths& truths = seen_->truths;
    const SignalSet helpers = helpers_of<D>(actor_.stage.rig);
    record.truths_on = (truths.on & ~scouts_) | before_move_.on | (record.signals_on & helpers);
    record.undecided = (truths.undecided & ~scouts_) | before_move_.undecided;
    const SignalSet wrong = (record.truths_on ^ record.signals_on) & ~record.undecided & ~scouts_;
    for (std::size_t i = 0; i < actor_.stage.rig.signals.size(); ++i) {
        if (wrong.has(i) && doubts(i)) record.undecided.put(i);
    }
    record.held = held(record.signals_on & last_on_ & ~record.truths_on);
    last_on_ = record.signals_on;
    facts.value_errors = value_errors(record);
    if (facts.stood_still && !actor_.drive.is_zero(0.0)) facts.wall_gap = gap_ahead();
}

template <int D>
TruthQuestion<D> TickTruth<D>::question(std::size_t signal) const {
    return question_of<D>(actor_.stage.rig, actor_.mounted(), signal, actor_.situation(), actor_.anchor,
                          actor_.up());
}

/// A wrong verdict that a shift by rounding flips is none.
template <int D>
bool TickTruth<D>::doubts(std::size_t signal) {
    if (!seen_->doubts_asked.has(signal)) {
        const Claim claim = *actor_.stage.rig.signals[signal].claims;
        seen_->doubts_asked.put(signal);
        seen_->in_doubt.put(signal, in_doubt<D>(claim, actor_.level(), question(signal), actor_.intent(),
                                                seen_->truths.on.has(signal)));
    }
    return seen_->in_doubt.has(signal);
}

/// Of signals that hold on to ground wrongly those that the larger touch excuses.
template <int D>
SignalSet TickTruth<D>::held(SignalSet wrong) const {
    Intent wider = actor_.intent();
    if (wider.forgive.hold <= wider.touch) return {};
    wider.touch = wider.forgive.hold;
    SignalSet result;
    for (std::size_t i = 0; i < actor_.stage.rig.signals.size(); ++i) {
        if (!wrong.has(i) || actor_.stage.rig.signals[i].claims != Claim::ground) continue;
        result.put(i, hollow_probe::ground<D>(actor_.level(), question(i).body, wider).on);
    }
    return result;
}

template <int D>
std::vector<double> TickTruth<D>::value_errors(const TickRecord<D>& record) const {
    std::vector<double> errors;
    for (std::size_t i = 0; i < actor_.stage.rig.signals.size(); ++i) {
        const Signal& signal = actor_.stage.rig.signals[i];
        if (signal.gives == Value::none) continue;
        errors.resize(i + 1, -1.0);
        if (!(record.signals_on & record.truths_on & ~record.undecided).has(i)) continue;
        const std::size_t probe = actor_.stage.value_probes[i];
        const auto read = read_value<D>(signal.gives, actor_.mounted().probes[probe], readings_[probe],
                                        actor_.anchor, actor_.up());
        const auto truth =
            true_value<D>(signal.gives, *signal.claims, actor_.level(), question(i), actor_.intent());
        if (read && truth) errors[i] = value_error<D>(signal.gives, *read, *truth);
    }
    return errors;
}

template <int D>
bool TickTruth<D>::touches_steep(std::uint32_t& count) const {
    bool steep = false;
    count = 0;
    const LevelQuery<D> query{actor_.mounted().body.view(), actor_.anchor, actor_.mounted().meets};
    for_each_neighbour<D>(actor_.level(), query, actor_.intent().touch, [&](const LevelNeighbour<D>& piece) {
        ++count;
        const double slope = degrees(angle_between<D>(piece.normal, actor_.up()));
        steep = steep || (slope > actor_.intent().steepest_footing_degrees &&
                          slope < 180.0 - actor_.intent().ceiling_within_degrees);
    });
    return steep;
}

template <int D>
double TickTruth<D>::gap_ahead() const {
    const Vec<D> level_drive = actor_.across_up(actor_.drive);
    if (level_drive.norm() < 1e-9) return infinity;
    double gap = infinity;
    const double reach = bounds_of(actor_.mounted().body.view()).size().norm();
    for_each_contact(actor_.level(), actor_.placed(), level_drive.normalized(), reach, actor_.intent().touch,
                     [&](const Contact<D>& contact) {
                         const double slope = degrees(angle_between<D>(contact.normal, actor_.up()));
                         if (slope > actor_.intent().steepest_footing_degrees)
                             gap = std::min(gap, contact.gap);
                     });
    return gap;
}

template class TickTruth<2>;
template class TickTruth<3>;

}  // namespace hollow_probe
