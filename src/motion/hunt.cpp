#include "hollow_probe/motion/hunt.hpp"

#include <tbb/enumerable_thread_specific.h>

#include <algorithm>
#include <array>
#include <chrono>
#include <unordered_set>

#include "geometry/parallel.hpp"
#include "hollow_probe/geometry/tolerances.hpp"
#include "motion/figure_table.hpp"
#include "motion/hunt_archive.hpp"
#include "motion/one_more.hpp"
#include "motion/shrink.hpp"

namespace hollow_probe {
namespace {

/// Inputs to be tried: from a moment on (null: from where the search begins), and until which tick.
template <int D>
struct Attempt {
    std::shared_ptr<const Moment<D>> from = nullptr;
    std::vector<Cue<D>> cues;
    std::size_t until = 0;
    bool is_whole = true;  // until the drill's end
};

/// What came of one.
template <int D>
struct Tried {
    std::vector<double> nearness;
    std::vector<Broken> broken;
    std::size_t played = 0;    // ticks
    std::size_t until = 0;     // tick
    std::vector<Cue<D>> cues;  // all of them, from the start
    std::vector<Visit<D>> visits;
};

/// Plays attempts, one after the other.
template <int D>
class Runner {
  public:
    Runner(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill)
        : parts_(level, rig), drill_(drill), playing_(parts_, drill_, options_) {
        options_.keep_ticks = false;
        (void)playing_.begin();
        begin_.emplace(playing_.keep(0));
    }

    /// After so many ticks of the drill as it is.
    Moment<D> moment_at(std::size_t ticks) {
        playing_.go_back(*begin_);
        for (std::size_t number = 0; number < ticks; ++number) playing_.watch(playing_.tick(number));
        return playing_.keep(ticks);
    }

    /// `kind` tells moments apart; those that `archive` does not know are kept. `is_lost` says where nothing
    /// more can come of it.
    template <class Kind, class Lost>
    Tried<D> run(const Moment<D>& from, const Attempt<D>& attempt, const HuntArchive<D>& archive, Kind kind,
                 Lost is_lost) {
        constexpr std::size_t most_kept = 16;
        constexpr std::size_t between = 3;  // ticks
        Tried<D> tried;
        playing_.go_back(from);
        std::vector<Cue<D>> cues = attempt.cues;
        std::stable_sort(cues.begin(), cues.end(),
                         [](const Cue<D>& a, const Cue<D>& b) { return a.at < b.at; });
        for (const Cue<D>& cue : cues) playing_.give(cue);
        std::unordered_set<std::uint64_t> seen;
        std::size_t kept = 0;
        std::size_t last_kept = 0;
        TickRecord<D> last;
        std::size_t number = from.ticks;
        while (number < attempt.until && !playing_.is_broken()) {
            last = playing_.tick(number++);
            playing_.watch(last);
            if (is_lost(last)) break;
            const std::uint64_t now = kind(last);
            if (!seen.insert(now).second) continue;
            Visit<D>& visit = tried.visits.emplace_back();
            visit.kind = now;
            visit.ticks = number;
            if (kept == most_kept || (kept > 0 && number < last_kept + between) || archive.knows(now))
                continue;
            // What else this attempt was to do is no part of the moment.
            Moment<D> moment = playing_.keep(number);
            moment.inputs.forget_what_comes();
            moment.beside = beside();
            visit.moment = std::make_shared<const Moment<D>>(std::move(moment));
            visit.near = nearness_now(last);
            for (std::size_t i = 0; i < visit.near.size(); ++i) {
                tried.nearness.resize(visit.near.size(), 0.0);
                tried.nearness[i] = std::max(tried.nearness[i], visit.near[i]);
            }
            ++kept;
            last_kept = number;
        }
        tried.played = number - from.ticks;
        tried.until = number;
        tried.cues = from.inputs.cues;
        tried.cues.insert(tried.cues.end(), cues.begin(), cues.end());
        tried.broken = playing_.broken();
        DrillRecord<D> record;
        playing_.conclude(last, record);
        tried.nearness.resize(record.nearness.size(), 0.0);
        for (std::size_t i = 0; i < record.nearness.size(); ++i)
            tried.nearness[i] = std::max(tried.nearness[i], record.nearness[i]);
        // Before its end a drill has broken only what is broken whatever comes.
        if (attempt.is_whole && tried.broken.empty()) tried.broken = std::move(record.broken);
        return tried;
    }

