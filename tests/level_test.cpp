// Levels: built, from text, asked.
#include <rapidcheck.h>
#include <tbb/parallel_for.h>

#include <atomic>
#include <catch2/catch.hpp>
#include <map>
#include <set>

#include "hollow_probe/geometry/cast.hpp"
#include "hollow_probe/level/cells.hpp"
#include "hollow_probe/level/heights.hpp"
#include "hollow_probe/level/inspect.hpp"
#include "hollow_probe/level/level_cast.hpp"
#include "hollow_probe/level/shifting_level.hpp"
#include "hollow_probe/level/text_level.hpp"
#include "scenes.hpp"

using namespace scenes;

namespace {

template <int D>
std::optional<LevelHit<D>> ray(const Level<D>& level, const Vec<D>& start, const Vec<D>& direction,
                               double reach, LayerSet layers = ~LayerSet{0},
                               IfInside if_inside = IfInside::report, AngleRange angles = {}) {
    static const auto point = RoundedHull<D>::ball(Vec<D>::zero(), 1.0).with_radius(0.0);
    return first_hit<D>(level, {point.view(), start, direction, reach, layers, if_inside}, angles);
}

}  // namespace

TEST_CASE("text cells become boxes and slopes where they stand") {
    const auto level = level_from_text(
        "....a\n"
        "..../\n"
        "####.\n",
        2.0);
    CHECK(level.bounds().low == Vec<2>(0, 0));
    CHECK(level.bounds().high == Vec<2>(10, 6));
    CHECK(level.layers() == std::vector<std::string>{"solid", "a"});
    const auto floor = ray<2>(level, {1, 5}, {0, -1}, 10);
    REQUIRE(floor);
    CHECK(floor->point.is_close(Vec<2>(1, 2)));
    CHECK(level.solids()[level.solid_of(floor->piece)].name == "cell 3:1");
    // The slope rises to the right through its cell's corners.
    const auto slope = ray<2>(level, {9, 4}, {0, -1}, 10, LayerSet{1});
    REQUIRE(slope);
    CHECK(slope->point.is_close(Vec<2>(9, 3)));
    CHECK(degrees(angle_between<2>(slope->normal, level.up())) == Approx(45.0));
    CHECK_FALSE(ray<2>(level, {9, 5}, {0, -1}, 0.5, LayerSet{1}));
    CHECK(ray<2>(level, {9, 7}, {0, -1}, 10, LayerSet{2})->distance == Approx(1.0));
}

TEST_CASE("text with an unknown cell is refused with its place") {
    CHECK_THROWS_WITH(level_from_text("..\n.?"), Catch::Contains("row 2 column 2") && Catch::Contains("'?'"));
    CHECK_THROWS_WITH(level_from_text("..."), Catch::Contains("empty"));
}

TEST_CASE("a builder refuses what makes no level, and keeps what it had") {
    LevelBuilder<2> builder({"a", "b"});
    const auto box = RoundedHull<2>::box({0, 0}, {1, 1});
    builder.add("one", "a", box);
    CHECK_THROWS_WITH(builder.add("one", "b", box), Catch::Contains("'one' is named twice"));
    CHECK_THROWS_WITH(builder.add("two", "c", box), Catch::Contains("layer 'c' is not declared"));
    CHECK_THROWS_WITH(builder.add_polyline("two", "a", {{0, 0}, {0, 0}}), Catch::Contains("no length"));
    CHECK_THROWS_WITH(builder.add_polygon("two", "a", {{0, 0}, {1, 1}, {1, 0}, {0, 1}}),
                      Catch::Contains("crosses"));
    CHECK_THROWS_WITH(builder.start("s", {0, 0}, {0, 1}), Catch::Contains("parallel to up"));
    CHECK(builder.build().solids().size() == 1);
    CHECK_THROWS_WITH(LevelBuilder<3>({"a"}).build(), Catch::Contains("empty"));
    CHECK_THROWS_WITH((LevelBuilder<3>({"a"}, Vec<3>::zero())), Catch::Contains("up has no direction"));
    CHECK_THROWS_WITH((LevelBuilder<3>({"a", "a"})), Catch::Contains("declared twice"));
    CHECK_THROWS_WITH((LevelBuilder<3>({"a"}).add_mesh("m", "a", {{0, 0, 0}}, {{0, 0, 1}})),
                      Catch::Contains("vertex 1 of 1"));
}

