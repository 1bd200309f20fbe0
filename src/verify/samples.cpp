#include "verify/samples.hpp"

#include <algorithm>
#include <deque>

#include "hollow_probe/truth/rest.hpp"
#include "verify/feature_places.hpp"
#include "verify/parallel.hpp"
#include "verify/stretch.hpp"

namespace hollow_probe {
namespace {

/// Where the body rests on one column in one facing, and what was judged there.
template <int D>
struct ColumnRest {
    double height = 0.0;
    bool hanging = false;  // held from above: where the body, raised, meets a ceiling
    std::array<std::optional<SurveyPose<D>>, 4> poses;  // by height above rest; none where the body clips
    std::array<std::uint64_t, 4> numbers{};             // of those poses
    /// The lengths around each pose with each verdict: by height, then axis, then signal.
    std::vector<Measure> shares = {};
};

template <int D>
struct Column {
    std::vector<ColumnRest<D>> rests;
    std::size_t clipped = 0;
};

/// Pairs the rests of two neighbouring columns that belong to one surface: each other's nearest, not too
/// steep apart.
template <int D>
std::vector<std::pair<int, int>> matched_rests(const std::vector<ColumnRest<D>>& a,
                                               const std::vector<ColumnRest<D>>& b, double most_apart) {
    const auto nearest = [&](const ColumnRest<D>& rest, const std::vector<ColumnRest<D>>& rests) {
        const double height = rest.height;
        int best = -1;
        for (std::size_t i = 0; i < rests.size(); ++i) {
            const double apart = std::abs(rests[i].height - height);
            if (apart > most_apart || rests[i].hanging != rest.hanging) continue;
            if (best < 0 || apart < std::abs(rests[static_cast<std::size_t>(best)].height - height)) {
                best = static_cast<int>(i);
            }
        }
        return best;
    };
    std::vector<std::pair<int, int>> pairs;
    std::vector<bool> taken(b.size(), false);
    for (std::size_t i = 0; i < a.size(); ++i) {
        const int other = nearest(a[i], b);
        const bool mutual =
            other >= 0 && nearest(b[static_cast<std::size_t>(other)], a) == static_cast<int>(i);
        pairs.emplace_back(static_cast<int>(i), mutual ? other : -1);
        if (mutual) taken[static_cast<std::size_t>(other)] = true;
    }
    for (std::size_t i = 0; i < b.size(); ++i) {
        if (!taken[i]) pairs.emplace_back(-1, static_cast<int>(i));
    }
    return pairs;
}

/// Walks over the columns of one facing after the other, and keeps no more of them than are needed to see
/// the next ones' borders.
template <int D>
class Sampling {
  public:
    explicit Sampling(const Surveyed<D>& surveyed)
        : s_(surveyed), columns_(surveyed.grid.column_count()), signals_(surveyed.rig.signals.size()) {
        samples_.measure.resize(signals_);
        samples_.counts.resize(signals_);
    }

    Samples<D> run(const std::function<void(double)>& progress) {
        for (std::size_t facing = 0; facing < s_.facings.size(); ++facing) {
            facing_ = facing;
            walk([&](double done) {
                if (progress)
                    progress(0.6 * (static_cast<double>(facing) + done) /
                             static_cast<double>(s_.facings.size()));
            });
        }
        if (s_.near_features) judge_features();
        finish();
        return std::move(samples_);
    }

  private:
    template <class Told>
    void walk(Told told) {
        constexpr std::size_t batch = 8192;
        const std::size_t ahead = s_.grid.stride(D - 2);  // the farthest neighbour
        window_.clear();
        first_ = 0;
        for (std::size_t begin = 0; begin < columns_; begin += batch) {
            const std::size_t end = std::min(begin + batch, columns_);
            judge_until(std::min(end + ahead, columns_));
            std::vector<std::vector<Searched>> found(end - begin);
            for_each_index(found.size(), [&](std::size_t i) {
                for (std::size_t axis = 0; axis + 1 < D; ++axis) across(begin + i, axis, found[i]);
                upwards(begin + i, found[i]);
            });
            for (const auto& of_column : found) {
                for (const Searched& searched : of_column) gather(searched);
            }
            // No later column adds to these.
            for (; first_ < end; ++first_, window_.pop_front()) add_shares(window_.front());
            told(static_cast<double>(end) / static_cast<double>(columns_));
        }
    }

