// What all fixtures of a rig are made with.
#pragma once

#include <algorithm>
#include <cmath>
#include <memory>

#include "hollow_probe/geometry/tolerances.hpp"
#include "hollow_probe/study/fixture.hpp"
#include "hollow_probe/truth/rest.hpp"

namespace hollow_probe {

/// Forward, up and (3D) aside.
template <int D>
Vec<D> point(double forward, double up, double aside = 0.0) {
    Vec<D> p = Vec<D>::zero();
    p[0] = forward;
    p[1] = up;
    if constexpr (D == 3) p[2] = aside;
    return p;
}

/// Sizes, solids and poses, all in proportion to the stance.
template <int D>
class FixtureMaker {
  public:
    FixtureMaker(const Rig<D>& rig, const FixtureOptions& options) : rig_(rig), options_(options) {
        check(rig);
        if (options_.stance >= rig.body.stances.size()) throw InvalidInput("there is no such stance");
        if (options_.layer.empty()) options_.layer = rig.body.meets.front();
        if (std::find(rig.body.meets.begin(), rig.body.meets.end(), options_.layer) == rig.body.meets.end())
            throw InvalidInput("the body does not meet layer '" + options_.layer + "'");
        const Bounds<D> bounds = shape().bounds();
        height_ = bounds.high[1];
        half_ = 0.0;
        for (int axis = 0; axis < D; ++axis) {
            if (axis != 1) half_ = std::max({half_, bounds.high[axis], -bounds.low[axis]});
        }
        size_ = std::max(height_, 2.0 * half_);
        speed_ = options_.speed;
        for (const Stance<D>& stance : rig.body.stances) {
            if (options_.speed == 0.0) speed_ = std::max(speed_, 2.5 * stance.shape.bounds().high[1]);
        }
        layers_ = rig.body.meets;
        const auto add = [&](const std::vector<std::string>& names) {
            for (const std::string& name : names) {
                if (std::find(layers_.begin(), layers_.end(), name) == layers_.end()) layers_.push_back(name);
            }
        };
        for (const Probe<D>& probe : rig.probes) add(probe.sees);
        for (const Signal& signal : rig.signals) add(signal.of);
        add_layers_of_members(add);
        if (!rig.body.layer.empty()) add({rig.body.layer});
    }

    [[nodiscard]] const Intent& intent() const { return rig_.intent; }
    [[nodiscard]] double height() const { return height_; }
    [[nodiscard]] double half() const { return half_; }  // the stance's width to any side, at most
    [[nodiscard]] double size() const { return size_; }
    [[nodiscard]] double speed() const { return speed_; }
    [[nodiscard]] const Rig<D>& rig() const { return rig_; }
    [[nodiscard]] const FixtureOptions& options() const { return options_; }
    [[nodiscard]] const RoundedHull<D>& shape() const { return rig_.body.stances[options_.stance].shape; }
    /// How far floors and walls go.
    [[nodiscard]] double far() const { return 40.0 * size_; }
    [[nodiscard]] double thick() const { return size_; }

    [[nodiscard]] LevelBuilder<D> builder() const { return LevelBuilder<D>(layers_); }

    void box(LevelBuilder<D>& builder, const std::string& name, const Vec<D>& low, const Vec<D>& high) const {
        builder.add(name, options_.layer, RoundedHull<D>::box(0.5 * (low + high), high - low));
    }
    /// From x to x and from y to y, as wide as the fixture.
    void block(LevelBuilder<D>& builder, const std::string& name, double x_low, double x_high, double y_low,
               double y_high) const {
        box(builder, name, point<D>(x_low, y_low, -far()), point<D>(x_high, y_high, far()));
    }
    void floor(LevelBuilder<D>& builder) const { block(builder, "floor", -far(), far(), -thick(), 0.0); }
    /// What lies behind a plane through `on` with unit normal `n`.
    void behind(LevelBuilder<D>& builder, const std::string& name, const Vec<D>& on, const Vec<D>& n) const {
        Vec<D> along = Vec<D>::zero();  // in the plane of forward and up
        along[0] = n[1];
        along[1] = -n[0];
        std::vector<Vec<D>> corners;
        if constexpr (D == 2) {
            for (const double s : {-far(), far()}) {
                for (const double deep : {0.0, thick()}) corners.push_back(on + s * along - deep * n);
            }
        } else {
            along = std::abs(n[1]) > 1.0 - tolerance::direction ? Vec<D>::unit(0)
                                                                : Vec<D>::unit(1).cross(n).normalized();
            const Vec<D> across = along.cross(n);
            for (const double s : {-far(), far()}) {
                for (const double t : {-far(), far()}) {
                    for (const double deep : {0.0, thick()})
                        corners.push_back(on + s * along + t * across - deep * n);
                }
            }
        }
        builder.add(name, options_.layer, RoundedHull<D>::hull(corners));
    }

