#include "hollow_probe/study/front.hpp"

#include <algorithm>
#include <array>
#include <deque>
#include <map>
#include <memory>
#include <pagmo/algorithm.hpp>
#include <pagmo/algorithms/nsga2.hpp>
#include <pagmo/population.hpp>
#include <pagmo/problem.hpp>

#include "geometry/parallel.hpp"
#include "study/judged_places.hpp"
#include "study/tuning_space.hpp"
#include "verify/roundest.hpp"

namespace hollow_probe {
namespace {

/// Missed, false, taken.
using Objectives = std::array<double, 3>;

/// As good in all, and better in one.
bool beats(const Objectives& a, const Objectives& b) {
    bool better = false;
    for (std::size_t i = 0; i < a.size(); ++i) {
        // What differs by rounding is alike.
        const double hair = 1e-9 * (1.0 + std::abs(b[i]));
        if (a[i] > b[i] + hair) return false;
        better = better || a[i] < b[i] - hair;
    }
    return better;
}

template <int D>
class FrontSearch {
  public:
    FrontSearch(const std::vector<const Level<D>*>& levels, const Rig<D>& rig, const TuneOptions<D>& options)
        : levels_(levels), rig_(rig), options_(options), space_(levels, rig, options) {
        survey_ = options.survey;
        survey_.explain = false;
        survey_.progress = {};
    }

    TuningFront<D> run() {
        TuningFront<D> front;
        for (const Variable<D>& variable : space_.variables())
            front.settings.push_back(path_of<D>(variable.setting));
        std::vector<Survey<D>> surveys;
        for (std::size_t i = 0; i < levels_.size(); ++i) {
            kept_.emplace_back();
            surveys.push_back(survey<D>(*levels_[i], rig_, survey_, kept_[i]));
            places_.push_back(std::make_unique<JudgedPlaces<D>>(*levels_[i], rig_, survey_, kept_[i], 0.0));
            places_[i]->add(surveys[i], most_places, most_places);
        }
        front.before = told(rig_);
        evolve();
        front.rigs.push_back(front.before);  // what the rig itself beats is no trade
        for (const Point& point : spread()) {
            FrontRig<D> one = told(*rounded_rig(point));
            if (one.broken <= front.before.broken) front.rigs.push_back(std::move(one));
        }
        keep_unbeaten(front.rigs);
        front.tried = seen_.size();
        return front;
    }

    /// What a point comes to; what cannot be is as bad as can be.
    Objectives objectives(const Point& at) {
        const Point point = rounded(at);
        if (const auto known = seen_.find(point); known != seen_.end()) return known->second;
        if (options_.survey.stop && options_.survey.stop()) throw SurveyStopped();
        if (options_.progress) {
            const double part = static_cast<double>(seen_.size()) / static_cast<double>(most_tried());
            options_.progress(std::min(0.9, part));
        }
        Objectives all = {1e30, 1e30, 1e30};
        if (const std::optional<Rig<D>> rig = rounded_rig(point)) {
            PlacesScore score;
            double effort = 0.0;
            for (const auto& places : places_) {
                score += places->score(*rig);
                effort += places->effort(*rig);
            }
            if (std::isfinite(score.missed)) all = {score.missed, score.falsely, effort};
        }
        seen_.emplace(point, all);
        return all;
    }

    [[nodiscard]] std::size_t numbers() const { return space_.variables().size(); }

  private:
    static constexpr std::size_t most_places = 1500;
    static constexpr unsigned population = 40;
    static constexpr std::size_t most_told = 12;

    [[nodiscard]] std::size_t most_tried() const {
        return std::max<std::size_t>(options_.most_tried, 2 * population);
    }

    /// The middle of a choice, the roundest of numbers alike.
    [[nodiscard]] Point rounded(Point at) const {
        for (std::size_t i = 0; i < at.size(); ++i) {
            const Variable<D>& v = space_.variables()[i];
            if (v.is_choice()) {
                at[i] =
                    (static_cast<double>(v.choice(at[i])) + 0.5) / static_cast<double>(v.setting.choices + 1);
                continue;
            }
            const double window = 5e-3 * (v.high - v.low);
            const double value = v.value(at[i]);
            const double round =
                roundest_between(std::max(v.low, value - window), std::min(v.high, value + window));
            at[i] = v.place_of(round);
        }
        return at;
    }
    [[nodiscard]] std::optional<Rig<D>> rounded_rig(const Point& at) const {
        return space_.written_at(rounded(at));
    }

    FrontRig<D> told(const Rig<D>& rig) {
        FrontRig<D> one;
        one.rig = rig;
        for (const Variable<D>& variable : space_.variables())
            one.values.push_back(variable.setting.text(rig));
        for (std::size_t i = 0; i < levels_.size(); ++i) {
            one.wrong += survey<D>(*levels_[i], rig, survey_, kept_[i]).wrong;
            one.effort += places_[i]->effort(rig) / static_cast<double>(levels_.size());
        }
        one.broken = options_.broken ? options_.broken(rig) : 0;
        return one;
    }

    /// What pagmo asks.
    struct Asked {
        FrontSearch* search = nullptr;
        [[nodiscard]] pagmo::vector_double fitness(const pagmo::vector_double& at) const {
            const Objectives all = search->objectives(at);
            return {all.begin(), all.end()};
        }
        [[nodiscard]] std::pair<pagmo::vector_double, pagmo::vector_double> get_bounds() const {
            return {pagmo::vector_double(search->numbers(), 0.0),
                    pagmo::vector_double(search->numbers(), 1.0)};
        }
        [[nodiscard]] static pagmo::vector_double::size_type get_nobj() { return Objectives().size(); }
    };