  private:
    /// Counts have a slope, too: how near they are to one more.
    [[nodiscard]] std::vector<double> nearness_now(const TickRecord<D>& tick) const {
        std::vector<double> near = playing_.nearness_now(tick);
        for (std::size_t i = 0; i < near.size(); ++i) {
            const Expectation& expected = drill_.expectations[i];
            near[i] += near_one_more<D>(playing_, tick, expected) / (std::max(expected.limit, 0.0) + 1.0);
        }
        return near;
    }

    [[nodiscard]] Vec<D> beside() const {
        const Actor<D>& actor = playing_.actor();
        Vec<D> away = Vec<D>::zero();
        if (D == 2) return away;  // there is only there and back
        double nearest = bounds_of(actor.mounted().body.view()).size().smallest();
        const LevelQuery<D> query{actor.mounted().body.view(), actor.anchor, actor.mounted().meets};
        for_each_neighbour<D>(actor.level(), query, nearest, [&](const LevelNeighbour<D>& piece) {
            const Vec<D> across = actor.across_up(piece.normal);
            if (across.norm() < 0.5 || piece.gap >= nearest) return;
            nearest = piece.gap;
            away = across.normalized();
        });
        return away;
    }

    StageParts<D> parts_;
    const Drill<D>& drill_;
    PlayOptions<D> options_;
    Playing<D> playing_;
    std::optional<Moment<D>> begin_;
};

/// The sequences that came nearest to breaking each expectation.
template <int D>
class Nearest {
  public:
    explicit Nearest(std::size_t expectations) : lists_(expectations), best_(expectations, 0.0) {}

    void offer(const std::vector<Cue<D>>& cues, const std::vector<double>& nearness) {
        constexpr std::size_t most = 8;
        for (std::size_t i = 0; i < lists_.size(); ++i) {
            best_[i] = std::max(best_[i], nearness[i]);
            auto& list = lists_[i];
            // Of equally near ones the latest stay: what everything is near to leads nowhere.
            if (nearness[i] <= 0.0 || (list.size() == most && nearness[i] < list.back().near)) continue;
            const auto place = std::find_if(list.begin(), list.end(),
                                            [&](const Kept& kept) { return kept.near <= nearness[i]; });
            list.insert(place, {nearness[i], cues});
            if (list.size() > most) list.pop_back();
        }
    }

    /// One of an expectation's; null if there is none.
    const std::vector<Cue<D>>* pick(std::size_t expectation, HuntPlayer<D>& player) const {
        const auto& list = lists_[expectation];
        return list.empty() ? nullptr : &list[player.below(list.size())].cues;
    }

    [[nodiscard]] double best(std::size_t expectation) const { return best_[expectation]; }

  private:
    struct Kept {
        double near = 0.0;
        std::vector<Cue<D>> cues;
    };
    std::vector<std::vector<Kept>> lists_;
    std::vector<double> best_;
};

template <int D>
class Hunting {
  public:
    Hunting(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill, const HuntOptions& options)
        : level_(level),
          rig_(rig),
          given_(drill),
          drill_(hunted(drill, options)),
          options_(options),
          choices_(level, rig, drill),
          player_(choices_, drill_, options.kept_seconds, options.seed),
          runners_([this] { return Runner<D>(level_, rig_, begun_); }),
          begun_(drill_),
          nearest_(drill_.expectations.size()),
          width_((D == 2 ? 0.5 : 1.0) * rig.body.stances.front().shape.bounds().size().smallest()),
          archive_(drill_.expectations.size(), width_) {
        std::erase_if(begun_.cues, [&](const Cue<D>& cue) { return cue.at >= options.kept_seconds; });
        own_ = drill_.cues;
        std::erase_if(own_, [&](const Cue<D>& cue) { return cue.at < options.kept_seconds; });
        lowest_ = lowest_of_all();
        last_tick_ = static_cast<std::size_t>(std::ceil(drill_.seconds * drill_.tick_rate - tolerance::tick));
        may_end_early_ = std::all_of(drill_.expectations.begin(), drill_.expectations.end(),
                                     [](const Expectation& expectation) {
                                         return expectation.kind == Expectation::Kind::never_reaches ||
                                                (expectation.kind == Expectation::Kind::most &&
                                                 find_figure(expectation.figure) != nullptr &&
                                                 find_figure(expectation.figure)->only_grows);
                                     });
    }