TEMPLATE_TEST_CASE_SIG("the first hit is the nearest one brute force finds", "", ((int D), D), 2, 3) {
    Random random(5);
    LevelBuilder<D> builder({"even", "odd"});
    std::vector<RoundedHull<D>> shapes;
    for (int i = 0; i < 120; ++i) {
        shapes.push_back(random_shape<D>(random, random.point<D>(6.0), 1.0));
        builder.add("s" + std::to_string(i), i % 2 == 0 ? "even" : "odd", shapes.back());
    }
    const Level<D> level = builder.build();
    const auto ball = RoundedHull<D>::ball(Vec<D>::zero(), 0.2);
    for (int i = 0; i < 400; ++i) {
        const LevelCast<D> cast_of{ball.view(), random.point<D>(7.0), random.direction<D>(),
                                   8.0,         LayerSet{1} << i % 2, static_cast<IfInside>(i % 3)};
        AngleRange angles{0.0, i % 4 == 0 ? 1.0 : std::numbers::pi};
        if (i % 5 < 2) (i % 5 == 0 ? angles.most_incidence : angles.least_incidence) = 0.6;
        std::optional<double> expected;
        for (std::size_t k = static_cast<std::size_t>(i % 2); k < shapes.size(); k += 2) {
            const auto hit = cast<D>(ball.view(), cast_of.start, cast_of.direction, 8.0, shapes[k].view());
            if (!hit || (i % 4 == 0 && std::acos(level.up().dot(hit->normal)) > 1.0)) continue;
            const double squarely = -cast_of.direction.dot(hit->normal);
            if (i % 5 < 2 && (i % 5 == 0) != (squarely >= std::cos(0.6))) continue;
            const bool leads_out = hit->normal.dot(cast_of.direction) > 0.0;
            if (hit->began_inside && (cast_of.if_inside == IfInside::ignore ||
                                      (cast_of.if_inside == IfInside::against && leads_out)))
                continue;
            if (!expected || hit->distance < *expected) expected = hit->distance;
        }
        const auto found = first_hit<D>(level, cast_of, angles);
        REQUIRE(found.has_value() == expected.has_value());
        if (found) {
            REQUIRE(found->distance == Approx(*expected).margin(1e-9));
            REQUIRE(level.layer_of(found->piece) == static_cast<std::uint32_t>(i % 2));
        }
    }
}

TEST_CASE("a start inside reports the way out, or is passed over") {
    LevelBuilder<2> builder({"m"});
    builder.add("block", "m", RoundedHull<2>::box({0, 0}, {4, 2}));
    builder.add("floor", "m", RoundedHull<2>::box({0, -5}, {4, 2}));
    const auto level = builder.build();
    const auto inside = ray<2>(level, {0.5, 0.7}, {0, -1}, 10);
    REQUIRE(inside);
    CHECK(inside->began_inside);
    CHECK(inside->distance == 0.0);
    CHECK(inside->depth == Approx(0.3));
    CHECK(inside->normal.is_close(Vec<2>(0, 1)));
    const auto beyond = ray<2>(level, {0.5, 0.7}, {0, -1}, 10, ~LayerSet{0}, IfInside::ignore);
    REQUIRE(beyond);
    CHECK(beyond->distance == Approx(4.7));
}

