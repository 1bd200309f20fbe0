#include "hollow_probe/level/level.hpp"

#include <algorithm>

#include "hollow_probe/geometry/polygon.hpp"
#include "hollow_probe/geometry/tolerances.hpp"

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
const Area<D>* Level<D>::find_area(const std::string& name) const {
    const auto found =
        std::find_if(areas_.begin(), areas_.end(), [&](const Area<D>& area) { return area.name == name; });
    return found == areas_.end() ? nullptr : &*found;
}

template <int D>
bool Level<D>::has_paths() const {
    return std::any_of(solids_.begin(), solids_.end(), [](const Solid<D>& solid) { return solid.path; });
}

template <int D>
Level<D> Level<D>::at(double seconds) const {
    Level moved = *this;
    if (!has_paths()) return moved;
    for (Solid<D>& solid : moved.solids_) {
        if (!solid.path) continue;
        const Vec<D> offset = solid.path->at(seconds);
        for (std::uint32_t i = 0; i < solid.piece_count; ++i)
            moved.pieces_.move(solid.first_piece + i, offset);
        for (Vec<D>& corner : solid.outline) corner += offset;
    }
    moved.make_index();
    return moved;
}

template <int D>
void Level<D>::make_index() {
    const std::uint32_t count = piece_count();
    std::vector<std::uint32_t> items(count);
    std::vector<std::uint8_t> layers(count);
    bounds_ = {};
    for (std::uint32_t i = 0; i < count; ++i) {
        items[i] = i;
        layers[i] = bit_of(i);
        bounds_.grow(pieces_.bounds(i));
    }
    tree_ = BoundsTree<D>(pieces_, items, layers);
}

template <int D>
LayerSet Level<D>::mask_of(const std::vector<std::string>& names, Role as) const {
    LayerSet mask = 0;
    for (const std::string& name : names) {
        const auto layer = find_layer(name);
        if (!layer) throw InvalidInput("layer '" + name + "' is not declared by the level");
        mask |= LayerSet{1} << *layer;
        for (const std::uint32_t number : of_own_bits_) {
            const Solid<D>& solid = solids_[number];
            if (solid.layer != *layer || (solid.role != as && solid.role != Role::both)) continue;
            const bool at_times = solid.sensed_when.has_value();
            if (at_times ? as == Role::reference && solid.role == Role::both : solid.role == as)
                mask |= LayerSet{1} << solid.bit;
        }
    }
    return mask;
}

