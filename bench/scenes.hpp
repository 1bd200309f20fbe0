// Generated levels to measure in: the same numbers give the same level on every machine.
#pragma once

#include <cstdint>
#include <vector>

#include "hollow_probe/level/level.hpp"

namespace hollow_probe::bench {

/// Uniform numbers, the same everywhere (S. Vigna, "Further scramblings of Marsaglia's xorshift generators",
/// 2017: splitmix64).
class Random {
  public:
    explicit Random(std::uint64_t seed) : state_(seed) {}
    double number(double low, double high) { return low + (high - low) * number(); }
    template <int D>
    Vec<D> direction();

  private:
    double number();
    std::uint64_t state_;
};

struct Mesh {
    std::vector<Vec<3>> vertices;
    std::vector<std::array<std::uint32_t, 3>> triangles;
};

/// About `triangles` triangles, 1.4 wide: hills with ripples on them.
Mesh rolling_terrain(std::size_t triangles);
/// Boulders of 80 triangles strewn and stacked over a floor.
Mesh rubble(std::size_t triangles);
/// Storeys of rooms with doorways, pillars and stairs.
Mesh interior(std::size_t triangles);

Level<3> level_of(const Mesh& mesh);
/// Winding passages, outlined by about `segments` segments.
Level<2> cave(std::size_t segments);

/// A start and a direction.
template <int D>
struct Line {
    Vec<D> start;
    Vec<D> direction;
};

/// From anywhere inside the level's bounds into any direction; never from within `clearance` of a piece.
template <int D>
std::vector<Line<D>> scattered_lines(const Level<D>& level, std::size_t count, double clearance);

}  // namespace hollow_probe::bench