TEST_CASE("a closed mesh lets no ray escape") {
    // An octahedron of 8 triangles, cut finer, seen from inside: every ray through faces, edges and corners
    // hits.
    std::vector<Vec<3>> vertices = {{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}};
    std::vector<std::array<std::uint32_t, 3>> triangles = {{0, 2, 4}, {2, 1, 4}, {1, 3, 4}, {3, 0, 4},
                                                           {2, 0, 5}, {1, 2, 5}, {3, 1, 5}, {0, 3, 5}};
    LevelBuilder<3> builder({"m"});
    builder.add_mesh("octahedron", "m", vertices, triangles);
    const auto level = builder.build();
    Random random(17);
    for (int i = 0; i < 20000; ++i) {
        const Vec<3> start = random.point<3>(0.2);
        Vec<3> towards = random.point<3>(1.0);
        if (i % 3 == 0) towards = vertices[static_cast<std::size_t>(random.below(6))];
        if (i % 3 == 1) {
            const auto& t = triangles[static_cast<std::size_t>(random.below(8))];
            towards = vertices[t[0]] + random.between(0, 1) * (vertices[t[1]] - vertices[t[0]]);
        }
        REQUIRE(ray<3>(level, start, (towards - start).normalized(), 10.0));
    }
}

TEST_CASE("heights are met where they are said to be, from their upper side, whichever way up is") {
    Random random(31);
    for (const Vec<3>& up : {Vec<3>(0, 1, 0), Vec<3>(0, -1, 0), Vec<3>(0, 0, 1), Vec<3>(-1, 0, 0)}) {
        HeightGrid grid;
        grid.columns = 5;
        grid.rows = 4;
        grid.spacing = 0.7;
        for (std::size_t i = 0; i < grid.columns * grid.rows; ++i)
            grid.heights.push_back(random.between(-0.5, 0.5));
        LevelBuilder<3> builder({"m"}, up);
        const Vec<3> corner(0.3, -0.2, 0.1);
        add_heights<3>(builder, "ground", "m", grid, corner);
        const auto level = builder.build();
        std::vector<Vec<3>> across;
        for (int axis = 0; axis < 3; ++axis) {
            if (std::abs(up[axis]) < 0.5) across.push_back(Vec<3>::unit(axis));
        }
        const auto height = [&](std::size_t row, std::size_t column) {
            return grid.heights[row * grid.columns + column];
        };
        for (int i = 0; i < 300; ++i) {
            const double x = random.between(0.01, 3.99);
            const double y = random.between(0.01, 2.99);
            const auto column = static_cast<std::size_t>(x);
            const auto row = static_cast<std::size_t>(y);
            const double u = x - std::floor(x);
            const double v = y - std::floor(y);
            // Each cell is cut from its second corner to its third.
            const double expected =
                u + v <= 1.0 ? height(row, column) + u * (height(row, column + 1) - height(row, column)) +
                                   v * (height(row + 1, column) - height(row, column))
                             : height(row + 1, column + 1) +
                                   (1.0 - u) * (height(row + 1, column) - height(row + 1, column + 1)) +
                                   (1.0 - v) * (height(row, column + 1) - height(row + 1, column + 1));
            // The corner's own height along up does not count: it is where height 0 lies.
            const Vec<3> foot = corner + grid.spacing * (x * across[0] + y * across[1]);
            static const auto point = RoundedHull<3>::ball(Vec<3>::zero(), 1.0).with_radius(0.0);
            LevelCast<3> down{point.view(), foot + 2.0 * up, -up, 9.0, ~LayerSet{0}};
            down.faces = Faces::front;
            const auto hit = first_hit<3>(level, down);
            REQUIRE(hit);
            CHECK(hit->distance == Approx(2.0 - expected).margin(1e-9));
            CHECK(hit->normal.dot(up) > 0.0);
        }
    }
}

TEST_CASE("heights that make no ground are refused") {
    const auto refuses = [](auto change) {
        HeightGrid grid{3, 2, {0, 0, 0, 0, 0, 0}, 0.5};
        change(grid);
        LevelBuilder<3> builder({"m"});
        CHECK_THROWS_AS(add_heights<3>(builder, "ground", "m", grid, Vec<3>::zero()), InvalidInput);
    };
    refuses([](HeightGrid& grid) { grid.spacing = 0.0; });
    refuses([](HeightGrid& grid) { grid.spacing = -1.0; });
    refuses([](HeightGrid& grid) { grid.spacing = std::nan(""); });
    refuses([](HeightGrid& grid) { grid.spacing = infinity; });
    refuses([](HeightGrid& grid) { grid.heights[2] = std::nan(""); });
    refuses([](HeightGrid& grid) { grid.columns = 1, grid.rows = 6; });
    refuses([](HeightGrid& grid) { grid.heights.pop_back(); });
}