    Column<D>& column(std::size_t number) { return window_[number - first_]; }
    const Column<D>& column(std::size_t number) const { return window_[number - first_]; }

    /// Judges the columns not judged yet, in parallel, and takes their poses in order, so that the number of
    /// threads does not show.
    void judge_until(std::size_t end) {
        const std::size_t begin = first_ + window_.size();
        if (begin >= end) return;
        window_.resize(end - first_);
        for_each_index(end - begin, [&](std::size_t i) { judge_column(begin + i, column(begin + i)); });
        for (std::size_t i = begin; i < end; ++i) {
            samples_.clipped += column(i).clipped;
            for (ColumnRest<D>& rest : column(i).rests) {
                for (std::size_t k = 0; k < rest.poses.size(); ++k) {
                    if (!rest.poses[k]) continue;
                    rest.numbers[k] = take(*rest.poses[k]);
                    ++samples_.grid_poses;
                }
            }
        }
    }

    /// Counts a pose, and keeps it while there is room. Returns its number.
    std::uint64_t take(const SurveyPose<D>& pose) {
        for (std::size_t signal = 0; signal < signals_; ++signal)
            ++samples_.counts[signal][static_cast<std::size_t>(pose.verdict(signal))];
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

    /// Of a power of two of poses one is kept, by chance that is the same everywhere: every so many would be
    /// all of one height.
    static bool is_kept(std::uint64_t number, std::size_t step) {
        std::uint64_t state = number;
        return step == 1 || (next_random(state) & (step - 1)) == 0;
    }

    static bool is_wrong(const SurveyPose<D>& pose) { return (pose.signals_on ^ pose.truths_on) != 0; }

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

    void judge_column(std::size_t number, Column<D>& judged) const {
        const Place<D> place = s_.grid.place(number);
        const MountedRig<D>& mounted = s_.mounted[facing_];
        std::vector<double> heights;
        const auto judge_all = [&](Held held) {
            std::size_t clipped_rests = 0;
            find_rests<D>(s_.level_of(facing_),
                          {mounted.body.view(), s_.grid.point(place, 0.0), mounted.meets}, s_.rig.intent,
                          heights, &clipped_rests, held);
            judged.clipped += clipped_rests * s_.heights.size();
            for (const double height : heights) {
                // Under a ceiling only where there is a floor to have come from.
                if (held == Held::from_above && height < judged.rests.front().height) continue;
                if (!s_.contains(s_.grid.point(place, height))) continue;
                ColumnRest<D> rest;
                rest.height = height;
                rest.hanging = held == Held::from_above;
                for (std::size_t k = 0; k < s_.heights.size(); ++k) {
                    const double above = rest.hanging ? -s_.heights[k] : s_.heights[k];
                    rest.poses[k] = s_.judge(facing_, s_.grid.point(place, height), above);
                    if (!rest.poses[k]) ++judged.clipped;
                }
                rest.shares.resize(s_.heights.size() * (D - 1) * signals_);
                judged.rests.push_back(std::move(rest));
            }
        };
        judge_all(Held::from_below);
        if (s_.looks_up && !judged.rests.empty()) judge_all(Held::from_above);
    }

    /// Columns beside the corners of the level and where the body's rim passes them.
    void judge_features() {
        const std::vector<Place<D>> places = feature_places<D>(s_, columns_);
        constexpr std::size_t batch = 8192;
        for (facing_ = 0; facing_ < s_.facings.size(); ++facing_) {
            for (std::size_t first = 0; first < places.size(); first += batch) {
                std::vector<std::vector<SurveyPose<D>>> results(std::min(batch, places.size() - first));
                for_each_index(results.size(),
                               [&](std::size_t i) { judge_place(places[first + i], results[i]); });
                for (const auto& judged : results) {
                    for (const SurveyPose<D>& pose : judged) take(pose);
                }
            }
        }
    }

    void judge_place(const Place<D>& place, std::vector<SurveyPose<D>>& poses) const {
        const MountedRig<D>& mounted = s_.mounted[facing_];
        std::vector<double> heights;
        find_rests<D>(s_.level_of(facing_), {mounted.body.view(), s_.grid.point(place, 0.0), mounted.meets},
                      s_.rig.intent, heights);
        for (const double height : heights) {
            if (!s_.contains(s_.grid.point(place, height))) continue;
            for (const double above : s_.heights) {
                auto pose = s_.judge(facing_, s_.grid.point(place, height), above);
                if (!pose) continue;
                pose->border = true;
                poses.push_back(*pose);
            }
        }
    }

    /// A judged place: a column, a rest on it and a height above that; none where rest is negative.
    struct Spot {
        std::size_t column = 0;
        int rest = -1;
        std::size_t k = 0;
    };

    End<D> end_at(const Spot& spot) const {
        End<D> end;
        end.place = s_.grid.place(spot.column);
        end.above_rest = s_.heights[spot.k];
        if (spot.rest < 0) return end;
        const ColumnRest<D>& rest = column(spot.column).rests[static_cast<std::size_t>(spot.rest)];
        end.rest = rest.height;
        end.hanging = rest.hanging;
        if (end.hanging) end.above_rest = -end.above_rest;
        end.pose = rest.poses[spot.k];
        end.number = {rest.numbers[spot.k], false};
        return end;
    }

    /// A searched stretch, its ends on the grid, and the axis along which it runs; -1: upwards.
    struct Searched {
        StretchResult<D> result;
        std::array<Spot, 2> ends;
        int axis = -1;
    };

    void across(std::size_t number, std::size_t axis, std::vector<Searched>& results) const {
        constexpr double steepest_surface = 6.0;
        if (!s_.grid.has_next(number, axis)) return;
        const std::size_t next = number + s_.grid.stride(axis);
        for (const auto& [a, b] :
             matched_rests<D>(column(number).rests, column(next).rests, steepest_surface * s_.grid.spacing)) {
            for (std::size_t k = 0; k < s_.heights.size(); ++k) {
                const std::array<Spot, 2> ends = {Spot{number, a, k}, Spot{next, b, k}};
                End<D> from = end_at(ends[0]);
                End<D> to = end_at(ends[1]);
                if (!from.rest) from.hanging = to.hanging;
                if (from.above_rest * to.above_rest < 0.0) (from.rest ? to : from).above_rest *= -1.0;
                results.push_back(
                    {search_stretch<D>(s_, facing_, true, from, to), ends, static_cast<int>(axis)});
            }
        }
    }

    void upwards(std::size_t number, std::vector<Searched>& results) const {
        for (int rest = 0; rest < static_cast<int>(column(number).rests.size()); ++rest) {
            for (std::size_t k = 0; k + 1 < s_.heights.size(); ++k) {
                const std::array<Spot, 2> ends = {Spot{number, rest, k}, Spot{number, rest, k + 1}};
                auto found = search_stretch<D>(s_, facing_, false, end_at(ends[0]), end_at(ends[1]));
                if (found.found.empty() && found.borders.empty() && found.links.empty()) continue;
                results.push_back({std::move(found), ends, -1});
            }
        }
    }

    void gather(const Searched& searched) {
        const StretchResult<D>& result = searched.result;
        const std::uint64_t base = samples_.judged;
        const auto number_of = [base](const PoseNumber& pose) {
            return pose.number + (pose.found ? base : 0);
        };
        for (const SurveyPose<D>& pose : result.found) take(pose);
        for (const auto& [pose, at] : result.borders) {
            if (is_kept(number_of(pose), samples_.wrong_step)) borders_.emplace_back(number_of(pose), at);
        }
        for (const auto& [a, b] : result.links) {
            const bool both =
                is_kept(number_of(a), samples_.wrong_step) && is_kept(number_of(b), samples_.wrong_step);
            if (both) links_.emplace_back(number_of(a), number_of(b));
        }
        if (searched.axis < 0) return;
        for (std::size_t half = 0; half < 2; ++half) {
            // What lies nearer to an end without a pose goes to the other.
            const bool own = has_pose(searched.ends[half]);
            const Spot& end = searched.ends[own ? half : 1 - half];
            if (!own && !has_pose(end)) continue;
            add_half(searched, half, end);
        }
    }

    bool has_pose(const Spot& spot) const {
        if (spot.rest < 0) return false;
        return column(spot.column).rests[static_cast<std::size_t>(spot.rest)].poses[spot.k].has_value();
    }

    void add_half(const Searched& searched, std::size_t half, const Spot& end) {
        ColumnRest<D>& rest = column(end.column).rests[static_cast<std::size_t>(end.rest)];
        Measure* const share =
            rest.shares.data() + (end.k * (D - 1) + static_cast<std::size_t>(searched.axis)) * signals_;
        const auto& halves = searched.result.halves[half];
        for (std::size_t signal = 0; signal < signals_; ++signal) {
            if (halves.empty()) {
                const auto verdict = static_cast<std::size_t>(rest.poses[end.k]->verdict(signal));
                share[signal][verdict] += 0.5 * searched.result.length;
                continue;
            }
            for (std::size_t v = 0; v < verdict_count; ++v) share[signal][v] += halves[signal][v];
        }
    }

    void add_shares(const Column<D>& finished) {
        for (const ColumnRest<D>& rest : finished.rests) {
            for (std::size_t k = 0; k < rest.poses.size(); ++k) {
                if (!rest.poses[k]) continue;
                for (std::size_t signal = 0; signal < signals_; ++signal)
                    add_share(rest.shares.data() + k * (D - 1) * signals_, signal);
            }
        }
    }

    /// Adds a grid pose's part of the ground to the measure. In 3D it is known along two lines that cross at
    /// the pose. A border that only one of them meets is measured by that one alone: the other runs beside
    /// it.
    void add_share(const Measure* shares, std::size_t signal) {
        Measure& total = samples_.measure[signal];
        const Measure& along_first = shares[signal];
        if constexpr (D == 2) {
            for (std::size_t v = 0; v < verdict_count; ++v) total[v] += along_first[v];
        } else {
            const Measure& along_second = shares[signals_ + signal];
            const auto meets_border = [&](const Measure& measure) {
                const double most = *std::max_element(measure.begin(), measure.end());
                return std::abs(most - s_.grid.spacing) > 1e-9 * s_.grid.spacing;
            };
            const bool first = meets_border(along_first);
            const bool second = meets_border(along_second);
            const double weight = first == second ? 0.5 : first ? 1.0 : 0.0;
            for (std::size_t v = 0; v < verdict_count; ++v)
                total[v] += s_.grid.spacing * (weight * along_first[v] + (1.0 - weight) * along_second[v]);
        }
    }

    const Surveyed<D>& s_;
    std::size_t columns_;
    std::size_t signals_;
    std::size_t facing_ = 0;
    std::deque<Column<D>> window_;
    std::size_t first_ = 0;  // the column at the window's front
    Samples<D> samples_;
    std::vector<std::uint64_t> numbers_;  // of the poses kept, ascending
    std::size_t wrong_kept_ = 0;
    std::size_t right_kept_ = 0;
    std::vector<std::pair<std::uint64_t, Vec<D>>> borders_;
    std::vector<std::pair<std::uint64_t, std::uint64_t>> links_;
};

}  // namespace

template <int D>
Samples<D> take_samples(const Surveyed<D>& surveyed, const std::function<void(double)>& progress) {
    return Sampling<D>(surveyed).run(progress);
}

template Samples<2> take_samples<2>(const Surveyed<2>&, const std::function<void(double)>&);
template Samples<3> take_samples<3>(const Surveyed<3>&, const std::function<void(double)>&);

}  // namespace hollow_probe
