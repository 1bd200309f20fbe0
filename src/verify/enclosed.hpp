// The insides of closed meshes: hollow, but no place to be unless somebody starts there.
#pragma once

#include "verify/turning_heights.hpp"

namespace hollow_probe {

/// Of one level; cheap where it has no closed mesh.
template <int D>
class Enclosed {
  public:
    explicit Enclosed(const Level<D>& level);

    /// Solids inside of which nothing is surveyed, and those inside of which a start lies.
    [[nodiscard]] const std::vector<std::uint32_t>& left_out() const { return left_out_; }
    [[nodiscard]] const std::vector<std::uint32_t>& entered() const { return entered_; }

    /// What is odd about the level's meshes, in a few words a solid.
    [[nodiscard]] const std::vector<std::string>& odd() const { return odd_; }

    /// The heights of a column at which a point of it is inside of what is left out: apart, ascending.
    [[nodiscard]] std::vector<HeightSpan> inside(const Vec<D>& foot) const;

  private:
    [[nodiscard]] std::vector<HeightSpan> inside(std::uint32_t solid, const Vec<D>& foot) const;

    const Level<D>& level_;
    std::vector<std::uint32_t> left_out_;
    std::vector<std::uint32_t> entered_;
    std::vector<std::string> odd_;
};

extern template class Enclosed<2>;
extern template class Enclosed<3>;

}  // namespace hollow_probe