TEST_CASE("a grid has as many cells as places") {
    for (const std::size_t count : {std::size_t{5}, std::size_t{7}}) {
        CellGrid grid;
        grid.columns = 3;
        grid.rows = 2;
        grid.cells.assign(count, 1);
        LevelBuilder<2> builder({"a"});
        CHECK_THROWS_AS(add_cells(builder, "cells", grid, {{}, {CellShape::full, "a"}}), InvalidInput);
    }
}

TEST_CASE("cells made into rectangles cover what the cells do, once") {
    Random random(32);
    for (int round = 0; round < 60; ++round) {
        CellGrid grid;
        grid.columns = static_cast<std::size_t>(1 + random.below(9));
        grid.rows = static_cast<std::size_t>(1 + random.below(9));
        grid.size = 0.5;
        grid.corner = {-1.0, 2.0};
        const int one_in = 1 + random.below(3);
        for (std::size_t i = 0; i < grid.columns * grid.rows; ++i)
            grid.cells.push_back(
                static_cast<std::uint8_t>(random.below(3) < one_in ? 1 + random.below(2) : 0));
        grid.cells[0] = 1;
        LevelBuilder<2> builder({"a", "b"});
        add_cells(builder, "cells", grid, {{}, {CellShape::full, "a"}, {CellShape::full, "b"}});
        const auto level = builder.build();
        for (std::size_t row = 0; row < grid.rows; ++row) {
            for (std::size_t column = 0; column < grid.columns; ++column) {
                const Vec<2> middle =
                    grid.corner +
                    grid.size * Vec<2>(static_cast<double>(column) + random.between(0.1, 0.9),
                                       static_cast<double>(grid.rows - row) - random.between(0.1, 0.9));
                std::vector<std::uint32_t> layers;
                for (std::uint32_t i = 0; i < level.piece_count(); ++i) {
                    const auto box = bounds_of(level.piece(i));
                    if (all_below(box.low, middle) && all_below(middle, box.high))
                        layers.push_back(level.layer_of(i) + 1U);
                }
                const std::uint8_t cell = grid.cells[row * grid.columns + column];
                CHECK(layers ==
                      (cell == 0 ? std::vector<std::uint32_t>{} : std::vector<std::uint32_t>{cell}));
            }
        }
    }
}

TEMPLATE_TEST_CASE_SIG("a level whose solids were put elsewhere is the level built there", "", ((int D), D),
                       2, 3) {
    Random random(33);
    for (int round = 0; round < 20; ++round) {
        std::vector<RoundedHull<D>> shapes;
        for (int i = 0; i < 6; ++i)
            shapes.push_back(random_shape<D>(random, random.point<D>(2.0), random.between(0.3, 1.0)));
        const auto built = [&](const std::vector<Vec<D>>& offsets) {
            LevelBuilder<D> builder({"m"});
            for (std::size_t i = 0; i < shapes.size(); ++i)
                builder.add("s" + std::to_string(i), "m", shapes[i].placed(Mat<D>::identity(), offsets[i]));
            return builder.build();
        };
        std::vector<Vec<D>> offsets(shapes.size(), Vec<D>::zero());
        const Level<D> still = built(offsets);
        ShiftingLevel<D> shifting(still);
        for (int move = 0; move < 3; ++move) {
            for (std::uint32_t i = 0; i < shapes.size(); ++i) {
                if (random.below(2) == 0) continue;
                offsets[i] = random.point<D>(3.0);
                shifting.place(i, offsets[i]);
            }
            shifting.refit();
            const Level<D> there = built(offsets);
            CHECK(shifting.level().bounds().low.is_close(there.bounds().low, 1e-12));
            CHECK(shifting.level().bounds().high.is_close(there.bounds().high, 1e-12));
            for (int i = 0; i < 60; ++i) {
                const Vec<D> start = random.point<D>(4.0);
                const Vec<D> direction = random.direction<D>();
                const auto expected = ray<D>(there, start, direction, 9.0);
                const auto hit = ray<D>(shifting.level(), start, direction, 9.0);
                REQUIRE(hit.has_value() == expected.has_value());
                if (hit) CHECK(hit->distance == Approx(expected->distance).margin(1e-9));
            }
        }
    }
    // What is drawn of polygons goes along.
    if constexpr (D == 2) {
        LevelBuilder<2> builder({"m"});
        builder.add_polygon("wedge", "m", {{0, 0}, {2, 0}, {2, 1}, {1, 0.5}});
        const Level<2> level = builder.build();
        ShiftingLevel<2> shifting(level);
        shifting.place(0, {3.0, -1.0});
        const auto& before = level.solids()[0].outline;
        const auto& after = shifting.level().solids()[0].outline;
        REQUIRE(after.size() == before.size());
        for (std::size_t i = 0; i < after.size(); ++i) CHECK(after[i] == before[i] + Vec<2>(3.0, -1.0));
    }
}

