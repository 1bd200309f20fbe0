#include "verify/samples.hpp"

#include <algorithm>

#include "hollow_probe/truth/ground.hpp"
#include "hollow_probe/truth/rest.hpp"
#include "verify/parallel.hpp"

namespace hollow_probe {
namespace {

using Measure = std::array<double, verdict_count>;

/// Where the body rests on one column in one facing, and what was judged there.
template <int D>
struct ColumnRest {
    double height = 0.0;
    bool hanging = false;                 // held from above: where the body, raised, meets a ceiling
    std::array<std::int64_t, 4> poses{};  // by height above rest; -1 where the body clips
};

/// One end of a stretch in which borders are looked for. Absent: the body has no rest there, or clips.
template <int D>
struct End {
    Place<D> place = Place<D>::Zero();
    std::optional<double> rest;
    bool hanging = false;
    double above_rest = 0.0;
    std::optional<SurveyPose<D>> pose;
    std::size_t index = 0;  // of the pose, among those known before or those found
    bool found = false;     // index counts from the poses found in this stretch
    double along = 0.0;     // 0 at the stretch's first end, 1 at its last
};

/// A pose of a stretch, by index among those known before or those found in it.
struct PoseIndex {
    std::size_t index = 0;
    bool found = false;
};

template <int D>
struct StretchResult {
    std::vector<SurveyPose<D>> found;
    std::vector<std::pair<PoseIndex, Vec<D>>> borders;
    std::vector<std::pair<PoseIndex, PoseIndex>> links;
    std::array<std::vector<Measure>, 2> halves;  // by half, then signal: the length with each verdict
};

/// Finds the borders between two ends by halving every part whose ends differ.
template <int D>
class Stretch {
  public:
    Stretch(const Surveyed<D>& surveyed, std::size_t facing, bool measured)
        : s_(surveyed), facing_(facing), measured_(measured) {}

    StretchResult<D> run(const End<D>& a, End<D> b) {
        b.along = 1.0;
        length_ = (a.place - b.place).norm() + std::abs(a.above_rest - b.above_rest);
        if (measured_) result_.halves.fill(std::vector<Measure>(s_.rig.signals.size()));
        search(a, b);
        return std::move(result_);
    }

  private:
    void search(const End<D>& a, const End<D>& b) {
        const bool same = same_verdicts(a, b);
        if (same || (b.along - a.along) * length_ <= s_.border_width) {
            const double middle = 0.5 * (a.along + b.along);
            measure(a, a.along, middle);
            measure(b, middle, b.along);
            if (is_wrong(a) && is_wrong(b)) result_.links.push_back({{a.index, a.found}, {b.index, b.found}});
            if (same) return;
            border(a, b);
            border(b, a);
            return;
        }
        const End<D> middle = between(a, b);
        search(a, middle);
        search(middle, b);
    }

    bool same_verdicts(const End<D>& a, const End<D>& b) const {
        if (a.pose.has_value() != b.pose.has_value()) return false;
        if (!a.pose) return true;
        for (std::size_t signal = 0; signal < s_.rig.signals.size(); ++signal) {
            if (a.pose->verdict(signal) != b.pose->verdict(signal)) return false;
        }
        return true;
    }

    bool is_wrong(const End<D>& end) const {
        return end.pose && (end.pose->signals_on ^ end.pose->truths_on) != 0;
    }

    void measure(const End<D>& end, double from, double to) {
        if (!measured_ || !end.pose) return;
        const std::array<double, 2> lengths = {std::max(0.0, std::min(to, 0.5) - from),
                                               std::max(0.0, to - std::max(from, 0.5))};
        for (std::size_t half = 0; half < 2; ++half) {
            for (std::size_t signal = 0; signal < s_.rig.signals.size(); ++signal) {
                result_.halves[half][signal][static_cast<std::size_t>(end.pose->verdict(signal))] +=
                    lengths[half] * length_;
            }
        }
    }

