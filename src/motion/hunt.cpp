#include "hollow_probe/motion/hunt.hpp"

#include <tbb/enumerable_thread_specific.h>
#include <tbb/task_arena.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <array>
#include <chrono>
#include <cmath>
#include <memory>
#include <set>
#include <unordered_map>
#include <unordered_set>

#include "geometry/parallel.hpp"
#include "geometry/random.hpp"
#include "motion/figure_table.hpp"
#include "motion/shrink.hpp"

namespace hollow_probe {
namespace {

/// All that a player can do.
template <int D>
struct Choices {
    std::vector<Vec<D>> drives;    // the last lets go
    std::vector<Vec<D>> headings;  // empty: they follow the drive
    std::vector<std::string> keys;
    std::vector<std::string> stances;  // empty: there is only one

    Choices(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill) {
        const Vec<D>& up = level.up();
        int across = 0;
        up.cwiseAbs().minCoeff(&across);
        const Vec<D> first = level_heading<D>(Vec<D>(Vec<D>::Unit(across)), up);
        if constexpr (D == 2) {
            drives = {first, Vec<2>(-first)};
        } else {
            const Vec<3> second = first.cross(up);
            for (int i = 0; i < 8; ++i) {
                const double angle = 0.25 * std::numbers::pi * i;
                drives.push_back(std::cos(angle) * first + std::sin(angle) * second);
            }
        }
        if (!drill.motion.turns) headings = drives;
        if (drill.motion.gravity == 0.0) {
            drives.push_back(up);
            drives.push_back(-up);
        }
        drives.push_back(Vec<D>(Vec<D>::Zero()));
        std::set<std::string> all;
        if (drill.motion.jump_speed > 0.0) all.insert("jump");
        for (const Cue<D>& cue : drill.cues) all.insert(cue.press);
        for (const Signal& signal : rig.signals) all.insert(signal.mute_after.event);
        for (const Probe<D>& probe : rig.probes) {
            if (probe.kind == ProbeKind::zone && probe.keeps == Keeps::until_used) all.insert(probe.used_by);
        }
        all.erase("");
        if (drill.motion.jump_speed == 0.0) all.erase("jump");
        keys = {all.begin(), all.end()};
        if (rig.body.stances.size() > 1) {
            for (const Stance<D>& stance : rig.body.stances) stances.push_back(stance.name);
        }
    }
};

/// Draws input sequences and changes them.
template <int D>
class Player {
  public:
    /// Nothing is done before `from` seconds.
    Player(const Choices<D>& choices, const Drill<D>& drill, double from, std::uint64_t seed)
        : choices_(choices), drill_(drill), from_(from), state_(seed) {}

    std::size_t below(std::size_t count) { return static_cast<std::size_t>(next_random(state_) % count); }

    std::vector<Cue<D>> fresh() {
        std::vector<Cue<D>> cues;
        cues.push_back(something());
        cues.back().at = from_;
        const std::size_t count = 1 + below(16);
        for (std::size_t i = 0; i < count; ++i) cues.push_back(something());
        return cues;
    }

    /// As it was up to `seconds`, and then something else for as long as `window`.
    std::vector<Cue<D>> continued(const std::vector<Cue<D>>& before, double seconds, double window) {
        std::vector<Cue<D>> cues;
        for (const Cue<D>& cue : before) {
            if (cue.at < seconds) cues.push_back(cue);
        }
        const std::size_t count = 1 + below(5);
        const auto ticks = static_cast<std::size_t>(window * drill_.tick_rate) + 1;
        for (std::size_t i = 0; i < count; ++i) {
            cues.push_back(something());
            cues.back().at = seconds + static_cast<double>(i == 0 ? 0 : below(ticks)) / drill_.tick_rate;
        }
        return cues;
    }

    std::vector<Cue<D>> changed(std::vector<Cue<D>> cues, const std::vector<Cue<D>>& other) {
        const std::size_t count = 1 + below(3);
        for (std::size_t i = 0; i < count; ++i) change(cues, other);
        return cues;
    }

  private:
    /// On a tick.
    double time() {
        const auto ticks = static_cast<std::size_t>((drill_.seconds - from_) * drill_.tick_rate);
        return from_ + static_cast<double>(below(std::max<std::size_t>(ticks, 1))) / drill_.tick_rate;
    }