template <int D>
std::vector<SpeedGate> Level<D>::speed_gates(const std::vector<std::string>& names,
                                             const std::string& stance) const {
    std::vector<SpeedGate> gates;
    for (const std::uint32_t number : of_own_bits_) {
        const Solid<D>& solid = solids_[number];
        if (!solid.sensed_when) continue;
        const SensedWhen& when = *solid.sensed_when;
        const auto has = [](const std::vector<std::string>& list, const std::string& name) {
            return std::find(list.begin(), list.end(), name) != list.end();
        };
        if (!has(names, layers_[solid.layer])) continue;
        if (!when.stances.empty() && !has(when.stances, stance)) continue;
        gates.push_back({LayerSet{1} << solid.bit, when.slowest, when.fastest});
    }
    return gates;
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
    if (!up.is_finite() || up.norm() == 0.0)
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
Solid<D>& LevelBuilder<D>::last_solid(const char* what) {
    if (level_.solids_.empty()) throw InvalidInput(std::string(what) + " is said of no solid: add one first");
    return level_.solids_.back();
}

template <int D>
LevelBuilder<D>& LevelBuilder<D>::warn(const std::string& warning) {
    auto& all = level_.warnings_;
    if (std::find(all.begin(), all.end(), warning) == all.end()) all.push_back(warning);
    return *this;
}

template <int D>
LevelBuilder<D>& LevelBuilder<D>::one_way(const Vec<D>& direction) {
    Solid<D>& solid = last_solid("one_way");
    if (!direction.is_finite() || direction.norm() == 0.0) {
        throw InvalidInput("one_way has no direction: expected a vector that is not zero");
    }
    solid.one_way = direction.normalized();
    return *this;
}

template <int D>
LevelBuilder<D>& LevelBuilder<D>::role(Role role) {
    Solid<D>& solid = last_solid("role");
    const Role before = solid.role;
    solid.role = role;
    try {
        find_bits();
    } catch (const InvalidInput&) {
        solid.role = before;
        throw;
    }
    return *this;
}

template <int D>
// NOLINTNEXTLINE(performance-unnecessary-value-param): it is moved from
LevelBuilder<D>& LevelBuilder<D>::sensed_when(SensedWhen when) {
    Solid<D>& solid = last_solid("sensed_when");
    if (solid.role == Role::reference)
        throw InvalidInput("sensed_when is said of a solid whose role is reference: probes never meet it");
    if (!(when.slowest >= 0.0 && when.slowest <= when.fastest))
        throw InvalidInput("sensed_when needs speeds of 0 or more, the lower first");
    solid.sensed_when = std::move(when);
    try {
        find_bits();
    } catch (const InvalidInput&) {
        solid.sensed_when.reset();
        throw;
    }
    return *this;
}

/// Gives the solid added last the layer's own bit, or that of earlier ones that are met just as it is, or a
/// new one.
template <int D>
void LevelBuilder<D>::find_bits() {
    Solid<D>& solid = level_.solids_.back();
    const auto number = static_cast<std::uint32_t>(level_.solids_.size() - 1);
    const auto take = [&](std::size_t bit) {
        std::erase(level_.of_own_bits_, number);
        solid.bit = static_cast<std::uint8_t>(bit);
    };
    if (solid.role == Role::both && !solid.sensed_when) {
        take(solid.layer);
        return;
    }
    std::size_t bit = level_.layers_.size();
    for (const std::uint32_t of : level_.of_own_bits_) {
        if (of == number) continue;
        const Solid<D>& other = level_.solids_[of];
        if (other.layer == solid.layer && other.role == solid.role && other.volume == solid.volume &&
            other.sensed_when == solid.sensed_when) {
            take(other.bit);
            return;
        }
        bit = std::max<std::size_t>(bit, other.bit + 1U);
    }
    if (bit >= most_layers) {
        throw InvalidInput("the level has more than 64 layers, counting one more for each role on a layer");
    }
    take(bit);
    level_.of_own_bits_.push_back(number);
}

template <int D>
LevelBuilder<D>& LevelBuilder<D>::path(Path<D> path) {
    Solid<D>& solid = last_solid("path");
    if (path.stops.empty()) throw InvalidInput("path has no stops: expected at least one");
    for (const Vec<D>& stop : path.stops) {
        if (!stop.is_finite()) throw InvalidInput("path has a stop that is not finite");
    }
    if (!std::isfinite(path.pace) || path.pace <= 0.0) throw InvalidInput("pace must be more than 0");
    if (!std::isfinite(path.wait) || path.wait < 0.0) throw InvalidInput("wait must be 0 or more");
    solid.path = std::move(path);
    return *this;
}

template <int D>
LevelBuilder<D>& LevelBuilder<D>::area(const std::string& name, const Bounds<D>& box,
                                       const std::string& layer) {
    if (level_.find_area(name) != nullptr) throw InvalidInput("area '" + name + "' is named twice");
    if (!box.low.is_finite() || !box.high.is_finite() || !all_below(box.low, box.high))
        throw InvalidInput("area '" + name + "' is no box: expected low < high along every axis");
    if (!layer.empty()) {
        add(name, layer, RoundedHull<D>::box(box.center(), box.size()));
        level_.solids_.back().volume = true;
        role(Role::sensed);
    }
    level_.areas_.push_back({name, box});
    return *this;
}

template <int D>
LevelBuilder<D>& LevelBuilder<D>::claim(const AreaClaim& claim) {
    if (level_.find_area(claim.area) == nullptr) throw InvalidInput("there is no area '" + claim.area + "'");
    level_.claims_.push_back(claim);
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
            if (!corners[i].is_finite()) throw InvalidInput("corner has a number that is not finite");
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
            if (!vertex.is_finite()) throw InvalidInput("mesh has a vertex that is not finite");
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
    if (!at.is_finite()) throw InvalidInput("start position has a number that is not finite");
    level_.starts_.push_back({name, at, level_heading<D>(heading, level_.up_)});
    return *this;
}

template <int D>
Level<D> LevelBuilder<D>::build() {
    if (level_.piece_count() == 0) throw InvalidInput("the level is empty: expected at least one solid");
    level_.make_index();
    return std::move(level_);
}

template <int D>
Vec<D> level_heading(const Vec<D>& heading, const Vec<D>& up) {
    const Vec<D> level = heading - heading.dot(up) * up;
    if (!heading.is_finite() || level.norm() <= tolerance::angle * heading.norm() || heading.norm() == 0.0) {
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
