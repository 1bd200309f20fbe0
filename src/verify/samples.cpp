#include "verify/samples.hpp"

#include <algorithm>
#include <deque>

#include "geometry/parallel.hpp"
#include "geometry/random.hpp"
#include "hollow_probe/geometry/tolerances.hpp"
#include "verify/between_columns.hpp"
#include "verify/feature_places.hpp"

namespace hollow_probe {
namespace {

template <int D>
bool is_wrong(const SurveyPose<D>& pose) {
    return (pose.signals_on ^ pose.truths_on).any();
}

/// A column on the grid on its way through the survey.
template <int D>
struct GridColumn {
    DecidedColumn<D> decided;
    std::vector<Measure> lengths;              // by signal
    std::vector<std::vector<Measure>> shares;  // by axis, then signal: the area or length around it
    double width = 0.0;                        // to half way to its neighbours, along the first axis
    /// Poses of columns before it that belong together with one of its intervals, once that has numbers.
    std::vector<std::pair<std::uint64_t, std::size_t>> waiting;
    std::vector<Vec<D>> ways_back;  // half the way to the columns before it
};

/// Takes poses and keeps no more than there is room for.
template <int D>
class Keeper {
  public:
    Keeper(const Planned<D>& s, Samples<D>& samples) : s_(s), samples_(samples) {
        samples_.measure.resize(s.rig.signals.size());
        samples_.counts.resize(s.rig.signals.size());
    }

    /// Counts a pose, and keeps it while there is room. Returns its number.
    std::uint64_t take(const SurveyPose<D>& pose) {
        for (std::size_t signal = 0; signal < samples_.counts.size(); ++signal)
            ++samples_.counts[signal][static_cast<std::size_t>(pose.verdict(signal))];
        samples_.ever_on |= pose.probes_on;
        samples_.ever_off |= ~pose.probes_on & mounted_probes(pose.facing);
        const std::uint64_t number = samples_.judged++;
        const bool wrong = is_wrong(pose);
        if (!is_kept(number, wrong ? samples_.wrong_step : samples_.right_step)) return number;
        samples_.poses.push_back(pose);
        numbers_.push_back(number);
        ++(wrong ? wrong_kept_ : right_kept_);
        if (wrong_kept_ > s_.most_kept / 2) thin(true);
        if (right_kept_ > s_.most_kept / 2) thin(false);
        return number;
    }

    void border(std::uint64_t number, const Vec<D>& at) {
        if (is_kept(number, samples_.wrong_step)) borders_.emplace_back(number, at);
    }
    void link(std::uint64_t a, std::uint64_t b) {
        if (is_kept(a, samples_.wrong_step) && is_kept(b, samples_.wrong_step)) links_.emplace_back(a, b);
    }

    /// Turns the numbers of poses into their places among those kept.
    void finish() {
        const auto place_of = [&](std::uint64_t number) {
            const auto found = std::lower_bound(numbers_.begin(), numbers_.end(), number);
            const bool kept = found != numbers_.end() && *found == number;
            return kept ? std::optional<std::size_t>(static_cast<std::size_t>(found - numbers_.begin()))
                        : std::nullopt;
        };
        for (const auto& [number, at] : borders_) {
            if (const auto place = place_of(number)) samples_.borders.push_back({*place, at});
        }
        for (const auto& [a, b] : links_) {
            const auto first = place_of(a);
            const auto second = place_of(b);
            if (first && second) samples_.links.emplace_back(*first, *second);
        }
    }

  private:
    ReadingSet mounted_probes(std::size_t facing) const {
        ReadingSet mounted;
        const auto& probes = s_.mounted[facing].probes;
        for (std::size_t i = 0; i < probes.size(); ++i) mounted.put(i, probes[i].mounted && probes[i].aimed);
        return mounted;
    }

    /// Of a power of two of poses one is kept, by chance that is the same everywhere.
    static bool is_kept(std::uint64_t number, std::size_t step) {
        std::uint64_t state = number;
        return step == 1 || (next_random(state) & (step - 1)) == 0;
    }

