#include "any_case.hpp"

#include <array>

namespace scenes {

namespace {

/// Fills a rig with probes and signals of all kinds.
template <int D>
class AnyRig {
  public:
    AnyRig(Random& random, Rig<D>& rig) : random_(random), rig_(rig) {}

    void fill() {
        rig_.probes.clear();
        rig_.signals.clear();
        if (one_in(3)) rig_.body.stances.push_back(crouched());
        for (int left = 2 + random_.below(3); left > 0; --left) add_probe();
        for (int left = 1 + random_.below(3); left > 0; --left) add_signal();
        if (one_in(6)) rig_.reads = Reads::before_move;
    }

  private:
    bool one_in(int count) { return random_.below(count) == 0; }
    template <class Thing, std::size_t count>
    Thing one_of(const std::array<Thing, count>& things) {
        return things[static_cast<std::size_t>(random_.below(static_cast<int>(count)))];
    }
    std::array<double, 2> range(double low, double high) {
        const double first = random_.between(low, high);
        return {first, random_.between(first, high)};
    }

    Stance<D> crouched() {
        if (one_in(2)) return Stance<D>::ball("crouched", 0.3);
        Vec<D> size = Vec<D>::constant(0.8);
        size[1] = 0.5;
        return Stance<D>::box("crouched", size);
    }

    Vec<D> start() {
        Vec<D> from = at<D>(one_in(2) ? 0.0 : random_.between(-0.4, 0.4), random_.between(0.0, 1.2));
        if (D == 3 && one_in(2)) from[D - 1] = random_.between(-0.4, 0.4);
        return from;
    }
    Vec<D> way() {
        const int kind = random_.below(6);
        if (kind == 0) return Vec<D>::unit(1);
        if (kind == 1) return Vec<D>::unit(0);
        if (kind == 2) return random_.direction<D>();
        return -Vec<D>::unit(1);
    }
    RoundedHull<D> shape() {
        const double size = random_.between(0.05, 0.4);
        const Vec<D> center = Vec<D>::zero();
        if (one_in(3)) return RoundedHull<D>::ball(center, size);
        if (one_in(2)) return RoundedHull<D>::box(center, random_size());
        return RoundedHull<D>::capsule(center, size * random_.direction<D>(), 0.5 * size);
    }
    Vec<D> random_size() {
        Vec<D> size;
        for (int axis = 0; axis < D; ++axis) size[axis] = random_.between(0.05, 0.6);
        return size;
    }

    void add_probe() {
        Probe<D> probe;
        probe.name = "probe " + std::to_string(rig_.probes.size());
        probe.sees = {one_in(8) ? "foliage" : "masonry"};
        if (!one_in(3)) probe.sees.push_back("grating");
        const int kind = random_.below(8);
        if (kind < 5) fill_line(probe.line());
        if (kind == 5) probe.of_kind = zone();
        if (kind == 6) probe.of_kind = shift();
        if (kind == 7) probe.of_kind = contact();
        if (rig_.body.stances.size() > 1 && one_in(4)) probe.stances = {rig_.body.stances[1].name};
        if (one_in(8)) probe.reads = one_in(2) ? Reads::after_move : Reads::before_move;
        const bool follows = kind < 7 && !rig_.probes.empty() && one_in(5);
        if (follows && rig_.probes[0].is_line() && rig_.probes[0].line().spread.kind == SpreadKind::none)
            probe.follows = rig_.probes[0].name;
        rig_.probes.push_back(probe);
    }

    void fill_line(LineProbe<D>& line) {
        if (one_in(2)) line.shape = shape();
        line.from = start();
        line.along = way();
        if (one_in(6)) line.aim = one_in(2) ? Aim::drive : Aim::velocity;
        line.reach = random_.between(0.1, 1.5);
        if (one_in(8)) line.reach_grounded = random_.between(0.1, 1.5);
        if (one_in(8)) line.reach_per_speed = random_.between(0.01, 0.1);
        if (one_in(2)) {
            const auto angles = range(0.0, 180.0);
            line.accept_least_degrees = one_in(2) ? 0.0 : angles[0];
            line.accept_most_degrees = angles[1];
        }
        if (one_in(6)) line.accept_most_incidence_degrees = random_.between(20.0, 90.0);
        if (one_in(2)) line.take = Take::all;
        if (one_in(3)) line.if_inside = one_in(2) ? IfInside::ignore : IfInside::against;
        if (one_in(5)) line.one_way = one_in(2) ? OneWay::always : OneWay::never;
        if (one_in(6)) line.faces = Faces::front;
        if (one_in(5)) line.spread = spread();
    }
    Spread spread() {
        Spread made;
        made.count = 2 + random_.below(4);
        made.kind = one_in(2) ? SpreadKind::row : SpreadKind::fan;
        made.width = random_.between(0.2, 0.8);
        made.degrees = random_.between(20.0, 120.0);
        made.radius = random_.between(0.1, 0.4);
        made.counts = {2, 2};
        made.size = {random_.between(0.1, 0.5), random_.between(0.1, 0.5)};
        if (D == 3 && one_in(2)) made.kind = one_in(2) ? SpreadKind::ring : SpreadKind::grid;
        if (one_in(2)) made.least = 2;
        return made;
    }

