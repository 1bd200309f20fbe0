#include "verify/feelers.hpp"

#include <algorithm>
#include <numbers>

#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {
namespace {

/// The convex hull of two placements of a shape in 2D; in 3D exact for points and for what moves along its
/// own axis, a box along the facing's axes around others.
template <int D>
RoundedHull<D> swept(const RoundedHull<D>& shape, const Vec<D>& way, const Mat<D>& frame) {
    if (way.is_zero(1e-12)) return shape;
    std::vector<Vec<D>> points = shape.points();
    for (const Vec<D>& p : shape.points()) points.push_back(p + way);
    if (shape.points().size() == 1) {
        auto capsule = RoundedHull<D>::capsule(points[0], points[1], 1.0);
        return capsule.with_radius(shape.radius());
    }
    if constexpr (D == 2) {
        std::vector<Vec<2>> corners;
        std::sort(points.begin(), points.end(), [](const Vec<2>& a, const Vec<2>& b) {
            return a.x() != b.x() ? a.x() < b.x() : a.y() < b.y();
        });
        const auto turn = [](const Vec<2>& a, const Vec<2>& b, const Vec<2>& c) {
            return (b - a).x() * (c - a).y() - (b - a).y() * (c - a).x();
        };
        for (int side = 0; side < 2; ++side) {
            const std::size_t begin = corners.size();
            for (const Vec<2>& p : points) {
                while (corners.size() >= begin + 2 &&
                       turn(corners[corners.size() - 2], corners.back(), p) <= tolerance::direction)
                    corners.pop_back();
                corners.push_back(p);
            }
            corners.pop_back();
            std::reverse(points.begin(), points.end());
        }
        if (corners.size() == 2)
            return RoundedHull<2>::capsule(corners[0], corners[1], 1.0).with_radius(shape.radius());
        return RoundedHull<2>::hull(corners, shape.radius());
    } else {
        Bounds<D> box;
        for (const Vec<D>& p : points) box.grow(frame.transposed() * p);
        box = box.inflated(shape.radius());
        const Vec<D> size = box.size().max(Vec<D>::constant(1e-9));
        return RoundedHull<D>::box(Vec<D>::zero(), size).placed(frame, frame * box.center());
    }
}

/// The angles from up of normals at which a round body touches as high above its feet as one of the rises.
template <int D>
std::vector<double> angles_of_rises(const RoundedHull<D>& body, const Vec<D>& up,
                                    const std::vector<double>& rises) {
    std::vector<double> angles;
    if (body.radius() <= 0.0) return angles;
    for (const Vec<D>& p : body.points()) {
        for (const double rise : rises) {
            const double cosine = (up.dot(p) - rise) / body.radius();
            if (std::abs(cosine) < 1.0) angles.push_back(std::acos(cosine));
        }
    }
    std::sort(angles.begin(), angles.end());
    angles.erase(std::unique(angles.begin(), angles.end(),
                             [](double a, double b) { return b - a < tolerance::angle; }),
                 angles.end());
    return angles;
}

/// Angles from up, and those that normals at the ends of the accepted incidence have in the plane of up and
/// the line. In space others have that incidence, too: they are looked for on the way, not at its start.
template <int D>
std::vector<double> with_incidence(std::vector<double> angles, const AngleRange& accept, const Vec<D>& along,
                                   const Vec<D>& up) {
    if (accept.any_incidence()) return angles;
    const double back = angle_between<D>(-along, up);
    for (const double incidence : {accept.least_incidence, accept.most_incidence}) {
        const double over = back + incidence;
        angles.push_back(std::abs(back - incidence));
        angles.push_back(std::min(over, 2.0 * std::numbers::pi - over));
    }
    return angles;
}

/// Angles from up, and those that the conditions on a probe's readings set.
template <int D>
std::vector<double> with_conditions(std::vector<double> angles, const MountedRig<D>& mounted,
                                    std::size_t probe) {
    for (const MountedCondition& condition : mounted.conditions) {
        if (condition.probe == probe)
            angles.insert(angles.end(), {condition.angle.least, condition.angle.most});
    }
    return angles;
}

/// Distances short of its reach by which conditions tell a probe's hits apart.
template <int D>
std::vector<double> distances_told_apart(const MountedRig<D>& mounted, std::size_t number) {
    std::vector<double> distances;
    for (const MountedCondition& condition : mounted.conditions) {
        if (condition.probe != number) continue;
        for (const double distance : {condition.least_distance, condition.most_distance}) {
            if (distance > 0.0 && distance < mounted.probes[number].reach) distances.push_back(distance);
        }
    }
    return distances;
}

/// How far a claim about what is ahead looks.
double way_of(Claim claim, const Intent& intent, double speed) {
    switch (claim) {
        case Claim::wall:
            return intent.ahead_wall;
        case Claim::step:
            return intent.ahead_step;
        case Claim::ledge:
            return intent.ahead_ledge;
        case Claim::drop:
            return intent.ahead_drop;
        default:
            return intent.planned_move(speed);
    }
}

/// What the top of what is ahead is held against.
std::vector<double> rises_of(Claim claim, const Intent& intent) {
    switch (claim) {
        case Claim::wall:
        case Claim::step:
            return {intent.touch, intent.lowest_step, intent.tallest_step};
        case Claim::ledge:
            // A wall that can be stepped on is none.
            return {intent.touch, intent.lowest_step, intent.tallest_step, intent.ledge_between[0],
                    intent.ledge_between[1]};
        case Claim::blocked:
            return {intent.touch};
        default:
            return {};
    }
}

}  // namespace

