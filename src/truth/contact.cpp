#include "hollow_probe/truth/contact.hpp"

#include <algorithm>

#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {

template <int D>
Noise noise_of(const HullView<D>& body, const Level<D>& level) {
    Noise noise;
    noise.distance = tolerance::of_measure(bounds_of(body).size().norm(), magnitude(level.bounds()));
    return noise;
}

namespace {

/// Whether a contact is with the back of a surface without thickness.
template <int D>
bool from_behind(const Level<D>& level, std::uint32_t piece, const Vec<D>& normal) {
    const HullView<D> target = level.piece(piece);
    if (!target.normals.empty()) return false;  // it has an inside
    return facet_normal<D>(target.points.data()).dot(normal) < -tolerance::angle;
}

/// Whether an overlap with a piece clips the body, were it deep enough: from behind, some do not.
template <int D>
bool stops_from_here(const PlacedBody<D>& body, const HullView<D>& piece, const Vec<D>& way_out) {
    const bool has_back = body.front_faces && piece.normals.empty();
    return !has_back || facet_normal<D>(piece.points.data()).dot(way_out) >= 0.0;
}

/// How a body that touches a piece within rounding lies to it, seen from a hair before; nothing where it
/// overlaps it there, too.
template <int D>
std::optional<Separation<D>> just_before(const PlacedBody<D>& body, const Vec<D>& direction, double hair,
                                         const HullView<D>& target) {
    const Separation<D> before = separation<D>(body.shape, body.anchor - hair * direction, target);
    if (before.gap <= 0.0 || before.cores_meet) return std::nullopt;
    return before;
}

/// Of a hull that moves along `direction` what comes first to whatever it does not touch yet: of a capsule
/// that moves along its axis the ball at its end.
template <int D>
HullView<D> front_of(const HullView<D>& shape, const Vec<D>& direction) {
    static const HullTopology of_point;
    if (shape.points.size() != 2) return shape;
    const Vec<D> along = shape.points[1] - shape.points[0];
    const double forward = along.dot(direction);
    if ((along - forward * direction).norm() > 1e-14 * std::abs(forward)) return shape;
    return {shape.points.subspan(forward > 0.0 ? 1 : 0, 1), shape.radius, {}, &of_point};
}

/// Whether no part of a hull's core lies behind the end that is the front of a capsule, seen along
/// `direction` and its axis: then no other point of the capsule is nearer to it.
template <int D>
bool lies_before(const HullView<D>& front, const Vec<D>& anchor, const Vec<D>& direction,
                 const HullView<D>& target) {
    const Vec<D> tip = front.points.front() + anchor;
    return std::all_of(target.points.begin(), target.points.end(),
                       [&](const Vec<D>& p) { return (p - tip).dot(direction) >= 0.0; });
}

}  // namespace

template <int D>
Advance<D>::Advance(const PlacedBody<D>& body, const Vec<D>& direction, double reach, double touch,
                    const Level<D>& level)
    : body_(body),
      direction_(direction),
      reach_(reach),
      touch_(touch),
      level_(level),
      front_(front_of<D>(body.shape, direction)),
      slack_(tolerance::of_root(bounds_of(body.shape).size().norm(), magnitude(level.bounds()))) {}

template <int D>
bool Advance<D>::counts(std::uint32_t piece, const Vec<D>& normal) const {
    return normal.dot(direction_) < -tolerance::approaches &&
           !(body_.front_faces && from_behind<D>(level_, piece, normal));
}

