// The rig of one facing with a cause's changes made, ready to be tried at many poses of that facing.
#pragma once

#include "verify/hearing.hpp"
#include "verify/proven_cause.hpp"

namespace hollow_probe {

template <int D>
class Alternative {
  public:
    Alternative(const Planned<D>& planned, std::size_t facing, const ProvenCause<D>& cause);

    /// How many mounted probes it holds.
    [[nodiscard]] std::size_t probe_count() const {
        return probes_.size() + (rig_ ? rig_->probes.size() : 0);
    }

    /// Takes another amount of the change that it was made with, as if made anew; false, and nothing is
    /// done, where that would not be quicker.
    [[nodiscard]] bool takes(const ProvenCause<D>& cause);

    /// Makes it quicker to ask at many poses.
    void prepare();

    /// The signals that are on at a pose of the facing.
    [[nodiscard]] SignalSet signals_on(const SurveyPose<D>& pose) const;
    [[nodiscard]] SignalSet signals_on(const SurveyPose<D>& pose, const Way<D>& way) const;
    /// The reading of the changed probe; of no meaning where the change is to none.
    [[nodiscard]] Reading<D> reading(const SurveyPose<D>& pose) const;

    /// Whether another one, with the same change made at a facing that is alike, says the same at every
    /// anchor.
    [[nodiscard]] bool is_alike(const Alternative& other) const;

  private:
    void apply(const Change<D>& change);
    void apply_to_probe(const Change<D>& change, std::size_t index);
    [[nodiscard]] const MountedProbe<D>& changed_or_surveyed(std::size_t index) const;
    void put(std::size_t index, MountedProbe<D> probe);
    void mount_changed();
    Reading<D> read(const MountedProbe<D>& probe, const SurveyPose<D>& pose, Wanted wanted) const;
    /// Whether more is asked than what the changed probes read at the pose.
    [[nodiscard]] bool hangs_on_way() const;

    const Planned<D>& planned_;
    std::size_t facing_;
    bool moves_a_start_;                                           // and does nothing else
    std::optional<Rig<D>> changed_;                                // where more than probes are changed
    std::vector<std::pair<std::size_t, MountedProbe<D>>> probes_;  // changed
    bool reads_anew_ = false;  // what all probes read, or what it is held to
    // Where more than probes are changed, the rig remembers, or it was prepared.
    std::optional<MountedRig<D>> rig_;
};

}  // namespace hollow_probe
