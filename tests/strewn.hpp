// Levels of stones strewn over a floor, a rig that is wrong on them, and surveys that must be alike.
#pragma once

#include <catch2/catch.hpp>

#include "hollow_probe/verify/survey.hpp"
#include "scenes.hpp"

namespace scenes {

/// A square floor with its top at height 0, and so many shapes, made by shape(random), on two layers.
template <int D, class Shape>
Level<D> on_floor(std::uint64_t seed, double side, int count, Shape shape) {
    Random random(seed);
    LevelBuilder<D> builder({"m", "n"});
    Vec<D> size = Vec<D>::constant(side);
    size[1] = 1.0;
    builder.add("floor", "m", RoundedHull<D>::box(-0.5 * Vec<D>::unit(1), size));
    for (int i = 0; i < count; ++i)
        builder.add("stone " + std::to_string(i), i % 2 == 0 ? "m" : "n", shape(random));
    return builder.build();
}

template <int D>
Level<D> strewn(std::uint64_t seed) {
    return on_floor<D>(seed, 8.0, 5, [](Random& random) {
        Vec<D> center = random.point<D>(3.0);
        center[1] = std::abs(center[1]);
        return random_shape<D>(random, center, random.between(0.3, 1.2));
    });
}

template <int D>
Rig<D> probing(double reach) {
    Rig<D> rig = rig_with<D>(foot_ray<D>(reach), {"m", "n"});
    Probe<D> ahead = foot_ray<D>(0.5);
    ahead.name = "ahead";
    ahead.line().from[1] = 1.0;
    ahead.line().along = Vec<D>::unit(0);
    rig.probes.push_back(ahead);
    Signal wall;
    wall.name = "at wall";
    wall.claims = Claim::wall;
    wall.members.any = {"ahead"};
    rig.signals.push_back(wall);
    return rig;
}

/// Alike to the last bit in all that is counted and found.
template <int D>
void require_alike(const Survey<D>& a, const Survey<D>& b) {
    REQUIRE(a.poses.size() == b.poses.size());
    for (std::size_t i = 0; i < a.poses.size(); ++i) {
        REQUIRE(a.poses[i].anchor == b.poses[i].anchor);
        REQUIRE(a.poses[i].signals_on == b.poses[i].signals_on);
        REQUIRE(a.poses[i].truths_on == b.poses[i].truths_on);
        REQUIRE(a.poses[i].undecided == b.poses[i].undecided);
        REQUIRE(a.poses[i].measure == b.poses[i].measure);
    }
    REQUIRE(a.findings.size() == b.findings.size());
    for (std::size_t i = 0; i < a.findings.size(); ++i) {
        CHECK(a.findings[i].id == b.findings[i].id);
        CHECK(a.findings[i].severity == b.findings[i].severity);
        REQUIRE(a.findings[i].causes.size() == b.findings[i].causes.size());
        for (std::size_t k = 0; k < a.findings[i].causes.size(); ++k) {
            CHECK(a.findings[i].causes[k].needs == b.findings[i].causes[k].needs);
            CHECK(a.findings[i].causes[k].gain == b.findings[i].causes[k].gain);
            CHECK(a.findings[i].causes[k].cures == b.findings[i].causes[k].cures);
        }
    }
    REQUIRE(a.fixes.size() == b.fixes.size());
    for (std::size_t i = 0; i < a.fixes.size(); ++i) {
        REQUIRE(a.fixes[i].after.has_value() == b.fixes[i].after.has_value());
        if (a.fixes[i].after) CHECK(a.fixes[i].after->missed == b.fixes[i].after->missed);
    }
    CHECK(a.judged == b.judged);
    CHECK(a.asked == b.asked);
    CHECK(a.wrong.missed == b.wrong.missed);
    CHECK(a.wrong.falsely == b.wrong.falsely);
}

}  // namespace scenes