    ZoneProbe<D> zone() {
        ZoneProbe<D> made{shape()};
        made.from = start();
        if (one_in(5)) made.one_way = one_in(2) ? OneWay::always : OneWay::never;
        if (one_in(3)) made.keeps = one_in(2) ? Keeps::last_event : Keeps::until_used;
        return made;
    }
    ShiftProbe<D> shift() {
        ShiftProbe<D> made;
        made.along = way();
        if (one_in(4)) made.aim = one_in(2) ? Aim::drive : Aim::velocity;
        made.reach = random_.between(0.0, 0.5);
        if (one_in(6)) made.reach_per_speed = random_.between(0.01, 0.05);
        made.axes = one_of(std::array{ShiftAxes::both, ShiftAxes::across_up, ShiftAxes::along_up});
        if (one_in(2)) made.inset = random_.between(0.0, 0.1);
        return made;
    }
    ContactProbe contact() {
        ContactProbe made;
        made.side = one_of(std::array{Side::below, Side::above, Side::beside});
        made.match = one_in(3) ? Match::only : Match::includes;
        made.within_degrees = random_.between(20.0, 70.0);
        return made;
    }

    Member member() {
        Member made =
            rig_.probes[static_cast<std::size_t>(random_.below(static_cast<int>(rig_.probes.size())))].name;
        if (!rig_.signals.empty() && one_in(4)) return rig_.signals[0].name;
        if (one_in(4)) made.angle_degrees = range(0.0, 180.0);
        if (one_in(6)) made.distance = range(0.0, 1.0);
        if (one_in(6)) made.layers = {"grating"};
        return made;
    }
    Group group(bool nested) {
        Group made;
        for (int left = 1 + random_.below(2); left > 0; --left) made.any.push_back(member());
        if (one_in(3)) made.all.push_back(member());
        if (one_in(3)) made.none.push_back(member());
        if (one_in(5)) made.at_least = AtLeast{2, {member(), member(), member()}};
        if (!nested && one_in(4)) {
            Member inner;
            inner.group = {group(true)};
            (one_in(2) ? made.all : made.any).push_back(inner);
        }
        return made;
    }
    void add_signal() {
        Signal signal;
        signal.name = "signal " + std::to_string(rig_.signals.size());
        signal.claims = one_of(all_claims);
        signal.members = group(false);
        if (rig_.body.stances.size() > 1 && one_in(2)) signal.stance = rig_.body.stances[1].name;
        if (signal.claims == Claim::headroom) signal.stance = rig_.body.stances.back().name;
        if (one_in(6)) signal.settle = random_.between(0.01, 0.1);
        if (one_in(6)) signal.grace = random_.between(0.01, 0.1);
        if (one_in(8)) signal.mute_after = {"jump", random_.between(0.05, 0.2)};
        if (one_in(4)) signal.of = {one_in(2) ? "masonry" : "grating"};
        if (one_in(5)) signal.toward = one_in(2) ? Toward::drive : Toward::velocity;
        rig_.signals.push_back(signal);
    }

    Random& random_;
    Rig<D>& rig_;
};

}  // namespace

template <int D>
Case<D> case_of_all_options(Random& random) {
    Case<D> made = any_case<D>(random);
    made.fault = "of all options";
    made.level.emplace(changing_level<D>(random));
    AnyRig<D>(random, made.rig).fill();
    return made;
}

template Case<2> case_of_all_options<2>(Random&);
template Case<3> case_of_all_options<3>(Random&);

}  // namespace scenes
