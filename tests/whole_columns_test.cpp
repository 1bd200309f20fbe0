// Where a survey looks: random levels and rigs with one planted fault each, held against a fine lattice of
// all free anchors. Every wrong anchor of the lattice must lie in a finding's bounds or touch them.
//
// The cases tagged [.long] are left out of an ordinary run: ./run long.
#include <catch2/catch.hpp>

#include <Eigen/Geometry>
#include <iomanip>
#include <map>

#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/rig/mount.hpp"
#include "hollow_probe/truth/answer.hpp"
#include "hollow_probe/truth/doubt.hpp"
#include "hollow_probe/truth/ground.hpp"
#include "hollow_probe/verify/judge.hpp"
#include "scenes.hpp"

using namespace scenes;

namespace {

template <int D>
struct Case {
    std::optional<Level<D>> level;
    Rig<D> rig;
    std::string fault;
};

/// The map from upright scenes to turned ones: up is +y, −y or anything.
template <int D>
struct Turned {
    Mat<D> turn = Mat<D>::Identity();
    Vec<D> up = Vec<D>::Unit(1);

    explicit Turned(Random& random) {
        const int kind = random.below(4);
        if (kind == 1) turn(1, 1) = -1.0;
        if (kind == 2) {
            const double angle = random.between(0.0, 6.28);
            turn.template topLeftCorner<2, 2>() << std::cos(angle), -std::sin(angle), std::sin(angle),
                std::cos(angle);
        }
        up = turn * Vec<D>::Unit(1);
    }
};

template <int D>
Case<D> random_case(Random& random) {
    const Turned<D> turned(random);
    Case<D> made;
    LevelBuilder<D> builder({"masonry", "foliage", "grating"}, turned.up);
    const auto add = [&](const std::string& name, const std::string& layer, const RoundedHull<D>& shape) {
        builder.add(name, layer, shape.placed(turned.turn));
    };
    const auto block = [&](double x, double y, double width, double height) {
        Vec<D> size = Vec<D>::Constant(D == 3 ? random.between(0.8, 1.6) : 1.0);
        size[0] = width;
        size[1] = height;
        return RoundedHull<D>::box(at<D>(x, y), size);
    };
    add("floor", "masonry", block(0.0, -0.5, random.between(1.5, 3.0), 1.0));
    const int count = 1 + random.below(3);
    for (int i = 0; i < count; ++i) {
        const Vec<D> center = at<D>(random.between(-1.5, 1.5), random.between(-1.0, 3.0));
        add("thing " + std::to_string(i), random.below(3) == 0 ? "grating" : "masonry",
            random_shape<D>(random, center, random.between(0.4, 1.2)));
    }
    add("bush", "foliage", block(random.between(-2.0, 2.0), random.between(0.0, 4.0), 0.7, 0.6));
    add("hatch", "grating",
        block(random.between(-2.0, 2.0), random.between(1.0, 4.0), random.between(0.5, 1.5), 0.1));
    builder.one_way(turned.up);
    made.level.emplace(builder.build());

    Rig<D>& rig = made.rig;
    rig.body.meets = {"masonry", "grating"};
    if (random.below(2) == 0) {
        rig.body.stances = {Stance<D>::capsule("upright", 0.3, 1.2)};
    } else {
        Vec<D> size = Vec<D>::Constant(0.6);
        size[1] = 1.2;
        rig.body.stances = {Stance<D>::box("upright", size)};
    }
    rig.intent.touch = random.between(0.02, 0.06);
    rig.intent.ahead_wall = random.between(0.02, 0.3);
    rig.intent.tallest_step = 0.3;
    Probe<D> probe;
    probe.name = "probe";
    probe.line().shape = rig.body.stances[0].shape;  // around the anchor, as the stance itself
    probe.line().reach = rig.intent.touch;
    probe.sees = rig.body.meets;
    probe.line().take = Take::all;
    probe.line().accept_most_degrees = rig.intent.steepest_footing_degrees;
    Signal signal;
    signal.name = "signal";
    signal.claims = Claim::ground;
    signal.members.any = {"probe"};
    Probe<D> sole = probe;
    sole.name = "sole";
    switch (random.below(8)) {
        case 0: {
            made.fault = "wider than the body";
            Vec<D> size = Vec<D>::Constant(0.6 + random.between(0.1, 0.6));
            size[1] = 0.1;
            probe.line().shape = RoundedHull<D>::box(0.3 * Vec<D>::Unit(1), size);
            probe.line().reach = 0.3;
            break;
        }
        case 1:
            made.fault = "sees what stops nobody";
            probe.sees.push_back("foliage");
            break;
        case 2:
            made.fault = "one-way from every side";
            probe.line().one_way = OneWay::always;
            break;
        case 3:
            made.fault = "knee-high ray for walls";
            probe.line().shape.reset();
            probe.line().from = at<D>(0.0, random.between(0.2, 0.5));
            probe.line().along = Vec<D>::Unit(0);
            probe.line().reach = 0.3 + rig.intent.ahead_wall;
            probe.line().accept_least_degrees = 45.0;
            probe.line().accept_most_degrees = 120.0;
            signal.claims = Claim::wall;
            break;
        case 4:
            made.fault = "far too long";
            probe.line().shape.reset();
            probe.line().from = at<D>(0.0, 0.3);
            probe.line().reach = random.between(0.4, 4.0);
            break;
        case 5:
            made.fault = "a ray for a ceiling";
            probe.line().shape.reset();
            probe.line().from = at<D>(random.between(-0.2, 0.2), 1.0);
            probe.line().along = Vec<D>::Unit(1);
            probe.line().reach = 0.2 + random.between(0.0, 0.6);
            probe.line().accept_least_degrees = 120.0;
            probe.line().accept_most_degrees = 180.0;
            signal.claims = Claim::ceiling;
            break;
        case 6:
            made.fault = "a slanting ray for drops";
            probe.line().shape.reset();
            probe.line().from = at<D>(0.0, 0.5);
            probe.line().along = at<D>(0.6, -0.8);
            probe.line().reach = random.between(0.7, 1.5);
            signal.members.any = {"sole"};
            signal.members.none = {"probe"};
            signal.claims = Claim::drop;
            rig.probes = {sole};
            break;
        default:
            made.fault = "any angle";
            probe.line().accept_most_degrees = 180.0;
            break;
    }
    rig.probes.push_back(probe);
    rig.signals = {signal};
    return made;
}

/// Puts two probes in place of a case's, of which one starts where the other was stopped.
template <int D>
void let_follow(Random& random, Case<D>& made) {
    made.fault = "following";
    Rig<D>& rig = made.rig;
    rig.intent.ahead_ledge = random.between(0.1, 0.6);
    Probe<D> eyes;
    eyes.name = "eyes";
    eyes.sees = rig.body.meets;
    eyes.line().from = at<D>(0.0, random.between(0.1, 1.1));
    eyes.line().along =
        random.below(3) == 0 ? at<D>(0.8, random.below(2) == 0 ? 0.6 : -0.6) : at<D>(1.0, 0.0);
    eyes.line().reach = 0.3 + random.between(0.05, 1.2);
    if (random.below(2) == 0)
        eyes.line().shape = RoundedHull<D>::ball(Vec<D>::Zero(), random.between(0.05, 0.3));
    if (random.below(2) == 0) eyes.line().accept_least_degrees = 45.0;
    Probe<D> fingers = eyes;
    fingers.name = "fingers";
    fingers.follows = "eyes";
    fingers.line() = LineProbe<D>{.from = at<D>(random.between(0.05, 0.6), random.between(0.8, 2.0)),
                                  .reach = random.between(0.3, 2.0)};
    if (random.below(2) == 0)
        fingers.line().shape = RoundedHull<D>::ball(Vec<D>::Zero(), random.between(0.05, 0.3));
    if (random.below(2) == 0) fingers.line().accept_most_degrees = 45.0;
    if (random.below(4) == 0) {
        const Vec<D> size = Vec<D>::Constant(random.between(0.1, 0.5));
        fingers.of_kind = ZoneProbe<D>{RoundedHull<D>::box(Vec<D>::Zero(), size), fingers.line().from};
    }
    rig.probes = {eyes, fingers};
    rig.signals[0].members = {};
    rig.signals[0].members.any = {"fingers"};
    const std::array claims = {Claim::ledge, Claim::step, Claim::wall};
    rig.signals[0].claims = claims[static_cast<std::size_t>(random.below(3))];
}

/// Has the rays and casts of a case pass over what they only brush, or meet squarely.
template <int D>
void let_refuse(Random& random, Case<D>& made) {
    made.fault = "refusing by incidence";
    for (Probe<D>& probe : made.rig.probes) {
        if (!probe.is_line()) continue;
        LineProbe<D>& line = probe.line();
        line.accept_least_incidence_degrees = random.below(3) == 0 ? random.between(5.0, 40.0) : 0.0;
        line.accept_most_incidence_degrees = random.between(45.0, 90.0);
        if (random.below(2) == 0) line.take = Take::all;
    }
}

/// Has a case feel by touch, by volume, by where it is to be, or by what stops it first on a slanting way.
template <int D>
void let_feel(Random& random, Case<D>& made) {
    made.fault = "feeling";
    Rig<D>& rig = made.rig;
    Probe<D> probe;
    probe.name = "probe";
    probe.sees = rig.body.meets;
    switch (random.below(4)) {
        case 0: {
            ContactProbe contact;
            contact.side =
                std::array{Side::below, Side::above, Side::beside}[static_cast<std::size_t>(random.below(3))];
            contact.match = random.below(3) == 0 ? Match::only : Match::includes;
            contact.within_degrees = random.between(20.0, 60.0);
            probe.of_kind = contact;
            break;
        }
        case 1: {
            const Vec<D> size = Vec<D>::Constant(random.between(0.2, 0.6));
            probe.of_kind = ZoneProbe<D>{RoundedHull<D>::box(Vec<D>::Zero(), size),
                                         at<D>(random.between(0.0, 0.4), random.between(0.0, 0.8))};
            break;
        }
        case 2: {
            ShiftProbe<D> shift;
            if (random.below(2) == 0) shift.along = -Vec<D>::Unit(1);
            shift.reach = random.between(0.02, 0.3);
            probe.of_kind = shift;
            break;
        }
        default: {
            LineProbe<D>& line = probe.line();
            line.from = at<D>(0.0, 0.4);
            line.along = random.below(2) == 0 ? at<D>(0.6, -0.8) : at<D>(1.0, 0.0);
            line.reach = random.between(0.3, 1.5);
            if (random.below(2) == 0) line.shape = RoundedHull<D>::ball(Vec<D>::Zero(), 0.15);
            line.accept_least_degrees = random.below(2) == 0 ? 45.0 : 90.0;
        }
    }
    rig.probes = {probe};
    Signal& signal = rig.signals[0];
    signal.members = {};
    (random.below(3) == 0 ? signal.members.none : signal.members.any) = {"probe"};
    const std::array claims = {Claim::ground, Claim::ceiling, Claim::wall, Claim::blocked};
    signal.claims = claims[static_cast<std::size_t>(random.below(4))];
}

/// What a survey says of its poses is what each says when asked by itself.
template <int D>
void ask_again(Random& random, const Case<D>& made, int count) {
    SurveyOptions options;
    options.spacing = 0.25;
    options.headings = 2;
    options.explain = false;
    const Survey<D> result = survey<D>(*made.level, made.rig, options);
    REQUIRE(!result.poses.empty());
    for (int i = 0; i < count; ++i) {
        const auto number = static_cast<std::size_t>(random.below(static_cast<int>(result.poses.size())));
        const SurveyPose<D>& pose = result.poses[number];
        const Facing<D>& facing = result.facings[pose.facing];
        const SurveyPose<D> asked = judge_at<D>(*made.level, made.rig, facing, pose.anchor);
        CAPTURE(D, made.fault, name_of(made.rig.probes[0].kind()), number, pose.down, pose.up);
        REQUIRE(asked.signals_on == pose.signals_on);
        REQUIRE(((asked.truths_on ^ pose.truths_on) & ~(asked.undecided | pose.undecided)).none());
    }
}

template <int D>
void ask_seeds_again(std::uint64_t first, std::uint64_t last, int count) {
    for (std::uint64_t seed = first; seed <= last; ++seed) {
        Random random(seed);
        Case<D> made = random_case<D>(random);
        let_feel(random, made);
        made.fault += ", seed " + std::to_string(seed);
        ask_again<D>(random, made, count);
    }
}

/// A level of solids of all kinds, some of them one-way, or met by probes or by bodies alone.
template <int D>
class AnyLevel {
  public:
    explicit AnyLevel(Random& random)
        : random_(random), turned_(random), builder_({"masonry", "foliage", "grating"}, turned_.up) {}

