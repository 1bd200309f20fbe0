// Which pieces of a solid cover a contact with another of its pieces.
#pragma once

#include "hollow_probe/truth/contact.hpp"

namespace hollow_probe {

/// on_surface(), where the pieces around the contact are at hand: it is on the surface if none of its solid
/// covers it. Level and contact must outlive it.
template <int D>
class Cover {
  public:
    /// With a `doubt` what a contact in one point, shifted by up to that, could be covered by covers it.
    Cover(const Level<D>& level, const PlacedBody<D>& touching, const Contact<D>& contact,
          double doubt = 0.0);

    /// Nothing can cover it.
    [[nodiscard]] bool is_none() const { return none_; }
    /// Only pieces of the same solid that reach into this can.
    [[nodiscard]] const Bounds<D>& box() const { return box_; }
    [[nodiscard]] bool covers(std::uint32_t other) const;

  private:
    const Level<D>& level_;
    const Contact<D>& contact_;
    double doubt_;
    double turned_ = 0.0;  // radians: how far the normal of a contact so shifted may be turned
    double slack_ = 0.0;
    bool none_ = true;
    Vec<D> middle_ = Vec<D>::zero();
    Bounds<D> box_;
};

extern template class Cover<2>;
extern template class Cover<3>;

}  // namespace hollow_probe
