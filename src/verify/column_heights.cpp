#include "verify/column_heights.hpp"

#include <algorithm>

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
    const auto add = [&](const RoundedHull<D>& shape, LayerSet of, std::vector<double> beyond = {}) {
        feelers.push_back({shape, of, std::move(beyond)});
        layers |= of;
    };
    // Below and above the body a touch counts to within touch, or what forgiveness makes of it.
    add(mounted.body, mounted.meets, {intent.touch, -intent.touch});
    if (intent.forgive.hold > intent.touch) feelers.front().beyond.push_back(intent.forgive.hold);
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
        if (*claims == Claim::blocked || *claims == Claim::drop) continue;
        // Lifted over a step, and past it.
        const double on = way + (intent.tread > 0.0 ? intent.tread : s.half_width);
        add(swept<D>(mounted.body, Vec<D>(on * toward), frame), mounted.meets, {-intent.tallest_step});
    }
    constexpr std::size_t most_told = 12;
    for (const MountedProbe<D>& probe : mounted.probes) {
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
            for (std::size_t line = 0; line < probe.lines.size(); line += step) {
                const auto start = probe.shape.placed(Mat<D>::Identity(), probe.lines[line].from);
                const Vec<D> way = probe.reach * probe.lines[line].along;
                add(swept<D>(start, way, frame), sees);
                if (probe.kind == ProbeKind::ray) continue;
                add(start, sees);
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
    std::sort(rises.begin(), rises.end());
    rises.erase(std::unique(rises.begin(), rises.end()), rises.end());
}

template <int D>
ColumnHeights heights_of_column(const Surveyed<D>& s, std::size_t facing, const Feelers<D>& feelers,
                                const Vec<D>& foot, const HeightSpan& within) {
    const Level<D>& level = s.level_of(facing);
    const Vec<D>& up = level.up();
    const double touch = s.rig.intent.touch;
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
            if (i > 0 || !level.on_layers(piece, s.mounted[facing].meets)) continue;
            heights.rests.push_back(touching->high);
            if (level.is_one_way(piece)) continue;
            const auto deep = deep_heights<D>(feeler.shape.view(), foot, up, hull, *touching, touch);
            if (deep) heights.clipped.push_back(*deep);
        }
        if (busy.low > busy.high) continue;
        const auto [bottom, top] = extent_along(hull, up);
        for (const double rise : feelers.rises) {
            add(top + hull.radius - at - rise);
            busy.low = std::min(busy.low, bottom - hull.radius - at - rise);
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