    HuntResult<D> run() {
        const auto begin = std::chrono::steady_clock::now();
        const auto seconds = [&] {
            return std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
        };
        const auto kept =
            static_cast<std::size_t>(std::floor(options_.kept_seconds * drill_.tick_rate + tolerance::tick));
        root_ = std::make_shared<const Moment<D>>(runners_.local().moment_at(kept));
        // The drill itself before all others.
        try_all({{nullptr, own_, last_tick_, true}});
        while (!result_.found && result_.ticks < options_.most_ticks && !(options_.stop && options_.stop()) &&
               (options_.most_seconds <= 0.0 || seconds() < options_.most_seconds)) {
            try_all(round());
            if (options_.progress) options_.progress({result_.drills, result_.ticks, nearest_of_all()});
        }
        result_.expectations = drill_.expectations;
        result_.is_goal = is_all_goals(given_.expectations);
        result_.nearest = nearest();
        if (result_.found) {
            Stage<D> stage(level_, rig_);
            result_.cues_before = result_.found->cues.size();
            result_.seconds_before = result_.found->seconds;
            result_.found = shrunk<D>(stage, *result_.found, result_.broken);
            result_.figures = stage.play(*result_.found).figures;
        }
        return std::move(result_);
    }

  private:
    static bool is_goal(const Expectation& expectation) {
        return expectation.kind == Expectation::Kind::reaches;
    }
    static bool is_all_goals(const std::vector<Expectation>& expectations) {
        return std::all_of(expectations.begin(), expectations.end(), is_goal);
    }

    /// Areas that are to be reached are sought where nothing else is expected: as if they never were to be.
    static Drill<D> hunted(Drill<D> drill, const HuntOptions& options) {
        if (!(options.kept_seconds >= 0.0) || options.kept_seconds >= drill.seconds)
            throw InvalidInput("what is kept of a drill must end before the drill does");
        if (drill.expectations.empty())
            throw InvalidInput("nothing is expected that could be broken or reached");
        if (is_all_goals(drill.expectations)) {
            for (Expectation& goal : drill.expectations) goal.kind = Expectation::Kind::never_reaches;
        } else {
            std::erase_if(drill.expectations, is_goal);
        }
        check(drill);
        for (Cue<D>& cue : drill.cues) cue.at += drill.phase / drill.tick_rate;
        drill.phase = 0.0;
        return drill;
    }

