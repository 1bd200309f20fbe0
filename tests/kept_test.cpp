// Truths that are kept: written down and read again they change nothing that a survey says.
#include <catch2/catch.hpp>

#include <cstring>
#include <set>

#include "hollow_probe/level/content_hash.hpp"
#include "hollow_probe/verify/kept_truths.hpp"
#include "hollow_probe/verify/survey.hpp"
#include "strewn.hpp"

using namespace scenes;

namespace {

SurveyOptions quick() {
    SurveyOptions options;
    options.budget = 2500;
    return options;
}

}  // namespace

TEMPLATE_TEST_CASE_SIG("a survey says the same with truths that were written down and read", "", ((int D), D),
                       2, 3) {
    for (const std::uint64_t seed : {1U, 2U}) {
        const Level<D> level = strewn<D>(seed);
        KeptTruths<D> kept;
        (void)survey<D>(level, probing<D>(0.42), quick(), kept);
        const std::string bytes = kept.to_bytes();
        KeptTruths<D> again = KeptTruths<D>::from_bytes(bytes);
        CHECK(again.columns() == kept.columns());
        REQUIRE(kept.columns() > 0);
        const std::size_t before = again.columns();
        // Of the same rig everything is known.
        require_alike<D>(survey<D>(level, probing<D>(0.42), quick()),
                         survey<D>(level, probing<D>(0.42), quick(), again));
        CHECK(again.columns() == before);
        // Another rig adds to it, and is told the same, too.
        require_alike<D>(survey<D>(level, probing<D>(0.55), quick()),
                         survey<D>(level, probing<D>(0.55), quick(), again));
        // What was added is written down as well.
        CHECK(KeptTruths<D>::from_bytes(again.to_bytes()).columns() == again.columns());
        // Of less room less is kept, and the same is said.
        KeptTruths<D> little = KeptTruths<D>::from_bytes(bytes, bytes.size() / 8);
        CHECK(little.columns() < kept.columns());
        require_alike<D>(survey<D>(level, probing<D>(0.42), quick()),
                         survey<D>(level, probing<D>(0.42), quick(), little));
    }
}

namespace {

/// Boxes, on a floor so wide that a budget leaves columns apart.
template <int D>
Level<D> of_boxes(std::uint64_t seed) {
    return on_floor<D>(seed, 60.0, 30, [](Random& random) {
        Vec<D> center = random.point<D>(29.0);
        center[1] = random.between(0.0, 4.0);
        Vec<D> size;
        for (int axis = 0; axis < D; ++axis) size[axis] = random.between(0.2, 4.0);
        return RoundedHull<D>::box(center, size);
    });
}

/// Five claims, each of a probe that is about right; `remembers`: what happened before a pose, so that more
/// of each column matters.
template <int D>
Rig<D> with_five_claims(bool remembers) {
    Rig<D> rig = probing<D>(0.42);
    if (remembers) rig.signals[0].grace = 0.1;
    const Vec<D> up = Vec<D>::unit(1);
    const Vec<D> forward = Vec<D>::unit(0);
    const auto claim = [&](Claim claims, Vec<D> from, Vec<D> along, double reach, bool clear) {
        Probe<D> ray = foot_ray<D>(reach);
        ray.name = "ray " + std::to_string(rig.probes.size());
        ray.line().from = from;
        ray.line().along = along;
        Signal signal;
        signal.name = "signal " + std::to_string(rig.signals.size());
        signal.claims = claims;
        if (claims == Claim::headroom) signal.stance = rig.body.stances[0].name;
        (clear ? signal.members.none : signal.members.any) = {ray.name};
        rig.probes.push_back(ray);
        rig.signals.push_back(signal);
    };
    const double tall = rig.body.stances[0].shape.bounds().size()[1];
    claim(Claim::ceiling, (tall - 0.1) * up, up, 0.12, false);
    claim(Claim::drop, 0.5 * forward + 0.4 * up, -up, 1.0, true);
    claim(Claim::headroom, 0.1 * up, up, tall - 0.15, true);
    return rig;
}

}  // namespace

