#include "motion/first_broken.hpp"

#include <algorithm>
#include <array>
#include <deque>
#include <map>

#include "hollow_probe/geometry/tolerances.hpp"
#include "hollow_probe/truth/fit.hpp"
#include "motion/playing.hpp"

namespace hollow_probe {
namespace {

/// Which solid a figure is about.
enum class Culprit { none, ground, ceiling, ahead, steep, overlapped, crossed };

/// What a figure can follow from.
struct Origin {
    const char* figure = "";
    Culprit culprit = Culprit::none;
    std::vector<ReflexKind> doing = {};    // reflexes that, acting, may bring it about
    std::vector<ReflexKind> lacking = {};  // … that, acting, would have kept it off
};

Origin origin_of(const std::string& figure) {
    using enum ReflexKind;
    static const std::vector<Origin> origins = {
        {"refused_jumps", Culprit::ground, {}, {permit_jump}},
        {"unearned_jumps", Culprit::none, {permit_jump}, {}},
        {"hang_time", Culprit::ceiling, {zero_fall, hold_height}, {stop_rise}},
        {"hover_time", Culprit::none, {zero_fall, hold_height, hug_ground}, {}},
        {"cling_time", Culprit::steep, {zero_fall, hold_height, hug_ground}, {press_down}},
        {"wall_gap", Culprit::ahead, {cancel_drive, cancel_axis}, {}},
        {"stuck_time", Culprit::ahead, {cancel_drive, cancel_axis, turn_back}, {lift_over}},
        {"deepest_clip",
         Culprit::overlapped,
         {lift_over, hug_ground, carry_along},
         {cancel_axis, cancel_drive, stop_rise, refuse_stance}},
        {"climb", Culprit::steep, {lift_over, hold_height, hug_ground, zero_fall, permit_jump}, {}},
        {"tunnels", Culprit::crossed, {lift_over, hug_ground, carry_along}, {cancel_axis, cancel_drive}},
        {"carried_drift", Culprit::ground, {}, {carry_along}},
        {"idle_drift", Culprit::ground, {hug_ground, carry_along}, {}},
        {"lost_take_offs", Culprit::none, {stop_rise, zero_fall, hold_height, press_down, hug_ground}, {}},
    };
    const auto found =
        std::find_if(origins.begin(), origins.end(), [&](const Origin& one) { return figure == one.figure; });
    return found == origins.end() ? Origin{} : *found;
}

/// Figures that count, and so begin with the first; others begin where they pass their limit.
bool counts(const std::string& figure) {
    static constexpr std::array names = {"refused_jumps",  "unearned_jumps", "tunnels",      "flicker",
                                         "lost_take_offs", "held_turns",     "crushed_ticks"};
    return std::any_of(names.begin(), names.end(), [&](const char* name) { return figure == name; });
}

bool is_of_wrong_ticks(const Expectation& expected) {
    return expected.figure == "missed_ticks" || expected.figure == "false_ticks";
}

/// One tick as it was read.
template <int D>
struct Read {
    TickRecord<D> tick;
    std::vector<Reading<D>> readings;
};

template <int D>
class Beginnings {
  public:
    Beginnings(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill)
        : rig_(rig), drill_(drill), parts_(level, rig), playing_(parts_, drill_, options_) {}

    std::vector<FirstBroken> of(const std::vector<Broken>& broken) {
        open_.clear();
        for (const Broken& one : broken) {
            if (drill_.expectations[one.expectation].kind == Expectation::Kind::most)
                open_.push_back(one.expectation);
        }
        before_ = {playing_.begin(), playing_.readings()};
        const auto ticks =
            static_cast<std::size_t>(std::ceil(drill_.seconds * drill_.tick_rate - tolerance::tick));
        for (std::size_t number = 0; number < ticks && !open_.empty(); ++number) {
            const TickRecord<D> tick = playing_.tick(number);
            now_ = {tick, playing_.readings()};
            note_air_jump();
            number_ = number;
            std::erase_if(open_, [&](std::size_t expectation) { return began(expectation); });
            before_ = now_;
        }
        // What waited for truth to come, in vain.
        playing_.finish();
        for (const std::size_t expectation : open_) {
            if (is_of_wrong_ticks(drill_.expectations[expectation])) tell_first_wrong(expectation);
        }
        std::sort(found_.begin(), found_.end(),
                  [](const FirstBroken& a, const FirstBroken& b) { return a.expectation < b.expectation; });
        return std::move(found_);
    }

