#include "verify/round_plan.hpp"

#include <algorithm>
#include <cmath>

namespace hollow_probe {
namespace {

/// A round that is told at once.
constexpr double first_poses = 6'000.0;
/// From round to round poses grow by no more: what is foretold of a finer one would be too far off.
constexpr double most_growth = 16.0;
/// How far from the budget a last round may end.
constexpr double off_budget = 0.1;
/// How often a last round is tried: rounds of few poses cost little.
constexpr std::size_t small_budget = 20'000;
constexpr int most_tries_of_small = 6;
constexpr int most_tries_of_large = 3;
/// Below this part of the budget a last round leaves out no corners.
constexpr double room_for_corners = 0.5;
/// The part of a round's poses that may stand beside corners and edges, and how many a column there has until
/// that is known.
constexpr double corner_part = 0.25;
constexpr double poses_of_corner_column = 10.0;

std::size_t corner_columns_for(double poses, double poses_each) {
    return static_cast<std::size_t>(corner_part * poses / poses_each);
}

}  // namespace

RoundPlan::RoundPlan(double coarsest, double finest, std::size_t budget, int across, int halvings)
    : finest_(finest),
      budget_(budget),
      across_(across),
      spacing_(std::max(coarsest, finest)),
      last_(spacing_ == finest),
      halvings_(halvings),
      coarsest_(2.0 * spacing_) {
    double poses = last_ ? static_cast<double>(budget) : first_poses;
    if (budget > 0) poses = std::min(poses, static_cast<double>(budget));
    corner_columns_ = corner_columns_for(poses, poses_of_corner_column);
}

bool RoundPlan::has_room_for_corners(const RoundCount& count) const {
    return count.corners_left_out && spacing_ == finest_ &&
           static_cast<double>(count.all()) < room_for_corners * static_cast<double>(budget_);
}

bool RoundPlan::ends_with(const RoundCount& count) const {
    if (!last_) return false;
    const int most_tries = budget_ < small_budget ? most_tries_of_small : most_tries_of_large;
    if (tries_ + 1 >= most_tries) return true;
    const auto came_to = static_cast<double>(count.all());
    const auto budget = static_cast<double>(budget_);
    const bool too_many = budget_ > 0 && came_to > (1.0 + off_budget) * budget;
    const bool too_few = spacing_ > finest_ && came_to < (1.0 - off_budget) * budget;
    return !too_many && !too_few && !has_room_for_corners(count);
}

void RoundPlan::note(double came_to) {
    const auto budget = static_cast<double>(budget_);
    // A level with so many borders that they alone are too many is looked at less closely there.
    const bool at_coarsest = spacing_ >= 0.5 * coarsest_;
    if (budget_ > 0 && came_to > budget && at_coarsest)
        halvings_ = std::max(1, static_cast<int>(halvings_ * 0.75 * budget / came_to));
    auto& side = budget_ == 0 || came_to <= budget ? under_ : over_;
    if (!side || std::abs(std::log(came_to / budget)) < std::abs(std::log(side->poses / budget)))
        side = Known{spacing_, came_to};
}

bool RoundPlan::next(const RoundCount& count) {
    if (ends_with(count)) return false;
    if (last_) ++tries_;
    if (last_ && has_room_for_corners(count)) {
        corner_columns_ *= 4;
        return true;
    }
    const auto came_to = static_cast<double>(std::max<std::size_t>(count.all(), 1));
    const auto budget = static_cast<double>(budget_);
    const double each = count.corner_columns == 0
                            ? poses_of_corner_column
                            : static_cast<double>(count.corners) / static_cast<double>(count.corner_columns);
    // Where the last round came to more than foretold, the next one will as well.
    double bias = 0.0;
    if (foretold_ > 0.0 && closer_ > 1.2)
        bias = std::clamp(0.7 * std::log(came_to / foretold_) / std::log(closer_), -0.5, 0.5);
    // Where the next round halves more often, so much more stands at borders.
    const double borders = static_cast<double>(count.borders) * halvings_ / halvings();
    const bool all_corners = count.corner_columns < corner_columns_ / 2;
    const auto corners_of = [&](double poses) {
        return all_corners ? static_cast<double>(count.corners) : corner_part * poses;
    };
    const auto poses_at = [&](double spacing, double corners) {
        const double closer = spacing_ / spacing;
        return (static_cast<double>(count.grid) * std::pow(closer, across_) +
                borders * std::pow(closer, across_ - 1)) *
                   std::pow(std::max(closer, 1.0), bias) +
               corners;
    };
    const auto spacing_for = [&](double poses) {
        double fine = finest_;
        double coarse = std::max(coarsest_, finest_);
        if (poses_at(fine, corners_of(poses)) <= poses) return fine;
        for (int i = 0; i < 60; ++i) {
            const double middle = std::sqrt(fine * coarse);
            (poses_at(middle, corners_of(poses)) > poses ? fine : coarse) = middle;
        }
        return coarse;
    };
    note(came_to);
    const double limit = most_growth * came_to;
    const double wanted = budget_ > 0 ? budget : std::max(poses_at(finest_, corners_of(came_to)), came_to);
    last_ = wanted <= limit || poses_at(finest_, corners_of(limit)) <= limit;
    const double goal = last_ ? wanted : std::sqrt(wanted * came_to);
    // Without a budget the last round looks as closely as was asked, whatever that comes to.
    double next = budget_ == 0 && last_ ? finest_ : spacing_for(goal);
    foretold_ = poses_at(next, corners_of(goal));
    if (budget_ > 0 && under_ && over_ && under_->spacing > 1.01 * over_->spacing) {
        // Between two that are known poses grow as a power of the spacing.
        const double power =
            std::log(over_->poses / under_->poses) / std::log(under_->spacing / over_->spacing);
        next = std::max(finest_, under_->spacing * std::pow(under_->poses / budget, 1.0 / power));
        foretold_ = budget;
        last_ = true;
    }
    last_ = last_ || next == finest_;
    closer_ = spacing_ / next;
    spacing_ = next;
    corner_columns_ = corner_columns_for(goal, std::max(each, 1.0));
    if (budget_ > 0 && last_ && next == finest_) {
        // Nothing else needs what is left of the budget.
        const double left = (1.0 - off_budget) * budget - poses_at(next, 0.0);
        corner_columns_ =
            std::max(corner_columns_, static_cast<std::size_t>(std::max(left, 0.0) / std::max(each, 1.0)));
    }
    return true;
}

}  // namespace hollow_probe