    /// Lets go of every other pose of the wrong or the right ones.
    void thin(bool of_wrong) {
        std::size_t& step = of_wrong ? samples_.wrong_step : samples_.right_step;
        step *= 2;
        std::size_t kept = 0;
        for (std::size_t i = 0; i < samples_.poses.size(); ++i) {
            if (is_wrong(samples_.poses[i]) == of_wrong && !is_kept(numbers_[i], step)) continue;
            samples_.poses[kept] = samples_.poses[i];
            numbers_[kept++] = numbers_[i];
        }
        samples_.poses.resize(kept);
        numbers_.resize(kept);
        std::size_t& count = of_wrong ? wrong_kept_ : right_kept_;
        const std::size_t others = of_wrong ? right_kept_ : wrong_kept_;
        count = kept - others;
        if (!of_wrong) return;
        std::erase_if(borders_, [&](const auto& border) { return !is_kept(border.first, step); });
        std::erase_if(links_, [&](const auto& link) {
            return !is_kept(link.first, step) || !is_kept(link.second, step);
        });
    }

    const Planned<D>& s_;
    Samples<D>& samples_;
    std::vector<std::uint64_t> numbers_;  // of the poses kept, ascending
    std::size_t wrong_kept_ = 0;
    std::size_t right_kept_ = 0;
    std::vector<std::pair<std::uint64_t, Vec<D>>> borders_;
    std::vector<std::pair<std::uint64_t, std::uint64_t>> links_;
};

/// The numbers of the poses of a column, by interval.
using Numbers = std::vector<std::vector<std::uint64_t>>;

/// Walks over the columns of one facing after the other, and keeps no more of them than are needed to see
/// the next ones' borders.
template <int D>
class Sampling {
  public:
    explicit Sampling(const Planned<D>& planned)
        : s_(planned), signals_(planned.rig.signals.size()), keeper_(planned, samples_) {}

    Samples<D> run(const std::function<void(double)>& progress) {
        std::size_t moment = ~std::size_t{0};
        std::optional<Enclosed<D>> enclosed;
        SurveyScope& scope = samples_.scope;
        for (std::size_t facing = 0; facing < s_.facings.size(); ++facing) {
            facing_ = facing;
            if (s_.facings[facing].moment != moment || !enclosed) {
                moment = s_.facings[facing].moment;
                enclosed.emplace(s_.level_of(facing));
            }
            if (facing == 0) scope.odd = enclosed->odd();
            for (const std::uint32_t solid : enclosed->left_out())
                scope.enclosed.push_back(s_.level.solids()[solid].name);
            for (const std::uint32_t solid : enclosed->entered())
                scope.entered.push_back(s_.level.solids()[solid].name);
            const ColumnJudge<D> judge(s_, facing, *enclosed);
            judge_ = &judge;
            scope.lowest = std::min(scope.lowest, judge.whole().low);
            scope.highest = std::max(scope.highest, judge.whole().high);
            lay_out();
            walk([&](double done) {
                if (progress)
                    progress(0.6 * (static_cast<double>(facing) + done) /
                             static_cast<double>(s_.facings.size()));
            });
            if constexpr (D == 3) judge_features();
        }
        for (auto* names : {&scope.enclosed, &scope.entered}) {
            std::sort(names->begin(), names->end());
            names->erase(std::unique(names->begin(), names->end()), names->end());
        }
        keeper_.finish();
        return std::move(samples_);
    }

  private:
    /// Where columns stand. In 2D those at features stand among those of the grid; in 3D they are looked at
    /// by themselves.
    void lay_out() {
        const std::size_t grid = s_.grid.column_count();
        const std::size_t most = s_.most_corners.value_or(
            std::max<std::size_t>(D == 2 ? 20'000 : 4'096, D == 2 ? 4 * grid : grid / 2));
        features_ = feature_places<D>(s_, facing_, *judge_, most, samples_.scope.corners_left_out);
        places_.clear();
        on_grid_.clear();
        if constexpr (D == 2) {
            std::size_t next = 0;
            const auto push = [&](const Place<2>& place, bool grid_place) {
                if (!places_.empty() && place[0] - places_.back()[0] < tolerance::accuracy * s_.grid.spacing)
                    return;
                places_.push_back(place);
                on_grid_.push_back(grid_place);
            };
            for (std::size_t i = 0; i < grid; ++i) {
                const Place<2> place = s_.grid.place(i);
                while (next < features_.size() && features_[next].front()[0] < place[0])
                    push(features_[next++].front(), false);
                push(place, true);
            }
        }
        columns_ = D == 2 ? places_.size() : grid;
    }

