// Casts of every kind at every kind of piece, held against bisection on the distance function and against
// certificates; levels held against brute force; degenerate input; closed meshes; seams.
//
// The cases tagged [.long] are left out of an ordinary run: ./run long.
#include <catch2/catch.hpp>
#include <cstdlib>
#include <numeric>

#include "hollow_probe/geometry/cast.hpp"
#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/level/level_cast.hpp"
#include "hollow_probe/level/level_query.hpp"
#include "hollow_probe/level/moving_level.hpp"
#include "hollow_probe/level/neighbourhood.hpp"
#include "scenes.hpp"

using namespace scenes;

namespace {

template <int D>
RoundedHull<D> point() {
    return RoundedHull<D>::ball(Vec<D>::zero(), 1.0).with_radius(0.0);
}

enum class Kind { point, ball, capsule, box, hull, rounded, facet, needle };
const std::vector<Kind> all_movers = {Kind::point, Kind::ball, Kind::capsule,
                                      Kind::box,   Kind::hull, Kind::rounded};
const std::vector<Kind> all_targets = {Kind::ball,    Kind::capsule, Kind::box,   Kind::hull,
                                       Kind::rounded, Kind::facet,   Kind::needle};

template <int D>
RoundedHull<D> shape_of(Kind kind, Random& random, const Vec<D>& center, double size) {
    const auto near = [&](double spread) { return center + random.point<D>(spread * size); };
    switch (kind) {
        case Kind::point:
            return point<D>().placed(Mat<D>::identity(), center);
        case Kind::ball:
            return RoundedHull<D>::ball(center, size * random.between(0.1, 1.0));
        case Kind::capsule:
            return RoundedHull<D>::capsule(near(0.5), near(0.5), size * random.between(0.05, 0.5));
        case Kind::box: {
            const Vec<D> sizes = size * (random.point<D>(0.4) + Vec<D>::constant(0.6));
            const Mat<D> turn = random_turn<D>(random);
            return RoundedHull<D>::box(center, sizes).placed(turn, center - turn * center);
        }
        case Kind::facet: {
            std::array<Vec<D>, D> corners;
            for (Vec<D>& corner : corners) corner = near(1.0);
            return RoundedHull<D>::facet(corners);
        }
        case Kind::needle: {
            // As thin as 1e-8 of its length.
            std::array<Vec<D>, D> corners;
            corners[0] = near(1.0);
            corners[1] = near(1.0);
            if constexpr (D == 3) {
                const Vec<D> along = corners[1] - corners[0];
                corners[2] =
                    corners[0] + random.between(0.0, 1.0) * along + 1e-8 * size * along.unit_across();
            }
            return RoundedHull<D>::facet(corners);
        }
        default: {
            for (;;) {
                std::vector<Vec<D>> points;
                const int count = D + 1 + random.below(6);
                for (int i = 0; i < count; ++i) points.push_back(center + size * random.direction<D>());
                try {
                    return RoundedHull<D>::hull(points, kind == Kind::rounded ? 0.2 * size : 0.0);
                } catch (const InvalidInput&) {  // flat by chance
                }
            }
        }
    }
}

/// How far apart the two are with the mover `t` along.
template <int D>
double gap_at(const RoundedHull<D>& mover, const Vec<D>& start, const Vec<D>& direction, double t,
              const RoundedHull<D>& target) {
    return separation<D>(mover.view(), start + t * direction, target.view()).gap;
}

/// The first root of the gap by ternary search for its least value (it is convex in t) and bisection; nothing
/// if the least gap stays above `touch`.
template <int D>
std::optional<double> oracle(const RoundedHull<D>& mover, const Vec<D>& start, const Vec<D>& direction,
                             double reach, const RoundedHull<D>& target, double touch) {
    const auto gap = [&](double t) { return gap_at<D>(mover, start, direction, t, target); };
    double low = 0.0;
    double high = reach;
    for (int i = 0; i < 120 && gap(high) > touch; ++i) {
        const double a = low + (high - low) / 3.0;
        const double b = high - (high - low) / 3.0;
        (gap(a) < gap(b) ? high : low) = gap(a) < gap(b) ? b : a;
        if (gap(a) <= touch) {
            high = a;
            break;
        }
    }
    if (gap(high) > touch) return std::nullopt;
    low = 0.0;
    for (int i = 0; i < 100; ++i) {
        const double middle = 0.5 * (low + high);
        (gap(middle) > 0.0 ? low : high) = middle;
    }
    return high;
}

/// One random cast, judged; `origin` is where the scene is.
template <int D>
void judge(Kind mover_kind, Kind target_kind, Random& random, double size, const Vec<D>& origin) {
    const auto target = shape_of<D>(target_kind, random, origin, size);
    const auto mover = shape_of<D>(mover_kind, random, Vec<D>::zero(), size * random.between(0.1, 1.0));
    const Vec<D> start = origin + 3.0 * size * random.direction<D>();
    const Vec<D> direction = (origin + random.point<D>(0.9 * size) - start).normalized();
    const double reach = size * random.between(1.0, 6.0);
    // Section 3 of the design, and what the coordinates themselves are rounded to.
    double allowed = 1e-9 * 4.0 * size + 8e-16 * magnitude(target.bounds());
    // A needle's normal is known to no more digits than its width has: to within that width, 1e-8 of its
    // length.
    if (target_kind == Kind::needle) allowed += 1e-8 * size;
    const auto hit = cast<D>(mover.view(), start, direction, reach, target.view());
    INFO("mover " << int(mover_kind) << " target " << int(target_kind) << " size " << size << " reach "
                  << reach);
    if (gap_at<D>(mover, start, direction, 0.0, target) < -allowed) {
        REQUIRE(hit);
        REQUIRE(hit->began_inside);
        // The way out is one, and no shorter one is known to the distance function.
        const double out = separation<D>(mover.view(), start + hit->depth * hit->normal, target.view()).gap;
        REQUIRE(std::abs(out) <= allowed);
        return;
    }
    const auto expected = oracle<D>(mover, start, direction, reach, target, allowed);
    if (!hit) {
        // Missing is right unless the oracle goes in by more than grazing, well within reach.
        if (expected && *expected < reach - allowed) {
            const double deeper =
                gap_at<D>(mover, start, direction, std::min(reach, *expected + 0.01 * size), target);
            const double least = std::min(
                deeper, gap_at<D>(mover, start, direction, std::min(reach, *expected + 1e-4 * size), target));
            REQUIRE(least > -allowed - (mover.radius() + target.radius() > 0.0 ? 2e-8 * size : 0.0));
        }
        return;
    }
    REQUIRE(hit->distance <= reach + allowed);
    REQUIRE(expected);
    if (hit->began_inside) return;
    // At the distance given the two touch; before it they are apart (the gap is convex).
    REQUIRE(std::abs(gap_at<D>(mover, start, direction, hit->distance, target)) <= allowed);
    const double speed = -hit->normal.dot(direction);
    REQUIRE(speed > 0.0);
    REQUIRE(hit->distance <= *expected + allowed / std::min(1.0, speed) + allowed);
    // The normal parts the two at the touch: no other certificate is needed for it.
    const double apart = extent_along(mover.view(), hit->normal)[0] +
                         hit->normal.dot(start + hit->distance * direction) -
                         extent_along(target.view(), hit->normal)[1] - mover.radius() - target.radius();
    REQUIRE(apart >= -allowed - 1e-6 * 1e-6 * size);
    // The point lies on the target, and the mover has come to it.
    const Vec<D> at = contact_point<D>(mover.view(), start, direction, target.view(), *hit);
    const auto dot = point<D>().placed(Mat<D>::identity(), at);
    REQUIRE(std::abs(separation<D>(dot.view(), target.view()).gap) <= allowed);
    REQUIRE(std::abs(gap_at<D>(mover, start, direction, hit->distance, dot)) <= 2.0 * allowed);
}

template <int D>
void judge_all(int count, std::uint64_t seed) {
    Random random(seed);
    const std::vector<double> sizes = {1e-3, 1.0, 30.0, 1e6};
    for (const Kind mover : all_movers) {
        for (const Kind target : all_targets) {
            for (int i = 0; i < count; ++i) {
                const double size = sizes[static_cast<std::size_t>(i) % sizes.size()];
                // A quarter of the scenes lie 1e6 away.
                const bool far = i % 4 == 1 || i % 16 == 6;
                judge<D>(mover, target, random, size, far ? 1e6 * random.direction<D>() : Vec<D>::zero());
            }
        }
    }
}

/// A bumpy ball of triangles around the origin, closed.
std::vector<std::array<Vec<3>, 3>> bumpy_ball(Random& random, int rings, int sectors) {
    std::vector<std::vector<Vec<3>>> at(static_cast<std::size_t>(rings) + 1);
    for (int ring = 0; ring <= rings; ++ring) {
        for (int sector = 0; sector < sectors; ++sector) {
            const double a = 3.14159265358979 * ring / rings;
            const double b = 2.0 * 3.14159265358979 * sector / sectors;
            const bool pole = ring == 0 || ring == rings;
            if (pole && sector > 0) {
                at[static_cast<std::size_t>(ring)].push_back(at[static_cast<std::size_t>(ring)][0]);
            } else {
                at[static_cast<std::size_t>(ring)].push_back(
                    random.between(0.8, 1.2) *
                    Vec<3>(std::sin(a) * std::cos(b), std::cos(a), std::sin(a) * std::sin(b)));
            }
        }
    }
    std::vector<std::array<Vec<3>, 3>> triangles;
    for (std::size_t r = 0; r + 1 < at.size(); ++r) {
        for (std::size_t s = 0; s < at[r].size(); ++s) {
            const std::size_t n = (s + 1) % at[r].size();
            if (r > 0) triangles.push_back({at[r][s], at[r][n], at[r + 1][s]});
            if (r + 2 < at.size()) triangles.push_back({at[r][n], at[r + 1][n], at[r + 1][s]});
        }
    }
    return triangles;
}

Level<3> level_of(const std::vector<std::array<Vec<3>, 3>>& triangles) {
    std::vector<Vec<3>> vertices;
    std::vector<std::array<std::uint32_t, 3>> indices;
    for (const auto& triangle : triangles) {
        const auto base = static_cast<std::uint32_t>(vertices.size());
        vertices.insert(vertices.end(), triangle.begin(), triangle.end());
        indices.push_back({base, base + 1, base + 2});
    }
    LevelBuilder<3> builder({"m"});
    builder.add_mesh("mesh", "m", vertices, indices);
    return builder.build();
}

void require_watertight(int count, std::uint64_t seed) {
    Random random(seed);
    const auto triangles = bumpy_ball(random, 12, 24);
    const Level<3> level = level_of(triangles);
    const auto ray = point<3>();
    int escaped = 0;
    for (int i = 0; i < count; ++i) {
        const Vec<3> start = random.point<3>(0.2);
        Vec<3> target;
        const auto& triangle =
            triangles[static_cast<std::size_t>(random.below(static_cast<int>(triangles.size())))];
        switch (i % 4) {
            case 0:
                target = triangle[0];  // through a corner that several share
                break;
            case 1: {
                const double s = random.between(0.0, 1.0);
                target = (1.0 - s) * triangle[0] + s * triangle[1];  // through an edge that two share
                break;
            }
            default:
                target = start + random.direction<3>();
        }
        const Vec<3> direction = (target - start).normalized();
        const auto hit = first_hit<3>(level, {ray.view(), start, direction, infinity});
        if (!hit) ++escaped;
    }
    CHECK(escaped == 0);
}

/// A level of boxes, balls, capsules, hulls and facets strewn about.
template <int D>
Level<D> strewn(Random& random, int count, double extent) {
    LevelBuilder<D> builder({"a", "b", "c"});
    const std::array<const char*, 3> layers = {"a", "b", "c"};
    for (int i = 0; i < count; ++i) {
        const Kind kind =
            all_targets[static_cast<std::size_t>(random.below(static_cast<int>(all_targets.size())))];
        builder.add("solid " + std::to_string(i), layers[static_cast<std::size_t>(random.below(3))],
                    shape_of<D>(kind, random, random.point<D>(extent), random.between(0.2, 1.5)));
    }
    return builder.build();
}

template <int D>
std::optional<LevelHit<D>> brute_first(const Level<D>& level, const LevelCast<D>& request) {
    std::optional<LevelHit<D>> best;
    for (std::uint32_t piece = 0; piece < level.piece_count(); ++piece) {
        if (!level.on_layers(piece, request.layers)) continue;
        const auto hit =
            cast<D>(request.mover, request.start, request.direction, request.reach, level.piece(piece));
        if (!hit || (best && hit->distance >= best->distance)) continue;
        best.emplace();
        best->distance = hit->distance;
        best->piece = piece;
        best->normal = hit->normal;
    }
    return best;
}

}  // namespace

