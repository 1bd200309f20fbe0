#include "hollow_probe/study/tune.hpp"

#include <nlopt.h>

#include <algorithm>
#include <cmath>
#include <deque>
#include <map>
#include <memory>

#include "geometry/parallel.hpp"
#include "hollow_probe/rig/differences.hpp"
#include "hollow_probe/verify/as_closely.hpp"
#include "study/judged_places.hpp"
#include "study/left_wrong.hpp"
#include "study/sharp_least.hpp"
#include "study/tuning_space.hpp"
#include "verify/roundest.hpp"

namespace hollow_probe {
namespace {

/// Wrong places of a survey that are judged again; twice as many right ones.
constexpr std::size_t most_added = 1200;
/// What is wrong, of all that is concerned, in a rig that may be made wholly right.
constexpr double nearly_right = 0.05;
/// … that is wrong by less than tells rigs apart.
constexpr double hardly_wrong = 1e-3;
constexpr double nan = std::numeric_limits<double>::quiet_NaN();

template <int D>
class Tuner {
  public:
    Tuner(const std::vector<const Level<D>*>& levels, const Rig<D>& rig, const TuneOptions<D>& options)
        : levels_(checked(levels, options)),
          rig_(rig),
          options_(options),
          survey_(options.survey),
          space_(levels, rig, options) {
        survey_.explain = false;
        survey_.progress = {};
    }

    TunedRig<D> run() {
        TunedRig<D> result = as_it_is();
        Point best = space_.as_it_is();
        Point found = best;
        constexpr std::size_t most_rounds = 4;
        constexpr double worth_it = 0.995;
        std::size_t in_vain = 0;  // rounds, one after the other
        for (std::size_t round = 0; round < most_rounds && in_vain < 2 && !result.right(); ++round) {
            ++result.rounds;
            limit_ = options_.most_tried * (round + 3) / (most_rounds + 2);
            found = centred(without_needless(searched(found, round == 0)));
            // Where surveys have told nothing new, another look is as good as this one was.
            if (improved_ && !(cost(found) < worth_it * cost(best))) break;
            const double before = result.weighed_after;
            const bool any = surveyed_around(found, best, result);
            nothing_ = 1e-12;  // that little is to be told apart, then
            if (cost(best) < cost(found)) found = best;
            in_vain = any && (result.weighed_after < worth_it * before) ? 0 : in_vain + 1;
            // Where little is wrong another look may make all right.
            if (improved_ && in_vain > 0 && result.weighed_after > nearly_right * concerned_) break;
        }
        describe(best, result);
        result.tried = tried_;
        if (options_.tell_left && result.after.poses() > 0)
            result.left = left_wrong<D>(levels_, result.rig, options_.survey, kept_);
        return result;
    }

  private:
    static const std::vector<const Level<D>*>& checked(const std::vector<const Level<D>*>& levels,
                                                       const TuneOptions<D>& options) {
        if (levels.empty()) throw InvalidInput("there is no level to tune on");
        if (!(options.missed_weight > 0.0))
            throw InvalidInput("the weight of what is missed must be more than 0");
        if (!(options.severity_weight >= 0.0))
            throw InvalidInput("the weight of what is grave must be 0 or more");
        if (!(options.held_part >= 0.0 && options.held_part <= 0.5))
            throw InvalidInput("the part held back must be 0 to 0.5");
        return levels;
    }

    /// The rig surveyed on all levels; the places at which others are judged are those of these surveys.
    TunedRig<D> as_it_is() {
        TunedRig<D> result;
        result.rig = rig_;
        for (std::size_t i = 0; i < levels_.size(); ++i) {
            kept_.emplace_back();
            const Survey<D> survey = surveyed(rig_, i);
            result.before += survey.wrong;
            // All later ones look as closely.
            closely_.push_back(as_closely_as<D>(survey, survey_));
            places_.push_back(std::make_unique<JudgedPlaces<D>>(
                *levels_[i], rig_, options_at(i), kept_[i], options_.held_part, options_.severity_weight));
            places_[i]->add(survey, 2 * most_added, most_added);
            result.weighed_before += weighed(places_[i]->weighed_in(survey));
            result.held_before += places_[i]->held_in(survey);
            concerned_ += places_[i]->concerned();
        }
        result.broken_before = options_.broken ? options_.broken(rig_) : 0;
        result.broken_after = result.broken_before;
        result.after = result.before;
        result.weighed_after = result.weighed_before;
        result.held_after = result.held_before;
        return result;
    }

