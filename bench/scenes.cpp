#include "scenes.hpp"

#include <cmath>

#include "hollow_probe/geometry/separation.hpp"

namespace hollow_probe::bench {
namespace {

double height_at(double x, double z) {
    return 12.0 * std::sin(0.021 * x) * std::cos(0.017 * z) + 3.0 * std::sin(0.11 * x + 0.07 * z) +
           0.4 * std::sin(0.9 * x) * std::sin(0.8 * z);
}

void add_box(Mesh& mesh, const Vec<3>& low, const Vec<3>& high) {
    const auto base = static_cast<std::uint32_t>(mesh.vertices.size());
    for (int corner = 0; corner < 8; ++corner) {
        mesh.vertices.emplace_back(corner & 1 ? high.x() : low.x(), corner & 2 ? high.y() : low.y(),
                                   corner & 4 ? high.z() : low.z());
    }
    for (const auto& [a, b, c, d] : std::array<std::array<std::uint32_t, 4>, 6>{
             {{0, 4, 6, 2}, {1, 3, 7, 5}, {0, 1, 5, 4}, {2, 6, 7, 3}, {0, 2, 3, 1}, {4, 5, 7, 6}}}) {
        mesh.triangles.push_back({base + a, base + b, base + c});
        mesh.triangles.push_back({base + a, base + c, base + d});
    }
}

/// A ball of 80 triangles, dented at random.
void add_boulder(Mesh& mesh, Random& random, const Vec<3>& center, double radius) {
    constexpr int rings = 5;
    constexpr int sectors = 10;
    const auto base = static_cast<std::uint32_t>(mesh.vertices.size());
    const auto dent = [&] { return radius * random.number(0.75, 1.0); };
    mesh.vertices.push_back(center + dent() * Vec<3>::unit(1));
    for (int ring = 1; ring < rings; ++ring) {
        for (int sector = 0; sector < sectors; ++sector) {
            const double a = std::numbers::pi * ring / rings;
            const double b = 2.0 * std::numbers::pi * sector / sectors;
            mesh.vertices.push_back(
                center + dent() * Vec<3>(std::sin(a) * std::cos(b), std::cos(a), std::sin(a) * std::sin(b)));
        }
    }
    mesh.vertices.push_back(center - dent() * Vec<3>::unit(1));
    const std::uint32_t last = base + 1 + (rings - 1) * sectors;
    const auto at = [&](int ring, int sector) {
        return base + 1 + static_cast<std::uint32_t>((ring - 1) * sectors + sector % sectors);
    };
    for (int sector = 0; sector < sectors; ++sector) {
        mesh.triangles.push_back({base, at(1, sector + 1), at(1, sector)});
        for (int ring = 1; ring + 1 < rings; ++ring) {
            mesh.triangles.push_back({at(ring, sector), at(ring, sector + 1), at(ring + 1, sector)});
            mesh.triangles.push_back({at(ring, sector + 1), at(ring + 1, sector + 1), at(ring + 1, sector)});
        }
        mesh.triangles.push_back({at(rings - 1, sector), at(rings - 1, sector + 1), last});
    }
}

}  // namespace

double Random::number() {
    std::uint64_t z = (state_ += 0x9E3779B97F4A7C15ULL);
    z = (z ^ (z >> 30U)) * 0xBF58476D1CE4E5B9ULL;
    z = (z ^ (z >> 27U)) * 0x94D049BB133111EBULL;
    return static_cast<double>((z ^ (z >> 31U)) >> 11U) * 0x1p-53;
}

template <>
Vec<2> Random::direction<2>() {
    const double a = number(0.0, 2.0 * std::numbers::pi);
    return {std::cos(a), std::sin(a)};
}
template <>
Vec<3> Random::direction<3>() {
    const double a = number(0.0, 2.0 * std::numbers::pi);
    const double y = number(-1.0, 1.0);
    const double r = std::sqrt(1.0 - y * y);
    return {r * std::cos(a), y, r * std::sin(a)};
}

Mesh rolling_terrain(std::size_t triangles) {
    const auto cells = static_cast<std::uint32_t>(std::sqrt(static_cast<double>(triangles) / 2.0));
    Mesh mesh;
    for (std::uint32_t i = 0; i <= cells; ++i) {
        for (std::uint32_t k = 0; k <= cells; ++k) mesh.vertices.emplace_back(i, height_at(i, k), k);
    }
    for (std::uint32_t i = 0; i < cells; ++i) {
        for (std::uint32_t k = 0; k < cells; ++k) {
            const std::uint32_t a = i * (cells + 1) + k;
            const std::uint32_t b = a + cells + 1;
            mesh.triangles.push_back({a, a + 1, b});
            mesh.triangles.push_back({b, a + 1, b + 1});
        }
    }
    return mesh;
}

Mesh rubble(std::size_t triangles) {
    Random random(7);
    Mesh mesh;
    const double side = 1.6 * std::sqrt(static_cast<double>(triangles) / 80.0);
    add_box(mesh, {0.0, -1.0, 0.0}, {side, 0.0, side});
    while (mesh.triangles.size() + 80 <= triangles) {
        const double radius = random.number(0.3, 1.4);
        add_boulder(mesh, random,
                    {random.number(0.0, side), random.number(0.0, 6.0), random.number(0.0, side)}, radius);
    }
    return mesh;
}

Mesh interior(std::size_t triangles) {
    // A room has a floor, two walls with a doorway each, a pillar and ten stairs: 17 boxes of 12 triangles.
    constexpr double room = 6.0;
    constexpr double storey = 3.0;
    constexpr int storeys = 4;
    const auto rooms =
        std::max(1, static_cast<int>(std::sqrt(static_cast<double>(triangles) / (17.0 * 12.0 * storeys))));
    Mesh mesh;
    for (int level = 0; level < storeys; ++level) {
        for (int i = 0; i < rooms; ++i) {
            for (int k = 0; k < rooms; ++k) {
                const Vec<3> at(room * i, storey * level, room * k);
                const auto box = [&](const Vec<3>& low, const Vec<3>& high) {
                    add_box(mesh, at + low, at + high);
                };
                box({0.0, -0.2, 0.0}, {room, 0.0, room});
                box({0.0, 0.0, 0.0}, {0.2, 2.8, 2.2});
                box({0.0, 0.0, 3.4}, {0.2, 2.8, room});
                box({0.2, 0.0, 0.0}, {2.2, 2.8, 0.2});
                box({3.4, 0.0, 0.0}, {room, 2.8, 0.2});
                box({4.0, 0.0, 4.0}, {4.4, 2.8, 4.4});
                box({2.0, 2.3, 0.0}, {2.2, 2.8, 0.2});
                for (int step = 0; step < 10; ++step) {
                    box({1.0 + 0.28 * step, 0.0, 4.8}, {1.28 + 0.28 * step, 0.28 * (step + 1), 5.8});
                }
            }
        }
    }
    return mesh;
}

Level<3> level_of(const Mesh& mesh) {
    LevelBuilder<3> builder({"masonry"});
    builder.add_mesh("all", "masonry", mesh.vertices, mesh.triangles);
    return builder.build();
}

Level<2> cave(std::size_t segments) {
    // Rows of passages; floor and ceiling of each are a polyline.
    LevelBuilder<2> builder({"masonry"});
    const auto length = static_cast<std::size_t>(std::sqrt(static_cast<double>(segments) * 4.0));
    const std::size_t lines = segments / length;
    Random random(11);
    for (std::size_t line = 0; line < lines; ++line) {
        const double base = 3.0 * static_cast<double>(line) + (line % 2 == 0 ? 0.0 : 1.0);
        std::vector<Vec<2>> corners;
        for (std::size_t i = 0; i <= length; ++i) {
            const double x = 0.5 * static_cast<double>(i);
            corners.emplace_back(
                x, base + 0.6 * std::sin(0.3 * x + static_cast<double>(line)) + random.number(-0.15, 0.15));
        }
        builder.add_polyline("rock " + std::to_string(line + 1), "masonry", corners);
    }
    return builder.build();
}

template <int D>
std::vector<Line<D>> scattered_lines(const Level<D>& level, std::size_t count, double clearance) {
    Random random(42);
    std::vector<Line<D>> lines;
    const Bounds<D>& box = level.bounds();
    while (lines.size() < count) {
        Line<D> line;
        for (int axis = 0; axis < D; ++axis) line.start[axis] = random.number(box.low[axis], box.high[axis]);
        line.direction = random.direction<D>();
        bool clear = true;
        Bounds<D> around;
        around.grow(line.start);
        const auto ball = RoundedHull<D>::ball(line.start, std::max(clearance, 1e-6));
        level.tree().overlapping(around.inflated(clearance), all_layers, [&](std::uint32_t piece) {
            clear = clear && separation<D>(ball.view(), level.piece(piece)).gap > 0.0;
        });
        if (clear) lines.push_back(line);
    }
    return lines;
}

template std::vector<Line<2>> scattered_lines<2>(const Level<2>&, std::size_t, double);
template std::vector<Line<3>> scattered_lines<3>(const Level<3>&, std::size_t, double);

}  // namespace hollow_probe::bench