    Level<D> build() {
        for (int left = 2 + random_.below(3); left > 0; --left) add_some();
        return builder_.build();
    }

  private:
    void add_some() {
        const double x = random_.between(-1.5, 1.5);
        const double y = random_.between(-1.0, 2.5);
        const Vec<D> center = at<D>(x, y);
        switch (random_.below(6)) {
            case 0:
                add_slabs(x);
                break;
            case 1:
                add(random_shape<D>(random_, center, random_.between(0.4, 1.2)));
                break;
            case 2:
                add(lattice_shape<D>(random_));
                break;
            case 3: {
                const double wide = random_.between(0.1, 1.5);
                add(block(x, y, wide, random_.between(0.05, 1.0)));
                break;
            }
            default:
                add_surface(center);
        }
        ask_less_of_it();
    }

    RoundedHull<D> block(double x, double y, double wide, double tall) {
        Vec<D> size = Vec<D>::Constant(D == 3 ? random_.between(0.8, 1.6) : 1.0);
        size[0] = wide;
        size[1] = tall;
        return RoundedHull<D>::box(at<D>(x, y), size);
    }

    std::string name() { return "solid " + std::to_string(count_++); }
    const char* layer() { return random_.below(4) == 0 ? "grating" : "masonry"; }
    void add(const RoundedHull<D>& shape) { builder_.add(name(), layer(), shape.placed(turned_.turn)); }

