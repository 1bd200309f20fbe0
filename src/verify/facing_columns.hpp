// The columns of one facing: where they stand, and what is found of each.
#pragma once

#include "verify/between_columns.hpp"
#include "verify/enclosed.hpp"
#include "verify/feature_places.hpp"

namespace hollow_probe {

/// In 2D columns at features stand among those of the grid; in 3D they are looked at by themselves, in rows.
/// What parts of the survey found is taken from them. Safe from any number of threads.
template <int D>
class FacingColumns {
  public:
    FacingColumns(const Planned<D>& planned, std::size_t facing, const Enclosed<D>& enclosed,
                  FeaturePlaces<D> features);

    [[nodiscard]] const ColumnJudge<D>& judge() const { return judge_; }
    [[nodiscard]] std::size_t corners_left_out() const { return corners_left_out_; }

    [[nodiscard]] std::size_t count() const { return D == 2 ? places_.size() : s_.grid.column_count(); }
    [[nodiscard]] bool is_on_grid(std::size_t number) const { return D == 3 || on_grid_[number]; }
    [[nodiscard]] bool has_next(std::size_t number, std::size_t axis) const {
        return D == 2 ? number + 1 < count() : s_.grid.has_next(number, axis);
    }
    /// From a column to the next along an axis.
    [[nodiscard]] std::size_t stride(std::size_t axis) const { return D == 2 ? 1 : s_.grid.stride(axis); }

    /// Alike for neighbours, whatever the facing: truths of a column may be those of another facing, too.
    [[nodiscard]] std::size_t home_of(std::size_t number) const;
    [[nodiscard]] DecidedColumn<D> decide(std::size_t number) const;
    /// What lies between a column and the next along an axis.
    [[nodiscard]] Between<D> between(std::size_t number, std::size_t axis, const DecidedColumn<D>& from,
                                     const DecidedColumn<D>& to) const;

    [[nodiscard]] std::size_t row_count() const { return D == 2 ? 0 : features_.size(); }
    [[nodiscard]] std::size_t columns_in_row(std::size_t number) const { return features_[number].size(); }
    /// The columns of a row, and those between them that differ.
    [[nodiscard]] std::vector<DecidedColumn<D>> decide_row(std::size_t number) const;

  private:
    /// What is known of a piece of work, or else what `make` gives, written down if it is this part's share.
    template <class Value, class Make>
    Value known_or(const std::string& key, std::size_t number, Make make) const;

    const Planned<D>& s_;
    std::size_t facing_;
    ColumnJudge<D> judge_;
    std::size_t corners_left_out_ = 0;
    std::vector<Row<D>> features_;
    std::vector<Place<D>> places_;  // 2D
    std::vector<bool> on_grid_;     // 2D, by place
};

/// The columns of all facings of a round.
template <int D>
class RoundColumns {
  public:
    explicit RoundColumns(const Planned<D>& planned);
    RoundColumns(const RoundColumns&) = delete;
    RoundColumns& operator=(const RoundColumns&) = delete;

    /// Those of facings that are alike are the same.
    [[nodiscard]] const FacingColumns<D>& of(std::size_t facing) const {
        return *facings_[planned_.first[facing]];
    }
    [[nodiscard]] const Enclosed<D>& enclosed(std::size_t facing) const {
        return *moments_[planned_.facings[facing].moment];
    }

  private:
    const Planned<D>& planned_;
    std::vector<std::shared_ptr<const Enclosed<D>>> moments_;
    std::vector<std::optional<FacingColumns<D>>> facings_;
};

extern template class RoundColumns<2>;
extern template class RoundColumns<3>;
extern template class FacingColumns<2>;
extern template class FacingColumns<3>;

}  // namespace hollow_probe