  private:
    /// Notes an expectation that begins to be broken in this tick.
    bool began(std::size_t number) {
        const Expectation& expected = drill_.expectations[number];
        if (is_of_wrong_ticks(expected)) return went_wrong(number);
        const FigureEntry& entry = *find_figure(expected.figure);
        if (!entry.only_grows) return true;  // it is of the whole drill
        const double limit = counts(expected.figure) ? std::min(0.0, expected.limit) : expected.limit;
        if (!(value_of(entry, playing_.so_far(), expected.signal) > limit)) return false;
        FirstBroken first = here(number);
        if (is_of_signals(expected.figure)) first.signal = worst(entry, expected.signal);
        const Origin origin = origin_of(expected.figure);
        blame_reflex(origin, first);
        if (first.reflex.empty() && expected.figure == "climb" && air_jump_) {
            first.signal = air_jump_->signal;
            first.signal_on = air_jump_->signal_on;
            first.wrong = air_jump_->wrong;
            first.probe = air_jump_->probe;
            first.reflex = air_jump_->reflex;
            first.reflex_acts = true;
        }
        blame_solid(origin.culprit, first);
        if (first.solid.empty() && first.wrong == FirstBroken::Wrong::falsely)
            blame_probe(last_read(), rig_number(first.signal), false, true, first);
        found_.push_back(std::move(first));
        return true;
    }

    /// A climb can follow from a jump off what is no ground.
    void note_air_jump() {
        if (now_.tick.on_ground) air_jump_.reset();
        if (!now_.tick.jumped || before_.tick.on_ground) return;
        air_jump_ = here(0);
        blame_reflex(origin_of("unearned_jumps"), *air_jump_);
    }

    [[nodiscard]] FirstBroken here(std::size_t number) const {
        FirstBroken first;
        first.expectation = number;
        first.seconds = now_.tick.seconds;
        first.at.assign(now_.tick.anchor.data(), now_.tick.anchor.data() + D);
        return first;
    }

    [[nodiscard]] std::string worst(const FigureEntry& entry, const std::string& signal) const {
        if (!signal.empty()) return signal;
        std::string name;
        double most = 0.0;
        for (const SignalFigures& its : playing_.so_far().signals) {
            if (entry.of_signal(its) <= most) continue;
            most = entry.of_signal(its);
            name = its.name;
        }
        return name;
    }

    /// Whether the first tick at which one is missed, or false, is known: what may yet be forgiven is counted
    /// later only, and what is forgiven is no beginning.
    bool went_wrong(std::size_t number) {
        const Expectation& expected = drill_.expectations[number];
        const bool missed = expected.figure == "missed_ticks";
        const TickRecord<D>& tick = now_.tick;
        const SignalSet wrong = (tick.signals_on ^ tick.truths_on) & ~tick.undecided &
                                (missed ? tick.truths_on : tick.signals_on);
        const double early = rig_.intent.forgive.early;
        const auto ticks = static_cast<std::size_t>(std::min(early / playing_.tick_seconds(), 1e6) + 2.0);
        std::deque<Wrong>& wrongs = wrongs_[number];
        while (!wrongs.empty() && wrongs.front().tick + ticks < number_) wrongs.pop_front();
        for (std::size_t i = 0; i < rig_.signals.size(); ++i) {
            if (!wrong.has(i) || !is_about(expected, i)) continue;
            FirstBroken first = here(number);
            first.signal = rig_.signals[i].name;
            first.signal_on = !missed;
            first.wrong = missed ? FirstBroken::Wrong::missed : FirstBroken::Wrong::falsely;
            blame_probe(now_, i, missed, !missed, first);
            if (missed) first.solid = missed_solid(i);
            wrongs.push_back({number_, i, std::move(first)});
        }
        return tell_first_wrong(number);
    }