    Cue<D> something() {
        Cue<D> cue;
        cue.at = time();
        const std::size_t kind = below(10);
        if (kind >= 6 && !choices_.keys.empty()) {
            cue.press = choices_.keys[below(choices_.keys.size())];
        } else if (kind == 5 && !choices_.stances.empty()) {
            cue.stance = choices_.stances[below(choices_.stances.size())];
        } else if (kind >= 3 && !choices_.headings.empty()) {
            cue.heading = choices_.headings[below(choices_.headings.size())];
        } else {
            cue.drive = choices_.drives[below(choices_.drives.size())];
            // Every fourth is a stick half pushed.
            if (below(4) == 0) *cue.drive *= 0.1 * static_cast<double>(1 + below(9));
        }
        return cue;
    }

    void change(std::vector<Cue<D>>& cues, const std::vector<Cue<D>>& other) {
        constexpr std::size_t most_cues = 64;
        const std::size_t kind = below(8);
        if (cues.empty() || (kind < 2 && cues.size() < most_cues)) {
            cues.push_back(something());
            return;
        }
        Cue<D>& cue = cues[below(cues.size())];
        if (kind == 2) {
            cue = something();
        } else if (kind == 3) {
            cues.erase(cues.begin() + (&cue - cues.data()));
        } else if (kind < 6) {
            // A little sooner or later.
            const double by = (static_cast<double>(below(41)) - 20.0) / drill_.tick_rate;
            cue.at = std::clamp(cue.at + by, from_, drill_.seconds);
        } else if (kind == 6 && !other.empty()) {
            // From some time on as another did.
            const double from = time();
            std::erase_if(cues, [&](const Cue<D>& own) { return own.at >= from; });
            for (const Cue<D>& its : other) {
                if (its.at >= from && cues.size() < most_cues) cues.push_back(its);
            }
        } else {
            const double at = cue.at;
            cue = something();
            cue.at = at;
        }
    }

    const Choices<D>& choices_;
    const Drill<D>& drill_;
    double from_;
    std::uint64_t state_;
};

/// The sequences that came nearest to breaking each expectation.
template <int D>
class Nearest {
  public:
    explicit Nearest(std::size_t expectations) : lists_(expectations) {}

    void offer(const std::vector<Cue<D>>& cues, const std::vector<double>& nearness) {
        constexpr std::size_t most = 8;
        for (std::size_t i = 0; i < lists_.size(); ++i) {
            auto& list = lists_[i];
            if (nearness[i] <= 0.0 || (list.size() == most && nearness[i] <= list.back().near)) continue;
            const auto place = std::find_if(list.begin(), list.end(),
                                            [&](const Kept& kept) { return kept.near < nearness[i]; });
            list.insert(place, {nearness[i], cues});
            if (list.size() > most) list.pop_back();
        }
    }

    /// One of some expectation's; null if there is none.
    const std::vector<Cue<D>>* pick(Player<D>& player) const {
        const auto& list = lists_[player.below(lists_.size())];
        return list.empty() ? nullptr : &list[player.below(list.size())].cues;
    }

    [[nodiscard]] double best(std::size_t expectation) const {
        return lists_[expectation].empty() ? 0.0 : lists_[expectation].front().near;
    }

