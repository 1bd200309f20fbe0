#include "hollow_probe/level/level.hpp"

#include <algorithm>

#include "hollow_probe/geometry/polygon.hpp"

namespace hollow_probe {

template <int D>
std::optional<std::uint32_t> Level<D>::find_layer(const std::string& name) const {
    const auto found = std::find(layers_.begin(), layers_.end(), name);
    if (found == layers_.end()) return std::nullopt;
    return static_cast<std::uint32_t>(found - layers_.begin());
}

template <int D>
const StartPoint<D>* Level<D>::find_start(const std::string& name) const {
    const auto found = std::find_if(starts_.begin(), starts_.end(),
                                    [&](const StartPoint<D>& start) { return start.name == name; });
    return found == starts_.end() ? nullptr : &*found;
}

template <int D>
LayerSet Level<D>::mask_of(const std::vector<std::string>& names) const {
    LayerSet mask = 0;
    for (const std::string& name : names) {
        const auto layer = find_layer(name);
        if (!layer) throw InvalidInput("layer '" + name + "' is not declared by the level");
        mask |= LayerSet{1} << *layer;
    }
    return mask;
}

template <int D>
LevelBuilder<D>::LevelBuilder(std::vector<std::string> layers, const Vec<D>& up) {
    if (layers.empty()) throw InvalidInput("a level needs at least one layer");
    if (layers.size() > most_layers) {
        throw InvalidInput("a level has at most " + std::to_string(most_layers) + " layers, not " +
                           std::to_string(layers.size()));
    }
    for (std::size_t i = 0; i < layers.size(); ++i) {
        if (std::find(layers.begin(), layers.begin() + static_cast<std::ptrdiff_t>(i), layers[i]) !=
            layers.begin() + static_cast<std::ptrdiff_t>(i)) {
            throw InvalidInput("layer '" + layers[i] + "' is declared twice");
        }
    }
    if (!up.allFinite() || up.norm() == 0.0)
        throw InvalidInput("up has no direction: expected a vector that is not zero");
    level_.layers_ = std::move(layers);
    level_.up_ = up.normalized();
}

template <int D>
Solid<D>& LevelBuilder<D>::begin_solid(const std::string& name, const std::string& layer) {
    const auto found = level_.find_layer(layer);
    if (!found) throw InvalidInput("layer '" + layer + "' is not declared by the level");
    for (const Solid<D>& solid : level_.solids_) {
        if (solid.name == name) throw InvalidInput("solid '" + name + "' is named twice");
    }
    Solid<D> solid;
    solid.name = name;
    solid.layer = *found;
    solid.first_piece = level_.piece_count();
    return level_.solids_.emplace_back(std::move(solid));
}

template <int D>
void LevelBuilder<D>::append(const RoundedHull<D>& shape) {
    typename Level<D>::Piece piece;
    piece.first_point = static_cast<std::uint32_t>(level_.points_.size());
    piece.point_count = static_cast<std::uint16_t>(shape.points().size());
    piece.first_normal = static_cast<std::uint32_t>(level_.normals_.size());
    piece.normal_count = static_cast<std::uint16_t>(shape.normals().size());
    piece.solid = static_cast<std::uint32_t>(level_.solids_.size() - 1);
    piece.radius = shape.radius();
    if (level_.topologies_.empty() || level_.topologies_.back() != shape.topology()) {
        level_.topologies_.push_back(shape.topology());
    }
    piece.topology = level_.topologies_.back().get();
    level_.points_.insert(level_.points_.end(), shape.points().begin(), shape.points().end());
    level_.normals_.insert(level_.normals_.end(), shape.normals().begin(), shape.normals().end());
    level_.pieces_.push_back(piece);
    ++level_.solids_.back().piece_count;
    boxes_.push_back(shape.bounds());
}

template <int D>
LevelBuilder<D>& LevelBuilder<D>::add(const std::string& name, const std::string& layer,
                                      const RoundedHull<D>& shape) {
    begin_solid(name, layer);
    append(shape);
    return *this;
}

template <int D>
LevelBuilder<D>& LevelBuilder<D>::add_polygon(const std::string& name, const std::string& layer,
                                              const std::vector<Vec<2>>& corners) requires(D == 2) {
    if constexpr (D == 2) {  // clang 14 instantiates the other dimension, too
        std::vector<RoundedHull<2>> parts;
        for (auto& part : convex_parts(corners)) parts.push_back(RoundedHull<2>::hull(std::move(part)));
        begin_solid(name, layer).outline = corners;
        for (const auto& part : parts) append(part);
    }
    return *this;
}

template <int D>
LevelBuilder<D>& LevelBuilder<D>::add_polyline(const std::string& name, const std::string& layer,
                                               const std::vector<Vec<2>>& corners) requires(D == 2) {
    if constexpr (D == 2) {  // clang 14 instantiates the other dimension, too
        if (corners.size() < 2) throw InvalidInput("polyline needs at least two corners");
        std::vector<RoundedHull<2>> parts;
        for (std::size_t i = 1; i < corners.size(); ++i) {
            if (corners[i] == corners[i - 1]) {
                throw InvalidInput("polyline has a segment of no length at corner " + std::to_string(i + 1));
            }
            parts.push_back(RoundedHull<2>::facet({corners[i - 1], corners[i]}));
        }
        Solid<2>& solid = begin_solid(name, layer);
        solid.outline = corners;
        solid.closed = false;
        for (const auto& part : parts) append(part);
    }
    return *this;
}

template <int D>
LevelBuilder<D>& LevelBuilder<D>::add_mesh(
    const std::string& name, const std::string& layer, const std::vector<Vec<3>>& vertices,
    const std::vector<std::array<std::uint32_t, 3>>& triangles) requires(D == 3) {
    if constexpr (D == 3) {  // clang 14 instantiates the other dimension, too
        if (triangles.empty()) throw InvalidInput("mesh has no triangles");
        for (const Vec<3>& vertex : vertices) {
            if (!vertex.allFinite()) throw InvalidInput("mesh has a vertex that is not finite");
        }
        for (const auto& triangle : triangles) {
            for (const std::uint32_t corner : triangle) {
                if (corner >= vertices.size()) {
                    throw InvalidInput("mesh triangle names vertex " + std::to_string(corner) + " of " +
                                       std::to_string(vertices.size()));
                }
            }
        }
        begin_solid(name, layer);
        // All triangles share one topology.
        const RoundedHull<3> first = RoundedHull<3>::facet(
            {vertices[triangles[0][0]], vertices[triangles[0][1]], vertices[triangles[0][2]]});
        level_.topologies_.push_back(first.topology());
        const HullTopology* shared = first.topology().get();
        for (const auto& [a, b, c] : triangles) {
            append(RoundedHull<3>::facet({vertices[a], vertices[b], vertices[c]}));
            if (level_.topologies_.back().get() != shared) level_.topologies_.pop_back();
            level_.pieces_.back().topology = shared;
        }
    }
    return *this;
}

template <int D>
LevelBuilder<D>& LevelBuilder<D>::start(const std::string& name, const Vec<D>& at, const Vec<D>& heading) {
    if (level_.find_start(name) != nullptr) throw InvalidInput("start '" + name + "' is named twice");
    if (!at.allFinite()) throw InvalidInput("start position has a number that is not finite");
    level_.starts_.push_back({name, at, level_heading<D>(heading, level_.up_)});
    return *this;
}

template <int D>
Level<D> LevelBuilder<D>::build() {
    if (level_.pieces_.empty()) throw InvalidInput("the level is empty: expected at least one solid");
    for (const Bounds<D>& box : boxes_) level_.bounds_.grow(box);
    level_.tree_ = BoundsTree<D>(boxes_);
    boxes_.clear();
    return std::move(level_);
}

template <int D>
Vec<D> level_heading(const Vec<D>& heading, const Vec<D>& up) {
    const Vec<D> level = heading - heading.dot(up) * up;
    if (!heading.allFinite() || level.norm() <= 1e-9 * heading.norm() || heading.norm() == 0.0) {
        throw InvalidInput("heading has no direction across up: expected a vector not parallel to up");
    }
    return level.normalized();
}

template class Level<2>;
template class Level<3>;
template class LevelBuilder<2>;
template class LevelBuilder<3>;
template Vec<2> level_heading<2>(const Vec<2>&, const Vec<2>&);
template Vec<3> level_heading<3>(const Vec<3>&, const Vec<3>&);

}  // namespace hollow_probe