    [[nodiscard]] bool is_about(const Expectation& expected, std::size_t signal) const {
        return expected.signal.empty() || rig_.signals[signal].name == expected.signal;
    }

    bool tell_first_wrong(std::size_t number) {
        const bool missed = drill_.expectations[number].figure == "missed_ticks";
        for (Wrong& wrong : wrongs_[number]) {
            const SignalFigures& its = playing_.so_far().signals[wrong.signal];
            if ((missed ? its.first_missed : its.first_false) != wrong.tick) continue;
            found_.push_back(std::move(wrong.first));
            return true;
        }
        return false;
    }

    /// What reflexes of a tick went by.
    [[nodiscard]] const Read<D>& last_read() const {
        return playing_.actor().mounted().reads_before_move() ? now_ : before_;
    }

    [[nodiscard]] std::size_t rig_number(const std::string& signal) const {
        std::size_t number = 0;
        while (number < rig_.signals.size() && rig_.signals[number].name != signal) ++number;
        return number;
    }

    /// Of the reflexes it can follow from the first whose signal is wrong; else the first that acts, else the
    /// first that does not.
    void blame_reflex(const Origin& origin, FirstBroken& first) const {
        const TickRecord<D>& tick = last_read().tick;
        const BoundReflex* chosen = nullptr;
        bool chosen_acts = false;
        bool chosen_wrong = false;
        for (const BoundReflex& bound : parts_.reflexes) {
            const bool on = tick.signals_on.has(bound.signal);
            const bool acts = on != bound.reflex.when_off;
            const std::vector<ReflexKind>& kinds = acts ? origin.doing : origin.lacking;
            if (std::find(kinds.begin(), kinds.end(), bound.reflex.kind) == kinds.end()) continue;
            const bool wrong = on != tick.truths_on.has(bound.signal) && !tick.undecided.has(bound.signal);
            if (chosen != nullptr && std::pair(chosen_wrong, chosen_acts) >= std::pair(wrong, acts)) continue;
            chosen = &bound;
            chosen_acts = acts;
            chosen_wrong = wrong;
        }
        if (chosen == nullptr) return;
        const bool on = tick.signals_on.has(chosen->signal);
        first.reflex = name_of(chosen->reflex);
        first.reflex_acts = chosen_acts;
        first.signal = rig_.signals[chosen->signal].name;
        first.signal_on = on;
        if (chosen_wrong) first.wrong = on ? FirstBroken::Wrong::falsely : FirstBroken::Wrong::missed;
        blame_probe(last_read(), chosen->signal, !on, false, first);
    }

    /// The only probe of a signal that is off, or on; of one that is on, what it hit, if that is asked for.
    void blame_probe(const Read<D>& read, std::size_t signal, bool off, bool names_solid,
                     FirstBroken& first) const {
        if (signal >= rig_.signals.size()) return;
        const ReadingSet probes = probes_of_signal<D>(rig_, rig_.signals[signal].name);
        std::size_t such = 0;
        for (std::size_t p = 0; p < rig_.probes.size(); ++p) {
            const Reading<D>& reading = read.readings[p];
            if (!probes.has(p) || reading.on == off) continue;
            ++such;
            first.probe = rig_.probes[p].name;
            if (names_solid && reading.met && !reading.own_body)
                first.solid = parts_.level.solids()[reading.hit.solid].name;
        }
        if (such != 1) first.probe.clear();
    }

    [[nodiscard]] std::string missed_solid(std::size_t signal) const {
        if (!rig_.signals[signal].claims) return "";
        const Actor<D>& actor = playing_.actor();
        const auto question =
            question_of<D>(rig_, actor.mounted(), signal, actor.situation(), actor.anchor, actor.up());
        const auto truth = answer<D>(*rig_.signals[signal].claims, actor.level(), question, rig_.intent, 0.0,
                                     Margins::left_out);
        return truth.on && truth.piece ? name_of_solid(*truth.piece) : "";
    }

    [[nodiscard]] std::string name_of_solid(std::uint32_t piece) const {
        return parts_.level.solids()[parts_.level.solid_of(piece)].name;
    }

    void blame_solid(Culprit culprit, FirstBroken& first) const {
        if (const auto piece = piece_of(culprit)) first.solid = name_of_solid(*piece);
    }