    /// Surveys rigs at a point: as round as its room allows, and rounder, as far as surveys have nothing
    /// against it. Whether one is better than what there is; then it is taken, and `best` is its point.
    bool surveyed_around(const Point& found, Point& best, TunedRig<D>& result) {
        bool any = false;
        std::vector<Rig<D>> done;
        const bool is_near = cost(found) <= nearly_right * concerned_;
        for (const double about : {0.0, 1e-3, 1e-2, 4e-2}) {
            // Where much stays wrong numbers need not be rounded with that much care.
            if (!is_near && about != 0.0 && about != 1e-2) continue;
            // What is right stays in its middle; where that is a point, a round number beside it is.
            if (result.right() && about > 1e-3) break;
            Point point = found;
            const Rig<D> candidate = rounded(point, about);
            const auto same = [&](const Rig<D>& other) { return differences<D>(other, candidate).empty(); };
            if (std::any_of(done.begin(), done.end(), same)) continue;
            done.push_back(candidate);
            // What is worse at all the places will be so everywhere, unless it is by as little as the places
            // may be off.
            const double hair = result.weighed_after <= hardly_wrong * concerned_ ? 1e-4 : 1e-9;
            const bool is_worse = cost(point) > 1.002 * cost(best) + hair * concerned_;
            if (about > 0.0 && is_worse && !result.right()) continue;
            std::vector<Survey<D>> surveys;
            for (std::size_t i = 0; i < levels_.size(); ++i) surveys.push_back(surveyed(candidate, i));
            if (is_taken(candidate, surveys, result)) {
                best = point;
                any = true;
            }
            if (result.right()) continue;
            for (std::size_t i = 0; i < levels_.size(); ++i)
                places_[i]->add_wrong(candidate, surveys[i], most_added / 3);
            forget_costs();
        }
        return any;
    }

    /// Whether a rig breaks fewer promises than what there is, or as few and is less wrong; then it is what
    /// there is.
    bool is_taken(const Rig<D>& candidate, const std::vector<Survey<D>>& surveys, TunedRig<D>& result) {
        const std::size_t broken = options_.broken ? options_.broken(candidate) : 0;
        double now = 0.0;
        Wrongness wrong;
        Wrongness held;
        for (std::size_t i = 0; i < levels_.size(); ++i) {
            now += weighed(places_[i]->weighed_in(surveys[i]));
            wrong += surveys[i].wrong;
            held += places_[i]->held_in(surveys[i]);
        }
        if (result.right() && (broken > 0 || wrong.poses() > 0)) return false;
        // Rounder numbers are taken for what they are worth: a hair.
        const double hair = improved_ ? 1e-6 * concerned_ : 0.0;
        const bool no_worse = broken == result.broken_after && now < result.weighed_after + hair;
        if (broken >= result.broken_after && !no_worse) return false;
        result.rig = candidate;
        result.after = wrong;
        result.weighed_after = now;
        result.held_after = held;
        result.broken_after = broken;
        improved_ = true;
        return true;
    }

    [[nodiscard]] double weighed(const PlacesScore& wrong) const {
        return options_.missed_weight * wrong.missed + wrong.falsely;
    }

    [[nodiscard]] SurveyOptions options_at(std::size_t level) const {
        return level < closely_.size() ? closely_[level] : survey_;
    }
    Survey<D> surveyed(const Rig<D>& rig, std::size_t level) {
        return survey<D>(*levels_[level], rig, options_at(level), kept_[level]);
    }

    /// What is wrong at the places; of what is more than `most` something that is more, too.
    [[nodiscard]] double wrong_at_places(const Rig<D>& rig, double most) const {
        double sum = 0.0;
        typename JudgedPlaces<D>::Asking asking{one_in_, counted_};
        if (most < infinity)
            asking.is_enough = [&](const PlacesScore& so_far) { return sum + weighed(so_far) > most; };
        for (const auto& places : places_) {
            sum += weighed(places->score(rig, asking));
            if (sum > most) break;
        }
        return sum;
    }