    void border(const End<D>& end, const End<D>& other) {
        if (!end.pose) return;
        const Vec<D> at = other.pose ? Vec<D>(0.5 * (end.pose->anchor + other.pose->anchor))
                                     : s_.grid.point(0.5 * (end.place + other.place),
                                                     s_.grid.axes.up.dot(end.pose->anchor));
        result_.borders.push_back({{end.index, end.found}, at});
    }

    End<D> between(const End<D>& a, const End<D>& b) {
        End<D> middle;
        middle.place = 0.5 * (a.place + b.place);
        middle.hanging = a.hanging;
        middle.above_rest = 0.5 * (a.above_rest + b.above_rest);
        middle.along = 0.5 * (a.along + b.along);
        middle.rest = rest_between(a, b, middle.place);
        if (middle.rest)
            middle.pose = s_.judge(facing_, s_.grid.point(middle.place, *middle.rest), middle.above_rest);
        if (middle.pose) {
            middle.pose->border = true;
            middle.index = result_.found.size();
            middle.found = true;
            result_.found.push_back(*middle.pose);
        }
        return middle;
    }

    /// The rest at a place between two ends that belongs to the surface they stand on.
    std::optional<double> rest_between(const End<D>& a, const End<D>& b, const Place<D>& place) {
        constexpr double steepest_surface = 6.0;  // rise over run; beyond it a surface counts as broken off
        if (!a.rest && !b.rest) return std::nullopt;
        if (a.place == b.place) return a.rest;
        const double run = (a.place - b.place).norm();
        const double expected = a.rest && b.rest ? 0.5 * (*a.rest + *b.rest) : a.rest ? *a.rest : *b.rest;
        double allowed = steepest_surface * 0.5 * run + s_.rig.intent.touch;
        if (a.rest && b.rest)
            allowed = std::max(allowed, 0.5 * std::abs(*a.rest - *b.rest) + s_.rig.intent.touch);
        const MountedRig<D>& mounted = s_.mounted[facing_];
        find_rests<D>(s_.level_of(facing_), {mounted.body.view(), s_.grid.point(place, 0.0), mounted.meets},
                      s_.rig.intent, heights_, nullptr, a.hanging ? Held::from_above : Held::from_below);
        std::optional<double> best;
        for (const double height : heights_) {
            if (std::abs(height - expected) > allowed) continue;
            if (!s_.contains(s_.grid.point(place, height))) continue;
            if (!best || std::abs(height - expected) < std::abs(*best - expected)) best = height;
        }
        return best;
    }

    const Surveyed<D>& s_;
    std::size_t facing_;
    bool measured_;
    double length_ = 0.0;
    StretchResult<D> result_;
    std::vector<double> heights_;
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

template <int D>
class Sampling {
  public:
    explicit Sampling(const Surveyed<D>& surveyed) : s_(surveyed), columns_(surveyed.grid.column_count()) {
        samples.measure.resize(s_.rig.signals.size());
    }

    void judge_grid() {
        rests_.resize(s_.facings.size() * columns_);
        struct Judged {
            std::vector<SurveyPose<D>> poses;
            std::size_t clipped = 0;
        };
        in_batches<Judged>(
            [&](std::size_t slot, Judged& judged) { judge_column(slot, judged.poses, judged.clipped); },
            [&](std::size_t slot, const Judged& judged) {
                const auto base = static_cast<std::int64_t>(samples.poses.size());
                for (ColumnRest<D>& rest : rests_[slot]) {
                    for (std::int64_t& pose : rest.poses) pose = pose < 0 ? -1 : pose + base;
                }
                samples.poses.insert(samples.poses.end(), judged.poses.begin(), judged.poses.end());
                samples.clipped += judged.clipped;
            });
        samples.grid_poses = samples.poses.size();
    }