    [[nodiscard]] Vec<D> heading(double turn) const {
        if constexpr (D == 2) {
            return point<D>(std::cos(turn * std::numbers::pi / 180.0) < 0.0 ? -1.0 : 1.0, 0.0);
        } else {
            const double angle = turn * std::numbers::pi / 180.0;
            return point<D>(std::cos(angle), 0.0, std::sin(angle));
        }
    }
    /// The stance turned to a heading.
    [[nodiscard]] RoundedHull<D> turned(const Vec<D>& towards) const {
        return shape().placed(body_frame<D>(towards, Vec<D>::unit(1)));
    }
    /// How far the turned stance goes along a unit direction from its anchor.
    [[nodiscard]] static double extent(const RoundedHull<D>& body, const Vec<D>& along) {
        double most = -infinity;
        for (const Vec<D>& p : body.points()) most = std::max(most, p.dot(along));
        return most + body.radius();
    }

    [[nodiscard]] Pose<D> pose(const Vec<D>& anchor, double turn) const {
        Pose<D> made;
        made.anchor = anchor;
        made.heading = heading(turn);
        made.stance = options_.stance;
        made.drive = made.heading;
        return made;
    }
    /// Going along its heading.
    [[nodiscard]] Pose<D> going(const Vec<D>& anchor, double turn) const {
        Pose<D> made = pose(anchor, turn);
        made.velocity = speed_ * made.heading;
        return made;
    }
    /// Where the body, lowered over a place, comes to rest at or below `highest`; there, where it does not.
    [[nodiscard]] Vec<D> at_rest(const Level<D>& level, const Vec<D>& over, double turn,
                                 double highest) const {
        const RoundedHull<D> body = turned(heading(turn));
        const PlacedBody<D> column{body.view(), over, level.mask_of(rig_.body.meets, Role::reference),
                                   all_layers, rig_.body.faces == Faces::front};
        std::vector<double> rests;
        find_rests<D>(level, column, rig_.intent, rests);
        Vec<D> anchor = over;
        anchor[1] = highest;
        for (const double rest : rests) {
            const double at = over[1] + rest;
            if (at <= highest + tolerance::accuracy * size_) anchor[1] = at;
        }
        return anchor;
    }

  private:
    template <class Add>
    void add_layers_of_members(Add add) const {
        const std::function<void(const std::vector<Member>&)> walk = [&](const std::vector<Member>& members) {
            for (const Member& member : members) {
                add(member.layers);
                for (const Group& group : member.group) {
                    walk(group.any);
                    walk(group.all);
                    walk(group.none);
                    walk(group.at_least.of);
                }
            }
        };
        for (const Signal& signal : rig_.signals) {
            walk(signal.members.any);
            walk(signal.members.all);
            walk(signal.members.none);
            walk(signal.members.at_least.of);
        }
    }

    Rig<D> rig_;
    FixtureOptions options_;
    double height_ = 0.0;
    double half_ = 0.0;
    double size_ = 0.0;
    double speed_ = 0.0;
    std::vector<std::string> layers_;
};

/// Collects fixtures; each refuses values that are not within its axes.
template <int D>
class FixtureCollection {
  public:
    using Values = std::vector<double>;
    using Scene = std::function<FixtureScene<D>(const Values&, double)>;

    explicit FixtureCollection(std::shared_ptr<const FixtureMaker<D>> maker) : maker_(std::move(maker)) {}

    Fixture<D>& add(const std::string& name, const std::string& meaning, const std::vector<FixtureAxis>& axes,
                    const std::vector<Claim>& claims, Scene scene) {
        Fixture<D> fixture;
        fixture.name = name;
        fixture.meaning = meaning;
        fixture.axes = axes;
        fixture.claims = claims;
        fixture.scene = [maker = maker_, name, axes = fixture.axes, scene = std::move(scene)](
                            const Values& values, double turn) {
            if (values.size() != axes.size())
                throw InvalidInput("fixture '" + name + "' has " + std::to_string(axes.size()) +
                                   " dimensions, not " + std::to_string(values.size()));
            for (std::size_t i = 0; i < axes.size(); ++i) {
                if (!(values[i] >= axes[i].least && values[i] <= axes[i].most))
                    throw InvalidInput("'" + axes[i].name + "' of fixture '" + name + "' is out of range");
            }
            return scene(values, turn);
        };
        all_.push_back(std::move(fixture));
        return all_.back();
    }

    std::vector<Fixture<D>> all_;

  private:
    std::shared_ptr<const FixtureMaker<D>> maker_;
};

inline double radians_of(double angle) {
    return angle * std::numbers::pi / 180.0;
}

/// What the body stands on, or is about to.
template <int D>
void add_grounds(const std::shared_ptr<const FixtureMaker<D>>& m, FixtureCollection<D>& all);
/// What is before the body, or above it.
template <int D>
void add_obstacles(const std::shared_ptr<const FixtureMaker<D>>& m, FixtureCollection<D>& all);
/// What is measured tick by tick.
template <int D>
void add_motions(const std::shared_ptr<const FixtureMaker<D>>& m, FixtureCollection<D>& all);

}  // namespace hollow_probe
