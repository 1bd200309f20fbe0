// Causes: what single change of a rig flips a wrong verdict.
#pragma once

#include "verify/samples.hpp"

namespace hollow_probe {

/// The one thing a cause changes.
enum class Change : std::uint8_t {
    none,
    reach,         // to `amount`
    from,          // moved by `shift` (body coordinates)
    sees_more,     // layer `detail` added
    sees_less,     // layer `detail` removed
    accept_most,   // to `amount` degrees
    accept_least,  // to `amount` degrees
    take_all,
    inside_other,  // if_inside: report and ignore swapped
    start_back,    // start moved back along the line by `amount`, the end kept
    role_both,     // of solid `detail`, and all of its role on its layer: met by probes and body alike
    role_none,     // … met by neither
    narrower,      // the shape narrower by `amount` on each side
    drop_member,   // member `detail` (a probe) taken out of the signal's groups
    count,         // at_least.count to `detail`
    any_for_all,   // the `all` group asked as `any`
    all_for_any,   // the `any` group asked as `all`
};

template <int D>
struct ProvenCause {
    CauseKind kind = CauseKind::unexplained;
    Change change = Change::none;
    int probe = -1;   // index; -1: the signal
    int detail = -1;  // layer or member
    double amount = 0.0;
    Vec<D> shift = Vec<D>::Zero();
    double by = 0.0;    // how far off, in level units or degrees
    double rank = 0.0;  // the less, the likelier the cause meant
};

/// Every single change found to flip the verdict of `signal` at `pose`, likeliest first; never empty: the
/// last resort is `unexplained`.
template <int D>
std::vector<ProvenCause<D>> prove_causes(const Surveyed<D>& surveyed, const SurveyPose<D>& pose,
                                         std::size_t signal);

/// A cause's change applied to the rig, ready to be tried at many poses.
template <int D>
class Trial {
  public:
    Trial(const Surveyed<D>& surveyed, const ProvenCause<D>& cause, std::size_t signal);

    /// Whether the signal is on at the pose with the change made.
    [[nodiscard]] bool signal_on(const SurveyPose<D>& pose) const;

  private:
    const Surveyed<D>& surveyed_;
    ProvenCause<D> cause_;
    std::size_t signal_;
    std::vector<MountedProbe<D>> probes_;  // the changed probe, by facing
    std::vector<MountedSignal> signals_;   // the changed signal, by facing
};

/// The probe mounted with a cause's change made.
template <int D>
MountedProbe<D> mount_changed(const Probe<D>& probe, const ProvenCause<D>& cause, const Level<D>& level,
                              const Vec<D>& heading);

/// The probe with a cause's change made; the same probe when the change is not one to a probe.
template <int D>
Probe<D> changed(const Probe<D>& probe, const ProvenCause<D>& cause, const Level<D>& level);

}  // namespace hollow_probe