  private:
    struct Kept {
        double near = 0.0;
        std::vector<Cue<D>> cues;
    };
    std::vector<std::vector<Kept>> lists_;
};

/// Inputs, and for how long.
template <int D>
struct Sequence {
    std::vector<Cue<D>> cues;
    double seconds = 0.0;
};

/// A state that differs from others in kind, and when a sequence came to it.
struct Visit {
    std::uint64_t kind = 0;
    double seconds = 0.0;
};

/// The kinds of states that a drill came through, each once: where the body was, by halves of its width, how
/// it rose or fell, its stance, and what signals and truths said; none before `from` seconds.
template <int D>
std::vector<Visit> kinds_in(const DrillRecord<D>& record, double width, const Vec<D>& up, double speed,
                            double from) {
    std::vector<Visit> visits;
    std::unordered_set<std::uint64_t> seen;
    for (const TickRecord<D>& tick : record.ticks) {
        if (tick.seconds < from) continue;
        std::uint64_t kind = 0;
        const auto mix = [&kind](double part) {
            kind ^= static_cast<std::uint64_t>(static_cast<std::int64_t>(std::floor(part)));
            kind = next_random(kind);
        };
        for (int axis = 0; axis < D; ++axis) mix(tick.anchor[axis] / width);
        mix(std::clamp(tick.velocity.dot(up) / speed, -1.0, 1.0));
        mix(static_cast<double>(tick.stance));
        for (std::size_t i = 0; i < record.figures.signals.size(); ++i)
            mix((tick.signals_on.has(i) ? 2.0 : 0.0) + (tick.truths_on.has(i) ? 1.0 : 0.0));
        mix(tick.contacts == 0 ? 0.5 : 1.5);
        if (seen.insert(kind).second) visits.push_back({kind, tick.seconds});
    }
    return visits;
}

/// States reached, by kind, to go on from: those that were gone on from least, first (the archive and the
/// choice by visits are those of A. Ecoffet et al., "First return, then explore", 2021).
template <int D>
class Archive {
  public:
    void offer(const Sequence<D>& sequence, const std::vector<Visit>& visits) {
        constexpr std::size_t most = 100'000;
        std::shared_ptr<const std::vector<Cue<D>>> cues;
        for (const Visit& visit : visits) {
            const auto known = numbers_.find(visit.kind);
            if (known != numbers_.end()) {
                Reached& reached = reached_[known->second];
                ++reached.seen;
                // A shorter way there.
                if (visit.seconds >= reached.seconds) continue;
                if (!cues) cues = std::make_shared<const std::vector<Cue<D>>>(sequence.cues);
                reached.cues = cues;
                reached.seconds = visit.seconds;
                continue;
            }
            if (reached_.size() == most) continue;
            if (!cues) cues = std::make_shared<const std::vector<Cue<D>>>(sequence.cues);
            numbers_.emplace(visit.kind, reached_.size());
            reached_.push_back({cues, visit.seconds, 1, 0});
        }
    }

    struct Reached {
        std::shared_ptr<const std::vector<Cue<D>>> cues;
        double seconds = 0.0;
        std::size_t seen = 0;
        std::size_t chosen = 0;
    };

    /// Of a few drawn at random the least known; null if there is none.
    const Reached* pick(Player<D>& player) {
        constexpr int drawn = 32;
        Reached* best = nullptr;
        const auto known = [](const Reached& r) { return 4 * r.chosen + std::min<std::size_t>(r.seen, 64); };
        for (int i = 0; i < drawn && !reached_.empty(); ++i) {
            Reached& one = reached_[player.below(reached_.size())];
            if (best == nullptr || known(one) < known(*best)) best = &one;
        }
        if (best != nullptr) ++best->chosen;
        return best;
    }

  private:
    std::unordered_map<std::uint64_t, std::size_t> numbers_;
    std::vector<Reached> reached_;
};

template <int D>
class Hunting {
  public:
    Hunting(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill, const HuntOptions& options)
        : level_(level),
          rig_(rig),
          drill_(drill),
          options_(options),
          choices_(level, rig, drill),
          player_(choices_, drill_, options.kept_seconds, options.seed),
          stages_([this] { return Stage<D>(level_, rig_); }) {
        std::erase_if(drill_.expectations,
                      [](const Expectation& e) { return e.kind == Expectation::Kind::reaches; });
        if (drill_.expectations.empty())
            throw InvalidInput(
                "nothing is expected that could be broken: expected most, least or never_reaches");
        if (!(options.kept_seconds >= 0.0) || options.kept_seconds >= drill.seconds)
            throw InvalidInput("what is kept of a drill must end before the drill does");
        for (const Cue<D>& cue : drill.cues) {
            if (cue.at < options.kept_seconds) kept_.push_back(cue);
        }
        nearest_ = Nearest<D>(drill_.expectations.size());
        width_ = 1.0 * rig.body.stances.front().shape.bounds().size().minCoeff();
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
        // The drill itself before all others.
        std::vector<Cue<D>> own = drill_.cues;
        std::erase_if(own, [&](const Cue<D>& cue) { return cue.at < options_.kept_seconds; });
        try_all({{std::move(own), drill_.seconds}});
        while (!result_.found && result_.ticks < options_.most_ticks && !(options_.stop && options_.stop()) &&
               (options_.most_seconds <= 0.0 || seconds() < options_.most_seconds)) {
            try_all(round());
            if (options_.progress) options_.progress({result_.drills, result_.ticks, nearest_of_all()});
        }
        result_.expectations = drill_.expectations;
        result_.nearest = nearest();
        if (result_.found) {
            result_.cues_before = result_.found->cues.size();
            result_.seconds_before = result_.found->seconds;
            result_.found = shrunk<D>(stages_.local(), *result_.found, result_.broken);
            result_.figures = stages_.local().play(*result_.found).figures;
        }
        return std::move(result_);
    }

