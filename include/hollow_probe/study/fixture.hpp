// Fixtures: small levels generated for a body, with one or two dimensions that vary.
#pragma once

#include <functional>
#include <span>
#include <string>
#include <vector>

#include "hollow_probe/level/level.hpp"
#include "hollow_probe/motion/drill.hpp"
#include "hollow_probe/rig/fields.hpp"

namespace hollow_probe {

/// A dimension of a fixture.
struct FixtureAxis {
    std::string name;  // "angle"
    Unit unit = Unit::length;
    double least = 0.0;     // what it may be; both ends inclusive
    double most = 0.0;      // …
    double standard = 0.0;  // where another dimension varies
    std::string meaning;    // one sentence
};

/// A fixture with its dimensions set, and the body where the fixture puts it.
template <int D>
struct FixtureScene {
    Level<D> level;
    Pose<D> pose;
    /// Unit: where to move the body to be clear of what the fixture is about.
    Vec<D> away = Vec<D>::zero();
};

/// The forward direction of a fixture is the first axis, up the second. `turn` says by how many degrees about
/// up the body's heading is turned from forward; in 2D 0, or 180 for a body that faces backward.
///
///     for (const Fixture<2>& fixture : fixtures_of<2>(rig, {}))
///         if (fixture.name == "slope") judge(fixture.scene({30.0}, 0.0));   // 30° upwards
template <int D>
struct Fixture {
    std::string name;  // "slope"
    std::string meaning;
    std::vector<FixtureAxis> axes;
    std::vector<Claim> claims;  // that signals must make to be measured here
    /// At rest or in the air. Throws InvalidInput for values out of range and counts other than the axes'.
    std::function<FixtureScene<D>(const std::vector<double>& values, double turn_degrees)> scene;
    /// In motion: a drill on the scene's level, in which every signal should be right at every tick. Without,
    /// the body stands still.
    std::function<Drill<D>(const std::vector<double>& values, double turn_degrees)> drill = {};

    [[nodiscard]] bool moves() const { return static_cast<bool>(drill); }
};

struct FixtureOptions {
    std::size_t stance = 0;  // number in the rig's body
    std::string layer;       // of what is generated; empty: the first that the body meets
    double speed = 0.0;      // at which the body goes towards what lies ahead; 0: the tallest stance's height
                             // times 2.5 in a second
};

/// Every fixture for the body and the intent of a rig. Sizes are those of the stance. Throws InvalidInput for
/// a rig that check() refuses, for a stance and a layer that there are not, and for a layer that does not
/// stop the body.
template <int D>
std::vector<Fixture<D>> fixtures_of(const Rig<D>& rig, const FixtureOptions& options = {});

/// A fixture, the dimension that varies, the others, and the turns of the body: one line of a data sheet.
struct SheetLine {
    std::string name;             // "slope up"
    std::size_t fixture = 0;      // number among the fixtures
    std::size_t axis = 0;         // that varies
    std::vector<double> values;   // of all dimensions
    std::vector<double> degrees;  // turns of the body that are tried
};

/// What a data sheet measures, in its order.
template <int D>
std::vector<SheetLine> sheet_lines(const std::vector<Fixture<D>>& fixtures);

extern template struct Fixture<2>;
extern template struct Fixture<3>;

}  // namespace hollow_probe