    /// Side by side, flush or a step apart.
    void add_slabs(double x) {
        const double y = random_.between(-0.5, 0.5);
        const double wide = random_.between(0.4, 1.2);
        for (int i = 0; i < 3; ++i) {
            const double higher = random_.below(2) == 0 ? 0.0 : random_.between(-0.35, 0.35);
            add(block(x + i * wide, y + 0.5 * higher - 0.5, wide, 1.0 + higher));
        }
    }

    /// A bent line or any outline; a bumpy field or a box, of triangles.
    void add_surface(const Vec<D>& center) {
        const bool open = random_.below(2) == 0;
        if constexpr (D == 2) {
            std::vector<Vec<2>> corners;
            if (open) {
                Vec<2> corner = center;
                double angle = random_.between(-0.5, 0.5);
                for (int left = 4 + random_.below(5); left > 0; --left) {
                    corners.push_back(turned_.turn * corner);
                    const bool squarely = random_.below(3) == 0;
                    angle += squarely ? 0.5 * std::numbers::pi : random_.between(-1.0, 1.0);
                    corner += random_.between(0.2, 1.0) * Vec<2>(std::cos(angle), std::sin(angle));
                }
                builder_.add_polyline(name(), layer(), corners);
                return;
            }
            const int count = 5 + random_.below(5);
            for (int i = 0; i < count; ++i) {
                const double angle = 2.0 * std::numbers::pi * (i + random_.between(0.0, 0.6)) / count;
                const Vec<2> way(std::cos(angle), std::sin(angle));
                corners.push_back(turned_.turn * (center + random_.between(0.3, 1.1) * way));
            }
            builder_.add_polygon(name(), layer(), corners);
        } else {
            std::vector<Vec<3>> corners;
            std::vector<std::array<std::uint32_t, 3>> triangles;
            const auto add_square = [&](std::uint32_t a, std::uint32_t b, std::uint32_t c, std::uint32_t d) {
                triangles.push_back({a, b, c});
                triangles.push_back({a, c, d});
            };
            if (open) {
                for (int i = 0; i < 16; ++i) {
                    const double bump = random_.below(2) == 0 ? 0.0 : random_.between(-0.5, 0.5);
                    const Vec<3> corner(0.7 * (i % 4 - 1.5), bump, 0.7 * (i / 4 - 1.5));
                    corners.push_back(turned_.turn * (center + corner));
                }
                for (const std::uint32_t row : {0, 4, 8}) {
                    for (std::uint32_t i = row; i < row + 3; ++i) add_square(i, i + 4, i + 5, i + 1);
                }
            } else {
                const Mat<3> tilt = random_turn<3>(random_);
                for (int i = 0; i < 8; ++i) {
                    const Vec<3> corner(i & 1 ? 0.5 : -0.5, i & 2 ? 0.3 : -0.3, i & 4 ? 0.4 : -0.4);
                    corners.push_back(turned_.turn * (center + tilt * corner));
                }
                add_square(0, 2, 3, 1);
                add_square(4, 5, 7, 6);
                add_square(0, 1, 5, 4);
                add_square(2, 6, 7, 3);
                add_square(0, 4, 6, 2);
                add_square(1, 3, 7, 5);
            }
            builder_.add_mesh(name(), layer(), corners, triangles);
        }
    }

