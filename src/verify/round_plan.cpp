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
constexpr std::size_t small_budget = 50'000;
constexpr int most_tries_of_small = 6;
constexpr int most_tries_of_large = 4;
/// Below this part of the budget a last round leaves out no corners.
constexpr double room_for_corners = 0.5;
/// The part of a round's poses that may stand beside corners and edges, and how many a column there has until
/// that is known.
constexpr double corner_part = 0.25;
constexpr double poses_of_corner_column = 10.0;
constexpr std::size_t fewest_corner_columns = 1;
/// The part of the budget that is left to borders where they are too many.
constexpr double border_part = 0.4;
/// How poses at borders grow as the spacing shrinks, as measured: to a power that is so much less than that
/// of the grid. In 2D a border is a point, which a closer grid finds as the coarse one did.
constexpr double border_lag_2d = 0.8;
constexpr double border_lag_3d = 0.4;
/// How far from the budget columns at corners alone make up for it, and the least and greatest part of it
/// that these then are.
constexpr double most_by_corners = 0.3;
constexpr double least_corner_part = 0.1;
constexpr double greatest_corner_part = 0.45;

std::size_t corner_columns_for(double poses, double poses_each) {
    return std::max(fewest_corner_columns, static_cast<std::size_t>(corner_part * poses / poses_each));
}

}  // namespace

RoundPlan::RoundPlan(FirstLook first, double finest, std::size_t budget, int across, int halvings)
    : finest_(finest),
      budget_(budget),
      across_(across),
      spacing_(std::max(first.spacing, finest)),
      last_(spacing_ == finest),
      halvings_(halvings),
      halvings_before_last_(first.halvings),
      coarsest_(4.0 * spacing_),
      widest_(std::max(first.widest, coarsest_)),
      poses_of_column_(std::max(first.poses_of_column, poses_of_corner_column)),
      met_(finest) {
    double poses = last_ ? static_cast<double>(budget) : first_poses;
    if (budget > 0) poses = std::min(poses, static_cast<double>(budget));
    corner_columns_ = corner_columns_for(poses, poses_of_column_);
}

int RoundPlan::most_tries() const {
    return budget_ < small_budget ? most_tries_of_small : most_tries_of_large;
}

bool RoundPlan::has_room_for_corners(const RoundCount& count) const {
    return count.corners_left_out && spacing_ == finest_ &&
           static_cast<double>(count.all()) < room_for_corners * static_cast<double>(budget_);
}

bool RoundPlan::is_reached(const RoundCount& count) const {
    const auto came_to = static_cast<double>(count.all());
    const auto budget = static_cast<double>(budget_);
    const bool too_many = budget_ > 0 && came_to > (1.0 + off_budget) * budget;
    const bool too_few = spacing_ > finest_ && came_to < (1.0 - off_budget) * budget;
    return !too_many && !too_few && !has_room_for_corners(count);
}

bool RoundPlan::ends_with(const RoundCount& count) const {
    if (!last_) return false;
    if (tries_ + 1 >= most_tries() || is_reached(count)) return true;
    RoundPlan further = *this;
    return !further.plan_from(count);
}

bool RoundPlan::next(const RoundCount& count) {
    if (ends_with(count)) return false;
    plan_from(count);
    return true;
}

void RoundPlan::note(double came_to) {
    const auto off = [&](double poses) { return std::abs(std::log(poses / static_cast<double>(budget_))); };
    auto& side = came_to <= static_cast<double>(budget_) ? under_ : over_;
    if (!side || off(came_to) < off(side->poses)) side = Known{spacing_, came_to};
}