    /// From now on only some of the places are asked, about so many; 0: all.
    void ask_at(std::size_t some) {
        std::size_t all = 0;
        for (const auto& places : places_) all += places->places();
        one_in_ = some == 0 ? 1 : std::max<std::size_t>(1, (all + some / 2) / some);
        forget_costs();
    }
    void forget_costs() {
        seen_.clear();
        least_ = infinity;
    }

    /// What is to be least. A rig that cannot be is as bad as all that can be wrong. What costs more than
    /// `most` may be told to cost less than it does, but more than that: it takes less time to find out.
    double cost(const Point& point, double most = infinity) {
        const std::optional<Rig<D>> rig = space_.rig_at(point);
        if (!rig) return worst();
        const auto known = seen_.find(point);
        if (known != seen_.end() && (known->second.is_whole || known->second.cost > most))
            return known->second.cost;
        ++tried_;
        if (options_.progress && tried_ % 16 == 0)
            options_.progress(
                std::min(0.99, static_cast<double>(tried_) / static_cast<double>(options_.most_tried)));
        if (options_.survey.stop && tried_ % 16 == 0 && options_.survey.stop()) stopped_ = true;
        if (stopped_ && !within_search_) throw SurveyStopped();
        double sum = wrong_at_places(*rig, most);
        if (!std::isfinite(sum)) return worst();  // it has other states than the rig as it is
        if (sum > most) {
            seen_.insert_or_assign(point, Seen{sum, false});
            return sum;
        }
        // Drills are played only where they may decide.
        if (options_.broken && sum <= least_ + 1e-3 * concerned_)
            sum += static_cast<double>(options_.broken(*rig)) * concerned_;
        least_ = std::min(least_, sum);
        seen_.insert_or_assign(point, Seen{sum, true});
        return sum;
    }
    [[nodiscard]] bool costs_at_most(const Point& point, double most) { return cost(point, most) <= most; }
    [[nodiscard]] double worst() const { return 1e3 * (1.0 + options_.missed_weight) * (1.0 + concerned_); }
    [[nodiscard]] bool may_go_on() const { return tried_ < limit_; }

    /// One run of a method of NLopt; returns the best point it came by, or the start.
    Point minimised(nlopt_algorithm method, const Point& start, std::size_t most, double step) {
        struct Run {
            Tuner* tuner = nullptr;
            nlopt_opt_s* search = nullptr;
            Point best = {};
            double least = infinity;
        };
        Run run{this, nullptr, start, cost(start)};
        const auto close = [](nlopt_opt_s* handle) { nlopt_destroy(handle); };
        const auto count = static_cast<unsigned>(variables_.size());
        const std::unique_ptr<nlopt_opt_s, decltype(close)> handle(nlopt_create(method, count), close);
        run.search = handle.get();
        nlopt_set_lower_bounds1(handle.get(), 0.0);
        nlopt_set_upper_bounds1(handle.get(), 1.0);
        nlopt_set_min_objective(
            handle.get(),
            [](unsigned n, const double* x, double*, void* data) {
                Run& r = *static_cast<Run*>(data);
                const Point point(x, x + n);
                const double value = r.tuner->may_go_on() ? r.tuner->cost(point) : r.least;
                // Nothing may be thrown through NLopt.
                if (r.tuner->stopped_) nlopt_force_stop(r.search);
                if (value < r.least) {
                    r.least = value;
                    r.best = point;
                }
                return value;
            },
            &run);
        nlopt_set_maxeval(handle.get(), static_cast<int>(most));
        nlopt_set_xtol_abs1(handle.get(), 1e-7);
        nlopt_set_initial_step1(handle.get(), step);
        nlopt_set_stopval(handle.get(), nothing_ * concerned_);
        Point x = start;
        double value = 0.0;
        within_search_ = true;
        (void)nlopt_optimize(handle.get(), x.data(), &value);  // whatever ended it, the best is known
        within_search_ = false;
        if (stopped_) throw SurveyStopped();
        return run.best;
    }

