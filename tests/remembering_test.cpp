// Rigs that remember: what a survey says of a pose is what they say having come there for long.
#include <catch2/catch.hpp>

#include <array>

#include "hollow_probe/rig/mount.hpp"
#include "hollow_probe/verify/survey.hpp"
#include "scenes.hpp"

using namespace scenes;

namespace {

/// A flat floor of slabs, masonry and grating by turns, and leaves in the air that stop nobody.
template <int D>
Level<D> striped_floor(Random& random) {
    LevelBuilder<D> builder({"masonry", "grating", "leaves"});
    double x = -3.0;
    for (int i = 0; x < 3.0; ++i) {
        const double wide = random.between(0.1, 0.8);
        Vec<D> size = Vec<D>::constant(8.0);
        size[0] = wide;
        size[1] = 1.0;
        builder.add("slab " + std::to_string(i), i % 2 == 0 ? "masonry" : "grating",
                    RoundedHull<D>::box(at<D>(x + 0.5 * wide, -0.5), size));
        x += wide;
    }
    for (int i = 0; i < 12; ++i) {
        Vec<D> size = Vec<D>::constant(8.0);
        size[0] = random.between(0.02, 0.3);
        size[1] = random.between(0.02, 0.3);
        const Vec<D> center = at<D>(random.between(-3.0, 3.0), random.between(0.2, 2.0));
        builder.add("leaf " + std::to_string(i), "leaves", RoundedHull<D>::box(center, size));
    }
    return builder.build();
}

/// A ray and a zone that see gratings and leaves, and signals that remember, one of them what another does.
template <int D>
Rig<D> remembering_rig(Random& random) {
    Probe<D> ray = foot_ray<D>(random.between(0.45, 0.9));
    ray.sees = {"grating", "leaves"};
    Rig<D> rig = rig_with<D>(ray, {"masonry", "grating"});
    Vec<D> size = Vec<D>::constant(0.4);
    size[1] = 1.2;
    rig.body.stances = {Stance<D>::box("upright", size)};
    Probe<D> zone;
    zone.name = "toes";
    zone.sees = {"grating", "leaves"};
    zone.of_kind = ZoneProbe<D>{RoundedHull<D>::ball(Vec<D>::zero(), 0.1), at<D>(0.15, 0.05)};
    // What is kept until it is used is kept for longer than a survey looks back.
    zone.zone().keeps = random.below(2) == 0 ? Keeps::set : Keeps::last_event;
    if (random.below(3) == 0) zone.reads = Reads::before_move;
    rig.probes.push_back(zone);
    Signal& grounded = rig.signals[0];
    grounded.settle = random.below(2) * random.between(0.02, 0.15);
    grounded.grace = random.below(2) * random.between(0.02, 0.15);
    if (random.below(2) == 0) grounded.mute_after = {"jump", random.between(0.02, 0.2)};
    Signal warned = grounded;
    warned.name = "warned";
    warned.members = {};
    warned.members.any = {"grounded", "toes"};
    warned.settle = random.below(2) * random.between(0.02, 0.1);
    warned.grace = random.between(0.02, 0.15);
    rig.signals.push_back(warned);
    return rig;
}

/// What the rig says having stood, walked, fallen or jumped to a pose for as long as matters.
template <int D>
SignalSet played(const Level<D>& level, const Rig<D>& rig, const Facing<D>& facing,
                 const SurveyPose<D>& pose) {
    const double seconds = 1.0 / 60.0;
    const int longest = 300;
    const Vec<D> stride = seconds * facing.velocity;
    std::vector<Vec<D>> way = {pose.anchor};
    const bool jumped = facing.arrival == Arrival::jumped;
    const double flight = jumped ? pose.above_rest / stride.norm() : longest;
    for (int i = 1; i < flight; ++i) way.push_back(pose.anchor - i * stride);
    const std::size_t in_air = way.size();  // it takes off with the first of these
    if (jumped) way.insert(way.end(), longest, pose.anchor - pose.above_rest * level.up());
    MountedRig<D> mounted(rig, level, facing.stance,
                          Situation<D>{facing.heading, facing.velocity, facing.drive, facing.grounded});
    RigMemory memory = mounted.memory();
    SignalSet signals;
    for (std::size_t i = way.size(); i-- > 0;) {
        const Vec<D>& before = way[std::min(i + 1, way.size() - 1)];
        const std::uint64_t events = jumped && i + 1 == in_air ? mounted.event("jump") : 0;
        signals = mounted.tick(level, {way[i], before, seconds, events, {}}, memory);
    }
    return signals;
}

template <int D>
void hold_against_play(std::uint64_t seed, std::size_t budget = 1'500) {
    Random random(seed);
    const Level<D> level = striped_floor<D>(random);
    const Rig<D> rig = remembering_rig<D>(random);
    SurveyOptions options;
    options.headings = 2;
    options.explain = false;
    options.budget = budget;
    const Survey<D> result = survey<D>(level, rig, options);
    std::array<std::size_t, 4> asked{};
    std::size_t on = 0;
    for (const SurveyPose<D>& pose : result.poses) {
        const Facing<D>& facing = result.facings[pose.facing];
        const double height = pose.anchor[1];
        // Only ways through empty air, and over the floor.
        if (height < -rig.intent.touch) continue;
        if (facing.arrival == Arrival::jumped && !(pose.above_rest > 0.0 && pose.above_rest < 100.0))
            continue;
        ++asked[static_cast<std::size_t>(facing.arrival)];
        const SignalSet said = played<D>(level, rig, facing, pose);
        on += said.any() ? 1 : 0;
        CAPTURE(D, seed, name_of(facing.arrival), pose.anchor, pose.above_rest);
        REQUIRE(pose.signals_on.bits() == said.bits());
        // … and at any height of the interval that it stands for, but close to its ends.
        const double close = rig.intent.touch / 16.0;
        if (pose.down + pose.up < 3.0 * close) continue;
        const double by = random.between(close - pose.down, pose.up - close);
        SurveyPose<D> other = pose;
        other.anchor += by * level.up();
        other.above_rest += by;
        if (other.anchor[1] < -rig.intent.touch || other.above_rest < 0.0) continue;
        CAPTURE(by);
        REQUIRE(pose.signals_on.bits() == played<D>(level, rig, facing, other).bits());
    }
    for (const std::size_t count : asked) CHECK(count > 50);
    CHECK(on > 20);
}

}  // namespace

TEST_CASE("what is said of a pose is what a rig says that has come there for long") {
    for (std::uint64_t seed = 1; seed <= 10; ++seed) hold_against_play<2>(seed);
    // A signal muted by a jump that began before all that signals themselves remember.
    for (const std::size_t budget : {1'700U, 2'500U}) hold_against_play<2>(7, budget);
    hold_against_play<3>(1);
}
