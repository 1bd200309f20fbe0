#include "hollow_probe/motion/drill_cures.hpp"

#include <algorithm>
#include <cmath>

#include "geometry/parallel.hpp"
#include "hollow_probe/rig/settings.hpp"
#include "motion/change_cause.hpp"
#include "motion/first_broken.hpp"
#include "verify/roundest.hpp"

namespace hollow_probe {

WrongTicks wrong_ticks(const DrillFigures& figures) {
    WrongTicks wrong;
    for (const SignalFigures& signal : figures.signals) {
        wrong.missed += signal.missed_ticks;
        wrong.falsely += signal.false_ticks;
    }
    return wrong;
}

namespace {

/// A change that does something, and the rig with it made.
template <int D>
struct Found {
    DrillCure cure;
    std::optional<Rig<D>> rig;
};

/// A setting's values, and what becomes of the drill with each.
template <int D>
class Trial {
  public:
    Trial(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill, const std::vector<Broken>& broken,
          const WrongTicks& before, const Setting<D>& setting)
        : level_(level), rig_(rig), drill_(drill), broken_(broken), before_(before), setting_(setting) {}

    /// Everything that mends something, or makes fewer ticks wrong: for a number the best on each side.
    std::vector<Found<D>> run(int steps) {
        std::vector<Found<D>> cures;
        if (!setting_.now) {
            for (std::size_t i = 0; i < setting_.choices; ++i) {
                if (auto cure = with(static_cast<double>(i)); cure && does_something(*cure)) {
                    cure->effort = 0.25;
                    cures.push_back({std::move(*cure), setting_.with(rig_, static_cast<double>(i))});
                }
            }
            return cures;
        }
        for (const double side : {1.0, -1.0}) {
            if (auto found = towards(side, steps)) cures.push_back(std::move(*found));
        }
        return cures;
    }

  private:
    /// What the drill comes to with the setting so.
    std::optional<DrillCure> with(double x) const {
        const std::optional<Rig<D>> changed = setting_.with(rig_, x);
        if (!changed) return std::nullopt;
        PlayOptions<D> quick;
        quick.keep_ticks = false;
        DrillCure cure;
        try {
            const auto record = play<D>(level_, *changed, drill_, quick);
            cure.after = wrong_ticks(record.figures);
            const auto has = [](const std::vector<Broken>& list, std::size_t number) {
                return std::any_of(list.begin(), list.end(),
                                   [&](const Broken& one) { return one.expectation == number; });
            };
            for (std::size_t i = 0; i < drill_.expectations.size(); ++i) {
                if (has(broken_, i) && !has(record.broken, i)) cure.mends.push_back(i);
                if (!has(broken_, i) && has(record.broken, i)) cure.spoils.push_back(i);
            }
        } catch (const InvalidInput&) {
            return std::nullopt;
        }
        cure.before = before_;
        cure.table = setting_.table;
        cure.name = setting_.name;
        cure.key = setting_.key;
        cure.now = setting_.text(rig_);
        cure.then = setting_.text(*changed);
        cure.edits = differences<D>(rig_, *changed);
        if (const auto cause = cause_of(cure, setting_.now ? x - *setting_.now : 0.0, farther(*changed)))
            cure.cause = name_of(*cause);
        return cure;
    }

    /// By how much a line that starts elsewhere than before ends farther along its way; 0 for other changes.
    [[nodiscard]] double farther(const Rig<D>& changed) const {
        if (setting_.table != "probe") return 0.0;
        for (std::size_t i = 0; i < rig_.probes.size(); ++i) {
            const Probe<D>& probe = rig_.probes[i];
            const Vec<D>* const from = from_of(probe);
            if (probe.name == setting_.name && from != nullptr)
                return (*from_of(changed.probes[i]) - *from).dot(along_of(probe)->normalized());
        }
        return 0.0;
    }

    [[nodiscard]] static bool does_something(const DrillCure& cure) {
        return !cure.mends.empty() || cure.after.all() < cure.before.all();
    }

    /// A value, and what it does; nothing for one that cannot be.
    struct Tried {
        double x = 0.0;
        std::optional<DrillCure> cure;
    };