    /// Combinations of choices that `from` might have, at most `most`; that of `from` first.
    [[nodiscard]] std::vector<Point> combinations(const Point& from, std::size_t most) const {
        std::vector<Point> all = {from};
        for (std::size_t i = 0; i < variables_.size(); ++i) {
            const Variable<D>& v = variables_[i];
            if (!v.is_choice()) continue;
            const std::size_t before = all.size();
            for (std::size_t k = 0; k <= v.setting.choices && all.size() + before <= most; ++k) {
                if (k == v.choice(from[i])) continue;
                for (std::size_t other = 0; other < before; ++other) {
                    all.push_back(all[other]);
                    all.back()[i] =
                        (static_cast<double>(k) + 0.5) / static_cast<double>(v.setting.choices + 1);
                }
            }
        }
        return all;
    }

    /// Far and wide at some of the places; what is found there is held against all, and mended.
    Point searched(const Point& from, bool everywhere) {
        constexpr std::size_t some = 1500;
        ask_at(some);
        const Point found = along_floors(searched_widely(from, everywhere));
        ask_at(0);
        Point best = nearby(cost(found) < cost(from) ? found : from, {0.03});
        if (cost(best) > nearly_right * concerned_) return best;
        return along_floors(nearby(best, {0.01}));
    }

    /// The best along the floors of valleys, of what is nearly right.
    Point along_floors(Point from) {
        for (const std::size_t moved : numbers()) {
            const double now = cost(from);
            if (now <= nothing_ * concerned_ || now > nearly_right * concerned_) break;
            from = least_of_valley(from, moved);
        }
        return from;
    }

    /// Those of the variables that are no choices.
    [[nodiscard]] std::vector<std::size_t> numbers() const {
        std::vector<std::size_t> all;
        for (std::size_t i = 0; i < variables_.size(); ++i) {
            if (!variables_[i].is_choice()) all.push_back(i);
        }
        return all;
    }

    Point searched_widely(const Point& from, bool everywhere) {
        Point best = from;
        if (everywhere && may_go_on()) {
            const Point other = minimised(NLOPT_GN_DIRECT_L, from, 40 * variables_.size() + 40, 0.05);
            if (cost(other) < cost(best)) best = other;
        }
        // With other choices other numbers are best: to be blind may be better than to see badly, but not for
        // long.
        constexpr std::size_t most_combinations = 8;
        constexpr std::size_t most_starts = 3;
        std::vector<Point> starts =
            everywhere ? combinations(best, most_combinations) : std::vector<Point>{best};
        const std::size_t end = limit_;
        if (starts.size() > most_starts) {
            for (std::size_t n = starts.size(); n > 0; --n) {
                // Half of what may be tried is for choosing among them, in equal parts.
                limit_ = tried_ + (end - std::min(end, tried_)) / (2 * n);
                Point& start = starts[starts.size() - n];
                for (const std::size_t i : numbers()) start = best_along(start, i);
            }
            std::stable_sort(starts.begin(), starts.end(),
                             [&](const Point& a, const Point& b) { return cost(a) < cost(b); });
            starts.resize(most_starts);
        }
        for (std::size_t i = 0; i < starts.size(); ++i) {
            // … and of what is left for looking near them.
            limit_ = tried_ + (end - std::min(end, tried_)) / (2 * (starts.size() - i));
            const Point other = nearby(starts[i], {0.1});
            if (cost(other) < cost(best)) best = other;
        }
        limit_ = end;
        return along_valleys(best);
    }

    /// Settings may make up for each other: a larger ball and a shorter reach. One is moved, the others, in
    /// turn, brought to what is best then, for as long as that helps.
    Point along_valleys(Point from) {
        const std::vector<std::size_t> numbers = this->numbers();
        int in_vain = 0;
        for (const double step : {0.1, 0.03, 0.01, 0.003}) {
            const double before = cost(from);
            for (const std::size_t moved : numbers) {
                for (const double way : {-step, step}) follow_valley(from, numbers, moved, way);
            }
            from = rounder(from);
            in_vain = cost(from) < 0.999 * before ? 0 : in_vain + 1;
            if (in_vain == (cost(from) <= nearly_right * concerned_ ? 2 : 1)) break;
        }
        return from;
    }

    /// A rounder point near one, where it is better: what is right is sharp, and mostly round.
    Point rounder(const Point& from) {
        Point best = from;
        for (const double around : {1e-3, 3e-3, 1e-2, 3e-2}) {
            Point other = from;
            for (const std::size_t i : numbers()) other[i] = round_within(from, i, around);
            if (cost(other, cost(best)) < cost(best)) best = other;
        }
        return best;
    }