    /// Borders between neighbouring columns, at each height above rest, and between heights on each column.
    void find_borders() {
        shares_.resize(samples.grid_poses);
        in_batches<std::vector<Searched>>(
            [&](std::size_t slot, std::vector<Searched>& found) {
                for (std::size_t axis = 0; axis + 1 < D; ++axis) across(slot, axis, found);
                upwards(slot, found);
            },
            [&](std::size_t, const std::vector<Searched>& found) {
                for (const Searched& searched : found) gather(searched);
            });
        for (Shares& shares : shares_) {
            for (auto& along_axis : shares) along_axis.resize(s_.rig.signals.size());
            for (std::size_t signal = 0; signal < s_.rig.signals.size(); ++signal) add_share(shares, signal);
        }
    }

    /// Columns beside the corners of the level and where the body's rim passes them.
    void judge_features() {
        const std::vector<Place<D>> places = feature_places();
        struct Judged {
            std::vector<SurveyPose<D>> poses;
        };
        constexpr std::size_t batch = 8192;
        const std::size_t all = places.size() * s_.facings.size();
        for (std::size_t first = 0; first < all; first += batch) {
            std::vector<Judged> results(std::min(batch, all - first));
            for_each_index(results.size(), [&](std::size_t i) {
                judge_place((first + i) / places.size(), places[(first + i) % places.size()],
                            results[i].poses);
            });
            for (const Judged& judged : results)
                samples.poses.insert(samples.poses.end(), judged.poses.begin(), judged.poses.end());
        }
    }

    Samples<D> samples;

  private:
    std::vector<Place<D>> feature_places() const {
        std::vector<Place<D>> corners;
        for (std::uint32_t piece = 0; piece < s_.level.piece_count(); ++piece) {
            for (const Vec<D>& corner : s_.level.piece(piece).points) {
                Place<D> place;
                for (std::size_t axis = 0; axis + 1 < D; ++axis)
                    place[static_cast<Eigen::Index>(axis)] = s_.grid.axes.across[axis].dot(corner);
                corners.push_back(place);
            }
        }
        const auto less = [](const Place<D>& a, const Place<D>& b) {
            return std::lexicographical_compare(a.data(), a.data() + a.size(), b.data(), b.data() + b.size());
        };
        std::sort(corners.begin(), corners.end(), less);
        corners.erase(std::unique(corners.begin(), corners.end()), corners.end());
        // Just beside a corner, and with the rim of the narrowest stance just on and just off it.
        const double rim = 0.5 * s_.narrowest_width;
        const std::array<double, 3> beside = {1e-3 * rim, 0.999 * rim, 1.001 * rim};
        const std::size_t each = 2 * beside.size() * (D - 1);
        const std::size_t most = std::max<std::size_t>(1, columns_ / each);
        const std::size_t step = (corners.size() + most - 1) / most;
        std::vector<Place<D>> places;
        for (std::size_t i = 0; i < corners.size(); i += std::max<std::size_t>(step, 1)) {
            for (Eigen::Index axis = 0; axis + 1 < D; ++axis) {
                for (const double aside : beside) {
                    for (const double sign : {-1.0, 1.0}) {
                        places.push_back(corners[i]);
                        places.back()[axis] += sign * aside;
                    }
                }
            }
        }
        return places;
    }

    void judge_place(std::size_t facing, const Place<D>& place, std::vector<SurveyPose<D>>& poses) const {
        const MountedRig<D>& mounted = s_.mounted[facing];
        std::vector<double> heights;
        find_rests<D>(s_.level_of(facing), {mounted.body.view(), s_.grid.point(place, 0.0), mounted.meets},
                      s_.rig.intent, heights);
        for (const double height : heights) {
            if (!s_.contains(s_.grid.point(place, height))) continue;
            for (const double above : s_.heights) {
                auto pose = s_.judge(facing, s_.grid.point(place, height), above);
                if (!pose) continue;
                pose->border = true;
                poses.push_back(*pose);
            }
        }
    }

