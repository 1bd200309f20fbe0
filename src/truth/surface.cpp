// The surface of a solid that is cut into pieces: which contacts are with it, and how far it goes on from
// one.
#include <algorithm>

#include "hollow_probe/geometry/separation.hpp"
#include "hollow_probe/geometry/tolerances.hpp"
#include "truth/cover.hpp"
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
    result.reserve(points.size());
    for (const Vec<D>& p : points) result.push_back(plane.flat(p));
    return result;
}

/// The body's projection on to the plane.
template <int D>
Outline projection(const ContactPlane<D>& plane, const PlacedBody<D>& body) {
    std::vector<Flat> points;
    for (const Vec<D>& p : body.shape.points) points.push_back(plane.flat(body.anchor + p));
    return Outline(std::move(points), body.shape.radius);
}

/// Whether a contact is with the side of a facet, which nothing of its solid can cover.
template <int D>
bool with_side_of_facet(const HullView<D>& piece, const Vec<D>& normal) {
    if (!piece.normals.empty()) return false;
    const Vec<D> side = facet_normal<D>(piece.points.data());
    return std::abs(side.dot(normal)) > 1.0 - tolerance::direction;
}

/// How far a point is from a segment.
template <int D>
double apart(const Vec<D>& point, const Vec<D>& from, const Vec<D>& to) {
    const Vec<D> way = to - from;
    const double squared = way.squared_norm();
    const double part = squared > 0.0 ? std::clamp(way.dot(point - from) / squared, 0.0, 1.0) : 0.0;
    return (from + part * way - point).norm();
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
        if (contact.normal.dot(p) <= lowest + slack) of_body.take(line.flat(touching.anchor + p).x());
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
    // A body that touches with one point of its core, as on a slope, needs no outlines.
    const double lowest = extent_along(touching.shape, contact.normal)[0];
    const auto touches = [&](const Vec<3>& p) { return contact.normal.dot(p) <= lowest + slack; };
    const auto& core = touching.shape.points;
    if (std::count_if(core.begin(), core.end(), touches) == 1) return visit(contact.point);
    for (const Vec<3>& p : touched_points<3>(piece, touching, contact, slack)) visit(p);
}

/// The middle of what body and piece touch each other with.
template <int D>
Vec<D> middle_of_contact(const HullView<D>& piece, const PlacedBody<D>& touching, const Contact<D>& contact,
                         double slack) {
    Vec<D> sum = Vec<D>::zero();
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

/// … in the plane: a stretch of the contact's line.
struct Stretch {
    bool touches(const Stretch& other, double slack) const {
        return along.low <= other.along.high + slack && other.along.low <= along.high + slack;
    }

    Along along;
    std::uint32_t piece = 0;
};

/// Sides and edges in the plane of a contact, and what the body's projection shares with them.
template <int D>
class ContactSides {
  public:
    using Side = std::conditional_t<D == 2, Stretch, Face>;

    ContactSides(const PlacedBody<D>& touching, const Contact<D>& contact, const Vec<D>& up, double slack)
        : contact_(contact),
          slack_(slack),
          plane_(contact.point, contact.normal, up),
          body_(projection_of(touching)) {}

    [[nodiscard]] Side of(const HullView<D>& piece) const {
        if constexpr (D == 2) {
            Stretch side;
            for_each_front_point<2>(piece, contact_.point, contact_.normal, slack_,
                                    [&](const Vec<2>& p) { side.along.take(plane_.flat(p).x()); });
            return side;
        } else {
            return Face(
                Outline(flat_points<D>(plane_, front_of<D>(piece, contact_.point, contact_.normal, slack_))));
        }
    }

    static bool is_none(const Side& side) { return !has_points(side, 1); }
    static bool is_longer_than_a_point(const Side& side) { return has_points(side, 2); }

    /// Calls visit(point) for points that a side and the body's projection share, the highest among them.
    template <class Visit>
    void for_each_shared(const Side& side, Visit visit) const {
        if constexpr (D == 2) {
            for (const double at : {side.along.low, side.along.high, body_.low, body_.high}) {
                if (side.along.has(at, slack_) && body_.has(at, slack_)) visit(plane_.point({at, 0.0}));
            }
        } else {
            for (const Flat& f : shared_points(side.outline, body_, slack_)) visit(plane_.point(f));
        }
    }

  private:
    using Body = std::conditional_t<D == 2, Along, Outline>;

    static bool has_points(const Side& side, std::size_t count) {
        if constexpr (D == 2) {
            return count == 1 ? side.along.low <= side.along.high : side.along.low < side.along.high;
        } else {
            return side.outline.core.size() >= count;
        }
    }

    [[nodiscard]] Body projection_of(const PlacedBody<D>& body) const {
        if constexpr (D == 2) {
            Along along;
            for (const Vec<2>& p : body.shape.points) {
                const double at = plane_.flat(body.anchor + p).x();
                along.take(at - body.shape.radius);
                along.take(at + body.shape.radius);
            }
            return along;
        } else {
            return projection<D>(plane_, body);
        }
    }

    const Contact<D>& contact_;
    double slack_;
    ContactPlane<D> plane_;
    Body body_;
};

}  // namespace