    [[nodiscard]] std::optional<std::uint32_t> piece_of(Culprit culprit) const {
        const Actor<D>& actor = playing_.actor();
        switch (culprit) {
            case Culprit::none:
                return std::nullopt;
            case Culprit::ground:
                return playing_.ground_piece();
            case Culprit::ceiling: {
                const auto truth = ceiling<D>(actor.level(), actor.placed(), actor.intent());
                return truth.contact ? std::optional(truth.contact->piece) : std::nullopt;
            }
            case Culprit::ahead:
                return nearest_ahead();
            case Culprit::steep:
                return steepest_touched();
            case Culprit::overlapped:
                return clip<D>(actor.level(), actor.placed(), actor.intent()).piece;
            case Culprit::crossed: {
                const PlacedBody<D> from{actor.mounted().body.view(), before_.tick.anchor,
                                         actor.mounted().meets};
                return tunnel<D>(actor.level(), from, now_.tick.anchor - before_.tick.anchor, actor.intent())
                    .piece;
            }
        }
        return std::nullopt;
    }

    /// What is too steep to walk on and nearest along the drive.
    [[nodiscard]] std::optional<std::uint32_t> nearest_ahead() const {
        const Actor<D>& actor = playing_.actor();
        const Vec<D> drive = actor.across_up(now_.tick.drive);
        if (drive.norm() < 1e-9) return std::nullopt;
        std::optional<Contact<D>> nearest;
        const double reach = bounds_of(actor.mounted().body.view()).size().norm();
        for_each_contact(actor.level(), actor.placed(), drive.normalized(), reach, actor.intent().touch,
                         [&](const Contact<D>& contact) {
                             const double slope = degrees(angle_between<D>(contact.normal, actor.up()));
                             if (slope > actor.intent().steepest_footing_degrees &&
                                 (!nearest || contact.gap < nearest->gap))
                                 nearest = contact;
                         });
        return nearest ? std::optional(nearest->piece) : std::nullopt;
    }

    /// What the body touches that is steeper than footing: the nearest to upright, and no ceiling.
    [[nodiscard]] std::optional<std::uint32_t> steepest_touched() const {
        const Actor<D>& actor = playing_.actor();
        std::optional<std::uint32_t> steepest;
        double off = infinity;
        const LevelQuery<D> query{actor.mounted().body.view(), actor.anchor, actor.mounted().meets};
        for_each_neighbour<D>(
            actor.level(), query, actor.intent().touch, [&](const LevelNeighbour<D>& piece) {
                const double slope = degrees(angle_between<D>(piece.normal, actor.up()));
                if (slope <= actor.intent().steepest_footing_degrees || std::abs(slope - 90.0) >= off) return;
                off = std::abs(slope - 90.0);
                steepest = piece.piece;
            });
        return steepest;
    }

    const Rig<D>& rig_;
    const Drill<D>& drill_;
    StageParts<D> parts_;
    PlayOptions<D> options_;
    Playing<D> playing_;
    std::vector<std::size_t> open_;
    std::vector<FirstBroken> found_;
    Read<D> before_;
    Read<D> now_;
    /// A wrong tick that may turn out to be the first that counts.
    struct Wrong {
        std::size_t tick = 0;
        std::size_t signal = 0;
        FirstBroken first;
    };
    std::size_t number_ = 0;                           // of the tick
    std::map<std::size_t, std::deque<Wrong>> wrongs_;  // by expectation, the latest
    std::optional<FirstBroken> air_jump_;              // the last since the body stood
};

}  // namespace

template <int D>
std::vector<FirstBroken> first_broken(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill,
                                      const std::vector<Broken>& broken) {
    return Beginnings<D>(level, rig, drill).of(broken);
}

template std::vector<FirstBroken> first_broken<2>(const Level<2>&, const Rig<2>&, const Drill<2>&,
                                                  const std::vector<Broken>&);
template std::vector<FirstBroken> first_broken<3>(const Level<3>&, const Rig<3>&, const Drill<3>&,
                                                  const std::vector<Broken>&);

}  // namespace hollow_probe
