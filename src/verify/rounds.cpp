#include "verify/rounds.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>

#include "geometry/parallel.hpp"
#include "geometry/random.hpp"
#include "rig/probes_of.hpp"
#include "verify/column.hpp"
#include "verify/truth_store.hpp"

namespace hollow_probe {

std::size_t budget_of(const SurveyOptions& options) {
    constexpr std::size_t standard = 200'000;
    return options.budget.value_or(options.spacing > 0.0 ? 0 : standard);
}

template <int D>
Rig<D> scouts_at_poses(const Rig<D>& rig) {
    Rig<D> result = rig;
    bool before_move = false;
    for (Probe<D>& probe : result.probes) {
        if (probe.kind() == ProbeKind::contact) continue;
        const auto serves = [&](bool blocked) {
            return std::any_of(rig.signals.begin(), rig.signals.end(), [&](const Signal& signal) {
                return signal.claims && (signal.claims == Claim::blocked) == blocked &&
                       any_probe_of<D>(rig, signal.members,
                                       [&](const Probe<D>& used) { return used.name == probe.name; });
            });
        };
        if (serves(true) && !serves(false)) probe.reads = Reads::after_move;
        before_move = before_move || probe.reads.value_or(rig.reads) == Reads::before_move;
    }
    if (!before_move) result.reads = Reads::after_move;
    return result;
}

template <int D>
RoundCount count_of(const Samples<D>& samples) {
    return {samples.grid_poses, samples.judged - samples.grid_poses - samples.corner_poses,
            samples.corner_poses, samples.scope.corner_columns, samples.scope.corners_left_out > 0};
}

namespace {

/// The poses that a column comes to, as a few tell: in a level of many storeys there are thousands.
template <int D>
double poses_of_column(const Planned<D>& s) {
    constexpr std::size_t count = 9;
    // What lies inside of closed meshes takes long to find of large ones: they are taken for open then.
    constexpr std::size_t many_pieces = 100'000;
    const bool is_large = s.level.piece_count() > many_pieces;
    const auto inside = is_large ? std::make_shared<const Enclosed<D>>()
                                 : s.kept.store().insides_of(s.level_of(0), s.facings[0].seconds);
    const ColumnJudge<D> judge(s, 0, *inside, is_large ? Finds::anew : Finds::once);
    std::array<std::size_t, count> poses{};
    for_each_index(count, [&](std::size_t i) {
        s.stop_if_asked();
        std::uint64_t random = i;
        Place<D> place;
        for (std::size_t axis = 0; axis + 1 < D; ++axis) {
            const auto& [low, high] = s.extents[axis];
            const double chance = std::ldexp(static_cast<double>(next_random(random) >> 11U), -53);
            const double part = axis == 0 ? (static_cast<double>(i) + chance) / count : chance;
            place[static_cast<int>(axis)] = low + part * (high - low);
        }
        for (const Interval<D>& interval : judge.decide(place).intervals)
            poses[i] += 1 + interval.further.size();
    });
    return static_cast<double>(std::accumulate(poses.begin(), poses.end(), std::size_t{0})) / count;
}

/// Columns that halving adds to each at most, and itself.
template <int D>
double columns_with_borders(int halvings) {
    return 1.0 + (D - 1) * (std::ldexp(1.0, halvings) - 1.0);
}

/// Of a survey of about `budget` poses; 0: of any number.
template <int D>
FirstLook first_look(const Planned<D>& s, std::size_t budget) {
    constexpr double columns_of_all = D == 2 ? 600.0 : 300.0;
    constexpr double fewest = D == 2 ? 16.0 : 36.0;  // columns a facing
    constexpr double most_poses = 60'000.0;          // even if all neighbours differ
    // Of each column every claim is asked: the first round of a rig that makes many is told as soon.
    const auto claims =
        static_cast<double>(std::count_if(s.rig.signals.begin(), s.rig.signals.end(),
                                          [](const Signal& signal) { return signal.claims.has_value(); }));
    const double work = 0.5 + 0.5 * std::max(claims, 1.0);
    double columns = std::max(fewest, columns_of_all / (work * static_cast<double>(s.facings.size())));
    double walked = 0.0;
    for (std::size_t facing = 0; facing < s.facings.size(); ++facing)
        walked += s.is_first(facing) ? 1.0 : 0.0;
    FirstLook look{.halvings = 4, .poses_of_column = poses_of_column<D>(s)};
    const double most_columns = most_poses / (work * walked * std::max(look.poses_of_column, 1.0));
    while (look.halvings > 1 && columns * columns_with_borders<D>(look.halvings) > most_columns)
        --look.halvings;
    columns = std::min(columns, std::max(fewest, most_columns / columns_with_borders<D>(look.halvings)));
    if (budget > 0) {
        // A quarter of a small budget is for the grid, and as much as three times that for borders between
        // its columns, so that the first round is hardly larger than the last; but not fewer columns than
        // tell anything of closer grids.
        const double most_of_budget =
            static_cast<double>(budget) / (walked * std::max(look.poses_of_column, 1.0));
        columns = std::min(columns, std::max(0.25 * most_of_budget, fewest));
        while (look.halvings > 2 && columns * columns_with_borders<D>(look.halvings) > most_of_budget)
            --look.halvings;
    }
    double ground = 1.0;
    for (const auto& [low, high] : s.extents) ground *= high - low;
    look.spacing = D == 2 ? ground / columns : std::sqrt(ground / columns);
    for (const auto& [low, high] : s.extents) look.widest = std::max(look.widest, high - low);
    return look;
}

}  // namespace

template <int D>
RoundPlan rounds_of(const Planned<D>& planned, const SurveyOptions& options, bool are_told) {
    const std::size_t budget = budget_of(options);
    const FirstLook first = budget > 0 || are_told ? first_look<D>(planned, budget) : FirstLook{};
    return {first, planned.finest_spacing, budget, D - 1, Planned<D>::standard_halvings};
}

/// Columns at corners, a facing, beside so many on the grid.
template <int D>
std::size_t standard_corners(std::size_t grid_columns) {
    return D == 2 ? std::max<std::size_t>(20'000, 4 * grid_columns)
                  : std::max<std::size_t>(4'096, grid_columns / 2);
}

template <int D>
void lay_round(Planned<D>& planned, const RoundPlan& plan, const SurveyOptions& options) {
    const std::size_t budget = budget_of(options);
    planned.most_corners.reset();
    if (budget > 0 || !plan.is_last()) planned.most_corners = plan.corner_columns();
    if (options.most_corner_columns) planned.most_corners = *options.most_corner_columns;
    planned.most_halvings.reset();
    if (budget > 0 || !plan.is_last()) planned.most_halvings = plan.halvings();
    planned.lay_grid(plan.spacing());
    // A spacing given alone bounds what all corners of a large level would come to.
    if (!planned.most_corners && !options.budget)
        planned.most_corners = planned.facings.size() * standard_corners<D>(planned.grid.column_count());
}

template <int D>
RoundSpec spec_of(const Planned<D>& planned) {
    RoundSpec spec{planned.grid.spacing, planned.border_width};
    if (planned.most_corners) spec.most_corners = *planned.most_corners;
    return spec;
}

template Rig<2> scouts_at_poses<2>(const Rig<2>&);
template RoundCount count_of<2>(const Samples<2>&);
template RoundPlan rounds_of<2>(const Planned<2>&, const SurveyOptions&, bool);
template void lay_round<2>(Planned<2>&, const RoundPlan&, const SurveyOptions&);
template RoundSpec spec_of<2>(const Planned<2>&);
template Rig<3> scouts_at_poses<3>(const Rig<3>&);
template RoundCount count_of<3>(const Samples<3>&);
template RoundPlan rounds_of<3>(const Planned<3>&, const SurveyOptions&, bool);
template void lay_round<3>(Planned<3>&, const RoundPlan&, const SurveyOptions&);
template RoundSpec spec_of<3>(const Planned<3>&);

}  // namespace hollow_probe
