#include "verify/samples.hpp"

#include <algorithm>
#include <deque>

#include "geometry/parallel.hpp"
#include "geometry/random.hpp"
#include "geometry/together.hpp"
#include "hollow_probe/geometry/tolerances.hpp"
#include "verify/column_bytes.hpp"
#include "verify/facing_columns.hpp"

namespace hollow_probe {
namespace {

template <int D>
bool is_wrong(const SurveyPose<D>& pose) {
    return (pose.signals_on ^ pose.truths_on).any();
}

/// Poses, and the interval of a further column that each belongs together with.
using Waiting = std::vector<std::pair<std::uint64_t, std::size_t>>;

/// A column on the grid on its way through the survey; or a row of columns at a feature.
template <int D>
struct GridColumn {
    DecidedColumn<D> decided;
    std::vector<Measure> lengths;              // by signal
    std::vector<std::vector<Measure>> shares;  // by axis, then signal: the area or length around it
    double width = 0.0;                        // to half way to its neighbours, along the first axis
    /// By facing that it stands for: poses of columns before it that belong together with one of its
    /// intervals, once that has numbers.
    std::vector<Waiting> waiting;
    std::vector<Vec<D>> ways_back;  // half the way to the columns before it
    std::vector<DecidedColumn<D>> row;
};

/// Takes poses and keeps no more than there is room for.
template <int D>
class Keeper {
  public:
    Keeper(const Planned<D>& s, Samples<D>& samples, bool keeps) : s_(s), samples_(samples), keeps_(keeps) {
        samples_.measure.resize(s.rig.signals.size());
        samples_.counts.resize(s.rig.signals.size());
    }

    [[nodiscard]] bool keeps() const { return keeps_; }

    /// Counts a pose, and keeps it while there is room. Its number is how many were judged before it.
    void take(const SurveyPose<D>& pose) {
        for (std::size_t signal = 0; signal < samples_.counts.size(); ++signal)
            ++samples_.counts[signal][static_cast<std::size_t>(pose.verdict(signal))];
        samples_.ever_on |= pose.probes_on;
        samples_.ever_off |= ~pose.probes_on & mounted_probes(pose.facing);
        const std::uint64_t number = samples_.judged++;
        if (!keeps_) return;
        const bool wrong = is_wrong(pose);
        if (!is_kept(number, wrong ? samples_.wrong_step : samples_.right_step)) return;
        samples_.poses.push_back(pose);
        numbers_.push_back(number);
        ++(wrong ? wrong_kept_ : right_kept_);
        if (wrong_kept_ > s_.most_kept / 2) thin(true);
        if (right_kept_ > s_.most_kept / 2) thin(false);
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
    bool keeps_;                          // poses, their borders and links
    std::vector<std::uint64_t> numbers_;  // of the poses kept, ascending
    std::size_t wrong_kept_ = 0;
    std::size_t right_kept_ = 0;
    std::vector<std::pair<std::uint64_t, Vec<D>>> borders_;
    std::vector<std::pair<std::uint64_t, std::uint64_t>> links_;
};

/// The numbers of the poses of a column, by interval: each has those from its own to before the next one's.
struct Numbers {
    std::vector<std::uint64_t> begins;  // of the intervals, and the end

    [[nodiscard]] std::uint64_t first(std::size_t interval) const { return begins[interval]; }
    [[nodiscard]] std::uint64_t end(std::size_t interval) const { return begins[interval + 1]; }
};

/// Walks over the columns of one facing after the other, and keeps no more of them than are needed to see
/// the next ones' borders. Of facings that are alike only the first is walked over: its poses are taken once
/// for each.
template <int D>
class Sampling {
  public:
    Sampling(const Planned<D>& planned, Keep keep)
        : s_(planned),
          signals_(planned.rig.signals.size()),
          keeper_(planned, samples_, keep == Keep::poses),
          columns_(planned) {
        alike_.resize(planned.facings.size());
        for (std::size_t facing = 0; facing < alike_.size(); ++facing)
            alike_[planned.first[facing]].push_back(static_cast<std::uint16_t>(facing));
    }

