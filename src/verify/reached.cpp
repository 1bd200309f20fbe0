#include "verify/reached.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include "geometry/together.hpp"
#include "hollow_probe/geometry/tolerances.hpp"
#include "verify/column_heights.hpp"

namespace hollow_probe {

template <int D>
Reached<D>::Reached(const Planned<D>& planned) : s_(planned) {
    const Intent& intent = s_.rig.intent;
    constexpr double steepest_climbed = 80.0;  // degrees; a tangent beyond that is endless
    const double steepest = std::min(intent.steepest_footing_degrees, steepest_climbed);
    // From a column to the next one a slope rises so much without being a step.
    const double slope = s_.grid.spacing * std::tan(radians(steepest));
    lift_ =
        std::max({intent.tallest_step, intent.moves.jump_height, slope}) + tolerance::accuracy * s_.body_size;
    leap_ = std::max(intent.moves.jump_length, s_.grid.spacing) + 0.5 * s_.grid.spacing;
    stride_ = s_.half_width + 1.5 * s_.grid.spacing;
    constexpr double sizes_drifted = 4.0;
    drift_ = sizes_drifted * s_.body_size;
    noise_ = 2.0 * intent.touch;
    ridden_.assign(s_.level.solids().size(), false);
    lay_out();
    start();
    fly();
    while (!standing_.empty()) {
        // All that take off together come over each column but a few times.
        for (const auto& [node, number] : std::exchange(standing_, {})) {
            const Rest rest = at(node).rests[number];
            take_off(node, rest.height, rest.tread);
        }
        fly();
    }
}

template <int D>
void Reached<D>::lay_out() {
    for (std::size_t facing = 0; facing < s_.facings.size(); ++facing) {
        const Facing<D>& own = s_.facings[facing];
        const bool known = std::any_of(layers_.begin(), layers_.end(), [&](const Layer& layer) {
            const Facing<D>& other = s_.facings[layer.facing];
            return other.stance == own.stance && other.moment == own.moment;
        });
        if (!known) layers_.push_back({facing, {}});
    }
    for (Layer& layer : layers_) {
        const std::size_t count = s_.grid.column_count();
        const Feelers<D> body = body_of(layer.facing);
        layer.columns = made_together<std::vector<Span>>(s_.sharing, count, [&](std::size_t i) {
            s_.stop_if_asked();
            return spans_of(layer.facing, body, s_.grid.point(s_.grid.place(i), 0.0));
        });
    }
}

template <int D>
Feelers<D> Reached<D>::body_of(std::size_t facing) const {
    Feelers<D> body(s_, facing);
    body.feelers.erase(body.feelers.begin() + 1, body.feelers.end());
    Feeler<D>& own = body.feelers.front();
    own.layers = s_.mounted[facing].meets;
    own.beyond.clear();
    own.deep = false;
    own.inside.reset();
    body.layers = s_.mounted[facing].meets;
    body.turning.clear();
    body.rises.clear();
    return body;
}

/// The free heights of one column, and where the body stands in them.
template <int D>
std::vector<typename Reached<D>::Span> Reached<D>::spans_of(std::size_t facing, const Feelers<D>& body,
                                                            const Vec<D>& foot) const {
    const Level<D>& level = s_.level_of(facing);
    const double endless = 1e3 * (1.0 + s_.body_size) + 2.0 * level.bounds().size().norm();
    const double middle = level.up().dot(level.bounds().center());
    const HeightSpan all{middle - endless, middle + endless};
    const ColumnHeights heights = heights_of_column<D>(s_, facing, body, foot, all);
    std::vector<Span> spans;
    double low = all.low;
    for (const HeightSpan& clipped : heights.clipped) {
        if (clipped.low > low) spans.push_back({low, clipped.low});
        low = std::max(low, clipped.high);
    }
    spans.push_back({low, all.high});
    for (const double height : heights.rests) {
        for (Span& span : spans) {
            if (height < span.low - noise_ || height > span.high + noise_) continue;
            const TruthQuestion<D> question{
                placed_body<D>(s_.mounted[facing], foot + height * level.up()), Vec<D>::unit(0), {}};
            const TruthAnswer<D> ground =
                answer<D>(Claim::ground, level, question, s_.rig.intent, 0.0, Margins::left_out);
            if (!ground.on || !ground.piece) break;
            const double tread = level.up().dot(ground.point);
            if (span.rests.empty() || height - span.rests.back().height > s_.rig.intent.touch)
                span.rests.push_back({height, tread, level.solid_of(*ground.piece), false});
            break;
        }
    }
    return spans;
}

/// The column of the grid nearest to a point.
template <int D>
std::size_t Reached<D>::column_at(const Vec<D>& anchor) const {
    std::size_t column = 0;
    for (std::size_t axis = 0; axis + 1 < D; ++axis) {
        const double at =
            s_.grid.axes.across[axis].dot(anchor) - s_.grid.first[static_cast<std::ptrdiff_t>(axis)];
        const auto most = static_cast<double>(s_.grid.counts[axis] - 1);
        column += static_cast<std::size_t>(std::clamp(std::round(at / s_.grid.spacing), 0.0, most)) *
                  s_.grid.stride(axis);
    }
    return column;
}

template <int D>
void Reached<D>::start() {
    for (const StartPoint<D>& point : s_.level.starts()) {
        const double height = s_.level.up().dot(point.at);
        for (std::size_t layer = 0; layer < layers_.size(); ++layer) {
            const auto put = [&](std::size_t column) {
                for (std::size_t i = 0; i < layers_[layer].columns[column].size(); ++i) {
                    const Node node{layer, column, i};
                    const Span& span = at(node);
                    if (height < span.low - lift_ || height > span.high) continue;
                    const double feet = std::max(height, span.low);
                    take_off(node, feet, feet);
                }
            };
            const std::size_t column = column_at(point.at);
            put(column);
            for_each_neighbour(column, put);
        }
    }
}

template <int D>
template <class Visit>
void Reached<D>::for_each_neighbour(std::size_t column, Visit visit) const {
    for (std::size_t axis = 0; axis + 1 < D; ++axis) {
        const std::size_t stride = s_.grid.stride(axis);
        if (s_.grid.has_next(column, axis)) visit(column + stride);
        const std::size_t number = axis == 0 ? column % s_.grid.counts[0] : column / s_.grid.counts[0];
        if (number > 0) visit(column - stride);
    }
}

/// On its feet: it will step and jump from there, in whatever stance fits, at whatever moment.
template <int D>
void Reached<D>::stand(const Node& node, std::size_t number) {
    Rest& rest = at(node).rests[number];
    if (rest.stood) return;
    rest.stood = true;
    standing_.emplace_back(node, number);
    const double height = rest.height;
    for (std::size_t layer = 0; layer < layers_.size(); ++layer) {
        for (std::size_t i = 0; layer != node.layer && i < layers_[layer].columns[node.column].size(); ++i) {
            const Node other{layer, node.column, i};
            for (std::size_t k = 0; k < at(other).rests.size(); ++k) {
                if (std::abs(at(other).rests[k].height - height) <= lift_) stand(other, k);
            }
        }
    }
    const std::uint32_t solid = at(node).rests[number].solid;
    if (s_.level.solids()[solid].path && !ridden_[solid]) ride(solid);
}

/// Carried to wherever else a solid is.
template <int D>
void Reached<D>::ride(std::uint32_t solid) {
    ridden_[solid] = true;
    for (std::size_t layer = 0; layer < layers_.size(); ++layer) {
        for (std::size_t column = 0; column < layers_[layer].columns.size(); ++column) {
            for (std::size_t i = 0; i < layers_[layer].columns[column].size(); ++i) {
                const Node node{layer, column, i};
                for (std::size_t k = 0; k < at(node).rests.size(); ++k) {
                    if (at(node).rests[k].solid == solid) stand(node, k);
                }
            }
        }
    }
}

template <int D>
void Reached<D>::take_off(const Node& node, double height, double tread) {
    come(node, {height + lift_, height, 0.0, tread + lift_});
}

/// Everywhere they come before they stand again, the shortest ways first.
template <int D>
void Reached<D>::fly() {
    while (!flying_.empty()) {
        const auto [there, flight] = flying_.front();
        flying_.pop_front();
        go_on(there, flight);
    }
}

/// Whether a flight over the same span gets wherever another one does.
template <int D>
bool Reached<D>::outdoes(const Flight& flight, const Flight& other) const {
    // Having taken off lower it can get up to more, where it may do so while it falls already.
    const bool falls_as_little = stride_ <= leap_ ? flight.base >= other.base : flight.base == other.base;
    return flight.highest >= other.highest && flight.tread >= other.tread && flight.way <= other.way &&
           falls_as_little;
}

template <int D>
void Reached<D>::come(const Node& node, Flight flight) {
    Span& span = at(node);
    flight.highest = std::min(flight.highest, span.high);
    if (flight.highest < span.low) return;
    for (const Flight& other : span.flights) {
        if (outdoes(other, flight)) return;
    }
    std::erase_if(span.flights, [&](const Flight& other) { return outdoes(flight, other); });
    span.flights.push_back(flight);
    span.highest = std::max(span.highest, flight.highest);
    for (std::size_t i = 0; i < span.rests.size(); ++i) {
        const Rest& rest = span.rests[i];
        if (rest.height <= flight.highest + noise_ && rest.tread <= flight.tread) stand(node, i);
    }
    flying_.emplace_back(node, flight);
}

/// One column on: as high as it is while it leaps, or gets on to something higher; else falling.
template <int D>
void Reached<D>::go_on(const Node& node, const Flight& flight) {
    Flight next = flight;
    next.way += s_.grid.spacing;
    if (next.way > std::max(leap_ + drift_, stride_)) return;
    const double fallen = next.way > leap_ ? next.base - (next.way - leap_) : next.highest;
    const double low = at(node).low;
    for_each_neighbour(node.column, [&](std::size_t column) {
        const std::vector<Span>& spans = layers_[node.layer].columns[column];
        for (std::size_t i = 0; i < spans.size(); ++i) {
            Flight there = next;
            const bool gets_up = next.way <= stride_ && spans[i].low > next.base;
            if (!gets_up) there.highest = std::min(there.highest, fallen);
            if (spans[i].low <= there.highest && spans[i].high >= low) come({node.layer, column, i}, there);
        }
    });
}

template <int D>
bool Reached<D>::is_reached(const SurveyPose<D>& pose) const {
    const Facing<D>& facing = s_.facings[pose.facing];
    const double height = s_.level.up().dot(pose.anchor);
    const double near = noise_;
    const std::size_t column = column_at(pose.anchor);
    for (const Layer& layer : layers_) {
        const Facing<D>& other = s_.facings[layer.facing];
        if (other.stance != facing.stance || other.moment != facing.moment) continue;
        const auto comes_to = [&](const Span& span) {
            return span.highest >= span.low && height >= span.low - near && height <= span.highest + near;
        };
        bool found = false;
        const auto look = [&](std::size_t number) {
            const std::vector<Span>& spans = layer.columns[number];
            found = found || std::any_of(spans.begin(), spans.end(), comes_to);
        };
        look(column);
        for_each_neighbour(column, look);
        if (found) return true;
    }
    return false;
}

template class Reached<2>;
template class Reached<3>;

}  // namespace hollow_probe