    /// More mended less spoiled, then fewer wrong ticks.
    static bool better(const std::optional<DrillCure>& a, const std::optional<DrillCure>& b) {
        if (!a || !b) return a.has_value() && !b.has_value();
        const auto worth = [](const DrillCure& cure) {
            return static_cast<double>(cure.mends.size()) - static_cast<double>(cure.spoils.size());
        };
        if (worth(*a) != worth(*b)) return worth(*a) > worth(*b);
        return a->after.all() < b->after.all();
    }

    static std::size_t best_of(const std::vector<Tried>& tried) {
        std::size_t best = 0;
        for (std::size_t i = 1; i < tried.size(); ++i) {
            if (better(tried[i].cure, tried[best].cure)) best = i;
        }
        return best;
    }

    /// Whether a value mends all that `like` does, and breaks no more; where that mends nothing, whether as
    /// few ticks are wrong.
    [[nodiscard]] bool does_as(double x, const DrillCure& like) const {
        const auto cure = with(x);
        return cure && as(*cure, like);
    }
    static bool as(const DrillCure& cure, const DrillCure& like) {
        if (like.mends.empty() && cure.after.all() > like.after.all()) return false;
        return std::includes(cure.mends.begin(), cure.mends.end(), like.mends.begin(), like.mends.end()) &&
               std::includes(like.spoils.begin(), like.spoils.end(), cure.spoils.begin(), cure.spoils.end());
    }

    /// Between one value that does and one that does not: the last that does.
    [[nodiscard]] double border(double does, double does_not, const DrillCure& like) const {
        constexpr int halvings = 12;
        for (int i = 0; i < halvings; ++i) {
            const double middle = 0.5 * (does + does_not);
            (does_as(middle, like) ? does : does_not) = middle;
        }
        return does;
    }

    /// Values farther and farther to one side, to the limit at most.
    std::vector<Tried> scan(double side, int steps) const {
        const double now = *setting_.now;
        std::vector<Tried> tried = {{now, with(now)}};
        std::vector<double> parts;  // of how far is far
        const bool ends_soon = setting_.limits.most - setting_.limits.least <= 2.0 * setting_.scale;
        if (ends_soon) parts = {2.0, 1.5};  // angles
        for (int i = 0; i < steps; ++i) parts.push_back(std::pow(0.5, i));
        std::reverse(parts.begin(), parts.end());
        for (const double part : parts) {
            const double x =
                std::clamp(now + side * setting_.scale * part, setting_.limits.least, setting_.limits.most);
            if (x == tried.back().x) break;
            tried.push_back({x, with(x)});
        }
        return tried;
    }

    /// Looks closer around the best value.
    void refine(std::vector<Tried>& tried) const {
        constexpr int rounds = 3;
        constexpr int parts = 4;
        for (int round = 0; round < rounds; ++round) {
            const std::size_t best = best_of(tried);
            const std::size_t low = best > 0 ? best - 1 : best;
            const std::size_t high = std::min(best + 1, tried.size() - 1);
            std::vector<Tried> closer;
            for (std::size_t i = low; i < high; ++i) {
                for (int k = 1; k < parts; ++k) {
                    const double x = tried[i].x + (tried[i + 1].x - tried[i].x) * k / parts;
                    closer.push_back({x, with(x)});
                }
            }
            const double now = *setting_.now;
            tried.insert(tried.end(), closer.begin(), closer.end());
            std::sort(tried.begin(), tried.end(), [&](const Tried& a, const Tried& b) {
                return std::abs(a.x - now) < std::abs(b.x - now);
            });
        }
    }