    void ask_less_of_it() {
        const int kind = random_.below(8);
        if (kind == 0) builder_.one_way(turned_.up);
        if (kind == 1) builder_.role(Role::sensed);
        if (kind == 2) builder_.role(Role::reference);
    }

    Random& random_;
    Turned<D> turned_;
    LevelBuilder<D> builder_;
    int count_ = 0;
};

/// A ball, a capsule, a box, or a hull of twelve points, sharp or rounded.
template <int D>
Stance<D> any_stance(Random& random) {
    const int kind = random.below(5);
    if (kind == 0) return Stance<D>::ball("upright", 0.35);
    if (kind == 1) return Stance<D>::capsule("upright", 0.3, 1.2);
    if (kind == 2) {
        Vec<D> size = Vec<D>::Constant(0.6);
        size[1] = 1.2;
        return Stance<D>::box("upright", size);
    }
    const double radius = kind == 3 ? 0.0 : 0.1;
    std::vector<Vec<D>> points;
    double lowest = infinity;
    for (int i = 0; i < 12; ++i) {
        points.push_back((0.4 - radius) * random.direction<D>());
        points.back()[1] *= 1.5;
        lowest = std::min(lowest, points.back()[1]);
    }
    for (Vec<D>& point : points) point[1] += radius - lowest;
    return Stance<D>::hull("upright", points, radius);
}

/// Any body in any level, with any claim and any intent.
template <int D>
Case<D> any_case(Random& random) {
    Case<D> made = random_case<D>(random);
    made.level.emplace(AnyLevel<D>(random).build());
    made.rig.body.stances = {any_stance<D>(random)};
    Intent& intent = made.rig.intent;
    intent.steepest_footing_degrees = random.below(3) == 0 ? 45.0 : random.between(20.0, 65.0);
    intent.ceiling_within_degrees = random.between(20.0, 80.0);
    intent.tallest_step = random.between(0.15, 0.5);
    intent.lowest_step = random.between(0.03, 0.1);
    intent.ahead_step = random.between(0.05, 0.3);
    intent.ahead_drop = random.between(0.1, 0.8);
    intent.deepest_drop = random.between(0.3, 1.0);
    intent.ahead_ledge = random.between(0.1, 0.5);
    intent.ledge_between[0] = random.between(0.3, 0.8);
    intent.ledge_between[1] = random.between(0.9, 1.8);
    const int probes = random.below(6);
    if (probes < 3) let_feel(random, made);
    if (probes == 3) let_follow(random, made);
    const std::array claims = {Claim::ground, Claim::ceiling, Claim::wall, Claim::blocked,
                               Claim::step,   Claim::drop,    Claim::ledge};
    Signal& signal = made.rig.signals[0];
    signal.claims = claims[static_cast<std::size_t>(random.below(7))];
    if (random.below(4) == 0) signal.of = {"masonry"};
    return made;
}

/// At any height of a column, and close to where intervals end, the verdict is that of the interval around
/// it; heights in none are right. Ends are known to a 64th of touch; a height four times as close is not
/// asked.
template <int D>
void ask_all_heights(Random& random, const Case<D>& made, int columns, int heights) {
    const Level<D>& level = *made.level;
    const Vec<D> up = level.up();
    SurveyOptions options;
    options.headings = 2;
    options.explain = false;
    options.budget = 20'000;
    const Survey<D> result = survey<D>(level, made.rig, options);
    REQUIRE(!result.poses.empty());
    REQUIRE(result.wrong_kept_of == 1);
    using Column = std::vector<const SurveyPose<D>*>;
    std::map<std::vector<double>, Column> by_place;
    for (const SurveyPose<D>& pose : result.poses) {
        std::vector<double> place = {static_cast<double>(pose.facing)};
        const Vec<D> foot = pose.anchor - up.dot(pose.anchor) * up;
        for (int axis = 0; axis < D; ++axis) place.push_back(std::round(1e8 * foot[axis]));
        by_place[place].push_back(&pose);
    }
    std::vector<const Column*> all;
    for (const auto& [place, column] : by_place) all.push_back(&column);
    const double touch = made.rig.intent.touch;
    const double close = touch / 16.0;
    const bool is_on_in_empty_air = !made.rig.signals[0].members.none.empty();
    const auto low_of = [&](const SurveyPose<D>& pose) { return up.dot(pose.anchor) - pose.down; };
    const auto high_of = [&](const SurveyPose<D>& pose) { return up.dot(pose.anchor) + pose.up; };
    for (int c = 0; c < columns; ++c) {
        const Column& column = *all[static_cast<std::size_t>(random.below(static_cast<int>(all.size())))];
        const Facing<D>& facing = result.facings[column[0]->facing];
        const MountedRig<D> mounted(made.rig, level, facing.stance, Situation<D>{facing.heading});
        const Vec<D> foot = column[0]->anchor - up.dot(column[0]->anchor) * up;
        const auto asked_at = [&](const Vec<D>& anchor) {
            return judge_at<D>(level, made.rig, facing, anchor).verdict(0);
        };
        double lowest = infinity;
        double highest = -infinity;
        for (const SurveyPose<D>* pose : column) {
            lowest = std::min(lowest, low_of(*pose));
            highest = std::max(highest, high_of(*pose));
        }
        for (int i = 0; i < heights; ++i) {
            double height = random.between(lowest - 1.0, highest + 1.0);
            if (i % 2 == 0) {
                const auto number = static_cast<std::size_t>(random.below(static_cast<int>(column.size())));
                const SurveyPose<D>& pose = *column[number];
                height = random.below(2) == 0 ? low_of(pose) : high_of(pose);
                height += random.between(-4.0, 4.0) * close;
            }
            const SurveyPose<D>* around = nullptr;
            bool at_end = false;
            for (const SurveyPose<D>* pose : column) {
                at_end = at_end || std::abs(height - low_of(*pose)) < close ||
                         std::abs(height - high_of(*pose)) < close;
                if (height >= low_of(*pose) && height <= high_of(*pose)) around = pose;
            }
            // What is said of empty air is not judged.
            const bool is_beyond = height < lowest || height > highest;
            if (at_end || (around == nullptr && is_beyond && is_on_in_empty_air)) continue;
            const PlacedBody<D> body{mounted.body.view(), foot + height * up, mounted.meets};
            const auto clipped = clip<D>(level, body, made.rig.intent);
            if (clipped.on || clipped.margin < close) continue;
            const Verdict asked = asked_at(foot + height * up);
            const bool is_wrong = asked == Verdict::missed_contact || asked == Verdict::false_contact;
            const Verdict said = around != nullptr ? around->verdict(0)
                                 : is_wrong        ? Verdict::true_clear
                                                   : asked;
            if (asked == said || asked == Verdict::undecided || said == Verdict::undecided) continue;
            // What only grazes something hangs on rounding.
            bool is_grazing = false;
            for (int k = 0; k < 2 * D; ++k) {
                const Vec<D> shift = (k % 2 == 0 ? 1e-8 : -1e-8) * Vec<D>::Unit(k / 2);
                is_grazing = is_grazing || asked_at(foot + height * up + shift) == said;
            }
            if (is_grazing) continue;
            INFO(std::setprecision(17)
                 << D << "D, " << made.fault << ", " << name_of(*made.rig.signals[0].claims) << ", facing "
                 << column[0]->facing << ", foot " << foot.transpose() << ", height " << height);
            REQUIRE(std::string(name_of(asked)) == name_of(said));
        }
    }
}

template <int D>
void ask_all_heights(std::uint64_t seed, int columns, int heights) {
    Random random(seed);
    Case<D> made = any_case<D>(random);
    made.fault += ", seed " + std::to_string(seed);
    ask_all_heights<D>(random, made, columns, heights);
}

/// Whether a cell of the lattice lies in a box or touches it.
template <int D>
bool touches(const Bounds<D>& bounds, const Vec<D>& cell, const Vec<D>& half) {
    return bounds.overlaps(Bounds<D>{cell - half, cell + half});
}

struct Tally {
    int cases = 0;
    int wrong_cases = 0;
    std::size_t wrong_cells = 0;
    std::vector<std::string> unseen;
};

/// Every wrong anchor of a random lattice, in every facing, is in a finding of its verdict.
template <int D>
void hold_against_lattice(std::uint64_t seed, int steps, Tally& tally,
                          void (*change)(Random&, Case<D>&) = nullptr) {
    Random random(seed);
    Case<D> made = random_case<D>(random);
    if (change != nullptr) change(random, made);
    const Level<D>& level = *made.level;
    SurveyOptions options;
    options.headings = 2;
    options.most_tried = 0;
    const Survey<D> result = survey<D>(level, made.rig, options);
    ++tally.cases;
    const Bounds<D> box = level.bounds().inflated(1.8);
    const Vec<D> half_cell = 0.5 / steps * box.size();
    Vec<D> offset;
    for (int axis = 0; axis < D; ++axis) offset[axis] = random.between(0.0, 1.0);
    std::size_t wrong = 0;
    for (const Facing<D>& facing : result.facings) {
        const Situation<D> situation{facing.heading};
        const MountedRig<D> mounted(made.rig, level, facing.stance, situation);
        std::size_t cells = 1;
        for (int axis = 0; axis < D; ++axis) cells *= static_cast<std::size_t>(steps);
        for (std::size_t cell = 0; cell < cells; ++cell) {
            Vec<D> anchor;
            for (std::size_t axis = 0, rest = cell; axis < D;
                 ++axis, rest /= static_cast<std::size_t>(steps)) {
                const auto k = static_cast<Eigen::Index>(axis);
                anchor[k] = box.low[k] +
                            box.size()[k] *
                                (static_cast<double>(rest % static_cast<std::size_t>(steps)) + offset[k]) /
                                steps;
            }
            const PlacedBody<D> body{mounted.body.view(), anchor, mounted.meets};
            if (clip<D>(level, body, made.rig.intent).on) continue;
            const bool on = mounted.evaluate(level, anchor).has(0);
            const TruthQuestion<D> question{body, facing.heading, mounted.asked[0].view()};
            const Claim claim = *made.rig.signals[0].claims;
            const bool truth = answer<D>(claim, level, question, made.rig.intent).on;
            if (on == truth || in_doubt<D>(claim, level, question, made.rig.intent, truth)) continue;
            ++wrong;
            const Verdict verdict = on ? Verdict::false_contact : Verdict::missed_contact;
            const bool seen =
                std::any_of(result.findings.begin(), result.findings.end(), [&](const Finding<D>& finding) {
                    return finding.verdict == verdict && touches<D>(finding.bounds, anchor, half_cell);
                });
            if (seen) continue;
            std::string where = std::to_string(D) + "D seed " + std::to_string(seed) + ", " + made.fault +
                                ", " + name_of(verdict) + " at";
            for (int axis = 0; axis < D; ++axis) where += " " + number_text(anchor[axis]);
            tally.unseen.push_back(where);
        }
    }
    tally.wrong_cells += wrong;
    tally.wrong_cases += wrong > 0 ? 1 : 0;
}

template <int D>
void hold_seeds(std::uint64_t first, std::uint64_t last, int steps, Tally& tally,
                void (*change)(Random&, Case<D>&) = nullptr) {
    for (std::uint64_t seed = first; seed <= last; ++seed)
        hold_against_lattice<D>(seed, steps, tally, change);
}

void report(const Tally& tally) {
    // Of each case the first.
    std::string list;
    std::string last;
    for (const std::string& where : tally.unseen) {
        const std::string which = where.substr(0, where.find(','));
        if (which != last) list += "\n" + where;
        last = which;
    }
    CAPTURE(tally.cases, tally.wrong_cases, tally.wrong_cells, tally.unseen.size(), list);
    CHECK(tally.unseen.empty());
    CHECK(tally.wrong_cases * 2 > tally.cases);  // most faults show on the lattice
}

}  // namespace