TEMPLATE_TEST_CASE_SIG("every cast agrees with bisection on the distance, at every scale and far away", "",
                       ((int D), D), 2, 3) {
    judge_all<D>(160, 1);
}

TEMPLATE_TEST_CASE_SIG("a million casts of every pair agree with bisection", "[.long]", ((int D), D), 2, 3) {
    const char* casts = std::getenv("HOLLOW_PROBE_CASTS");  // another number: see ./run long
    judge_all<D>(casts != nullptr ? std::stoi(casts) : 1'000'000, 2);
}

TEST_CASE("of rays from inside a closed mesh none escapes, through corners and edges or not") {
    require_watertight(40'000, 3);
}

TEST_CASE("of ten million rays from inside a closed mesh none escapes", "[.long]") {
    require_watertight(10'000'000, 4);
}

TEMPLATE_TEST_CASE_SIG("the limit of reach is inclusive, for every kind", "", ((int D), D), 2, 3) {
    // All movers are 1 from the wall at 0 along the first axis, by numbers that are exact.
    const auto wall = RoundedHull<D>::box(
        -0.5 * Vec<D>::unit(0), Vec<D>::constant(1.0) + 63.0 * (Vec<D>::constant(1.0) - Vec<D>::unit(0)));
    for (const auto& mover : {point<D>(), RoundedHull<D>::ball(Vec<D>::zero(), 0.25),
                              RoundedHull<D>::capsule(-0.5 * Vec<D>::unit(1), 0.5 * Vec<D>::unit(1), 0.25),
                              RoundedHull<D>::box(Vec<D>::zero(), Vec<D>::constant(0.5))}) {
        const double half = extent_along(mover.view(), Vec<D>::unit(0))[1] + mover.radius();
        const Vec<D> start = (1.0 + half) * Vec<D>::unit(0);
        const Vec<D> toward = -Vec<D>::unit(0);
        const auto at_limit = cast<D>(mover.view(), start, toward, 1.0, wall.view());
        REQUIRE(at_limit);
        CHECK(at_limit->distance == 1.0);
        CHECK_FALSE(cast<D>(mover.view(), start, toward, 1.0 - 1e-9, wall.view()));
        // Touching starts: into the wall at distance 0; along it or away from it not at all.
        const Vec<D> touching = half * Vec<D>::unit(0);
        const auto into = cast<D>(mover.view(), touching, toward, 1.0, wall.view());
        REQUIRE(into);
        CHECK(into->distance == 0.0);
        CHECK_FALSE(into->began_inside);
        CHECK(into->normal.is_close(Vec<D>::unit(0), 1e-9));
        CHECK_FALSE(cast<D>(mover.view(), touching, -toward, 1.0, wall.view()));
        CHECK_FALSE(cast<D>(mover.view(), touching, Vec<D>::unit(1), 1.0, wall.view()));
    }
}

TEMPLATE_TEST_CASE_SIG("turned, mirrored and moved scenes give turned, mirrored and moved hits", "",
                       ((int D), D), 2, 3) {
    Random random(5);
    for (int i = 0; i < 300; ++i) {
        const Kind kind =
            all_movers[static_cast<std::size_t>(random.below(static_cast<int>(all_movers.size())))];
        const auto mover = shape_of<D>(kind, random, Vec<D>::zero(), 0.5);
        const Level<D> level = strewn<D>(random, 12, 3.0);
        const Mat<D> turn = random_turn<D>(random);
        const Vec<D> shift = random.point<D>(50.0);
        LevelBuilder<D> builder({"a", "b", "c"});
        for (std::uint32_t piece = 0; piece < level.piece_count(); ++piece) {
            const HullView<D> hull = level.piece(piece);
            const std::vector<Vec<D>> points(hull.points.begin(), hull.points.end());
            const auto whole = points.size() == 1 ? RoundedHull<D>::ball(points[0], hull.radius)
                               : points.size() == 2 && hull.radius > 0.0
                                   ? RoundedHull<D>::capsule(points[0], points[1], hull.radius)
                               : level.pieces().is_facet(piece) ? RoundedHull<D>::facet([&] {
                                     std::array<Vec<D>, D> corners;
                                     std::copy(points.begin(), points.end(), corners.begin());
                                     return corners;
                                 }())
                                                                : RoundedHull<D>::hull(points, hull.radius);
            builder.add("s" + std::to_string(piece), level.layers()[level.layer_of(piece)],
                        whole.placed(turn, shift));
        }
        const Level<D> moved = builder.build();
        const auto turned = mover.placed(turn);
        const Vec<D> start = random.point<D>(4.0);
        const Vec<D> direction = random.direction<D>();
        const auto a = first_hit<D>(level, {mover.view(), start, direction, 8.0});
        const auto b = first_hit<D>(moved, {turned.view(), turn * start + shift, turn * direction, 8.0});
        REQUIRE(a.has_value() == b.has_value());
        if (!a) continue;
        REQUIRE(a->distance == Approx(b->distance).margin(1e-9));
        REQUIRE(a->began_inside == b->began_inside);
        if (a->piece == b->piece && !a->began_inside && kind != Kind::box && kind != Kind::hull) {
            REQUIRE((turn * a->normal - b->normal).norm() <= 1e-6);
        }
    }
}

TEMPLATE_TEST_CASE_SIG("first, batched, gathered and all hits are those of brute force", "", ((int D), D), 2,
                       3) {
    Random random(6);
    const Level<D> level = strewn<D>(random, 300, 8.0);
    std::vector<RoundedHull<D>> movers;
    std::vector<LevelCast<D>> casts;
    for (int i = 0; i < 400; ++i) {
        const Kind kind =
            all_movers[static_cast<std::size_t>(random.below(static_cast<int>(all_movers.size())))];
        movers.push_back(shape_of<D>(kind, random, random.point<D>(0.2), 0.3));
    }
    for (const auto& mover : movers) {
        LevelCast<D> request{mover.view(), random.point<D>(9.0), random.direction<D>(),
                             random.between(0.1, 20.0)};
        request.layers = LayerSet{1} << random.below(3) | LayerSet{1} << random.below(3);
        request.seams = Seams::reported;
        casts.push_back(request);
    }
    std::vector<std::optional<LevelHit<D>>> batch(casts.size());
    first_hits<D>(level, casts, batch);
    int hits = 0;
    for (std::size_t i = 0; i < casts.size(); ++i) {
        const auto expected = brute_first<D>(level, casts[i]);
        const auto single = first_hit<D>(level, casts[i]);
        REQUIRE(single.has_value() == expected.has_value());
        REQUIRE(batch[i].has_value() == expected.has_value());
        const auto all = all_hits<D>(level, casts[i]);
        std::vector<std::uint32_t> met;
        for (std::uint32_t piece = 0; piece < level.piece_count(); ++piece) {
            if (level.on_layers(piece, casts[i].layers) &&
                cast<D>(casts[i].mover, casts[i].start, casts[i].direction, casts[i].reach,
                        level.piece(piece))) {
                met.push_back(piece);
            }
        }
        REQUIRE(all.size() == met.size());
        if (!expected) continue;
        ++hits;
        REQUIRE(single->distance == Approx(expected->distance).margin(1e-12));
        REQUIRE(batch[i]->distance == single->distance);
        REQUIRE(batch[i]->piece == single->piece);
        REQUIRE(batch[i]->normal == single->normal);
        REQUIRE(all.front().distance == single->distance);
        REQUIRE(std::is_sorted(all.begin(), all.end(),
                               [](const auto& a, const auto& b) { return a.distance < b.distance; }));
        REQUIRE(single->solid == level.solid_of(single->piece));
        REQUIRE(single->layer == level.layer_of(single->piece));
        // From gathered pieces the same.
        if (casts[i].reach > 3.0) continue;
        Neighbourhood<D> near(random.below(2) == 0 ? 0.0 : 0.3);
        Bounds<D> box = bounds_of(casts[i].mover);
        box.grow(box.moved(casts[i].reach * casts[i].direction));
        const PreparedCast<D> prepared(movers[i], [&] {
            LevelCast<D> from_zero = casts[i];
            from_zero.start = Vec<D>::zero();
            return from_zero;
        }());
        const std::uint32_t first = 0;
        REQUIRE(near.keep(level, casts[i].start, box, {{&prepared, 1}, {&first, 1}}));
        LevelHit<D> hit;
        REQUIRE(near.first_hit(0, prepared, casts[i].start, {}, hit));
        REQUIRE(hit.distance == single->distance);
        REQUIRE(hit.piece == single->piece);
    }
    CHECK(hits > 60);
    std::vector<std::optional<LevelHit<D>>> too_few(1);
    CHECK_THROWS_AS(first_hits<D>(level, casts, too_few), std::invalid_argument);
}

TEMPLATE_TEST_CASE_SIG("nearest and overlapping pieces are those of brute force", "", ((int D), D), 2, 3) {
    Random random(7);
    const Level<D> level = strewn<D>(random, 200, 8.0);
    for (int i = 0; i < 200; ++i) {
        const auto shape = shape_of<D>(all_movers[static_cast<std::size_t>(i) % all_movers.size()], random,
                                       Vec<D>::zero(), 0.4);
        LevelQuery<D> query{shape.view(), random.point<D>(10.0)};
        query.layers = LayerSet{1} << random.below(3) | LayerSet{1} << random.below(3);
        double least = infinity;
        std::size_t near = 0;
        for (std::uint32_t piece = 0; piece < level.piece_count(); ++piece) {
            if (!level.on_layers(piece, query.layers)) continue;
            const double gap = separation<D>(shape.view(), query.at, level.piece(piece)).gap;
            least = std::min(least, gap);
            if (gap <= 0.5) ++near;
        }
        const auto found = nearest<D>(level, query);
        REQUIRE(found);
        REQUIRE(found->gap == least);
        REQUIRE((found->on_level - found->on_shape).norm() == Approx(std::abs(least)).margin(1e-9));
        std::size_t visited = 0;
        for_each_neighbour<D>(level, query, 0.5, [&](const LevelNeighbour<D>&) { ++visited; });
        REQUIRE(visited == near);
        REQUIRE(overlaps<D>(level, query) == (least < -1e-11));
        if (least > 1e-3) CHECK_FALSE(nearest<D>(level, query, least - 1e-3));
    }
}

template <int D>
Vec<D> rounded(const Vec<D>& point) {
    return Vec<D>::each([&](int axis) { return std::round(point[axis]); });
}

TEMPLATE_TEST_CASE_SIG(
    "hits and nearest pieces are those of brute force on a lattice, where much is equally near", "",
    ((int D), D), 2, 3) {
    Random random(72);
    int hits = 0;
    for (int round = 0; round < 60; ++round) {
        LevelBuilder<D> builder({"m"});
        for (int i = 0; i < 12; ++i) {
            const Vec<D> cell = 1.5 * rounded(random.point<D>(2.5));
            builder.add("p" + std::to_string(i), "m",
                        lattice_shape<D>(random).placed(Mat<D>::identity(), cell));
        }
        const Level<D> level = builder.build();
        for (int i = 0; i < 60; ++i) {
            const auto mover = lattice_shape<D>(random);
            Vec<D> direction;
            do {
                for (int axis = 0; axis < D; ++axis) direction[axis] = random.below(3) - 1;
            } while (direction.is_zero());
            const Vec<D> start = 1.5 * rounded(random.point<D>(3.5));
            LevelCast<D> request{mover.view(), start, direction.normalized(), 6.0};
            request.seams = Seams::reported;
            const auto expected = brute_first<D>(level, request);
            const auto found = first_hit<D>(level, request);
            REQUIRE(found.has_value() == expected.has_value());
            std::optional<LevelHit<D>> batch;
            first_hits<D>(level, {&request, 1}, {&batch, 1});
            REQUIRE(batch.has_value() == expected.has_value());
            if (expected) {
                ++hits;
                REQUIRE(found->distance == Approx(expected->distance).margin(1e-12));
                REQUIRE(batch->distance == found->distance);
                REQUIRE(batch->piece == found->piece);
            }
            LevelQuery<D> query{mover.view(), start};
            double least = infinity;
            for (std::uint32_t piece = 0; piece < level.piece_count(); ++piece)
                least = std::min(least, separation<D>(mover.view(), start, level.piece(piece)).gap);
            REQUIRE(nearest<D>(level, query)->gap == least);
            REQUIRE(overlaps<D>(level, query) == (least < -1e-11));
        }
    }
    CHECK(hits > 300);
}

TEMPLATE_TEST_CASE_SIG("a level with moving solids is the level with them moved", "", ((int D), D), 2, 3) {
    Random random(8);
    const auto shapes = [&] {
        std::vector<RoundedHull<D>> result;
        for (int i = 0; i < 60; ++i) {
            result.push_back(shape_of<D>(all_targets[static_cast<std::size_t>(i) % all_targets.size()],
                                         random, random.point<D>(5.0), 0.8));
        }
        return result;
    }();
    const auto built = [&](const std::vector<Vec<D>>& offsets) {
        LevelBuilder<D> builder({"a", "b", "c"});
        const std::array<const char*, 3> layers = {"a", "b", "c"};
        for (std::size_t i = 0; i < shapes.size(); ++i) {
            builder.add("s" + std::to_string(i), layers[i % 3],
                        shapes[i].placed(Mat<D>::identity(), offsets[i]));
        }
        return builder.build();
    };
    std::vector<Vec<D>> offsets(shapes.size(), Vec<D>::zero());
    const Level<D> rest = built(offsets);
    std::vector<std::uint32_t> movers;
    for (std::uint32_t i = 0; i < shapes.size(); i += 3) movers.push_back(i);
    MovingLevel<D> moving(rest, movers);
    for (int tick = 0; tick < 5; ++tick) {
        for (const std::uint32_t i : movers) {
            offsets[i] = random.point<D>(3.0 * tick);
            moving.place(i, offsets[i]);
        }
        moving.refit();
        const Level<D> moved = built(offsets);
        for (int i = 0; i < 60; ++i) {
            const auto shape = shape_of<D>(all_movers[static_cast<std::size_t>(i) % all_movers.size()],
                                           random, Vec<D>::zero(), 0.3);
            LevelCast<D> request{shape.view(), random.point<D>(8.0), random.direction<D>(), 12.0};
            request.layers = i % 2 == 0 ? all_layers : LayerSet{5};
            request.seams = Seams::reported;
            const auto a = moving.first_hit(request);
            const auto b = first_hit<D>(moved, request);
            REQUIRE(a.has_value() == b.has_value());
            if (a) {
                REQUIRE(a->distance == Approx(b->distance).margin(1e-9));
                REQUIRE(a->solid == b->solid);
                REQUIRE((a->point - b->point).norm() <= (a->began_inside ? 10.0 : 1e-6));
            }
            const LevelQuery<D> query{shape.view(), request.start, request.layers};
            const auto c = moving.nearest(query);
            const auto d = nearest<D>(moved, query);
            REQUIRE(c.has_value() == d.has_value());
            if (c) REQUIRE(c->gap == Approx(d->gap).margin(1e-9));
        }
    }
    CHECK_THROWS_AS(moving.place(1, Vec<D>::zero()), InvalidInput);
    const std::vector<std::uint32_t> twice = {0, 0};
    CHECK_THROWS_AS(MovingLevel<D>(rest, twice), InvalidInput);
}

TEST_CASE("degenerate triangles are cast at as what they degenerate to") {
    const Vec<3> a(0.0, 0.0, 0.0);
    const Vec<3> b(1.0, 0.0, 0.0);
    const auto ball = RoundedHull<3>::ball(Vec<3>::zero(), 0.25);
    const Vec<3> down(0.0, -1.0, 0.0);
    // All corners alike: a point. Two alike, or all in a line: a segment.
    for (const auto& corners : {std::array<Vec<3>, 3>{a, a, a}, {a, b, b}, {a, 0.5 * b, b}}) {
        const auto flat = RoundedHull<3>::facet(corners);
        const auto onto_a = cast<3>(ball.view(), {0.0, 2.0, 0.0}, down, 5.0, flat.view());
        REQUIRE(onto_a);
        CHECK(onto_a->distance == Approx(1.75).margin(1e-12));
        CHECK_FALSE(cast<3>(ball.view(), {0.0, 2.0, 0.2500001}, down, 5.0, flat.view()));
        const bool is_segment = corners[1] != corners[0] || corners[2] != corners[0];
        CHECK(cast<3>(ball.view(), {0.75, 2.0, 0.0}, down, 5.0, flat.view()).has_value() == is_segment);
        CHECK(separation<3>(ball.view(), {0.0, 1.0, 0.0}, flat.view()).gap == Approx(0.75));
    }
    const auto spot = RoundedHull<2>::facet({Vec<2>(0.0, 0.0), Vec<2>(0.0, 0.0)});
    const auto disc = RoundedHull<2>::ball(Vec<2>::zero(), 0.25);
    const auto hit = cast<2>(disc.view(), {0.0, 1.0}, {0.0, -1.0}, 5.0, spot.view());
    REQUIRE(hit);
    CHECK(hit->distance == Approx(0.75));
}

TEST_CASE("many pieces at one place are all found, and do not slow the index to a halt") {
    LevelBuilder<3> builder({"m"});
    for (int i = 0; i < 3000; ++i) {
        builder.add("s" + std::to_string(i), "m", RoundedHull<3>::box(Vec<3>::zero(), Vec<3>::constant(1.0)));
    }
    const Level<3> level = builder.build();
    const auto ray = point<3>();
    LevelCast<3> request{ray.view(), {0.1, 5.0, 0.2}, {0.0, -1.0, 0.0}, 10.0};
    request.seams = Seams::reported;
    CHECK(all_hits<3>(level, request).size() == 3000);
    CHECK(first_hit<3>(level, request)->piece == 0);
}

TEST_CASE("a box dragged over a tessellated floor meets no wall where there is none") {
    // Flat triangles, turned so that nothing is a round number; the box is sunk by a hair, exact, or above by
    // one.
    Random random(9);
    for (int scene = 0; scene < 12; ++scene) {
        const Mat<3> turn = scene == 0 ? Mat<3>(Mat<3>::identity()) : random_turn<3>(random);
        std::vector<std::array<Vec<3>, 3>> triangles;
        for (int i = 0; i < 10; ++i) {
            for (int k = 0; k < 10; ++k) {
                const auto at = [&](int x, int z) { return turn * Vec<3>(i + x, 0.0, k + z); };
                triangles.push_back({at(0, 0), at(0, 1), at(1, 0)});
                triangles.push_back({at(1, 0), at(0, 1), at(1, 1)});
            }
        }
        const Level<3> level = level_of(triangles);
        const auto box = RoundedHull<3>::box(Vec<3>::zero(), {0.6, 0.6, 0.6}).placed(turn);
        for (const double height : {-1e-9, 0.0, 1e-12, 1e-9}) {
            const Vec<3> start = turn * Vec<3>(1.3, 0.3 + height, 4.2);
            const Vec<3> direction = turn * Vec<3>(std::cos(0.3), 0.0, std::sin(0.3));
            LevelCast<3> request{box.view(), start, direction, 6.0};
            request.if_inside = IfInside::ignore;
            const auto hit = first_hit<3>(level, request);
            INFO("scene " << scene << " height " << height);
            CHECK_FALSE(hit);
        }
        // Onto the floor it comes to rest with the floor's normal, wherever the seams are.
        for (int i = 0; i < 20; ++i) {
            const Vec<3> start = turn * Vec<3>(random.between(1.0, 9.0), 3.0, random.between(1.0, 9.0));
            const auto hit = first_hit<3>(level, {box.view(), start, turn * Vec<3>(0.0, -1.0, 0.0), 6.0});
            REQUIRE(hit);
            CHECK(hit->distance == Approx(2.7).margin(1e-9));
            CHECK((hit->normal - turn * Vec<3>(0.0, 1.0, 0.0)).norm() < 1e-6);
        }
    }
}

TEMPLATE_TEST_CASE_SIG("flush boxes are one floor to what slides over them; what sticks out is a wall", "",
                       ((int D), D), 2, 3) {
    LevelBuilder<D> builder({"m"});
    const auto slab = [&](int i, double top) {
        Vec<D> size = Vec<D>::constant(1.0);
        if (D == 3) size[2] = 10.0;
        builder.add("slab " + std::to_string(i), "m",
                    RoundedHull<D>::box(i * Vec<D>::unit(0) + (top - 0.5) * Vec<D>::unit(1), size));
    };
    for (int i = 0; i < 8; ++i) slab(i, 0.0);
    for (int i = 8; i < 12; ++i) slab(i, 0.01);  // a step of a hundredth
    const Level<D> level = builder.build();
    const auto box = RoundedHull<D>::box(Vec<D>::zero(), Vec<D>::constant(0.5));
    for (const double height : {-1e-9, 0.0, 1e-9}) {
        INFO("height " << height);
        LevelCast<D> request{box.view(), (0.25 + height) * Vec<D>::unit(1), Vec<D>::unit(0), 20.0};
        request.if_inside = IfInside::ignore;
        const auto hit = first_hit<D>(level, request);
        REQUIRE(hit);
        CHECK(hit->distance == Approx(7.25).margin(1e-9));  // the step's face, at 7.5
        CHECK(hit->normal.is_close(-Vec<D>::unit(0), 1e-9));
        request.reach = 7.2;
        CHECK_FALSE(first_hit<D>(level, request));
        if (height == 0.0) {
            // Each piece by itself has a side in the way.
            request.seams = Seams::reported;
            CHECK(first_hit<D>(level, request));
        }
    }
}

TEST_CASE("bends in a floor: up gives the rising face, down gives nothing") {
    const auto with_bend = [](double degrees) {
        LevelBuilder<2> builder({"m"});
        const double a = radians(degrees);
        builder.add_polyline("floor", "m", {{-4.0, 0.0}, {0.0, 0.0}, {4.0 * std::cos(a), 4.0 * std::sin(a)}});
        return builder.build();
    };
    const auto box = RoundedHull<2>::box(Vec<2>::zero(), {0.5, 0.5});
    for (const double degrees : {0.5, 3.0, 10.0, 40.0, 80.0}) {
        INFO("bend " << degrees);
        const Level<2> up = with_bend(degrees);
        const auto hit = first_hit<2>(up, {box.view(), {-2.0, 0.25}, {1.0, 0.0}, 5.0});
        REQUIRE(hit);
        CHECK(hit->distance == Approx(1.75).margin(1e-6));
        const double a = radians(degrees);
        CHECK((hit->normal - Vec<2>(-std::sin(a), std::cos(a))).norm() < 1e-6);
        const Level<2> down = with_bend(-degrees);
        CHECK_FALSE(first_hit<2>(down, {box.view(), {-2.0, 0.25}, {1.0, 0.0}, 5.0}));
    }
    // A wall at the end of the floor is a wall, and so is the end of a plank at the height of the box.
    LevelBuilder<2> builder({"m"});
    builder.add_polyline("floor", "m", {{-4.0, 0.0}, {0.0, 0.0}, {0.0, 2.0}});
    builder.add_polyline("plank", "m", {{-3.0, 1.0}, {-2.0, 1.0}});
    const Level<2> level = builder.build();
    const auto wall = first_hit<2>(level, {box.view(), {-2.0, 0.25}, {1.0, 0.0}, 5.0});
    REQUIRE(wall);
    CHECK(wall->distance == Approx(1.75).margin(1e-9));
    CHECK(wall->normal.is_close(Vec<2>(-1.0, 0.0), 1e-9));
    const auto plank = first_hit<2>(level, {box.view(), {-1.0, 1.1}, {-1.0, 0.0}, 5.0});
    REQUIRE(plank);
    CHECK(plank->distance == Approx(0.75).margin(1e-9));
    CHECK(plank->normal.is_close(Vec<2>(1.0, 0.0), 1e-9));
}

TEST_CASE("a one-way solid stops only what comes down on it, from outside") {
    LevelBuilder<2> builder({"m"});
    builder.add("hatch", "m", RoundedHull<2>::box({0.0, 0.0}, {4.0, 0.2})).one_way({0.0, 2.0});
    builder.add("roof", "m", RoundedHull<2>::box({0.0, 5.0}, {4.0, 0.2}));
    const Level<2> level = builder.build();
    const auto ball = RoundedHull<2>::ball(Vec<2>::zero(), 0.3);
    const auto down = first_hit<2>(level, {ball.view(), {0.0, 2.0}, {0.0, -1.0}, 5.0});
    REQUIRE(down);
    CHECK(down->distance == Approx(1.6));
    const auto up = first_hit<2>(level, {ball.view(), {0.0, -2.0}, {0.0, 1.0}, 10.0});
    REQUIRE(up);
    CHECK(level.solids()[up->solid].name == "roof");
    CHECK_FALSE(first_hit<2>(level, {ball.view(), {0.0, 0.0}, {0.0, -1.0}, 5.0}));  // overlaps it already
    CHECK_FALSE(first_hit<2>(level, {ball.view(), {-4.0, 0.0}, {1.0, 0.0}, 8.0}));  // from the side
    CHECK_THROWS_AS(LevelBuilder<2>({"m"}).one_way({0.0, 1.0}), InvalidInput);
}

TEMPLATE_TEST_CASE_SIG("seams and angles asked late give what asking every piece gives", "", ((int D), D), 2,
                       3) {
    // A floor of flush boxes with steps in it, and boulders: hits on seams, on steps and on slopes.
    Random random(31);
    LevelBuilder<D> builder({"m"});
    for (int i = 0; i < 30; ++i) {
        Vec<D> center = Vec<D>::zero();
        center[0] = 0.5 + i - 15.0;
        center[1] = i % 7 == 3 ? -0.4 : -0.5;
        builder.add("slab " + std::to_string(i), "m", RoundedHull<D>::box(center, Vec<D>::constant(1.0)));
    }
    for (int i = 0; i < 12; ++i) {
        Vec<D> center = random.point<D>(6.0);
        center[1] = random.between(0.0, 0.5);
        if constexpr (D == 3) center[2] *= 0.1;
        builder.add("stone " + std::to_string(i), "m", shape_of<D>(Kind::hull, random, center, 0.6));
    }
    const Level<D> level = builder.build();
    int passed = 0;
    int refused = 0;
    for (int i = 0; i < 3000; ++i) {
        const Kind kind = std::array{Kind::box, Kind::hull, Kind::point}[static_cast<std::size_t>(i) % 3];
        const auto mover = shape_of<D>(kind, random, Vec<D>::zero(), random.between(0.05, 0.4));
        LevelCast<D> request;
        request.mover = mover.view();
        request.start = random.point<D>(6.0);
        request.start[1] = random.between(-0.2, 1.5);
        if constexpr (D == 3) request.start[2] *= 0.1;
        request.direction = random.direction<D>();
        if (i % 2 == 0) {
            // Just over the floor and along it.
            request.start[1] = -extent_along(mover.view(), Vec<D>::unit(1))[0] + random.between(0.0, 0.02);
            request.direction =
                (Vec<D>::unit(0) * (i % 4 == 0 ? 1.0 : -1.0) - 0.01 * Vec<D>::unit(1)).normalized();
        }
        request.reach = random.between(0.5, 8.0);
        request.if_inside = static_cast<IfInside>(i % 3);
        const AngleRange angles = i % 3 == 0   ? AngleRange{}
                                  : i % 3 == 1 ? AngleRange{0.0, radians(50.0)}
                                               : AngleRange{.most_incidence = radians(60.0)};
        const auto first = first_hit<D>(level, request, angles);
        const auto all = all_hits<D>(level, request, angles);
        REQUIRE(first.has_value() == !all.empty());
        std::vector<std::optional<LevelHit<D>>> batch(1);
        first_hits<D>(level, {&request, 1}, batch, angles);
        REQUIRE(batch[0].has_value() == first.has_value());
        LevelCast<D> hasty = request;
        hasty.seams = Seams::reported;
        const auto raw = first_hit<D>(level, hasty);
        if (!first) {
            refused += raw ? 1 : 0;
            continue;
        }
        // Equally near pieces may both stop it: then either will do.
        REQUIRE(first->distance == Approx(all.front().distance).margin(1e-12));
        REQUIRE(batch[0]->distance == first->distance);
        REQUIRE(batch[0]->piece == first->piece);
        REQUIRE(within<D>(angles, first->normal, request.direction, level.up()));
        REQUIRE(raw);
        REQUIRE(raw->distance <= first->distance + 1e-12);
        passed += first->distance > raw->distance + 1e-9 ? 1 : 0;
    }
    // Both ways of being wrong were there to be made.
    CHECK(passed > 50);
    CHECK(refused > 50);
}

TEMPLATE_TEST_CASE_SIG("gathered candidates miss nothing that a cast meets", "", ((int D), D), 2, 3) {
    Random random(32);
    const Level<D> level = strewn<D>(random, 200, 4.0);
    Bounds<D> everything = level.bounds();
    Gathered<D> near;
    REQUIRE(level.tree().gather(everything, all_layers, near));
    std::size_t offered = 0;
    std::size_t met = 0;
    constexpr int count = 500;
    for (int i = 0; i < count; ++i) {
        const Kind kind = all_movers[static_cast<std::size_t>(i) % all_movers.size()];
        const auto mover = shape_of<D>(kind, random, random.point<D>(0.1), 0.3);
        const Vec<D> start = random.point<D>(5.0);
        const Vec<D> direction = random.direction<D>();
        const double reach = random.between(0.0, 6.0);
        const Sweep<D> sweep = sweep_of<D>(mover.view(), start, direction, reach);
        const PreparedSweep<D> prepared(sweep);
        const PlacedSweep<D> placed{&prepared, sweep.center};
        std::vector<std::uint8_t> lanes(near.count);
        level.tree().candidates(near, {&placed, 1}, lanes);
        std::vector<bool> candidate(level.piece_count());
        for (std::size_t b = 0; b < near.count; ++b) {
            for (std::size_t lane = 0; lane < near.blocks[b].count; ++lane) {
                if ((lanes[b] >> lane & 1U) != 0) candidate[near.blocks[b].item[lane]] = true;
            }
        }
        for (std::uint32_t piece = 0; piece < level.piece_count(); ++piece) {
            offered += candidate[piece] ? 1 : 0;
            if (!cast<D>(mover.view(), start, direction, reach, level.piece(piece))) continue;
            ++met;
            REQUIRE(candidate[piece]);
        }
    }
    // ... and most of what they offer is met: they are no list of everything.
    CHECK(met > 400);
    CHECK(offered < 3 * met);
    std::vector<std::uint8_t> too_few(near.count - 1);
    const PreparedSweep<D> ray(sweep_of<D>(point<D>().view(), Vec<D>::zero(), Vec<D>::unit(0), 1.0));
    const PlacedSweep<D> placed{&ray, Vec<D>::zero()};
    CHECK_THROWS_AS(level.tree().candidates(near, {&placed, 1}, too_few), std::invalid_argument);
}

TEMPLATE_TEST_CASE_SIG("overlapping by a depth is having that depth", "", ((int D), D), 2, 3) {
    Random random(33);
    int deeper = 0;
    int shallower = 0;
    for (int i = 0; i < 4000; ++i) {
        const auto a = shape_of<D>(i % 2 == 0 ? Kind::box : Kind::hull, random, random.point<D>(0.5), 1.0);
        const auto b = shape_of<D>(i % 3 == 0 ? Kind::facet : Kind::hull, random, random.point<D>(0.5), 1.0);
        const Vec<D> shift = random.point<D>(0.8);
        const double gap = separation<D>(a.view(), shift, b.view()).gap;
        const double depth = i % 4 == 0 ? 0.0 : random.between(0.0, 0.4);
        if (std::abs(gap + depth) < 1e-9) continue;
        REQUIRE(overlap_by<D>(a.view(), shift, b.view(), depth) == (gap < -depth));
        ++(gap < -depth ? deeper : shallower);
    }
    CHECK(deeper > 200);
    CHECK(shallower > 200);
}

TEST_CASE("a capsule meets a triangle's face, edge and corner where algebra says") {
    const std::array<Vec<3>, 3> corners = {Vec<3>(0.0, 0.0, 0.0), Vec<3>(0.0, 0.0, 4.0),
                                           Vec<3>(4.0, 0.0, 0.0)};
    const auto triangle = RoundedHull<3>::facet(corners);
    const double r = 0.25;
    const Vec<3> down(0.0, -1.0, 0.0);
    // Upright, over the face: by its lower end.
    const auto upright = RoundedHull<3>::capsule({0.0, -0.5, 0.0}, {0.0, 0.5, 0.0}, r);
    auto hit = cast<3>(upright.view(), {1.0, 3.0, 1.0}, down, 10.0, triangle.view());
    REQUIRE(hit);
    CHECK(hit->distance == Approx(3.0 - 0.5 - r).epsilon(1e-12));
    CHECK((hit->point - Vec<3>(1.0, 0.0, 1.0)).norm() < 1e-12);
    // Beside the edge x = 0, 0.15 out: the lower end rolls over it, 0.2 above.
    hit = cast<3>(upright.view(), {-0.15, 3.0, 2.0}, down, 10.0, triangle.view());
    REQUIRE(hit);
    CHECK(hit->distance == Approx(3.0 - 0.5 - 0.2).epsilon(1e-12));
    CHECK((hit->normal - Vec<3>(-0.6, 0.8, 0.0)).norm() < 1e-9);
    // From straddling the plane, along x into the edge: the upright axis meets it, at mid-height of the edge.
    hit = cast<3>(upright.view(), {-2.0, 0.1, 2.0}, {1.0, 0.0, 0.0}, 10.0, triangle.view());
    REQUIRE(hit);
    CHECK(hit->distance == Approx(2.0 - r).epsilon(1e-12));
    CHECK((hit->normal - Vec<3>(-1.0, 0.0, 0.0)).norm() < 1e-9);
    const Vec<3> met =
        contact_point<3>(upright.view(), {-2.0, 0.1, 2.0}, {1.0, 0.0, 0.0}, triangle.view(), *hit);
    CHECK((met - Vec<3>(0.0, 0.0, 2.0)).norm() < 1e-12);
    // The same from a hair before and behind the limit.
    CHECK(cast<3>(upright.view(), {-2.0, 0.1, 2.0}, {1.0, 0.0, 0.0}, 1.75, triangle.view()));
    CHECK_FALSE(cast<3>(upright.view(), {-2.0, 0.1, 2.0}, {1.0, 0.0, 0.0}, 1.75 - 1e-9, triangle.view()));
    // Lying across, falling on the edge: the axis crosses it.
    const auto across = RoundedHull<3>::capsule({-0.5, 0.0, 0.0}, {0.5, 0.3, 0.0}, r);
    hit = cast<3>(across.view(), {0.0, 3.0, -0.1}, down, 10.0, triangle.view());
    REQUIRE(hit);
    const double sideways = std::sqrt(r * r - 0.1 * 0.1);
    CHECK(hit->distance <= 3.0 + 0.15 - sideways);
    CHECK(
        std::abs(separation<3>(across.view(), Vec<3>(0.0, 3.0 - hit->distance, -0.1), triangle.view()).gap) <
        1e-12);
    // Past the corner at (4, 0, 0), a hair too far out, and a hair near enough.
    CHECK_FALSE(cast<3>(upright.view(), {4.0 + r + 1e-9, 3.0, 0.0}, down, 10.0, triangle.view()));
    CHECK(cast<3>(upright.view(), {4.0 + r - 1e-3, 3.0, 0.0}, down, 10.0, triangle.view()));
    // Going away, whatever side it starts on: nothing.
    CHECK_FALSE(cast<3>(upright.view(), {1.0, 1.0, 1.0}, {0.0, 1.0, 0.0}, 10.0, triangle.view()));
    CHECK_FALSE(cast<3>(upright.view(), {-0.3, 0.1, 2.0}, {-1.0, 0.0, 0.0}, 10.0, triangle.view()));
    // Begun inside: the way out, and how far.
    hit = cast<3>(upright.view(), {1.0, 0.6, 1.0}, down, 10.0, triangle.view());
    REQUIRE(hit);
    CHECK(hit->began_inside);
    CHECK(hit->depth == Approx(0.15).epsilon(1e-12));
    CHECK((hit->normal - Vec<3>(0.0, 1.0, 0.0)).norm() < 1e-9);
}
