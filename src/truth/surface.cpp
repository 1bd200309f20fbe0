// The surface of a solid that is cut into pieces: which contacts are with it, and how far it goes on from
// one.
#include <algorithm>

#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/geometry/tolerances.hpp"
#include "truth/shadow.hpp"

namespace hollow_probe {
namespace {

/// Points of a contact closer than this are one.
template <int D>
double slack_of(const PlacedBody<D>& body, const Level<D>& level) {
    return 20.0 * noise_of(body.shape, level).distance;
}

/// Calls visit(number, hull) for the pieces of the solid of `piece` that reach into a box, but for itself.
template <int D, class Visit>
void for_each_other(const Level<D>& level, std::uint32_t piece, const Bounds<D>& box, LayerSet layers,
                    Visit visit) {
    const Solid<D>& solid = level.solids()[level.solid_of(piece)];
    if (solid.piece_count == 1) return;
    level.tree().overlapping(box, layers, [&](std::uint32_t other) -> bool {
        if (other == piece || level.solid_of(other) != level.solid_of(piece)) return true;
        return visit(other, level.piece(other));
    });
}

template <int D>
std::vector<Flat> flat_points(const ContactPlane<D>& plane, const std::vector<Vec<D>>& points) {
    std::vector<Flat> result;
    for (const Vec<D>& p : points) result.push_back(plane.flat(p));
    return result;
}

/// The body's projection on to the plane.
template <int D>
Outline projection(const ContactPlane<D>& plane, const PlacedBody<D>& body) {
    std::vector<Flat> points;
    for (const Vec<D>& p : body.shape.points) points.push_back(plane.flat(Vec<D>(body.anchor + p)));
    return Outline(std::move(points), body.shape.radius);
}

/// Whether a contact is with the side of a facet, which nothing of its solid can cover.
template <int D>
bool with_side_of_facet(const HullView<D>& piece, const Vec<D>& normal) {
    if (!piece.normals.empty()) return false;
    const Vec<D> side = facet_normals<D>(piece.points.data()).at[0];
    return std::abs(side.dot(normal)) > 1.0 - tolerance::direction;
}

/// From where to where along a line points lie.
struct Along {
    void take(double at) {
        low = std::min(low, at);
        high = std::max(high, at);
    }
    [[nodiscard]] bool has(double at, double slack) const { return at >= low - slack && at <= high + slack; }

    double low = infinity;
    double high = -infinity;
};

/// Calls visit(point) for points of what body and piece touch each other with, its corners among them. In
/// the plane that is a stretch of a line.
template <class Visit>
void for_each_touched(const HullView<2>& piece, const PlacedBody<2>& touching, const Contact<2>& contact,
                      double slack, Visit visit) {
    const ContactPlane<2> line(contact.point, contact.normal, contact.normal);
    Along of_piece;
    for_each_front_point<2>(piece, contact.point, contact.normal, slack,
                            [&](const Vec<2>& p) { of_piece.take(line.flat(p).x()); });
    Along of_body;
    const double lowest = extent_along(touching.shape, contact.normal)[0];
    for (const Vec<2>& p : touching.shape.points) {
        if (contact.normal.dot(p) <= lowest + slack) of_body.take(line.flat(Vec<2>(touching.anchor + p)).x());
    }
    bool any = false;
    const auto take_shared = [&](const Along& of, const Along& in) {
        if (!(of.low <= of.high) || !(in.low <= in.high)) return;
        if (in.has(of.low, slack)) visit(line.point({of.low, 0.0}));
        if (of.high > of.low && in.has(of.high, slack)) visit(line.point({of.high, 0.0}));
        any = any || in.has(of.low, slack) || in.has(of.high, slack);
    };
    take_shared(of_piece, of_body);
    take_shared(of_body, of_piece);
    if (!any) visit(contact.point);
}

/// Points of what body and piece touch each other with, its corners among them.
template <int D>
std::vector<Vec<D>> touched_points(const HullView<D>& piece, const PlacedBody<D>& touching,
                                   const Contact<D>& contact, double slack) {
    const std::vector<Vec<D>> of_piece = front_of<D>(piece, contact.point, contact.normal, slack);
    if (of_piece.empty()) return {contact.point};
    const double lowest = extent_along(touching.shape, contact.normal)[0];
    std::vector<Vec<D>> of_body;
    for (const Vec<D>& p : touching.shape.points) {
        if (contact.normal.dot(p) <= lowest + slack) of_body.push_back(touching.anchor + p);
    }
    const ContactPlane<D> plane(contact.point, contact.normal, contact.normal);
    std::vector<Vec<D>> points;
    for (const Flat& f : shared_points(Outline(flat_points<D>(plane, of_piece)),
                                       Outline(flat_points<D>(plane, of_body)), slack))
        points.push_back(plane.point(f));
    if (points.empty()) points.push_back(contact.point);
    return points;
}

template <class Visit>
void for_each_touched(const HullView<3>& piece, const PlacedBody<3>& touching, const Contact<3>& contact,
                      double slack, Visit visit) {
    for (const Vec<3>& p : touched_points<3>(piece, touching, contact, slack)) visit(p);
}

/// The middle of what body and piece touch each other with.
template <int D>
Vec<D> middle_of_contact(const HullView<D>& piece, const PlacedBody<D>& touching, const Contact<D>& contact,
                         double slack) {
    Vec<D> sum = Vec<D>::Zero();
    std::size_t count = 0;
    for_each_touched(piece, touching, contact, slack, [&](const Vec<D>& p) {
        sum += p;
        ++count;
    });
    return sum / static_cast<double>(count);
}

/// A side or edge in the plane of a contact, with a box around it.
struct Face {
    explicit Face(Outline given) : outline(std::move(given)) {
        for (const Flat& f : outline.core) box.grow(f);
    }
    bool touches(const Face& other, double slack) const {
        if (!box.inflated(slack).overlaps(other.box)) return false;
        const auto any_in = [&](const Outline& of, const Outline& in) {
            return std::any_of(of.core.begin(), of.core.end(),
                               [&](const Flat& f) { return in.has(f, slack); });
        };
        return any_in(outline, other.outline) || any_in(other.outline, outline);
    }