    Samples<D> run(const std::function<void(double)>& progress) {
        SurveyScope& scope = samples_.scope;
        scope.odd = columns_.enclosed(0).odd();
        for (std::size_t facing = 0; facing < s_.facings.size(); ++facing) {
            const Enclosed<D>& enclosed = columns_.enclosed(facing);
            const LayerSet meets = s_.mounted[facing].meets;
            for (const std::uint32_t solid : enclosed.left_out(s_.level, meets))
                scope.enclosed.push_back(s_.level.solids()[solid].name);
            for (const std::uint32_t solid : enclosed.entered(s_.level, meets))
                scope.entered.push_back(s_.level.solids()[solid].name);
            const FacingColumns<D>& columns = columns_.of(facing);
            scope.corners_left_out += columns.corners_left_out();
            scope.lowest = std::min(scope.lowest, columns.judge().whole().low);
            scope.highest = std::max(scope.highest, columns.judge().whole().high);
            if (!s_.is_first(facing)) {
                ++scope.facings_alike;
                continue;
            }
            firsts_.push_back(facing);
            begins_.push_back(count_);
            count_ += columns.count() + columns.row_count();
            ahead_ = std::max(ahead_, columns.stride(D - 2));
        }
        samples_.effort.resize(s_.facings.size());
        walk(progress);
        for (auto* names : {&scope.enclosed, &scope.entered}) {
            std::sort(names->begin(), names->end());
            names->erase(std::unique(names->begin(), names->end()), names->end());
        }
        keeper_.finish();
        return std::move(samples_);
    }

  private:
    /// A column, or a row of them at a feature.
    struct Piece {
        const FacingColumns<D>& columns;
        std::size_t facing;  // the first of those that are alike
        std::size_t number;  // among the facing's columns, or its rows
        bool is_row;

        [[nodiscard]] bool has_next(std::size_t axis) const {
            return !is_row && columns.has_next(number, axis);
        }
    };
    /// The columns and rows of all facings that are no other's like, one facing after the other.
    Piece piece(std::size_t i) const {
        const auto after = std::upper_bound(begins_.begin(), begins_.end(), i);
        const auto order = static_cast<std::size_t>(after - begins_.begin()) - 1;
        const std::size_t facing = firsts_[order];
        const FacingColumns<D>& columns = columns_.of(facing);
        const std::size_t number = i - begins_[order];
        if (number < columns.count()) return {columns, facing, number, false};
        return {columns, facing, number - columns.count(), true};
    }

    using Ways = std::array<Between<D>, D - 1>;  // to the next columns
    /// What is found of a piece: itself, or what lies between it and the next ones.
    struct Found {
        std::vector<DecidedColumn<D>> decided;
        Ways ways;

        template <class Archive>
        friend void members(Archive& archive, Found& found) {
            members(archive, found.decided);
            members(archive, found.ways);
        }
    };

    /// What was found at once: what lies behind some pieces, and then further pieces.
    struct Batch {
        std::size_t begin = 0;
        std::size_t end = 0;
        std::vector<Found> found;
    };

    /// Some pieces at a time: borders behind them are found while those before are finished and further ones
    /// are decided, so that threads seldom wait for each other.
    void walk(const std::function<void(double)>& progress) {
        // The last of them are finished with nothing left to find; ranks send what they found after each.
        const std::size_t at_once = s_.sharing ? 1024 : 256;
        Batch last = look(0, 0, std::min(at_once + ahead_, count_));
        take_in(last);
        while (last.end < count_) {
            const std::size_t end = std::min(last.end + at_once, count_);
            Batch next;
            do_both([&] { finish(last); },
                    [&] { next = look(last.end, end, std::min(end + at_once + ahead_, count_)); });
            while (first_ < last.end) {
                window_.pop_front();
                ++first_;
            }
            last = std::move(next);
            take_in(last);
            if (progress) progress(0.6 * static_cast<double>(end) / static_cast<double>(count_));
        }
        finish(last);
    }