TEMPLATE_TEST_CASE_SIG("truths take no more than 64 bytes a pose, in memory and written down", "",
                       ((int D), D), 2, 3) {
    for (const bool remembers : {false, true}) {
        for (const std::uint64_t seed : {6U, 7U, 8U}) {
            KeptTruths<D> kept;
            SurveyOptions options;
            options.budget = 10'000;
            options.explain = false;
            const Survey<D> result =
                survey<D>(of_boxes<D>(seed), with_five_claims<D>(remembers), options, kept);
            const std::string bytes = kept.to_bytes();
            CAPTURE(D, remembers, seed, kept.columns(), result.judged);
            CHECK(bytes.size() <= 64 * result.judged);
            // What is kept of probes besides is not written down.
            CHECK(KeptTruths<D>::from_bytes(bytes).bytes() <= 64 * result.judged);
        }
    }
}

TEST_CASE("bytes that are damaged anywhere, cut or too long are refused") {
    const Level<2> level = strewn<2>(4);
    KeptTruths<2> kept;
    (void)survey<2>(level, probing<2>(0.42), quick(), kept);
    const std::string bytes = kept.to_bytes();
    Random random(5);
    for (int i = 0; i < 300; ++i) {
        std::string wrong = bytes;
        const auto at = static_cast<std::size_t>(random.between(0.0, static_cast<double>(bytes.size())));
        switch (i % 3) {
            case 0:
                wrong[at] = static_cast<char>(wrong[at] ^ (1 << random.below(8)));
                break;
            case 1:
                wrong.resize(at);
                break;
            default:
                wrong.insert(at, 1, static_cast<char>(random.below(256)));
                break;
        }
        CAPTURE(i, at, bytes.size());
        CHECK_THROWS_AS(KeptTruths<2>::from_bytes(wrong), InvalidInput);
    }
    CHECK_THROWS_AS(KeptTruths<3>::from_bytes(bytes), InvalidInput);
    CHECK_THROWS_AS(KeptTruths<2>::from_bytes(""), InvalidInput);
}

namespace {

/// Bytes with the check at their end that says they are whole.
std::string with_check(std::string bytes) {
    const std::string digits = content_hash(bytes.substr(0, bytes.size() - 8)).substr(0, 16);
    std::uint64_t check = 0;
    for (std::size_t i = digits.size(); i-- > 0;)
        check = check << 4U | std::string_view("0123456789abcdef").find(digits[i]);
    std::memcpy(bytes.data() + bytes.size() - sizeof(check), &check, sizeof(check));
    return bytes;
}

}  // namespace

