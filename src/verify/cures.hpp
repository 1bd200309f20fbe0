// Cures tried over a whole survey: what else a change does.
#pragma once

#include <map>

#include "verify/changes.hpp"
#include "verify/samples.hpp"

namespace hollow_probe {

template <int D>
class Cures {
  public:
    /// `expected` is about how many changes will be tried: the more there are, the fewer poses each is tried
    /// at, so that a level full of faults does not take forever. No fewer than 20,000 and those it is about.
    Cures(const Surveyed<D>& surveyed, const Samples<D>& samples, std::size_t expected);

    /// Counts into `report` what the change cures and spoils; `mine` marks the poses of the finding.
    void attempt(const ProvenCause<D>& cause, std::size_t signal, const std::vector<bool>& mine,
                 CauseReport& report);

  private:
    /// By pose: how far a probe has to reach to be on; infinity where no reach does it.
    const std::vector<double>& reaches(std::size_t probe, double reach);
    [[nodiscard]] bool is_of_reach_alone(const ProvenCause<D>& cause) const;

    const Surveyed<D>& s_;
    const Samples<D>& samples_;
    std::size_t step_;                             // a change is tried at every so many poses
    std::vector<typename Surveyed<D>::Way> ways_;  // to those poses, for rigs that remember
    std::map<std::size_t, std::pair<double, std::vector<double>>> reaches_;
};

}  // namespace hollow_probe