    /// Makes a Result for every slot (facing and column) in parallel and takes them in order, a batch at a
    /// time, so that neither the number of threads nor the size of the level shows.
    template <class Result, class Make, class Take>
    void in_batches(Make make, Take take) {
        constexpr std::size_t batch = 8192;
        std::vector<Result> results;
        for (std::size_t first = 0; first < rests_.size(); first += batch) {
            const std::size_t count = std::min(batch, rests_.size() - first);
            results.assign(count, Result{});
            for_each_index(count, [&](std::size_t i) { make(first + i, results[i]); });
            for (std::size_t i = 0; i < count; ++i) take(first + i, results[i]);
        }
    }

    void judge_column(std::size_t slot, std::vector<SurveyPose<D>>& poses, std::size_t& clipped) {
        const std::size_t facing = slot / columns_;
        const Place<D> place = s_.grid.place(slot % columns_);
        const MountedRig<D>& mounted = s_.mounted[facing];
        std::vector<double> heights;
        const auto judge_all = [&](Held held) {
            std::size_t clipped_rests = 0;
            find_rests<D>(s_.level_of(facing), {mounted.body.view(), s_.grid.point(place, 0.0), mounted.meets},
                          s_.rig.intent, heights, &clipped_rests, held);
            clipped += clipped_rests * s_.heights.size();
            for (const double height : heights) {
                // Under a ceiling only where there is a floor to have come from.
                if (held == Held::from_above && height < rests_[slot].front().height) continue;
                if (!s_.contains(s_.grid.point(place, height))) continue;
                ColumnRest<D> rest;
                rest.height = height;
                rest.hanging = held == Held::from_above;
                for (std::size_t k = 0; k < s_.heights.size(); ++k) {
                    const double above = rest.hanging ? -s_.heights[k] : s_.heights[k];
                    const auto pose = s_.judge(facing, s_.grid.point(place, height), above);
                    rest.poses[k] = pose ? static_cast<std::int64_t>(poses.size()) : -1;
                    if (pose) {
                        poses.push_back(*pose);
                    } else {
                        ++clipped;
                    }
                }
                rests_[slot].push_back(rest);
            }
        };
        judge_all(Held::from_below);
        if (s_.looks_up && !rests_[slot].empty()) judge_all(Held::from_above);
    }

    End<D> end_at(std::size_t slot, int rest, std::size_t k) const {
        End<D> end;
        end.place = s_.grid.place(slot % columns_);
        end.above_rest = s_.heights[k];
        if (rest < 0) return end;
        const ColumnRest<D>& column_rest = rests_[slot][static_cast<std::size_t>(rest)];
        end.rest = column_rest.height;
        end.hanging = column_rest.hanging;
        if (end.hanging) end.above_rest = -end.above_rest;
        if (column_rest.poses[k] >= 0) {
            end.index = static_cast<std::size_t>(column_rest.poses[k]);
            end.pose = samples.poses[end.index];
        }
        return end;
    }

    /// A searched stretch and the grid poses at its ends, -1 where there is none.
    struct Searched {
        StretchResult<D> result;
        std::array<std::int64_t, 2> ends{-1, -1};
        std::size_t axis = 0;
    };

    /// For one grid pose: by axis, then signal, the lengths around it with each verdict.
    using Shares = std::array<std::vector<Measure>, D - 1>;

    void gather(const Searched& searched) {
        const StretchResult<D>& result = searched.result;
        const std::size_t base = samples.poses.size();
        const auto index_of = [base](const PoseIndex& pose) { return pose.index + (pose.found ? base : 0); };
        samples.poses.insert(samples.poses.end(), result.found.begin(), result.found.end());
        for (const auto& [pose, at] : result.borders) samples.borders.push_back({index_of(pose), at});
        for (const auto& [a, b] : result.links) samples.links.emplace_back(index_of(a), index_of(b));
        for (std::size_t half = 0; half < 2; ++half) {
            // What lies nearer to an end without a pose goes to the other.
            const std::int64_t end = searched.ends[half] >= 0 ? searched.ends[half] : searched.ends[1 - half];
            if (end < 0 || result.halves[half].empty()) continue;
            auto& share = shares_[static_cast<std::size_t>(end)][searched.axis];
            share.resize(s_.rig.signals.size());
            for (std::size_t signal = 0; signal < share.size(); ++signal) {
                for (std::size_t v = 0; v < verdict_count; ++v)
                    share[signal][v] += result.halves[half][signal][v];
            }
        }
    }