    /// What lies behind the pieces from `begin` to before `end`, and all further pieces up to before `until`.
    Batch look(std::size_t begin, std::size_t end, std::size_t until) const {
        const std::size_t known = first_ + window_.size();
        const std::size_t old = end - begin;
        // Who has found the truths of a column finds what lies behind it, for this rig and for changed ones.
        const auto home_of = [&](std::size_t i) {
            const Piece one = piece(i < old ? begin + i : known + i - old);
            return one.is_row ? one.number : one.columns.home_of(one.number);
        };
        return {begin, end,
                made_together<Found>(s_.sharing, old + until - known, home_of, [&](std::size_t i) {
                    s_.stop_if_asked();
                    return i < old ? Found{{}, ways_from(begin + i)} : Found{decide(known + i - old), {}};
                })};
    }

    /// Puts what was decided into the window.
    void take_in(Batch& batch) {
        for (std::size_t i = batch.end - batch.begin; i < batch.found.size(); ++i) {
            std::vector<DecidedColumn<D>>& decided = batch.found[i].decided;
            const Piece piece = this->piece(first_ + window_.size());
            GridColumn<D>& made = window_.emplace_back();
            if (piece.is_row) {
                made.row = std::move(decided);
                continue;
            }
            made.decided = std::move(decided.front());
            made.lengths = lengths_of<D>(made.decided, signals_);
            made.shares.assign(D - 1, std::vector<Measure>(signals_, Measure{}));
            made.waiting.resize(alike_[piece.facing].size());
        }
    }

    void finish(Batch& batch) {
        for (std::size_t i = batch.begin; i < batch.end; ++i) finish(i, batch.found[i - batch.begin].ways);
        batch.found.clear();
    }

    std::vector<DecidedColumn<D>> decide(std::size_t i) const {
        const Piece piece = this->piece(i);
        if (piece.is_row) return piece.columns.decide_row(piece.number);
        return {piece.columns.decide(piece.number)};
    }

    Ways ways_from(std::size_t i) const {
        const Piece piece = this->piece(i);
        Ways ways;
        for (std::size_t axis = 0; axis + 1 < D; ++axis) {
            if (!piece.has_next(axis)) continue;
            ways[axis] = piece.columns.between(piece.number, axis, column(i).decided,
                                               column(i + piece.columns.stride(axis)).decided);
        }
        return ways;
    }

    GridColumn<D>& column(std::size_t i) { return window_[i - first_]; }
    const GridColumn<D>& column(std::size_t i) const { return window_[i - first_]; }