TEST_CASE("a level is built whole within a loop that something is thrown from") {
    std::atomic<int> built{0};
    std::atomic<int> wrong{0};
    for (int round = 0; round < 20; ++round) {
        std::atomic<int> begun{0};
        const auto build_one = [&](int) {
            if (++begun == 3) throw InvalidInput("one of many");
            LevelBuilder<2> builder({"m"});
            for (int k = 0; k < 600; ++k)
                builder.add("s" + std::to_string(k), "m", RoundedHull<2>::box(Vec<2>(k, 0), {0.5, 1}));
            const Level<2> level = builder.build();
            ++built;
            for (int k = 0; k < 600; k += 7) {
                const auto hit = ray<2>(level, {static_cast<double>(k), 5}, {0, -1}, 10);
                if (!hit || hit->distance != 4.5) ++wrong;
            }
        };
        CHECK_THROWS_AS(tbb::parallel_for(0, 40, build_one), InvalidInput);
    }
    CHECK(built > 0);
    CHECK(wrong == 0);
}

TEST_CASE("what is odd about any soup of triangles is what a plain count of its sides says") {
    Random random(71);
    std::map<Oddity, std::size_t> met;
    for (int round = 0; round < 150; ++round) {
        // Few corners, so that sides are shared by two, three and more; a place may be told twice, once with
        // a zero below 0.
        std::vector<Vec<3>> places;
        const int count = 4 + random.below(12);
        for (int i = 0; i < count; ++i)
            places.emplace_back(random.below(3), random.below(3), random.below(3));
        for (Vec<3>& place : places) {
            if (place.x() == 0.0 && random.below(2) == 0) place.x() = -0.0;
        }
        std::vector<std::array<std::uint32_t, 3>> triangles;
        const int facets = 1 + random.below(20);
        const auto any = [&] { return static_cast<std::uint32_t>(random.below(count)); };
        for (int i = 0; i < facets; ++i) triangles.push_back({any(), any(), any()});

        std::map<std::array<double, 3>, int> numbers;
        std::map<std::pair<int, int>, std::vector<bool>> sides;  // by ends: the ways they are run through
        std::map<std::multiset<int>, int> alike;
        std::vector<std::array<int, 3>> corners;
        for (const auto& triangle : triangles) {
            std::array<int, 3>& facet = corners.emplace_back();
            for (std::size_t k = 0; k < 3; ++k) {
                const Vec<3>& place = places[triangle[k]];
                const std::array<double, 3> key = {place.x() + 0.0, place.y() + 0.0, place.z() + 0.0};
                facet[k] = numbers.try_emplace(key, static_cast<int>(numbers.size())).first->second;
            }
            for (std::size_t k = 0; k < 3; ++k) {
                const int a = facet[k];
                const int b = facet[(k + 1) % 3];
                if (a != b) sides[std::minmax(a, b)].push_back(a < b);
            }
            ++alike[std::multiset<int>(facet.begin(), facet.end())];
        }
        std::map<Oddity, std::size_t> expected;
        for (const auto& [ends, ways] : sides) {
            if (ways.size() == 1) ++expected[Oddity::open_edge];
            if (ways.size() > 2) ++expected[Oddity::nonmanifold_edge];
            if (ways.size() == 2 && ways[0] == ways[1]) ++expected[Oddity::flipped_normal];
        }
        std::size_t doubled = 0;
        for (const auto& [facet, times] : alike) doubled += static_cast<std::size_t>(times) - 1;
        // Facets that are joined through corners: the least number spreads until nothing changes.
        std::vector<std::size_t> island(numbers.size());
        for (std::size_t i = 0; i < island.size(); ++i) island[i] = i;
        for (std::size_t turn = 0; turn < island.size(); ++turn) {
            for (const auto& facet : corners) {
                std::size_t least = island.size();
                for (const int corner : facet)
                    least = std::min(least, island[static_cast<std::size_t>(corner)]);
                for (const int corner : facet) island[static_cast<std::size_t>(corner)] = least;
            }
        }

        LevelBuilder<3> builder({"m"});
        builder.add_mesh("soup", "m", places, triangles);
        const LevelReport<3> report = inspect<3>(builder.build());
        CAPTURE(round);
        for (const Oddity oddity : {Oddity::open_edge, Oddity::nonmanifold_edge, Oddity::flipped_normal}) {
            CHECK(report.count(oddity) == expected[oddity]);
            met[oddity] += expected[oddity];
        }
        CHECK(report.count(Oddity::duplicate_face) + report.count(Oddity::both_sided) == doubled);
        met[Oddity::duplicate_face] += doubled;
        CHECK(report.solids[0].islands == std::set<std::size_t>(island.begin(), island.end()).size());
        CHECK(report.solids[0].closed() == (expected[Oddity::open_edge] == 0));
    }
    for (const auto& [oddity, times] : met) CHECK(times > 20);
}