    /// Adds a grid pose's part of the ground to the measure. In 3D it is known along two lines that cross at
    /// the pose. A border that only one of them meets is measured by that one alone: the other runs beside
    /// it.
    void add_share(const Shares& shares, std::size_t signal) {
        Measure& total = samples.measure[signal];
        if constexpr (D == 2) {
            for (std::size_t v = 0; v < verdict_count; ++v) total[v] += shares[0][signal][v];
        } else {
            const auto meets_border = [&](std::size_t axis) {
                const Measure& measure = shares[axis][signal];
                const double most = *std::max_element(measure.begin(), measure.end());
                return std::abs(most - s_.grid.spacing) > 1e-9 * s_.grid.spacing;
            };
            const bool first = meets_border(0);
            const bool second = meets_border(1);
            const double weight = first == second ? 0.5 : first ? 1.0 : 0.0;
            for (std::size_t v = 0; v < verdict_count; ++v) {
                total[v] +=
                    s_.grid.spacing * (weight * shares[0][signal][v] + (1.0 - weight) * shares[1][signal][v]);
            }
        }
    }

    std::int64_t pose_at(std::size_t slot, int rest, std::size_t k) const {
        return rest < 0 ? -1 : rests_[slot][static_cast<std::size_t>(rest)].poses[k];
    }

    void across(std::size_t slot, std::size_t axis, std::vector<Searched>& results) const {
        constexpr double steepest_surface = 6.0;
        if (!s_.grid.has_next(slot % columns_, axis)) return;
        const std::size_t next = slot + s_.grid.stride(axis);
        for (const auto& [a, b] :
             matched_rests<D>(rests_[slot], rests_[next], steepest_surface * s_.grid.spacing)) {
            for (std::size_t k = 0; k < s_.heights.size(); ++k) {
                Stretch<D> stretch(s_, slot / columns_, true);
                End<D> from = end_at(slot, a, k);
                End<D> to = end_at(next, b, k);
                if (!from.rest) from.hanging = to.hanging;
                if (from.above_rest * to.above_rest < 0.0) (from.rest ? to : from).above_rest *= -1.0;
                results.push_back({stretch.run(from, to), {pose_at(slot, a, k), pose_at(next, b, k)}, axis});
            }
        }
    }

    void upwards(std::size_t slot, std::vector<Searched>& results) const {
        for (int rest = 0; rest < static_cast<int>(rests_[slot].size()); ++rest) {
            for (std::size_t k = 0; k + 1 < s_.heights.size(); ++k) {
                Stretch<D> stretch(s_, slot / columns_, false);
                auto found = stretch.run(end_at(slot, rest, k), end_at(slot, rest, k + 1));
                if (found.borders.empty() && found.links.empty()) continue;
                results.push_back({std::move(found), {-1, -1}, 0});
            }
        }
    }

    const Surveyed<D>& s_;
    std::size_t columns_;
    std::vector<std::vector<ColumnRest<D>>> rests_;  // by facing, then column
    std::vector<Shares> shares_;                     // by grid pose
};

}  // namespace

template <int D>
Samples<D> take_samples(const Surveyed<D>& surveyed, const std::function<void(double)>& progress) {
    Sampling<D> sampling(surveyed);
    sampling.judge_grid();
    if (progress) progress(0.3);
    sampling.find_borders();
    if (surveyed.near_features) sampling.judge_features();
    return std::move(sampling.samples);
}

template Samples<2> take_samples<2>(const Surveyed<2>&, const std::function<void(double)>&);
template Samples<3> take_samples<3>(const Surveyed<3>&, const std::function<void(double)>&);

}  // namespace hollow_probe