double RoundPlan::foretold(const RoundCount& count, double spacing, int halvings, double corners) const {
    const double closer = spacing_ / spacing;
    // Where the last round came to more than foretold, the next one will as well.
    double bias = 0.0;
    if (foretold_ > 0.0 && closer_ > 1.2)
        bias = std::clamp(0.7 * std::log(static_cast<double>(count.all()) / foretold_) / std::log(closer_),
                          -0.5, 0.5);
    const double grid = static_cast<double>(count.grid) * std::pow(closer, across_);
    // One border between two columns takes a column each time it is halved. Where there are many, as in a
    // level of many storeys, both halves differ again, and so do all columns of a closer grid.
    const double most_between = across_ * (std::ldexp(1.0, halved_) - 1.0);
    const auto of_grid = static_cast<double>(std::max<std::size_t>(count.grid, 1));
    const double differing = std::min(static_cast<double>(count.borders) / (of_grid * most_between), 1.0);
    const double many = differing * differing;
    const double one_each = static_cast<double>(halvings) / halved_;
    const double both_halves = across_ * (std::ldexp(1.0, halvings) - 1.0) / most_between;
    const double lag = (1.0 - many) * (across_ == 1 ? border_lag_2d : border_lag_3d);
    const double borders = static_cast<double>(count.borders) * std::lerp(one_each, both_halves, many) *
                           std::pow(closer, across_ - lag);
    return (grid + borders) * std::pow(std::max(closer, 1.0), bias) + corners;
}

double RoundPlan::spacing_for(const RoundCount& count, double poses, int halvings, double corners) const {
    double fine = finest_;
    double coarse = std::max(widest_, finest_);
    if (foretold(count, fine, halvings, corners) <= poses) return fine;
    for (int i = 0; i < 60; ++i) {
        const double middle = std::sqrt(fine * coarse);
        (foretold(count, middle, halvings, corners) > poses ? fine : coarse) = middle;
    }
    return coarse;
}

/// Between two that are known poses grow as a power of the spacing.
double RoundPlan::between_known() const {
    if (!under_ || !over_ || under_->spacing <= 1.001 * over_->spacing) return 0.0;
    const double power = std::log(over_->poses / under_->poses) / std::log(under_->spacing / over_->spacing);
    const double short_of = under_->poses / static_cast<double>(budget_);
    return std::max(finest_, under_->spacing * std::pow(short_of, 1.0 / power));
}

int RoundPlan::fewer_halvings(const RoundCount& count, double corners) const {
    const auto budget = static_cast<double>(budget_);
    RoundCount borders;
    borders.borders = count.borders;
    int fewer = halvings_ - 1;
    for (; fewer > 1; --fewer) {
        const double spacing = spacing_for(count, budget, fewer, corners);
        if (spacing <= 0.5 * coarsest_ &&
            foretold(count, spacing, fewer, corners) <= (1.0 + 0.5 * off_budget) * budget &&
            foretold(borders, spacing, fewer, 0.0) <= border_part * budget)
            break;
    }
    return fewer;
}

bool RoundPlan::corrects_corners(const RoundCount& count) {
    const auto budget = static_cast<double>(budget_);
    const auto corners = static_cast<double>(count.corners);
    const double lacking = budget - static_cast<double>(count.all());
    const double wanted = corners + lacking;
    if (count.corners == 0 || std::abs(lacking) > most_by_corners * budget ||
        wanted < least_corner_part * budget || wanted > greatest_corner_part * budget ||
        (lacking > 0.0 && !count.corners_left_out) || corners_corrected_)
        return false;
    const auto columns =
        static_cast<std::size_t>(std::llround(static_cast<double>(corner_columns_) * wanted / corners));
    if (columns == corner_columns_ || columns < fewest_corner_columns) return false;
    corners_corrected_ = true;
    corner_columns_ = columns;
    return true;
}

bool RoundPlan::has_too_many_corners(const RoundCount& count) const {
    return budget_ > 0 && corner_columns_ > fewest_corner_columns &&
           static_cast<double>(count.corners) > greatest_corner_part * static_cast<double>(budget_);
}

double RoundPlan::corners_for(const RoundCount& count, double poses) const {
    // Once tried, corners stay: what spacings come to is to be compared. So do the fewest that there may be.
    const bool corners_stay = (count.corner_columns < corner_columns_ / 2 || tries_ > 1 ||
                               corner_columns_ == fewest_corner_columns) &&
                              !has_too_many_corners(count);
    return corners_stay ? static_cast<double>(count.corners) : corner_part * poses;
}