    /// The first few are drawn at random, every other one of them steady. Of the ticks played a sixth goes to
    /// such, a tenth to sequences that are changed a little from what came nearest, a tenth to every short
    /// sequence of presses from moments that came nearest; of the other attempts two of three go on from
    /// moments that few came to, the third from such as came nearest to breaking something, the expectations
    /// in turn.
    std::vector<Attempt<D>> round() {
        constexpr std::size_t opening = 16;  // what is easy is found by chance soonest
        // What the first came to is to be known to the next.
        const std::size_t size = std::clamp<std::size_t>(result_.drills / 2, opening, 96);
        std::vector<Attempt<D>> attempts;
        std::size_t ticks = result_.ticks;
        std::size_t at_random = ticks_at_random_;
        std::size_t changed = ticks_changed_;
        std::size_t at_every_tick = ticks_at_every_;
        const std::size_t whole = last_tick_ - root_->ticks;
        for (std::size_t i = 0; i < size; ++i) {
            if (options_.at_random || 6 * at_random < ticks || result_.drills + i < opening) {
                const bool is_steady = !options_.at_random && i % 2 == 0;
                attempts.push_back(
                    {nullptr, is_steady ? player_.steady(toward()) : player_.fresh(), last_tick_, true});
                at_random += whole;
                ticks += whole;
                continue;
            }
            turn_ = (turn_ + 1) % drill_.expectations.size();
            const std::vector<Cue<D>>* const like =
                10 * changed < ticks ? nearest_.pick(turn_, player_) : nullptr;
            if (like != nullptr) {
                const auto* const other = nearest_.pick(turn_, player_);
                attempts.push_back({nullptr, player_.changed(*like, *other), last_tick_, true});
                changed += whole;
                ticks += whole;
                continue;
            }
            if (10 * at_every_tick < ticks) {
                if (every_.empty()) look_closely();
                if (!every_.empty()) {
                    attempts.push_back(std::move(every_.back()));
                    every_.pop_back();
                    const std::size_t its = attempts.back().until - attempts.back().from->ticks;
                    at_every_tick += its;
                    ticks += its;
                    continue;
                }
            }
            auto from = i % 3 == 2 ? archive_.near(turn_, player_) : archive_.least_known(player_);
            if (from == nullptr || from->ticks >= last_tick_) from = root_;
            attempts.push_back(gone_on(from));
            ticks += attempts.back().until - from->ticks;
        }
        ticks_at_every_ = at_every_tick;
        ticks_at_random_ = at_random;
        ticks_changed_ = changed;
        return attempts;
    }

    /// From where the search begins to an area that is looked for, the areas in turn; zero where none is.
    Vec<D> toward() {
        turn_ = (turn_ + 1) % drill_.expectations.size();
        const Area<D>* const area = level_.find_area(drill_.expectations[turn_].area);
        if (area == nullptr) return Vec<D>::zero();
        Vec<D> way = area->box.center() - root_->anchor;
        if (drill_.motion.gravity > 0.0) way -= way.dot(level_.up()) * level_.up();
        return way.is_zero(tolerance::accuracy) ? Vec<D>::zero() : way.normalized();
    }

    /// A height below everything that a body could meet or come to, falling.
    [[nodiscard]] double lowest_of_all() const {
        if (!(drill_.motion.gravity > 0.0)) return -infinity;
        Bounds<D> all = level_.bounds();
        for (const Area<D>& area : level_.areas()) all.grow(area.box);
        const Bounds<D> still = all;
        for (const Solid<D>& solid : level_.solids()) {
            if (!solid.path) continue;
            for (const Vec<D>& stop : solid.path->stops) all.grow(still.moved(stop));
        }
        double lowest = infinity;
        for (int corner = 0; corner < 1 << D; ++corner) {
            Vec<D> point;
            for (int axis = 0; axis < D; ++axis)
                point[axis] = corner >> axis & 1 ? all.high[axis] : all.low[axis];
            lowest = std::min(lowest, point.dot(level_.up()));
        }
        return lowest - rig_.body.stances.front().shape.bounds().size().norm();
    }

    /// Every short sequence of presses from the nearest moment from which they were not tried yet.
    void look_closely() {
        const auto from = archive_.nearest_not_tried(turn_);
        if (from == nullptr || from->ticks >= last_tick_) return;
        const double seconds = static_cast<double>(from->ticks) / drill_.tick_rate;
        for (std::vector<Cue<D>>& cues : player_.every_few_presses(seconds)) {
            // What was begun may come to something.
            const auto ticks = static_cast<std::size_t>((cues.back().at - seconds + 0.5) * drill_.tick_rate);
            const std::size_t until =
                may_end_early_ ? std::min(last_tick_, from->ticks + ticks + 1) : last_tick_;
            every_.push_back({from, std::move(cues), until, until == last_tick_});
        }
        // The shortest are taken first.
        std::reverse(every_.begin(), every_.end());
    }