    Outline outline;
    Bounds<2> box;
    std::uint32_t piece = 0;
};

}  // namespace

template <int D>
Vec<D> highest_of_contact(const Level<D>& level, const PlacedBody<D>& touching, const Contact<D>& contact,
                          std::vector<std::uint32_t>* flush) {
    const double slack = slack_of<D>(touching, level);
    const Vec<D>& up = level.up();
    const ContactPlane<D> plane(contact.point, contact.normal, up);
    const Outline body = projection<D>(plane, touching);
    Vec<D> best = contact.point;
    const auto take = [&](const Face& face) {
        bool any = false;
        for (const Flat& f : shared_points(face.outline, body, slack)) {
            any = true;
            const Vec<D> p = plane.point(f);
            if (up.dot(p) > up.dot(best)) best = p;
        }
        return any;
    };
    const auto face_of = [&](const HullView<D>& piece) {
        return Face(Outline(flat_points<D>(plane, front_of<D>(piece, contact.point, contact.normal, slack))));
    };
    std::vector<Face> reached = {face_of(level.piece(contact.piece))};
    if (!reached.front().outline.core.empty()) take(reached.front());
    // Where the body's projection lies: what goes on flush from the contact.
    Bounds<D> around;
    for (const Vec<D>& p : touching.shape.points) {
        const Vec<D> at = touching.anchor + p;
        around.grow(Vec<D>(at - contact.normal.dot(at - contact.point) * contact.normal));
    }
    around = around.inflated(touching.shape.radius + slack);
    std::vector<Face> waiting;
    for_each_other<D>(level, contact.piece, around, touching.meets,
                      [&](std::uint32_t number, const HullView<D>& hull) {
                          Face face = face_of(hull);
                          face.piece = number;
                          if (face.outline.core.size() > 1) waiting.push_back(std::move(face));
                          return true;
                      });
    for (std::size_t next = 0; next < reached.size(); ++next) {
        for (std::size_t i = 0; i < waiting.size();) {
            if (!reached[next].touches(waiting[i], slack)) {
                ++i;
                continue;
            }
            if (flush != nullptr) flush->push_back(waiting[i].piece);
            if (take(waiting[i])) reached.push_back(std::move(waiting[i]));
            if (i + 1 < waiting.size()) waiting[i] = std::move(waiting.back());
            waiting.pop_back();
        }
    }
    return best;
}

/// A corner or edge between flush neighbours is met at a normal that no surface there has: the neighbour
/// rises above the plane across it. A side that another piece lies against is none: that piece rises above
/// it.
template <int D>
bool on_surface(const Level<D>& level, const PlacedBody<D>& touching, const Contact<D>& contact) {
    constexpr double rises = 1e-6;  // radians
    const HullView<D> piece = level.piece(contact.piece);
    if (piece.radius > 0.0 || with_side_of_facet<D>(piece, contact.normal)) return true;
    const double slack = slack_of<D>(touching, level);
    const Vec<D> middle = middle_of_contact<D>(piece, touching, contact, slack);
    const Vec<D> origin = Vec<D>::Zero();
    const HullTopology none;
    const HullView<D> dot{{&origin, 1}, 0.0, {}, &none};
    bool covered = false;
    for_each_other<D>(level, contact.piece, Bounds<D>{middle, middle}.inflated(slack), touching.meets,
                      [&](std::uint32_t, const HullView<D>& other) {
                          if (other.radius > 0.0) return true;
                          const bool above =
                              std::any_of(other.points.begin(), other.points.end(), [&](const Vec<D>& p) {
                                  const Vec<D> way = p - middle;
                                  const double height = contact.normal.dot(way);
                                  return height > slack && height > rises * way.norm();
                              });
                          if (!above) return true;
                          covered = separation<D>(dot, middle, other).gap <= slack;
                          return !covered;
                      });
    return !covered;
}

template <int D>
Vec<D> foremost_of_contact(const Level<D>& level, const PlacedBody<D>& touching, const Contact<D>& contact,
                           const Vec<D>& direction) {
    Vec<D> best = contact.point;
    for_each_touched(level.piece(contact.piece), touching, contact, slack_of<D>(touching, level),
                     [&](const Vec<D>& p) {
                         if (direction.dot(p) > direction.dot(best)) best = p;
                     });
    return best;
}

template bool on_surface<2>(const Level<2>&, const PlacedBody<2>&, const Contact<2>&);
template bool on_surface<3>(const Level<3>&, const PlacedBody<3>&, const Contact<3>&);
template Vec<2> highest_of_contact<2>(const Level<2>&, const PlacedBody<2>&, const Contact<2>&,
                                      std::vector<std::uint32_t>*);
template Vec<3> highest_of_contact<3>(const Level<3>&, const PlacedBody<3>&, const Contact<3>&,
                                      std::vector<std::uint32_t>*);
template Vec<2> foremost_of_contact<2>(const Level<2>&, const PlacedBody<2>&, const Contact<2>&,
                                       const Vec<2>&);
template Vec<3> foremost_of_contact<3>(const Level<3>&, const PlacedBody<3>&, const Contact<3>&,
                                       const Vec<3>&);

}  // namespace hollow_probe
