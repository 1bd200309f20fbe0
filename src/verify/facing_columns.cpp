#include "verify/facing_columns.hpp"

#include <algorithm>

#include "geometry/parallel.hpp"
#include "hollow_probe/geometry/tolerances.hpp"
#include "verify/column_bytes.hpp"
#include "verify/found_work.hpp"

namespace hollow_probe {

template <int D>
FacingColumns<D>::FacingColumns(const Planned<D>& planned, std::size_t facing, const Enclosed<D>& enclosed,
                                FeaturePlaces<D> features)
    : s_(planned),
      facing_(facing),
      judge_(planned, facing, enclosed),
      corners_left_out_(features.left_out),
      features_(std::move(features.rows)) {
    if constexpr (D == 2) {
        const std::size_t grid = s_.grid.column_count();
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
}

template <int D>
template <class Value, class Make>
Value FacingColumns<D>::known_or(const std::string& key, std::size_t number, Make make) const {
    const std::string* const known = s_.found == nullptr ? nullptr : s_.found->of(key);
    if (known != nullptr) return from_bytes<Value>(*known);
    Value made = make();
    if (s_.record != nullptr && s_.record->is_share(number)) s_.record->put(key, bytes_of(made));
    return made;
}

template <int D>
std::size_t FacingColumns<D>::home_of(std::size_t number) const {
    constexpr std::size_t neighbours = 8;
    if constexpr (D == 2) {
        const double from_first = (places_[number] - s_.grid.first)[0] / s_.grid.spacing;
        number = static_cast<std::size_t>(std::max(from_first, 0.0));
    }
    return number / neighbours;
}

template <int D>
DecidedColumn<D> FacingColumns<D>::decide(std::size_t number) const {
    return known_or<DecidedColumn<D>>(work_key(WorkKind::column, facing_, number), number, [&] {
        return judge_.decide(D == 2 ? places_[number] : s_.grid.place(number));
    });
}

template <int D>
Between<D> FacingColumns<D>::between(std::size_t number, std::size_t axis, const DecidedColumn<D>& from,
                                     const DecidedColumn<D>& to) const {
    return known_or<Between<D>>(work_key(WorkKind::between, facing_, number, axis), number, [&] {
        return search_between<D>(judge_, s_.border_width, s_.rig.intent.touch, Seek::borders, from, to);
    });
}

template <int D>
std::vector<DecidedColumn<D>> FacingColumns<D>::decide_row(std::size_t number) const {
    return known_or<std::vector<DecidedColumn<D>>>(work_key(WorkKind::row, facing_, number), number, [&] {
        const double coarse = 0.25 * s_.grid.spacing;
        std::vector<DecidedColumn<D>> columns;
        for (const Place<D>& place : features_[number]) {
            DecidedColumn<D> next = judge_.decide(place);
            if (!columns.empty()) {
                auto between = search_between<D>(judge_, coarse, s_.rig.intent.touch, Seek::wrong_ends,
                                                 DecidedColumn<D>(columns.back()), next);
                std::move(between.found.begin(), between.found.end(), std::back_inserter(columns));
            }
            columns.push_back(std::move(next));
        }
        return columns;
    });
}

namespace {

/// How many columns may stand beside corners and edges, by facing: as many for each, and of what is left one
/// for some. Those of facings that are alike are of the first of them.
template <int D>
std::vector<std::size_t> corners_by_facing(const Planned<D>& planned) {
    std::vector<std::size_t> firsts;
    for (std::size_t facing = 0; facing < planned.facings.size(); ++facing)
        if (planned.is_first(facing)) firsts.push_back(facing);
    std::vector<std::size_t> most(planned.facings.size(), FeaturePlaces<D>::every_one);
    if (!planned.most_corners) return most;
    const std::size_t all = planned.facings.size();
    const std::size_t of_firsts = (*planned.most_corners * firsts.size() + all - 1) / all;
    const auto until = [&](std::size_t count) { return of_firsts * count / firsts.size(); };
    for (std::size_t i = 0; i < firsts.size(); ++i) most[firsts[i]] = until(i + 1) - until(i);
    return most;
}

}  // namespace

template <int D>
RoundColumns<D>::RoundColumns(const Planned<D>& planned)
    : planned_(planned), facings_(planned.facings.size()) {
    std::vector<std::size_t> first_of;  // facing of each moment
    for (std::size_t facing = facings_.size(); facing-- > 0;) {
        const std::size_t moment = planned.facings[facing].moment;
        first_of.resize(std::max(first_of.size(), moment + 1));
        first_of[moment] = facing;
    }
    moments_.resize(first_of.size());
    const auto look_inside = [&] {
        for_each_index(moments_.size(), [&](std::size_t moment) {
            const std::size_t facing = first_of[moment];
            moments_[moment] =
                planned.kept.store().insides_of(planned.level_of(facing), planned.facings[facing].seconds);
        });
    };
    const std::vector<std::size_t> most_corners = corners_by_facing<D>(planned);
    std::vector<std::optional<FeaturePlaces<D>>> features(facings_.size());
    const auto find_features = [&] {
        for_each_index(facings_.size(), [&](std::size_t facing) {
            planned.stop_if_asked();
            if (planned.is_first(facing)) features[facing].emplace(planned, facing, most_corners[facing]);
        });
    };
    do_both(look_inside, find_features);
    for_each_index(facings_.size(), [&](std::size_t facing) {
        if (features[facing])
            facings_[facing].emplace(planned, facing, enclosed(facing), std::move(*features[facing]));
    });
}

template class RoundColumns<2>;
template class RoundColumns<3>;
template class FacingColumns<2>;
template class FacingColumns<3>;

}  // namespace hollow_probe