template <int D>
Feelers<D>::Feelers(const Planned<D>& s, std::size_t facing)
    : frame_(body_frame<D>(s.facings[facing].heading, s.level.up())), touch_(s.rig.intent.touch) {
    const MountedRig<D>& mounted = s.mounted[facing];
    footing_ = radians(s.rig.intent.steepest_footing_degrees);
    ceiling_ = std::numbers::pi - radians(s.rig.intent.ceiling_within_degrees);
    feel_body(s, facing);
    for (std::size_t i = 0; i < s.rig.signals.size(); ++i) {
        if (s.rig.signals[i].claims) feel_claim(s, facing, i);
    }
    for (std::size_t i = 0; i < mounted.probes.size(); ++i) {
        probe_ = static_cast<int>(i);
        feel_probe(s.level_of(facing), mounted, i);
    }
    grow_reach(mounted);
    if (!rises.empty()) rises.push_back(0.0);
    std::sort(rises.begin(), rises.end());
    rises.erase(std::unique(rises.begin(), rises.end()), rises.end());
}

template <int D>
Feelers<D> Feelers<D>::of_truths() const {
    Feelers result = *this;
    const auto is_of_probe = [](const auto& feeler) { return feeler.probe >= 0; };
    std::erase_if(result.feelers, is_of_probe);
    std::erase_if(result.turning, is_of_probe);
    result.layers = 0;
    result.reach = {};
    for (const Feeler<D>& feeler : result.feelers) result.layers |= feeler.layers;
    result.grow_reach();
    return result;
}

template <int D>
Feelers<D> Feelers<D>::of_body() const {
    Feelers result = *this;
    std::erase_if(result.feelers, [](const Feeler<D>& feeler) { return !feeler.is_body; });
    result.turning.clear();
    result.rises.clear();
    result.layers = result.feelers.front().layers;
    result.reach = {};
    result.grow_reach();
    return result;
}

template <int D>
Feelers<D> Feelers<D>::of_probes() const {
    Feelers result = *this;
    const auto is_of_truths = [](const auto& feeler) { return feeler.probe < 0; };
    std::erase_if(result.feelers, is_of_truths);
    std::erase_if(result.turning, is_of_truths);
    result.rises.clear();
    result.layers = 0;
    for (const Feeler<D>& feeler : result.feelers) result.layers |= feeler.layers;
    return result;
}

template <int D>
Feeler<D>& Feelers<D>::add(const RoundedHull<D>& shape, LayerSet of) {
    feelers.push_back({.shape = shape,
                       .layers = of,
                       .bounds = bounds_of(shape.view()),
                       .is_body = feelers.empty(),
                       .probe = probe_,
                       .upright = upright_of<D>(shape.view(), frame_.column(1))});
    Feeler<D>& added = feelers.back();
    if (added.upright) added.ball = ball_of(*added.upright);
    layers |= of;
    return added;
}

template <int D>
std::size_t Feelers<D>::ball_of(const Upright<D>& upright) {
    const auto same = std::find_if(balls.begin(), balls.end(), [&](const FeelerBall<D>& ball) {
        const double hair = tolerance::direction * (1.0 + ball.foot.norm() + ball.radius);
        return (ball.foot - upright.foot).norm() <= hair && std::abs(ball.radius - upright.radius) <= hair;
    });
    if (same != balls.end()) return static_cast<std::size_t>(same - balls.begin());
    balls.push_back({upright.foot, upright.radius});
    return balls.size() - 1;
}

