// Levels: built, from text, asked.
#include <rapidcheck.h>

#include <catch2/catch.hpp>

#include "hollow_probe/geometry/cast.hpp"
#include "hollow_probe/level/level_cast.hpp"
#include "hollow_probe/level/text_level.hpp"
#include "scenes.hpp"

using namespace scenes;

namespace {

template <int D>
std::optional<LevelHit<D>> ray(const Level<D>& level, const Vec<D>& start, const Vec<D>& direction,
                               double reach, LayerSet layers = ~LayerSet{0},
                               IfInside if_inside = IfInside::report, AngleRange angles = {}) {
    static const auto point = RoundedHull<D>::ball(Vec<D>::Zero(), 1.0).with_radius(0.0);
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
    CHECK(floor->point.isApprox(Vec<2>(1, 2)));
    CHECK(level.solids()[level.solid_of(floor->piece)].name == "cell 3:1");
    // The slope rises to the right through its cell's corners.
    const auto slope = ray<2>(level, {9, 4}, {0, -1}, 10, LayerSet{1});
    REQUIRE(slope);
    CHECK(slope->point.isApprox(Vec<2>(9, 3)));
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
    CHECK_THROWS_WITH((LevelBuilder<3>({"a"}, Vec<3>::Zero())), Catch::Contains("up has no direction"));
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
    const auto ball = RoundedHull<D>::ball(Vec<D>::Zero(), 0.2);
    for (int i = 0; i < 400; ++i) {
        const LevelCast<D> cast_of{ball.view(), random.point<D>(7.0), random.direction<D>(),
                                   8.0,         LayerSet{1} << i % 2, static_cast<IfInside>(i % 3)};
        const AngleRange angles{0.0, i % 4 == 0 ? 1.0 : std::numbers::pi};
        std::optional<double> expected;
        for (std::size_t k = static_cast<std::size_t>(i % 2); k < shapes.size(); k += 2) {
            const auto hit = cast<D>(ball.view(), cast_of.start, cast_of.direction, 8.0, shapes[k].view());
            if (!hit || !within<D>(angles, hit->normal, level.up())) continue;
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
    CHECK(inside->normal.isApprox(Vec<2>(0, 1)));
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
