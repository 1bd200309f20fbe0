// How closely the rounds of a survey look, one after the other.
#pragma once

#include <algorithm>
#include <cstddef>
#include <optional>

namespace hollow_probe {

/// What a round came to.
struct RoundCount {
    std::size_t grid = 0;     // poses of columns on the grid
    std::size_t borders = 0;  // … between those
    std::size_t corners = 0;  // … beside corners and edges
    std::size_t corner_columns = 0;
    bool corners_left_out = false;

    [[nodiscard]] std::size_t all() const { return grid + borders + corners; }
};

/// How closely a first round looks, to be told at once.
struct FirstLook {
    double spacing = 0.0;
    int halvings = 1;
    double poses_of_column = 0.0;
    double widest = 0.0;  // spacing, at which a facing has one column
};

/// Chooses the spacing of each round, and how many columns stand beside corners and edges, from what those
/// before it came to, never from the clock.
class RoundPlan {
  public:
    /// From a first look to a spacing of `finest`; no more than about `budget` poses in a round, 0: any
    /// number. On the grid poses grow as spacing to the power of `across`, the directions across up; at
    /// borders to a little less. The last round halves the ground between columns that differ `halvings`
    /// times.
    RoundPlan(FirstLook first, double finest, std::size_t budget, int across, int halvings);

    [[nodiscard]] double spacing() const { return spacing_; }
    /// Columns beside corners and edges, all facings together.
    [[nodiscard]] std::size_t corner_columns() const { return corner_columns_; }
    /// How many times the ground between columns that differ is halved.
    [[nodiscard]] int halvings() const {
        return last_ ? halvings_ : std::min(halvings_, halvings_before_last_);
    }
    /// Whether no finer round is planned after this one.
    [[nodiscard]] bool is_last() const { return last_; }
    /// Whether a round that came to that is the last one.
    [[nodiscard]] bool ends_with(const RoundCount& count) const;
    /// Goes on from a round. False: that was the last one.
    bool next(const RoundCount& count);
    /// Whether the budget kept the last round from the finest spacing.
    [[nodiscard]] bool ended_by_budget() const { return spacing_ > finest_; }

  private:
    /// What a round of that spacing comes to.
    struct Known {
        double spacing = 0.0;
        double poses = 0.0;
    };

    [[nodiscard]] int most_tries() const;
    [[nodiscard]] bool has_room_for_corners(const RoundCount& count) const;
    /// Whether it is as near to the budget as it should be.
    [[nodiscard]] bool is_reached(const RoundCount& count) const;
    /// Plans the next round. False if it would be the same again.
    bool plan_from(const RoundCount& count);
    /// How many poses a next round would come to that halves so often, and has so many poses at corners.
    [[nodiscard]] double foretold(const RoundCount& count, double spacing, int halvings,
                                  double corners) const;
    /// The least spacing that is foretold to come to no more than `poses`.
    [[nodiscard]] double spacing_for(const RoundCount& count, double poses, int halvings,
                                     double corners) const;
    /// The spacing for the budget between those of two last rounds; 0 where there are no such.
    [[nodiscard]] double between_known() const;
    /// How often to halve instead, that borders leave enough of the budget to the grid.
    [[nodiscard]] int fewer_halvings(const RoundCount& count, double corners) const;
    /// Comes nearer to the budget by more or fewer columns at corners alone, if these can make up for it.
    bool corrects_corners(const RoundCount& count);
    /// Takes from a round how often to halve, and what its spacing came to.
    void learn(const RoundCount& count);
    void note(double came_to);
    /// How many poses the next round should come to; decides whether it is the last.
    double choose_goal(const RoundCount& count);
    /// The spacing of the next round, and how many poses are foretold of it.
    Known choose_spacing(const RoundCount& count, double goal);
    /// Whether those at corners leave too little of the budget to the grid.
    [[nodiscard]] bool has_too_many_corners(const RoundCount& count) const;
    /// How many poses stand at corners in a next round of so many.
    [[nodiscard]] double corners_for(const RoundCount& count, double poses) const;
    /// How many columns stand at corners.
    [[nodiscard]] std::size_t choose_corners(const RoundCount& count, double goal, double spacing) const;

    double finest_;
    std::size_t budget_;
    int across_;
    double spacing_;
    std::size_t corner_columns_ = 0;
    bool last_;
    int tries_ = 0;  // to come to the budget
    int halvings_;
    int halvings_before_last_;        // there what is found early counts, not where it ends
    int halved_ = 1;                  // times, in the round gone on from
    bool corners_corrected_ = false;  // in the round at hand
    double coarsest_;
    double widest_;           // … where borders alone are not too many
    double poses_of_column_;  // as a first look has it
    double met_;              // the spacing of the last round whose grid came to any poses
    double foretold_ = 0.0;   // poses of the round at hand
    double closer_ = 1.0;     // the spacing before it over its own

    /// Last rounds nearest to the budget, on either side of it, that halved as often.
    std::optional<Known> under_;
    std::optional<Known> over_;
};

}  // namespace hollow_probe