    std::optional<Found<D>> towards(double side, int steps) const {
        const double now = *setting_.now;
        if (setting_.whole) return next_count(side);
        std::vector<Tried> tried = scan(side, steps);
        const bool matters = std::any_of(tried.begin(), tried.end(), [](const Tried& one) {
            return one.cure && does_something(*one.cure);
        });
        if (!matters) return std::nullopt;
        refine(tried);
        const std::size_t best = best_of(tried);
        if (!tried[best].cure || !does_something(*tried[best].cure)) return std::nullopt;
        const DrillCure like = *tried[best].cure;
        const auto does = [&](std::size_t i) { return tried[i].cure && as(*tried[i].cure, like); };
        std::size_t first = best;
        while (first > 0 && does(first - 1)) --first;
        std::size_t last = best;
        while (last + 1 < tried.size() && does(last + 1)) ++last;
        const double near = first == 0 ? tried[0].x : border(tried[first].x, tried[first - 1].x, like);
        double beyond = side * infinity;
        if (last + 1 < tried.size()) {
            beyond = border(tried[last].x, tried[last + 1].x, like);
        } else if (tried[last].x == setting_.limits.least || tried[last].x == setting_.limits.most) {
            beyond = tried[last].x;
        }
        const double end = std::isfinite(beyond) ? beyond : tried[last].x;
        double chosen = roundest_between(near + 0.1 * (end - near), near + 0.6 * (end - near));
        auto cure = with(chosen);
        const auto is_as_good = [&] {
            return cure && as(*cure, like) && cure->after.all() <= like.after.all();
        };
        if (!is_as_good()) {
            chosen = round_near_best(tried, best, like);
            cure = with(chosen);
        }
        if (!is_as_good()) {
            chosen = tried[best].x;
            cure = like;
        }
        cure->between = {std::min(near, beyond), std::max(near, beyond)};
        cure->effort = std::abs(chosen - now) / setting_.scale;
        return Found<D>{std::move(*cure), setting_.with(rig_, chosen)};
    }

    /// Within what was tried around the best value and does as well.
    static double round_near_best(const std::vector<Tried>& tried, std::size_t best, const DrillCure& like) {
        const auto as_good = [&](std::size_t i) {
            return tried[i].cure && as(*tried[i].cure, like) &&
                   tried[i].cure->after.all() <= like.after.all();
        };
        std::size_t low = best;
        while (low > 0 && as_good(low - 1)) --low;
        std::size_t high = best;
        while (high + 1 < tried.size() && as_good(high + 1)) ++high;
        const double width = tried[high].x - tried[low].x;
        return roundest_between(tried[low].x + 0.1 * width, tried[high].x - 0.1 * width);
    }

    std::optional<Found<D>> next_count(double side) const {
        const double now = *setting_.now;
        for (double x = now + side; std::abs(x - now) <= setting_.scale; x += side) {
            if (auto cure = with(x); cure && does_something(*cure)) {
                cure->effort = 0.25 * std::abs(x - now);
                return Found<D>{std::move(*cure), setting_.with(rig_, x)};
            }
        }
        return std::nullopt;
    }

