#include "verify/column_heights.hpp"

#include <algorithm>
#include <numbers>

#include "hollow_probe/geometry/separation.hpp"

namespace hollow_probe {
namespace {

/// The convex hull of two placements of a shape in 2D; in 3D exact for points and for what moves along its
/// own axis, a box along the facing's axes around others.
template <int D>
RoundedHull<D> swept(const RoundedHull<D>& shape, const Vec<D>& way, const Mat<D>& frame) {
    if (way.isZero(1e-12)) return shape;
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
                       turn(corners[corners.size() - 2], corners.back(), p) <= 1e-12)
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
        for (const Vec<D>& p : points) box.grow(Vec<D>(frame.transpose() * p));
        box = box.inflated(shape.radius());
        const Vec<D> size = box.size().cwiseMax(1e-9);
        return RoundedHull<D>::box(Vec<D>(Vec<D>::Zero()), size).placed(frame, Vec<D>(frame * box.center()));
    }
}

/// From where to where a shape, moved along up, touches a piece; nothing if it passes beside it.
template <int D>
std::optional<HeightSpan> touching_heights(const HullView<D>& shape, const Vec<D>& foot, const Vec<D>& up,
                                           const HullView<D>& piece) {
    constexpr int most_rounds = 60;
    const auto [low, high] = extent_along(shape, up);
    const auto [below, above] = extent_along(piece, up);
    const double radii = shape.radius + piece.radius;
    const double at = up.dot(foot);
    const double slack = 1e-10 * (high - low + above - below + 2.0 * radii + 1e-3);
    // The gap along a line is convex: from outside, Newton's method never steps past its root.
    const auto first_touch = [&](double start, double way) -> std::optional<double> {
        double height = start;
        for (int round = 0; round < most_rounds; ++round) {
            const Separation<D> now = separation<D>(shape, Vec<D>(foot + height * up), piece);
            if (now.gap <= slack) return height;
            const double speed = -way * now.normal.dot(up);
            if (speed <= 1e-9) return std::nullopt;
            height += way * now.gap / speed;
        }
        return height;
    };
    const double top = above - low - at + radii;
    const double bottom = below - high - at - radii;
    const auto from_above = first_touch(top + 1e-6 * (top - bottom), -1.0);
    if (!from_above) return std::nullopt;
    const auto from_below = first_touch(bottom - 1e-6 * (top - bottom), 1.0);
    if (!from_below || *from_below > *from_above) return HeightSpan{*from_above, *from_above};
    return HeightSpan{*from_below, *from_above};
}

/// The heights within `touching` at which a shape overlaps a piece deeper than `touch`; the ends lie outside
/// of it, within touch / 2048.
template <int D>
std::optional<HeightSpan> deep_heights(const HullView<D>& shape, const Vec<D>& foot, const Vec<D>& up,
                                       const HullView<D>& piece, const HeightSpan& touching, double touch) {
    constexpr int most_rounds = 40;
    // The overlap along the column is concave: from outside, Newton's method never steps past the depth.
    const auto last_shallow = [&](double height, double way) -> std::optional<double> {
        for (int round = 0; round < most_rounds; ++round) {
            const Separation<D> now = separation<D>(shape, Vec<D>(foot + height * up), piece);
            const double missing = touch + now.gap;
            if (missing <= touch / 2048.0) return height;
            const double speed = -way * now.normal.dot(up);
            if (speed <= 1e-9) return std::nullopt;  // it overlaps no deeper anywhere
            height += way * missing / speed;
            if (height < touching.low || height > touching.high) return std::nullopt;
        }
        return height;
    };
    const auto low = last_shallow(touching.low, 1.0);
    if (!low) return std::nullopt;
    const auto high = last_shallow(touching.high, -1.0);
    if (!high || *low >= *high) return std::nullopt;
    return HeightSpan{*low, *high};
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
    angles.erase(std::unique(angles.begin(), angles.end(), [](double a, double b) { return b - a < 1e-9; }),
                 angles.end());
    return angles;
}