template <int D>
void Feelers<D>::add_turning(const RoundedHull<D>& shape, LayerSet of, const Vec<D>& way, double far,
                             std::vector<double> angles, std::vector<double> incidences) {
    for (std::vector<double>* all : {&angles, &incidences})
        std::erase_if(*all, [](double angle) { return angle <= 0.0 || angle >= std::numbers::pi; });
    if (angles.empty() && incidences.empty()) return;
    Bounds<D> bounds = bounds_of(shape.view()).inflated(touch_);
    bounds.grow(bounds.moved(far * way));
    turning.push_back(
        {{shape, of, way, far, touch_, std::move(angles), std::move(incidences)}, bounds, probe_});
}

template <int D>
void Feelers<D>::feel_body(const Planned<D>& s, std::size_t facing) {
    const MountedRig<D>& mounted = s.mounted[facing];
    const std::vector<double> angles = {footing_, ceiling_};
    Feeler<D>& body = add(mounted.body, mounted.meets);
    // Below and above the body a touch counts to within touch, or what forgiveness makes of it.
    body.beyond = {touch_, -touch_};
    if (s.rig.intent.forgive.hold > touch_) body.beyond.push_back(s.rig.intent.forgive.hold);
    body.tilts = angles;
    body.inside = Turning<D>(mounted.body, mounted.meets, s.level.up(), 0.0, 0.0, angles);
}

template <int D>
void Feelers<D>::feel_claim(const Planned<D>& s, std::size_t facing, std::size_t signal) {
    const MountedRig<D>& mounted = s.mounted[facing];
    const Intent& intent = s.rig.intent;
    const Claim claim = *s.rig.signals[signal].claims;
    const LayerSet meets = mounted.meets;
    if (claim == Claim::headroom || claim == Claim::ledge) {
        Feeler<D>& other = add(mounted.asked[signal], meets);
        other.beyond = {touch_, -touch_};
        other.deep = true;
    }
    if (!is_toward(claim)) return;
    const Situation<D> situation = s.situation(facing);
    const Vec<D>& up = s.level.up();
    const Vec<D> toward = direction_toward<D>(mounted.toward[signal], claim, situation, up);
    const double way = way_of(claim, intent, situation.velocity.norm());
    const auto swept_on = [&](const RoundedHull<D>& shape, double far) -> Feeler<D>& {
        return add(swept<D>(shape, far * toward, frame_), meets);
    };
    swept_on(mounted.body, way);
    const auto lifted = mounted.body.placed(Mat<D>::identity(), intent.tallest_step * up);
    if (claim == Claim::drop) {
        lips.push_back(way * toward);
        add(lifted, meets).deep = true;
        swept_on(lifted, way + 2.0 * s.half_width);
        return;
    }
    const std::vector<double> held_against = rises_of(claim, intent);
    rises.insert(rises.end(), held_against.begin(), held_against.end());
    add_turning(mounted.body, meets, toward, way, {footing_, ceiling_});
    // A round body rises as high above its feet as the surface there is steep.
    add_turning(mounted.body, meets, toward, way, angles_of_rises<D>(mounted.body, up, held_against));
    if (claim == Claim::blocked) return;
    // Lifted over a step, and past it.
    const double on = way + (intent.tread > 0.0 ? intent.tread : s.half_width);
    swept_on(mounted.body, on);
    add(lifted, meets).deep = true;
    swept_on(lifted, on).beyond = {-touch_};
    add_turning(lifted, meets, toward, on, {footing_});
}

template <int D>
void Feelers<D>::feel_probe(const Level<D>& level, const MountedRig<D>& mounted, std::size_t number) {
    const MountedProbe<D>& probe = mounted.probes[number];
    if (!probe.mounted || !probe.aimed) return;
    // What follows another starts anywhere on that one's way.
    const auto started = [&](const Vec<D>& from) {
        RoundedHull<D> shape = probe.shape.placed(Mat<D>::identity(), from);
        for (const MountedProbe<D>* leader = &probe; !leader->followed.empty();) {
            leader = &leader->followed.front();
            shape = swept<D>(shape, leader->displacement(), frame_);
        }
        return shape;
    };
    if (probe.kind == ProbeKind::contact) {
        feel_contacts(level, mounted, number);
    } else if (probe.kind == ProbeKind::zone) {
        feel_inside(started(probe.lines.front().from), probe.sees, with_conditions<D>({}, mounted, number));
    } else if (probe.kind == ProbeKind::shift) {
        const LayerSet sees = probe.sees | mounted.meets;
        feel_inside(started(probe.displacement()), sees, with_conditions<D>({}, mounted, number));
        // A one-way solid that it is inside of at the start may not count: by how deep, and by the way out.
        const RoundedHull<D> start = started(Vec<D>::zero());
        Feeler<D>& at_start = add(start, sees);
        at_start.sinks = true;
        at_start.inside_one_way = true;
        if (const Vec<D> moved = probe.displacement(); !moved.is_zero())
            at_start.inside = Turning<D>(start, sees, moved.normalized(), 0.0, 0.0, {});
    } else {
        const auto angles = with_conditions<D>({probe.accept.least, probe.accept.most}, mounted, number);
        const auto distances = distances_told_apart<D>(mounted, number);
        for (std::size_t line = 0; line < probe.lines.size(); ++line) {
            const RoundedHull<D> start = started(probe.lines[line].from);
            const Vec<D>& along = probe.lines[line].along;
            feel_line(probe, line, start, angles);
            for (const double distance : distances) feel_way(start, probe.sees, distance * along);
        }
    }
}

