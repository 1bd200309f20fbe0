// What a body comes to touch: the root of all truths. Works from the distance function alone, never from the
// casts that probes use, so that one bug cannot hide in both.
#pragma once

#include <optional>
#include <vector>

#include "hollow_probe/level/level.hpp"

namespace hollow_probe {

/// A rounded hull in level orientation with its anchor at `anchor`, and the layers that stop it.
template <int D>
struct PlacedBody {
    HullView<D> shape;
    Vec<D> anchor = Vec<D>::zero();
    LayerSet meets = 0;
    LayerSet of = all_layers;  // truths are asked of pieces on these layers alone
    bool front_faces = false;  // the back faces of meshes and polylines do not stop it

    /// The same body elsewhere, asked of everything it meets.
    [[nodiscard]] PlacedBody moved(const Vec<D>& by) const {
        return {shape, anchor + by, meets, all_layers, front_faces};
    }
};

/// A piece that the body touches, or comes to touch when moved.
template <int D>
struct Contact {
    std::uint32_t piece = 0;
    double gap = 0.0;                // distance travelled until touch; negative: overlap depth at the start
    Vec<D> normal = Vec<D>::zero();  // from the piece to the body at the moment of touch
    Vec<D> point = Vec<D>::zero();   // on the piece
};

/// Lengths and angles this close to a limit are rounding, not measurements.
struct Noise {
    double distance = 0.0;
    double degrees = 1e-6;
};

/// The noise to expect of a body of this size among coordinates as large as the level's.
template <int D>
Noise noise_of(const HullView<D>& body, const Level<D>& level);

/// When a body moved along unit `direction` comes to touch pieces. A piece counts if it is touched within
/// `reach` (inclusive) and the movement approaches it (normal·direction < -1e-6). One overlapped by no more
/// than `touch` at the start counts, with its negative gap and present normal; one overlapped deeper does
/// not. What is touched exactly, or overlapped by rounding alone, has the normal seen from a hair before: a
/// surface without thickness has two sides. The gap of convex shapes is a convex function of the distance
/// moved, so Newton's method from outside climbs to the root monotonically and never steps past it; it ends
/// by count, too. The body's shape and the level must outlive it.
template <int D>
class Advance {
  public:
    Advance(const PlacedBody<D>& body, const Vec<D>& direction, double reach, double touch,
            const Level<D>& level);

    [[nodiscard]] std::optional<Contact<D>> to(std::uint32_t piece);
    /// … of solids: a one-way solid that the body is inside of does not count, and neither do sides and edges
    /// of pieces that are no surface of their solid.
    [[nodiscard]] std::optional<Contact<D>> to_surface(std::uint32_t piece);

    /// Whether the body clips one of the pieces asked about: see clip().
    [[nodiscard]] bool clips() const { return clips_; }

  private:
    [[nodiscard]] bool counts(std::uint32_t piece, const Vec<D>& normal) const;

    PlacedBody<D> body_;
    Vec<D> direction_;
    double reach_;
    double touch_;
    const Level<D>& level_;
    HullView<D> front_;
    double slack_;
    bool clips_ = false;
};

/// Advance::to() of one piece.
template <int D>
std::optional<Contact<D>> approach(const PlacedBody<D>& body, const Vec<D>& direction, double reach,
                                   double touch, const Level<D>& level, std::uint32_t piece) {
    return Advance<D>(body, direction, reach, touch, level).to(piece);
}

/// How deep a body is in a piece where it is deepest in it, moved along unit `direction` by `from` to `to`;
/// negative if it stays clear. The overlap of convex shapes along a line is a concave function of the way:
/// golden section finds its greatest value within 1e-9 of the way.
template <int D>
double deepest_overlap(const Level<D>& level, const PlacedBody<D>& body, const Vec<D>& direction, double from,
                       double to, std::uint32_t piece);

/// Whether a contact is one with the surface of its solid, the body standing where it touches: not with a
/// side or an edge of a piece that another piece of the same solid covers or goes on from. With a `doubt`:
/// whether that is so, too, however a contact in one point is shifted by up to as much.
template <int D>
bool on_surface(const Level<D>& level, const PlacedBody<D>& touching, const Contact<D>& contact,
                double doubt = 0.0);

/// The highest point of the surface that the body touches there, as far as the body is wide: its piece's side
/// or edge at the contact, and those of pieces of the same solid that go on flush from it, which are added to
/// `flush`. Of a contact in one point that point.
template <int D>
Vec<D> highest_of_contact(const Level<D>& level, const PlacedBody<D>& touching, const Contact<D>& contact,
                          std::vector<std::uint32_t>* flush = nullptr);

/// The point farthest along `direction` of what body and piece touch each other with.
template <int D>
Vec<D> foremost_of_contact(const Level<D>& level, const PlacedBody<D>& touching, const Contact<D>& contact,
                           const Vec<D>& direction);

/// Whether the body overlaps the one-way solid of a piece deeper than `touch`, in whichever of its pieces.
template <int D>
bool inside_solid(const Level<D>& level, const PlacedBody<D>& body, std::uint32_t piece, double touch);

/// Calls visit(contact) for what is approached within `reach`: K(direction, reach) of the truth definitions.
/// Returns whether the body clips anything where it is: see clip().
template <int D, class Visit>
bool for_each_contact(const Level<D>& level, const PlacedBody<D>& body, const Vec<D>& direction, double reach,
                      double touch, Visit visit) {
    Sweep<D> sweep = sweep_of<D>(body.shape, body.anchor, direction, reach);
    sweep.radius += noise_of(body.shape, level).distance;
    sweep.layers = body.meets;
    Advance<D> advance(body, direction, reach, touch, level);
    level.tree().along(sweep, [&](std::uint32_t piece, double limit) {
        if (const auto contact = advance.to_surface(piece)) visit(*contact);
        return limit;
    });
    return advance.clips();
}

extern template class Advance<2>;
extern template class Advance<3>;

}  // namespace hollow_probe