TEST_CASE("a large mesh is closed, or has the open edges of its rim") {
    // Many corners, so that they are not all numbered in the room there was at first.
    constexpr std::uint32_t side = 150;
    const auto number = [](std::uint32_t x, std::uint32_t z) { return x * side + z; };
    std::vector<Vec<3>> places;
    std::vector<std::array<std::uint32_t, 3>> triangles;
    for (std::uint32_t x = 0; x < side; ++x) {
        for (std::uint32_t z = 0; z < side; ++z) places.emplace_back(x, 0.1 * ((7 * x + 3 * z) % 5), z);
    }
    for (std::uint32_t x = 0; x + 1 < side; ++x) {
        for (std::uint32_t z = 0; z + 1 < side; ++z) {
            triangles.push_back({number(x, z), number(x, z + 1), number(x + 1, z)});
            triangles.push_back({number(x + 1, z), number(x, z + 1), number(x + 1, z + 1)});
        }
    }
    const auto report = [&] {
        LevelBuilder<3> builder({"m"});
        builder.add_mesh("ground", "m", places, triangles);
        return inspect<3>(builder.build());
    };
    CHECK(report().count(Oddity::open_edge) == 4 * (side - 1));
    CHECK(report().solids[0].islands == 1);
    // A lid on every side of the rim, to one place far above.
    places.emplace_back(0.5 * side, 50.0, 0.5 * side);
    const auto top = static_cast<std::uint32_t>(places.size() - 1);
    for (std::uint32_t i = 0; i + 1 < side; ++i) {
        triangles.push_back({number(i, 0), number(i + 1, 0), top});
        triangles.push_back({number(i + 1, side - 1), number(i, side - 1), top});
        triangles.push_back({number(0, i + 1), number(0, i), top});
        triangles.push_back({number(side - 1, i), number(side - 1, i + 1), top});
    }
    CHECK(report().solids[0].closed());
    CHECK(report().count(Oddity::nonmanifold_edge) == 0);
    CHECK(report().count(Oddity::flipped_normal) == 0);
}