    Place<D> place(std::size_t number) const { return D == 2 ? places_[number] : s_.grid.place(number); }
    bool has_next(std::size_t number, std::size_t axis) const {
        return D == 2 ? number + 1 < columns_ : s_.grid.has_next(number, axis);
    }
    std::size_t stride(std::size_t axis) const { return D == 2 ? 1 : s_.grid.stride(axis); }

    template <class Told>
    void walk(Told told) {
        constexpr std::size_t batch = 1024;
        const std::size_t ahead = stride(D - 2);  // the farthest neighbour
        window_.clear();
        first_ = 0;
        for (std::size_t begin = 0; begin < columns_; begin += batch) {
            const std::size_t end = std::min(begin + batch, columns_);
            decide_until(std::min(end + ahead, columns_));
            std::vector<std::array<Between<D>, D - 1>> found(end - begin);
            for_each_index(found.size(), [&](std::size_t i) {
                s_.stop_if_asked();
                for (std::size_t axis = 0; axis + 1 < D; ++axis) {
                    if (!has_next(begin + i, axis)) continue;
                    found[i][axis] = search_between<D>(*judge_, s_.border_width, s_.rig.intent.touch,
                                                       Seek::borders, column(begin + i).decided,
                                                       column(begin + i + stride(axis)).decided);
                }
            });
            for (std::size_t i = begin; i < end; ++i) {
                for (std::size_t axis = 0; axis + 1 < D; ++axis) {
                    if (has_next(i, axis)) share(i, axis, found[i - begin][axis]);
                }
                finish(i, found[i - begin]);
                window_.pop_front();
                ++first_;
            }
            told(static_cast<double>(end) / static_cast<double>(columns_));
        }
    }

    GridColumn<D>& column(std::size_t number) { return window_[number - first_]; }
    const GridColumn<D>& column(std::size_t number) const { return window_[number - first_]; }

    void decide_until(std::size_t end) {
        const std::size_t begin = first_ + window_.size();
        if (begin >= end) return;
        window_.resize(end - first_);
        for_each_index(end - begin, [&](std::size_t i) {
            s_.stop_if_asked();
            GridColumn<D>& made = column(begin + i);
            made.decided = judge_->decide(place(begin + i));
            made.lengths = lengths_of<D>(made.decided, signals_);
            made.shares.assign(D - 1, std::vector<Measure>(signals_, Measure{}));
        });
    }

    /// Gives the ground between two columns to them, and to those between.
    void share(std::size_t number, std::size_t axis, const Between<D>& between) {
        GridColumn<D>& from = column(number);
        GridColumn<D>& to = column(number + stride(axis));
        const auto give = [&](const std::vector<Measure>& lengths, double low, double high) {
            for (std::size_t half = 0; half < 2; ++half) {
                const double part = half == 0 ? std::min(high, 0.5) - low : high - std::max(low, 0.5);
                if (part <= 0.0) continue;
                auto& shares = (half == 0 ? from : to).shares[axis];
                for (std::size_t signal = 0; signal < signals_; ++signal) {
                    for (std::size_t v = 0; v < verdict_count; ++v)
                        shares[signal][v] += part * between.length * lengths[signal][v];
                }
            }
        };
        const std::size_t count = between.found.size();
        const double first_end = count == 0 ? 0.5 : 0.5 * between.along.front();
        const double last_begin = count == 0 ? 0.5 : 0.5 * (between.along.back() + 1.0);
        give(from.lengths, 0.0, first_end);
        give(to.lengths, last_begin, 1.0);
        for (std::size_t i = 0; i < count; ++i) {
            const double low = 0.5 * ((i == 0 ? 0.0 : between.along[i - 1]) + between.along[i]);
            const double high = 0.5 * (between.along[i] + (i + 1 == count ? 1.0 : between.along[i + 1]));
            give(lengths_of<D>(between.found[i], signals_), low, high);
        }
        if (axis != 0) return;
        from.width += first_end * between.length;
        to.width += (1.0 - last_begin) * between.length;
    }