TEST_CASE("no wrong anchor of a fine lattice is outside all findings") {
    Tally tally;
    hold_seeds<2>(1, 16, 150, tally);
    hold_seeds<3>(1, 2, 24, tally);
    report(tally);
}

TEST_CASE("nor where probes start where others were stopped") {
    Tally tally;
    hold_seeds<2>(3001, 3004, 150, tally, let_follow<2>);
    // In these a wrong anchor once was outside all findings.
    for (const std::uint64_t seed : {5008, 5015, 5038, 5049, 5084, 5087})
        hold_against_lattice<2>(seed, 200, tally, let_follow<2>);
    report(tally);
}

TEST_CASE("what a survey says of a pose is what is said when it is asked by itself") {
    ask_seeds_again<2>(7001, 7060, 200);
    ask_seeds_again<3>(7001, 7006, 200);
}

TEST_CASE("a pose asked by itself, in a thousand surveys", "[.long]") {
    ask_seeds_again<2>(8001, 8900, 400);
    ask_seeds_again<3>(8001, 8100, 400);
}

TEST_CASE("at every height of a column all is as said of the interval around it") {
    for (std::uint64_t seed = 1; seed <= 12; ++seed) ask_all_heights<2>(seed, 12, 40);
    ask_all_heights<3>(1, 12, 40);
    // In these a height once was in no interval, or in a wrong one.
    for (const std::uint64_t seed : {34, 37, 51}) ask_all_heights<2>(seed, 40, 60);
    ask_all_heights<3>(3, 12, 40);
}