  private:
    /// A quarter at random, a quarter changed a little from what came nearest to a limit, and half going on
    /// from states that few came to.
    std::vector<Sequence<D>> round() {
        constexpr std::size_t size = 96;
        std::vector<Sequence<D>> sequences;
        for (std::size_t i = 0; i < size; ++i) {
            if (i % 4 >= 2) {
                if (auto sequence = gone_on()) {
                    sequences.push_back(std::move(*sequence));
                    continue;
                }
            }
            const auto* const from = i % 4 == 0 ? nullptr : nearest_.pick(player_);
            const auto* const other = from == nullptr ? nullptr : nearest_.pick(player_);
            sequences.push_back({from == nullptr ? player_.fresh()
                                                 : player_.changed(*from, other == nullptr ? *from : *other),
                                 drill_.seconds});
        }
        return sequences;
    }

    std::optional<Sequence<D>> gone_on() {
        const auto* const from = archive_.pick(player_);
        if (from == nullptr || from->seconds >= drill_.seconds) return std::nullopt;
        const double window = 0.1 + 0.1 * static_cast<double>(player_.below(15));
        const double settles = 0.7;  // what was begun may come to something
        const double seconds =
            may_end_early_ ? std::min(drill_.seconds, from->seconds + window + settles) : drill_.seconds;
        return Sequence<D>{player_.continued(*from->cues, from->seconds, window), seconds};
    }

    /// In parallel; what comes of it is looked at in order.
    void try_all(const std::vector<Sequence<D>>& sequences) {
        struct Tried {
            std::vector<double> nearness;
            std::vector<Broken> broken;
            std::size_t ticks = 0;
            std::vector<Visit> visits;
        };
        std::vector<Tried> tried(sequences.size());
        const double speed = std::max(0.5 * drill_.motion.jump_speed, 1.0);
        for_each_index(sequences.size(), [&](std::size_t i) {
            Drill<D> drill = drill_;
            drill.cues = with_kept(sequences[i].cues);
            drill.seconds = sequences[i].seconds;
            auto record = stages_.local().play(drill);
            tried[i] = {std::move(record.nearness), std::move(record.broken), record.figures.ticks,
                        kinds_in<D>(record, width_, level_.up(), speed, options_.kept_seconds)};
        });
        for (std::size_t i = 0; i < tried.size(); ++i) {
            ++result_.drills;
            result_.ticks += tried[i].ticks;
            nearest_.offer(sequences[i].cues, tried[i].nearness);
            archive_.offer(sequences[i], tried[i].visits);
            if (tried[i].broken.empty() || result_.found) continue;
            result_.found = drill_;
            result_.found->cues = with_kept(sequences[i].cues);
            result_.found->seconds = sequences[i].seconds;
            result_.broken = tried[i].broken.front();
        }
    }

    [[nodiscard]] std::vector<Cue<D>> with_kept(const std::vector<Cue<D>>& cues) const {
        std::vector<Cue<D>> all = kept_;
        all.insert(all.end(), cues.begin(), cues.end());
        return all;
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
    Drill<D> drill_;            // without the expectations left aside
    std::vector<Cue<D>> kept_;  // what is done before the search begins
    const HuntOptions& options_;
    Choices<D> choices_;
    Player<D> player_;
    tbb::enumerable_thread_specific<Stage<D>> stages_;
    Nearest<D> nearest_{0};
    Archive<D> archive_;
    double width_ = 1.0;          // of a place: two are alike within it
    bool may_end_early_ = false;  // nothing expected is told at the end alone
    HuntResult<D> result_;
};

}  // namespace

template <int D>
HuntResult<D> hunt(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill,
                   const HuntOptions& options) {
    HuntResult<D> result;
    tbb::task_arena arena(options.threads > 0 ? options.threads : tbb::task_arena::automatic);
    arena.execute([&] { result = Hunting<D>(level, rig, drill, options).run(); });
    return result;
}

template HuntResult<2> hunt<2>(const Level<2>&, const Rig<2>&, const Drill<2>&, const HuntOptions&);
template HuntResult<3> hunt<3>(const Level<3>&, const Rig<3>&, const Drill<3>&, const HuntOptions&);

}  // namespace hollow_probe