template <int D>
Vec<D> highest_of_contact(const Level<D>& level, const PlacedBody<D>& touching, const Contact<D>& contact,
                          std::vector<std::uint32_t>* flush) {
    using Sides = ContactSides<D>;
    using Side = typename Sides::Side;
    const double slack = slack_of<D>(touching, level);
    const Vec<D>& up = level.up();
    const Sides sides(touching, contact, up, slack);
    Vec<D> best = contact.point;
    const auto take = [&](const Side& side) {
        bool any = false;
        sides.for_each_shared(side, [&](const Vec<D>& p) {
            any = true;
            if (up.dot(p) > up.dot(best)) best = p;
        });
        return any;
    };
    const Side own = sides.of(level.piece(contact.piece));
    if (!Sides::is_none(own)) take(own);
    if (level.solids()[level.solid_of(contact.piece)].piece_count == 1) return best;
    std::vector<Side> reached = {own};
    // Where the body's projection lies: what goes on flush from the contact.
    Bounds<D> around;
    for (const Vec<D>& p : touching.shape.points) {
        const Vec<D> at = touching.anchor + p;
        around.grow(at - contact.normal.dot(at - contact.point) * contact.normal);
    }
    around = around.inflated(touching.shape.radius + slack);
    std::vector<Side> waiting;
    for_each_other<D>(level, contact.piece, around, touching.meets,
                      [&](std::uint32_t number, const HullView<D>& hull) {
                          Side side = sides.of(hull);
                          side.piece = number;
                          if (Sides::is_longer_than_a_point(side)) waiting.push_back(std::move(side));
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

template <int D>
Cover<D>::Cover(const Level<D>& level, const PlacedBody<D>& touching, const Contact<D>& contact, double doubt)
    : level_(level), contact_(contact), doubt_(doubt) {
    const HullView<D> piece = level.piece(contact.piece);
    none_ = level.solids()[level.solid_of(contact.piece)].piece_count == 1 || piece.radius > 0.0 ||
            (doubt == 0.0 && with_side_of_facet<D>(piece, contact.normal));
    if (none_) return;
    if (doubt > 0.0) turned_ = doubt / touching.shape.radius;
    slack_ = slack_of<D>(touching, level);
    middle_ = middle_of_contact<D>(piece, touching, contact, slack_);
    box_ = Bounds<D>{middle_, middle_}.inflated(slack_ + doubt_);
}

/// A corner or edge between flush neighbours is met at a normal that no surface there has: the neighbour
/// rises above the plane across it. A side that another piece lies against is none: that piece rises above
/// it.
template <int D>
bool Cover<D>::covers(std::uint32_t other) const {
    constexpr double rises = 1e-6;  // radians
    if (other == contact_.piece || level_.solid_of(other) != level_.solid_of(contact_.piece)) return false;
    const HullView<D> hull = level_.piece(other);
    if (hull.radius > 0.0) return false;
    const bool above = std::any_of(hull.points.begin(), hull.points.end(), [&](const Vec<D>& p) {
        const Vec<D> way = p - middle_;
        const double height = contact_.normal.dot(way);
        return height > slack_ - doubt_ - turned_ * way.norm() &&
               height > (rises - turned_) * way.norm() - doubt_;
    });
    if (!above) return false;
    if (hull.points.size() == D) {
        // A facet: most that lie near go on from the very edge that is touched.
        for (std::size_t i = 0; i < D; ++i) {
            if (apart<D>(middle_, hull.points[i], hull.points[(i + 1) % D]) <= slack_ + doubt_) return true;
        }
    }
    const Vec<D> origin = Vec<D>::zero();
    const HullTopology none;
    const HullView<D> dot{{&origin, 1}, 0.0, {}, &none};
    return separation<D>(dot, middle_, hull).gap <= slack_ + doubt_;
}

template <int D>
bool on_surface(const Level<D>& level, const PlacedBody<D>& touching, const Contact<D>& contact,
                double doubt) {
    const Cover<D> cover(level, touching, contact, doubt);
    if (cover.is_none()) return true;
    bool covered = false;
    level.tree().overlapping(cover.box(), touching.meets, [&](std::uint32_t other) -> bool {
        covered = cover.covers(other);
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

template class Cover<2>;
template class Cover<3>;
template bool on_surface<2>(const Level<2>&, const PlacedBody<2>&, const Contact<2>&, double);
template bool on_surface<3>(const Level<3>&, const PlacedBody<3>&, const Contact<3>&, double);
template Vec<2> highest_of_contact<2>(const Level<2>&, const PlacedBody<2>&, const Contact<2>&,
                                      std::vector<std::uint32_t>*);
template Vec<3> highest_of_contact<3>(const Level<3>&, const PlacedBody<3>&, const Contact<3>&,
                                      std::vector<std::uint32_t>*);
template Vec<2> foremost_of_contact<2>(const Level<2>&, const PlacedBody<2>&, const Contact<2>&,
                                       const Vec<2>&);
template Vec<3> foremost_of_contact<3>(const Level<3>&, const PlacedBody<3>&, const Contact<3>&,
                                       const Vec<3>&);

}  // namespace hollow_probe