void join(std::vector<HeightSpan>& spans) {
    std::sort(spans.begin(), spans.end(),
              [](const HeightSpan& a, const HeightSpan& b) { return a.low < b.low; });
    std::size_t kept = 0;
    for (const HeightSpan& span : spans) {
        if (kept > 0 && span.low <= spans[kept - 1].high) {
            spans[kept - 1].high = std::max(spans[kept - 1].high, span.high);
        } else {
            spans[kept++] = span;
        }
    }
    spans.resize(kept);
}

}  // namespace

template <int D>
Feelers<D>::Feelers(const Surveyed<D>& s, std::size_t facing) {
    const MountedRig<D>& mounted = s.mounted[facing];
    const Intent& intent = s.rig.intent;
    const Situation<D> situation = s.situation(facing);
    const Vec<D>& up = s.level.up();
    const Mat<D> frame = body_frame<D>(situation.heading, up);
    bool probes = false;
    const auto add = [&](const RoundedHull<D>& shape, LayerSet of, std::vector<double> beyond = {}) {
        feelers.push_back({shape, of, std::move(beyond), probes, false, {}, {}});
        layers |= of;
    };
    const auto turns = [&](const RoundedHull<D>& shape, LayerSet of, const Vec<D>& way, double far,
                           std::vector<double> angles) {
        std::erase_if(angles, [](double angle) { return angle <= 0.0 || angle >= std::numbers::pi; });
        if (!angles.empty()) turning.push_back({shape, of, way, far, intent.touch, std::move(angles)});
    };
    const double footing = radians(intent.steepest_footing_degrees);
    const double ceiling = std::numbers::pi - radians(intent.ceiling_within_degrees);
    // Below and above the body a touch counts to within touch, or what forgiveness makes of it.
    add(mounted.body, mounted.meets, {intent.touch, -intent.touch});
    if (intent.forgive.hold > intent.touch) feelers.front().beyond.push_back(intent.forgive.hold);
    feelers.front().tilts = {footing, ceiling};
    feelers.front().inside = Turning<D>{mounted.body, mounted.meets, up, 0.0, 0.0, {footing, ceiling}};
    for (std::size_t i = 0; i < s.rig.signals.size(); ++i) {
        const auto& claims = s.rig.signals[i].claims;
        if (!claims) continue;
        if (*claims == Claim::headroom || *claims == Claim::ledge)
            add(mounted.asked[i], mounted.meets, {intent.touch, -intent.touch});
        if (!is_toward(*claims)) continue;
        const Vec<D> toward = direction_toward<D>(mounted.toward[i], *claims, situation, up);
        double way = 0.0;
        switch (*claims) {
            case Claim::wall:
                way = intent.ahead_wall;
                rises.insert(rises.end(), {intent.touch, intent.lowest_step, intent.tallest_step});
                break;
            case Claim::step:
                way = intent.ahead_step;
                rises.insert(rises.end(), {intent.touch, intent.lowest_step, intent.tallest_step});
                break;
            case Claim::ledge:
                way = intent.ahead_ledge;
                rises.insert(rises.end(), intent.ledge_between.begin(), intent.ledge_between.end());
                break;
            case Claim::drop:
                way = intent.ahead_drop;
                break;
            default:
                way = intent.planned_move(situation.velocity.norm());
        }
        add(swept<D>(mounted.body, Vec<D>(way * toward), frame), mounted.meets);
        const auto lifted = mounted.body.placed(Mat<D>::Identity(), Vec<D>(intent.tallest_step * up));
        if (*claims == Claim::drop) {
            lips.push_back(way * toward);
            add(lifted, mounted.meets);
            feelers.back().deep = true;
            add(swept<D>(lifted, Vec<D>((way + 2.0 * s.half_width) * toward), frame), mounted.meets);
            continue;
        }
        turns(mounted.body, mounted.meets, toward, way, {footing, ceiling});
        // A round body rises as high above its feet as the surface there is steep.
        turns(mounted.body, mounted.meets, toward, way, angles_of_rises<D>(mounted.body, up, rises));
        if (*claims == Claim::blocked) continue;
        // Lifted over a step, and past it.
        const double on = way + (intent.tread > 0.0 ? intent.tread : s.half_width);
        add(swept<D>(mounted.body, Vec<D>(on * toward), frame), mounted.meets);
        add(lifted, mounted.meets);
        feelers.back().deep = true;
        add(swept<D>(lifted, Vec<D>(on * toward), frame), mounted.meets, {-intent.touch});
        turns(lifted, mounted.meets, toward, on, {footing});
    }
    probes = true;
    constexpr std::size_t most_told = 12;
    for (std::size_t number = 0; number < mounted.probes.size(); ++number) {
        const MountedProbe<D>& probe = mounted.probes[number];
        if (!probe.mounted || !probe.aimed || probe.kind == ProbeKind::contact) continue;
        const LayerSet sees = probe.sees | (probe.kind == ProbeKind::shift ? mounted.meets : 0);
        if (probe.kind == ProbeKind::zone) {
            add(probe.shape.placed(Mat<D>::Identity(), probe.lines.front().from), sees);
        } else if (probe.kind == ProbeKind::shift) {
            add(probe.shape.placed(Mat<D>::Identity(), probe.displacement()), sees);
            add(probe.shape, sees);  // what it is inside of at the start may not count
        } else {
            // A hit changes its kind where the shape starts inside of what it meets, and ends at its reach.
            const std::size_t step = (probe.lines.size() + most_told - 1) / most_told;
            std::vector<double> angles = {probe.accept.least, probe.accept.most};
            for (const MountedCondition& condition : mounted.conditions) {
                if (condition.probe == number)
                    angles.insert(angles.end(), {condition.angle.least, condition.angle.most});
            }
            for (std::size_t line = 0; line < probe.lines.size(); line += step) {
                const auto start = probe.shape.placed(Mat<D>::Identity(), probe.lines[line].from);
                const Vec<D> way = probe.reach * probe.lines[line].along;
                add(swept<D>(start, way, frame), sees);
                turns(start, sees, probe.lines[line].along, probe.reach, angles);
                add(start, sees);
                feelers.back().tilts = angles;
                if (probe.if_inside != IfInside::ignore)
                    feelers.back().inside =
                        Turning<D>{start, sees, probe.lines[line].along, 0.0, 0.0, angles};
                add(start.placed(Mat<D>::Identity(), way), sees);
            }
        }
        const Bounds<D> box = probe.bounds();
        for (int corner = 0; corner < 1 << D; ++corner) {
            Vec<D> point;
            for (int axis = 0; axis < D; ++axis)
                point[axis] = corner >> axis & 1 ? box.high[axis] : box.low[axis];
            reach.grow(Vec<D>(frame.transpose() * point));
        }
    }
    for (const Feeler<D>& feeler : feelers) {
        for (const Vec<D>& p : feeler.shape.points()) {
            reach.grow(Vec<D>(frame.transpose() * p + Vec<D>::Constant(feeler.shape.radius())));
            reach.grow(Vec<D>(frame.transpose() * p - Vec<D>::Constant(feeler.shape.radius())));
        }
    }
    // A drop is one as far as its lip is, wherever the body would then be.
    reach = reach.inflated(intent.touch);
    if (!rises.empty()) rises.push_back(0.0);
    std::sort(rises.begin(), rises.end());
    rises.erase(std::unique(rises.begin(), rises.end()), rises.end());
}