    /// Takes the poses of a column whose neighbours are known, and of those between it and the next ones.
    void finish(std::size_t number, const std::array<Between<D>, D - 1>& between) {
        GridColumn<D>& own = column(number);
        for (std::size_t signal = 0; signal < signals_; ++signal) add_share(own, signal);
        const bool on_grid = D == 3 || on_grid_[number];
        const double cell = D == 2 ? own.width : s_.grid.spacing * s_.grid.spacing;
        ++(on_grid ? samples_.scope.grid_columns : samples_.scope.corner_columns);
        const std::size_t before = samples_.judged;
        const Numbers numbers = take(own.decided, cell, !on_grid);
        if (!on_grid) samples_.corner_poses += samples_.judged - before;
        for (const auto& [pose, interval] : own.waiting) {
            for (const std::uint64_t other : numbers[interval]) keeper_.link(pose, other);
        }
        for (const Vec<D>& way : own.ways_back) mark(own.decided, numbers, way);
        for (std::size_t axis = 0; axis + 1 < D; ++axis) {
            if (!has_next(number, axis)) continue;
            const Between<D>& way = between[axis];
            samples_.scope.border_columns += way.found.size();
            const DecidedColumn<D>* last = &own.decided;
            Numbers last_numbers = numbers;
            for (std::size_t i = 0; i < way.found.size(); ++i) {
                const double low = i == 0 ? 0.0 : way.along[i - 1];
                const double high = i + 1 == way.found.size() ? 1.0 : way.along[i + 1];
                double width = 0.5 * (high - low) * way.length;
                if (D == 3) width *= 0.5 * s_.grid.spacing;
                const Numbers now = take(way.found[i], width, true);
                join(*last, last_numbers, way.found[i], &now, nullptr);
                last = &way.found[i];
                last_numbers = now;
            }
            GridColumn<D>& next = column(number + stride(axis));
            join(*last, last_numbers, next.decided, nullptr, &next.waiting);
            next.ways_back.push_back(
                0.5 * (s_.grid.point(last->place, 0.0) - s_.grid.point(next.decided.place, 0.0)));
        }
    }

    Numbers take(const DecidedColumn<D>& decided, double cell, bool border) {
        Numbers numbers;
        samples_.asked += decided.asked;
        for (const Interval<D>& interval : decided.intervals) {
            const double part = (interval.span.high - interval.span.low) * cell /
                                (1.0 + static_cast<double>(interval.further.size()));
            auto& of_interval = numbers.emplace_back();
            const auto take_one = [&](SurveyPose<D> pose) {
                pose.border = border;
                pose.measure = part;
                of_interval.push_back(keeper_.take(pose));
                if (!border) ++samples_.grid_poses;
            };
            take_one(interval.pose);
            for (const SurveyPose<D>& pose : interval.further) take_one(pose);
            for (std::size_t i = 1; i < of_interval.size(); ++i)
                keeper_.link(of_interval[i - 1], of_interval[i]);
        }
        return numbers;
    }

    /// Links what is wrong alike in two neighbouring columns. What is wrong in one of them is so half way to
    /// the other.
    void join(const DecidedColumn<D>& a, const Numbers& of_a, const DecidedColumn<D>& b, const Numbers* of_b,
              std::vector<std::pair<std::uint64_t, std::size_t>>* waiting) {
        if (waiting == nullptr) {
            link(a, of_a, b, *of_b, true);
        } else {
            for (const auto& [i, k] : wrong_alike<D>(a, b, true)) {
                for (const std::uint64_t one : of_a[i]) waiting->emplace_back(one, k);
            }
        }
        const Vec<D> half = 0.5 * (s_.grid.point(b.place, 0.0) - s_.grid.point(a.place, 0.0));
        mark(a, of_a, half);
        if (of_b != nullptr) mark(b, *of_b, Vec<D>(-half));
    }

    void mark(const DecidedColumn<D>& column, const Numbers& numbers, const Vec<D>& way) {
        for (std::size_t i = 0; i < column.intervals.size(); ++i) {
            if (!is_wrong(column.intervals[i].pose)) continue;
            const Interval<D>& interval = column.intervals[i];
            keeper_.border(numbers[i].front(), interval.pose.anchor + way);
            for (std::size_t k = 0; k < interval.further.size(); ++k)
                keeper_.border(numbers[i][k + 1], interval.further[k].anchor + way);
        }
    }