    /// The floor of a valley may be level for long before it falls to where all is right: it is looked over
    /// along one number, the others keeping to it. Where there is no valley along it, `from`.
    Point least_of_valley(const Point& from, std::size_t moved) {
        constexpr int steps = 64;
        constexpr double much_more = 3.0;
        const std::vector<std::size_t> numbers = this->numbers();
        const double step = from[moved] < 0.5 ? 0.05 : -0.05;
        Point aside = from;
        aside[moved] += step;
        const auto made_up = [&](const std::vector<std::size_t>& by) {
            Point at = aside;
            for (const double around : {0.1, 0.01, 0.001}) {
                for (const std::size_t i : by) {
                    if (i != moved) at = least_along(at, i, around);
                }
            }
            return at;
        };
        // By one other number if one will do, or by all of them.
        Point beside = aside;
        for (const std::size_t i : numbers) {
            const Point at = made_up({i});
            if (cost(at) < cost(beside)) beside = at;
        }
        if (cost(beside) > much_more * cost(from)) beside = made_up(numbers);
        if (cost(beside) > much_more * cost(from)) return from;
        std::size_t keeps = moved;  // the number that makes up most
        for (const std::size_t i : numbers) {
            const bool more =
                keeps == moved || std::abs(beside[i] - from[i]) > std::abs(beside[keeps] - from[keeps]);
            if (i != moved && more) keeps = i;
        }
        if (keeps == moved) return from;
        const auto on_floor = [&](const Point& known, double x) {
            Point at = known;
            for (const std::size_t i : numbers)
                at[i] = std::clamp(known[i] + (beside[i] - from[i]) / step * (x - known[moved]), 0.0, 1.0);
            return cost(at) <= 1.001 * cost(known) ? at : least_along(at, keeps, 0.003);
        };
        Point best = from;
        const auto take = [&](const Point& at) {
            if (cost(at) < cost(best)) best = at;
        };
        for (const double way : {1.0 / steps, -1.0 / steps}) {
            Point known = from;
            for (double x = from[moved] + way; x >= 0.0 && x <= 1.0 && may_go_on(); x += way) {
                known = on_floor(known, x);
                if (cost(known) > much_more * cost(from)) break;
                take(known);
            }
        }
        for (double width = 0.5 / steps; width > 1e-4; width *= 0.5) {
            const Point above = on_floor(best, std::min(best[moved] + width, 1.0));
            const Point below = on_floor(best, std::max(best[moved] - width, 0.0));
            take(above);
            take(below);
        }
        return best;
    }

    /// Moves one number by `way`, and on as long as that helps: each time twice as far as the last, in all
    /// numbers, since valleys are mostly straight; where that leads out of it, by as much as at first.
    void follow_valley(Point& from, const std::vector<std::size_t>& numbers, std::size_t moved, double way) {
        constexpr int most_steps = 12;
        std::optional<Point> before;
        for (int k = 0; k < most_steps && may_go_on() && cost(from) > nothing_ * concerned_; ++k) {
            Point other = from;
            other[moved] = std::clamp(other[moved] + way, 0.0, 1.0);
            for (const std::size_t i : numbers) {
                if (before) other[i] = std::clamp(from[i] + 2.0 * (from[i] - (*before)[i]), 0.0, 1.0);
            }
            // Once more where that may be a way on: what came first could not know what came last.
            for (int pass = 0; pass < 2 && (pass == 0 || cost(other) < 2.0 * cost(from)); ++pass) {
                for (const std::size_t follows : numbers) {
                    if (follows == moved) continue;
                    const Point better = least_along(other, follows, 3.0 * std::abs(way));
                    if (cost(better) < cost(other)) other = better;
                }
            }
            if (cost(other) < cost(from)) {
                before = from;
                from = other;
            } else if (before) {
                before.reset();
            } else {
                break;
            }
        }
    }

    /// The least along one setting, within so much to both sides, taken to have one valley: what is wrong
    /// grows with the distance from where all is right.
    Point least_along(Point at, std::size_t i, double around) {
        Point other = at;
        const auto value = [&](double x) {
            other[i] = x;
            return cost(other);
        };
        at[i] = sharp_least(std::max(0.0, at[i] - around), std::min(1.0, at[i] + around), at[i], value,
                            nothing_ * concerned_);
        return at;
    }

