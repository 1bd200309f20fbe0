#include "any_case.hpp"

#include <array>
#include <cmath>
#include <numbers>

namespace scenes {

namespace {

/// The map from upright scenes to turned ones: up is +y, −y or anything.
template <int D>
struct Turned {
    Mat<D> turn = Mat<D>::identity();
    Vec<D> up = Vec<D>::unit(1);

    explicit Turned(Random& random) {
        const int kind = random.below(4);
        if (kind == 1) turn(1, 1) = -1.0;
        if (kind == 2) turn = scenes::tilt<D>(random.between(0.0, 6.28));
        up = turn * Vec<D>::unit(1);
    }
};

}  // namespace

template <int D>
Case<D> random_case(Random& random) {
    const Turned<D> turned(random);
    Case<D> made;
    LevelBuilder<D> builder({"masonry", "foliage", "grating"}, turned.up);
    const auto add = [&](const std::string& name, const std::string& layer, const RoundedHull<D>& shape) {
        builder.add(name, layer, shape.placed(turned.turn));
    };
    const auto block = [&](double x, double y, double width, double height) {
        Vec<D> size = Vec<D>::constant(D == 3 ? random.between(0.8, 1.6) : 1.0);
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
        Vec<D> size = Vec<D>::constant(0.6);
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
            Vec<D> size = Vec<D>::constant(0.6 + random.between(0.1, 0.6));
            size[1] = 0.1;
            probe.line().shape = RoundedHull<D>::box(0.3 * Vec<D>::unit(1), size);
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
            probe.line().along = Vec<D>::unit(0);
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
            probe.line().along = Vec<D>::unit(1);
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
        eyes.line().shape = RoundedHull<D>::ball(Vec<D>::zero(), random.between(0.05, 0.3));
    if (random.below(2) == 0) eyes.line().accept_least_degrees = 45.0;
    Probe<D> fingers = eyes;
    fingers.name = "fingers";
    fingers.follows = "eyes";
    fingers.line() = LineProbe<D>{.from = at<D>(random.between(0.05, 0.6), random.between(0.8, 2.0)),
                                  .reach = random.between(0.3, 2.0)};
    if (random.below(2) == 0)
        fingers.line().shape = RoundedHull<D>::ball(Vec<D>::zero(), random.between(0.05, 0.3));
    if (random.below(2) == 0) fingers.line().accept_most_degrees = 45.0;
    if (random.below(4) == 0) {
        const Vec<D> size = Vec<D>::constant(random.between(0.1, 0.5));
        fingers.of_kind = ZoneProbe<D>{RoundedHull<D>::box(Vec<D>::zero(), size), fingers.line().from};
    }
    rig.probes = {eyes, fingers};
    rig.signals[0].members = {};
    rig.signals[0].members.any = {"fingers"};
    const std::array claims = {Claim::ledge, Claim::step, Claim::wall};
    rig.signals[0].claims = claims[static_cast<std::size_t>(random.below(3))];
}

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
            const Vec<D> size = Vec<D>::constant(random.between(0.2, 0.6));
            probe.of_kind = ZoneProbe<D>{RoundedHull<D>::box(Vec<D>::zero(), size),
                                         at<D>(random.between(0.0, 0.4), random.between(0.0, 0.8))};
            break;
        }
        case 2: {
            ShiftProbe<D> shift;
            if (random.below(2) == 0) shift.along = -Vec<D>::unit(1);
            shift.reach = random.between(0.02, 0.3);
            probe.of_kind = shift;
            break;
        }
        default: {
            LineProbe<D>& line = probe.line();
            line.from = at<D>(0.0, 0.4);
            line.along = random.below(2) == 0 ? at<D>(0.6, -0.8) : at<D>(1.0, 0.0);
            line.reach = random.between(0.3, 1.5);
            if (random.below(2) == 0) line.shape = RoundedHull<D>::ball(Vec<D>::zero(), 0.15);
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

namespace {

/// A level of solids of all kinds, some of them one-way, or met by probes or by bodies alone.
template <int D>
class AnyLevel {
  public:
    explicit AnyLevel(Random& random, bool changes = false)
        : random_(random),
          changes_(changes),
          turned_(random),
          builder_({"masonry", "foliage", "grating"}, turned_.up) {}

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
        Vec<D> size = Vec<D>::constant(D == 3 ? random_.between(0.8, 1.6) : 1.0);
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
        if (changes_ && kind > 2) let_change(kind);
    }
    void let_change(int kind) {
        if (kind == 3) {
            SensedWhen when;
            if (random_.below(2) == 0) when.stances = {"upright"};
            (random_.below(2) == 0 ? when.slowest : when.fastest) = random_.between(0.0, 4.0);
            builder_.sensed_when(when);
        }
        if (kind == 4) builder_.one_way(random_.direction<D>());
        if (kind == 5 && random_.below(2) == 0)
            builder_.path({{Vec<D>::zero(), random_.point<D>(1.0)}, random_.between(0.3, 1.0), 0.2});
    }

    Random& random_;
    bool changes_;  // solids move, and are sensed at times
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
        Vec<D> size = Vec<D>::constant(0.6);
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

}  // namespace

template <int D>
Level<D> changing_level(Random& random) {
    return AnyLevel<D>(random, true).build();
}

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

template Case<2> random_case<2>(Random&);
template Case<3> random_case<3>(Random&);
template void let_follow<2>(Random&, Case<2>&);
template void let_follow<3>(Random&, Case<3>&);
template void let_refuse<2>(Random&, Case<2>&);
template void let_refuse<3>(Random&, Case<3>&);
template void let_feel<2>(Random&, Case<2>&);
template void let_feel<3>(Random&, Case<3>&);
template Level<2> changing_level<2>(Random&);
template Level<3> changing_level<3>(Random&);
template Case<2> any_case<2>(Random&);
template Case<3> any_case<3>(Random&);

}  // namespace scenes