TEST_CASE("bytes that are damaged and still have the right check are refused, or taken as some truths") {
    const Level<2> level = strewn<2>(4);
    KeptTruths<2> kept;
    (void)survey<2>(level, probing<2>(0.42), quick(), kept);
    const std::string bytes = kept.to_bytes();
    REQUIRE(with_check(bytes) == bytes);
    Random random(6);
    int refused = 0;
    for (int i = 0; i < 400; ++i) {
        std::string wrong = bytes;
        // Every other time near the beginning, where terms are, and how many columns.
        const auto at = static_cast<std::size_t>(
            random.between(30.0, static_cast<double>(i % 2 == 0 ? bytes.size() - 8 : 4'000)));
        if (i % 4 < 3) {
            wrong[at] = static_cast<char>(wrong[at] ^ (1 << random.below(8)));
        } else {
            wrong.erase(at, 1);
        }
        CAPTURE(i, at, bytes.size());
        try {
            KeptTruths<2> taken = KeptTruths<2>::from_bytes(with_check(wrong));
            CHECK(taken.columns() <= kept.columns());
            CHECK(taken.columns() + 2 >= kept.columns());
        } catch (const InvalidInput&) {
            ++refused;
        }
    }
    CAPTURE(refused);
    CHECK(refused > 100);
    CHECK(refused < 400);
}

TEST_CASE("levels that differ in anything a body can meet have another hash; alike ones have the same") {
    const auto build = [](auto change) {
        LevelBuilder<2> builder({"m", "n"});
        builder.add("floor", "m", RoundedHull<2>::box({0, -0.5}, {8, 1}));
        builder.add("deck", "n", RoundedHull<2>::box({2, 1}, {2, 0.2}));
        change(builder);
        builder.start("gate", {0, 0}, {1, 0});
        return content_hash<2>(builder.build());
    };
    std::vector<std::string> hashes = {
        build([](auto&) {}),
        build([](auto& b) {
            b.one_way({0, 1});
        }),
        build([](auto& b) { b.role(Role::sensed); }),
        build([](auto& b) { b.role(Role::reference); }),
        build([](auto& b) {
            b.path({{{0, 0}, {0, 1}}, 1.0, 0.0});
        }),
        build([](auto& b) {
            b.path({{{0, 0}, {0, 1}}, 2.0, 0.0});
        }),
        build([](auto& b) {
            b.path({{{0, 0}, {0, 1}}, 1.0, 0.5});
        }),
        build([](auto& b) {
            b.sensed_when({{"upright"}, 0.0, 2.0});
        }),
        build([](auto& b) {
            b.sensed_when({{"upright"}, 1.0, 2.0});
        }),
        build([](auto& b) {
            b.add("more", "m", RoundedHull<2>::ball({5, 1}, 0.5));
        }),
        build([](auto& b) {
            b.add("more", "n", RoundedHull<2>::ball({5, 1}, 0.5));
        }),
        build([](auto& b) {
            b.add("more", "m", RoundedHull<2>::ball({5, 1}, 0.5 + 1e-15));
        }),
        build([](auto& b) {
            b.start("other", {1, 0}, {1, 0});
        }),
        build([](auto& b) {
            b.area("there", {{0, 0}, {1, 1}});
        }),
        content_hash<2>(
            LevelBuilder<2>({"m"}).add("floor", "m", RoundedHull<2>::box({0, -0.5}, {8, 1})).build()),
        content_hash<2>(LevelBuilder<2>({"m"}, {0, -1})
                            .add("floor", "m", RoundedHull<2>::box({0, -0.5}, {8, 1}))
                            .build()),
    };
    CHECK(hashes.front() == build([](auto&) {}));
    CHECK(hashes.front().size() == 32);
    std::sort(hashes.begin(), hashes.end());
    CHECK(std::adjacent_find(hashes.begin(), hashes.end()) == hashes.end());
    // Every piece counts, of several solids and of one.
    const auto with_corner = [](std::size_t moved) {
        LevelBuilder<2> builder({"m"});
        std::vector<Vec<2>> line;
        for (std::size_t i = 0; i < 9; ++i)
            line.emplace_back(static_cast<double>(i), i == moved ? 0.25 : 0.0);
        builder.add_polyline("line", "m", line);
        return content_hash<2>(builder.build());
    };
    std::set<std::string> lines;
    for (std::size_t i = 0; i < 10; ++i) lines.insert(with_corner(i));
    CHECK(lines.size() == 10);
}

TEST_CASE("a closed mesh is entered at the times at which a start lies in it") {
    LevelBuilder<3> builder({"m"});
    const std::vector<Vec<3>> corners = {{-1, 0, -1}, {1, 0, -1}, {1, 0, 1}, {-1, 0, 1},
                                         {-1, 4, -1}, {1, 4, -1}, {1, 4, 1}, {-1, 4, 1}};
    builder.add_mesh("shell", "m", corners,
                     {{0, 1, 2},
                      {0, 2, 3},
                      {4, 6, 5},
                      {4, 7, 6},
                      {0, 4, 5},
                      {0, 5, 1},
                      {1, 5, 6},
                      {1, 6, 2},
                      {2, 6, 7},
                      {2, 7, 3},
                      {3, 7, 4},
                      {3, 4, 0}});
    builder.path({.stops = {{0, 0, 0}, {6, 0, 0}}, .pace = 6.0, .wait = 1.0});
    builder.start("within", {0.1, 1.0, 0.1}, {1, 0, 0});
    const Level<3> level = builder.build();
    const Rig<3> rig = rig_with<3>(foot_ray<3>(0.42), {"m"});
    KeptTruths<3> kept;
    const auto at_time = [&](double seconds) {
        SurveyOptions options = quick();
        options.explain = false;
        options.times = {seconds};
        return survey<3>(level, rig, options, kept);
    };
    const Survey<3> there = at_time(0.5);
    const Survey<3> gone = at_time(2.5);
    CHECK(there.scope.entered == std::vector<std::string>{"shell"});
    CHECK(there.scope.enclosed.empty());
    CHECK(gone.scope.entered.empty());
    CHECK(gone.scope.enclosed == std::vector<std::string>{"shell"});
    const auto inside = [](const Survey<3>& result, double middle) {
        return std::count_if(result.poses.begin(), result.poses.end(), [&](const SurveyPose<3>& pose) {
            const Vec<3> way = pose.anchor - Vec<3>(middle, 1.0, 0.0);
            return way.abs().largest() < 0.6;
        });
    };
    CHECK(inside(there, 0.0) > 0);
    CHECK(inside(gone, 6.0) == 0);
}