template <int D>
ColumnHeights heights_of_column(const Surveyed<D>& s, std::size_t facing, const Feelers<D>& feelers,
                                const Vec<D>& foot, const HeightSpan& within) {
    const Level<D>& level = s.level_of(facing);
    const Vec<D>& up = level.up();
    const double touch = s.rig.intent.touch;
    const double fine = touch / 512.0;
    const Mat<D> frame = body_frame<D>(s.facings[facing].heading, up);
    ColumnHeights heights;
    // The pieces that something can reach from the column.
    Sweep<D> sweep;
    const Vec<D> middle = feelers.reach.center();
    sweep.center = foot + frame * middle + (within.high - middle[1] + feelers.reach.high[1]) * up;
    for (int axis = 0; axis < D; ++axis)
        sweep.axes[static_cast<std::size_t>(axis)] = 0.5 * feelers.reach.size()[axis] * frame.col(axis);
    sweep.direction = -up;
    sweep.reach = within.high - within.low + 2.0 * feelers.reach.size()[1];
    sweep.layers = feelers.layers;
    std::vector<std::uint32_t> pieces;
    level.tree().along(sweep, [&](std::uint32_t piece, double limit) {
        pieces.push_back(piece);
        return limit;
    });
    std::sort(pieces.begin(), pieces.end());
    const auto add = [&](double height) {
        if (height > within.low && height < within.high) heights.candidates.push_back(height);
    };
    const double at = up.dot(foot);
    // What lies that far below or above a touch may still count: a step's height, a drop's depth.
    for (const std::uint32_t piece : pieces) {
        const HullView<D> hull = level.piece(piece);
        HeightSpan busy{infinity, -infinity};
        std::vector<double> turning;
        std::optional<HeightSpan> deep;  // of the body
        for (std::size_t i = 0; i < feelers.feelers.size(); ++i) {
            const Feeler<D>& feeler = feelers.feelers[i];
            if (!level.on_layers(piece, feeler.layers)) continue;
            const auto touching = touching_heights<D>(feeler.shape.view(), foot, up, hull);
            if (!touching) continue;
            add(touching->low);
            add(touching->high);
            double beyond = 0.0;
            for (const double by : feeler.beyond) {
                add(touching->high + by);
                add(touching->low - by);
                beyond = std::max(beyond, std::abs(by));
            }
            busy.low = std::min(busy.low, touching->low - beyond);
            busy.high = std::max(busy.high, touching->high + beyond);
            if (i == 0 && level.on_layers(piece, s.mounted[facing].meets)) {
                heights.rests.push_back(touching->high);
                deep = deep_heights<D>(feeler.shape.view(), foot, up, hull, *touching, touch);
                if (deep && !level.is_one_way(piece)) heights.clipped.push_back(*deep);
                if (deep && level.is_one_way(piece)) {
                    // Deeper than that it stops nobody.
                    add(deep->low);
                    add(deep->high);
                }
            }
            if (feeler.deep) {
                const auto too_deep = deep_heights<D>(feeler.shape.view(), foot, up, hull, *touching, touch);
                if (too_deep) {
                    add(too_deep->low);
                    add(too_deep->high);
                }
            }
            if (!feeler.inside) continue;
            const auto look_inside = [&](double low, double high) {
                add_inside_heights<D>(*feeler.inside, foot, up, hull, {low, high}, fine, turning);
            };
            if (deep && (i == 0 || !level.is_one_way(piece))) {
                // Where the body clips nothing is asked.
                look_inside(touching->low, std::min(touching->high, deep->low));
                look_inside(std::max(touching->low, deep->high), touching->high);
            } else {
                look_inside(touching->low, touching->high);
            }
        }
        for (const Turning<D>& turns : feelers.turning) {
            if (level.on_layers(piece, turns.layers)) add_turning_heights<D>(turns, foot, up, hull, turning);
        }
        for (const double height : turning) add(height);
        if (busy.low > busy.high) continue;
        const auto [bottom, top] = extent_along(hull, up);
        for (const double rise : feelers.rises) {
            for (const Vec<D>& corner : hull.points) add(up.dot(corner) - at - rise);
            add(top + hull.radius - at - rise);
            busy.low = std::min(busy.low, bottom - hull.radius - at - rise);
        }
        if (hull.radius > 0.0 && !feelers.rises.empty()) {
            // Where the flat sides between round edges end.
            for_each_normal(hull, [&](const Vec<D>& n) {
                const double side = extent_along(hull, n)[1];
                for (const Vec<D>& corner : hull.points) {
                    if (n.dot(corner) < side - 1e-9 * (1.0 + std::abs(side))) continue;
                    for (const double rise : feelers.rises) add(up.dot(corner + hull.radius * n) - at - rise);
                }
            });
        }
        heights.busy.push_back({busy.low - touch, busy.high + touch});
    }
    join(heights.clipped);
    join(heights.busy);
    std::sort(heights.rests.begin(), heights.rests.end());
    std::sort(heights.candidates.begin(), heights.candidates.end());
    return heights;
}

template struct Feelers<2>;
template struct Feelers<3>;
template ColumnHeights heights_of_column<2>(const Surveyed<2>&, std::size_t, const Feelers<2>&, const Vec<2>&,
                                            const HeightSpan&);
template ColumnHeights heights_of_column<3>(const Surveyed<3>&, std::size_t, const Feelers<3>&, const Vec<3>&,
                                            const HeightSpan&);

}  // namespace hollow_probe
