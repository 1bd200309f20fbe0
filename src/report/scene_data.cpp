#include <algorithm>
#include <map>

#include "report/page_data.hpp"
#include "report/page_shapes.hpp"

namespace hollow_probe {
namespace {

constexpr std::size_t most_corners = 1'200'000;  // of triangles; 2D: of outlines

/// Distance of two boxes; 0 if they overlap.
template <int D>
double apart(const Bounds<D>& a, const Bounds<D>& b) {
    return (a.low - b.high).max(b.low - a.high).max(Vec<D>::zero()).norm();
}

/// Which pieces are drawn: all, or of large levels those nearest to any of `near`.
template <int D>
std::vector<bool> drawn_pieces(const Level<D>& level, const std::vector<Bounds<D>>& near) {
    std::vector<bool> drawn(level.piece_count(), true);
    const auto corners = [&](std::uint32_t i) {
        const HullView<D> hull = level.piece(i);
        if constexpr (D == 2) return hull.points.size() + (hull.radius > 0.0 ? 40 : 0);
        if (level.pieces().is_facet(i)) return std::size_t{3};
        return hull.radius > 0.0 ? std::size_t{1100} : 6 * hull.points.size();
    };
    std::size_t all = 0;
    for (std::uint32_t i = 0; i < level.piece_count(); ++i) all += corners(i);
    if (all <= most_corners) return drawn;
    std::vector<std::pair<double, std::uint32_t>> order;
    for (std::uint32_t i = 0; i < level.piece_count(); ++i) {
        const Bounds<D> box = bounds_of(level.piece(i));
        double nearest = infinity;
        for (const Bounds<D>& place : near) nearest = std::min(nearest, apart<D>(box, place));
        order.emplace_back(nearest, i);
    }
    std::sort(order.begin(), order.end());
    std::size_t taken = 0;
    for (const auto& [distance, piece] : order) {
        taken += corners(piece);
        if (taken > most_corners) drawn[piece] = false;
    }
    return drawn;
}

Json outline_json(const std::vector<Vec<2>>& outline) {
    Json list = Json::array();
    for (const Vec<2>& p : outline) list.push_back(numbers_of<2>(p));
    return list;
}

void add_geometry(const Level<2>& level, const Solid<2>& solid, const std::vector<bool>& drawn, Json& json) {
    json["closed"] = true;
    Json outlines = Json::array();
    const bool all =
        std::all_of(drawn.begin() + solid.first_piece, drawn.begin() + solid.first_piece + solid.piece_count,
                    [](bool is_drawn) { return is_drawn; });
    if (!solid.outline.empty() && all) {
        json["closed"] = solid.closed;
        outlines.push_back(outline_json(solid.outline));
    } else {
        for (std::uint32_t i = solid.first_piece; i < solid.first_piece + solid.piece_count; ++i) {
            if (drawn[i]) outlines.push_back(outline_json(outline_of(level.piece(i))));
        }
        if (!solid.outline.empty()) json["closed"] = solid.closed;
    }
    json["outlines"] = outlines;
}

void add_geometry(const Level<3>& level, const Solid<3>& solid, const std::vector<bool>& drawn, Json& json) {
    Packed triangles;
    Packed edges;
    // Edges that two coplanar facets share are no edges to see.
    using Corner = std::array<double, 3>;
    std::map<std::pair<Corner, Corner>, std::pair<int, Vec<3>>> seams;
    const auto key = [](const Vec<3>& p) { return Corner{p.x(), p.y(), p.z()}; };
    for (std::uint32_t i = solid.first_piece; i < solid.first_piece + solid.piece_count; ++i) {
        if (!drawn[i]) continue;
        const HullView<3> hull = level.piece(i);
        const bool is_facet = level.pieces().is_facet(i);
        pack_surface(hull, is_facet, triangles);
        if (!is_facet) {
            pack_edges(hull, edges);
            continue;
        }
        const Vec<3> n = facet_normal<3>(hull.points.data());
        for (std::size_t k = 0; k < 3; ++k) {
            Corner a = key(hull.points[k]);
            Corner b = key(hull.points[(k + 1) % 3]);
            if (b < a) std::swap(a, b);
            const auto [place, fresh] = seams.try_emplace({a, b}, std::pair{1, n});
            if (fresh) continue;
            ++place->second.first;
            if (std::abs(n.dot(place->second.second)) > 0.999) place->second.first = 0;
        }
    }
    for (const auto& [ends, seen] : seams) {
        if (seen.first == 0) continue;
        edges.add<3>(Vec<3>(ends.first[0], ends.first[1], ends.first[2]));
        edges.add<3>(Vec<3>(ends.second[0], ends.second[1], ends.second[2]));
    }
    json["triangles"] = triangles.text();
    json["edges"] = edges.text();
}

}  // namespace

template <int D>
Json scene_data(const Level<D>& level, const std::vector<Bounds<D>>& near) {
    const std::vector<bool> drawn = drawn_pieces<D>(level, near);
    Bounds<D> box;
    for (std::uint32_t i = 0; i < level.piece_count(); ++i) {
        if (drawn[i]) box.grow(bounds_of(level.piece(i)));
    }
    Json json = {{"dimensions", D},
                 {"up", numbers_of<D>(level.up())},
                 {"low", numbers_of<D>(box.low)},
                 {"high", numbers_of<D>(box.high)},
                 {"layers", level.layers()},
                 {"left_out", std::count(drawn.begin(), drawn.end(), false)},
                 {"areas", Json::array()},
                 {"starts", Json::array()},
                 {"solids", Json::array()}};
    for (const Area<D>& area : level.areas())
        json["areas"].push_back({{"name", area.name},
                                 {"low", numbers_of<D>(area.box.low)},
                                 {"high", numbers_of<D>(area.box.high)}});
    for (const StartPoint<D>& start : level.starts())
        json["starts"].push_back({{"name", start.name},
                                  {"at", numbers_of<D>(start.at)},
                                  {"heading", numbers_of<D>(start.heading)}});
    for (const Solid<D>& solid : level.solids()) {
        Json one = {{"name", solid.name}, {"layer", solid.layer}, {"moves", solid.path.has_value()}};
        if (solid.one_way) one["one_way"] = numbers_of<D>(*solid.one_way);
        if (solid.role != Role::both) one["role"] = solid.role == Role::sensed ? "sensed" : "reference";
        add_geometry(level, solid, drawn, one);
        json["solids"].push_back(std::move(one));
    }
    return json;
}

template Json scene_data<2>(const Level<2>&, const std::vector<Bounds<2>>&);
template Json scene_data<3>(const Level<3>&, const std::vector<Bounds<3>>&);

}  // namespace hollow_probe