/// What a shape overlaps, told apart by the way out of it, if by anything.
template <int D>
void Feelers<D>::feel_inside(const RoundedHull<D>& shape, LayerSet sees, const std::vector<double>& angles) {
    Feeler<D>& feeler = add(shape, sees);
    if (angles.empty()) return;
    feeler.tilts = angles;
    feeler.inside = Turning<D>(shape, sees, frame_.column(1), 0.0, 0.0, angles);
}

/// What the body touches is within touch below, above or ahead of it, and of a side by its normal. The body
/// touches what no other probe senses, too.
template <int D>
void Feelers<D>::feel_contacts(const Level<D>& level, const MountedRig<D>& mounted, std::size_t number) {
    const MountedProbe<D>& probe = mounted.probes[number];
    const LayerSet seen = level.mask_of(probe.probe().sees, Role::reference) & mounted.meets;
    const auto angles =
        with_conditions<D>({probe.side_within, std::numbers::pi - probe.side_within}, mounted, number);
    const Vec<D> up = frame_.column(1);
    Feeler<D>& body = add(mounted.body, seen);
    body.beyond = {touch_, -touch_};
    body.sinks = true;
    body.tilts = angles;
    body.inside = Turning<D>(mounted.body, seen, up, 0.0, 0.0, angles);
    if (probe.side != Side::beside && probe.match != Match::only) return;
    const Vec<D> ahead = frame_.column(0);
    add(mounted.body, seen).inside = Turning<D>(mounted.body, seen, ahead, 0.0, 0.0, angles);
    add(swept<D>(mounted.body, touch_ * ahead, frame_), seen);
    add_turning(mounted.body, seen, ahead, touch_, angles);
}

/// A hit changes its kind where the shape starts inside of what it meets, and ends at its reach.
template <int D>
void Feelers<D>::feel_line(const MountedProbe<D>& probe, std::size_t line, const RoundedHull<D>& start,
                           const std::vector<double>& angles) {
    const Vec<D>& along = probe.lines[line].along;
    feel_way(start, probe.sees, probe.reach * along);
    add_turning(start, probe.sees, along, probe.reach, angles,
                {probe.accept.least_incidence, probe.accept.most_incidence});
    Feeler<D>& at_start = add(start, probe.sees);
    at_start.tilts = with_incidence<D>(angles, probe.accept, along, frame_.column(1));
    at_start.sinks = probe.one_way == OneWay::as_body;
    if (probe.if_inside != IfInside::ignore)
        at_start.inside = Turning<D>(start, probe.sees, along, 0.0, 0.0, at_start.tilts);
}

/// What is met on a way, and at its end.
template <int D>
void Feelers<D>::feel_way(const RoundedHull<D>& start, LayerSet sees, const Vec<D>& way) {
    add(swept<D>(start, way, frame_), sees);
    add(start.placed(Mat<D>::identity(), way), sees);
}

template <int D>
void Feelers<D>::grow_reach(const MountedRig<D>& mounted) {
    for (const MountedProbe<D>& probe : mounted.probes) {
        if (!probe.mounted || !probe.aimed || probe.kind == ProbeKind::contact) continue;
        const Bounds<D> box = probe.bounds();
        for (int corner = 0; corner < 1 << D; ++corner) {
            Vec<D> point;
            for (int axis = 0; axis < D; ++axis)
                point[axis] = corner >> axis & 1 ? box.high[axis] : box.low[axis];
            reach.grow(frame_.transposed() * point);
        }
    }
    grow_reach();
}

template <int D>
void Feelers<D>::grow_reach() {
    for (const Feeler<D>& feeler : feelers) {
        for (const Vec<D>& p : feeler.shape.points()) {
            reach.grow(frame_.transposed() * p + Vec<D>::constant(feeler.shape.radius()));
            reach.grow(frame_.transposed() * p - Vec<D>::constant(feeler.shape.radius()));
        }
    }
    // A drop is one as far as its lip is, wherever the body would then be.
    reach = reach.inflated(touch_);
}

template struct Feelers<2>;
template struct Feelers<3>;

}  // namespace hollow_probe
