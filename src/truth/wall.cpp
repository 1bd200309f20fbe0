#include "hollow_probe/truth/wall.hpp"

#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/truth/ground.hpp"
#include "truth/ahead.hpp"

namespace hollow_probe {
namespace {

/// The corners of a hull that lie farthest along n.
template <int D>
std::vector<Vec<D>> front_of(const HullView<D>& hull, const Vec<D>& n, double slack) {
    const double front = extent_along(hull, n)[1];
    std::vector<Vec<D>> corners;
    for (const Vec<D>& p : hull.points) {
        if (n.dot(p) >= front - slack) corners.push_back(p + hull.radius * n);
    }
    return corners;
}

/// The point of segment a0 a1 nearest to segment b0 b1, and how far it is from it.
template <int D>
std::pair<Vec<D>, double> crossing(const Vec<D>& a0, const Vec<D>& a1, const Vec<D>& b0, const Vec<D>& b1) {
    const std::array<Vec<D>, 2> a = {a0, a1};
    const std::array<Vec<D>, 2> b = {b0, b1};
    const RoundedHull<D> first = RoundedHull<D>::capsule(a[0], a[1], 1.0).with_radius(0.0);
    const RoundedHull<D> second = RoundedHull<D>::capsule(b[0], b[1], 1.0).with_radius(0.0);
    const Separation<D> apart = separation<D>(first.view(), second.view());
    return {apart.on_a, std::abs(apart.gap)};
}

/// The highest point of what two stretches of one line share.
[[maybe_unused]] Vec<2> highest_shared(const Vec<2>& up, const Contact<2>& contact,
                                       const std::vector<Vec<2>>& a, const std::vector<Vec<2>>& b) {
    const Vec<2> line(-contact.normal.y(), contact.normal.x());
    const double rises = up.dot(line) < 0.0 ? -1.0 : 1.0;
    const auto top_of = [&](const std::vector<Vec<2>>& points) {
        double top = -infinity;
        for (const Vec<2>& p : points) top = std::max(top, rises * line.dot(p - contact.point));
        return top;
    };
    return contact.point + rises * std::min(top_of(a), top_of(b)) * line;
}

/// How far a point of a plane is from the convex hull of points in that plane.
template <int D>
double distance_to(const std::vector<Vec<D>>& corners, const Vec<D>& p) {
    const HullTopology none;
    const HullView<D> hull{corners, 0.0, {}, &none};
    const HullView<D> dot{{&p, 1}, 0.0, {}, &none};
    return separation<D>(dot, hull).gap;
}

}  // namespace

template <int D>
Vec<D> highest_of_contact(const Level<D>& level, const PlacedBody<D>& touching, const Contact<D>& contact) {
    const HullView<D> piece = level.piece(contact.piece);
    const double slack = 20.0 * noise_of(touching.shape, level).distance;
    const std::vector<Vec<D>> of_piece = front_of<D>(piece, contact.normal, slack);
    std::vector<Vec<D>> of_body = front_of<D>(touching.shape, Vec<D>(-contact.normal), slack);
    for (Vec<D>& p : of_body) p += touching.anchor;
    if (of_piece.size() == 1) return of_piece.front();
    if (of_body.size() == 1) return of_body.front();
    if constexpr (D == 2) return highest_shared(level.up(), contact, of_piece, of_body);
    // Both lie in one plane. The highest point of what they share is a corner of either, or where edges
    // cross; two corners of one that are no edge cross within the share, which does no harm.
    Vec<D> highest = contact.point;
    const auto consider = [&](const Vec<D>& p) {
        if (level.up().dot(p) > level.up().dot(highest)) highest = p;
    };
    for (const Vec<D>& p : of_piece) {
        if (distance_to<D>(of_body, p) <= slack) consider(p);
    }
    for (const Vec<D>& p : of_body) {
        if (distance_to<D>(of_piece, p) <= slack) consider(p);
    }
    if constexpr (D == 3) {
        for (std::size_t i = 0; i < of_piece.size(); ++i) {
            for (std::size_t k = i + 1; k < of_piece.size(); ++k) {
                for (std::size_t m = 0; m < of_body.size(); ++m) {
                    for (std::size_t n = m + 1; n < of_body.size(); ++n) {
                        const auto [p, apart] = crossing<D>(of_piece[i], of_piece[k], of_body[m], of_body[n]);
                        if (apart <= slack) consider(p);
                    }
                }
            }
        }
    }
    return highest;
}

template <int D>
Decision Ahead<D>::can_be_stepped_on(const Contact<D>& contact, double& rise) const {
    const PlacedBody<D> touching = moved(std::max(contact.gap, 0.0) * heading);
    // The highest point of a contact is no lower than any of its points.
    const Decision low_enough =
        at_most(level.up().dot(contact.point - body.anchor), intent.tallest_step, noise);
    if (refused(low_enough)) return low_enough;
    rise = level.up().dot(highest_of_contact<D>(level, touching, contact) - body.anchor);
    Decision result =
        both(at_most(intent.lowest_step, rise, noise), at_most(rise, intent.tallest_step, noise));
    if (refused(result)) return result;
    const PlacedBody<D> lifted = moved(intent.tallest_step * level.up());
    const ClipTruth<D> above = clip<D>(level, lifted, intent);
    result = both(result, at_most(above.depth, intent.touch, noise));
    if (refused(result)) return result;
    const double way = std::max(contact.gap, 0.0) + tread();
    result = both(result, free_for(lifted, way));
    if (refused(result)) return result;
    const PlacedBody<D> over{body.shape, lifted.anchor + way * heading, body.meets};
    const double lowest = intent.tallest_step + intent.touch;
    double gap = infinity;
    for_each_contact(level, over, Vec<D>(-level.up()), lowest, intent.touch,
                     [&](const Contact<D>& below) { gap = std::min(gap, below.gap); });
    if (gap == infinity) return both(result, Decision{});  // nothing to rest on
    const PlacedBody<D> resting{body.shape, over.anchor - gap * level.up(), body.meets};
    return both(result, ground<D>(level, resting, intent));
}

template <int D>
StepTruth<D> step(const Level<D>& level, const PlacedBody<D>& body, const Vec<D>& heading,
                  const Intent& intent, Margins margins, const Known<D>* known) {
    const Ahead<D> ahead(level, body, heading, intent, margins, known);
    StepTruth<D> truth;
    ahead.for_each_steep(intent.ahead_step, [&](const Contact<D>& contact, const Decision& steep) {
        if (ahead.granted(truth)) return;
        double rise = 0.0;
        Decision is_step = both(steep, at_most(contact.gap, intent.ahead_step, ahead.noise));
        if (!ahead.refused(is_step)) is_step = both(is_step, ahead.can_be_stepped_on(contact, rise));
        static_cast<Decision&>(truth) = either(truth, is_step);
        if (!is_step.on || (truth.riser && truth.riser->gap <= contact.gap)) return;
        truth.riser = contact;
        truth.rise = rise;
    });
    return truth;
}

template <int D>
WallTruth<D> wall(const Level<D>& level, const PlacedBody<D>& body, const Vec<D>& heading,
                  const Intent& intent, Margins margins, const Known<D>* known) {
    const Ahead<D> ahead(level, body, heading, intent, margins, known);
    WallTruth<D> truth;
    ahead.for_each_steep(intent.ahead_wall, [&](const Contact<D>& contact, const Decision& steep) {
        if (ahead.granted(truth)) return;
        double rise = 0.0;
        Decision is_wall =
            both(both(steep, ahead.faces(contact)), at_most(contact.gap, intent.ahead_wall, ahead.noise));
        if (!ahead.refused(is_wall))
            is_wall = both(is_wall, opposite(ahead.can_be_stepped_on(contact, rise)));
        static_cast<Decision&>(truth) = either(truth, is_wall);
        if (is_wall.on && !(truth.contact && truth.contact->gap <= contact.gap)) truth.contact = contact;
    });
    return truth;
}

template <int D>
void look_ahead(const Level<D>& level, const PlacedBody<D>& body, const Vec<D>& heading, const Intent& intent,
                Known<D>& known) {
    const Noise noise = noise_of(body.shape, level);
    known.ahead.clear();
    known.ahead_reach = std::max({intent.ahead_wall, intent.ahead_step, intent.ahead_ledge}) +
                        std::max(intent.touch, 2.0 * noise.distance);
    for_each_contact(level, body, heading, known.ahead_reach, intent.touch,
                     [&](const Contact<D>& contact) { known.ahead.push_back(contact); });
}

template struct Ahead<2>;
template struct Ahead<3>;
template Vec<2> highest_of_contact<2>(const Level<2>&, const PlacedBody<2>&, const Contact<2>&);
template Vec<3> highest_of_contact<3>(const Level<3>&, const PlacedBody<3>&, const Contact<3>&);
template StepTruth<2> step<2>(const Level<2>&, const PlacedBody<2>&, const Vec<2>&, const Intent&, Margins,
                              const Known<2>*);
template StepTruth<3> step<3>(const Level<3>&, const PlacedBody<3>&, const Vec<3>&, const Intent&, Margins,
                              const Known<3>*);
template WallTruth<2> wall<2>(const Level<2>&, const PlacedBody<2>&, const Vec<2>&, const Intent&, Margins,
                              const Known<2>*);
template WallTruth<3> wall<3>(const Level<3>&, const PlacedBody<3>&, const Vec<3>&, const Intent&, Margins,
                              const Known<3>*);

template void look_ahead<2>(const Level<2>&, const PlacedBody<2>&, const Vec<2>&, const Intent&, Known<2>&);
template void look_ahead<3>(const Level<3>&, const PlacedBody<3>&, const Vec<3>&, const Intent&, Known<3>&);

}  // namespace hollow_probe
