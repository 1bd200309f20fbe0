// The insides of closed meshes that stop the body: hollow, but no place to be unless somebody starts there.
// What it can get into, one-way or not for it to meet, is surveyed as all else is.
#pragma once

#include <string>

#include "verify/turning_heights.hpp"

namespace hollow_probe {

/// Of one level, at one time; cheap where it has no mesh.
template <int D>
class Enclosed {
  public:
    Enclosed() = default;  // nothing is closed
    explicit Enclosed(const Level<D>& level);

    /// Solids inside of which a body that meets these layers is not surveyed, and those inside of which a
    /// start lies. `level`: the one that this is of, or its like.
    [[nodiscard]] std::vector<std::uint32_t> left_out(const Level<D>& level, LayerSet meets) const;
    [[nodiscard]] std::vector<std::uint32_t> entered(const Level<D>& level, LayerSet meets) const;

    /// What is odd about the level's meshes, in a few words a solid.
    [[nodiscard]] const std::vector<std::string>& odd() const { return odd_; }

    /// The heights of a column at which a point of it is inside of what is left out: apart, ascending.
    [[nodiscard]] std::vector<HeightSpan> inside(const Level<D>& level, LayerSet meets,
                                                 const Vec<D>& foot) const;

  private:
    std::vector<std::uint32_t> left_out_;
    std::vector<std::uint32_t> entered_;
    std::vector<std::string> odd_;
};

extern template class Enclosed<2>;
extern template class Enclosed<3>;

}  // namespace hollow_probe