    /// Columns beside the corners and edges of the level, and between those along one edge that differ.
    void judge_features() {
        constexpr std::size_t batch = 512;
        const double cell = 1e-3 * s_.narrowest_width * s_.grid.spacing;
        for (std::size_t first = 0; first < features_.size(); first += batch) {
            s_.stop_if_asked();
            std::vector<std::vector<DecidedColumn<D>>> decided(std::min(batch, features_.size() - first));
            for_each_index(decided.size(), [&](std::size_t i) {
                s_.stop_if_asked();
                decided[i] = judge_row(features_[first + i]);
            });
            const std::size_t before = samples_.judged;
            for (std::size_t i = 0; i < decided.size(); ++i) {
                Numbers last;
                for (std::size_t k = 0; k < decided[i].size(); ++k) {
                    const Numbers now = take(decided[i][k], cell, true);
                    if (k > 0) link(decided[i][k - 1], last, decided[i][k], now, false);
                    last = now;
                }
                const std::size_t in_row = features_[first + i].size();
                samples_.scope.corner_columns += in_row;
                samples_.scope.border_columns += decided[i].size() - in_row;
            }
            samples_.corner_poses += samples_.judged - before;
        }
    }

    /// Links what is wrong alike in two columns.
    void link(const DecidedColumn<D>& a, const Numbers& of_a, const DecidedColumn<D>& b, const Numbers& of_b,
              bool straight) {
        for (const auto& [i, k] : wrong_alike<D>(a, b, straight)) {
            for (const std::uint64_t one : of_a[i]) {
                for (const std::uint64_t other : of_b[k]) keeper_.link(one, other);
            }
        }
    }

    std::vector<DecidedColumn<D>> judge_row(const Row<D>& row) const {
        const double coarse = 0.25 * s_.grid.spacing;
        std::vector<DecidedColumn<D>> columns;
        for (const Place<D>& place : row) {
            DecidedColumn<D> next = judge_->decide(place);
            if (!columns.empty()) {
                auto between = search_between<D>(*judge_, coarse, s_.rig.intent.touch, Seek::wrong_ends,
                                                 DecidedColumn<D>(columns.back()), next);
                std::move(between.found.begin(), between.found.end(), std::back_inserter(columns));
            }
            columns.push_back(std::move(next));
        }
        return columns;
    }

    /// Adds a grid column's part of the ground to the measure. In 3D it is known along two lines that cross
    /// at it. A border that only one of them meets is measured by that one alone: the other runs beside it.
    void add_share(const GridColumn<D>& finished, std::size_t signal) {
        Measure& total = samples_.measure[signal];
        const Measure& along_first = finished.shares[0][signal];
        if constexpr (D == 2) {
            for (std::size_t v = 0; v < verdict_count; ++v) total[v] += along_first[v];
        } else {
            const Measure& along_second = finished.shares[1][signal];
            const auto meets_border = [&](const Measure& measure) {
                double apart = 0.0;
                for (std::size_t v = 0; v < verdict_count; ++v)
                    apart += std::abs(measure[v] - s_.grid.spacing * finished.lengths[signal][v]);
                return apart > tolerance::accuracy * s_.grid.spacing;
            };
            const bool first = meets_border(along_first);
            const bool second = meets_border(along_second);
            const double weight = first == second ? 0.5 : first ? 1.0 : 0.0;
            for (std::size_t v = 0; v < verdict_count; ++v)
                total[v] += s_.grid.spacing * (weight * along_first[v] + (1.0 - weight) * along_second[v]);
        }
    }

    const Planned<D>& s_;
    std::size_t signals_;
    Samples<D> samples_;
    Keeper<D> keeper_;
    std::size_t facing_ = 0;
    const ColumnJudge<D>* judge_ = nullptr;
    std::vector<Row<D>> features_;
    std::vector<Place<D>> places_;  // 2D
    std::vector<bool> on_grid_;     // 2D, by place
    std::size_t columns_ = 0;
    std::deque<GridColumn<D>> window_;
    std::size_t first_ = 0;  // the column at the window's front
};

}  // namespace

template <int D>
Samples<D> take_samples(const Planned<D>& planned, const std::function<void(double)>& progress) {
    return Sampling<D>(planned).run(progress);
}

template Samples<2> take_samples<2>(const Planned<2>&, const std::function<void(double)>&);
template Samples<3> take_samples<3>(const Planned<3>&, const std::function<void(double)>&);

}  // namespace hollow_probe