    const Level<D>& level_;
    const Rig<D>& rig_;
    const Drill<D>& drill_;
    const std::vector<Broken>& broken_;
    const WrongTicks& before_;
    const Setting<D>& setting_;
};

/// What the cures that keep each expectation say is wrong.
void add_causes(DrillWhy& why) {
    const auto keeps = [](const DrillCure& cure, std::size_t expectation) {
        return std::find(cure.mends.begin(), cure.mends.end(), expectation) != cure.mends.end();
    };
    const auto add = [](const std::string& cause, FirstBroken& first) {
        if (!cause.empty() &&
            std::find(first.causes.begin(), first.causes.end(), cause) == first.causes.end())
            first.causes.push_back(cause);
    };
    for (FirstBroken& first : why.first) {
        const auto alone = std::find_if(why.cures.begin(), why.cures.end(), [&](const DrillCure& cure) {
            return keeps(cure, first.expectation);
        });
        if (alone != why.cures.end()) {
            first.cure = static_cast<std::size_t>(alone - why.cures.begin()) + 1;
            add(alone->cause, first);
            continue;
        }
        const auto last = std::find_if(why.together.begin(), why.together.end(),
                                       [&](const DrillCure& cure) { return keeps(cure, first.expectation); });
        if (last != why.together.end()) {
            std::for_each(why.together.begin(), last + 1,
                          [&](const DrillCure& cure) { add(cure.cause, first); });
            continue;
        }
        // Nothing keeps it; what makes fewer ticks wrong in that way is at fault in part.
        const auto fewer = std::find_if(why.cures.begin(), why.cures.end(), [&](const DrillCure& cure) {
            if (!cure.helps() || cure.cause.empty()) return false;
            return first.wrong == FirstBroken::Wrong::missed ? cure.after.missed < cure.before.missed
                                                             : cure.after.falsely < cure.before.falsely;
        });
        if (first.wrong == FirstBroken::Wrong::no || fewer == why.cures.end()) continue;
        first.cure = static_cast<std::size_t>(fewer - why.cures.begin()) + 1;
        first.in_part = true;
        add(fewer->cause, first);
    }
}

/// Every single change that does something, best first.
template <int D>
std::vector<Found<D>> single_changes(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill,
                                     const std::vector<Broken>& broken, std::size_t most_ticks) {
    PlayOptions<D> quick;
    quick.keep_ticks = false;
    const WrongTicks before = wrong_ticks(play<D>(level, rig, drill, quick).figures);
    const double fastest = std::max(drill.motion.top_speed.grounded, drill.motion.top_speed.airborne);
    const std::vector<Setting<D>> settings = settings_of<D>(rig, level.layers(), fastest);
    // As many steps to each side as there is time for.
    const double ticks = std::ceil(drill.seconds * drill.tick_rate);
    const double plays =
        static_cast<double>(most_ticks) / ticks / (2.0 * static_cast<double>(settings.size()));
    const int steps = std::clamp(static_cast<int>(plays), 2, 8);
    std::vector<std::vector<Found<D>>> found(settings.size());
    for_each_index(settings.size(), [&](std::size_t i) {
        found[i] = Trial<D>(level, rig, drill, broken, before, settings[i]).run(steps);
    });
    std::vector<Found<D>> all;
    for (std::vector<Found<D>>& some : found) std::move(some.begin(), some.end(), std::back_inserter(all));
    const auto worth = [](const DrillCure& cure) {
        return static_cast<double>(cure.mends.size()) - static_cast<double>(cure.spoils.size());
    };
    std::stable_sort(all.begin(), all.end(), [&](const Found<D>& one, const Found<D>& other) {
        const DrillCure& a = one.cure;
        const DrillCure& b = other.cure;
        if (a.helps() != b.helps()) return a.helps();
        if (worth(a) != worth(b)) return worth(a) > worth(b);
        if (a.after.all() != b.after.all()) return a.after.all() < b.after.all();
        return a.effort < b.effort;
    });
    return all;
}

}  // namespace

template <int D>
DrillWhy why_broken(const Level<D>& level, const Rig<D>& rig, const Drill<D>& drill,
                    const std::vector<Broken>& broken, const WhyOptions& options) {
    constexpr std::size_t most_together = 4;
    DrillWhy why;
    why.asked = true;
    why.still_broken = broken.size();
    if (broken.empty()) return why;
    why.first = first_broken<D>(level, rig, drill, broken);
    const auto look = [&](const Rig<D>& from, const std::vector<Broken>& then) {
        return on_threads(options.threads, [&] {
            return single_changes<D>(level, from, drill, then, options.most_ticks / most_together);
        });
    };
    std::vector<Found<D>> found = look(rig, broken);
    for (const Found<D>& one : found) why.cures.push_back(one.cure);
    PlayOptions<D> quick;
    quick.keep_ticks = false;
    Rig<D> changed = rig;
    while (why.together.size() < most_together && !found.empty() && found.front().cure.helps()) {
        changed = *found.front().rig;
        why.together.push_back(std::move(found.front().cure));
        const auto now = play<D>(level, changed, drill, quick).broken;
        why.still_broken = now.size();
        if (now.empty()) break;
        found = look(changed, now);
    }
    const bool can_be_written = std::none_of(why.together.begin(), why.together.end(),
                                             [](const DrillCure& cure) { return cure.edits.empty(); });
    if (can_be_written) why.together_edits = differences<D>(rig, changed);
    add_causes(why);
    if (why.together.size() == 1) why.together.clear();  // it stands among the others
    return why;
}

template DrillWhy why_broken<2>(const Level<2>&, const Rig<2>&, const Drill<2>&, const std::vector<Broken>&,
                                const WhyOptions&);
template DrillWhy why_broken<3>(const Level<3>&, const Rig<3>&, const Drill<3>&, const std::vector<Broken>&,
                                const WhyOptions&);

}  // namespace hollow_probe