    void evolve() {
        constexpr double crossing = 0.95;
        constexpr double crossing_index = 10.0;
        constexpr double mutation_index = 50.0;
        const auto seed = static_cast<unsigned>(options_.survey.seed + 1);
        const pagmo::problem problem{Asked{this}};
        pagmo::population all{problem, population, seed};
        all.set_x(0, space_.as_it_is());
        const double mutated = 1.0 / static_cast<double>(std::max<std::size_t>(numbers(), 2));
        // A generation at a time: it ends by what was tried, not by what came of it.
        std::size_t in_vain = 0;
        for (unsigned generation = 0; seen_.size() < most_tried() && in_vain < 8; ++generation) {
            const std::size_t before = seen_.size();
            const pagmo::algorithm step{
                pagmo::nsga2(1U, crossing, crossing_index, mutated, mutation_index, seed + generation)};
            all = step.evolve(all);
            in_vain = seen_.size() == before ? in_vain + 1 : 0;
        }
    }

    /// Of all that were tried and none beats at most so many, spread evenly: the best in each objective and
    /// in all together first, then always the one farthest from those taken.
    [[nodiscard]] std::vector<Point> spread() const {
        std::vector<std::pair<Point, Objectives>> best;
        for (const auto& one : seen_) {
            if (one.second[0] >= 1e30) continue;
            if (std::any_of(best.begin(), best.end(), [&](const auto& other) {
                    return beats(other.second, one.second) || other.second == one.second;
                }))
                continue;
            std::erase_if(best, [&](const auto& other) { return beats(one.second, other.second); });
            best.emplace_back(one);
        }
        Objectives least;
        Objectives most;
        least.fill(infinity);
        most.fill(-infinity);
        for (const auto& [point, all] : best) {
            for (std::size_t i = 0; i < all.size(); ++i) {
                least[i] = std::min(least[i], all[i]);
                most[i] = std::max(most[i], all[i]);
            }
        }
        std::vector<std::size_t> taken;
        const auto take = [&](auto worth) {
            std::size_t chosen = best.size();
            for (std::size_t i = 0; i < best.size(); ++i) {
                if (std::find(taken.begin(), taken.end(), i) != taken.end()) continue;
                if (chosen == best.size() || worth(best[i].second) > worth(best[chosen].second)) chosen = i;
            }
            if (chosen < best.size()) taken.push_back(chosen);
        };
        take([](const Objectives& o) { return -(o[0] + o[1]) - 1e-6 * o[2]; });
        for (std::size_t i = 0; i < least.size(); ++i) {
            take([&](const Objectives& o) { return -o[i] - 1e-6 * (o[0] + o[1] + o[2]); });
        }
        while (taken.size() < std::min(best.size(), most_told)) {
            take([&](const Objectives& o) {
                double nearest = infinity;
                for (const std::size_t other : taken) {
                    double squared = 0.0;
                    for (std::size_t i = 0; i < o.size(); ++i) {
                        const double span = std::max(most[i] - least[i], 1e-12);
                        squared += std::pow((o[i] - best[other].second[i]) / span, 2);
                    }
                    nearest = std::min(nearest, squared);
                }
                return nearest;
            });
        }
        std::vector<Point> points;
        points.reserve(taken.size());
        for (const std::size_t i : taken) points.push_back(best[i].first);
        return points;
    }

    static void keep_unbeaten(std::vector<FrontRig<D>>& rigs) {
        const auto of = [](const FrontRig<D>& one) {
            return Objectives{one.wrong.missed, one.wrong.falsely, one.effort};
        };
        std::vector<FrontRig<D>> best;
        for (const FrontRig<D>& one : rigs) {
            const bool beaten = std::any_of(rigs.begin(), rigs.end(), [&](const FrontRig<D>& other) {
                return beats(of(other), of(one));
            });
            const bool twice = std::any_of(best.begin(), best.end(), [&](const FrontRig<D>& other) {
                return !beats(of(one), of(other)) && !beats(of(other), of(one)) &&
                       std::abs(other.wrong.missed - one.wrong.missed) < 1e-9 &&
                       std::abs(other.wrong.falsely - one.wrong.falsely) < 1e-9 && other.effort == one.effort;
            });
            if (!beaten && !twice) best.push_back(one);
        }
        std::stable_sort(best.begin(), best.end(),
                         [&](const FrontRig<D>& a, const FrontRig<D>& b) { return of(a) < of(b); });
        rigs = std::move(best);
    }

    const std::vector<const Level<D>*>& levels_;
    const Rig<D>& rig_;
    const TuneOptions<D>& options_;
    SurveyOptions survey_;
    TuningSpace<D> space_;
    std::deque<KeptTruths<D>> kept_;
    std::vector<std::unique_ptr<JudgedPlaces<D>>> places_;
    std::map<Point, Objectives> seen_;
};

}  // namespace

template <int D>
TuningFront<D> tuning_front(const std::vector<const Level<D>*>& levels, const Rig<D>& rig,
                            const TuneOptions<D>& options) {
    if (levels.empty()) throw InvalidInput("there is no level to tune on");
    return on_threads(options.survey.threads, [&] { return FrontSearch<D>(levels, rig, options).run(); });
}

template TuningFront<2> tuning_front<2>(const std::vector<const Level<2>*>&, const Rig<2>&,
                                        const TuneOptions<2>&);
template TuningFront<3> tuning_front<3>(const std::vector<const Level<3>*>&, const Rig<3>&,
                                        const TuneOptions<3>&);

}  // namespace hollow_probe