void RoundPlan::learn(const RoundCount& count) {
    if (budget_ == 0) return;
    const auto came_to = static_cast<double>(std::max<std::size_t>(count.all(), 1));
    const auto budget = static_cast<double>(budget_);
    // A level with so many borders that they alone are too many is looked at less closely there.
    const double corners = corners_for(count, budget);
    const bool are_too_many = came_to > budget && spacing_ >= 0.25 * coarsest_;
    const bool will_be = foretold(count, std::max(coarsest_, finest_), halvings_, corners) > budget;
    if (halvings_ > 1 && (are_too_many || will_be)) {
        halvings_ = fewer_halvings(count, corners);
        under_.reset();
        over_.reset();
    } else if (has_too_many_corners(count)) {
        under_.reset();
        over_.reset();
    } else if (last_) {
        note(came_to);
    }
}

double RoundPlan::choose_goal(const RoundCount& count) {
    const auto came_to = static_cast<double>(std::max<std::size_t>(count.all(), 1));
    const auto finest_comes_to = [&](double poses) {
        return foretold(count, finest_, halvings_, corners_for(count, poses));
    };
    const double limit = most_growth * came_to;
    const double wanted =
        budget_ > 0 ? static_cast<double>(budget_) : std::max(finest_comes_to(came_to), came_to);
    last_ = last_ || wanted <= limit || finest_comes_to(limit) <= limit;
    return last_ ? wanted : std::sqrt(wanted * came_to);
}

RoundPlan::Known RoundPlan::choose_spacing(const RoundCount& count, double goal) {
    Known next{between_known(), static_cast<double>(budget_)};
    if (budget_ == 0 && last_) next.spacing = finest_;  // as closely as was asked, whatever that comes to
    if (next.spacing == 0.0 && count.grid == 0 && spacing_ > finest_) {
        // What met nothing says nothing of closer grids: half of the way back to one that did.
        next.spacing = std::max(finest_, std::sqrt(spacing_ * met_));
        next.poses = goal;
    } else if (next.spacing == 0.0) {
        const double corners = corners_for(count, goal);
        next.spacing = spacing_for(count, goal, halvings(), corners);
        next.poses = foretold(count, next.spacing, halvings(), corners);
    }
    // After one that was far off, the last try is one known not to come to more.
    const bool is_far_off = static_cast<double>(count.all()) > 2.0 * static_cast<double>(budget_);
    if (tries_ + 1 >= most_tries() && is_far_off && under_) next = *under_;
    last_ = last_ || next.spacing == finest_;
    return next;
}

std::size_t RoundPlan::choose_corners(const RoundCount& count, double goal, double spacing) const {
    // Those planned bring others, between them: what all came to is theirs, unless there were not so many.
    const std::size_t brought_by = count.corners_left_out ? corner_columns_ : count.corner_columns;
    double each = poses_of_column_;
    if (brought_by > 0 && count.corners > 0)
        each = static_cast<double>(count.corners) / static_cast<double>(brought_by);
    each = std::max(each, 1.0);
    const bool corners_stay = tries_ > 1 && !has_too_many_corners(count);
    const std::size_t columns = corners_stay ? corner_columns_ : corner_columns_for(goal, each);
    if (budget_ == 0 || !last_ || spacing != finest_) return columns;
    // Nothing else needs what is left of the budget.
    const double left =
        (1.0 - off_budget) * static_cast<double>(budget_) - foretold(count, spacing, halvings_, 0.0);
    return std::max(columns, static_cast<std::size_t>(std::max(left, 0.0) / each));
}

bool RoundPlan::plan_from(const RoundCount& count) {
    const RoundPlan before = *this;
    halved_ = halvings();
    if (last_) ++tries_;
    if (last_ && has_room_for_corners(count)) {
        corner_columns_ *= 4;
        return true;
    }
    if (tries_ > 1 && corrects_corners(count)) return true;
    corners_corrected_ = false;
    if (count.grid > 0) met_ = spacing_;
    learn(count);
    const double goal = choose_goal(count);
    const Known chosen = choose_spacing(count, goal);
    corner_columns_ = choose_corners(count, goal, chosen.spacing);
    foretold_ = chosen.poses;
    closer_ = spacing_ / chosen.spacing;
    spacing_ = chosen.spacing;
    return spacing_ != before.spacing_ || halvings_ != before.halvings_ ||
           corner_columns_ != before.corner_columns_;
}

}  // namespace hollow_probe