    Attempt<D> gone_on(const std::shared_ptr<const Moment<D>>& from) {
        const double seconds = static_cast<double>(from->ticks) / drill_.tick_rate;
        const double window = 0.1 + 1.4 * player_.part() * player_.part();
        // What was begun may come to something.
        const double settles = player_.below(3) == 0 ? 0.8 : 0.0;
        const auto ticks = static_cast<std::size_t>((window + settles) * drill_.tick_rate) + 1;
        const std::size_t until = may_end_early_ ? std::min(last_tick_, from->ticks + ticks) : last_tick_;
        return {from, player_.further(seconds, window, from->beside), until, until == last_tick_};
    }

    /// In parallel; what comes of it is looked at in order.
    void try_all(const std::vector<Attempt<D>>& attempts) {
        std::vector<Tried<D>> tried(attempts.size());
        const double speed = std::max(0.5 * drill_.motion.jump_speed, 1.0);
        const std::size_t signals = rig_.signals.size();
        for_each_index(attempts.size(), [&](std::size_t i) {
            const Attempt<D>& attempt = attempts[i];
            tried[i] = runners_.local().run(
                attempt.from == nullptr ? *root_ : *attempt.from, attempt, archive_,
                [&](const TickRecord<D>& tick) {
                    return kind_of<D>(tick, signals, width_, level_.up(), speed);
                },
                [&](const TickRecord<D>& tick) {
                    return may_end_early_ && tick.anchor.dot(level_.up()) < lowest_;
                });
        });
        for (Tried<D>& one : tried) {
            // What came after it in its round is none of the search that found it.
            if (result_.found) break;
            ++result_.drills;
            result_.ticks += one.played;
            std::vector<Cue<D>> cues = one.cues;
            std::erase_if(cues, [&](const Cue<D>& cue) { return cue.at < options_.kept_seconds; });
            nearest_.offer(cues, one.nearness);
            if (!options_.at_random) {
                for (const Visit<D>& visit : one.visits) archive_.offer(visit);
            }
            if (one.broken.empty()) continue;
            result_.found = drill_;
            result_.found->cues = std::move(one.cues);
            result_.found->seconds = static_cast<double>(one.until) * (1.0 / drill_.tick_rate);
            result_.broken = one.broken.front();
        }
    }

    [[nodiscard]] std::vector<double> nearest() const {
        std::vector<double> all;
        for (std::size_t i = 0; i < drill_.expectations.size(); ++i) all.push_back(nearest_.best(i));
        return all;
    }
    [[nodiscard]] double nearest_of_all() const {
        const auto all = nearest();
        return *std::max_element(all.begin(), all.end());
    }

    const Level<D>& level_;
    const Rig<D>& rig_;
    const Drill<D>& given_;
    Drill<D> drill_;  // as it is hunted with
    const HuntOptions& options_;
    HuntChoices<D> choices_;
    HuntPlayer<D> player_;
    tbb::enumerable_thread_specific<Runner<D>> runners_;
    Drill<D> begun_;                         // what is done before the search begins
    std::vector<Cue<D>> own_;                // … and after, in the drill itself
    std::shared_ptr<const Moment<D>> root_;  // where it begins
    std::size_t last_tick_ = 0;
    Nearest<D> nearest_;
    double width_;  // of a place: two are alike within it
    HuntArchive<D> archive_;
    double lowest_ = -infinity;   // the body is lost below it
    bool may_end_early_ = false;  // nothing expected is told at the end alone
    std::size_t turn_ = 0;        // the expectation that is looked at now
    std::size_t ticks_at_random_ = 0;
    std::size_t ticks_changed_ = 0;
    std::vector<Attempt<D>> every_;  // all short sequences of presses from one moment that are left to try
    std::size_t ticks_at_every_ = 0;
    HuntResult<D> result_;
};

}  // namespace

template <int D>
HuntResult<D> hunt(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill,
                   const HuntOptions& options) {
    return on_threads(options.threads, [&] { return Hunting<D>(level, rig, drill, options).run(); });
}

template HuntResult<2> hunt<2>(const Level<2>&, const Rig<2>&, const Drill<2>&, const HuntOptions&);
template HuntResult<3> hunt<3>(const Level<3>&, const Rig<3>&, const Drill<3>&, const HuntOptions&);

}  // namespace hollow_probe