    /// The best that small moves from a point lead to.
    Point nearby(Point from, std::initializer_list<double> steps) {
        const std::size_t n = variables_.size();
        const bool numbers = std::any_of(variables_.begin(), variables_.end(),
                                         [](const Variable<D>& v) { return !v.is_choice(); });
        for (const double step : steps) {
            if (!may_go_on() || cost(from) <= nothing_ * concerned_) break;
            for (std::size_t i = 0; i < n; ++i) from = best_along(from, i);
            if (!numbers || cost(from) <= nothing_ * concerned_) continue;
            const Point other = minimised(NLOPT_LN_SBPLX, from, 60 * n + 40, step);
            if (cost(other) < cost(from)) from = other;
        }
        return from;
    }

    /// The best of even steps along one setting.
    Point best_along(const Point& from, std::size_t i) {
        const Variable<D>& v = variables_[i];
        const std::size_t steps = v.is_choice() ? v.setting.choices + 1 : 24;
        Point best = from;
        double least = cost(from);
        for (std::size_t k = 0; k < steps && may_go_on(); ++k) {
            Point other = from;
            other[i] = (static_cast<double>(k) + 0.5) / static_cast<double>(steps);
            const double value = cost(other, least);
            if (value < least) {
                least = value;
                best = other;
            }
        }
        return best;
    }

    /// What makes no difference stays as it was.
    Point without_needless(Point at) {
        for (std::size_t i = 0; i < variables_.size(); ++i) {
            Point other = at;
            const Variable<D>& v = variables_[i];
            other[i] = v.is_choice() ? 0.0 : std::clamp(v.place_of(*v.setting.now), 0.0, 1.0);
            const double most = cost(at) + 1e-9 * concerned_;
            if (!costs_at_most(other, most)) continue;
            // Of a number, where it makes no difference anywhere.
            const auto [low, high] = v.is_choice() ? std::array{0.0, 1.0} : room(other, i, most);
            if (low <= 0.0 && high >= 1.0) at = other;
        }
        return at;
    }

    /// How far a setting may go to both sides before the cost is more than `most`.
    std::array<double, 2> room(const Point& at, std::size_t i, double most, int halvings = 10) {
        std::array<double, 2> ends = {at[i], at[i]};
        for (const int side : {0, 1}) {
            const double end = side == 0 ? 0.0 : 1.0;
            const auto holds = [&](double x) {
                Point other = at;
                other[i] = x;
                return costs_at_most(other, most);
            };
            // Outwards in growing steps, so that what lies beyond a gap is not taken for near.
            double inside = at[i];
            double outside = nan;
            for (double step = 1.0 / 1024; std::isnan(outside); step *= 2.0) {
                const double x = side == 0 ? std::max(end, inside - step) : std::min(end, inside + step);
                if (!holds(x)) {
                    outside = x;
                } else {
                    inside = x;
                    if (x == end) break;
                }
            }
            for (int k = 0; k < halvings && !std::isnan(outside); ++k) {
                const double middle = 0.5 * (inside + outside);
                (holds(middle) ? inside : outside) = middle;
            }
            ends[static_cast<std::size_t>(side)] = inside;
        }
        return ends;
    }

    /// The middle of what is equally right, setting by setting.
    Point centred(Point at) {
        for (int turn = 0; turn < 3 && may_go_on(); ++turn) {
            double moved = 0.0;
            for (std::size_t i = 0; i < variables_.size(); ++i) {
                if (variables_[i].is_choice()) continue;
                const double most = cost(at) + 1e-9 * concerned_;
                const auto [low, high] = room(at, i, most);
                Point other = at;
                other[i] = 0.5 * (low + high);
                if (!costs_at_most(other, most)) continue;
                moved = std::max(moved, std::abs(other[i] - at[i]));
                at = other;
            }
            if (moved < 1e-4 || variables_.size() == 1) break;
        }
        return at;
    }

