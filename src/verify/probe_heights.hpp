// Where something may change for the probes of a facing, column by column, found once for each probe and
// kept.
#pragma once

#include "verify/truth_column.hpp"

namespace hollow_probe {

/// What was found for a probe serves every rig that has it in a facing with the same truths. Safe from any
/// number of threads.
template <int D>
class ProbeHeights {
  public:
    ProbeHeights(const Planned<D>& planned, std::size_t facing, Feelers<D> of_probes, Finds finds);

    /// What all probes feel; see heights_of_probes(). `taken` are the truths' own.
    [[nodiscard]] FeltHeights at(const Place<D>& place, const HeightSpan& within,
                                 const std::vector<HeightSpan>& taken) const;

  private:
    void take_kept(const ProbesFelt& felt, std::vector<bool>& wanted, FeltHeights& all) const;

    const Planned<D>& s_;
    std::size_t facing_;
    Feelers<D> feelers_;
    Finds finds_;
    std::vector<std::optional<double>> numbers_;  // by probe: under which it is kept; none: it feels nothing
};

extern template class ProbeHeights<2>;
extern template class ProbeHeights<3>;

}  // namespace hollow_probe
