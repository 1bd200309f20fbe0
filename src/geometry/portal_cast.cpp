// Casting polytopes by their supports alone. The mover meets the target where the ray from the origin enters
// their Minkowski difference C. Seen along the ray, C is a convex polygon: if a line parts it from the ray,
// the cast misses (the search for it is that of E. G. Gilbert, D. W. Johnson, S. S. Keerthi, "A fast
// procedure for computing the distance between complex objects in three-dimensional space", 1988, in the
// plane). Else three corners of C around the ray make a portal, which is moved against the ray by the
// farthest corner in front of it until none is: then it lies in the facet that the ray enters. Every corner
// is passed at most once, and both the portal (part of C) and its plane (no part of C beyond it) vouch for
// the distance.

#include "geometry/quick_casts.hpp"
#include "hollow_probe/geometry/tolerances.hpp"

namespace hollow_probe {
namespace {

struct Portal {
    const HullView<3>& mover;
    const Vec<3>& start;
    const Vec<3>& direction;
    const HullView<3>& target;
    Vec<3> right;
    Vec<3> ahead;  // with right and direction an orthonormal frame

    struct Corner {
        Vec<3> at;
        Vec<2> seen;  // along the ray
        const Vec<3>* of_target = nullptr;
    };

    Corner support(const Vec<3>& n) const {
        const Vec<3>* of_target = target.points.data();
        double most = n.dot(*of_target - start);
        for (const Vec<3>& p : target.points.subspan(1)) {
            const double s = n.dot(p - start);
            if (s > most) {
                most = s;
                of_target = &p;
            }
        }
        const Vec<3>* of_mover = mover.points.data();
        double least = n.dot(*of_mover);
        for (const Vec<3>& p : mover.points.subspan(1)) {
            const double s = n.dot(p);
            if (s < least) {
                least = s;
                of_mover = &p;
            }
        }
        const Vec<3> at = (*of_target - start) - *of_mover;
        return {at, {right.dot(at), ahead.dot(at)}, of_target};
    }
    Corner support(const Vec<2>& w) const { return support(w.x() * right + w.y() * ahead); }
};

double across(const Vec<2>& a, const Vec<2>& b) {
    return a.x() * b.y() - a.y() * b.x();
}

enum class Found { portal, miss, unsure };

/// Three corners around the ray, counter-clockwise as seen.
Found surround(const Portal& c, double tolerance, std::array<Portal::Corner, 3>& around) {
    constexpr int most_rounds = 24;
    // Any inner point of C will do to start from.
    const Vec<3> inner = (c.target.points.front() - c.start) - c.mover.points.front();
    Vec<2> w(-c.right.dot(inner), -c.ahead.dot(inner));
    if (w.norm() <= tolerance) w = Vec<2>(1.0, 0.0);
    std::array<Portal::Corner, 3> corners;
    int count = 0;
    for (int round = 0; round < most_rounds; ++round) {
        const double length = w.norm();
        if (!(length > 0.0)) return Found::unsure;
        const Portal::Corner next = c.support(w);
        const double past = w.dot(next.seen) / length;  // of the ray
        if (past < -tolerance) return Found::miss;
        if (past <= tolerance) return Found::unsure;
        corners[count++] = next;
        if (count == 1) {
            w = -next.seen;
        } else if (count == 2) {
            const Vec<2> side = corners[1].seen - corners[0].seen;
            w = Vec<2>(-side.y(), side.x());
            if (w.dot(corners[0].seen) > 0.0) w = -w;
        } else {
            if (across(corners[1].seen - corners[0].seen, corners[2].seen - corners[0].seen) < 0.0) {
                std::swap(corners[0], corners[1]);
            }
            int open = -1;
            for (int i = 0; i < 3; ++i) {
                if (across(corners[i].seen, corners[(i + 1) % 3].seen) < 0.0) open = i;
            }
            if (open < 0) {
                around = corners;
                return Found::portal;
            }
            // Keep the side beyond which the ray lies, look farther out there.
            const Portal::Corner a = corners[open];
            const Portal::Corner b = corners[(open + 1) % 3];
            corners[0] = a;
            corners[1] = b;
            count = 2;
            const Vec<2> side = b.seen - a.seen;
            w = Vec<2>(side.y(), -side.x());
        }
    }
    return Found::unsure;
}

}  // namespace

QuickAnswer<3> cast_polytope(const HullView<3>& mover, const Vec<3>& start, const Vec<3>& direction,
                             double reach, const HullView<3>& target) {
    constexpr int most_rounds = 64;
    double size = 0.0;
    double magnitude = 0.0;
    for (const Vec<3>& p : target.points) {
        size = std::max(size, (p - start).abs().largest());
        magnitude = std::max(magnitude, p.abs().largest());
    }
    for (const Vec<3>& p : mover.points) size = std::max(size, p.abs().largest());
    const double tolerance = tolerance::of_cast(size, magnitude);

    const Vec<3> right = direction.unit_across();
    const Portal c{mover, start, direction, target, right, direction.cross(right)};
    std::array<Portal::Corner, 3> portal;
    switch (surround(c, 8.0 * tolerance, portal)) {
        case Found::miss:
            return std::optional<CastHit<3>>();
        case Found::unsure:
            return std::nullopt;
        case Found::portal:
            break;
    }
    for (int round = 0; round < most_rounds; ++round) {
        const Vec<3> u = portal[1].at - portal[0].at;
        const Vec<3> v = portal[2].at - portal[0].at;
        // Counter-clockwise as seen along the ray: this is the side it comes from.
        Vec<3> n = v.cross(u);
        const double length = n.norm();
        if (!(length > tolerance::accuracy * size * size)) return std::nullopt;
        n /= length;
        const double speed = n.dot(direction);
        if (speed > -tolerance::approaches) return std::nullopt;
        const Portal::Corner front = c.support(n);
        if (n.dot(front.at - portal[0].at) <= tolerance) {
            const double t = n.dot(portal[0].at) / speed;
            if (t < 4.0 * tolerance) return std::nullopt;  // starts in touch, inside or beyond
            if (t > reach + tolerance) return std::optional<CastHit<3>>();
            // The ray's place in the portal, carried over to the target.
            const std::array<double, 3> weights = {across(portal[1].seen, portal[2].seen),
                                                   across(portal[2].seen, portal[0].seen),
                                                   across(portal[0].seen, portal[1].seen)};
            const Vec<3> point = (weights[0] * *portal[0].of_target + weights[1] * *portal[1].of_target +
                                  weights[2] * *portal[2].of_target) /
                                 (weights[0] + weights[1] + weights[2]);
            return CastHit<3>{t, n, false, 0.0, point, true};
        }
        if (n.dot(front.at) / speed > reach + tolerance) return std::optional<CastHit<3>>();
        int part = -1;
        for (int i = 0; i < 3 && part < 0; ++i) {
            if (across(portal[(i + 1) % 3].seen, front.seen) >= 0.0 &&
                across(front.seen, portal[i].seen) >= 0.0)
                part = i;
        }
        if (part < 0) return std::nullopt;
        portal = {portal[part], portal[(part + 1) % 3], front};
    }
    return std::nullopt;
}

}  // namespace hollow_probe