template <int D>
std::optional<Contact<D>> Advance<D>::to(std::uint32_t piece) {
    constexpr int most_rounds = 100;
    if (!level_.faces(piece, direction_)) return std::nullopt;
    const HullView<D> target = level_.piece(piece);
    const bool ends_in_ball = front_.points.size() < body_.shape.points.size();
    const bool by_front = ends_in_ball && lies_before<D>(front_, body_.anchor, direction_, target);
    Separation<D> now = separation<D>(by_front ? front_ : body_.shape, body_.anchor, target);
    if (now.gap <= slack_) {
        if (-now.gap > touch_) {
            clips_ = clips_ || (!level_.is_one_way(piece) && stops_from_here<D>(body_, target, now.normal));
            return std::nullopt;
        }
        if (std::abs(now.gap) <= slack_) {
            if (const auto before = just_before<D>(body_, direction_, 1e3 * slack_, target)) {
                if (!counts(piece, before->normal)) return std::nullopt;
                return Contact<D>{piece, now.gap, before->normal, before->on_b};
            }
        }
        if (!counts(piece, now.normal)) return std::nullopt;
        return Contact<D>{piece, now.gap, now.normal, now.on_b};
    }
    if (now.gap > reach_ + slack_) return std::nullopt;
    double travelled = 0.0;
    Vec<D> normal = now.normal;  // of the separating direction, as long as there is one
    for (int round = 0; round < most_rounds && now.gap > slack_; ++round) {
        const double speed = -now.normal.dot(direction_);
        if (speed <= 1e-12) return std::nullopt;  // the gap no longer shrinks, and never will again
        travelled += now.gap / speed;
        if (travelled > reach_ + slack_) return std::nullopt;
        now = separation<D>(front_, body_.anchor + travelled * direction_, target);
        if (!now.cores_meet) normal = now.normal;
    }
    if (now.gap > 10.0 * slack_ || !counts(piece, normal)) return std::nullopt;
    return Contact<D>{piece, travelled, normal, now.on_b};
}

template <int D>
std::optional<Contact<D>> Advance<D>::to_surface(std::uint32_t piece) {
    auto contact = to(piece);
    if (!contact || level_.solids()[level_.solid_of(piece)].piece_count == 1) return contact;
    if (level_.is_one_way(piece) && inside_solid<D>(level_, body_, piece, touch_)) return std::nullopt;
    const PlacedBody<D> touching = body_.moved(std::max(contact->gap, 0.0) * direction_);
    if (!on_surface<D>(level_, touching, *contact)) return std::nullopt;
    return contact;
}

template <int D>
bool inside_solid(const Level<D>& level, const PlacedBody<D>& body, std::uint32_t piece, double touch) {
    const std::uint32_t solid = level.solid_of(piece);
    bool inside = false;
    level.tree().overlapping(
        bounds_of(body.shape).moved(body.anchor), body.meets, [&](std::uint32_t other) -> bool {
            inside = level.solid_of(other) == solid &&
                     -separation<D>(body.shape, body.anchor, level.piece(other)).gap > touch;
            return !inside;
        });
    return inside;
}

template <int D>
double deepest_overlap(const Level<D>& level, const PlacedBody<D>& body, const Vec<D>& direction, double from,
                       double to, std::uint32_t piece) {
    constexpr double golden = 0.6180339887498949;
    constexpr int most_rounds = 48;  // golden to the power of 44 is less than 1e-9
    const auto depth_at = [&](double t) {
        return -separation<D>(body.shape, body.anchor + t * direction, level.piece(piece)).gap;
    };
    double low = from;
    double high = to;
    double left = high - golden * (high - low);
    double right = low + golden * (high - low);
    double depth_left = depth_at(left);
    double depth_right = depth_at(right);
    double deepest = std::max({depth_at(from), depth_at(to), depth_left, depth_right});
    for (int round = 0; round < most_rounds && high - low > tolerance::accuracy * (to - from); ++round) {
        if (depth_left < depth_right) {
            low = left;
            left = right;
            depth_left = depth_right;
            right = low + golden * (high - low);
            depth_right = depth_at(right);
        } else {
            high = right;
            right = left;
            depth_right = depth_left;
            left = high - golden * (high - low);
            depth_left = depth_at(left);
        }
        deepest = std::max({deepest, depth_left, depth_right});
    }
    return deepest;
}

template class Advance<2>;
template class Advance<3>;
template Noise noise_of<2>(const HullView<2>&, const Level<2>&);
template Noise noise_of<3>(const HullView<3>&, const Level<3>&);

template bool inside_solid<2>(const Level<2>&, const PlacedBody<2>&, std::uint32_t, double);
template double deepest_overlap<2>(const Level<2>&, const PlacedBody<2>&, const Vec<2>&, double, double,
                                   std::uint32_t);
template bool inside_solid<3>(const Level<3>&, const PlacedBody<3>&, std::uint32_t, double);
template double deepest_overlap<3>(const Level<3>&, const PlacedBody<3>&, const Vec<3>&, double, double,
                                   std::uint32_t);

}  // namespace hollow_probe