TEMPLATE_TEST_CASE_SIG("a slanting ray may meet a round piece where that leans the same way", "",
                       ((int D), D), 2, 3) {
    Random random(9101);
    Case<D> made;
    made.fault = "slanting";
    LevelBuilder<D> builder({"m"});
    builder.add("pipe", "m", RoundedHull<D>::capsule(at<D>(1.3, 0.6), at<D>(0.8, 0.0), 0.3));
    made.level.emplace(builder.build());
    Probe<D> probe = foot_ray<D>(1.2);
    probe.line().along = at<D>(0.6, -0.8);
    probe.line().accept_most_degrees = 40.0;
    probe.line().take = Take::all;
    made.rig = rig_with<D>(probe, {"m"});
    ask_all_heights<D>(random, made, D == 2 ? 300 : 100, 40);
}

TEST_CASE("at every height of a column, in a thousand levels", "[.long]") {
    for (std::uint64_t seed = 1'001; seed <= 1'900; ++seed) ask_all_heights<2>(seed, 40, 60);
    for (std::uint64_t seed = 1'001; seed <= 1'100; ++seed) ask_all_heights<3>(seed, 40, 60);
}

TEST_CASE("each ray of a row of many is heard, though it alone hits a thin post") {
    Random random(9001);
    for (const int count : {9, 13, 40, 64}) {
        Case<2> made;
        made.fault = std::to_string(count) + " rays";
        LevelBuilder<2> builder({"m"});
        for (int i = 0; i < 6; ++i) {
            const Vec<2> size(random.between(0.01, 0.06), random.between(0.5, 3.0));
            builder.add("post " + std::to_string(i), "m",
                        RoundedHull<2>::box(at<2>(random.between(-3.0, 3.0), 0.5 * size[1]), size));
        }
        made.level.emplace(builder.build());
        made.rig = rig_with<2>(foot_ray<2>(0.42), {"m"});
        made.rig.probes[0].line().spread = {.kind = SpreadKind::row, .count = count, .width = 0.9};
        ask_again<2>(random, made, 2'000);
    }
}

TEST_CASE("where probes start where others were stopped, in five hundred cases", "[.long]") {
    Tally tally;
    hold_seeds<2>(4001, 4450, 250, tally, let_follow<2>);
    hold_seeds<3>(4001, 4050, 40, tally, let_follow<3>);
    report(tally);
}

TEST_CASE("nor where probes refuse hits by how squarely they are met") {
    Tally tally;
    hold_seeds<2>(6001, 6006, 150, tally, let_refuse<2>);
    hold_against_lattice<3>(6001, 24, tally, let_refuse<3>);
    report(tally);
}

TEST_CASE("where probes refuse hits by how squarely they are met, in two hundred cases", "[.long]") {
    Tally tally;
    hold_seeds<2>(7001, 7180, 250, tally, let_refuse<2>);
    hold_seeds<3>(7001, 7020, 40, tally, let_refuse<3>);
    report(tally);
}

TEST_CASE("nor in cases in which one once was") {
    Tally tally;
    for (const std::uint64_t seed :
         {1001, 1039, 1075, 1136, 1332, 1378, 1388, 1480, 1586, 1607, 1608, 1838, 1881, 1886, 2273, 2487})
        hold_against_lattice<2>(seed, 300, tally);
    for (const std::uint64_t seed : {1018, 1306}) hold_against_lattice<3>(seed, 40, tally);
    report(tally);
}

TEST_CASE("no wrong anchor of a fine lattice is outside all findings, in two thousand cases", "[.long]") {
    Tally tally;
    hold_seeds<2>(1001, 2600, 300, tally);
    hold_seeds<3>(1001, 1400, 40, tally);
    report(tally);
}

TEMPLATE_TEST_CASE_SIG("a long ray is on at every height from which it reaches a thin surface", "",
                       ((int D), D), 2, 3) {
    for (const double way : {-1.0, 1.0}) {
        LevelBuilder<D> builder({"m"});
        if constexpr (D == 2) {
            builder.add_polyline("sheet", "m", {{-20, 0}, {20, 0}});
        } else {
            builder.add_mesh("sheet", "m", {{-20, 0, -20}, {20, 0, -20}, {20, 0, 20}, {-20, 0, 20}},
                             {{0, 2, 1}, {0, 3, 2}});
        }
        const Level<D> level = builder.build();
        // Both end 2.6 beyond the body, which is far more than what the body itself feels.
        Rig<D> rig = rig_with<D>(foot_ray<D>(3.0), {"m"});
        rig.probes[0].line().from[1] = way < 0.0 ? 0.4 : 1.4;
        rig.probes[0].line().along = way * Vec<D>::Unit(1);
        rig.signals[0].claims = way < 0.0 ? Claim::ground : Claim::ceiling;
        SurveyOptions options;
        options.spacing = 0.5;
        options.headings = 1;
        options.explain = false;
        const double low = way < 0.0 ? 0.0 : -6.8;  // of five heights without the body in the sheet
        options.region = D == 2 ? std::vector<double>{-2, low, 2, low + 5.0}
                                : std::vector<double>{-2, low, -2, 2, low + 5.0, 2};
        const Survey<D> result = survey<D>(level, rig, options);
        const auto& measure = result.signals[0].measure;
        const auto of = [&](Verdict verdict) { return measure[static_cast<std::size_t>(verdict)]; };
        CAPTURE(D, way);
        REQUIRE(of(Verdict::true_contact) > 0.0);
        // Truth ends a touch off, to within a sixty-fourth of it.
        const double touch = rig.intent.touch;
        CHECK(of(Verdict::false_contact) / of(Verdict::true_contact) ==
              Approx((2.6 - touch) / touch).epsilon(0.03));
        CHECK(of(Verdict::missed_contact) == 0.0);
    }
}

TEMPLATE_TEST_CASE_SIG("no height is judged at which the body is deep in a facet, whatever it touches first",
                       "", ((int D), D), 2, 3) {
    Random random(90 + D);
    std::size_t ends = 0;
    std::size_t at_facets = 0;
    for (int round = 0; round < 6; ++round) {
        LevelBuilder<D> builder({"m"});
        for (int i = 0; i < 6; ++i) {
            std::vector<Vec<D>> corners;
            for (int k = 0; k < D; ++k) corners.push_back(random.point<D>(2.0));
            const std::string name = "facet " + std::to_string(i);
            if constexpr (D == 2)
                builder.add_polyline(name, "m", corners);
            else
                builder.add_mesh(name, "m", corners, {{0, 1, 2}});
        }
        const Level<D> level = builder.build();
        const Rig<D> rig = rig_with<D>(foot_ray<D>(0.42), {"m"});
        const RoundedHull<D>& body = rig.body.stances[0].shape;
        SurveyOptions options;
        options.spacing = D == 2 ? 0.05 : 0.4;
        options.headings = 1;
        options.explain = false;
        for (const SurveyPose<D>& pose : survey<D>(level, rig, options).poses) {
            for (const double end : {-static_cast<double>(pose.down), static_cast<double>(pose.up)}) {
                const Vec<D> at = pose.anchor + end * Vec<D>::Unit(1);
                double gap = infinity;
                for (std::uint32_t piece = 0; piece < level.piece_count(); ++piece)
                    gap = std::min(gap, separation<D>(body.view(), at, level.piece(piece)).gap);
                ++ends;
                at_facets += gap < 0.0 ? 1 : 0;
                if (gap < -1.1 * rig.intent.touch) {
                    CAPTURE(D, round, at.transpose(), gap);
                    REQUIRE(gap >= -1.1 * rig.intent.touch);
                }
            }
        }
    }
    CHECK(ends > 2'000);
    CHECK(at_facets > 200);
}
