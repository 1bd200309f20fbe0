#include "hollow_probe/level/level.hpp"

#include <algorithm>

#include "hollow_probe/geometry/polygon.hpp"

namespace hollow_probe {

const char* name_of(Role role) {
    switch (role) {
        case Role::both:
            return "both";
        case Role::sensed:
            return "sensed";
        case Role::reference:
            return "reference";
    }
    return "";
}

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
LayerSet Level<D>::mask_of(const std::vector<std::string>& names, Role as) const {
    LayerSet mask = 0;
    for (const std::string& name : names) {
        const auto layer = find_layer(name);
        if (!layer) throw InvalidInput("layer '" + name + "' is not declared by the level");
        mask |= LayerSet{1} << *layer;
        for (const Solid<D>& solid : solids_) {
            if (solid.layer == *layer && solid.role == as) mask |= LayerSet{1} << solid.bit;
        }
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
    if (!names_.insert(name).second) throw InvalidInput("solid '" + name + "' is named twice");
    Solid<D> solid;
    solid.name = name;
    solid.layer = *found;
    solid.bit = static_cast<std::uint8_t>(*found);
    solid.first_piece = level_.piece_count();
    return level_.solids_.emplace_back(std::move(solid));
}

template <int D>
void LevelBuilder<D>::append(const RoundedHull<D>& shape) {
    level_.pieces_.add(shape);
    level_.solid_of_piece_.push_back(static_cast<std::uint32_t>(level_.solids_.size() - 1));
    ++level_.solids_.back().piece_count;
}

template <int D>
void LevelBuilder<D>::append_facet(const std::array<Vec<D>, D>& corners) {
    level_.pieces_.add_facet(corners);
    level_.solid_of_piece_.push_back(static_cast<std::uint32_t>(level_.solids_.size() - 1));
    ++level_.solids_.back().piece_count;
}

template <int D>
LevelBuilder<D>& LevelBuilder<D>::add(const std::string& name, const std::string& layer,
                                      const RoundedHull<D>& shape) {
    begin_solid(name, layer);
    append(shape);
    return *this;
}

template <int D>
LevelBuilder<D>& LevelBuilder<D>::add_parts(const std::string& name, const std::string& layer,
                                            std::span<const RoundedHull<D>> parts) {
    if (parts.empty()) throw InvalidInput("solid '" + name + "' has no parts: expected at least one");
    begin_solid(name, layer);
    for (const RoundedHull<D>& part : parts) append(part);
    return *this;
}

template <int D>
LevelBuilder<D>& LevelBuilder<D>::one_way(const Vec<D>& direction) {
    if (level_.solids_.empty()) throw InvalidInput("one_way is said of no solid: add one first");
    if (!direction.allFinite() || direction.norm() == 0.0) {
        throw InvalidInput("one_way has no direction: expected a vector that is not zero");
    }
    level_.solids_.back().one_way = direction.normalized();
    return *this;
}

template <int D>
LevelBuilder<D>& LevelBuilder<D>::role(Role role) {
    if (level_.solids_.empty()) throw InvalidInput("role is said of no solid: add one first");
    Solid<D>& solid = level_.solids_.back();
    if (role == Role::both) {
        solid.role = role;
        solid.bit = static_cast<std::uint8_t>(solid.layer);
        return *this;
    }
    std::size_t bit = level_.layers_.size();
    for (const Solid<D>& other : level_.solids_) {
        if (&other == &solid || other.role == Role::both) continue;
        if (other.layer == solid.layer && other.role == role) {
            bit = other.bit;
            break;
        }
        bit = std::max<std::size_t>(bit, other.bit + 1U);
    }
    if (bit >= most_layers) {
        throw InvalidInput("the level has more than 64 layers, counting one more for each role on a layer");
    }
    solid.role = role;
    solid.bit = static_cast<std::uint8_t>(bit);
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
        for (std::size_t i = 0; i < corners.size(); ++i) {
            if (!corners[i].allFinite()) throw InvalidInput("corner has a number that is not finite");
            if (i > 0 && corners[i] == corners[i - 1]) {
                throw InvalidInput("polyline has a segment of no length at corner " + std::to_string(i + 1));
            }
        }
        Solid<2>& solid = begin_solid(name, layer);
        solid.outline = corners;
        solid.closed = false;
        for (std::size_t i = 1; i < corners.size(); ++i) append_facet({corners[i - 1], corners[i]});
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
        level_.pieces_.reserve_facets(triangles.size());
        for (const auto& [a, b, c] : triangles) append_facet({vertices[a], vertices[b], vertices[c]});
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
    const std::uint32_t count = level_.piece_count();
    if (count == 0) throw InvalidInput("the level is empty: expected at least one solid");
    std::vector<std::uint32_t> items(count);
    std::vector<std::uint8_t> layers(count);
    for (std::uint32_t i = 0; i < count; ++i) {
        items[i] = i;
        layers[i] = level_.bit_of(i);
        level_.bounds_.grow(level_.pieces_.bounds(i));
    }
    level_.tree_ = BoundsTree<D>(level_.pieces_, items, layers);
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