    /// Gives the ground between two columns to them, and to those between.
    void share(GridColumn<D>& from, GridColumn<D>& to, std::size_t axis, const Between<D>& between) const {
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
    void finish(std::size_t i, const Ways& ways) {
        const Piece piece = this->piece(i);
        GridColumn<D>& own = column(i);
        const std::vector<std::uint16_t>& alike = alike_[piece.facing];
        if (piece.is_row) {
            for (const std::uint16_t facing : alike) finish_row(piece, own.row, facing);
            return;
        }
        for (std::size_t axis = 0; axis + 1 < D; ++axis) {
            if (piece.has_next(axis)) share(own, column(i + piece.columns.stride(axis)), axis, ways[axis]);
        }
        for (std::size_t signal = 0; signal < signals_; ++signal)
            add_share(own, signal, static_cast<double>(alike.size()));
        double& effort =
            samples_.effort[piece.facing][piece.number * Samples<D>::effort_steps / piece.columns.count()];
        effort += static_cast<double>(own.decided.asked);
        samples_.asked += own.decided.asked;
        for (const Between<D>& way : ways) {
            for (const DecidedColumn<D>& column : way.found) {
                effort += static_cast<double>(column.asked);
                samples_.asked += column.asked;
            }
        }
        for (std::size_t member = 0; member < alike.size(); ++member) take_poses(i, ways, member);
        for (std::size_t axis = 0; axis + 1 < D; ++axis) {
            if (!piece.has_next(axis)) continue;
            const DecidedColumn<D>& last = ways[axis].found.empty() ? own.decided : ways[axis].found.back();
            GridColumn<D>& next = column(i + piece.columns.stride(axis));
            next.ways_back.push_back(
                0.5 * (s_.grid.point(last.place, 0.0) - s_.grid.point(next.decided.place, 0.0)));
        }
    }

    /// … for one of the facings that it stands for.
    void take_poses(std::size_t i, const Ways& ways, std::size_t member) {
        const Piece piece = this->piece(i);
        const std::uint16_t facing = alike_[piece.facing][member];
        GridColumn<D>& own = column(i);
        const bool on_grid = piece.columns.is_on_grid(piece.number);
        const double cell = D == 2 ? own.width : s_.grid.spacing * s_.grid.spacing;
        ++(on_grid ? samples_.scope.grid_columns : samples_.scope.corner_columns);
        const std::size_t before = samples_.judged;
        const Numbers numbers = take(own.decided, cell, !on_grid, facing);
        if (!on_grid) samples_.corner_poses += samples_.judged - before;
        for (const auto& [pose, interval] : own.waiting[member]) {
            for (std::uint64_t other = numbers.first(interval); other < numbers.end(interval); ++other)
                keeper_.link(pose, other);
        }
        if (keeper_.keeps()) {
            for (const Vec<D>& way : own.ways_back) mark(own.decided, numbers, way);
        }
        for (std::size_t axis = 0; axis + 1 < D; ++axis) {
            if (!piece.has_next(axis)) continue;
            const Between<D>& way = ways[axis];
            samples_.scope.border_columns += way.found.size();
            const DecidedColumn<D>* last = &own.decided;
            const Numbers* last_numbers = &numbers;
            Numbers of_last;
            for (std::size_t k = 0; k < way.found.size(); ++k) {
                const double low = k == 0 ? 0.0 : way.along[k - 1];
                const double high = k + 1 == way.found.size() ? 1.0 : way.along[k + 1];
                double width = 0.5 * (high - low) * way.length;
                if (D == 3) width *= 0.5 * s_.grid.spacing;
                Numbers now = take(way.found[k], width, true, facing);
                join(*last, *last_numbers, way.found[k], &now, nullptr);
                last = &way.found[k];
                of_last = std::move(now);
                last_numbers = &of_last;
            }
            GridColumn<D>& next = column(i + piece.columns.stride(axis));
            join(*last, *last_numbers, next.decided, nullptr, &next.waiting[member]);
        }
    }

    Numbers take(const DecidedColumn<D>& decided, double cell, bool border, std::uint16_t facing) {
        Numbers numbers;
        numbers.begins.reserve(decided.intervals.size() + 1);
        for (const Interval<D>& interval : decided.intervals) {
            const double part = (interval.span.high - interval.span.low) * cell /
                                (1.0 + static_cast<double>(interval.further.size()));
            numbers.begins.push_back(samples_.judged);
            const auto take_one = [&](SurveyPose<D> pose) {
                pose.border = border;
                pose.facing = facing;
                pose.measure = part;
                keeper_.take(pose);
                if (!border) ++samples_.grid_poses;
            };
            take_one(interval.pose);
            for (const SurveyPose<D>& pose : interval.further) take_one(pose);
            if (!keeper_.keeps()) continue;
            for (std::uint64_t i = numbers.begins.back() + 1; i < samples_.judged; ++i)
                keeper_.link(i - 1, i);
        }
        numbers.begins.push_back(samples_.judged);
        return numbers;
    }

    /// Links what is wrong alike in two neighbouring columns. What is wrong in one of them is so half way to
    /// the other.
    void join(const DecidedColumn<D>& a, const Numbers& of_a, const DecidedColumn<D>& b, const Numbers* of_b,
              Waiting* waiting) {
        if (!keeper_.keeps()) return;
        if (waiting == nullptr) {
            link(a, of_a, b, *of_b, true);
        } else {
            for (const auto& [i, k] : wrong_alike<D>(a, b, true)) {
                for (std::uint64_t one = of_a.first(i); one < of_a.end(i); ++one)
                    waiting->emplace_back(one, k);
            }
        }
        const Vec<D> half = 0.5 * (s_.grid.point(b.place, 0.0) - s_.grid.point(a.place, 0.0));
        mark(a, of_a, half);
        if (of_b != nullptr) mark(b, *of_b, -half);
    }

    void mark(const DecidedColumn<D>& column, const Numbers& numbers, const Vec<D>& way) {
        for (std::size_t i = 0; i < column.intervals.size(); ++i) {
            if (!is_wrong(column.intervals[i].pose)) continue;
            const Interval<D>& interval = column.intervals[i];
            keeper_.border(numbers.first(i), interval.pose.anchor + way);
            for (std::size_t k = 0; k < interval.further.size(); ++k)
                keeper_.border(numbers.first(i) + k + 1, interval.further[k].anchor + way);
        }
    }

    /// Takes the poses of columns beside a corner or an edge of the level, and of those between that differ.
    void finish_row(const Piece& piece, const std::vector<DecidedColumn<D>>& row, std::uint16_t facing) {
        const double cell = 1e-3 * s_.narrowest_width * s_.grid.spacing;
        const std::size_t before = samples_.judged;
        Numbers last;
        for (std::size_t k = 0; k < row.size(); ++k) {
            Numbers now = take(row[k], cell, true, facing);
            if (facing == piece.facing) samples_.asked += row[k].asked;
            if (k > 0) link(row[k - 1], last, row[k], now, false);
            last = std::move(now);
        }
        const std::size_t in_row = piece.columns.columns_in_row(piece.number);
        samples_.scope.corner_columns += in_row;
        samples_.scope.border_columns += row.size() - in_row;
        samples_.corner_poses += samples_.judged - before;
    }

    /// Links what is wrong alike in two columns.
    void link(const DecidedColumn<D>& a, const Numbers& of_a, const DecidedColumn<D>& b, const Numbers& of_b,
              bool straight) {
        if (!keeper_.keeps()) return;
        for (const auto& [i, k] : wrong_alike<D>(a, b, straight)) {
            for (std::uint64_t one = of_a.first(i); one < of_a.end(i); ++one) {
                for (std::uint64_t other = of_b.first(k); other < of_b.end(k); ++other)
                    keeper_.link(one, other);
            }
        }
    }

    /// Adds a grid column's part of the ground to the measure. In 3D it is known along two lines that cross
    /// at it. A border that only one of them meets is measured by that one alone: the other runs beside it.
    void add_share(const GridColumn<D>& finished, std::size_t signal, double times) {
        Measure& total = samples_.measure[signal];
        const Measure& along_first = finished.shares[0][signal];
        if constexpr (D == 2) {
            for (std::size_t v = 0; v < verdict_count; ++v) total[v] += times * along_first[v];
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
                total[v] +=
                    times * s_.grid.spacing * (weight * along_first[v] + (1.0 - weight) * along_second[v]);
        }
    }

    const Planned<D>& s_;
    std::size_t signals_;
    Samples<D> samples_;
    Keeper<D> keeper_;
    RoundColumns<D> columns_;
    std::vector<std::vector<std::uint16_t>> alike_;  // by facing: all that are like it, if it is their first
    std::vector<std::size_t> firsts_;                // the facings that are walked over
    std::vector<std::size_t> begins_;                // the number of the first piece of each of these
    std::size_t count_ = 0;                          // of pieces
    std::size_t ahead_ = 0;                          // how far behind a column its farthest neighbour is
    std::deque<GridColumn<D>> window_;
    std::size_t first_ = 0;  // the piece at the window's front
};

}  // namespace

template <int D>
Samples<D> take_samples(const Planned<D>& planned, const std::function<void(double)>& progress, Keep keep) {
    return Sampling<D>(planned, keep).run(progress);
}

template Samples<2> take_samples<2>(const Planned<2>&, const std::function<void(double)>&, Keep);
template Samples<3> take_samples<3>(const Planned<3>&, const std::function<void(double)>&, Keep);

}  // namespace hollow_probe