    /// The rig at a point, each number the roundest in the middle third of its room, or `about` parts of its
    /// range around where that is more; the point becomes that rig's.
    Rig<D> rounded(Point& at, double about) {
        for (std::size_t i = 0; i < variables_.size(); ++i) {
            const Variable<D>& v = variables_[i];
            if (v.is_choice()) continue;
            const auto [low, high] = room(at, i, cost(at) + 1e-9 * concerned_);
            const double middle = v.value(at[i]);
            const double third = (v.value(high) - v.value(low)) / 6.0;
            // Without room the roundest within what cannot be told from it.
            const double window = std::max({third, about * (v.high - v.low), 1e-5 * (v.high - v.low)});
            at[i] = v.place_of(
                roundest_between(std::max(v.low, middle - window), std::min(v.high, middle + window)));
            // The others make up for what was moved.
            for (std::size_t k = 0; k < variables_.size() && about >= 1e-2; ++k) {
                if (k == i || variables_[k].is_choice()) continue;
                const Point other = least_along(at, k, 2.0 * about);
                if (cost(other) < cost(at)) at = other;
            }
        }
        // What made up for others is round, too, as far as it makes no difference: all together, or one by
        // one.
        if (about > 0.0) {
            Point all = at;
            for (const std::size_t i : numbers()) all[i] = round_within(at, i, 0.1 * about);
            if (costs_at_most(all, cost(at) + 1e-4 * concerned_)) at = all;
            for (const std::size_t i : numbers()) {
                Point other = at;
                other[i] = round_within(at, i, 0.1 * about);
                if (costs_at_most(other, cost(at) + 1e-4 * concerned_)) at = other;
            }
        }
        return space_.written_at(at).value_or(rig_);  // it may have been rounded to what cannot be
    }

    /// Where the roundest number lies within so much of a number's range to both sides.
    [[nodiscard]] double round_within(const Point& at, std::size_t i, double around) const {
        const Variable<D>& v = variables_[i];
        const double window = around * (v.high - v.low);
        return v.place_of(roundest_between(std::max(v.low, v.value(at[i]) - window),
                                           std::min(v.high, v.value(at[i]) + window)));
    }

    void describe(const Point& at, TunedRig<D>& result) {
        counted_ = Counted::whole;  // rather too little room than too much
        forget_costs();
        const std::size_t n = variables_.size();
        const double most = cost(at) + 1e-3 * concerned_;
        std::vector<std::array<double, 2>> alone(n);
        for (std::size_t i = 0; i < n; ++i)
            alone[i] = variables_[i].is_choice() ? std::array{nan, nan} : room(at, i, most);
        const auto beside = rooms_beside(at, alone, most);
        // The box shrinks towards the point until all its corners hold.
        double part = 1.0;
        const auto corners_hold = [&](double shrunk) {
            std::vector<std::size_t> numbers = this->numbers();
            constexpr std::size_t most_numbers = 8;
            numbers.resize(std::min(numbers.size(), most_numbers));
            for (std::size_t corner = 0; corner < (std::size_t{1} << numbers.size()); ++corner) {
                Point other = at;
                for (std::size_t k = 0; k < numbers.size(); ++k) {
                    const std::size_t i = numbers[k];
                    other[i] = at[i] + shrunk * (alone[i][corner >> k & 1U] - at[i]);
                }
                if (!costs_at_most(other, most)) return false;
            }
            return true;
        };
        if (!corners_hold(1.0)) {
            double out = 1.0;
            part = 0.0;
            for (int k = 0; k < 8; ++k) {
                const double middle = 0.5 * (part + out);
                (corners_hold(middle) ? part : out) = middle;
            }
        }
        for (std::size_t i = 0; i < n; ++i) {
            const Variable<D>& v = variables_[i];
            TunedSetting tuned;
            tuned.path = path_of<D>(v.setting);
            tuned.was = v.setting.text(rig_);
            tuned.is = v.setting.text(result.rig);
            tuned.value = v.is_choice() ? nan : v.value(at[i]);
            tuned.alone = tuned.together = {nan, nan};
            if (!v.is_choice()) {
                for (const std::size_t side : {0U, 1U}) {
                    tuned.alone[side] = v.value(alone[i][side]);
                    tuned.together[side] = v.value(at[i] + part * (alone[i][side] - at[i]));
                }
            }
            tuned.beside = beside[i];
            result.settings.push_back(std::move(tuned));
        }
    }

