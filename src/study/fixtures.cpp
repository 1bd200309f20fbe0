#include "hollow_probe/study/fixture.hpp"

#include <algorithm>
#include <cmath>
#include <memory>

#include "hollow_probe/truth/rest.hpp"

namespace hollow_probe {
namespace {

/// Forward, up and (3D) aside.
template <int D>
Vec<D> point(double forward, double up, double aside = 0.0) {
    Vec<D> p = Vec<D>::Zero();
    p[0] = forward;
    p[1] = up;
    if constexpr (D == 3) p[2] = aside;
    return p;
}

/// What all fixtures of a rig are made with.
template <int D>
class Maker {
  public:
    Maker(const Rig<D>& rig, const FixtureOptions& options) : rig_(rig), options_(options) {
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
        Vec<D> along = Vec<D>::Zero();  // in the plane of forward and up
        along[0] = n[1];
        along[1] = -n[0];
        std::vector<Vec<D>> corners;
        if constexpr (D == 2) {
            for (const double s : {-far(), far()}) {
                for (const double deep : {0.0, thick()}) corners.push_back(on + s * along - deep * n);
            }
        } else {
            along = std::abs(n[1]) > 1.0 - 1e-12 ? Vec<D>(Vec<D>::Unit(0))
                                                 : Vec<D>(Vec<D>::Unit(1).cross(n).normalized());
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
        return shape().placed(body_frame<D>(towards, Vec<D>::Unit(1)));
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
            // What lies more than the body below is another floor.
            if (at <= highest + 1e-9 * size_ && at > highest - size_) anchor[1] = at;
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
class Collection {
  public:
    using Values = std::vector<double>;
    using Scene = std::function<FixtureScene<D>(const Values&, double)>;

    explicit Collection(std::shared_ptr<const Maker<D>> maker) : maker_(std::move(maker)) {}

    Fixture<D>& add(const std::string& name, const std::string& meaning, std::vector<FixtureAxis> axes,
                    std::vector<Claim> claims, Scene scene) {
        Fixture<D> fixture;
        fixture.name = name;
        fixture.meaning = meaning;
        fixture.axes = std::move(axes);
        fixture.claims = std::move(claims);
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
    std::shared_ptr<const Maker<D>> maker_;
};

double radians_of(double angle) {
    return angle * std::numbers::pi / 180.0;
}

/// What the body stands on, or is about to.
template <int D>
void add_grounds(const std::shared_ptr<const Maker<D>>& m, Collection<D>& all) {
    using Values = std::vector<double>;
    const double touch = m->intent().touch;
    const double size = m->size();
    const Vec<D> up = Vec<D>::Unit(1);

    all.add(
        "floor", "A flat floor below the body",
        {{"gap", Unit::length, 0.0, std::max(20.0 * touch, 0.5 * size), 0.0, "From the floor to the body"}},
        {Claim::ground}, [m, up](const Values& v, double turn) {
            auto builder = m->builder();
            m->floor(builder);
            return FixtureScene<D>{builder.build(), m->pose(v[0] * up, turn), up};
        });
    all.add("slope", "A plane that rises forward, the body at rest on it",
            {{"angle", Unit::degrees, 0.0, 85.0, 0.0, "Of the plane, from level"}}, {Claim::ground},
            [m, up](const Values& v, double turn) {
                const double a = radians_of(v[0]);
                const Vec<D> n = point<D>(-std::sin(a), std::cos(a));
                auto builder = m->builder();
                m->behind(builder, "slope", Vec<D>::Zero(), n);
                const double below = m->extent(m->turned(m->heading(turn)), -n);
                return FixtureScene<D>{builder.build(), m->pose(below / n[1] * up, turn), up};
            });
    all.add("lip", "A floor that ends below the body",
            {{"overhang", Unit::length, -m->half(), 1.5 * m->half(), 0.0,
              "How far the anchor is past the end; what does not rest there is at the floor's height"}},
            {Claim::ground}, [m, up](const Values& v, double turn) {
                auto builder = m->builder();
                m->block(builder, "floor", -m->far(), 0.0, -m->thick(), 0.0);
                Level<D> level = builder.build();
                const Vec<D> anchor = m->at_rest(level, point<D>(v[0], 0.0), turn, 0.0);
                return FixtureScene<D>{std::move(level), m->pose(anchor, turn), up};
            });
    if constexpr (D == 3) {
        all.add("corner", "A floor that ends before the body and beside it",
                {{"overhang", Unit::length, -m->half(), 1.5 * m->half(), 0.0,
                  "How far the anchor is past the corner, along the diagonal"}},
                {Claim::ground}, [m, up](const Values& v, double turn) {
                    auto builder = m->builder();
                    m->box(builder, "floor", point<D>(-m->far(), -m->thick(), -m->far()), Vec<D>::Zero());
                    Level<D> level = builder.build();
                    const double each = v[0] / std::sqrt(2.0);
                    const Vec<D> anchor = m->at_rest(level, point<D>(each, 0.0, each), turn, 0.0);
                    return FixtureScene<D>{std::move(level), m->pose(anchor, turn), up};
                });
    }
    all.add("slot", "A gap in the floor, the body over its middle",
            {{"width", Unit::length, 0.0, 3.0 * m->half(), 0.0, "Of the gap"}}, {Claim::ground},
            [m, up](const Values& v, double turn) {
                auto builder = m->builder();
                m->block(builder, "floor", -m->far(), -0.5 * v[0], -m->thick(), 0.0);
                m->block(builder, "floor beyond", 0.5 * v[0], m->far(), -m->thick(), 0.0);
                Level<D> level = builder.build();
                const Vec<D> anchor = m->at_rest(level, Vec<D>::Zero(), turn, 0.0);
                return FixtureScene<D>{std::move(level), m->pose(anchor, turn), up};
            });
    all.add("ridge", "Two slopes that meet in an edge, the body on the edge",
            {{"angle", Unit::degrees, 1.0, 80.0, 1.0, "Of each slope, from level"}}, {Claim::ground},
            [m, up](const Values& v, double turn) {
                const double a = radians_of(v[0]);
                const double far = m->far();
                std::vector<Vec<D>> corners;
                for (const double aside : {-far, far}) {
                    for (const double side : {-1.0, 0.0, 1.0})
                        corners.push_back(
                            point<D>(side * far * std::cos(a), -std::abs(side) * far * std::sin(a), aside));
                    if (D == 2) break;
                }
                auto builder = m->builder();
                builder.add("ridge", m->options().layer, RoundedHull<D>::hull(corners));
                Level<D> level = builder.build();
                const Vec<D> anchor = m->at_rest(level, Vec<D>::Zero(), turn, 0.0);
                return FixtureScene<D>{std::move(level), m->pose(anchor, turn), up};
            });
    all.add("valley", "Two slopes that meet in a crease, the body in the crease",
            {{"angle", Unit::degrees, 0.0, 80.0, 0.0, "Of each slope, from level"}}, {Claim::ground},
            [m, up](const Values& v, double turn) {
                const double a = radians_of(v[0]);
                auto builder = m->builder();
                m->behind(builder, "rise", Vec<D>::Zero(), point<D>(-std::sin(a), std::cos(a)));
                m->behind(builder, "rise behind", Vec<D>::Zero(), point<D>(std::sin(a), std::cos(a)));
                Level<D> level = builder.build();
                const Vec<D> n = point<D>(-std::sin(a), std::cos(a));
                const Vec<D> back = point<D>(std::sin(a), std::cos(a));
                const RoundedHull<D> body = m->turned(m->heading(turn));
                const double high = std::max(m->extent(body, -n), m->extent(body, -back)) / std::cos(a);
                return FixtureScene<D>{std::move(level), m->pose(high * up, turn), up};
            });
    all.add("deck", "A thin deck that is solid from above alone, the body passing through it",
            {{"height", Unit::length, -1.2 * m->height(), std::max(0.2 * m->height(), 4.0 * touch), 0.0,
              "Of the anchor above the deck"}},
            {Claim::ground}, [m, up](const Values& v, double turn) {
                auto builder = m->builder();
                m->block(builder, "deck", -m->far(), m->far(), -0.05 * m->size(), 0.0);
                builder.one_way(up);
                return FixtureScene<D>{builder.build(), m->pose(v[0] * up, turn), up};
            });
    all.add("seam", "Two floors that meet, one of them a little higher",
            {{"offset", Unit::length, -touch, touch, 0.0, "Of the floor ahead, upwards"},
             {"distance", Unit::length, -2.0 * m->half(), 2.0 * m->half(),
              m->half() + 0.5 * m->intent().ahead_wall, "From the anchor forward to where they meet"}},
            {Claim::ground, Claim::wall, Claim::drop, Claim::step, Claim::blocked},
            [m](const Values& v, double turn) {
                auto builder = m->builder();
                m->block(builder, "floor", -m->far(), v[1], -m->thick(), 0.0);
                m->block(builder, "floor ahead", v[1], m->far(), -m->thick(), v[0]);
                Level<D> level = builder.build();
                const Vec<D> anchor = m->at_rest(level, Vec<D>::Zero(), turn, std::max(0.0, v[0]));
                return FixtureScene<D>{std::move(level), m->going(anchor, turn), -m->heading(turn)};
            });
}

/// What is before the body, or above it.
template <int D>
void add_obstacles(const std::shared_ptr<const Maker<D>>& m, Collection<D>& all) {
    using Values = std::vector<double>;
    const Intent& intent = m->intent();
    const double touch = intent.touch;
    const Vec<D> up = Vec<D>::Unit(1);
    const double lowest = std::min(0.5 * intent.lowest_step, 0.5 * touch);

    all.add("step", "A step before the body",
            {{"rise", Unit::length, std::max(lowest, 1e-3 * touch),
              std::max(2.0 * intent.tallest_step, 0.5 * m->height()),
              0.5 * (intent.lowest_step + intent.tallest_step), "From the floor to the step"},
             {"distance", Unit::length, 0.0, std::max(4.0 * intent.ahead_step, m->half()),
              0.5 * intent.ahead_step, "From the body forward to the step"}},
            {Claim::step, Claim::wall, Claim::blocked}, [m](const Values& v, double turn) {
                const Vec<D> ahead = m->heading(0.0);
                const double at = m->extent(m->turned(m->heading(turn)), ahead) + v[1];
                auto builder = m->builder();
                m->floor(builder);
                m->block(builder, "step", at, m->far(), -0.5 * m->thick(), v[0]);
                return FixtureScene<D>{builder.build(), m->going(Vec<D>::Zero(), turn), -m->heading(turn)};
            });
    all.add("drop", "A floor that ends before the body, and one below it",
            {{"depth", Unit::length, 0.0, std::max(2.0 * intent.deepest_drop, m->height()),
              2.0 * intent.deepest_drop + touch, "From the floor down to the lower one"},
             {"distance", Unit::length, 0.0, std::max(2.0 * intent.ahead_drop, 4.0 * m->half()),
              0.5 * intent.ahead_drop, "From the anchor forward to the end"}},
            {Claim::drop}, [m](const Values& v, double turn) {
                auto builder = m->builder();
                m->block(builder, "floor", -m->far(), v[1], -m->thick() - v[0], 0.0);
                m->block(builder, "lower floor", v[1], m->far(), -m->thick() - v[0], -v[0]);
                return FixtureScene<D>{builder.build(), m->going(Vec<D>::Zero(), turn), -m->heading(turn)};
            });
    all.add("gap", "A gap in the floor before the body",
            {{"width", Unit::length, 0.0, 4.0 * m->half(), 0.0, "Of the gap"},
             {"distance", Unit::length, 0.0, std::max(2.0 * intent.ahead_drop, 4.0 * m->half()),
              0.5 * intent.ahead_drop, "From the anchor forward to the gap"}},
            {Claim::drop}, [m](const Values& v, double turn) {
                auto builder = m->builder();
                m->block(builder, "floor", -m->far(), v[1], -m->thick(), 0.0);
                m->block(builder, "floor beyond", v[1] + v[0], m->far(), -m->thick(), 0.0);
                return FixtureScene<D>{builder.build(), m->going(Vec<D>::Zero(), turn), -m->heading(turn)};
            });
    all.add("wall", "A floor, and a plane before the body",
            {{"distance", Unit::length, 0.0, std::max(6.0 * intent.ahead_wall, m->half()),
              0.5 * intent.ahead_wall, "How far the body goes along its heading until it touches"},
             {"steepness", Unit::degrees, 20.0, 150.0, 90.0,
              "Of the plane, from level; more than 90 hangs over"}},
            {Claim::wall, Claim::blocked}, [m](const Values& v, double turn) {
                const double s = radians_of(v[1]);
                const Vec<D> n = point<D>(-std::sin(s), std::cos(s));
                const Vec<D> h = m->heading(turn);
                // Touched first at the support of the body towards the plane.
                const double reach = m->extent(m->turned(h), -n) - v[0] * n.dot(h);
                auto builder = m->builder();
                m->floor(builder);
                m->behind(builder, "wall", -reach * n, n);
                return FixtureScene<D>{builder.build(), m->going(Vec<D>::Zero(), turn), -h};
            });
    all.add("ceiling", "A plane above the body, which is in the air",
            {{"gap", Unit::length, 0.0, std::max(20.0 * touch, 0.5 * m->height()), 0.5 * touch,
              "How far the body rises until it touches"},
             {"angle", Unit::degrees, 0.0, 85.0, 0.0, "Of the plane, from level; it falls forward"}},
            {Claim::ceiling}, [m, up](const Values& v, double turn) {
                const double a = radians_of(v[1]);
                const Vec<D> n = point<D>(-std::sin(a), -std::cos(a));
                const double reach = m->extent(m->turned(m->heading(turn)), -n) + v[0] * std::cos(a);
                auto builder = m->builder();
                m->behind(builder, "ceiling", -reach * n, n);
                return FixtureScene<D>{builder.build(), m->pose(Vec<D>::Zero(), turn), -up};
            });
    const auto [lowest_ledge, highest_ledge] = std::pair(intent.ledge_between[0], intent.ledge_between[1]);
    all.add(
        "ledge", "A block before the body, with floor behind it",
        {{"height", Unit::length, std::max(0.25 * lowest_ledge, touch), 1.5 * highest_ledge + touch,
          0.5 * (lowest_ledge + highest_ledge), "From the floor to the block's top"},
         {"depth", Unit::length, 0.02 * m->half(), 6.0 * m->half(), 6.0 * m->half(), "Of the block, forward"},
         {"distance", Unit::length, 0.0, std::max(3.0 * intent.ahead_ledge, m->half()),
          0.5 * intent.ahead_ledge, "From the body forward to the block"}},
        {Claim::ledge}, [m](const Values& v, double turn) {
            const double at = m->extent(m->turned(m->heading(turn)), m->heading(0.0)) + v[2];
            auto builder = m->builder();
            m->floor(builder);
            m->block(builder, "block", at, at + v[1], -0.5 * m->thick(), v[0]);
            return FixtureScene<D>{builder.build(), m->going(Vec<D>::Zero(), turn), -m->heading(turn)};
        });
    all.add("lintel", "A beam before the body, and room below it",
            {{"clearance", Unit::length, 0.1 * m->height(), 1.2 * m->height(), 0.8 * m->height(),
              "From the floor to the beam"},
             {"distance", Unit::length, 0.0, std::max(6.0 * intent.ahead_wall, m->half()),
              0.5 * intent.ahead_wall, "From the body forward to the beam"}},
            {Claim::wall, Claim::blocked}, [m](const Values& v, double turn) {
                const double at = m->extent(m->turned(m->heading(turn)), m->heading(0.0)) + v[1];
                auto builder = m->builder();
                m->floor(builder);
                m->block(builder, "beam", at, m->far(), v[0], v[0] + 4.0 * m->height());
                return FixtureScene<D>{builder.build(), m->going(Vec<D>::Zero(), turn), -m->heading(turn)};
            });
    double tallest = 0.0;
    std::size_t lowest_stance = 0;
    const auto& stances = m->rig().body.stances;
    for (std::size_t i = 0; i < stances.size(); ++i) {
        tallest = std::max(tallest, stances[i].shape.bounds().high[1]);
        if (stances[i].shape.bounds().high[1] < stances[lowest_stance].shape.bounds().high[1])
            lowest_stance = i;
    }
    const double low = stances[lowest_stance].shape.bounds().high[1];
    all.add("passage", "A low passage, the body in its lowest stance in it",
            {{"clearance", Unit::length, low, 1.3 * tallest, tallest, "From floor to ceiling"}},
            {Claim::headroom}, [m, lowest_stance](const Values& v, double turn) {
                auto builder = m->builder();
                m->floor(builder);
                const double half = 4.0 * m->size();
                m->block(builder, "roof", -half, half, v[0], v[0] + m->height());
                Pose<D> pose = m->pose(Vec<D>::Zero(), turn);
                pose.stance = lowest_stance;
                return FixtureScene<D>{builder.build(), pose, -m->heading(0.0)};
            });
}

/// What is measured tick by tick.
template <int D>
void add_motions(const std::shared_ptr<const Maker<D>>& m, Collection<D>& all) {
    using Values = std::vector<double>;
    const Vec<D> up = Vec<D>::Unit(1);
    const double touch = m->intent().touch;
    const double size = m->size();

    Fixture<D>& landing =
        all.add("landing", "A fall on to a thin floor, 60 ticks a second",
                {{"speed", Unit::speed, 0.5 * size, 40.0 * size, 5.0 * size, "At which the body arrives"},
                 {"thickness", Unit::length, 0.1 * touch, size, touch, "Of the floor"}},
                {Claim::ground}, [m, size, up](const Values& v, double turn) {
                    auto builder = m->builder();
                    m->block(builder, "floor", -m->far(), m->far(), -v[1], 0.0);
                    return FixtureScene<D>{builder.build(), m->pose(4.0 * size * up, turn), up};
                });
    landing.drill = [m, size, up](const Values& v, double turn) {
        Drill<D> drill;
        drill.name = "landing";
        drill.at = 4.0 * size * up;
        drill.heading = m->heading(turn);
        drill.stance = m->rig().body.stances[m->options().stance].name;
        // Falls that far in 2 · way ÷ speed.
        drill.motion.gravity = v[0] * v[0] / (8.0 * size);
        drill.seconds = 8.0 * size / v[0] + 0.25;
        return drill;
    };
    for (const double sense : {1.0, -1.0}) {
        const std::string way = sense > 0.0 ? "up" : "down";
        Fixture<D>& lift =
            all.add("lift " + way, "A deck that carries the body " + way + ", 60 ticks a second",
                    {{"pace", Unit::speed, 0.05 * size, 6.0 * size, size, "Of the deck"}}, {Claim::ground},
                    [m, sense, up](const Values& v, double turn) {
                        auto builder = m->builder();
                        m->block(builder, "deck", -4.0 * m->size(), 4.0 * m->size(), -0.2 * m->size(), 0.0);
                        builder.path({{Vec<D>::Zero(), sense * 1000.0 * m->size() * up}, v[0], 0.0});
                        return FixtureScene<D>{builder.build(), m->pose(Vec<D>::Zero(), turn), up};
                    });
        lift.drill = [m](const Values&, double turn) {
            Drill<D> drill;
            drill.name = "lift";
            drill.heading = m->heading(turn);
            drill.stance = m->rig().body.stances[m->options().stance].name;
            drill.motion.gravity = 12.0 * m->size();
            drill.seconds = 0.75;
            return drill;
        };
    }
}

}  // namespace

template <int D>
std::vector<Fixture<D>> fixtures_of(const Rig<D>& rig, const FixtureOptions& options) {
    const auto maker = std::make_shared<const Maker<D>>(rig, options);
    Collection<D> all(maker);
    add_grounds<D>(maker, all);
    add_obstacles<D>(maker, all);
    add_motions<D>(maker, all);
    return std::move(all.all_);
}

template <int D>
std::vector<SheetLine> sheet_lines(const std::vector<Fixture<D>>& fixtures) {
    std::vector<SheetLine> lines;
    const std::vector<double> both = {0.0, 180.0};
    const std::vector<double> around =
        D == 2 ? both : std::vector<double>{0.0, 45.0, 90.0, 135.0, 180.0, 225.0, 270.0, 315.0};
    const auto add = [&](const std::string& name, const std::string& fixture, const std::string& axis,
                         std::vector<double> degrees,
                         const std::vector<std::pair<std::string, double>>& with = {}) {
        for (std::size_t i = 0; i < fixtures.size(); ++i) {
            if (fixtures[i].name != fixture) continue;
            SheetLine line{name, i, 0, {}, std::move(degrees)};
            for (std::size_t k = 0; k < fixtures[i].axes.size(); ++k) {
                const FixtureAxis& each = fixtures[i].axes[k];
                double value = each.standard;
                for (const auto& [other, fixed] : with) {
                    if (other == each.name) value = std::clamp(fixed, each.least, each.most);
                }
                line.values.push_back(value);
                if (each.name == axis) line.axis = k;
            }
            lines.push_back(std::move(line));
            return;
        }
    };
    constexpr bool solid = D == 3;
    add("floor", "floor", "gap", around);
    add("slope up", "slope", "angle", {0.0});
    add("slope down", "slope", "angle", {180.0});
    if (solid) add("slope across", "slope", "angle", {90.0, 270.0});
    add("lip ahead", "lip", "overhang", {0.0});
    add("lip behind", "lip", "overhang", {180.0});
    if (solid) add("lip beside", "lip", "overhang", {90.0, 270.0});
    if (solid) add("corner", "corner", "overhang", around);
    add("slot below", "slot", "width", around);
    add("ridge", "ridge", "angle", around);
    add("valley", "valley", "angle", around);
    add("one-way deck", "deck", "height", around);
    add("seam ahead", "seam", "offset", {0.0});
    add("seam, flush", "seam", "distance", {0.0});
    add("wall ahead", "wall", "distance", {0.0});
    if (solid) add("wall at 40°", "wall", "distance", {40.0, 320.0});
    if (solid) add("wall at 80°", "wall", "distance", {80.0, 280.0});
    add("wall leaning", "wall", "steepness", {0.0});
    add("step up", "step", "rise", {0.0});
    add("step ahead", "step", "distance", {0.0});
    add("drop depth", "drop", "depth", {0.0});
    add("drop ahead", "drop", "distance", {0.0});
    add("gap ahead", "gap", "width", {0.0});
    add("beam ahead", "lintel", "clearance", {0.0});
    add("ceiling", "ceiling", "gap", around);
    add("ceiling, sloped", "ceiling", "angle", around);
    add("ledge height", "ledge", "height", {0.0});
    add("ledge depth", "ledge", "depth", {0.0});
    add("ledge ahead", "ledge", "distance", {0.0});
    add("low passage", "passage", "clearance", {0.0});
    add("landing", "landing", "speed", {0.0});
    add("lift up", "lift up", "pace", {0.0});
    add("lift down", "lift down", "pace", {0.0});
    return lines;
}

template struct Fixture<2>;
template struct Fixture<3>;
template std::vector<Fixture<2>> fixtures_of<2>(const Rig<2>&, const FixtureOptions&);
template std::vector<Fixture<3>> fixtures_of<3>(const Rig<3>&, const FixtureOptions&);
template std::vector<SheetLine> sheet_lines<2>(const std::vector<Fixture<2>>&);
template std::vector<SheetLine> sheet_lines<3>(const std::vector<Fixture<3>>&);

}  // namespace hollow_probe
