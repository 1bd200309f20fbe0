// Probes that may say another thing where they are stopped by another piece, though they touch nothing new
// there.
#pragma once

#include "verify/planned.hpp"

namespace hollow_probe {

/// Of one facing: those that others follow, or that follow others; those that judge what stops them first,
/// aside from up; and zones and shifts that judge what they overlap deepest. Where two pieces run into each
/// other no corner of either tells.
template <int D>
class Tellers {
  public:
    Tellers(const Planned<D>& planned, std::size_t facing);

    [[nodiscard]] bool any() const { return !probes_.empty(); }
    /// Into how many parts to cut heights of a body so tall: where one probe stops another begins, and no
    /// height of the level tells where that is.
    [[nodiscard]] int parts_of(double length, double tall) const;
    /// Tells apart the pieces, and the sides of them, at which they were stopped.
    [[nodiscard]] std::uint64_t met(std::span<const Reading<D>> readings) const;

  private:
    Vec<D> up_;
    bool follow_ = false;  // some follow others
    std::vector<std::size_t> probes_;
};

extern template class Tellers<2>;
extern template class Tellers<3>;

}  // namespace hollow_probe