    /// How the room of each number changes where another is at an end of its own.
    std::vector<std::vector<TunedSetting::Beside>> rooms_beside(
        const Point& at, const std::vector<std::array<double, 2>>& alone, double most) {
        constexpr std::size_t most_numbers = 5;
        constexpr int halvings = 6;  // to a hundredth or so
        std::vector<std::vector<TunedSetting::Beside>> rooms(variables_.size());
        const auto numbers = std::count_if(variables_.begin(), variables_.end(),
                                           [](const Variable<D>& v) { return !v.is_choice(); });
        if (static_cast<std::size_t>(numbers) > most_numbers) return rooms;
        for (std::size_t i = 0; i < variables_.size(); ++i) {
            for (std::size_t k = 0; k < variables_.size(); ++k) {
                if (i == k || variables_[i].is_choice() || variables_[k].is_choice()) continue;
                for (const double end : alone[k]) {
                    Point other = at;
                    other[k] = end;
                    if (std::abs(end - at[k]) < 1e-6 || !costs_at_most(other, most)) continue;
                    const auto [low, high] = room(other, i, most, halvings);
                    rooms[i].push_back({path_of<D>(variables_[k].setting),
                                        variables_[k].value(end),
                                        {variables_[i].value(low), variables_[i].value(high)}});
                }
            }
        }
        return rooms;
    }

    const std::vector<const Level<D>*>& levels_;
    const Rig<D>& rig_;
    const TuneOptions<D>& options_;
    SurveyOptions survey_;
    TuningSpace<D> space_;
    const std::vector<Variable<D>>& variables_ = space_.variables();
    std::deque<KeptTruths<D>> kept_;
    std::vector<SurveyOptions> closely_;  // by level, once it was surveyed
    std::vector<std::unique_ptr<JudgedPlaces<D>>> places_;
    std::size_t one_in_ = 1;  // of so many places one is asked
    Counted counted_ = Counted::shared;
    double concerned_ = 0.0;
    double least_ = infinity;
    double nothing_ = 1e-5;  // as little wrong, of all concerned, need not be less before a survey has told
    struct Seen {
        double cost = 0.0;
        bool is_whole = true;  // or it costs at least that
    };
    std::map<Point, Seen> seen_;
    bool improved_ = false;  // something better than the rig as it is was found
    bool stopped_ = false;
    bool within_search_ = false;
    std::size_t tried_ = 0;
    std::size_t limit_ = 0;
};

}  // namespace

template <int D>
std::vector<FreeSetting> named_by_causes(const std::vector<std::string>& layers, const Rig<D>& rig,
                                         const Survey<D>& survey, std::size_t most) {
    const std::vector<Setting<D>> settings = settings_of<D>(rig, layers, 0.0);
    std::map<std::string, double> gains;
    const auto take = [&](const CauseReport& cause, double gain) {
        for (const FieldChange& edit : cause.edits) {
            for (const Setting<D>& setting : settings) {
                const bool is_it =
                    setting.table == edit.table && setting.name == edit.name && setting.key == edit.key;
                if (is_it) gains[path_of<D>(setting)] += gain;
            }
        }
    };
    for (const Finding<D>& finding : survey.findings) {
        for (const CauseReport& cause : finding.causes) take(cause, std::max(cause.gain, 0.0));
    }
    std::vector<std::pair<std::string, double>> order(gains.begin(), gains.end());
    std::stable_sort(order.begin(), order.end(),
                     [](const auto& a, const auto& b) { return a.second > b.second; });
    std::vector<FreeSetting> free;
    for (const auto& [path, gain] : order) {
        if (free.size() < most) free.push_back({path, {}});
    }
    return free;
}

template <int D>
TunedRig<D> tune(const std::vector<const Level<D>*>& levels, const Rig<D>& rig,
                 const TuneOptions<D>& options) {
    return on_threads(options.survey.threads, [&] { return Tuner<D>(levels, rig, options).run(); });
}

template TunedRig<2> tune<2>(const std::vector<const Level<2>*>&, const Rig<2>&, const TuneOptions<2>&);
template TunedRig<3> tune<3>(const std::vector<const Level<3>*>&, const Rig<3>&, const TuneOptions<3>&);
template std::vector<FreeSetting> named_by_causes<2>(const std::vector<std::string>&, const Rig<2>&,
                                                     const Survey<2>&, std::size_t);
template std::vector<FreeSetting> named_by_causes<3>(const std::vector<std::string>&, const Rig<3>&,
                                                     const Survey<3>&, std::size_t);

}  // namespace hollow_probe
